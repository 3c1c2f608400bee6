"""`glyptic save` and `glyptic open`: plates as stack files with their pictures, out of the data folder and into it."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from glyptic.base.errors import GlypticError, NotFound
from glyptic.cli.serve import data_folder

MEGAPIXEL = 1_000_000


def declare(commands: Any) -> None:
    save = commands.add_parser(
        "save", help="write a plate with its pictures and its history, as a ZIP, OpenRaster, or into a folder"
    )
    save.add_argument("plate", help="its name, or its number as the bench's address has it")
    save.add_argument("out", type=Path, metavar="OUT.zip|OUT.ora|FOLDER")
    save.set_defaults(run=run_save)
    opens = commands.add_parser("open", help="put pictures, archives and stack files on the shelf")
    opens.add_argument("files", type=Path, nargs="+", metavar="FILE")
    opens.add_argument("--limit", type=int, default=100, metavar="MP", help="megapixels a picture may have")
    opens.set_defaults(run=run_open)
    for parser in (save, opens):
        parser.add_argument("--data", type=Path, metavar="FOLDER", help="where plates are kept")
        parser.add_argument("--demo", action="store_true", help="the demo shelf")


def run_save(options: argparse.Namespace) -> None:
    """Write one plate; a server may be at work in the folder meanwhile."""
    from glyptic.actions.archive import write_archive, write_folder
    from glyptic.actions.openraster import write_openraster
    from glyptic.actions.shelve import list_plates
    from glyptic.actions.workshop import Workshop
    from glyptic.formats.writing import whole_file
    from glyptic.store import Store

    store = Store(data_folder(options.data, options.demo), looked_at=True)
    try:
        workshop = Workshop(store)
        found = [card for card in list_plates(workshop) if options.plate in (card.name, str(card.id))]
        if len(found) != 1:
            raise NotFound(f"{len(found)} plates are called {options.plate!r}; name one, or give its number.")
        if options.out.suffix.lower() == ".zip":
            with whole_file(options.out) as stream:
                write_archive(workshop, found[0].id, stream)
        elif options.out.suffix.lower() == ".ora":
            with whole_file(options.out) as stream:
                write_openraster(workshop, found[0].id, stream)
        else:
            write_folder(workshop, found[0].id, options.out)
    finally:
        store.close()


def run_open(options: argparse.Namespace) -> None:
    """Put files on the shelf, each by itself; one that fails is named and the others go on."""
    from glyptic.actions.archive import open_stack_file
    from glyptic.actions.opening import open_any
    from glyptic.actions.workshop import Workshop
    from glyptic.store import Store

    store = Store(data_folder(options.data, options.demo))
    failed = []
    try:
        workshop = Workshop(store, options.limit * MEGAPIXEL)
        for path in options.files:
            try:
                if path.suffix.lower() == ".json":
                    number = open_stack_file(workshop, path)
                else:
                    with path.open("rb") as stream:
                        number = open_any(workshop, stream, path.name)
                print(f"{path} is plate {number}")
            except (GlypticError, OSError) as error:
                failed.append(f"{path}: {error}")
    finally:
        store.close()
    if failed:
        raise GlypticError("\n".join(failed))
