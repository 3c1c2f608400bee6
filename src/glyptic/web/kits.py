"""Kits: kept from a plate's cards, tried and added on the bench, described and passed on from a page of their own."""

from __future__ import annotations

import io
from typing import Any

from flask import Blueprint, Response, jsonify, render_template, request, send_file
from werkzeug.wrappers import Response as BaseResponse

from glyptic.actions.kits import keeping as kits
from glyptic.actions.shelve import list_plates
from glyptic.actions.starting import preview_of_kit
from glyptic.base.errors import DocumentError, Fault, PictureError
from glyptic.base.meaning import of_pixels
from glyptic.demo.shelf import put_demo_kits
from glyptic.document.kit_making import Keeping
from glyptic.web.context import asked_whole, body, text, whole, workshop
from glyptic.web.pixels import for_ever

LONGEST_NOTE = 1000
blueprint = Blueprint("kits", __name__)


def _page() -> dict[str, Any]:
    shop = workshop()
    plates = list_plates(shop)
    asked = asked_whole("on")
    shown_on = next((plate for plate in plates if plate.id == asked), plates[0] if plates else None)
    return {
        "kits": kits.list_kits(shop), "removed": kits.list_kits(shop, removed=True), "plates": plates, "on": shown_on,
    }  # fmt: skip


def _list() -> str:
    return render_template("kits/list.html", **_page())


@blueprint.get("/kits")
def index() -> str:
    return render_template("kits/page.html", **_page())


@blueprint.post("/kits/<int:kit_id>/words")
def reword(kit_id: int) -> str:
    """Another name and note for a kit."""
    kits.reword_kit(workshop(), kit_id, request.form.get("name", ""), request.form.get("note", ""))
    return _list()


@blueprint.post("/kits/<int:kit_id>/remove")
def remove(kit_id: int) -> str:
    kits.remove_kit(workshop(), kit_id)
    return _list()


@blueprint.post("/kits/<int:kit_id>/put-back")
def put_back(kit_id: int) -> str:
    kits.put_kit_back(workshop(), kit_id)
    return _list()


@blueprint.get("/kits/<int:kit_id>/file")
def save(kit_id: int) -> BaseResponse:
    """A kit's file: JSON, or a ZIP with its pictures."""
    name, content = kits.written_kit(workshop(), kit_id)
    kind = "application/zip" if name.endswith(".zip") else "application/json"
    answer = send_file(io.BytesIO(content), mimetype=kind, as_attachment=True, download_name=name)
    answer.headers["Cache-Control"] = "private, no-store"
    return answer


@blueprint.post("/kits/files")
def read_files() -> Response:
    """Keep the kits of uploaded files; with a field `instead`, in place of the kit of that number."""
    files = {str(one.filename): one.stream.read() for one in request.files.getlist("kit") if one.filename}
    if not files:
        raise PictureError("No file came with the request; nothing was changed. Choose a kit file.")
    made = kits.read_kit_files(workshop(), files, request.form.get("instead", type=int))
    return jsonify(made=made, html=_list())


@blueprint.post("/kits/demo")
def demo() -> str:
    """Put the demo kits among those that are kept."""
    put_demo_kits(workshop())
    return _list()


@blueprint.get("/plates/<int:plate_id>/kits")
def entries(plate_id: int) -> str:
    """The kits as the Add sheet of a plate shows them."""
    current = workshop().current(plate_id)
    return render_template("kits/entries.html", kits=kits.list_kits(workshop()), current=current)


@blueprint.get("/plates/<int:plate_id>/kits/<int:kit_id>.jpg")
def picture(plate_id: int, kit_id: int) -> Response:
    """A small picture of the plate with a kit on it; ?root= and ?at= name the states of both, so that it may be
    kept."""
    current = workshop().current(plate_id)
    response = Response(preview_of_kit(workshop(), current.stack, kit_id), mimetype="image/jpeg")
    asked = request.args
    if asked.get("root") == current.root.hex() and asked.get("made") == of_pixels().hex() and asked.get("at"):
        return for_ever(response)
    return response


def _chosen(plain: dict[str, Any]) -> list[str]:
    layers = plain.get("layers")
    if not isinstance(layers, list) or not all(isinstance(one, str) for one in layers):
        raise DocumentError([Fault("layers", "must be a list of the chosen cards")])
    return layers


@blueprint.post("/plates/<int:plate_id>/kits")
def keep(plate_id: int) -> Response:
    """Keep chosen cards as a kit: {"layers", "name", "note", "painting", "over", "instead"}; a name that is taken is
    answered with the number of the kit that has it."""
    plain = body()
    note = plain.get("note", "")
    if not isinstance(note, str) or len(note) > LONGEST_NOTE:
        raise DocumentError([Fault("note", f"must be a text of at most {LONGEST_NOTE} characters")])
    keeping = Keeping(text(plain, "name"), note, plain.get("painting") is not False, plain.get("over") is True)
    instead = whole(plain, "instead") if plain.get("instead") is not None else None
    made = kits.keep_kit(workshop(), plate_id, _chosen(plain), keeping, instead)
    return jsonify(kit=made, name=keeping.name.strip())
