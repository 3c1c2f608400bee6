"""Pictures over a plate and the frame around it: laid, registered, merged, taken from other plates; cropped."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, jsonify, request, url_for

from glyptic.actions import edit
from glyptic.actions.copying import copied, paste
from glyptic.actions.framing import FIND_LEVEL, do_to_frame, level_by_lines
from glyptic.actions.merging import add_from_plate, merge, renew
from glyptic.actions.open_picture import keep_asset
from glyptic.actions.placing import lay_picture
from glyptic.actions.registering import lay_over
from glyptic.actions.shelve import list_plates
from glyptic.actions.starting import starting_layer
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import PictureError
from glyptic.base.meaning import of_pixels
from glyptic.web.context import asked_number, body, form_request, text, whole, workshop
from glyptic.web.state import changed

blueprint = Blueprint("pictures", __name__, url_prefix="/plates/<int:plate_id>")


def after_of(plain: dict[str, Any]) -> str | None:
    """The layer that a new one is to follow."""
    after = plain.get("after")
    return after if isinstance(after, str) else None


def added(plate_id: int, plain: dict[str, Any], layer: dict[str, Any]) -> Response:
    arguments = {"layer": layer, "after": plain.get("after"), "beside": plain.get("beside", False)}
    number = asked_number(plain)
    return changed(
        plate_id, plain,
        lambda shop, revision: edit.apply_edit(shop, plate_id, revision, "add-layer", arguments, number),
    )  # fmt: skip


@blueprint.post("/frame")
def frame(plate_id: int) -> Response:
    """Do a deed to the frame: {"revision", "deed", "arguments", "looking"}; "find-level" looks for long lines."""
    plain = body()
    asked = plain.get("arguments")
    arguments = asked if isinstance(asked, dict) else {}
    deed, token = text(plain, "deed"), asked_number(plain)

    def do(shop: Workshop, revision: int) -> Current:
        if deed == FIND_LEVEL:
            return level_by_lines(shop, plate_id, revision, bool(arguments.get("inside", True)), token)
        return do_to_frame(shop, plate_id, revision, deed, arguments, token)

    return changed(plate_id, plain, do)


@blueprint.post("/merge")
def merge_below(plate_id: int) -> Response:
    """A picture of everything up to a layer, put after it: {"revision", "after", "looking"}."""
    plain = body()
    after, token = text(plain, "after"), asked_number(plain)
    return changed(plate_id, plain, lambda shop, revision: merge(shop, plate_id, revision, after, token))


@blueprint.post("/renew")
def renew_copy(plate_id: int) -> Response:
    """A merged copy made anew: {"revision", "layer", "looking"}."""
    plain = body()
    layer, token = text(plain, "layer"), asked_number(plain)
    return changed(plate_id, plain, lambda shop, revision: renew(shop, plate_id, revision, layer, token))


@blueprint.post("/register")
def register(plate_id: int) -> Response:
    """A picture laid exactly over what is below it: {"revision", "layer", "looking"}."""
    plain = body()
    layer, token = text(plain, "layer"), asked_number(plain)
    return changed(plate_id, plain, lambda shop, revision: lay_over(shop, plate_id, revision, layer, token))


@blueprint.get("/others")
def others(plate_id: int) -> Response:
    """The other plates on the shelf, for their pictures to be laid over this one."""
    cards = [card for card in list_plates(workshop()) if card.id != plate_id]
    return jsonify(plates=[
        {"id": card.id, "name": card.name, "size": [card.width, card.height],
         "picture": url_for("shelf.small", made_by=of_pixels().hex(), root=card.root)}
        for card in cards
    ])  # fmt: skip


@blueprint.post("/from-plate")
def from_plate(plate_id: int) -> Response:
    """Another plate's picture laid over this one: {"revision", "plate", "finished", "after", "start", "looking"}."""
    plain = body()
    other, finished = whole(plain, "plate"), bool(plain.get("finished"))
    start = text(plain, "start") if "start" in plain else "open"
    return changed(
        plate_id, plain,
        lambda shop, revision: add_from_plate(
            shop, plate_id, revision, other, finished, after_of(plain), start, asked_number(plain)
        ),
    )  # fmt: skip


@blueprint.post("/copied")
def copied_layers(plate_id: int) -> Response:
    """What is copied of some layers, for this plate or another: {"layers"}."""
    asked = body().get("layers")
    ids = [one for one in asked if isinstance(one, str)] if isinstance(asked, list) else []
    return jsonify(copied=copied(workshop(), plate_id, ids))


@blueprint.post("/paste")
def paste_layers(plate_id: int) -> Response:
    """Copied layers put after another one: {"revision", "copied", "after", "looking"}."""
    plain = body()
    sent, token = plain.get("copied"), asked_number(plain)
    found = sent if isinstance(sent, dict) else {}
    return changed(
        plate_id, plain, lambda shop, revision: paste(shop, plate_id, revision, found, after_of(plain), token)
    )


@blueprint.post("/place")
def place(plate_id: int) -> Response:
    """Lay a picture layer: {"revision", "layer", "way", "looking"}; see `actions.placing.LAYINGS`."""
    plain = body()
    layer, way, token = text(plain, "layer"), text(plain, "way"), asked_number(plain)
    return changed(plate_id, plain, lambda shop, revision: lay_picture(shop, plate_id, revision, layer, way, token))


@blueprint.post("/pictures")
def add_picture(plate_id: int) -> Response:
    """Add a picture layer from an uploaded file; the other fields come as JSON in the form."""
    sent = request.files.get("picture")
    if sent is None or not sent.filename:
        raise PictureError("No file came with the request; nothing was changed. Choose a picture.")
    shop = workshop()
    plain = form_request()
    asset = keep_asset(shop, sent.stream.read(), sent.filename)
    start = text(plain, "start") if "start" in plain else "open"
    layer = starting_layer(shop, shop.current(plate_id).stack, "picture", start, after_of(plain), asset)
    layer["name"] = (sent.filename.rsplit(".", 1)[0] or "Picture")[:60]
    return added(plate_id, plain, layer)
