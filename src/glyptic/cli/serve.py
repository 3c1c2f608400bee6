"""`glyptic serve`: the application on this machine."""

from __future__ import annotations

import argparse
import gc
import logging
import socket
from pathlib import Path
from threading import Thread
from typing import Any

from glyptic.base.errors import GlypticError
from glyptic.cli.heap import share_one_heap

THREADS = 8


def declare(commands: Any) -> None:
    parser = commands.add_parser("serve", help="serve the application")
    parser.add_argument("--data", type=Path, metavar="FOLDER", help="where plates are kept")
    parser.add_argument("--demo", action="store_true", help="use the demo shelf, kept apart from your own plates")
    parser.add_argument("--host", default="127.0.0.1", help="address to listen on")
    parser.add_argument("--port", type=int, default=8765)
    parser.add_argument("--limit", type=int, default=100, metavar="MP", help="megapixels a picture may have")
    parser.set_defaults(run=run)


def data_folder(given: Path | None, demo: bool) -> Path:
    """Where plates are kept: the folder given, or this user's own; the demo's is always apart from it."""
    import platformdirs

    folder = given or platformdirs.user_data_path("glyptic")
    return folder / ("demo" if demo else "shelf")


def run(options: argparse.Namespace) -> None:
    """Serve until stopped; prints the address once it can be opened."""
    _check_free(options.host, options.port)
    share_one_heap()
    gc.disable()  # nothing that is made while starting is thrown away: looking for that takes a tenth of a second
    import waitress

    from glyptic.actions.settle import Settler
    from glyptic.actions.warm import warm
    from glyptic.actions.workshop import Workshop
    from glyptic.demo.shelf import fill_demo_shelf, is_filled
    from glyptic.store import Store
    from glyptic.web.factory import LOOPBACK, create_app

    logging.basicConfig(level=logging.WARNING)
    workshop = Workshop(Store(data_folder(options.data, options.demo)), options.limit * 1_000_000)
    settler = Settler(workshop)
    settler.arrive()
    Thread(target=warm, args=(settler.rest,), name="warm", daemon=True).start()
    if options.demo and not is_filled(workshop):
        print("Filling the demo shelf, a few seconds, the first time only", flush=True)
        fill_demo_shelf(workshop)
    server = waitress.create_server(
        create_app(workshop, LOOPBACK if options.host in LOOPBACK or options.host == "::1" else None, settler),
        host=options.host, port=options.port, threads=THREADS,
        outbuf_overflow=64 * 2**20, send_bytes=256 * 2**10, max_request_body_size=2**31, ident="Glyptic",
        channel_request_lookahead=1,
    )  # fmt: skip
    shown = f"[{options.host}]" if ":" in options.host else options.host
    settler.leave()
    gc.freeze()
    gc.enable()
    print(
        f"Glyptic is at http://{shown}:{options.port}",
        f"Plates are kept in {workshop.store.folder}",
        sep="\n",
        flush=True,
    )
    server.run()


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
