"""Merged copies: a picture layer made of everything below it, and pictures taken from other plates."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any

import numpy as np

from glyptic.actions.edit import apply_edit, check_revision, edited, keep, kept_already
from glyptic.actions.open_picture import remember_asset
from glyptic.actions.placing import canvas_of, start_of
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.digests import digest
from glyptic.base.errors import DocumentError, Fault, NotFound
from glyptic.base.rectangles import TILE
from glyptic.document.edits.across import on_sheet
from glyptic.document.edits.edit import Edited, quoted, unlocked
from glyptic.document.values import FRAME, Layer, Stack
from glyptic.engine.cache import TileCache
from glyptic.engine.nodes import Node
from glyptic.engine.plan import Plan
from glyptic.engine.reader import Reader
from glyptic.engine.render import Rendering, cache_for
from glyptic.formats.decoded import Decoded, Metadata
from glyptic.formats.writing import Output, encode_picture

MERGED = "Merged copy"
DEPTH = 16
OUTPUT = Output("png", DEPTH)
BELOW = "what lies below it"


def _plan_around(workshop: Workshop, stack: Stack, layer: str) -> Plan:
    """The plan in which what a layer lies on is what comes out."""
    return workshop.plan(stack if layer == FRAME or on_sheet(stack, layer) else stack.unframed)


def key_of(plan: Plan, node: Node) -> str:
    """A digest of everything that a node is made of: the keys of a level small enough to go into one tile or a few."""
    reader = Reader(TileCache(), plan.outer, plan.outer.level_within(TILE))
    return digest(*(reader.key(node, x, y) for x, y in reader.bounds.tiles())).hex()


def keep_rendered(workshop: Workshop, plan: Plan, node: Node, name: str) -> str:
    """Keep a node of what comes out as a picture of 16 bits; values beyond 0..1 are cut. Returns its asset. May be
    stopped by whoever waits for it."""
    if node.channels != 3:
        raise DocumentError(
            [Fault("layers", "An isolated group has no picture below its layers; merge after the group")]
        )
    wanted = Rendering(plan, cache_for(plan, workshop.store.tiles.get), depth=DEPTH, node=node)
    colour = np.empty((wanted.rect.h, wanted.rect.w, 3), np.uint16)
    for band, rows in wanted.bands():
        workshop.stops.check()
        colour[band.y : band.bottom] = rows
    decoded = Decoded(np.ascontiguousarray(np.moveaxis(colour, 2, 0)), None, DEPTH, Metadata(), plan.space)
    return remember_asset(
        workshop, encode_picture(colour, None, OUTPUT, Metadata(), plan.space), f"{name}.png", decoded
    )


def merge(workshop: Workshop, plate_id: int, revision: int, after: str, token: str | None = None) -> Current:
    """Put a picture of everything up to a layer after it, as one step."""
    current = workshop.current(plate_id)
    if token is not None and kept_already(workshop, plate_id, token):
        return current
    check_revision(current, revision)
    plan = _plan_around(workshop, current.stack, after)
    node = plan.above.get(after)
    if node is None:
        raise NotFound("That layer is no longer there; the page shows what is.")
    asset = keep_rendered(workshop, plan, node, MERGED)
    made_of = {"key": key_of(plan, node), "what": BELOW}
    layer = _laid(workshop, current.stack, after, asset, MERGED, made_of)
    return apply_edit(
        workshop, plate_id, revision, "add-layer", {"layer": layer, "after": after, "beside": True}, token
    )


def _laid(
    workshop: Workshop, stack: Stack, after: str | None, asset: str, name: str, made_of: dict[str, Any] | None
) -> dict[str, Any]:
    size = workshop.picture(asset).canvas
    place = start_of(size, canvas_of(workshop, stack, after))
    layer = {"kind": "picture", "name": name, "source": asset, "place": place}
    return {**layer, "made_of": made_of} if made_of else layer


def made_of(layer: Layer) -> dict[str, Any]:
    """What a merged copy of ours was made of; empty for any other layer."""
    found = json.loads(layer.made_of) if layer.made_of else {}
    return found if isinstance(found, dict) and isinstance(found.get("key"), str) else {}


def is_stale(workshop: Workshop, stack: Stack, layer: Layer) -> bool:
    """Whether what a merged copy was made of is no longer what lies below it."""
    known = made_of(layer)
    if known.get("what") != BELOW:
        return False
    plan = _plan_around(workshop, stack, layer.id)
    return layer.id in plan.below and key_of(plan, plan.below[layer.id]) != known["key"]


def renew(workshop: Workshop, plate_id: int, revision: int, layer_id: str, token: str | None = None) -> Current:
    """Make a merged copy anew of what lies below it now, as one step."""
    current = workshop.current(plate_id)
    if token is not None and kept_already(workshop, plate_id, token):
        return current
    check_revision(current, revision)
    layer = unlocked(current.stack, layer_id)
    if not made_of(layer):
        raise DocumentError([Fault(layer.name, "is no merged copy")])
    plan = _plan_around(workshop, current.stack, layer_id)
    node = plan.below[layer_id]
    asset = keep_rendered(workshop, plan, node, MERGED)
    told = json.dumps({"key": key_of(plan, node), "what": BELOW}, separators=(",", ":"), sort_keys=True)
    renewed = current.stack.replaced(replace(layer, source=asset, made_of=told))
    with workshop.lock(plate_id):
        check_revision(workshop.current(plate_id), revision)
        return keep(workshop, current, Edited(renewed, f"{quoted(layer)} made anew"), token)


def add_from_plate(
    workshop: Workshop,
    plate_id: int,
    revision: int,
    other_id: int,
    finished: bool,
    after: str | None,
    start: str,
    token: str | None = None,
) -> Current:
    """Lay another plate's picture over this one, as it is now: as it was opened, or as it is finished."""
    current = workshop.current(plate_id)
    if token is not None and kept_already(workshop, plate_id, token):
        return current
    check_revision(current, revision)
    other = workshop.current(other_id)
    asset = other.asset
    if finished:
        plan = workshop.plan(other.stack)
        asset = keep_rendered(workshop, plan, plan.finished, other.name)
    layer = _laid(workshop, current.stack, after, asset, other.name[:60], None)
    if start == "closed":
        layer["mask"] = {"start": "closed"}
    made = edited(current.stack, "add-layer", {"layer": layer, "after": after})
    what = "as it is finished" if finished else "as it was opened"
    with workshop.lock(plate_id):
        check_revision(workshop.current(plate_id), revision)
        return keep(workshop, current, replace(made, sentence=f"{made.sentence}: ‘{other.name}’, {what}"), token)
