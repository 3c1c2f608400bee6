"""The shelf: plates as cards, opening pictures, rename, duplicate, remove, put back."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import PurePosixPath
from tempfile import TemporaryFile
from typing import IO

from flask import Blueprint, Response, jsonify, redirect, render_template, request, send_file, url_for
from werkzeug.wrappers import Response as BaseResponse

from glyptic.actions import shelve
from glyptic.actions.archive import opened_together, stack_text, write_archive
from glyptic.actions.export import safe_name
from glyptic.actions.files import to_choose
from glyptic.actions.measure import shelf_picture
from glyptic.actions.opening import open_any
from glyptic.actions.openraster import write_openraster
from glyptic.actions.shoots import gather
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import NotFound, PictureError
from glyptic.demo.shelf import put_demo_plates
from glyptic.web.context import asked_whole, workshop
from glyptic.web.shelf_view import STRETCH, seen, view, wanted_of
from glyptic.web.statics import FOR_EVER

blueprint = Blueprint("shelf", __name__)


@blueprint.get("/")
def shelf() -> str | Response:
    """The shelf; asked for by its own page, only what changes of it, under its own address."""
    if not request.headers.get("HX-Request"):
        return render_template("shelf/page.html", **seen(request.args))
    found = seen(request.args)
    answer = Response(render_template("shelf/view.html", **found))
    answer.headers["HX-Push-Url"] = found["asking"]()
    answer.headers["Cache-Control"] = "no-store"  # its address is that of the whole page, too
    return answer


@blueprint.get("/plates/more")
def more() -> str:
    """A stretch of the plates that are looked at, from the one at ?from= on."""
    wanted, start = wanted_of(request.args), max(0, asked_whole("from") or 0)
    plates = shelve.some_plates(workshop(), wanted, start, STRETCH)
    return render_template("shelf/cards.html", plates=plates, marks=shelve.mark_names(workshop()))


@blueprint.get("/plates/small/<made_by>/<root>.jpg")
def small(made_by: str, root: str) -> Response:
    """The small finished picture of a state; the address names the state and the code that draws it, so it never
    changes."""
    try:
        state = bytes.fromhex(root)
    except ValueError:
        raise NotFound("That is no state of a plate.") from None
    response = Response(shelf_picture(workshop(), state), mimetype="image/jpeg")
    response.cache_control.immutable = True
    response.cache_control.max_age = FOR_EVER
    return response


@blueprint.post("/plates")
def open_file() -> Response:
    """Open an uploaded picture or archive, or a stack file with the pictures chosen together with it; answers with the
    shelf as it then stands (without it where it is one of many), or with a sentence. `shoot`: where it goes."""
    sent = [one for one in request.files.getlist("picture") if one.filename]
    if not sent:
        raise PictureError("No file came with the request; nothing was changed. Choose a picture.")
    if len(sent) > 1 or str(sent[0].filename).lower().endswith(".json"):
        files = {PurePosixPath(str(one.filename).replace("\\", "/")).name: one.stream.read() for one in sent}
        numbers = list(opened_together(workshop(), files))
        return jsonify(plate=numbers[-1] if numbers else None, name=sent[0].filename, html=view())
    shoot = request.form.get("shoot", type=int)
    stream, name = sent[0].stream, str(sent[0].filename)
    number = open_any(workshop(), stream, name)
    if shoot is not None:
        gather(workshop(), [number], shoot)
    many = bool(request.form.get("one_of_many"))
    return jsonify(plate=number, name=name, html="" if many else view(), asks="" if many else _asks(number))


def _asks(number: int) -> dict[str, str] | str:
    """What of the file was decided and is wanted otherwise by some: the question, and where it is answered."""
    current = workshop().current(number)
    says = to_choose(workshop(), current.stack)
    if not says or current.stack.layers[1:]:
        return ""
    return {"says": says, "url": url_for("files.page", plate_id=number)}


def _download(stream: IO[bytes], mimetype: str, name: str) -> BaseResponse:
    """A file to be kept by whoever asked; closed by the response."""
    stream.seek(0)
    answer = send_file(stream, mimetype=mimetype, as_attachment=True, download_name=name)
    answer.headers["Cache-Control"] = "private, no-store"
    return answer


def _packed(
    plate_id: int, write: Callable[[Workshop, int, IO[bytes]], object], mimetype: str, suffix: str
) -> BaseResponse:
    packed = TemporaryFile(prefix="glyptic-")  # noqa: SIM115  sent, then closed by the response
    write(workshop(), plate_id, packed)
    return _download(packed, mimetype, safe_name(workshop().current(plate_id).name) + suffix)


@blueprint.get("/plates/<int:plate_id>/stack.zip")
def save(plate_id: int) -> BaseResponse:
    """A plate's stack file with its pictures beside it."""
    return _packed(plate_id, write_archive, "application/zip", ".zip")


@blueprint.get("/plates/<int:plate_id>/picture.ora")
def save_openraster(plate_id: int) -> BaseResponse:
    """A plate as an OpenRaster file, for other programs and for this one."""
    return _packed(plate_id, write_openraster, "image/openraster", ".ora")


@blueprint.get("/plates/<int:plate_id>/stack.json")
def save_stack(plate_id: int) -> BaseResponse:
    """A plate's stack file alone; its pictures are named in it and stay here."""
    current = workshop().current(plate_id)
    text = io.BytesIO(stack_text(workshop(), plate_id).encode())
    return _download(text, "application/json", f"{safe_name(current.name)}.json")


@blueprint.post("/plates/demo")
def open_demo() -> str:
    """Put the demo plates on the shelf."""
    put_demo_plates(workshop())
    return view()


@blueprint.post("/plates/<int:plate_id>/name")
def rename(plate_id: int) -> str:
    shelve.rename(workshop(), plate_id, request.form.get("name", ""))
    return view()


@blueprint.post("/plates/<int:plate_id>/note")
def describe(plate_id: int) -> str:
    shelve.describe(workshop(), plate_id, request.form.get("note", ""))
    return view()


@blueprint.post("/plates/<int:plate_id>/copy")
def copy(plate_id: int) -> str:
    shelve.duplicate(workshop(), plate_id)
    return view()


@blueprint.post("/plates/<int:plate_id>/remove")
def remove(plate_id: int) -> str:
    shelve.remove(workshop(), plate_id)
    return view()


@blueprint.post("/plates/<int:plate_id>/put-back")
def put_back(plate_id: int) -> str:
    shelve.put_back(workshop(), plate_id)
    return view()


@blueprint.get("/favicon.ico")
def favicon() -> BaseResponse:
    return redirect(url_for("static", filename="mark.svg"))
