"""The shelf: plates as cards, opening pictures, rename, duplicate, remove, put back."""

from __future__ import annotations

from flask import Blueprint, Response, jsonify, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from glyptic.actions import shelve
from glyptic.actions.measure import shelf_picture
from glyptic.actions.open_picture import open_picture
from glyptic.base.errors import NotFound, PictureError
from glyptic.web.context import workshop
from glyptic.web.statics import FOR_EVER

blueprint = Blueprint("shelf", __name__)


@blueprint.get("/")
def shelf() -> str:
    return render_template("shelf/page.html", **_shelf())


@blueprint.get("/settings")
def settings() -> str:
    """The pen, and a pad to try it on."""
    return render_template("settings/page.html")


def _shelf() -> dict[str, object]:
    shop = workshop()
    return {
        "plates": shelve.list_plates(shop),
        "removed": shelve.list_plates(shop, removed=True),
        "limit": shop.limit // 1_000_000,
    }


def _plates() -> str:
    return render_template("shelf/plates.html", **_shelf())


@blueprint.get("/plates/small/<made_by>/<root>.jpg")
def small(made_by: str, root: str) -> Response:
    """The small finished picture of a state; the address names the state and the code that draws it, so it never
    changes."""
    try:
        state = bytes.fromhex(root)
    except ValueError:
        raise NotFound("That is no state of a plate.") from None
    response = Response(shelf_picture(workshop(), state), mimetype="image/jpeg")
    response.cache_control.immutable = True
    response.cache_control.max_age = FOR_EVER
    return response


@blueprint.post("/plates")
def open_file() -> Response:
    """Open one uploaded file; answers with the plates as they then stand, or with a sentence."""
    sent = request.files.get("picture")
    if sent is None or not sent.filename:
        raise PictureError("No file came with the request; nothing was changed. Choose a JPEG, PNG or TIFF.")
    number = open_picture(workshop(), sent.stream.read(), sent.filename)
    return jsonify(plate=number, name=sent.filename, html=_plates())


@blueprint.post("/plates/<int:plate_id>/name")
def rename(plate_id: int) -> str:
    shelve.rename(workshop(), plate_id, request.form.get("name", ""))
    return _plates()


@blueprint.post("/plates/<int:plate_id>/copy")
def copy(plate_id: int) -> str:
    shelve.duplicate(workshop(), plate_id)
    return _plates()


@blueprint.post("/plates/<int:plate_id>/remove")
def remove(plate_id: int) -> str:
    shelve.remove(workshop(), plate_id)
    return _plates()


@blueprint.post("/plates/<int:plate_id>/put-back")
def put_back(plate_id: int) -> str:
    shelve.put_back(workshop(), plate_id)
    return _plates()


@blueprint.get("/favicon.ico")
def favicon() -> BaseResponse:
    return redirect(url_for("static", filename="mark.svg"))
