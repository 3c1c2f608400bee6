"""What layers carry besides their settings: pictures, strokes, other layers. Each is spelled here: its fields, how they
are read from plain data, and how they are written."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Protocol

from glyptic.base.digests import canonical_json
from glyptic.base.errors import DocumentError, Fault
from glyptic.document import fields
from glyptic.document.plain_strokes import plain_stroke
from glyptic.document.reading import READING, changed
from glyptic.document.values import Layer, Painting, Place
from glyptic.params import Reference, Schema, Values

DEEPEST_GROUP = 16
LONGEST_MADE_OF = 10_000
Plain = Mapping[str, Any]


class Reading(Protocol):
    """What reads a stack file, as far as what is carried needs it."""

    faults: list[Fault]

    def schema(self, schema: Schema, plain: Plain, at: str) -> Values | None: ...
    def items(self, plain: object, at: str, most: int) -> list[Any]: ...
    def strokes(self, plain: object, at: str, even_allowed: bool) -> Painting: ...
    def layer(self, plain: object, at: str, depth: int, is_base: bool) -> Layer | None: ...


@dataclass(frozen=True)
class Carriage:
    """fields: of the stack file, which have the layer's own names. parse: their values, from a layer's plain data at a
    place of the file, so many groups deep. plain: their plain data; the function given writes a layer."""

    fields: tuple[str, ...]
    parse: Callable[[Reading, Plain, str, int], dict[str, Any]]
    plain: Callable[[Layer, Callable[[Layer], dict[str, Any]]], dict[str, Any]]


def _place_values(raw: object, at: str, faults: list[Fault]) -> Values | None:
    """A place by its corners, or by its centre."""
    by_corners = isinstance(raw, dict) and "corners" in raw
    return (fields.CORNERS_PLACE if by_corners else fields.PLACE).parse(raw, at, faults)


def parsed_place(raw: object, at: str) -> Values:
    """The values of a place of plain data; raises DocumentError with every fault."""
    faults: list[Fault] = []
    values = _place_values(raw, at, faults)
    if values is None:
        raise DocumentError(faults)
    return values


def _picture(reading: Reading, raw: Plain, at: str, depth: int) -> dict[str, Any]:
    source = reading.schema(Schema({"source": Reference()}), raw, at)
    place = None
    if raw.get("place") is not None:
        values = _place_values(raw["place"], f"{at}.place", reading.faults)
        place = Place(**values) if values is not None else None
    how = READING.parse(raw["reading"], f"{at}.reading", reading.faults) if raw.get("reading") is not None else None
    return {
        "source": source["source"] if source else "", "reading": None if how is None else changed(how), "place": place,
        "made_of": _made_of(reading, raw, at),
    }  # fmt: skip


def _made_of(reading: Reading, raw: Plain, at: str) -> str:
    """What a merged copy was made of: anything JSON can hold, for it has no meaning here."""
    if raw.get("made_of") is None:
        return ""
    text = canonical_json(raw["made_of"])
    if len(text) > LONGEST_MADE_OF:
        reading.faults.append(Fault(f"{at}.made_of", f"must take at most {LONGEST_MADE_OF:,} characters"))
    return text


def _plain_picture(layer: Layer, write: Callable[[Layer], dict[str, Any]]) -> dict[str, Any]:
    where = {} if layer.place is None else {"place": plain_place(layer.place)}
    made_of = {"made_of": json.loads(layer.made_of)} if layer.made_of else {}
    reading = {} if layer.reading is None else {"reading": READING.plain(layer.reading)}
    return {"source": layer.source, **reading, **where, **made_of}


def plain_place(place: Place) -> dict[str, Any]:
    """A place as the stack file has it."""
    schema = fields.PLACE if place.corners is None else fields.CORNERS_PLACE
    return {name: param.plain(getattr(place, name)) for name, param in schema.params.items()}


def _strokes(reading: Reading, raw: Plain, at: str, depth: int) -> dict[str, Any]:
    return {"strokes": reading.strokes(raw.get("strokes", []), f"{at}.strokes", even_allowed=True)}


def _plain_strokes(layer: Layer, write: Callable[[Layer], dict[str, Any]]) -> dict[str, Any]:
    return {"strokes": [plain_stroke(stroke) for stroke in layer.strokes]}


def _layers(reading: Reading, raw: Plain, at: str, depth: int) -> dict[str, Any]:
    mode = fields.MODE.parse(raw.get("mode", fields.MODE.default), f"{at}.mode", reading.faults)
    if depth >= DEEPEST_GROUP:
        reading.faults.append(Fault(f"{at}.layers", f"groups may be nested {DEEPEST_GROUP} deep at most"))
        return {"layers": ()}
    items = reading.items(raw.get("layers", []), f"{at}.layers", fields.MOST_LAYERS)
    inner = [reading.layer(item, f"{at}.layers[{i}]", depth + 1, False) for i, item in enumerate(items)]
    return {"layers": tuple(layer for layer in inner if layer is not None), "mode": mode}


def _plain_layers(layer: Layer, write: Callable[[Layer], dict[str, Any]]) -> dict[str, Any]:
    mode = {} if layer.mode == fields.MODE.default else {"mode": layer.mode}
    return {**mode, "layers": [write(child) for child in layer.layers]}


CARRIAGES = {
    "": Carriage((), lambda reading, raw, at, depth: {}, lambda layer, write: {}),
    "picture": Carriage(("source", "reading", "place", "made_of"), _picture, _plain_picture),
    "strokes": Carriage(("strokes",), _strokes, _plain_strokes),
    "layers": Carriage(("layers", "mode"), _layers, _plain_layers),
}
"""By what a kind of layer says it carries."""
