"""A plate's picture file: its page, how it is read, raw files developed, the working space."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from glyptic.actions import files
from glyptic.actions.captions import words_of, write_words
from glyptic.actions.edit import apply_edit
from glyptic.base.errors import DocumentError, Fault
from glyptic.document.reading import DEVELOPMENT, READING
from glyptic.document.words import WORDS
from glyptic.params import Real, Values
from glyptic.pixels.spaces import SPACES_IN_ORDER
from glyptic.web.context import workshop

KEYWORDS = "keywords"
blueprint = Blueprint("files", __name__, url_prefix="/plates/<int:plate_id>/file")


def _asked() -> dict[str, Any]:
    """The development that a form or an address asks for, numbers as numbers."""
    found: dict[str, Any] = {}
    for name, param in DEVELOPMENT.params.items():
        text = request.values.get(name)
        if text is None:
            continue
        try:
            found[name] = float(text) / param.factor if isinstance(param, Real) else text
        except ValueError:
            raise DocumentError([Fault(name, "must be a number", param.label)]) from None
    return found


def _revision() -> int:
    text = request.form.get("revision", "")
    if not text.isdecimal():
        raise DocumentError([Fault("revision", "must be the number of a revision")])
    return int(text)


def _back(plate_id: int) -> BaseResponse:
    return redirect(url_for("files.page", plate_id=plate_id, layer=request.values.get("layer") or None), 303)


@blueprint.get("/")
def page(plate_id: int) -> str:
    """What the file is, and how it is read."""
    shop = workshop()
    current = shop.current(plate_id)
    found = files.picture_file(shop, current, request.args.get("layer", ""))
    light = files.light_as_shot(shop, found.layer.source) if found.is_raw else None
    spaces = [(space, files.space_words(shop, current, space.name)) for space in SPACES_IN_ORDER]
    return render_template(
        "files/page.html", current=current, file=found, light=light, spaces=spaces, reading=READING.params,
        development=DEVELOPMENT.params, is_base=found.layer.id == current.stack.base.id,
        word_params=WORDS.params, words=words_of(shop, current),
        written=current.stack.notes.words is not None,
    )  # fmt: skip


@blueprint.post("/words")
def words(plate_id: int) -> BaseResponse:
    """Caption and rights written anew, or those of the file again, as a step."""
    plain = None if request.form.get("as") == "file" else words_asked()
    write_words(workshop(), plate_id, _revision(), plain)
    return _back(plate_id)


def words_asked() -> dict[str, Any]:
    """The words of a form; keywords parted by commas or lines."""
    found: dict[str, Any] = {}
    for name in WORDS.params:
        text = " ".join(request.form.get(name, "").split()) if name != KEYWORDS else request.form.get(name, "")
        parted = [" ".join(word.split()) for line in text.splitlines() for word in line.split(";")]
        found[name] = [word for word in parted if word] if name == KEYWORDS else text
    return found


@blueprint.get("/developed.jpg")
def developed(plate_id: int) -> Response:
    """A raw file developed on trial, small: the settings of a development in the address."""
    shop = workshop()
    found = files.picture_file(shop, shop.current(plate_id), request.args.get("layer", ""))
    jpeg = files.developed(shop, found.layer.source, files.development_of(_asked()))
    return Response(jpeg, mimetype="image/jpeg", headers={"Cache-Control": "private, max-age=600"})


@blueprint.post("/space")
def space(plate_id: int) -> BaseResponse:
    """Another working space, as a step."""
    apply_edit(workshop(), plate_id, _revision(), "set-space", {"space": request.form.get("space", "")})
    return _back(plate_id)


@blueprint.post("/reading")
def reading(plate_id: int) -> BaseResponse:
    """Another page, or another meaning of values that the file says nothing of, as a step."""
    changes: dict[str, object] = {}
    if "page" in request.form:
        changes["page"] = _page(request.form["page"])
    if "assumed" in request.form:
        changes["assumed"] = request.form["assumed"]
    files.read_anew(workshop(), plate_id, _revision(), request.form.get("layer", ""), **changes)
    return _back(plate_id)


def _page(text: str) -> float:
    if not text.isdecimal():
        raise DocumentError([Fault("page", "must be a whole number", READING.params["page"].label)])
    return float(text)


@blueprint.post("/develop")
def develop(plate_id: int) -> BaseResponse:
    """A raw file developed anew, or a second time as a layer of its own, as a step."""
    wanted: Values = files.development_of(_asked())
    if request.form.get("as") == "second":
        files.second_rendition(workshop(), plate_id, _revision(), wanted)
        return redirect(url_for("bench.bench", plate_id=plate_id), 303)
    files.read_anew(workshop(), plate_id, _revision(), request.form.get("layer", ""), development=wanted)
    return _back(plate_id)
