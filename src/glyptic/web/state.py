"""A state of a plate as the page needs it: what the canvas and the hand work with, and the answer to a change."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from flask import Response, jsonify, render_template

from glyptic.actions.proofs import names_of as names_of_proofs
from glyptic.actions.tiles import make_ahead, tile_keys
from glyptic.actions.turns import MOST
from glyptic.actions.workshop import Current, Workshop
from glyptic.adjust import KINDS
from glyptic.adjust.kind import Aid
from glyptic.base.errors import StaleEdit
from glyptic.base.rectangles import Canvas
from glyptic.document.carriage import plain_place
from glyptic.document.edits.across import on_sheet
from glyptic.document.edits.notes import set_is_on
from glyptic.document.edits.strokes import paintings_of
from glyptic.document.framing import Crop
from glyptic.document.notes import plain_notes
from glyptic.document.placing import corners_of
from glyptic.document.values import FRAME, Frame, Layer, Mask, Stack
from glyptic.masks import PARTS
from glyptic.masks.region import REGION
from glyptic.web.context import asked_number, looking, settle_soon, whole, workshop
from glyptic.web.declared import FrameState, PageState, Seeds, Shape, Target
from glyptic.web.desk import STRAIGHT_PATH, curve_paths, desk_of, sheet_of, strip_of
from glyptic.web.frame import frame_desk_of

SHAPES = ("ramp", "oval", "outline")
OWN_SHAPES = {"gradient": "ramp", "vignette": "oval"}
FRAGMENTS = ("desk", "strip", "history")


def target_of(current: Current) -> Target:
    """What a stroke could paint on."""
    layer = current.stack.find(current.chosen)
    if layer is None or layer.id == current.stack.base.id:
        is_frame = current.chosen == FRAME
        return {
            "name": "Frame" if is_frame else "Base", "kind": "frame" if is_frame else "picture",
            "grey": False, "mask": False, "masked": False, "strokes": 0,
            "why": "choose a grey layer or a mask", "off": False, "bare": "",
        }  # fmt: skip
    free = not layer.locked
    return {
        "name": layer.name, "grey": free and layer.kind == "grey", "mask": free,
        "why": f"‘{layer.name}’ is locked" if layer.locked else "",
        "masked": layer.mask is not None, "kind": layer.kind,
        "strokes": sum(len(strokes) for strokes in paintings_of(layer).values()),
        "off": not layer.visible or (layer.mask is not None and not layer.mask.enabled),
        "bare": _bare(layer.mask),
    }  # fmt: skip


def _bare(mask: Mask | None) -> str:
    """How a mask starts that has nothing on it yet."""
    if mask is None or mask.linked or any(part.enabled for part in mask.parts):
        return ""
    return "closed" if (mask.start == "closed") != mask.invert else "open"


def shapes_of(current: Current) -> list[Shape]:
    """What of the chosen layer has handles on the picture: drawn parts of its mask, a gradient or vignette itself."""
    layer = current.stack.find(current.chosen)
    if layer is None or layer.locked:
        return []
    found: list[Shape] = []
    for i, part in enumerate(layer.mask.parts if layer.mask else ()):
        if part.kind in SHAPES:
            values = {"rotation": 0, **PARTS[part.kind].schema.plain(part.settings)}
            found.append({"part": i, "shape": part.kind, "field": f"mask.parts[{i}]", "values": values})
    if layer.place is not None:
        size = workshop().pictures_of(current.stack)(*layer.picture).canvas
        values = {**plain_place(layer.place), "corners": [list(corner) for corner in corners_of(layer.place, *size)]}
        values["free"] = layer.place.corners is not None
        found.append({"part": None, "shape": "picture", "field": "place", "values": values})
    own = OWN_SHAPES.get(layer.kind)
    if own is not None:
        values = {"rotation": 0, **KINDS[layer.kind].schema.plain(layer.settings)}
        found.append({"part": None, "shape": own, "field": "settings", "values": values})
    return found


def regions_of(current: Current) -> list[Seeds]:
    """The regions in the chosen layer's mask: their place in it and their scribbles."""
    layer = current.stack.find(current.chosen)
    parts = layer.mask.parts if layer is not None and layer.mask is not None and not layer.locked else ()
    return [
        {"part": i, "seeds": [dict(seed) for seed in part.settings["seeds"]]}
        for i, part in enumerate(parts)
        if part.kind == REGION.name
    ]


def frame_state(frame: Frame | None) -> FrameState | None:
    """What the page knows of a frame."""
    if frame is None:
        return None
    turn = Crop(frame.corners, frame.size).turn
    corners = [list(corner) for corner in frame.corners]
    return {
        "corners": corners,
        "size": list(frame.size),
        "border": list(frame.border),
        "enabled": frame.enabled,
        "turn": turn,
        "refines": frame.steps is None,
    }


def _through(stack: Stack, chosen: str) -> list[float] | None:
    """See PageState.through; the frame's own card works in the picture's pixels."""
    frame = stack.frame
    if frame is None or not frame.enabled or on_sheet(stack, chosen):
        return None
    return [number for row in frame.onto.rows for number in row]


def picks_of(layer: Layer | None) -> tuple[Aid, ...]:
    """What can be set on a layer by pressing on the picture."""
    return KINDS[layer.kind].picks if layer is not None and not layer.locked else ()


def page_state(current: Current) -> PageState:
    """What the page knows of a state."""
    layer = current.stack.find(current.chosen)
    picture, frame = workshop().base_of(current.stack), current.stack.frame
    outer = Canvas(*frame.sheet) if frame is not None and frame.enabled else picture.canvas
    return {
        "revision": current.revision,
        "space": current.stack.working_space,
        "trouble": current.trouble,
        "said": current.sentence,
        "chosen": current.chosen,
        "target": target_of(current),
        "curves": curve_paths(layer) if layer else {},
        "straight": STRAIGHT_PATH,
        "picks": {aid.name: {"title": aid.title, "help": aid.help, "drags": aid.drags} for aid in picks_of(layer)},
        "shapes": shapes_of(current),
        "regions": regions_of(current),
        "frame": frame_state(current.stack.frame),
        "through": _through(current.stack, current.chosen),
        "whole": list(picture.canvas),
        "sheet": list(outer),
        "deepest": outer.deepest,
        "root": current.root.hex(),
        "undo": current.before.hex() if current.before else None,
        "redo": current.after.hex() if current.after else None,
        "base": current.stack.base.id,
        "proofs": names_of_proofs(workshop(), current.plate_id),
        "notes": plain_notes(current.stack.notes),
    }


def sets_of(stack: Stack) -> list[dict[str, Any]]:
    """The sets as the strip shows them."""
    return [{"name": one["name"], "layers": one["layers"], "on": set_is_on(stack, one)} for one in stack.notes.sets]


def fragments(current: Current) -> dict[str, Any]:
    """What the templates of the desk and the strip are drawn from."""
    shop = workshop()
    return {
        "desk": desk_of(shop, current), "strip": strip_of(shop, current), "sheet": sheet_of(shop, current),
        "frame": frame_desk_of(shop, current), "sets": sets_of(current.stack),
    }  # fmt: skip


def answer(current: Current, plain: dict[str, Any]) -> Response:
    """The state after a request: fragments of the page, and the keys of what is on screen."""
    keys, level = [], 0.0
    if plain.get("looking"):
        at = replace(looking(plain, current.plate_id), layer=current.chosen)
        level = at.level
        keys = tile_keys(workshop(), current.stack, at)
        make_ahead(workshop(), current.stack, at, keys)
        if plain.get("tried"):
            workshop().ahead.wait(MOST)
    settle_soon(current, level)
    state, shown = page_state(current), fragments(current)
    html = {name: render_template(f"bench/{name}.html", current=current, state=state, **shown) for name in FRAGMENTS}
    return jsonify(**state, html=html, keys=keys)


def changed(plate_id: int, plain: dict[str, Any], change: Callable[[Workshop, int], Current]) -> Response:
    """The answer to a change of the revision named in the request; a stale one is answered with the current state."""
    shop = workshop()
    try:
        with shop.stops.under(asked_number(plain) or ""):
            current = change(shop, whole(plain, "revision"))
        return answer(current, plain)
    except StaleEdit as error:
        return _stale(plate_id, plain, error)


def _stale(plate_id: int, plain: dict[str, Any], error: StaleEdit) -> Response:
    response = answer(workshop().current(plate_id), plain)
    response.status_code = 409
    state = response.get_json()
    response.set_data(jsonify(**state, message=str(error)).get_data())
    return response
