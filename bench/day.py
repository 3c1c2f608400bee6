"""A day of work at 24 megapixels: what is kept in memory after thousands of strokes, against the one budget for it."""

from __future__ import annotations

import re
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from bench.memory import repeated
from bench.reference import SIZES, reference_layers, strokes
from bench.table import Table
from glyptic.actions import edit, paint
from glyptic.actions.budget import Budget
from glyptic.actions.exact import advance
from glyptic.actions.keeping import keep_first
from glyptic.actions.looking import Looking
from glyptic.actions.open_picture import keep_asset
from glyptic.actions.tiles import quick_pixels, tile_keys, tile_pixels
from glyptic.actions.workshop import Workshop
from glyptic.base.rectangles import Canvas, Rect
from glyptic.document.codec import parse_stack
from glyptic.engine.heap import give_back, share_one_heap
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats.decoded import Metadata
from glyptic.formats.sheet import Sheet
from glyptic.formats.writing import Output, write_picture
from glyptic.store import Store

STROKES = 2000
DRAGS, FRAMES = 150, 12
DRAGGED = (
    ("l3", "settings.stops", -0.5, 1.0), ("l8", "settings.sigma", 5.0, 30.0), ("l11", "settings.vibrance", -0.5, 0.8),
    ("l12", "settings.amount", 0.1, 1.0), ("l10", "settings.hue", -20.0, 20.0),
)  # fmt: skip
LOOKED_AT = Rect(0, 0, 1280, 1024)


def own_memory() -> int:
    """Bytes that are this process's own, not mapped from a file."""
    return int(re.search(r"RssAnon:\s+(\d+)", Path("/proc/self/status").read_text())[1]) * 1024


@contextmanager
def opened(layers: list[dict[str, Any]]) -> Iterator[tuple[Workshop, int]]:
    """A data folder with one plate of 24 megapixels and some layers."""
    width, height = SIZES[24]
    with tempfile.TemporaryDirectory(prefix="glyptic-bench-") as made:
        path = Path(made) / "base.jpg"
        bands = ((band >> 8).astype("uint8") for band in repeated(width, height))
        write_picture(path, Sheet(width, height, 3, 8), bands, Output("jpeg"), Metadata())
        shop = Workshop(Store(Path(made) / "shelf"), budget=Budget())
        asset = keep_asset(shop, path.read_bytes(), "base.jpg")
        base = {"kind": "picture", "id": "base", "source": asset}
        plain = {"format": "glyptic-stack", "version": 1, "layers": [base, *layers]}
        yield shop, keep_first(shop, "Day", asset, parse_stack(plain, VOCABULARY), "Made")
        shop.store.close()


def day(table: Table) -> None:
    """Draw, keep and look, as the page does, stroke after stroke."""
    width, height = SIZES[24]
    blur = {"kind": "blur", "id": "b", "settings": {"sigma": 6}, "mask": {"start": "closed"}}
    with opened([{"kind": "grey", "id": "g"}, blur]) as (shop, plate):
        before, took = own_memory(), []
        for number, stroke in enumerate(strokes(STROKES, width, height, 1)):
            layer, target = ("g", "grey") if number % 2 else ("b", "mask")
            full = {**stroke, "to": 1}
            view = LOOKED_AT._replace(x=256 * (number % 16), y=256 * (number % 11))
            at = Looking("finished", layer, number % 3 and 2, view)
            hand = paint.begin(shop, plate, layer, target, full)
            shop.in_hand.put((plate, str(number)), hand)
            paint.look(shop, hand, at)
            started = time.perf_counter()
            current = paint.keep_stroke(shop, plate, layer, target, full, str(number))
            took.append(time.perf_counter() - started)
            if number % 5 == 0:
                for *_, key in tile_keys(shop, current.stack, at):
                    tile_pixels(shop, key)
        held = sum(bytes_held for bytes_held, _ in shop.held.values())
    section = f"A day of work: {STROKES} strokes at 24 megapixels, drawn, kept and looked at"
    table.add(
        section, "kept in memory, against the budget", f"{held / 2**20:.0f} MB", f"{Budget().whole / 2**20:.0f} MB"
    )
    table.add(
        section,
        "the process's own memory, before and after",
        f"{before / 2**20:.0f} and {own_memory() / 2**20:.0f} MB",
        "",
    )
    first, last = np.median(took[:200]) * 1e3, np.median(took[-200:]) * 1e3
    table.add(section, "keeping a stroke, the first and the last 200", f"{first:.0f} and {last:.0f} ms", "the same")


def dragging(table: Table) -> None:
    """Drag sliders of layers in turn, at other zooms and places each time, let go, and rest."""
    width, height = SIZES[24]
    share_one_heap()
    marks = []
    with opened(reference_layers(width, height)) as (shop, plate):
        for number in range(DRAGS):
            layer, field, low, high = DRAGGED[number % len(DRAGGED)]
            level = (0.0, *np.linspace(0.3, 2.9, 13))[number * 5 % 14]
            size = Canvas(width, height).at(level)
            view = Rect(size.w * (number % 5) // 8, size.h * (number % 3) // 6, 976, 548).meet(size)
            at = Looking("finished", layer, float(level), view)
            for value in np.linspace(low, high, FRAMES) + number / 1000:
                given = {"layer": layer, "field": field, "value": float(value)}
                quick_pixels(shop, edit.try_edit(shop, plate, "set", given), at)
            current = edit.apply_edit(shop, plate, shop.current(plate).revision, "set", given)
            for *_, key in tile_keys(shop, current.stack, at):
                tile_pixels(shop, key)
            advance(shop, current.stack, replace(at, exact=True))
            give_back()  # as the server does when the hand rests
            marks.append(own_memory() / 2**20)
    figure = " and ".join(f"{max(marks[:end]):.0f}" for end in (DRAGS // 3, DRAGS)) + " MB"
    table.add(
        f"An hour's dragging: {DRAGS} drags of {FRAMES} frames at 14 zooms", "the server's own memory at the most, after a third and at the end",
        figure, f"{Budget().whole / 2**20 + 300:.0f} MB",
    )  # fmt: skip
