"""The stack file (stack-format.md): plain data to values and back, collecting every fault with its field."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from glyptic.base.errors import DocumentError, Fault
from glyptic.document import fields as declared
from glyptic.document.carriage import CARRIAGES
from glyptic.document.notes import FIELDS as NOTE_FIELDS
from glyptic.document.notes import parse_notes
from glyptic.document.points import parse_points
from glyptic.document.reach import faults_of
from glyptic.document.tree import unlinked_links
from glyptic.document.upgrades import upgraded
from glyptic.document.values import (
    FORMAT,
    FRAME,
    NOTHING_DRIVEN,
    VERSION,
    Drives,
    Frame,
    Layer,
    Mask,
    Painting,
    Part,
    Stack,
    Stroke,
    StrokePoints,
)
from glyptic.document.vocabulary import LayerKind, Vocabulary
from glyptic.params import Choice, Schema, Values
from glyptic.params.declared import describe

NO_POINTS = StrokePoints(b"")


def read_stack(text: str | bytes, vocabulary: Vocabulary) -> Stack:
    """The stack of a stack file's text; raises DocumentError with every fault."""
    try:
        plain = json.loads(text)
    except RecursionError:
        raise DocumentError([Fault("", "is nested too deeply to be a stack file")]) from None
    except (ValueError, UnicodeDecodeError) as error:
        raise DocumentError([Fault("", f"is not JSON: {error}")]) from None
    return parse_stack(plain, vocabulary)


def parse_stack(plain: object, vocabulary: Vocabulary) -> Stack:
    """The stack of plain data; raises DocumentError with every fault."""
    reader = LayersReader(vocabulary)
    stack = reader.stack(plain)
    if reader.faults or stack is None:
        raise DocumentError(reader.faults)
    return stack


def parse_stroke(plain: object, vocabulary: Vocabulary, at: str, even_allowed: bool) -> Stroke:
    """One stroke of plain data; raises DocumentError with every fault."""
    reader = LayersReader(vocabulary)
    stroke = reader.stroke(plain, at, even_allowed)
    if reader.faults or stroke is None:
        raise DocumentError(reader.faults)
    return stroke


def parse_brush(plain: object, vocabulary: Vocabulary, at: str) -> Stroke:
    """A stroke without points: the brush it was drawn with; raises DocumentError with every fault."""
    reader = LayersReader(vocabulary)
    raw = reader.fields(plain, at, set(declared.STROKE_HEAD.params))
    stroke = reader.brush(raw, at) if raw is not None else None
    if reader.faults or stroke is None:
        raise DocumentError(reader.faults)
    return stroke


def parse_frame(plain: object, vocabulary: Vocabulary, at: str) -> Frame:
    """A frame; raises DocumentError with every fault."""
    reader = LayersReader(vocabulary)
    frame = reader.frame(plain, at)
    if reader.faults or frame is None:
        raise DocumentError(reader.faults)
    return frame


def parse_layer(plain: object, vocabulary: Vocabulary, at: str) -> Layer:
    """One layer that is not the base; raises DocumentError with every fault."""
    reader = LayersReader(vocabulary)
    layer = reader.layer(plain, at, depth=0, is_base=False)
    if reader.faults or layer is None:
        raise DocumentError(reader.faults)
    return layer


def parse_part(plain: object, vocabulary: Vocabulary, at: str) -> Part:
    """One mask part; raises DocumentError with every fault."""
    reader = LayersReader(vocabulary)
    part = reader.part(plain, at)
    if reader.faults or part is None:
        raise DocumentError(reader.faults)
    return part


@dataclass
class LayersReader:
    """Reads plain layers, and what is made of them, into values; gathers every fault with its field."""

    vocabulary: Vocabulary
    faults: list[Fault] = field(default_factory=list)
    ids: dict[str, str] = field(default_factory=dict)

    def fault(self, at: str, message: str) -> None:
        self.faults.append(Fault(at, message))

    def fields(self, plain: object, at: str, known: set[str]) -> Mapping[str, Any] | None:
        if not isinstance(plain, dict):
            self.fault(at, f"must be an object, not {describe(plain)}")
            return None
        for name in plain:
            if name not in known:
                self.fault(f"{at}.{name[:60]}" if at else name[:60], "is not a field Glyptic knows")
        return plain

    def schema(self, schema: Schema, plain: Mapping[str, Any], at: str) -> Values | None:
        return schema.parse({k: plain[k] for k in schema.params if k in plain}, at, self.faults)

    def items(self, plain: object, at: str, most: int) -> list[Any]:
        if isinstance(plain, list):
            if len(plain) <= most:
                return plain
            self.fault(at, f"must hold at most {most:,}, not {len(plain):,}")
            return []
        self.fault(at, f"must be a list, not {describe(plain)}")
        return []

    def stack(self, plain: object) -> Stack | None:
        raw = self.fields(plain, "", {"format", "version", "working_space", "layers", "frame", *NOTE_FIELDS})
        if raw is None:
            return None
        if raw.get("format") != FORMAT:
            self.fault("format", f"must be {FORMAT!r}, not {describe(raw.get('format'))}")
            return None
        version = raw.get("version")
        if isinstance(version, bool) or not isinstance(version, int) or not 1 <= version <= VERSION:
            self.fault("version", f"must be a whole number up to {VERSION}, not {describe(version)}")
            return None
        raw = upgraded(raw)
        space = raw.get("working_space", "srgb")
        Choice(options=tuple(self.vocabulary.spaces)).parse(space, "working_space", self.faults)
        if "layers" not in raw:
            self.fault("layers", "is missing")
            return None
        items = self.items(raw["layers"], "layers", 1 + declared.MOST_LAYERS)
        if raw["layers"] == []:
            self.fault("layers", "must hold at least the base picture")
        layers = [self.layer(item, f"layers[{i}]", 0, i == 0) for i, item in enumerate(items)]
        frame = self.frame(raw["frame"], "frame") if raw.get("frame") is not None else None
        notes = parse_notes(raw, self.faults)
        if self.faults:
            return None
        made = Stack(tuple(layer for layer in layers if layer is not None), space, frame, notes)
        self.check_sets(made)
        for layer, why in unlinked_links(made):
            self.fault(f"{self.ids.get(layer.id, 'layers')}.mask.linked", why)
        return self.with_ids(made)

    def check_sets(self, stack: Stack) -> None:
        for i, one in enumerate(stack.notes.sets):
            for j, layer in enumerate(one["layers"]):
                if not stack.holds(layer):
                    self.fault(f"sets[{i}].layers[{j}]", f"{layer[:60]!r} is no layer's id")

    def row(self, plain: object, at: str, most: int) -> tuple[Layer, ...]:
        """A row of layers of which none is a base, each with an id."""
        items = self.items(plain, at, most)
        layers = [self.layer(item, f"{at}[{i}]", 0, False) for i, item in enumerate(items)]
        made = tuple(layer for layer in layers if layer is not None)
        if self.faults:
            return made
        named = self.with_ids(Stack(made))
        for layer in named.walk():
            self.ids.setdefault(layer.id, at)
        return named.layers

    def with_ids(self, stack: Stack) -> Stack:
        """Give every layer that came without an id one that is free."""
        taken = set(self.ids)
        number = 0

        def named(layer: Layer) -> Layer:
            nonlocal number
            new_id = layer.id
            while not new_id:
                number += 1
                candidate = f"layer-{number}"
                if candidate not in taken:
                    new_id = candidate
                    taken.add(candidate)
            inner = tuple(named(child) for child in layer.layers)
            return layer if new_id == layer.id and inner == layer.layers else replace(layer, id=new_id, layers=inner)

        return stack.with_rows(lambda row: tuple(named(layer) for layer in row))

    def frame(self, plain: object, at: str) -> Frame | None:
        raw = self.fields(plain, at, {*declared.FRAME.params, "layers"})
        if raw is None:
            return None
        settings = self.schema(declared.FRAME, raw, at)
        items = self.items(raw.get("layers", []), f"{at}.layers", declared.MOST_LAYERS)
        layers = [self.layer(item, f"{at}.layers[{i}]", 0, False) for i, item in enumerate(items)]
        return Frame(settings, tuple(layer for layer in layers if layer is not None)) if settings is not None else None

    def layer(self, plain: object, at: str, depth: int, is_base: bool) -> Layer | None:
        if not isinstance(plain, dict):
            self.fault(at, f"must be an object, not {describe(plain)}")
            return None
        if "kind" not in plain:
            self.fault(f"{at}.kind", "is missing")
            return None
        name = plain["kind"]
        kind = self.vocabulary.kinds.get(name) if isinstance(name, str) else None
        if kind is None:
            self.fault(f"{at}.kind", f"must be a kind Glyptic knows, not {describe(name)}")
            return None
        if is_base and kind.carries != "picture":
            self.fault(f"{at}.kind", "the first layer is the base and must be a picture")
            return None
        if is_base:
            for forbidden in ("mask", "opacity", "blend", "visible", "mark", "place", "made_of"):
                if forbidden in plain:
                    self.fault(f"{at}.{forbidden}", "cannot stand on the base picture")
        carried = CARRIAGES[kind.carries].fields
        known = {"id", "kind", "mask", *layer_head(kind).params, *carried}
        if kind.schema.params:
            known.add("settings")
        self.fields(plain, at, known)
        return self._layer_body(plain, kind, at, depth)

    def _layer_body(self, raw: Mapping[str, Any], kind: LayerKind, at: str, depth: int) -> Layer | None:
        before = len(self.faults)
        common = self.schema(layer_head(kind), raw, at)
        settings = kind.schema.parse(raw.get("settings", {}), f"{at}.settings", self.faults)
        mask = self.mask(raw["mask"], f"{at}.mask") if raw.get("mask") is not None else None
        carried = CARRIAGES[kind.carries].parse(self, raw, at, depth)
        layer_id = self.layer_id(raw, at)
        if len(self.faults) > before or common is None or settings is None:
            return None
        if carried.get("mode") == "through" and common["blend"] != "normal":
            self.fault(f"{at}.blend", "a through group blends in normal only")
        return Layer(id=layer_id, kind=kind.name, settings=settings, mask=mask, **common, **carried)

    def layer_id(self, raw: Mapping[str, Any], at: str) -> str:
        if "id" not in raw:
            return ""
        layer_id = declared.NAME.parse(raw["id"], f"{at}.id", self.faults) or ""
        if layer_id in self.ids:
            self.fault(f"{at}.id", f"{layer_id!r} is used already, at {self.ids[layer_id]}")
        elif layer_id == FRAME:
            self.fault(f"{at}.id", f"{FRAME!r} stands for the frame")
        elif layer_id:
            self.ids[layer_id] = at
        return layer_id

    def mask(self, plain: object, at: str) -> Mask | None:
        raw = self.fields(plain, at, {*declared.MASK_HEAD.params, "parts"})
        if raw is None:
            return None
        head = self.schema(declared.MASK_HEAD, raw, at)
        items = self.items(raw.get("parts", []), f"{at}.parts", declared.MOST_PARTS)
        parts = [self.part(item, f"{at}.parts[{i}]") for i, item in enumerate(items)]
        if head is None or None in parts:
            return None
        return Mask(parts=tuple(p for p in parts if p is not None), **head)

    def part(self, plain: object, at: str) -> Part | None:
        if not isinstance(plain, dict):
            self.fault(at, f"must be an object, not {describe(plain)}")
            return None
        name = plain.get("kind")
        kind = self.vocabulary.parts.get(name) if isinstance(name, str) else None
        if kind is None:
            problem = f"must be a part Glyptic knows, not {describe(name)}" if "kind" in plain else "is missing"
            self.fault(f"{at}.kind", problem)
            return None
        before = len(self.faults)
        in_use = declared.PART_IN_USE.parse(plain.get("enabled", True), f"{at}.enabled", self.faults)
        if kind.carries == "strokes":
            self.fields(plain, at, {"kind", "enabled", "strokes"})
            strokes = self.strokes(plain.get("strokes", []), f"{at}.strokes", even_allowed=False)
            return Part(kind.name, strokes=strokes, enabled=bool(in_use)) if len(self.faults) == before else None
        self.fields(plain, at, {"kind", "enabled", *declared.PART_HEAD.params, *kind.schema.params})
        head = self.schema(declared.PART_HEAD, plain, at)
        settings = self.schema(kind.schema, plain, at)
        if len(self.faults) > before or head is None or settings is None:
            return None
        return Part(kind.name, settings=settings, enabled=bool(in_use), **head)

    def strokes(self, plain: object, at: str, even_allowed: bool) -> Painting:
        items = self.items(plain, at, declared.MOST_STROKES)
        strokes = [self.stroke(item, f"{at}[{i}]", even_allowed) for i, item in enumerate(items)]
        return tuple(s for s in strokes if s is not None)

    def stroke(self, plain: object, at: str, even_allowed: bool) -> Stroke | None:
        raw = self.fields(plain, at, {*declared.STROKE_HEAD.params, "points"})
        if raw is None:
            return None
        if "even" in raw and not even_allowed:
            self.fault(f"{at}.even", "only a grey layer's strokes can even out")
        brush = self.brush(raw, at)
        points = parse_points(raw["points"], f"{at}.points", self.faults) if "points" in raw else None
        if "points" not in raw:
            self.fault(f"{at}.points", "is missing")
        if brush is None or points is None:
            return None
        stroke = replace(brush, points=points)
        wrong = faults_of(stroke, at)
        self.faults += wrong
        return None if wrong else stroke

    def brush(self, raw: Mapping[str, Any], at: str) -> Stroke | None:
        head = self.schema(declared.STROKE_HEAD, raw, at)
        if head is None:
            return None
        drives = {what: Drives(**head[what]) if what in raw else NOTHING_DRIVEN for what in declared.PEN}
        return Stroke(points=NO_POINTS, **{**head, **drives})


def layer_head(kind: LayerKind) -> Schema:
    """The fields every layer of a kind has, with the kind's own defaults."""
    return Schema(
        {
            "name": replace(declared.NAME, default=kind.title),
            "visible": declared.VISIBLE,
            "locked": declared.LOCKED,
            "mark": declared.MARK,
            "opacity": declared.OPACITY,
            "blend": declared.blend(kind.default_blend),
        }
    )
