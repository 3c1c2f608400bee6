"""Sheets to give away: the work sheet, and what to begin with on a plate that has no layers yet."""

from __future__ import annotations

import base64
import hashlib
from pathlib import Path
from urllib.parse import quote

from flask import Blueprint, Response, render_template, request
from markupsafe import Markup

from glyptic.actions.contact_sheet import contact_sheet
from glyptic.actions.export import safe_name
from glyptic.base.errors import DocumentError, Fault
from glyptic.web.context import workshop

STYLES = Path(__file__).parent / "static" / "css" / "worksheet.css"
blueprint = Blueprint("sheets", __name__, url_prefix="/plates/<int:plate_id>")


def _download(content: bytes, media_type: str, name: str) -> Response:
    answer = Response(content, mimetype=media_type)
    answer.headers["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(name)}"
    answer.headers["Cache-Control"] = "private, no-store"
    return answer


@blueprint.get("/proofs/sheet.<kind>")
def contact(plate_id: int, kind: str) -> Response:
    """The contact sheet of proofs: ?of= their numbers, separated by commas."""
    asked = request.args.get("of", "")
    if not all(part.isdigit() for part in asked.split(",")):
        raise DocumentError([Fault("proofs", "must be chosen for the sheet: tick some in the list")])
    content, media_type = contact_sheet(workshop(), plate_id, [int(part) for part in asked.split(",")], kind)
    return _download(content, media_type, f"{safe_name(workshop().current(plate_id).name)}, proofs.{kind}")


def data_uri(jpeg: bytes) -> str:
    """A picture that stands in the page itself."""
    return f"data:image/jpeg;base64,{base64.b64encode(jpeg).decode()}"


@blueprint.get("/work-sheet")
def work(plate_id: int) -> Response:
    """The work sheet as a page that stands by itself; ?save to save it."""
    from glyptic.actions.worksheet import change_words, work_sheet  # noqa: PLC0415  (its checks need OpenCV)

    sheet, styles = work_sheet(workshop(), plate_id), STYLES.read_text()
    page = render_template(
        "sheets/work.html", sheet=sheet, data=data_uri, change=change_words(sheet.apart),
        styles=Markup(f"<style>{styles}</style>"),  # noqa: S704  our own file
        plate_id=plate_id, saved="save" in request.args,
    )  # fmt: skip
    if "save" in request.args:
        return _download(page.encode(), "text/html", f"{safe_name(sheet.title)}, work sheet.html")
    answer = Response(page, mimetype="text/html")
    seal = base64.b64encode(hashlib.sha256(styles.encode()).digest()).decode()
    answer.headers["Content-Security-Policy"] = (
        f"default-src 'none'; img-src data:; style-src 'sha256-{seal}'; base-uri 'none'"
    )
    return answer


@blueprint.get("/work-sheet.pdf")
def work_pdf(plate_id: int) -> Response:
    """The work sheet as a PDF."""
    from glyptic.actions.worksheet import as_pdf, work_sheet  # noqa: PLC0415

    sheet = work_sheet(workshop(), plate_id)
    return _download(as_pdf(sheet), "application/pdf", f"{safe_name(sheet.title)}, work sheet.pdf")


@blueprint.get("/begin")
def begin(plate_id: int) -> str:
    """What a picture without layers has, in numbers, and the layers that answer it."""
    from glyptic.actions.beginning import begin as offers  # noqa: PLC0415  (looks for lines with OpenCV)

    return render_template("bench/begin.html", offers=offers(workshop(), workshop().current(plate_id)))
