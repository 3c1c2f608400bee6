"""Shoots, and what is done to many plates of the shelf at once."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, jsonify, url_for

from glyptic.actions import shelve, shoots
from glyptic.base.errors import DocumentError, Fault
from glyptic.web.context import LARGEST, body, text, whole, workshop
from glyptic.web.shelf_view import view

MOST_PLATES = 100_000
blueprint = Blueprint("shoots", __name__)


def plates_in(plain: dict[str, Any]) -> list[int]:
    """The plates a request names; raises DocumentError."""
    numbers = plain.get("plates")
    found = numbers if isinstance(numbers, list) and len(numbers) <= MOST_PLATES else []
    if not found or not all(type(one) is int and 0 <= one <= LARGEST for one in found):
        raise DocumentError([Fault("plates", "must be a list of the numbers of plates")])
    return list(dict.fromkeys(found))


@blueprint.post("/shoots")
def make() -> Response:
    """A new shoot: {"name", "plates"}; the plates may be none."""
    plain = body()
    plates = plates_in(plain) if plain.get("plates") else []
    made = shoots.make_shoot(workshop(), text(plain, "name"), plates)
    return jsonify(shoot=made, html=view(), url=url_for("shelf.shelf", shoot=made))


@blueprint.post("/shoots/<int:shoot_id>/name")
def rename(shoot_id: int) -> Response:
    """Another name for a shoot: {"name"}."""
    shoots.rename_shoot(workshop(), shoot_id, text(body(), "name"))
    return jsonify(html=view())


@blueprint.post("/shoots/<int:shoot_id>/dissolve")
def dissolve(shoot_id: int) -> Response:
    """Let a shoot go; answers with what it takes to make it again."""
    name, plates = shoots.dissolve(workshop(), shoot_id)
    return jsonify(name=name, plates=plates, html=view(), url=url_for("shelf.shelf"))


@blueprint.post("/plates/gather")
def gather() -> Response:
    """Put plates into a shoot: {"plates", "shoot"}; 0 for none."""
    plain = body()
    shoots.gather(workshop(), plates_in(plain), whole(plain, "shoot"))
    return jsonify(html=view())


@blueprint.post("/plates/mark")
def mark() -> Response:
    """Give plates a mark, or take it from them: {"plates", "mark", "on"}."""
    plain = body()
    shelve.mark(workshop(), plates_in(plain), whole(plain, "mark"), plain.get("on") is True)
    return jsonify(html=view())


@blueprint.post("/plates/marks")
def name_marks() -> Response:
    """The names of the marks: {"names": [up to four]}; '' for no such mark."""
    names = body().get("names")
    if not isinstance(names, list):
        raise DocumentError([Fault("names", "must be a list of the names of the marks")])
    shelve.marks_of(workshop()).write(dict(zip(shelve.MARKS.params, names, strict=False)))
    return jsonify(html=view())


@blueprint.post("/plates/view")
def look_again() -> Response:
    """What is looked at, as it is now."""
    return jsonify(html=view())


@blueprint.post("/plates/bin")
def put_into_bin() -> Response:
    """Put plates into the bin, or with "back" take them out: {"plates", "back"}."""
    plain = body()
    plates = plates_in(plain)
    if plain.get("back") is True:
        shelve.put_back(workshop(), *plates)
    else:
        shelve.remove(workshop(), *plates)
    return jsonify(html=view())
