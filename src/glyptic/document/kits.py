"""Kits: layers kept for other pictures (stack-format.md), and what becomes of them on a picture of another size."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from glyptic.base.errors import DocumentError, Fault
from glyptic.document.codec import LayersReader
from glyptic.document.fields import FRAME, MOST_LAYERS
from glyptic.document.framing import Crop
from glyptic.document.scaling import scaled_layer
from glyptic.document.sources import SOURCE, Rename, with_sources
from glyptic.document.tree import free_ids, unlinked_links
from glyptic.document.values import Frame, Layer, Part, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.document.writing import plain_layer
from glyptic.params import Scale, Schema, Size, Text, Values
from glyptic.params.declared import describe

FORMAT, VERSION = "glyptic-kit", 1
HEAD = Schema(
    {
        "name": Text(label="Name", longest=80, help="What the kit is called, and the group it makes."),
        "note": Text(label="Note", longest=1000, default="", blank=True, help="What it does, and when to use it."),
        "size": Size(label="Size", help="Width and height of the picture it was made on."),
    }
)
FOUND, FOUND_IN = "found", "@found/"
"""A region may say what is to be found in each picture, in place of a picture of it; then its source, inside a kit that
was read, begins so."""
FINDABLE = ("backdrop",)
ROWS = ("layers", "frame_layers")
REGION = "region"


@dataclass(frozen=True)
class Kit:
    """Layers, and layers over the sheet, made on a picture (a sheet) of a size in pixels."""

    name: str
    note: str
    size: tuple[int, int]
    layers: tuple[Layer, ...] = ()
    frame_layers: tuple[Layer, ...] = ()

    def walk(self) -> Iterator[Layer]:
        """Every layer, groups before what is in them."""
        yield from Stack(self.layers).walk()
        yield from Stack(self.frame_layers).walk()


def read_kit(text: str | bytes, vocabulary: Vocabulary) -> Kit:
    """The kit of a kit file's text; raises DocumentError with every fault."""
    try:
        plain = json.loads(text)
    except RecursionError:
        raise DocumentError([Fault("", "is nested too deeply to be a kit")]) from None
    except (ValueError, UnicodeDecodeError) as error:
        raise DocumentError([Fault("", f"is not JSON: {error}")]) from None
    return parse_kit(plain, vocabulary)


def parse_kit(plain: object, vocabulary: Vocabulary) -> Kit:
    """The kit of plain data; raises DocumentError with every fault."""
    if not isinstance(plain, dict) or plain.get("format") != FORMAT:
        raise DocumentError([Fault("format", f"must be {FORMAT!r} of a kit, not {describe(plain)[:60]}")])
    if plain.get("version") != VERSION:
        raise DocumentError([Fault("version", f"must be {VERSION}, not {describe(plain.get('version'))}")])
    reader = LayersReader(vocabulary)
    known = {"format", "version", *HEAD.params, *ROWS}
    for name in plain:
        if name not in known:
            reader.fault(name[:60], "is not a field Glyptic knows")
    head = HEAD.parse({name: plain[name] for name in HEAD.params if name in plain}, "", reader.faults)
    rows = [reader.row(_with_sources(plain.get(name, []), name, reader), name, MOST_LAYERS) for name in ROWS]
    if not reader.faults and not any(rows):
        reader.fault("layers", "must hold some layers")
    if head is None or reader.faults:
        raise DocumentError(reader.faults)
    kit = Kit(head["name"], head["note"], tuple(head["size"]), *rows)
    for row in (kit.layers, kit.frame_layers):
        for layer, why in unlinked_links(Stack(row)):
            raise DocumentError([Fault(f"{reader.ids.get(layer.id, 'layers')}.mask.linked", why)])
    return kit


def _with_sources(row: Any, at: str, reader: LayersReader) -> Any:
    """A row of plain layers in which what is to be found has a source that says so."""
    if not isinstance(row, list):
        return row
    return [_with_source(layer, f"{at}[{i}]", reader) for i, layer in enumerate(row)]


def _with_source(layer: Any, at: str, reader: LayersReader) -> Any:
    if not isinstance(layer, dict):
        return layer
    made = dict(layer)
    if isinstance(layer.get("layers"), list):
        made["layers"] = _with_sources(layer["layers"], f"{at}.layers", reader)
    mask = layer.get("mask")
    if isinstance(mask, dict) and isinstance(mask.get("parts"), list):
        parts = [_part_with_source(part, f"{at}.mask.parts[{i}]", reader) for i, part in enumerate(mask["parts"])]
        made["mask"] = {**mask, "parts": parts}
    return made


def _part_with_source(part: Any, at: str, reader: LayersReader) -> Any:
    if not isinstance(part, dict) or FOUND not in part:
        return part
    wanted = part[FOUND]
    if part.get("kind") != REGION or SOURCE in part:
        reader.fault(f"{at}.{FOUND}", "stands on a region only, in place of its source")
    elif wanted not in FINDABLE:
        reader.fault(f"{at}.{FOUND}", f"must be one of {', '.join(FINDABLE)}, not {describe(wanted)}")
    else:
        rest = {name: value for name, value in part.items() if name != FOUND}
        return {**rest, SOURCE: f"{FOUND_IN}{wanted}", "begin": wanted}
    return part


def sources_of(kit: Kit) -> list[str]:
    """The pictures a kit refers to, each once."""
    found = (x for layer in kit.walk() for x in (layer.source, *_masked(layer)) if x and not x.startswith(FOUND_IN))
    return list(dict.fromkeys(found))


def _masked(layer: Layer) -> Iterator[str]:
    for part in layer.mask.parts if layer.mask is not None else ():
        yield part.settings.get(SOURCE, "")


def with_kit_sources(kit: Kit, rename: Rename) -> Kit:
    """The kit with its pictures under other names."""

    def renamed(row: tuple[Layer, ...]) -> tuple[Layer, ...]:
        return with_sources(Stack(row), lambda x: x if x.startswith(FOUND_IN) else rename(x)).layers

    return replace(kit, layers=renamed(kit.layers), frame_layers=renamed(kit.frame_layers))


def plain_kit(kit: Kit, vocabulary: Vocabulary) -> dict[str, Any]:
    """Plain data, as the kit file has it."""
    head = HEAD.plain(Values({"name": kit.name, "note": kit.note, "size": kit.size}))
    rows = {name: [_plain(layer, vocabulary) for layer in getattr(kit, name)] for name in ROWS if getattr(kit, name)}
    return {"format": FORMAT, "version": VERSION, **head, **rows}


def write_kit(kit: Kit, vocabulary: Vocabulary) -> str:
    """The text of the kit file."""
    return json.dumps(plain_kit(kit, vocabulary), ensure_ascii=False, allow_nan=False, indent=1) + "\n"


def _plain(layer: Layer, vocabulary: Vocabulary) -> dict[str, Any]:
    plain = plain_layer(layer, vocabulary)
    for part in (plain.get("mask") or {}).get("parts", ()):
        source = part.get(SOURCE, "")
        if source.startswith(FOUND_IN):
            part.pop(SOURCE)
            part.pop("begin", None)
            part[FOUND] = source.removeprefix(FOUND_IN)
    if layer.layers:
        plain["layers"] = [_plain(child, vocabulary) for child in layer.layers]
    return plain


def is_to_be_found(part: Part) -> bool:
    """Whether a part is to be found in the picture its kit is applied to."""
    return str(part.settings.get(SOURCE, "")).startswith(FOUND_IN)


def scaled_kit(
    kit: Kit, size: tuple[int, int], sheet: tuple[int, int], vocabulary: Vocabulary, told: list[str] | None = None
) -> Kit:
    """The kit on a picture of a size, and a sheet of another: places across and down, lengths by their mean, angles as
    they are. told: gets a sentence for each length that stays at the end of its range. Raises DocumentError where
    something else leaves its range."""
    held: list[str] = [] if told is None else told
    by, over = (Scale(w / kit.size[0], h / kit.size[1], held) for w, h in (size, sheet))
    return replace(
        kit, size=size,
        layers=tuple(scaled_layer(layer, by, vocabulary) for layer in kit.layers),
        frame_layers=tuple(scaled_layer(layer, over, vocabulary) for layer in kit.frame_layers),
    )  # fmt: skip


def added(stack: Stack, kit: Kit, size: tuple[int, int], strength: float) -> Stack:
    """The stack of a picture of a size with the layers of a kit (made for that size, see `scaled_kit`) last, in one
    group of its name whose opacity is the strength, 0..1; and with those over its sheet, which is made where there is
    none. Ids are made anew; links stay among the kit's own layers."""
    if sum(1 for _ in stack.walk()) + sum(1 for _ in kit.walk()) + len(ROWS) > MOST_LAYERS:
        raise DocumentError([Fault("layers", f"of a stack are at most {MOST_LAYERS}; the kit would make more")])
    make_id = free_ids(stack)
    ids = {layer.id: make_id() for layer in kit.walk()}

    def group(layers: tuple[Layer, ...]) -> tuple[Layer, ...]:
        if not layers:
            return ()
        inner = tuple(_renamed(layer, ids) for layer in layers)
        return (Layer(make_id(), "group", kit.name, opacity=strength, layers=inner),)

    stack = replace(stack, layers=(*stack.layers, *group(kit.layers)))
    if not kit.frame_layers:
        return stack
    frame = stack.frame or whole_frame(size)
    return replace(stack, frame=replace(frame, layers=(*frame.layers, *group(kit.frame_layers))))


def whole_frame(size: tuple[int, int]) -> Frame:
    """A frame that shows all of a picture of a size."""
    crop = Crop.whole(*size)
    faults: list[Fault] = []
    settings = FRAME.parse({"corners": [list(corner) for corner in crop.corners], "size": list(size)}, "", faults)
    if settings is None:
        raise DocumentError(faults)
    return Frame(settings)


def _renamed(layer: Layer, ids: dict[str, str]) -> Layer:
    mask = layer.mask
    if mask is not None and mask.linked:
        mask = replace(mask, linked=ids.get(mask.linked, ""))
    return replace(layer, id=ids[layer.id], mask=mask, layers=tuple(_renamed(child, ids) for child in layer.layers))
