"""`glyptic restore`: put a backup of the database in its place."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from glyptic.cli.serve import data_folder


def declare(commands: Any) -> None:
    parser = commands.add_parser("restore", help="put a backup of the database in its place")
    parser.add_argument("backup", nargs="?", help="its name, as --list shows it; the newest that is whole unless given")
    parser.add_argument("--list", action="store_true", help="list the backups and change nothing")
    parser.add_argument("--data", type=Path, metavar="FOLDER", help="where plates are kept")
    parser.add_argument("--demo", action="store_true", help="the demo shelf")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> None:
    """List the backups, or restore one; the database that was there is kept beside them."""
    from glyptic.store.backups import Backups
    from glyptic.store.database import NAME
    from glyptic.store.folder import DataFolder

    folder = data_folder(options.data, options.demo)
    backups = Backups(folder / "backups", folder / NAME)
    if options.list:
        for one in backups.all():
            print(f"{one.path.name}  {one.at:%-d %B %Y, %H:%M} UTC  {one.size / 1e6:.1f} MB  {one.why}")
        return
    place = DataFolder(folder)
    try:
        restored = backups.restore(options.backup)
    finally:
        place.let_go()
    print(f"{restored.path.name} is in place again; what was there is kept in {backups.folder}.")
