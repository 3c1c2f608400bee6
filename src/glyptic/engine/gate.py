"""What a state must be before it is kept, or drawn: every source there and fitting, the plan and its keys made."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

from glyptic.base.errors import DocumentError, Fault, GlypticError
from glyptic.document.runs import runs
from glyptic.document.values import Layer, Stack
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import Plan
from glyptic.engine.reader import Reader
from glyptic.masks import PARTS
from glyptic.masks.part import Pictured
from glyptic.params import Values
from glyptic.params.geometry import too_far
from glyptic.pixels.pyramid import Picture


class Referred(NamedTuple):
    """Something a stack refers to. as_mask: whether it must be a grey picture of the base's size; picture: what it is
    asked for by."""

    field: str
    source: str
    as_mask: bool
    picture: tuple[str] | tuple[str, Values]


def sources_in(layers: tuple[Layer, ...], at: str = "layers") -> Iterator[Referred]:
    """Everything that layers refer to."""
    for i, layer in enumerate(layers):
        where = f"{at}[{i}]"
        if layer.source:
            yield Referred(f"{where}.source", layer.source, False, layer.picture)
        for j, part in enumerate(layer.mask.parts if layer.mask else ()):
            if isinstance(PARTS[part.kind], Pictured):
                source = part.settings["source"]
                yield Referred(f"{where}.mask.parts[{j}].source", source, True, (source,))
        yield from sources_in(layer.layers, f"{where}.layers")


def every_source(stack: Stack) -> Iterator[Referred]:
    """As `sources_in`, of a whole stack."""
    yield from sources_in(stack.layers)
    yield from sources_in(stack.sheet_layers, "frame.layers")


def unfit_as_mask(picture: Picture, field: str, stack: Stack, base: Picture) -> str:
    """Why a picture cannot be a part of a mask at a place of the stack, or ''."""
    on_sheet = stack.frame is not None and field.startswith("frame.")
    width, height = stack.frame.sheet if stack.frame is not None and on_sheet else (base.width, base.height)
    if (picture.width, picture.height) != (width, height):
        of = "the sheet" if on_sheet else "the base"
        return f"must measure {width} × {height} as {of} does, not {picture.width} × {picture.height}"
    return "" if picture.is_grey else "must be a grey picture"


def check_sources(stack: Stack, picture_of: Callable[..., Picture]) -> None:
    """Raises DocumentError with a fault for each source that is not there or does not fit."""
    faults: list[Fault] = []
    base = None
    for field, _, as_mask, asked in every_source(stack):
        try:
            picture = picture_of(*asked)
        except GlypticError as error:
            faults.append(Fault(field, str(error)))
            continue
        base = base or picture
        wrong = unfit_as_mask(picture, field, stack, base) if as_mask else ""
        if wrong:
            faults.append(Fault(field, wrong))
    if faults:
        raise DocumentError(faults)


def check_reach(stack: Stack) -> None:
    """Raises DocumentError where a stroke reaches further than any may: one that an early release kept."""
    for layer in stack.walk():
        paintings = [layer.strokes, *(part.strokes for part in (layer.mask.parts if layer.mask else ()))]
        farthest = max((run.farthest for painting in paintings for run in runs(painting)), default=0.0)
        if too_far(farthest):
            raise DocumentError([Fault("strokes", f"of ‘{layer.name}’ {too_far(farthest)}")])


def check_keys(plan: Plan) -> None:
    """Make the keys of the smallest level, which everything goes into: whatever cannot be laid out shows itself."""
    plan.reader(TileCache(), plan.outer.deepest).key(plan.finished, 0, 0)
    for layer, mask in plan.masks.items():
        plan.reader_of(layer, TileCache(), plan.canvas_of(layer).deepest).key(mask, 0, 0)
    for canvas, painted in plan.every_painting:
        reader = Reader(TileCache(), canvas, canvas.deepest)
        for node in painted:
            reader.key(node, 0, 0)
