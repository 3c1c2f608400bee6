"""Exports: started, watched, stopped, fetched."""

from __future__ import annotations

from flask import Blueprint, Response, render_template, request, send_file

from glyptic.base.errors import ExportError, NotFound
from glyptic.formats.writing import Output, ground_of
from glyptic.web.context import context, workshop

blueprint = Blueprint("exports", __name__)


@blueprint.post("/plates/<int:plate_id>/exports")
def start(plate_id: int) -> str:
    """Begin an export with the form's format, depth and quality."""
    try:
        depth, quality = int(request.form.get("depth", "8")), int(request.form.get("quality", "92"))
    except ValueError:
        raise ExportError("Depth and quality must be whole numbers. Nothing was written.") from None
    ground = ground_of(request.form.get("ground", "#ffffff").removeprefix("#"))
    output = Output(request.form.get("format", ""), depth, quality, ground)
    return render_template("bench/export_job.html", job=context().exports.start(workshop(), plate_id, output))


@blueprint.get("/exports/<number>")
def watch(number: str) -> str:
    return render_template("bench/export_job.html", job=context().exports.find(number))


@blueprint.post("/exports/<number>/stop")
def stop(number: str) -> str:
    job = context().exports.find(number)
    job.stop = True
    return render_template("bench/export_job.html", job=job)


@blueprint.get("/exports/<number>/file")
def fetch(number: str) -> Response:
    job = context().exports.find(number)
    if job.state != "done":
        raise NotFound("That export is not finished.")
    answer = send_file(job.path, mimetype=job.media_type, as_attachment=True, download_name=job.file_name)
    answer.headers["Cache-Control"] = "private, no-store"
    return answer
