"""Areas and faults of masks: regions, the backdrop, snapping, gaps and spill, halos."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, jsonify, request

from glyptic.actions import areas, faults
from glyptic.base.errors import DocumentError, Fault, PictureError
from glyptic.params import Point
from glyptic.web.context import body, form_request, number, text, whole, workshop
from glyptic.web.state import changed

blueprint = Blueprint("areas", __name__, url_prefix="/plates/<int:plate_id>/areas")
ASKED = ("seeds", "edge", "begin", "op")


@blueprint.post("/region")
def region(plate_id: int) -> Response:
    """Find an area, or find one anew: {"revision", "layer", "part", "seeds", "edge", "begin", "op", "looking"}."""
    plain = body()
    part = None if plain.get("part") is None else whole(plain, "part")
    if part is not None and part < 0:
        raise DocumentError([Fault("part", "must be a place in the list")])
    asked: dict[str, Any] = {name: plain[name] for name in ASKED if name in plain}
    return changed(
        plate_id, plain,
        lambda shop, revision: areas.find_region(shop, plate_id, revision, text(plain, "layer"), part, asked),
    )  # fmt: skip


@blueprint.post("/picture")
def picture(plate_id: int) -> Response:
    """Add an uploaded grey picture as a part; the other fields come as JSON in the form: {"revision", "layer", "op",
    "looking"}."""
    sent = request.files.get("picture")
    if sent is None or not sent.filename:
        raise PictureError("No file came with the request; nothing was changed. Choose a grey picture.")
    plain = form_request()
    data, name = sent.stream.read(), sent.filename
    layer, op = text(plain, "layer"), text(plain, "op")
    return changed(
        plate_id, plain,
        lambda shop, revision: areas.add_picture_part(shop, plate_id, revision, layer, data, name, op),
    )  # fmt: skip


@blueprint.post("/snap")
def snap(plate_id: int) -> Response:
    """Snap the mask's border to the picture's edges: {"revision", "layer", "width", "looking"}."""
    plain = body()
    width = number(plain, "width")
    return changed(
        plate_id, plain,
        lambda shop, revision: areas.snap_mask(shop, plate_id, revision, text(plain, "layer"), width),
    )  # fmt: skip


def _places(found: list[Any]) -> list[dict[str, Any]]:
    return [
        {"kind": place.kind, "rect": list(place.rect), "pixels": place.pixels, "at": list(place.at), "path": place.path}
        for place in found
    ]


@blueprint.post("/gaps")
def gaps(plate_id: int) -> Response:
    """Gaps and spill of a mask: {"layer", "across"}; their places in full-size pixels, the largest first."""
    plain = body()
    found = faults.gaps(workshop(), plate_id, text(plain, "layer"), number(plain, "across"))
    return jsonify(places=_places(found))


@blueprint.post("/halos")
def halos(plate_id: int) -> Response:
    """Where a mask does not keep to the picture's edges: {"layer"}; places in full-size pixels, the worst first."""
    return jsonify(places=_places(faults.halos(workshop(), plate_id, text(body(), "layer"))))


@blueprint.post("/mend")
def mend(plate_id: int) -> Response:
    """Close gaps or drop spill: {"revision", "layer", "across", "kind", "at", "looking"}; all of them without "at"."""
    plain = body()
    at = None if plain.get("at") is None else _place(plain["at"])
    across, kind, layer = number(plain, "across"), text(plain, "kind"), text(plain, "layer")
    return changed(
        plate_id, plain, lambda shop, revision: faults.mend(shop, plate_id, revision, layer, across, kind, at)
    )


def _place(raw: object) -> tuple[float, float]:
    found: list[Fault] = []
    pair = Point().parse(raw, "at", found)
    if pair is None:
        raise DocumentError(found)
    return pair
