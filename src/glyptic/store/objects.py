"""Documents as content-addressed objects: layers and strokes are stored once, however many revisions share them.

A painting is kept as whole runs of RUN strokes and a tail, so that a stroke more writes a few kilobytes, also on
a layer with thousands of them.
"""

from __future__ import annotations

import json
from collections import OrderedDict
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from glyptic.base.digests import canonical_json, digest
from glyptic.base.errors import DocumentError, NotFound
from glyptic.document.codec import parse_brush, parse_frame, parse_layer
from glyptic.document.fields import FRAME, PEN
from glyptic.document.notes import parse_notes, plain_notes
from glyptic.document.plain_strokes import plain_brush
from glyptic.document.runs import RUN, Run, runs
from glyptic.document.values import PLAIN, Drives, Frame, Layer, Mask, Painting, Part, Stack, Stroke, StrokePoints
from glyptic.document.vocabulary import Vocabulary
from glyptic.document.writing import plain_layer
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.store.tables import Object

BATCH = 500
SEEN, GENERATION = "seen objects", "generation of objects"
REMEMBERED = 50_000
"""How many digests known to be in the database are remembered."""


class Objects:
    """Writes and reads stacks; remembers what it has written."""

    def __init__(self, vocabulary: Vocabulary = VOCABULARY) -> None:
        self._vocabulary = vocabulary
        self._known: OrderedDict[bytes, None] = OrderedDict()
        self._generation = 0
        self._sweeping = False

    def put(self, session: Session, stack: Stack) -> bytes:
        """Store a stack; returns its root's digest."""
        fresh: dict[bytes, bytes] = {}
        layers = [self._put_layer(layer, i == 0, fresh) for i, layer in enumerate(stack.layers)]
        top: dict[str, Any] = {"working_space": stack.working_space, "layers": layers}
        if stack.frame is not None:
            top["frame"] = FRAME.plain(stack.frame.settings)
            top["sheet"] = [self._put_layer(layer, False, fresh) for layer in stack.frame.layers]
        top |= plain_notes(stack.notes)
        root = _add(fresh, top)
        rows = [{"hash": key, "content": content} for key, content in fresh.items() if key not in self._known]
        for start in range(0, len(rows), BATCH):
            session.execute(insert(Object).on_conflict_do_nothing(), rows[start : start + BATCH])
        _seen_in(session, fresh)
        return root

    def key_of(self, layer: Layer) -> str:
        """A digest of everything a layer is."""
        return self._put_layer(layer, False, {})

    def remember(self, session: Session) -> None:
        """Remember what a unit of work that ended well has written or read. What another one wrote that was rolled back
        is not there, and is not taken to be; nor is what was read before something was swept."""
        seen, generation = session.info.pop(SEEN, {}), session.info.pop(GENERATION, None)
        if generation != self._generation or self._sweeping:
            return
        self._known.update(seen)
        while len(self._known) > REMEMBERED:
            self._known.popitem(last=False)

    def forget(self) -> None:
        """Forget what is known to be in the database: something was swept from it."""
        self._generation += 1
        self._known.clear()

    @contextmanager
    def being_swept(self) -> Iterator[None]:
        """While this lasts nothing is known to be in the database, and nothing that is read comes to be."""
        self._sweeping = True
        self.forget()
        try:
            yield
        finally:
            self.forget()
            self._sweeping = False

    def watch(self, session: Session) -> None:
        """A unit of work begins: what it sees can be remembered at its end, if nothing is swept meanwhile."""
        session.info[GENERATION] = self._generation

    def _put_layer(self, layer: Layer, is_base: bool, fresh: dict[bytes, bytes]) -> str:
        plain = plain_layer(_without_strokes(layer), self._vocabulary, is_base)
        if layer.strokes:
            plain["strokes"] = self._put_painting(layer.strokes, fresh)
        for i, part in enumerate(layer.mask.parts if layer.mask else ()):
            if part.strokes:
                plain["mask"]["parts"][i]["strokes"] = self._put_painting(part.strokes, fresh)
        if layer.layers:
            plain["layers"] = [self._put_layer(child, False, fresh) for child in layer.layers]
        return _add(fresh, plain).hex()

    def _put_painting(self, strokes: Painting, fresh: dict[bytes, bytes]) -> dict[str, Any]:
        """What a layer says of its painting. What is known to be stored is passed over, run by run."""
        whole = runs(strokes)
        tail = whole.pop() if len(whole[-1]) < RUN else None
        for run in whole:
            if run.listing_key not in self._known:
                fresh[run.listing_key] = run.listing
                self._put_strokes(run, fresh)
        if tail is not None:
            self._put_strokes(tail, fresh)
        ends = tail.strokes if tail is not None else ()
        return {"runs": [run.listing_key.hex() for run in whole], "tail": [stroke.digest.hex() for stroke in ends]}

    def _put_strokes(self, run: Run, fresh: dict[bytes, bytes]) -> None:
        for stroke in run.strokes:
            if stroke.digest not in self._known:
                fresh[stroke.digest] = _stroke_bytes(stroke)

    def get(self, session: Session, root: bytes) -> Stack:
        """The stack of a root; raises NotFound when it is not stored."""
        top = json.loads(fetch(session, [root])[root])
        layers = tuple(self._get_layer(session, key) for key in top["layers"])
        notes = parse_notes(top, [])
        if "frame" not in top:
            return Stack(layers, top["working_space"], notes=notes)
        over = tuple(self._get_layer(session, key) for key in top["sheet"])
        frame = replace(parse_frame(top["frame"], self._vocabulary, "frame"), layers=over)
        return Stack(layers, top["working_space"], frame, notes)

    def _get_layer(self, session: Session, key: str) -> Layer:
        raw = bytes.fromhex(key)
        plain = json.loads(fetch(session, [raw])[raw])
        paintings = {"": plain.pop("strokes", None) or None}
        for i, part in enumerate((plain.get("mask") or {}).get("parts", [])):
            paintings[str(i)] = part.pop("strokes", None) or None
        inner = tuple(self._get_layer(session, child) for child in plain.pop("layers", []))
        layer = parse_layer(plain, self._vocabulary, "layer")
        strokes = {name: self._get_painting(session, kept) for name, kept in paintings.items() if kept}
        return _with_strokes(layer, strokes, inner)

    def _get_painting(self, session: Session, kept: dict[str, Any]) -> Painting:
        listed = [bytes.fromhex(run) for run in kept["runs"]]
        contents = fetch(session, listed)
        keys = [bytes.fromhex(key) for run in listed for key in json.loads(contents[run])]
        keys += [bytes.fromhex(key) for key in kept["tail"]]
        stored = fetch(session, keys)
        _seen_in(session, [*listed, *stored])
        made = {key: _stroke_of(key, content, self._vocabulary) for key, content in stored.items()}
        return tuple(made[key] for key in keys)


def frames_of(session: Session, roots: Iterable[bytes], vocabulary: Vocabulary = VOCABULARY) -> dict[bytes, Frame]:
    """The frames, without what lies over their sheets, of those documents that have one."""
    tops = {root: json.loads(content) for root, content in fetch(session, list(roots)).items()}
    return {root: parse_frame(top["frame"], vocabulary, "frame") for root, top in tops.items() if "frame" in top}


def layers_of(root: bytes) -> list[str]:
    """The digests of the layers that a root's content names: of the picture, and of its sheet."""
    top = json.loads(root)
    return [*top["layers"], *top.get("sheet", ())]


def _seen_in(session: Session, keys: Iterable[bytes]) -> None:
    """Note objects that a unit of work has written or read, until it has ended well."""
    session.info.setdefault(SEEN, {}).update(dict.fromkeys(keys))


def _add(fresh: dict[bytes, bytes], plain: Any) -> bytes:
    content = canonical_json(plain).encode()
    key = digest(content)
    fresh[key] = content
    return key


def fetch(session: Session, keys: list[bytes]) -> dict[bytes, bytes]:
    """The contents of objects by their digests; raises NotFound where one is missing."""
    found: dict[bytes, bytes] = {}
    wanted = list(dict.fromkeys(keys))
    for start in range(0, len(wanted), BATCH):
        part = wanted[start : start + BATCH]
        rows = session.execute(select(Object.hash, Object.content).where(Object.hash.in_(part)))
        found |= {row.hash: row.content for row in rows}
    if len(found) < len(wanted):
        raise NotFound("A part of this plate is missing from the database; restore the data folder from a copy.")
    return found


def _stroke_bytes(stroke: Stroke) -> bytes:
    head = plain_brush(stroke) | ({} if stroke.points.columns == PLAIN else {"columns": stroke.points.columns})
    return canonical_json(head).encode() + b"\n" + stroke.points.packed


def _stroke_of(key: bytes, content: bytes, vocabulary: Vocabulary) -> Stroke:
    """The stroke kept under a key, which is its digest. What was written was checked when it came in, and is checked
    again only where it does not look like that: there may be thousands."""
    head, packed = content.split(b"\n", 1)
    plain = json.loads(head)
    points = StrokePoints(packed, plain.pop("columns", PLAIN))
    try:
        drives = {what: Drives(**plain[what]) for what in PEN if what in plain}
        stroke = Stroke(**{"to": None, **plain, **drives, "points": points})
    except TypeError:
        stroke = replace(parse_brush(plain, vocabulary, "stroke"), points=points)
    vars(stroke)["digest"] = key
    return stroke


def is_what_it_says(key: bytes, content: bytes) -> bool:
    """Whether a piece is what stands under a key: the digest of its bytes, or of the stroke it is."""
    if digest(content) == key:
        return True
    try:
        stroke = _stroke_of(key, content, VOCABULARY)
    except (ValueError, TypeError, KeyError, AttributeError, DocumentError):
        return False
    vars(stroke).pop("digest", None)
    return stroke.digest == key


def _without_strokes(layer: Layer) -> Layer:
    mask = layer.mask
    if mask is not None:
        mask = replace(mask, parts=tuple(replace(part, strokes=()) for part in mask.parts))
    return replace(layer, strokes=(), mask=mask, layers=())


def _with_strokes(layer: Layer, strokes: dict[str, Painting], inner: tuple[Layer, ...]) -> Layer:
    mask: Mask | None = layer.mask
    if mask is not None:
        parts: tuple[Part, ...] = tuple(
            replace(part, strokes=strokes.get(str(i), ())) for i, part in enumerate(mask.parts)
        )
        mask = replace(mask, parts=parts)
    return replace(layer, strokes=strokes.get("", ()), mask=mask, layers=inner)
