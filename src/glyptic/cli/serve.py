"""`glyptic serve`: the application on this machine."""

from __future__ import annotations

import argparse
import gc
import getpass
import logging
import os
import secrets
import socket
import sys
from pathlib import Path
from threading import Thread
from typing import Any

from glyptic.actions.budget import DEFAULT, LEAST, Budget
from glyptic.base.errors import GlypticError
from glyptic.engine.heap import share_one_heap

THREADS = 8


def declare(commands: Any) -> None:
    parser = commands.add_parser("serve", help="serve the application")
    parser.add_argument("--data", type=Path, metavar="FOLDER", help="where plates are kept")
    parser.add_argument("--demo", action="store_true", help="use the demo shelf, kept apart from your own plates")
    parser.add_argument("--host", default="127.0.0.1", help="address to listen on")
    parser.add_argument("--port", type=int, default=8765)
    parser.add_argument("--name", action="append", default=[], help="a host name it may be called by; may be repeated")
    parser.add_argument("--https", action="store_true", help="a proxy before it speaks TLS with the world")
    parser.add_argument("--memory", type=int, default=DEFAULT // 2**20, metavar="MB", help="what may be kept in memory")
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

    from glyptic.actions.housekeeping import Housekeeper
    from glyptic.actions.runs.foreman import Foreman
    from glyptic.actions.settle import Settler
    from glyptic.actions.warm import warm
    from glyptic.actions.workshop import Workshop
    from glyptic.demo.shelf import fill_demo_shelf, is_filled
    from glyptic.store import Store
    from glyptic.store.faults import NO_WRITING
    from glyptic.web.factory import LOOPBACK, create_app

    logging.basicConfig(level=logging.WARNING)
    folder = data_folder(options.data, options.demo)
    hashed = "" if options.host in LOOPBACK else _password(options.host, folder)
    budget = Budget(max(options.memory * 2**20, LEAST))
    workshop = Workshop(Store(folder), options.limit * 1_000_000, budget)
    for trouble in filter(None, (workshop.store.trouble, "" if workshop.store.place.writable else str(NO_WRITING))):
        print(trouble, file=sys.stderr, flush=True)
    settler = Settler(workshop)
    settler.arrive()
    Thread(target=warm, args=(settler.rest,), name="warm", daemon=True).start()
    if options.demo and not is_filled(workshop):
        print("Filling the demo shelf, a few seconds, the first time only", flush=True)
        fill_demo_shelf(workshop)
    if workshop.store.place.writable:
        Housekeeper(workshop, settler.rest).start()
    foreman = Foreman(workshop, settler.rest)
    foreman.start()
    names = [*LOOPBACK, *options.name, socket.gethostname(), socket.getfqdn()] if hashed else [*LOOPBACK, *options.name]
    server = waitress.create_server(
        create_app(workshop, names, settler, hashed, options.https, foreman),
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
        f"Plates are kept in {workshop.store.folder}; up to {budget.whole // 2**20} MB are kept in memory",
        sep="\n",
        flush=True,
    )
    server.run()


UNPROTECTED = (
    "{host} can be reached from other machines, and whoever reaches Glyptic can do everything. So it asks for a "
    "password there, and has not started, for none is set. Start it once from a terminal, which asks for one, or give "
    "one in GLYPTIC_PASSWORD; or leave --host out, and only this machine reaches it."
)
TLS_NOTE = (
    "Glyptic asks for the password at {host}. It speaks plain HTTP: on a network that others share, put a proxy before "
    "it that speaks TLS, and start Glyptic with --https."
)


def _password(host: str, folder: Path) -> str:
    """The hash of the password for callers from elsewhere: the one given in the environment, the one set before, or one
    asked for now. Raises GlypticError where there is none."""
    from glyptic.web.access import PasswordFile

    kept = PasswordFile(folder / "password")
    given = os.environ.get("GLYPTIC_PASSWORD", "")
    if not given and not kept.read():
        if not sys.stdin.isatty():
            raise GlypticError(UNPROTECTED.format(host=host))
        given = getpass.getpass("A password for those who call from other machines (Enter: one is made): ")
        if not given:
            given = secrets.token_urlsafe(12)
            print(f"The password is {given}", flush=True)
    if given:
        folder.mkdir(parents=True, exist_ok=True)
        kept.set(given)
    print(TLS_NOTE.format(host=host), flush=True)
    return kept.read()


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
