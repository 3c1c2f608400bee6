"""`glyptic serve`: the application on this machine."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any


def declare(commands: Any) -> None:
    parser = commands.add_parser("serve", help="serve the application")
    parser.add_argument("--data", type=Path, metavar="FOLDER", help="where plates are kept")
    parser.add_argument("--demo", action="store_true", help="use the demo shelf, kept apart from your own plates")
    parser.add_argument("--host", default="127.0.0.1", help="address to listen on")
    parser.add_argument("--port", type=int, default=8765)
    parser.add_argument("--limit", type=int, default=100, metavar="MP", help="megapixels a picture may have")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> None:
    from glyptic.web.serving import serve

    serve(options.data, options.demo, options.host, options.port, options.limit * 1_000_000)
