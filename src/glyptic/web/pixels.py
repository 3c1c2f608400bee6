"""Pixels by key: immutable, so the browser's own cache makes going back instant."""

from __future__ import annotations

from flask import Blueprint, Response

from glyptic.actions.tiles import small_picture, tile_pixels
from glyptic.web.context import workshop

blueprint = Blueprint("pixels", __name__, url_prefix="/pixels")

FOR_EVER = 31_536_000


def _immutable(response: Response) -> Response:
    response.cache_control.private = True
    response.cache_control.immutable = True
    response.cache_control.max_age = FOR_EVER
    return response


@blueprint.get("/<key>.rgba")
def tile(key: str) -> Response:
    """The raw RGBA codes of a tile, row by row."""
    return _immutable(Response(tile_pixels(workshop(), key), mimetype="application/octet-stream"))


@blueprint.get("/<key>.jpg")
def small(key: str) -> Response:
    """A tile as a small JPEG, for cards."""
    return _immutable(Response(small_picture(workshop(), key), mimetype="image/jpeg"))
