"""Checks on the page: run one by one, their thresholds, what they found."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

from flask import Blueprint, Response, jsonify, render_template

from glyptic.web.context import asked_number, body, number, workshop

if TYPE_CHECKING:
    from types import ModuleType

blueprint = Blueprint("checks", __name__, url_prefix="/plates/<int:plate_id>/checks")


def _checking() -> ModuleType:
    """The checks; whoever looks at nothing but pictures does not wait for what they need (OpenCV)."""
    from glyptic.actions import checking  # noqa: PLC0415

    return checking


@blueprint.get("")
def thresholds(plate_id: int) -> str:
    """The checks with their reasons and thresholds, in the order in which they run."""
    checking = _checking()
    return render_template(
        "checks/thresholds.html", checks=checking.IN_ORDER, values=checking.thresholds(workshop()).read()
    )


@blueprint.post("/<name>")
def run(plate_id: int, name: str) -> Response:
    """What one check finds on the current state: {"number"} under which it can be stopped."""
    checking, current, begun = _checking(), workshop().current(plate_id), time.perf_counter()
    with workshop().stops.under(asked_number(body()) or ""):
        found = checking.check(workshop(), current, name)
    took = time.perf_counter() - begun
    return jsonify(revision=current.revision, took=took, findings=[checking.plain_finding(one) for one in found])


@blueprint.post("/<name>/threshold")
def threshold(plate_id: int, name: str) -> Response:
    """Another threshold: {"value"} in the unit of the declaration, null for the one it starts with."""
    plain = body()
    value = None if plain.get("value") is None else number(plain, "value")
    return jsonify(value=_checking().set_threshold(workshop(), name, value)[name])
