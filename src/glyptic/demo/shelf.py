"""Fill the demo shelf, once for each data folder."""

from __future__ import annotations

import json
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from functools import cache
from importlib.resources import files

from glyptic.actions.kits.keeping import read_kit_files
from glyptic.actions.open_picture import add_plate, keep_asset, open_picture
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import NameTaken
from glyptic.document.codec import parse_stack
from glyptic.engine.vocabulary import VOCABULARY

PLATES = "plates"
MARK, KITS_MARK = "filled", "kits-filled"


Entry = dict[str, str]
"""A plate of the shelf: its name, its picture, and its stack if it was worked on."""


def demo_entries() -> list[Entry]:
    entries: list[Entry] = json.loads(files("glyptic.demo").joinpath("shelf.json").read_text())
    return entries


@cache
def demo_names() -> frozenset[str]:
    """The names of the demo plates."""
    return frozenset(entry["name"] for entry in demo_entries())


def is_filled(workshop: Workshop) -> bool:
    """Whether this data folder's shelf was filled before."""
    return all((workshop.store.folder / mark).exists() for mark in (MARK, KITS_MARK))


def _keep(workshop: Workshop, name: str) -> str:
    """Keep a plate's picture; returns its hash."""
    return keep_asset(workshop, files("glyptic.demo").joinpath(PLATES, name).read_bytes(), name)


def fill_demo_shelf(workshop: Workshop, entries: list[Entry] | None = None) -> None:
    """Put the demo plates on a new shelf, the first entry first; a shelf that was filled before is left as it is."""
    if not (workshop.store.folder / MARK).exists():
        put_demo_plates(workshop, entries)
        (workshop.store.folder / MARK).touch()
    if not (workshop.store.folder / KITS_MARK).exists():
        put_demo_kits(workshop)
        (workshop.store.folder / KITS_MARK).touch()


def demo_kits() -> list[bytes]:
    """The files of the demo kits."""
    return [one.read_bytes() for one in files("glyptic.demo").joinpath("kits").iterdir() if one.name.endswith(".json")]


def put_demo_kits(workshop: Workshop) -> None:
    """Put the demo kits among those that are kept; one whose name is taken is left out."""
    for text in demo_kits():
        with suppress(NameTaken):
            read_kit_files(workshop, {"kit.json": text})


def put_demo_plates(workshop: Workshop, entries: list[Entry] | None = None) -> None:
    """Put the demo plates on a shelf, the first entry first."""
    folder = files("glyptic.demo")
    entries = entries or demo_entries()
    with ThreadPoolExecutor() as pool:
        list(pool.map(lambda name: _keep(workshop, name), {entry["picture"] for entry in entries}))
    for entry in reversed(entries):
        data = folder.joinpath(PLATES, entry["picture"]).read_bytes()
        if "stack" not in entry:
            open_picture(workshop, data, entry["picture"], entry["name"])
            continue
        asset = keep_asset(workshop, data, entry["picture"])
        plain = json.loads(folder.joinpath("stacks", entry["stack"]).read_text())
        for layer in (*plain["layers"], *plain.get("frame", {}).get("layers", ())):
            if "source" in layer:
                layer["source"] = _keep(workshop, layer["source"])
        add_plate(workshop, entry["name"], asset, parse_stack(plain, VOCABULARY), "Opened with its stack")
