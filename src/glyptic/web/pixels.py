"""Pixels by key: immutable, so the browser's own cache makes going back instant."""

from __future__ import annotations

from flask import Blueprint, Response, request

from glyptic.actions.tiles import is_for_later, small_picture, tile_pixels
from glyptic.web.context import comes_first, workshop
from glyptic.web.statics import FOR_EVER

blueprint = Blueprint("pixels", __name__, url_prefix="/pixels")


def for_ever(response: Response) -> Response:
    """An answer that the browser keeps: what stands under its address never changes."""
    response.cache_control.private = True
    response.cache_control.immutable = True
    response.cache_control.max_age = FOR_EVER
    return response


GIVEN_UP = 499
BETWEEN, MOST = "+", 16
"""What stands between keys, and how many may be asked for together."""


def _given_up() -> bool:
    """Whether whoever asked no longer waits (the server tells, where it can)."""
    tell = request.environ.get("waitress.client_disconnected")
    return tell is not None and bool(tell())


@blueprint.get("/<keys>.rgba")
def tiles(keys: str) -> Response:
    """The raw RGBA codes of tiles, row by row, one tile after the other; nothing is worked out for a page that has
    moved on."""
    wanted = keys.split(BETWEEN, MOST)
    return _made(wanted) if is_for_later(workshop(), wanted[0]) else comes_first(_made)(wanted)


def _made(keys: list[str]) -> Response:
    found = []
    for key in keys:
        if _given_up():
            return Response(status=GIVEN_UP)
        found.append(tile_pixels(workshop(), key))
    return for_ever(Response(b"".join(found), mimetype="application/octet-stream"))


@blueprint.get("/<key>.jpg")
def small(key: str) -> Response:
    """A tile as a small JPEG, for cards."""
    return for_ever(Response(small_picture(workshop(), key), mimetype="image/jpeg"))
