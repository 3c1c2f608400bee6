"""Who may come in: by which names the application may be called, and by which password from elsewhere."""

from __future__ import annotations

import time
from collections import deque
from dataclasses import dataclass, field
from ipaddress import ip_address
from pathlib import Path
from threading import Lock
from urllib.parse import urlsplit

from flask import Blueprint, Flask, current_app, jsonify, redirect, render_template, request, session, url_for
from werkzeug.exceptions import SecurityError
from werkzeug.security import check_password_hash, generate_password_hash
from werkzeug.wrappers import Response

from glyptic.base.errors import GlypticError
from glyptic.formats.writing import PRIVATE, write_whole

SHORTEST = 8
TRIES, WITHIN = 5, 60.0
"""Wrong passwords from everybody together, in so many seconds, after which nobody is let in for a while."""
FREE = ("access.login", "static")
"""What may be asked for without a password."""
INSIDE = "inside"

blueprint = Blueprint("access", __name__)


class PasswordFile:
    """The password of a data folder, hashed (scrypt)."""

    def __init__(self, path: Path) -> None:
        self._path = path

    def read(self) -> str:
        """The hash, or '' where no password is set."""
        try:
            return self._path.read_text().strip()
        except (OSError, ValueError):
            return ""

    def set(self, password: str) -> None:
        if len(password) < SHORTEST:
            raise GlypticError(f"A password needs {SHORTEST} characters or more; nothing was started.")
        write_whole(self._path, generate_password_hash(password).encode(), PRIVATE)


@dataclass
class Door:
    """What is asked of a caller. hashed: the password's hash, '' for none. names: host names that may be used, None for
    any; addresses may always be, for a name that leads here from elsewhere cannot pretend to be one."""

    names: list[str] | None = None
    hashed: str = ""
    _wrong: deque[float] = field(default_factory=lambda: deque(maxlen=TRIES))
    _lock: Lock = field(default_factory=Lock)

    def may_be_called(self, host: str) -> bool:
        if self.names is None:
            return True
        name = urlsplit(f"//{host}").hostname or ""
        try:
            ip_address(name)
        except ValueError:
            return name in self.names
        return True

    def is_held(self) -> bool:
        """Whether too many wrong passwords came just now."""
        with self._lock:
            return len(self._wrong) == TRIES and time.monotonic() - self._wrong[0] < WITHIN

    def opens(self, password: str) -> bool:
        right = check_password_hash(self.hashed, password)
        if not right:
            with self._lock:
                self._wrong.append(time.monotonic())
        return right


def register(app: Flask, door: Door) -> None:
    app.extensions["glyptic.door"] = door
    app.before_request(_check)
    app.register_blueprint(blueprint)


def _door() -> Door:
    found: Door = current_app.extensions["glyptic.door"]
    return found


def _check() -> Response | tuple[Response, int] | None:
    door = _door()
    try:
        known = door.may_be_called(request.host)
    except ValueError:
        known = False
    if not known:
        raise SecurityError
    if not door.hashed or session.get(INSIDE) == door.hashed or request.endpoint in FREE:
        return None
    if request.accept_mimetypes.best_match(["text/html", "application/json"]) == "application/json":
        return jsonify(
            message="You are no longer logged in. Nothing is lost: log in in another tab and go on here."
        ), 401
    return redirect(url_for("access.login"))


@blueprint.route("/login", methods=["GET", "POST"])
def login() -> Response | str | tuple[str, int]:
    """Ask for the password of somebody who calls from elsewhere."""
    door = _door()
    if not door.hashed:
        return redirect(url_for("shelf.shelf"))
    if request.method == "GET":
        return render_template("access/login.html", message="")
    if door.is_held():
        return render_template(
            "access/login.html", message="Too many wrong passwords; wait a minute and try again."
        ), 429
    if not door.opens(request.form.get("password", "")):
        return render_template("access/login.html", message="That is not the password."), 403
    session[INSIDE] = door.hashed
    return redirect(url_for("shelf.shelf"))


@blueprint.post("/logout")
def logout() -> Response:
    session.clear()
    return redirect(url_for("access.login"))
