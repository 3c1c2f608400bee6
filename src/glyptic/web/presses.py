"""Presses: profiles brought, and what of a plate they cannot print."""

from __future__ import annotations

from flask import Blueprint, Response, jsonify, render_template, request

from glyptic.actions.presses import keep_press, list_presses, press_asked, unprintable
from glyptic.base.errors import PictureError
from glyptic.web.context import body, workshop

blueprint = Blueprint("presses", __name__)
LEAST_TOLD = 0.0005


@blueprint.post("/presses")
def keep() -> Response:
    """Keep an uploaded profile: its key, and the choice of presses anew."""
    file = request.files.get("profile")
    if file is None:
        raise PictureError("No file came with the request; nothing was changed. Choose a profile.")
    kept = keep_press(workshop(), file.stream.read())
    choice = render_template("parts/presses.html", presses=list_presses(workshop()), chosen=kept.key)
    return jsonify(key=kept.key, name=kept.name, html=choice)


@blueprint.post("/plates/<int:plate_id>/printed")
def printed(plate_id: int) -> Response:
    """How much of the plate the press that is asked for cannot print, whose doing that is: {"press"}."""
    current = workshop().current(plate_id)
    found = unprintable(workshop(), current, press_asked(workshop(), body().get("press")))
    names = {layer.id: layer.name for layer in current.stack.walk()}
    ranked = sorted(((share, name) for name, share in found.layers.items() if share >= LEAST_TOLD), reverse=True)
    blamed = [{"name": names[layer], "share": share} for share, layer in ranked if layer in names]
    return jsonify(
        revision=current.revision, finished=found.finished, base=found.base, layers=found.layers, blamed=blamed
    )
