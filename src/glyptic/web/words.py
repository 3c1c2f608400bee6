"""Captions and rights for many plates at once: what is filled in is written on each, the rest stays as it is there."""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from glyptic.actions.captions import words_of, write_some
from glyptic.base.errors import DocumentError, Fault
from glyptic.document.words import WORDS
from glyptic.web.context import workshop
from glyptic.web.files import words_asked

blueprint = Blueprint("words", __name__, url_prefix="/words")
MOST = 2000


def _plates(text: str) -> list[int]:
    numbers = [part for part in text.split(",") if part]
    if not numbers or len(numbers) > MOST or not all(part.isdecimal() for part in numbers):
        raise DocumentError([Fault("plates", f"must be 1 to {MOST} numbers of plates")])
    return [int(part) for part in numbers]


@blueprint.get("/")
def page() -> str:
    """?plates= the numbers of the plates, parted by commas."""
    shop = workshop()
    plates = _plates(request.args.get("plates", ""))
    found = [shop.current(plate) for plate in plates]
    rows = [(current, words_of(shop, current)) for current in found]
    same = {name: _shared([words[name] for _, words in rows]) for name in WORDS.params}
    return render_template("words/page.html", rows=rows, params=WORDS.params, same=same, plates=plates)


def _shared(values: list[object]) -> object:
    """What all have alike; None where they differ."""
    return values[0] if all(value == values[0] for value in values) else None


@blueprint.post("/")
def write() -> BaseResponse:
    """Write the fields that are ticked on every plate, each a step of its log."""
    plates = _plates(request.form.get("plates", ""))
    asked = words_asked()
    ticked = {name: asked[name] for name in WORDS.params if f"write-{name}" in request.form}
    write_some(workshop(), plates, ticked)
    return redirect(url_for("words.page", plates=",".join(map(str, plates))), 303)
