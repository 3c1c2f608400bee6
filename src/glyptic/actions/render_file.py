"""Render a stack file, with nothing but the file and the pictures beside it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from glyptic.actions.file_pictures import FilePictures
from glyptic.base.errors import DocumentError, Fault, PictureError
from glyptic.base.rectangles import Rect
from glyptic.document.codec import read_stack
from glyptic.document.proof_list import PROOFS_FILE, named, read_proofs
from glyptic.document.values import Stack
from glyptic.engine.gate import every_source, unfit_as_mask
from glyptic.engine.plan import AT_REST, make_plan, until
from glyptic.engine.render import Progress, Rendering, cache_for
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats import DEFAULT_LIMIT, Decoded
from glyptic.formats.as_it_came import as_it_came
from glyptic.formats.decoded import Metadata
from glyptic.formats.room import let_go
from glyptic.formats.sheet import Samples, Sheet
from glyptic.formats.wish import Wish
from glyptic.formats.writing import FORMATS, Output, write_picture

BANDS_BETWEEN = 2


@dataclass(frozen=True)
class Opened:
    """A stack file with its pictures."""

    stack: Stack
    pictures: FilePictures
    origin: Path
    """The file that was opened: what it refers to lies beside it."""

    @property
    def base(self) -> Decoded:
        return self.pictures.decoded(*self.stack.base.picture)


def open_stack_file(path: Path, limit: int = DEFAULT_LIMIT) -> Opened:
    """Read a stack file and every picture it names; raises DocumentError with every fault."""
    origin = path
    if path.exists() and not path.is_file():
        raise DocumentError([Fault("", f"{path} is no file")])
    try:
        text = path.read_bytes()
    except OSError as error:
        raise DocumentError([Fault("", f"{path} cannot be read: {error.strerror}")]) from error
    stack = read_stack(text, VOCABULARY)
    folder = path.parent.resolve()
    pictures = FilePictures(stack.working_space, lambda source: path_below(folder, source), limit)
    faults: list[Fault] = []
    base = None
    for field, source, as_mask, asked in every_source(stack):
        try:
            picture = pictures(*asked)
        except PictureError as error:
            faults.append(Fault(field, f"{source}: {error}"))
            continue
        base = base or picture
        wrong = unfit_as_mask(picture, field, stack, base) if as_mask else ""
        if wrong:
            faults.append(Fault(field, f"{source}: {wrong}"))
    if faults:
        raise DocumentError(faults)
    return Opened(stack, pictures, origin)


def came_in(opened: Opened) -> Came:
    """The file that the base of an opened stack came in."""
    stack = opened.stack
    path = (
        path_below(opened.origin.parent.resolve(), stack.base.source)
        if opened.origin.suffix == ".json"
        else opened.origin
    )
    return Came(path, Wish.of(stack.working_space, stack.base.reading))


def proof_beside(stack: Path, name: str) -> Path:
    """The stack file of a proof, from the list of proofs beside a stack file; raises DocumentError."""
    listed = stack.parent / PROOFS_FILE
    try:
        text = listed.read_bytes()
    except OSError as error:
        raise DocumentError([Fault("proof", f"there is no {PROOFS_FILE} beside {stack.name}")]) from error
    return stack.parent / str(named(read_proofs(text), name)["stack"])


def path_below(folder: Path, source: str) -> Path:
    """The path of a source, which lies below a folder and can be read; raises PictureError."""
    path = (folder / source).resolve()
    if not path.is_relative_to(folder):
        raise PictureError("lies outside the stack file's folder.")
    if path.exists() and not path.is_file():
        raise PictureError("is no file.")
    try:
        path.open("rb").close()
    except OSError as error:
        raise PictureError(f"cannot be read ({error.strerror}).") from error
    return path


def rendering(
    opened: Opened,
    level: int = 0,
    region: Rect | None = None,
    depth: int = 8,
    last: str | None = None,
    with_frame: bool = True,
) -> Rendering:
    """What an opened stack is rendered by; `last` is the id of the layer to stop at, inclusive."""
    stack = until(opened.stack, last) if last is not None else opened.stack
    stack = stack if with_frame else replace(stack, frame=None)
    plan = make_plan(stack, opened.pictures, finer=AT_REST)
    return Rendering(plan, cache_for(plan, level=level), level, region, depth)


@dataclass(frozen=True)
class Came:
    """The file a base came in, and how it was read."""

    path: Path
    wish: Wish


def write_rendering(
    path: Path,
    wanted: Rendering,
    output: Output,
    metadata: Metadata,
    progress: Progress = lambda share: None,
    dpi: int = 0,
    source: Came | None = None,
) -> None:
    """Render to a picture file band by band, so that the whole is never held. source: the file the base came in, whose
    own codes stand where nothing was done to it, if it is written in its own profile."""
    plan = wanted.plan
    with_alpha = plan.picture.alpha is not None and FORMATS[output.format].has_alpha
    target = output.target_from(plan.space)
    codes = target.codes_from(plan.space)
    if source is not None and plan.frame is None and wanted.level == 0:
        codes = as_it_came(codes, plan.picture, source.path, source.wish, target.profile, output.depth)
    coded = replace(wanted, codes=codes, channels=target.channels)
    channels = target.channels + with_alpha
    sheet = Sheet(wanted.rect.w, wanted.rect.h, channels, output.depth, target.profile, target.model, dpi)
    bands = coded.samples(with_alpha, progress, output.ground)
    write_picture(path, sheet, _letting_go(coded, bands), output, metadata)


def _letting_go(wanted: Rendering, bands: Iterator[Samples]) -> Iterator[Samples]:
    """The bands; a base that lies on disk gives its memory back now and then."""
    for number, band in enumerate(bands):
        yield band
        if number % BANDS_BETWEEN == 0:
            let_go(wanted.plan.picture.colour.full)
