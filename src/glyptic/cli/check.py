"""`glyptic check`: what is installed, where data lies and how much, whether all is whole, and what to do."""

from __future__ import annotations

import argparse
import platform
import shutil
from pathlib import Path
from typing import Any

from glyptic import __version__
from glyptic.base.errors import GlypticError
from glyptic.cli.serve import data_folder

LIBRARIES = ("numpy", "numba", "sqlalchemy", "flask", "pillow", "imagecodecs", "tifffile", "opencv-python-headless")


def declare(commands: Any) -> None:
    parser = commands.add_parser("check", help="say what is installed, where data lies, and whether all is whole")
    parser.add_argument("--data", type=Path, metavar="FOLDER", help="where plates are kept")
    parser.add_argument("--demo", action="store_true", help="the demo shelf")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> None:
    """Print what was found; raises GlypticError with what to do where something is wrong."""
    from importlib.metadata import version

    from glyptic.actions.warm import is_compiled
    from glyptic.pixels.kept_code import KEPT

    print(f"Glyptic {__version__}, Python {platform.python_version()} on {platform.machine()}")
    print("Libraries    " + ", ".join(f"{name} {version(name)}" for name in LIBRARIES))
    print(f"Kernels      {'compiled' if is_compiled() else 'not compiled yet: run glyptic warm'}, in {KEPT}")
    folder = data_folder(options.data, options.demo)
    if not folder.exists():
        print(f"Data         none yet; it will lie in {folder}")
        return
    _check_data(folder)


def _check_data(folder: Path) -> None:
    from glyptic.actions.housekeeping import holdings
    from glyptic.actions.shelve import list_plates
    from glyptic.actions.workshop import Workshop
    from glyptic.store import Store
    from glyptic.store.migrating import newest_version, version_of
    from glyptic.web.filters import bytes_words

    store = Store(folder, looked_at=True)
    try:
        workshop = Workshop(store)
        print(f"Data         {folder}, {bytes_words(shutil.disk_usage(folder).free)} free on its disk")
        for one in holdings(workshop):
            print(f"  {one.title:<18}{bytes_words(one.size):>10}  {'can be made again' if one.again else ''}".rstrip())
        print(f"Backups      {len(store.backups.all())}")
        if store.trouble:
            raise GlypticError(store.trouble)
        with store.engine.connect() as connection:
            version = version_of(connection)
        print(
            f"Database     whole, version {version}"
            + (f" (to be brought to {newest_version()})" * (version != newest_version()))
        )
        print(f"Plates       {len(list_plates(workshop))}, {len(list_plates(workshop, removed=True))} in the bin")
    finally:
        store.close()
