"""Fill the demo shelf, once for each data folder."""

from __future__ import annotations

import json
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from functools import cache
from importlib.resources import files
from io import BytesIO
from pathlib import PurePath

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from glyptic.actions.kits.keeping import read_kit_files
from glyptic.actions.open_picture import add_plate, keep_asset, open_picture
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import NameTaken
from glyptic.document.codec import parse_stack
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats.decoded import Metadata
from glyptic.formats.writing import Output, encode_picture
from glyptic.pixels.quantise import to_codes
from glyptic.pixels.spaces import DISPLAY_P3

PLATES = "plates"
RAW_SIDE, WIDE_SIDE, STRONGER = 1500, 1800, 1.35
MARK, KITS_MARK = "filled", "kits-filled"


Entry = dict[str, str]
"""A plate of the shelf: its name, its picture, and its stack if it was worked on, or how its file is made of it."""


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


def _raw(data: bytes) -> tuple[str, bytes]:
    """A raw file that the practice camera takes of a scene."""
    from glyptic.demo.practice_camera import raw_of  # noqa: PLC0415  (only a new shelf needs it)

    return ".dng", raw_of(_scene(data, RAW_SIDE))


def _wide(data: bytes) -> tuple[str, bytes]:
    """A scene whose colours are stronger than sRGB has them, as a PNG in Display P3."""
    px = np.moveaxis(_scene(data, WIDE_SIDE), 2, 0) / 255
    grey = px.mean(0)
    stronger = np.clip(grey + STRONGER * (px - grey), 0, 1)
    return ".png", encode_picture(to_codes(stronger.astype(np.float32), 8), None, Output("png"), Metadata(), DISPLAY_P3)


def _scene(data: bytes, side: int) -> NDArray[np.uint8]:
    """A scene (h, w, 3), no longer than so many pixels."""
    with Image.open(BytesIO(data)) as image:
        image.thumbnail((side, side))
        return np.asarray(image.convert("RGB"))


MAKING = {"raw": _raw, "wide": _wide}


def put_demo_plates(workshop: Workshop, entries: list[Entry] | None = None) -> None:
    """Put the demo plates on a shelf, the first entry first."""
    folder = files("glyptic.demo")
    entries = entries or demo_entries()
    with ThreadPoolExecutor() as pool:
        list(pool.map(lambda name: _keep(workshop, name), {entry["picture"] for entry in entries}))
    for entry in reversed(entries):
        data = folder.joinpath(PLATES, entry["picture"]).read_bytes()
        if "made" in entry:
            name, made = MAKING[entry["made"]](data)
            open_picture(workshop, made, f"{PurePath(entry['picture']).stem}{name}", entry["name"])
            continue
        if "stack" not in entry:
            open_picture(workshop, data, entry["picture"], entry["name"])
            continue
        asset = keep_asset(workshop, data, entry["picture"])
        plain = json.loads(folder.joinpath("stacks", entry["stack"]).read_text())
        for layer in (*plain["layers"], *plain.get("frame", {}).get("layers", ())):
            if "source" in layer:
                layer["source"] = _keep(workshop, layer["source"])
        add_plate(workshop, entry["name"], asset, parse_stack(plain, VOCABULARY), "Opened with its stack")
