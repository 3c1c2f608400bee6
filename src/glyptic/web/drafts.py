"""What an edit would show: while it is being dragged, and before it is kept."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, jsonify

from glyptic.actions import edit
from glyptic.actions.tiles import make_ahead, quick_picture, quick_pixels, tile_keys
from glyptic.web.bench import faults_of
from glyptic.web.context import body, comes_first, framed, is_near, looking, text, whole, workshop
from glyptic.web.desk import curve_paths

blueprint = Blueprint("drafts", __name__, url_prefix="/plates/<int:plate_id>")


@blueprint.post("/drafts")
@comes_first
def draft(plate_id: int) -> Response:
    """What an edit would show of the current state, while it is being dragged; nothing is stored, so nothing is ever
    stale. A head and what is looked at, raw for a browser on this machine and a JPEG for any other; or, with "exact",
    its keys."""
    plain = body()
    name, arguments = text(plain, "edit"), plain.get("arguments")
    stack = edit.try_edit(workshop(), plate_id, name, arguments if isinstance(arguments, dict) else {})
    at = looking(plain, plate_id)
    if plain.get("exact"):
        return jsonify(keys=tile_keys(workshop(), stack, at))
    layer = stack.find(at.layer)
    head: dict[str, Any] = {"level": at.level, "curves": curve_paths(layer) if layer else {}}
    head["faults"] = faults_of(stack, at.layer)
    if is_near():
        rect, codes = quick_pixels(workshop(), stack, at)
        return framed({**head, "rect": list(rect), "raw": True}, codes.tobytes())
    rect, picture = quick_picture(workshop(), stack, at)
    return framed({**head, "rect": list(rect)}, picture)


@blueprint.post("/tried")
@comes_first
def tried(plate_id: int) -> Response:
    """The keys of what an edit leads to, which is about to be kept: as /edits, which waits for it where it is told."""
    plain = body()
    name, arguments, revision = text(plain, "edit"), plain.get("arguments"), whole(plain, "revision")
    given = arguments if isinstance(arguments, dict) else {}
    stack = edit.before_keeping(workshop(), plate_id, revision, name, given)
    at = looking(plain, plate_id)
    found = tile_keys(workshop(), stack, at)
    make_ahead(workshop(), stack, at, found)
    return jsonify(keys=found)
