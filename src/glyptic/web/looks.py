"""The looks of the pages: light, dim, or as the system wishes; kept in a cookie, so that no page comes in another."""

from __future__ import annotations

from flask import Blueprint, redirect, request
from werkzeug.wrappers import Response

from glyptic.web.statics import FOR_EVER

blueprint = Blueprint("looks", __name__)
COOKIE = "glyptic-look"
LOOKS = (("light", "Light bench"), ("dim", "Dim bench"), ("system", "As the system wishes"))


def chosen_look() -> str:
    """The look that was chosen in this browser."""
    kept = request.cookies.get(COOKIE, "")
    return kept if kept in dict(LOOKS) else "system"


@blueprint.post("/look")
def choose() -> Response:
    """Choose a look: look=, and back= the page to go back to."""
    wanted, back = request.form.get("look", ""), request.form.get("back", "/")
    response = redirect(back if back.startswith("/") and not back.startswith(("//", "/\\")) else "/")
    if wanted in dict(LOOKS):
        response.set_cookie(COOKIE, wanted, max_age=FOR_EVER, samesite="Strict", httponly=True)
    return response
