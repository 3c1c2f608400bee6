"""Proofs: pulled, listed, compared with now, returned to."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, jsonify, render_template

from glyptic.actions import proofs
from glyptic.actions.measure import shelf_picture
from glyptic.base.errors import NotFound
from glyptic.web.context import asked_number, body, text, whole, workshop
from glyptic.web.pixels import for_ever
from glyptic.web.state import changed

blueprint = Blueprint("proofs", __name__, url_prefix="/plates/<int:plate_id>/proofs")


@blueprint.get("")
def index(plate_id: int) -> str:
    """The list of proofs, the newest first; how each differs from now is asked for by its line."""
    current = workshop().current(plate_id)
    return render_template("proofs/list.html", current=current, proofs=proofs.plain_list(workshop(), plate_id))


def _found(plate_id: int, proof_id: int) -> proofs.Pulled:
    for one in proofs.plain_list(workshop(), plate_id):
        if one.id == proof_id:
            return one
    raise NotFound(proofs.GONE)


@blueprint.get("/<int:proof_id>/apart")
def apart(plate_id: int, proof_id: int) -> str:
    """How a proof differs from now, in words."""
    current = workshop().current(plate_id)
    found = proofs.compared(workshop(), current, _found(plate_id, proof_id))
    return render_template("proofs/apart.html", proof=found)


@blueprint.get("/<int:proof_id>/<root>.jpg")
def picture(plate_id: int, proof_id: int, root: str) -> Response:
    """A small picture of a proof; its root stands in the address, so that it may be kept."""
    return for_ever(Response(shelf_picture(workshop(), _found(plate_id, proof_id).root), mimetype="image/jpeg"))


def _words(plain: dict[str, Any]) -> tuple[str, str]:
    return text(plain, "name"), text(plain, "note", 600)


@blueprint.post("")
def pull(plate_id: int) -> Response:
    """Pull a proof of the current state: {"revision", "name", "note"}; '' for the next name."""
    plain = body()
    name, note = _words(plain)
    made = proofs.pull(workshop(), plate_id, whole(plain, "revision"), name, note, asked_number(plain))
    return jsonify(id=made.id, name=made.name, count=proofs.count_of(workshop(), plate_id))


@blueprint.post("/<int:proof_id>")
def reword(plate_id: int, proof_id: int) -> Response:
    """Another name and note: {"name", "note"}."""
    name, note = _words(body())
    proofs.reword(workshop(), plate_id, proof_id, name, note)
    return jsonify(id=proof_id)


@blueprint.post("/return")
def return_to(plate_id: int) -> Response:
    """Return to a proof, by a step like any other: {"revision", "proof", "looking"}."""
    plain = body()
    return changed(
        plate_id, plain,
        lambda shop, revision: proofs.return_to(shop, plate_id, revision, whole(plain, "proof"), asked_number(plain)),
    )  # fmt: skip
