"""The Flask application: blueprints, security headers, errors as sentences."""

from __future__ import annotations

import secrets
from contextlib import suppress
from pathlib import Path
from typing import Any

from flask import Flask, Response, current_app, g, jsonify, render_template, request
from flask_wtf.csrf import CSRFError, CSRFProtect
from jinja2 import FileSystemBytecodeCache
from jinja2.bccache import Bucket
from werkzeug.exceptions import HTTPException, SecurityError
from werkzeug.middleware.proxy_fix import ProxyFix
from werkzeug.routing import IntegerConverter, Map

from glyptic.actions.export import Exports
from glyptic.actions.runs.foreman import Foreman
from glyptic.actions.settle import Settler
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import (
    DiskFull,
    DocumentError,
    GlypticError,
    NameTaken,
    NotFound,
    PictureError,
    StaleEdit,
    Stopped,
    StoreError,
)
from glyptic.formats.writing import PRIVATE, write_whole
from glyptic.store.faults import explained
from glyptic.web import (
    access,
    areas,
    bench,
    checks,
    deliveries,
    drafts,
    exports,
    files,
    filters,
    guide,
    house,
    kits,
    looks,
    painting,
    pictures,
    pixels,
    presses,
    proofs,
    runs,
    sheets,
    shelf,
    shoots,
    statics,
    words,
)
from glyptic.web.context import LARGEST, Context, context

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
OUR_FAULT = "Something went wrong inside Glyptic. Nothing you did before is lost; reload the page and go on."


LOOPBACK = ["127.0.0.1", "localhost", "::1"]


def create_app(
    workshop: Workshop, hosts: list[str] | None = None, settler: Settler | None = None, hashed: str = "",
    behind_tls: bool = False, foreman: Foreman | None = None,
) -> Flask:  # fmt: skip
    """The application over one workshop. hosts: the names it may be called by; None for any. settler: keeps painted
    tiles on disk while nobody asks for anything; without one they are made when needed. hashed: the password's hash; ''
    where none is asked for. behind_tls: whether a proxy before it speaks TLS with the world. foreman: works off the
    runs; without one they wait."""
    app = Flask(__name__, static_url_path=statics.address())
    app.config.update(
        SEND_FILE_MAX_AGE_DEFAULT=statics.FOR_EVER,
        SECRET_KEY=_secret(workshop.store.folder / "secret"),
        WTF_CSRF_TIME_LIMIT=None,
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SECURE=behind_tls,
        MAX_CONTENT_LENGTH=2**31,
        MAX_FORM_MEMORY_SIZE=64 * 2**20,
    )
    app.url_map.converters["int"] = Number
    app.json.sort_keys = False  # type: ignore[attr-defined]
    app.extensions["glyptic"] = Context(workshop, Exports(workshop.store.folder / "exports"), settler, foreman)
    app.wsgi_app = statics.served(app.wsgi_app)  # type: ignore[method-assign]
    if behind_tls:
        app.wsgi_app = ProxyFix(app.wsgi_app, x_for=1, x_proto=1, x_host=1)  # type: ignore[method-assign]
    access.register(app, access.Door(hosts, hashed))
    CSRFProtect(app)
    filters.register(app)
    app.jinja_env.bytecode_cache = _compiled_templates(workshop.store.folder / "templates")
    for module in (
        shelf,
        shoots,
        house,
        looks,
        guide,
        bench,
        pictures,
        areas,
        pixels,
        painting,
        proofs,
        checks,
        kits,
        runs,
        sheets,
        exports,
        files,
        presses,
        deliveries,
        drafts,
        words,
    ):
        app.register_blueprint(module.blueprint)
    app.before_request(_arrive)
    app.teardown_request(_leave)
    app.after_request(_secure)
    app.register_error_handler(GlypticError, _sentence)
    app.register_error_handler(HTTPException, _http)
    app.register_error_handler(Exception, _unforeseen)
    return app


WATCHING = ("exports", "runs")
"""The rooms of pages that only watch something go on: nobody's hand waits for them."""


def _arrive() -> None:
    """Somebody is at work (but for a page that watches)."""
    settler = context().settler
    if settler is not None and request.blueprint not in WATCHING:
        settler.arrive()
        g.arrived = True


def _leave(error: BaseException | None) -> None:
    settler = context().settler
    if settler is not None and g.pop("arrived", False):
        settler.leave()


class KeptTemplates(FileSystemBytecodeCache):
    """Compiled templates on disk, so that the first page of the next start need not compile them; one that cannot be
    written, or is not what was written, is compiled again."""

    def load_bytecode(self, bucket: Bucket) -> None:
        try:
            super().load_bytecode(bucket)
        except Exception:
            bucket.reset()

    def dump_bytecode(self, bucket: Bucket) -> None:
        with suppress(OSError):
            super().dump_bytecode(bucket)


def _compiled_templates(folder: Path) -> KeptTemplates:
    with suppress(OSError):
        folder.mkdir(exist_ok=True)
    return KeptTemplates(str(folder))


SECRET_LENGTH = 64


def _secret(path: Path) -> str:
    """The key that signs forms; made once for each data folder, and anew where it was not written to its end. Where
    nothing may be written it lasts as long as this process."""
    try:
        kept = path.read_text()
        if len(kept) == SECRET_LENGTH:
            return kept
    except (OSError, ValueError):
        pass
    made = secrets.token_hex(SECRET_LENGTH // 2)
    with suppress(OSError):
        write_whole(path, made.encode(), PRIVATE)
    return made


def _secure(response: Response) -> Response:
    response.headers.setdefault("Content-Security-Policy", POLICY)
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    return response


def _wants_json() -> bool:
    return request.accept_mimetypes.best_match(["text/html", "application/json"]) == "application/json"


class Number(IntegerConverter):
    """Numbers in addresses, such as a database holds."""

    def __init__(self, rules: Map) -> None:
        super().__init__(rules, max=LARGEST)


def _answer(message: str, status: int, **more: Any) -> tuple[Any, int]:
    message = message.encode(errors="replace").decode()
    if _wants_json():
        return jsonify(message=message, **more), status
    template = "errors/sentence.html" if request.headers.get("HX-Request") else "errors/page.html"
    return render_template(template, message=message), status


def _status_of(error: GlypticError) -> int:
    if isinstance(error, NotFound):
        return 404
    if isinstance(error, StaleEdit | Stopped):
        return 409
    if isinstance(error, StoreError):
        return 507 if isinstance(error, DiskFull) else 503
    return 422 if isinstance(error, DocumentError | NameTaken | PictureError) else 400


def said(error: DocumentError) -> str:
    """What was wrong, by the names and in the units of the page, and that nothing was changed."""
    first = "; ".join(dict.fromkeys(fault.said for fault in error.faults[:MOST_SAID]))
    more = f"; and {len(error.faults) - MOST_SAID} more" if len(error.faults) > MOST_SAID else ""
    sentence = f"{first[:1].upper()}{first[1:]}{more}".rstrip(".")
    ending = "" if "nothing was changed" in sentence.lower() else " Nothing was changed."
    return f"{sentence}.{ending}"


MOST_SAID = 3


def _sentence(error: GlypticError) -> tuple[Any, int]:
    text = str(error)
    if isinstance(error, DocumentError):
        text = said(error)
    more = {"taken": error.number} if isinstance(error, NameTaken) else {}
    return _answer(text, _status_of(error), **more)


def _http(error: HTTPException) -> tuple[Any, int]:
    known = {
        404: "There is no such page. The shelf has all your plates.",
        405: "That cannot be done here. Nothing was changed.",
        413: "The file is larger than Glyptic takes in one piece. Nothing was changed.",
    }
    if isinstance(error, SecurityError):
        return "Glyptic answers by the address it printed when it started, and by names given with --name.\n", 400
    if isinstance(error, CSRFError):
        return _answer("This page is too old to change anything. Nothing was lost; reload it and try again.", 400)
    return _answer(
        known.get(error.code or 500, "The request could not be understood. Nothing was changed."), error.code or 500
    )


def _unforeseen(error: Exception) -> tuple[Any, int]:
    known = explained(error)
    if known is not None:
        return _sentence(known)
    current_app.logger.exception("unforeseen", exc_info=error)
    return _answer(OUR_FAULT, 500)
