"""Tiles for the page: the keys of what is on screen, and the pixels behind a key."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import cast

import numpy as np
from numpy.typing import NDArray

from glyptic.actions.looking import OWN, Looking, Order
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, Fault, NotFound
from glyptic.base.rectangles import TILE, Rect, tile_rect
from glyptic.brush.coverage import Trail
from glyptic.document.values import Stack
from glyptic.engine.exact import Exact
from glyptic.engine.moving import ONE_HAND, Moving
from glyptic.engine.nodes import Node
from glyptic.engine.plan import AT_REST, Plan
from glyptic.engine.pool import crew
from glyptic.engine.reader import Reader
from glyptic.engine.shown import shown_in
from glyptic.engine.views import VIEWS, Dress
from glyptic.formats.icc import of_space
from glyptic.formats.jpeg import encode_small
from glyptic.pixels.compiled import Planes
from glyptic.pixels.quantise import canvas, onto_canvas, to_codes
from glyptic.pixels.spaces import DISPLAY_P3, SPACES

MOST_TILES = 600
SMALL = 1
"""The level from which a view is made on the off chance."""


def reader_and_node(workshop: Workshop, stack: Stack, looking: Looking) -> tuple[Reader, Node]:
    """The node of a view and a reader at its level."""
    return reading(workshop, plan_seen(workshop, stack, looking), looking)


def plan_seen(workshop: Workshop, stack: Stack, looking: Looking) -> Plan:
    """The plan of what a view shows: the stack's, or that of the stack without its frame."""
    shown = stack.unframed if VIEWS[looking.view].unframed else stack
    finer = AT_REST if looking.at_rest and shown.frame is not None else 0
    return workshop.plan(shown, looking.layer if looking.working else "", finer)


def reading(workshop: Workshop, plan: Plan, looking: Looking, trail: Trail | None = None) -> tuple[Reader, Node]:
    """As `reader_and_node`, of a plan. trail: the stroke being drawn."""
    if not 0 <= looking.level <= plan.outer.deepest:
        raise DocumentError([Fault("level", f"must be in 0..{plan.outer.deepest}")])
    view = VIEWS[looking.view]
    against = _against(workshop, plan, looking) if view.compares else None
    dress = Dress(looking.hatch, against, looking.press if view.printed else None)

    def node() -> Node:
        made = exact_node(workshop, plan, looking) if looking.exact else view.node(plan, looking.layer, dress)
        return made if looking.screen == OWN else shown_in(made, SPACES[looking.screen])

    name = f"{view.name} {looking.screen} {looking.exact}"
    name += f" {looking.hatch}" if view.hatched else ""
    name += f" {dress.press.key.hex()} {dress.press.marks}" if dress.press else ""
    shown = plan.view(name, looking.layer, node) if against is None else node()
    return plan.reader(workshop.scratch if looking.soon else workshop.tiles, looking.level, trail), shown


def exact_node(workshop: Workshop, plan: Plan, looking: Looking) -> Exact:
    """A view in the plate's own space as it is made of full-size pixels."""
    view = VIEWS[looking.view]
    if not view.exact:
        raise DocumentError([Fault("exact", f"is not for the view {view.title}")])
    made = plan.view(
        f"exact {view.name}",
        looking.layer,
        lambda: Exact(view.node(plan, looking.layer, Dress()), workshop.codes, workshop.scratch),
    )
    return cast(Exact, made)


def _against(workshop: Workshop, plan: Plan, looking: Looking) -> Node | None:
    """What is compared with, where it comes out as large as the picture does."""
    other = workshop.plan(looking.against, finer=plan.finer) if looking.against is not None else None
    return other.finished if other is not None and other.outer == plan.outer else None


def tile_keys(workshop: Workshop, stack: Stack, looking: Looking) -> list[tuple[int, int, str]]:
    """(column, row, key) of every tile looked at; the keys can then be fetched."""
    reader, node = reader_and_node(workshop, stack, looking)
    places = list(looking.rect.meet(reader.bounds).tiles())
    if len(places) > MOST_TILES:
        raise DocumentError([Fault("tiles", f"must be at most {MOST_TILES} at once")])
    out = []
    for tx, ty in places:
        key = reader.key(node, tx, ty)
        workshop.orders.put(key, Order(stack, looking, tx, ty))
        out.append((tx, ty, key.hex()))
    return out


def rgba(px: Planes, alpha: Planes | None = None) -> NDArray[np.uint8]:
    """(h, w, 4) codes for a canvas, rounded as an 8-bit export is; alpha: (1, h, w) or None for 1 everywhere."""
    _, h, w = px.shape
    out = canvas(h, w)
    onto_canvas(px, 0, 0, out)
    if alpha is not None:
        out[:, :, 3] = to_codes(alpha, 8)[:, :, 0]
    return out


def alpha_of(plan: Plan, looking: Looking) -> Node | None:
    """The alpha that a view is shown with."""
    return plan.alpha if VIEWS[looking.view].family == "picture" else None


def pixels_of(reader: Reader, node: Node, plan: Plan, looking: Looking, rect: Rect) -> NDArray[np.uint8]:
    """(h, w, 4) codes of a rectangle of what is looked at: pictures with the base's alpha, masks and marks without."""
    alpha = alpha_of(plan, looking)
    return rgba(reader.read(node, rect), None if alpha is None else reader.read(alpha, rect))


def is_for_later(workshop: Workshop, key: str) -> bool:
    """Whether nobody waits for a tile yet, as far as is known."""
    try:
        order = workshop.orders.get(bytes.fromhex(key))
    except ValueError:
        return False
    return order is not None and order.looking.soon


def tile_pixels(workshop: Workshop, key: str) -> bytes:
    """The raw RGBA bytes of a tile; raises NotFound for a key that was not given out (any more)."""
    try:
        raw = bytes.fromhex(key)
    except ValueError:
        raise NotFound("That is no tile key.") from None
    return workshop.shown.get_or(raw, partial(_tile, workshop, raw)).tobytes()


def _tile(workshop: Workshop, key: bytes) -> NDArray[np.uint8]:
    order = workshop.orders.get(key)
    if order is None:
        raise NotFound("That tile is no longer known; ask for the keys again.")
    reader, node = reader_and_node(workshop, order.stack, order.looking)
    rect = tile_rect(order.tx, order.ty).meet(reader.bounds)
    return pixels_of(reader, node, plan_seen(workshop, order.stack, order.looking), order.looking, rect)


def make_ahead(workshop: Workshop, stack: Stack, looking: Looking, keys: list[tuple[int, int, str]]) -> None:
    """Begin with tiles that will be asked for in a moment, while the rest of an answer is made; then with what a hand
    begins from, and what is seen once the layer worked on is switched. What was wanted so before, and was not begun
    yet, is given up."""
    begun = _begun_from(workshop, stack, looking)
    workshop.ahead.instead(_not_shown(workshop, keys), begun, partial(_switched, workshop, stack, looking))


def _not_shown(workshop: Workshop, keys: list[tuple[int, int, str]]) -> list[Callable[[], object]]:
    """What makes those tiles that are not there."""
    wanted = [key for *_, name in keys if workshop.shown.peek(key := bytes.fromhex(name)) is None]
    return [partial(workshop.shown.get_or, key, partial(_tile, workshop, key)) for key in wanted]


def _switched(workshop: Workshop, stack: Stack, looking: Looking) -> list[Callable[[], object]]:
    """What makes the tiles of what is seen with the layer worked on off, or on again: what is asked for most often. Of
    the picture at full size that is too much on the off chance."""
    layer = stack.find(looking.layer)
    if layer is None or layer.id == stack.base.id or looking.level < SMALL:
        return []
    other = stack.replaced(replace(layer, visible=not layer.visible))
    return _not_shown(workshop, tile_keys(workshop, other, replace(looking, soon=True)))


def make_ready(workshop: Workshop, stack: Stack, looking: Looking) -> None:
    """Make what a hand begins from, of what has been looked at for a while."""
    workshop.ahead.instead([], _begun_from(workshop, stack, looking))


def _begun_from(workshop: Workshop, stack: Stack, looking: Looking) -> list[Callable[[], object]]:
    """What makes all that a frame of a drag, and a point of a stroke, begin from and that stays the same from one to
    the next: what lies below the layer worked on, there and further out, and what is held still above it."""
    plan = plan_seen(workshop, stack, looking)
    if plan.working is None:
        return []
    reader, below = plan.reader(workshop.tiles, looking.level), plan.working
    seen = looking.rect.meet(reader.bounds)
    moving = Moving(plan, reader, looking.layer, ONE_HAND)
    nodes = [below, *moving.held] if plan.canvas_of(looking.layer) == plan.outer else moving.held
    made = [partial(reader.tile, node, x, y) for node in nodes for x, y in seen.tiles()]
    return [*made, partial(moving.prepare, seen)]


def quick_pixels(workshop: Workshop, stack: Stack, looking: Looking) -> tuple[Rect, NDArray[np.uint8]]:
    """What is looked at in one piece, for a drag: its rectangle of the level, its codes (h, w, 4). What is below the
    layer worked on is kept."""
    workshop.ahead.give_up()
    reader, node = reader_and_node(workshop, stack, looking)
    rect = looking.rect.meet(reader.bounds)
    if rect.empty or rect.w * rect.h > MOST_TILES * TILE * TILE:
        raise DocumentError([Fault("looking.rect", f"must hold pixels of the picture, at most {MOST_TILES} tiles")])
    plan = plan_seen(workshop, stack, looking)
    with crew() as hands:
        codes = Moving(plan, reader, looking.layer, hands).codes(node, rect)
    alpha = alpha_of(plan, looking)
    if alpha is not None:
        codes[:, :, 3] = to_codes(reader.read(alpha, rect), 8)[:, :, 0]
    return rect, codes


def quick_picture(workshop: Workshop, stack: Stack, looking: Looking, quality: int = 92) -> tuple[Rect, bytes]:
    """The same as a JPEG with chroma at full resolution, without alpha."""
    rect, codes = quick_pixels(workshop, stack, looking)
    profile = of_space(DISPLAY_P3) if looking.screen == DISPLAY_P3.name else b""
    return rect, encode_small(np.ascontiguousarray(codes[:, :, :3]), quality, profile)


def small_picture(workshop: Workshop, key: str, quality: int = 85) -> bytes:
    """A tile as a JPEG file, for cards."""
    pixels = np.frombuffer(tile_pixels(workshop, key), np.uint8)
    order = workshop.orders.get(bytes.fromhex(key))
    if order is None:
        raise NotFound("That tile is no longer known; ask for the keys again.")
    reader, _ = reader_and_node(workshop, order.stack, order.looking)
    rect = tile_rect(order.tx, order.ty).meet(reader.bounds)
    return encode_small(pixels.reshape(rect.h, rect.w, 4)[:, :, :3], quality)
