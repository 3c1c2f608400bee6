"""The bench: one plate, its desk, strip, log, and every edit of it."""

from __future__ import annotations

import math
from dataclasses import asdict, replace
from typing import Any

from flask import Blueprint, Response, jsonify, render_template, request

from glyptic.actions import aids, edit, history
from glyptic.actions.comparing import side_of
from glyptic.actions.exact import advance, clipped
from glyptic.actions.measure import Histograms, clips, curve_faults, measure, shelf_picture, spot, then
from glyptic.actions.paint import full_stroke
from glyptic.actions.pins import read_pins
from glyptic.actions.presses import PROOFING, list_presses
from glyptic.actions.shoots import among
from glyptic.actions.starting import (
    ADDABLE,
    PAIR_SAYS,
    PAIR_TITLE,
    preview,
    sampled_layer,
    starting_layer,
    turned_over,
    turned_start,
)
from glyptic.actions.strokes import strokes_at
from glyptic.actions.tiles import make_ready, tile_keys
from glyptic.actions.workshop import Current
from glyptic.base.errors import NotFound
from glyptic.base.meaning import of_pixels
from glyptic.demo.shelf import demo_names
from glyptic.document.delivery import KINDS
from glyptic.document.edits.across import drawn_at
from glyptic.document.edits.strokes import GREY_PART, words
from glyptic.document.notes import OVER
from glyptic.document.values import Stack
from glyptic.engine.views import FAMILIES, VIEWS
from glyptic.web.context import (
    asked_number,
    asked_whole,
    body,
    looking,
    number,
    settle_soon,
    side,
    text,
    whole,
    workshop,
)
from glyptic.web.declared import declared
from glyptic.web.maps import change_scales
from glyptic.web.pictures import added, after_of
from glyptic.web.pixels import for_ever
from glyptic.web.state import answer, changed, fragments, page_state

MOST_ASKED = 200
blueprint = Blueprint("bench", __name__, url_prefix="/plates/<int:plate_id>")


@blueprint.get("/")
def bench(plate_id: int) -> str:
    current = workshop().current(plate_id)
    picture = workshop().base_of(current.stack)
    settle_soon(current)
    return render_template(
        "bench/page.html", current=current, picture=picture, view_families=_view_families(),
        add_groups=_add_groups(current), pair=(PAIR_TITLE, PAIR_SAYS), state=page_state(current),
        declared=declared(picture.canvas, picture.alpha is not None),
        among=among(workshop(), plate_id), is_demo=current.name in demo_names(), change_scales=change_scales(),
        pin_over=OVER, presses=list_presses(workshop()), proofing=PROOFING.params, kinds=KINDS,
        exact_views=" ".join(view.name for view in VIEWS.values() if view.exact), **fragments(current),
    )  # fmt: skip


def _view_families() -> list[dict[str, Any]]:
    """The families of views, each with its views, as the page offers them."""
    return [
        {"title": title, "views": [view for view in VIEWS.values() if view.family == name]}
        for name, title in FAMILIES.items()
    ]


def _add_groups(current: Current) -> dict[str, list[Any]]:
    """The Add sheet: kinds by purpose, in the order of their use, each with the layer it is tried with, and that
    turned over."""
    groups: dict[str, list[Any]] = {}
    for kind in ADDABLE:
        sample = sampled_layer(workshop(), current.stack, kind, current.chosen)
        groups.setdefault(kind.purpose, []).append((kind, sample, turned_over(sample)))
    return groups


@blueprint.post("/edits")
def apply(plate_id: int) -> Response:
    """Apply an edit: {"revision", "edit", "arguments", "looking"}; stale ones are answered with the current state.
    "tried": whether the page shows already what it leads to, so that the words can wait for the pixels."""
    plain = body()
    arguments = plain.get("arguments")
    return changed(
        plate_id, plain,
        lambda shop, revision: edit.apply_edit(
            shop, plate_id, revision, text(plain, "edit"), arguments if isinstance(arguments, dict) else {},
            asked_number(plain),
        ),
    )  # fmt: skip


@blueprint.post("/keys")
def keys(plate_id: int) -> Response:
    """The keys of what is looked at, in the current state, or in that of the other "side" of a comparison. "ready":
    whether a hand may begin there before long."""
    plain, current = body(), workshop().current(plate_id)
    other = side(plain)
    stack = current.stack if other is None else side_of(workshop(), current, other)
    at = looking(plain, current.plate_id)
    if plain.get("ready"):
        make_ready(workshop(), stack, at)
    return jsonify(revision=current.revision, keys=tile_keys(workshop(), stack, at))


@blueprint.post("/exact")
def go_on_exactly(plate_id: int) -> Response:
    """Make some of what is looked at of full-size pixels: {"left", "of"} pieces; at the end, of a whole picture, the
    shares of it that are "clipped", dark and light. Asked again while nothing happens."""
    plain, current = body(), workshop().current(plate_id)
    at = replace(looking(plain, plate_id), exact=True)
    left, whole = advance(workshop(), current.stack, at)
    ends = None if left else clipped(workshop(), current.stack, at)
    return jsonify(revision=current.revision, left=left, of=whole, clipped=ends)


@blueprint.post("/stop")
def stop(plate_id: int) -> Response:
    """Stop what is under way: {"number"} of its request. What was not kept by then is not kept."""
    workshop().stops.stop(text(body(), "number"))
    return jsonify(stopped=True)


@blueprint.post("/choose")
def choose(plate_id: int) -> Response:
    """Choose the layer to work on."""
    plain = body()
    return answer(edit.choose_layer(workshop(), plate_id, text(plain, "layer")), plain)


@blueprint.post("/state")
def state(plate_id: int) -> Response:
    """The current state, for a page that has fallen behind."""
    return answer(workshop().current(plate_id), body())


@blueprint.post("/undo")
def undo(plate_id: int) -> Response:
    return _step(plate_id, history.undo)


@blueprint.post("/redo")
def redo(plate_id: int) -> Response:
    return _step(plate_id, history.redo)


def _step(plate_id: int, move: Any) -> Response:
    return changed(plate_id, body(), lambda shop, revision: move(shop, plate_id, revision))


@blueprint.post("/go")
def go(plate_id: int) -> Response:
    """Go to any state of the log."""
    plain = body()
    return answer(history.go_to(workshop(), plate_id, whole(plain, "to")), plain)


@blueprint.get("/log")
def log(plate_id: int) -> str:
    """A page of the log, newest first; older ones are asked for by the last line. ?q= words that a line must hold."""
    asked = request.args.get("q", "")[:MOST_ASKED]
    entries, twigs = history.read_log(workshop(), plate_id, asked_whole("before"), asked.split())
    return render_template(
        "log/entries.html", entries=entries, twigs=twigs, plate_id=plate_id, page=history.LOG_PAGE, asked=asked
    )


@blueprint.get("/log/<int:revision>/<root>.jpg")
def log_picture(plate_id: int, revision: int, root: str) -> Response:
    """A small picture of a step; its root stands in the address, so that it may be kept."""
    found = history.root_of_step(workshop(), plate_id, revision)
    return for_ever(Response(shelf_picture(workshop(), found), mimetype="image/jpeg"))


@blueprint.post("/layers")
def add_layer(plate_id: int) -> Response:
    """Add a layer of a kind: {"revision", "kind", "start", "after", "beside", "turned", "looking"}."""
    plain = body()
    shop = workshop()
    stack = shop.current(plate_id).stack
    layer = starting_layer(shop, stack, text(plain, "kind"), text(plain, "start"), after_of(plain))
    if plain.get("turned") is True:
        layer = turned_start(shop, stack, layer, after_of(plain))
    return added(plate_id, plain, layer)


@blueprint.get("/previews/<kind>.jpg")
def previews(plate_id: int, kind: str) -> Response:
    """A small picture of the plate with a layer of a kind tried on it: ?after= the layer it would follow. ?root= names
    the state, so that the browser may keep it."""
    current = workshop().current(plate_id)
    picture = preview(workshop(), current.stack, kind, request.args.get("after") or None)
    response = Response(picture, mimetype="image/jpeg")
    if request.args.get("root") == current.root.hex() and request.args.get("made") == of_pixels().hex():
        response.headers["Cache-Control"] = "private, max-age=3600"
    return response


@blueprint.get("/measures")
def measures(plate_id: int) -> Response:
    """Histograms, the chosen layer's sentence, and how much its mask shows."""
    current = workshop().current(plate_id)
    found = measure(workshop(), current.stack, current.chosen)
    histograms = {name: _plain_counts(getattr(found, name)) for name in ("finished", "base", "below", "above")}
    return jsonify(
        revision=current.revision, layer=current.chosen, sentence=found.sentence, shown=found.shown,
        faults=faults_of(current.stack, current.chosen), **histograms,
    )  # fmt: skip


def _plain_counts(histograms: Histograms) -> dict[str, list[int]]:
    return {name: counts.round().astype(int).tolist() for name, counts in histograms.items()}


def faults_of(stack: Stack, layer: str) -> dict[str, list[dict[str, Any]]]:
    """The stretches of each curve that cannot be trusted, as the page marks them."""
    found = curve_faults(workshop(), stack, layer)
    return {name: [asdict(stretch) for stretch in stretches] for name, stretches in found.items()}


@blueprint.get("/pins")
def pins(plate_id: int) -> Response:
    """What every pin reads, in their order; null for one that lies outside what comes out."""
    current = workshop().current(plate_id)
    read = read_pins(workshop(), current.stack)
    return jsonify(revision=current.revision, pins=[asdict(one) if one is not None else None for one in read])


@blueprint.get("/clips")
def newly_clipped(plate_id: int) -> Response:
    """The share of the picture that each layer newly clips."""
    current = workshop().current(plate_id)
    return jsonify(revision=current.revision, clips=clips(workshop(), current.stack))


@blueprint.post("/mend")
def mend(plate_id: int) -> Response:
    """Mend a stretch of a curve: {"revision", "layer", "channel", "low", "high", "looking"}."""
    plain = body()
    stretch = number(plain, "low"), number(plain, "high")
    return changed(
        plate_id, plain,
        lambda shop, revision: aids.mend_curve(
            shop, plate_id, revision, text(plain, "layer"), text(plain, "channel"), stretch
        ),
    )  # fmt: skip


@blueprint.post("/auto")
def auto(plate_id: int) -> Response:
    """Settings worked out from the histogram: {"revision", "layer", "auto", "looking"}."""
    plain = body()
    return changed(
        plate_id, plain,
        lambda shop, revision: aids.find_settings(shop, plate_id, revision, text(plain, "layer"), text(plain, "auto")),
    )  # fmt: skip


def _as_a_full_stroke_would_leave_it(
    current: Current, level: float, x: float, y: float
) -> tuple[tuple[int, ...], float] | None:
    """For the chip beside the brush: ?target=&to=&opacity= of the brush in the hand; None without one."""
    target, to = request.args.get("target"), request.args.get("to", type=float)
    opacity = request.args.get("opacity", type=float)
    if target is None or to is None or opacity is None:
        return None
    workshop().turns.give_way()
    place = drawn_at(current.stack, current.chosen, x, y)
    painted = full_stroke(current.stack, current.chosen, target, to, opacity, place)
    return then(workshop(), current.stack, painted, current.chosen, level, x, y)


@blueprint.get("/strokes-at")
def strokes_under(plate_id: int) -> Response:
    """The strokes of the chosen layer under a place: ?x=&y= in full-size pixels; the newest first."""
    x, y = request.args.get("x", type=float), request.args.get("y", type=float)
    if x is None or y is None or not (math.isfinite(x) and math.isfinite(y)):
        raise NotFound("A place needs x and y.")
    current = workshop().current(plate_id)
    found = [
        {"place": [one.part, one.index], "here": one.here, "line": one.line, "size": one.stroke.size,
         "does": words("grey" if one.part == GREY_PART else "mask", one.stroke), "opacity": one.stroke.opacity}
        for one in strokes_at(workshop(), current.stack, current.chosen, x, y)
    ]  # fmt: skip
    return jsonify(revision=current.revision, layer=current.chosen, strokes=found)


@blueprint.get("/spot")
def numbers(plate_id: int) -> Response:
    """The numbers at a place: ?x=&y=&level= in full-size pixels."""
    x, y = request.args.get("x", type=float), request.args.get("y", type=float)
    level = request.args.get("level", type=float)
    if x is None or y is None or level is None or not all(map(math.isfinite, (x, y, level))):
        raise NotFound("A spot needs x, y and level.")
    current = workshop().current(plate_id)
    stack = current.stack.unframed if request.args.get("whole") else current.stack
    found = spot(workshop(), stack, current.chosen, level, x, y)
    if found is None:
        return jsonify(outside=True)
    stroke = _as_a_full_stroke_would_leave_it(current, level, x, y)
    return jsonify(
        then=stroke and stroke[0], toneThen=stroke and stroke[1],
        toneBefore=found.tone_before, toneAfter=found.tone_after, before=found.before, after=found.after,
        swatch=found.swatch, below=found.below, meets=found.meets,
    )  # fmt: skip
