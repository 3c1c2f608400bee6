"""A day of work at 24 megapixels: what is kept in memory after thousands of strokes, against the one budget for it."""

from __future__ import annotations

import re
import tempfile
import time
from pathlib import Path

import numpy as np

from bench.memory import repeated
from bench.reference import SIZES, strokes
from bench.table import Table
from glyptic.actions import paint
from glyptic.actions.budget import Budget
from glyptic.actions.keeping import keep_first
from glyptic.actions.looking import Looking
from glyptic.actions.open_picture import keep_asset
from glyptic.actions.tiles import tile_keys, tile_pixels
from glyptic.actions.workshop import Workshop
from glyptic.base.rectangles import Rect
from glyptic.document.codec import parse_stack
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats.decoded import Metadata
from glyptic.formats.sheet import Sheet
from glyptic.formats.writing import Output, write_picture
from glyptic.store import Store

STROKES = 2000
LOOKED_AT = Rect(0, 0, 1280, 1024)


def own_memory() -> int:
    """Bytes that are this process's own, not mapped from a file."""
    return int(re.search(r"RssAnon:\s+(\d+)", Path("/proc/self/status").read_text())[1]) * 1024


def day(table: Table) -> None:
    """Draw, keep and look, as the page does, stroke after stroke."""
    width, height = SIZES[24]
    with tempfile.TemporaryDirectory(prefix="glyptic-bench-") as made:
        path = Path(made) / "base.jpg"
        bands = ((band >> 8).astype("uint8") for band in repeated(width, height))
        write_picture(path, Sheet(width, height, 3, 8), bands, Output("jpeg"), Metadata())
        shop = Workshop(Store(Path(made) / "shelf"), budget=Budget())
        asset = keep_asset(shop, path.read_bytes(), "base.jpg")
        layers = [
            {"kind": "grey", "id": "g"},
            {"kind": "blur", "id": "b", "settings": {"sigma": 6}, "mask": {"start": "closed"}},
        ]
        plain = {
            "format": "glyptic-stack",
            "version": 1,
            "layers": [{"kind": "picture", "id": "base", "source": asset}, *layers],
        }
        plate = keep_first(shop, "Day", asset, parse_stack(plain, VOCABULARY), "Made")
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
        shop.store.close()
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
