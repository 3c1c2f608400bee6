"""Runs: begun from the shelf, each with a page that is looked at while it goes on; and the deliveries they write."""

from __future__ import annotations

import zipfile
from tempfile import TemporaryFile
from typing import Any

from flask import Blueprint, Response, jsonify, render_template, request, send_file, url_for
from werkzeug.wrappers import Response as BaseResponse

from glyptic.actions.export import safe_name
from glyptic.actions.kits.keeping import list_kits
from glyptic.actions.runs import board as runs
from glyptic.actions.runs.kinds import deliveries_folder
from glyptic.actions.shelve import list_plates
from glyptic.base.errors import NotFound
from glyptic.store.runs import DONE, FAILED, UNDONE, WAITING
from glyptic.web.context import body, context, text, workshop
from glyptic.web.deliveries import listed
from glyptic.web.shoots import plates_in

NO_FILES = "That run has written no files, or they were let go."
EXAMPLE = "Vase trio 114"
blueprint = Blueprint("runs", __name__)


@blueprint.get("/runs")
def index() -> str:
    return render_template("runs/list.html", runs=runs.list_runs(workshop()))


def _stuck(run_id: int) -> list[str]:
    """Why a run could not be gone on with."""
    foreman = context().foreman
    return [foreman.troubles[run_id]] if foreman is not None and run_id in foreman.troubles else []


def _now(run_id: int, troubles: list[str] | None = None) -> dict[str, Any]:
    """What a run's page shows."""
    shop, foreman = workshop(), context().foreman
    run = runs.look_at_run(shop, run_id)
    folder = deliveries_folder(shop, run_id)
    return {
        "run": run, "troubles": [*(troubles or []), *_stuck(run_id)],
        "folder": folder if folder.exists() else None,
        "left": foreman.left(run_id, run.waiting) if foreman is not None and run.state == "going" else None,
        "failed": runs.lines_of(shop, run_id, FAILED), "done": runs.lines_of(shop, run_id, DONE, UNDONE),
        "waiting": runs.lines_of(shop, run_id, WAITING)[:3], "most": runs.MOST_LISTED,
    }  # fmt: skip


def _fragment(run_id: int, troubles: list[str] | None = None) -> str:
    return render_template("runs/now.html", **_now(run_id, troubles))


def _wake() -> None:
    foreman = context().foreman
    if foreman is not None:
        foreman.wake()


@blueprint.post("/runs")
def begin() -> Response:
    """Begin a run: {"kind", "plates", "settings"}."""
    plain = body()
    settings = plain.get("settings")
    asked = settings if isinstance(settings, dict) else {}
    run = runs.begin_run(workshop(), text(plain, "kind"), plates_in(plain), asked)
    _wake()
    return jsonify(run=run, url=url_for("runs.page", run_id=run))


@blueprint.get("/runs/<int:run_id>")
def page(run_id: int) -> str:
    return render_template("runs/page.html", **_now(run_id))


@blueprint.get("/runs/<int:run_id>/now")
def look(run_id: int) -> str:
    """What changes of a run's page."""
    return _fragment(run_id)


@blueprint.post("/runs/<int:run_id>/stop")
def stop(run_id: int) -> str:
    runs.stop_run(workshop(), run_id)
    return _fragment(run_id)


@blueprint.post("/runs/<int:run_id>/go-on")
def go_on(run_id: int) -> str:
    runs.go_on_with_run(workshop(), run_id)
    _wake()
    return _fragment(run_id)


@blueprint.post("/runs/<int:run_id>/again")
def again(run_id: int) -> str:
    """Try those that failed again."""
    runs.try_again(workshop(), run_id)
    _wake()
    return _fragment(run_id)


@blueprint.post("/runs/<int:run_id>/undo")
def undo(run_id: int) -> str:
    """Take back what the run made: all of it, or with ?item= one thing."""
    return _fragment(run_id, runs.undo_items(workshop(), run_id, request.args.get("item", type=int)))


@blueprint.get("/runs/<int:run_id>/files.zip")
def files(run_id: int) -> BaseResponse:
    """Every file a run has written, in a ZIP."""
    run = runs.look_at_run(workshop(), run_id)
    folder = deliveries_folder(workshop(), run_id)
    there = [name for name in runs.files_of(workshop(), run_id).values() if (folder / name).is_file()]
    if not there:
        raise NotFound(NO_FILES)
    packed = TemporaryFile(prefix="glyptic-")  # noqa: SIM115  sent, then closed by the response
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_STORED) as archive:
        for name in there:
            archive.write(folder / name, name)
    packed.seek(0)
    name = f"{safe_name(run.title)}.zip"
    answer = send_file(packed, mimetype="application/zip", as_attachment=True, download_name=name)
    answer.headers["Cache-Control"] = "private, no-store"
    return answer


@blueprint.get("/runs/<int:run_id>/files/<int:item_id>")
def file(run_id: int, item_id: int) -> BaseResponse:
    """One file that a run has written."""
    name = runs.files_of(workshop(), run_id).get(item_id)
    path = deliveries_folder(workshop(), run_id) / name if name else None
    if path is None or not path.is_file():
        raise NotFound(NO_FILES)
    return send_file(path, as_attachment=True, download_name=path.name)


@blueprint.get("/runs/new")
def panel() -> str:
    """What a new run is set up with."""
    shop = workshop()
    return render_template("runs/panel.html", kits=list_kits(shop), plates=list_plates(shop), deliveries=listed())
