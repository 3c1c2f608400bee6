"""A kit made of layers of a stack."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from glyptic.base.errors import DocumentError, Fault
from glyptic.document.edits.whole_masks import own_copy
from glyptic.document.kits import FOUND_IN, HEAD, REGION, Kit
from glyptic.document.scaling import scaled_layer
from glyptic.document.sources import SOURCE
from glyptic.document.tree import layer_of
from glyptic.document.values import FRAME, Layer, Mask, Part, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Scale, Values

BACKDROP, PAINT, RASTER = "backdrop", "paint", "raster"


@dataclass(frozen=True)
class Keeping:
    """How a kit is kept. painting: with what was made by hand for that picture (strokes, scribbled regions, grey
    pictures in masks). over: with every layer over the sheet, and not only those that are chosen."""

    name: str
    note: str = ""
    painting: bool = True
    over: bool = False


def kit_of(
    stack: Stack, chosen: Iterable[str], picture: tuple[int, int], keeping: Keeping, vocabulary: Vocabulary
) -> Kit:
    """A kit of the chosen layers of a stack on a picture of a size, in their order; raises DocumentError with every
    fault. One chosen group that stands for no more than its layers is taken for these; what lies over the sheet is
    scaled to the picture, for a kit has one size."""
    ids = set(chosen)
    if FRAME in ids or keeping.over:
        ids |= {layer.id for layer in stack.sheet_layers}
    ids -= {stack.base.id, FRAME}
    rows = [_opened(tuple(_topmost(row, ids)), keeping.name) for row in (stack.layers, stack.sheet_layers)]
    inside = {layer.id for row in rows for layer in Stack(row).walk()}
    rows = [tuple(_own(layer, stack, inside) for layer in row) for row in rows]
    if not keeping.painting:
        rows = [tuple(_unpainted(layer) for layer in row) for row in rows]
    layers, over = (tuple(_to_be_found(layer) for layer in row) for row in rows)
    faults: list[Fault] = []
    head = HEAD.parse(
        {"name": keeping.name.strip(), "note": " ".join(keeping.note.split()), "size": list(picture)}, "", faults
    )
    if not layers and not over:
        faults.append(Fault("layers", "must hold some layers: choose cards first; the base and the frame are not kept"))
    if head is None or faults:
        raise DocumentError(faults)
    if over and stack.frame is not None:
        by = Scale(picture[0] / stack.frame.sheet[0], picture[1] / stack.frame.sheet[1])
        over = tuple(scaled_layer(layer, by, vocabulary) for layer in over)
    return Kit(head["name"], head["note"], picture, layers, over)


def _topmost(row: tuple[Layer, ...], ids: set[str]) -> Iterable[Layer]:
    """The chosen layers of a row, and of its groups that are not chosen themselves."""
    for layer in row:
        if layer.id in ids:
            yield layer
        else:
            yield from _topmost(layer.layers, ids)


def _opened(row: tuple[Layer, ...], name: str) -> tuple[Layer, ...]:
    """What is in a single group, where the group is no more than its layers; of one that is called as the kit, which
    therefore is that kit on a plate, the opacity is the strength it was added at."""
    if len(row) == 1 and row[0].layers:
        group = row[0]
        opacity = group.opacity if group.name == name.strip() else 1.0
        plain = Layer(group.id, group.kind, group.name, opacity=opacity, layers=group.layers, mark=group.mark)
        return group.layers if group == plain else row
    return row


def _own(layer: Layer, stack: Stack, inside: set[str]) -> Layer:
    """A layer whose masks are linked only to layers that go with it; raises DocumentError where that cannot be."""
    mask = layer.mask
    while mask is not None and mask.linked and mask.linked not in inside:
        other = layer_of(stack, mask.linked)
        mask = own_copy(mask, other.mask)
        if mask is None:
            words = f"takes its mask from ‘{other.name}’, which is not chosen; choose that too, or unlink the mask"
            raise DocumentError([Fault(layer.name, words)])
    return replace(layer, mask=mask, layers=tuple(_own(child, stack, inside) for child in layer.layers))


def _unpainted(layer: Layer) -> Layer:
    inner = tuple(_unpainted(child) for child in layer.layers)
    mask = _without_painting(layer.mask) if layer.mask is not None else None
    return replace(layer, mask=mask, strokes=(), layers=inner)


def _without_painting(mask: Mask) -> Mask | None:
    """A mask without what was made by hand; none at all where nothing else made it."""
    parts = tuple(part for part in mask.parts if not _by_hand(part))
    return None if not parts and not mask.linked else replace(mask, parts=parts)


def _by_hand(part: Part) -> bool:
    if part.kind == REGION:
        return not is_backdrop(part)
    return part.kind in (PAINT, RASTER)


def is_backdrop(part: Part) -> bool:
    """Whether a part is the likely backdrop, found."""
    return part.kind == REGION and bool(part.settings["begin"] == BACKDROP)


def _to_be_found(layer: Layer) -> Layer:
    """A layer whose backdrop is found anew in each picture."""
    mask = layer.mask
    if mask is not None:
        mask = replace(mask, parts=tuple(_found(part) if is_backdrop(part) else part for part in mask.parts))
    return replace(layer, mask=mask, layers=tuple(_to_be_found(child) for child in layer.layers))


def _found(part: Part) -> Part:
    return replace(part, settings=Values({**part.settings, SOURCE: f"{FOUND_IN}{BACKDROP}", "seeds": ()}))
