"""The work sheet: the account of a plate for a client or a colleague, in pictures, words and numbers."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from glyptic.actions.checking import Told, check_all, subject_of
from glyptic.actions.comparing import Apart, apart
from glyptic.actions.looking import Looking
from glyptic.actions.measure import thumbnail_key
from glyptic.actions.pins import Reading, read_pins
from glyptic.actions.proofs import Pulled, plain_list
from glyptic.actions.tiles import plan_seen, reading, small_picture
from glyptic.actions.workshop import Current, Workshop
from glyptic.adjust import KINDS
from glyptic.analysis.effect import effect, sentence
from glyptic.base.rectangles import Rect
from glyptic.document.differing import differences
from glyptic.document.edits.notes import pin_name
from glyptic.document.framing import Crop
from glyptic.document.values import Layer, Mask, Stack
from glyptic.engine.render import Rendering
from glyptic.formats.jpeg import encode_small
from glyptic.formats.printed import GAP, MARGIN, Page, Shown

SIDE, QUALITY = 1400, 90
MASK_WIDTH, MASK_HEIGHT = 24.0, 16.0
"""Of a mask's small picture on the PDF, in millimetres."""


@dataclass(frozen=True)
class Row:
    """A layer in its own sentence. deep: in how many groups it lies; mask: a small picture of it, or None."""

    name: str
    says: str
    how: str
    deep: int
    is_on: bool
    mask: bytes | None


@dataclass(frozen=True)
class PinRow:
    """A pin and what it reads; None outside what comes out."""

    name: str
    reading: Reading | None

    @property
    def says(self) -> str:
        read = self.reading
        if read is None:
            return "outside the frame"
        numbers = f"tone {read.tone_before * 100:.0f} % before, {read.tone * 100:.0f} % now"
        codes = f"RGB {' '.join(map(str, read.codes_before))} before, {' '.join(map(str, read.codes))} now"
        cast = f"; cast {read.cast_before} before, {read.cast} now" if read.cast else ""
        return f"{numbers}; {codes}{cast}"


@dataclass(frozen=True)
class WorkSheet:
    """What stands on a work sheet. before, finished, change: JPEGs. proof: the newest, where it is what is shown."""

    title: str
    says: str
    before: bytes
    finished: bytes
    change: bytes
    apart: Apart
    rows: list[Row]
    pins: list[PinRow]
    standing: list[Told]
    left: list[Told]
    proof: Pulled | None


def work_sheet(workshop: Workshop, plate_id: int) -> WorkSheet:
    """The account of a plate as it is now. Takes as long as its checks do, a few seconds."""
    current = workshop.current(plate_id)
    stack = current.stack
    checks = check_all(workshop, current)
    bare = Stack((stack.base,), frame=stack.frame)
    before, finished, change = (_picture(workshop, stack, view) for view in ("before", "finished", "change"))
    read = read_pins(workshop, stack)
    pins = [PinRow(pin_name(pin, i), found) for i, (pin, found) in enumerate(zip(stack.notes.pins, read, strict=True))]
    return WorkSheet(
        current.name, _says(workshop, current), before, finished, change, apart(workshop, stack, bare),
        list(_rows(workshop, current)), pins, checks.open, checks.left, _proof_shown(workshop, plate_id, stack),
    )  # fmt: skip


def _proof_shown(workshop: Workshop, plate_id: int, stack: Stack) -> Pulled | None:
    """The newest proof, where it is what the plate is now."""
    for proof in plain_list(workshop, plate_id)[:1]:
        if not differences(workshop.stack(proof.root), stack):
            return proof
    return None


def _says(workshop: Workshop, current: Current) -> str:
    """What the picture is, in a line."""
    picture = workshop.base_of(current.stack)
    count = sum(1 for _ in current.stack.walk()) - 1
    words = f"{picture.width} × {picture.height} px, {count} layer{'' if count == 1 else 's'}"
    frame = current.stack.frame
    if frame is None or not frame.enabled:
        return words
    turn = Crop(frame.corners, frame.size).turn
    turned = f", turned by {turn:.2f}°" if abs(turn) >= 0.005 else ""
    return f"{words}; framed to {frame.sheet[0]} × {frame.sheet[1]} px{turned}"


def _picture(workshop: Workshop, stack: Stack, view: str) -> bytes:
    """A view of the whole picture as a JPEG."""
    outer = workshop.plan(stack).outer
    looking = Looking(view, stack.base.id, outer.level_within(SIDE), Rect(0, 0, 1, 1), working=False)
    plan = plan_seen(workshop, stack, looking)
    _, node = reading(workshop, plan, looking)
    return encode_small(Rendering(plan, workshop.tiles, looking.level, node=node).whole().colour, QUALITY)


def _rows(workshop: Workshop, current: Current) -> Iterator[Row]:
    states = subject_of(workshop, current).states

    def through(layers: tuple[Layer, ...], deep: int) -> Iterator[Row]:
        for layer in layers:
            state = states.get(layer.id)
            says = "Off." if not layer.visible else "Changes nothing yet."
            if state is not None and state.changes:
                says = sentence(effect(state.below, state.above, state.space))
            yield Row(layer.name, says, _how(layer), deep, layer.visible, _mask(workshop, current.stack, layer))
            yield from through(layer.layers, deep + 1)

    yield from through(current.stack.layers[1:], 0)
    yield from through(current.stack.sheet_layers, 0)


def _how(layer: Layer) -> str:
    kind = KINDS[layer.kind]
    words = [kind.title.lower(), f"opacity {layer.opacity * 100:.0f} %"]
    if layer.blend != kind.default_blend:
        words.append(layer.blend.replace("-", " "))
    return ", ".join([*words, *_mask_words(layer.mask)])


def _mask_words(mask: Mask | None) -> list[str]:
    if mask is None:
        return []
    parts = len(mask.parts)
    return [f"mask {'off' if not mask.enabled else f'of {parts} part' + ('' if parts == 1 else 's')}"]


def _mask(workshop: Workshop, stack: Stack, layer: Layer) -> bytes | None:
    """A small picture of a layer's mask, or of its painting."""
    if layer.mask is None and KINDS[layer.kind].carries != "strokes":
        return None
    if layer.id not in workshop.plan(stack).below:
        return None  # it lies over the sheet of a frame that is off
    view = "mask-alone" if layer.mask is not None else "grey-alone"
    return small_picture(workshop, thumbnail_key(workshop, stack, view, layer.id))


def as_pdf(sheet: WorkSheet) -> bytes:
    """The work sheet as a PDF of A4 pages."""
    page = Page(f"{sheet.title}: work sheet")
    page.text(sheet.title, 17, bold=True)
    page.text(sheet.says, quiet=True)
    if sheet.proof is not None:
        note = f": {sheet.proof.note}" if sheet.proof.note else ""
        page.text(f"Proof ‘{sheet.proof.name}’{note}")
    page.space(3)
    page.row([Shown(sheet.before, "Before"), Shown(sheet.finished, "Finished")], 2, 90)
    page.row([Shown(sheet.change, "What changed", (change_words(sheet.apart),))], 2, 90)
    page.heading("The layers, in the order light passes through them")
    for row in sheet.rows:
        _print_row(page, row)
    _print_lines(page, "Pins", [f"{pin.name}: {pin.says}" for pin in sheet.pins])
    _print_lines(page, "Checks that stand", [f"{one.check.title}: {one.finding.says}" for one in sheet.standing])
    left = [
        f"{one.check.title}: {one.finding.says} Left as it is{f': {one.why}' if one.why else ''}." for one in sheet.left
    ]
    _print_lines(page, "Left as they are", left)
    return page.content()


def change_words(found: Apart) -> str:
    """What the map of change says on the whole."""
    where = f", most {found.where} ({found.most:.1f})" if found.where else ""
    return f"Amber lighter, blue darker, rose colour alone. ΔE2000 {found.mean:.1f} on average{where}."


def _print_row(page: Page, row: Row) -> None:
    indent = row.deep * 6.0
    beside = MASK_WIDTH + GAP if row.mask else 0.0
    width = page.width - indent - beside
    name = row.name if row.is_on else f"{row.name} (off)"
    height = (
        page.height_of(name, width, 10, True) + page.height_of(row.says, width) + page.height_of(row.how, width, 8.5)
    )
    page.room(max(height, MASK_HEIGHT if row.mask else 0) + 2)
    if row.mask:
        page.picture_at(MARGIN + indent, page.y + 1, row.mask, MASK_WIDTH, MASK_HEIGHT)
    x, y = MARGIN + indent + beside, page.y
    y = page.text_at(x, y, name, width, 10, bold=True, quiet=not row.is_on)
    y = page.text_at(x, y, row.says, width)
    y = page.text_at(x, y, row.how, width, 8.5, quiet=True)
    page.y = max(y, page.y + (MASK_HEIGHT + 1 if row.mask else 0)) + 2


def _print_lines(page: Page, title: str, lines: list[str]) -> None:
    if not lines:
        return
    page.heading(title)
    for line in lines:
        page.text(line)
        page.space(1)
