"""What of the shelf is looked at: which plates, in which order, how many of them drawn."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any
from urllib.parse import parse_qs, urlencode, urlsplit

from flask import render_template, request, url_for

from glyptic.actions import shelve
from glyptic.actions.shoots import list_shoots
from glyptic.formats.reading import SUFFIXES
from glyptic.store.faults import NO_WRITING
from glyptic.store.shelf import NO_SHOOT, ORDERS, Wanted
from glyptic.web.context import LARGEST, workshop

STRETCH, MOST_STRETCHES = 24, 24
"""Plates in a stretch of the shelf (rows of two, three, four and six are filled by them), and stretches drawn at once:
the others are drawn when they come near the window."""
LONGEST_SEARCH = 200
MOST_REMOVED = 60
SHOWN = "X-Shown"
"""The header by which a page says where the stretches begin that it shows, so that it is answered with the same."""


def _whole(text: str | None) -> int:
    try:
        number = int(text or "")
    except ValueError:
        return -1
    return number if 0 <= number <= LARGEST else -1


def wanted_of(asked: Mapping[str, str]) -> Wanted:
    """Which plates an address asks for; what it does not say, or says wrongly, is as if it were not there."""
    shoot, marks, order = _whole(asked.get("shoot")), _whole(asked.get("marks")), asked.get("order", "")
    known = sum(bit for bit, _ in shelve.mark_names(workshop()))
    return Wanted(
        tuple(asked.get("q", "")[:LONGEST_SEARCH].split()),
        None if shoot < 0 else shoot,
        max(marks, 0) & known,
        order if order in ORDERS else "worked",
    )


def query_of(wanted: Wanted, **changed: Any) -> dict[str, Any]:
    """The words of an address that asks for these plates, some of them changed; None leaves one out."""
    asked = {"shoot": wanted.shoot, "q": " ".join(wanted.words), "marks": wanted.marks, "order": wanted.order} | changed
    return {
        name: value
        for name, value in asked.items()
        if value is not None and value != "" and (name, value) not in (("marks", 0), ("order", "worked"))
    }


def asked_now() -> Mapping[str, str]:
    """What the page asks for that a request comes from."""
    there = request.headers.get("HX-Current-URL")
    if there is None:
        return request.args
    return {name: values[-1] for name, values in parse_qs(urlsplit(there).query).items()}


def seen(asked: Mapping[str, str] | None = None) -> dict[str, Any]:
    """What the templates of the shelf are drawn from."""
    shop = workshop()
    wanted = wanted_of(asked_now() if asked is None else asked)
    numbers = shelve.numbers_of(shop, wanted)
    starts = {max(0, _whole(start)) // STRETCH * STRETCH for start in request.headers.get(SHOWN, "0").split(",")}
    shown = sorted(starts)[:MOST_STRETCHES]
    removed = shelve.some_plates(shop, Wanted(removed=True), 0, MOST_REMOVED)
    shoots = list_shoots(shop)
    return {
        "readable": " ".join((*SUFFIXES, ".zip")),
        "wanted": wanted, "numbers": numbers, "stretch_of": STRETCH,
        "stretches": {start: shelve.some_plates(shop, wanted, start, STRETCH) for start in shown},
        "removed": removed, "removed_count": len(shelve.numbers_of(shop, Wanted(removed=True))),
        "shoots": shoots, "shoot": next((one for one in shoots if one.id == wanted.shoot), None),
        "count": len(shelve.numbers_of(shop, Wanted())), "loose": len(shelve.numbers_of(shop, Wanted(shoot=NO_SHOOT))),
        "marks": shelve.mark_names(shop), "orders": {name: words for name, (words, _) in ORDERS.items()},
        "asking": lambda **changed: url_for("shelf.shelf", **query_of(wanted, **changed)),
        "query": urlencode(query_of(wanted)), "limit": shop.limit // 1_000_000,
        "trouble": shop.store.trouble or ("" if shop.store.place.writable else str(NO_WRITING)),
    }  # fmt: skip


def view() -> str:
    """The part of the page that changes with what is looked at."""
    return render_template("shelf/view.html", **seen())
