"""Deliveries: set up on a page of their own, previewed at full size, and written for the plate on the bench."""

from __future__ import annotations

import base64
from typing import Any

from flask import Blueprint, redirect, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from glyptic.actions.presses import list_presses
from glyptic.actions.previewing import preview
from glyptic.actions.runs import board, deliveries
from glyptic.actions.shelve import list_plates
from glyptic.actions.shoots import list_shoots
from glyptic.base.errors import DocumentError, Fault, NotFound
from glyptic.document.delivery import DELIVERY, FIELDS, OWN, WORKING
from glyptic.params import Param, Real, Toggle, Values
from glyptic.pixels.spaces import SPACES_IN_ORDER
from glyptic.store.tables import now
from glyptic.web.context import workshop

blueprint = Blueprint("deliveries", __name__)
EXAMPLE = "Vase trio 114"
NEW = {"name": "Another"}
SECTIONS = {
    "The file": ("name", "pattern", "format", "depth", "packed", "quality", "most_kb"),
    "Its size": ("sized", "long_edge", "width", "height", "megapixels", "millimetres", "dpi", "border"),
    "Sharpened": ("sharpen", "sharpen_amount"),
    "Colours": ("profile", "intent", "black_point"),
    "What leaves with it": ("metadata", "place"),
}
"""The fields as the page groups them."""


def _plain(name: str, param: Param, form: Any) -> Any:
    """A field of a form as plain data."""
    if isinstance(param, Toggle):
        return name in form
    text = form.get(name, "")
    if not isinstance(param, Real):
        return text
    try:
        return float(text) / param.factor
    except ValueError:
        raise DocumentError([Fault(name, "must be a number", param.label)]) from None


def _asked() -> dict[str, Any]:
    """The delivery that a form describes."""
    return {name: _plain(name, param, request.form) for name, param in DELIVERY.params.items()}


def colours() -> list[tuple[str, str]]:
    """What a delivery's colours can be converted to: key and words."""
    found = [(WORKING, "the plate's working space"), (OWN, "as the picture came, its own profile")]
    found += [(space.name, space.title) for space in SPACES_IN_ORDER]
    return found + [(press.key, press.name) for press in list_presses(workshop())]


def listed() -> list[tuple[Values, str]]:
    """The deliveries that are kept, each with a file name it would give."""
    shop = workshop()
    shoot = next((one.name for one in list_shoots(shop)), "Spring catalogue")
    example = [deliveries.Named(EXAMPLE, shoot)]
    return [(row, deliveries.file_names(row, example, now())[0]) for row in deliveries.kept_deliveries(shop)]


@blueprint.get("/deliveries")
def page() -> str:
    plates = list_plates(workshop())
    return render_template(
        "deliveries/page.html", deliveries=listed(), params=DELIVERY.params, sections=SECTIONS, fields=FIELDS,
        colours=colours(), plates=plates, open_at=request.args.get("at", type=int), on=request.args.get("on", type=int),
    )  # fmt: skip


def _kept() -> list[dict[str, Any]]:
    return [DELIVERY.plain(one) for one in deliveries.kept_deliveries(workshop())]


def _keep(rows: list[dict[str, Any]], at: int | None) -> BaseResponse:
    deliveries.keep_deliveries(workshop(), rows)
    return redirect(url_for("deliveries.page", at=at), 303)


@blueprint.post("/deliveries")
def add() -> BaseResponse:
    """One more."""
    rows = _kept()
    taken = {row["name"] for row in rows}
    name = next(name for n in range(1, 99) if (name := f"{NEW['name']}{'' if n == 1 else f' {n}'}") not in taken)
    return _keep([*rows, {"name": name}], len(rows))


def _at(number: int) -> list[dict[str, Any]]:
    rows = _kept()
    if not 0 <= number < len(rows):
        raise NotFound("That delivery is no longer kept; the page shows what is.")
    return rows


@blueprint.post("/deliveries/<int:number>")
def put(number: int) -> BaseResponse:
    """Another setting of one."""
    rows = _at(number)
    rows[number] = _asked()
    return _keep(rows, number)


@blueprint.post("/deliveries/<int:number>/drop")
def drop(number: int) -> BaseResponse:
    rows = _at(number)
    if len(rows) == 1:
        raise DocumentError([Fault("deliveries", "must be one at least; change this one instead")])
    return _keep(rows[:number] + rows[number + 1 :], None)


@blueprint.post("/deliveries/preview")
def look() -> str:
    """What a delivery's file would look like, at full size, of the plate that is asked for."""
    plate = request.form.get("plate", type=int) or 0
    place = tuple(min(max(request.form.get(name, 0.5, type=float), 0.0), 1.0) for name in ("across", "down"))
    found = preview(workshop(), plate, _asked(), (place[0], place[1]))
    picture = f"data:image/png;base64,{base64.b64encode(found.picture).decode()}"
    return render_template("deliveries/preview.html", found=found, picture=picture)


@blueprint.get("/plates/<int:plate_id>/deliveries")
def choose(plate_id: int) -> str:
    """The deliveries, for the plate on the bench to be written by."""
    return render_template("deliveries/choose.html", deliveries=listed(), plate_id=plate_id)


@blueprint.post("/plates/<int:plate_id>/deliveries")
def write(plate_id: int) -> BaseResponse:
    """Write one plate by the deliveries that are ticked: a run, whose page tells how far it is."""
    wanted = request.form.getlist("delivery")
    run = board.begin_run(workshop(), "deliver", [plate_id], {"deliveries": wanted})
    return redirect(url_for("runs.page", run_id=run), 303)
