"""Serving the application on this machine."""

from __future__ import annotations

import logging
import socket
from pathlib import Path
from threading import Thread

import platformdirs
import waitress

from glyptic.actions.warm import warm
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import GlypticError
from glyptic.demo.shelf import fill_demo_shelf
from glyptic.store import Store
from glyptic.web.factory import create_app

THREADS = 8


def data_folder(given: Path | None, demo: bool) -> Path:
    """Where plates are kept: the folder given, or this user's own; the demo's is always apart from it."""
    if demo:
        return (given or platformdirs.user_data_path("glyptic")) / "demo"
    return given or platformdirs.user_data_path("glyptic") / "shelf"


def serve(given: Path | None, demo: bool, host: str, port: int, limit: int) -> None:
    """Serve until stopped; prints the address."""
    _check_free(host, port)
    logging.basicConfig(level=logging.WARNING)
    workshop = Workshop(Store(data_folder(given, demo)), limit)
    Thread(target=warm, name="warm", daemon=True).start()
    if demo:
        fill_demo_shelf(workshop)
    app = create_app(workshop)
    shown = f"[{host}]" if ":" in host else host
    print(f"Glyptic is at http://{shown}:{port}  (plates are kept in {workshop.store.folder})", flush=True)  # noqa: T201
    waitress.serve(
        app, host=host, port=port, threads=THREADS, outbuf_overflow=64 * 2**20, send_bytes=256 * 2**10,
        inbuf_overflow=2**20, max_request_body_size=2**31, clear_untrusted_proxy_headers=True, ident="Glyptic",
    )  # fmt: skip


def _check_free(host: str, port: int) -> None:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family, socket.SOCK_STREAM) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise GlypticError(
                f"{host}:{port} cannot be used ({error.strerror}). Is Glyptic running already? "
                "Stop it, or choose another port with --port."
            ) from error
