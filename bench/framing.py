"""The frame: a viewport through a turned frame against the same without one, and a framed export against an unframed."""

from __future__ import annotations

import math
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from importlib.resources import files
from io import BytesIO
from pathlib import Path
from statistics import median

import numpy as np
from PIL import Image

from bench.reference import SIZES, photograph, reference_layers, stack_of
from bench.table import Table
from glyptic.actions.merging import add_from_plate
from glyptic.actions.open_picture import open_picture
from glyptic.actions.registering import lay_over
from glyptic.actions.workshop import Workshop
from glyptic.base.rectangles import Rect
from glyptic.document.codec import parse_frame
from glyptic.document.values import Stack
from glyptic.engine.cache import TileCache
from glyptic.engine.paintings import Chains
from glyptic.engine.plan import make_plan
from glyptic.engine.render import Rendering, cache_for
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.params import Values
from glyptic.pixels.pyramid import Picture
from glyptic.store import Store

WIDTH, HEIGHT = SIZES[24]
SECTION = "The frame, 24 megapixels, 12 layers (median ratio, taken in turn)"
TIMES = 9
CHANGED = "l3"


def framed(stack: Stack, turn: float) -> Stack:
    """The stack with a frame that levels by so many degrees; by 0 a whole crop of the same size."""
    width, height = 5120, 3412
    angle = math.radians(turn)
    spans = [(-width / 2, -height / 2), (width / 2, -height / 2), (width / 2, height / 2), (-width / 2, height / 2)]
    corners = [
        (
            WIDTH / 2 + x * math.cos(angle) - y * math.sin(angle),
            HEIGHT / 2 + x * math.sin(angle) + y * math.cos(angle),
        )
        for x, y in spans
    ]
    return replace(stack, frame=parse_frame({"corners": corners, "size": [width, height]}, VOCABULARY, "frame"))


def _viewport(picture: Picture, stack: Stack, level: int, region: Rect | None) -> Callable[[], None]:
    """Draws a viewport after a change in layer 3, with what is below that kept."""
    cache, chains = TileCache(2**30), Chains()
    before = stack.find(CHANGED)
    assert before is not None
    values = iter(np.linspace(0.2, 0.9, 1000).tolist())

    def work() -> None:
        changed = replace(before, settings=Values({**before.settings, "stops": next(values)}))
        plan = make_plan(stack.replaced(changed), lambda source: picture, chains)
        plan.work_on(CHANGED)
        Rendering(plan, cache, level, region).whole()

    work()
    return work


def _export(picture: Picture, stack: Stack) -> Callable[[], None]:
    def work() -> None:
        plan = make_plan(stack, lambda source: picture)
        for _ in Rendering(plan, cache_for(plan), depth=16).bands():
            pass

    return work


def _ratio(work: Callable[[], None], other: Callable[[], None], times: int = TIMES) -> tuple[float, float]:
    """(median of work / other, median seconds of work), one after the other."""
    took: list[tuple[float, float]] = []
    for _ in range(times):
        start = time.perf_counter()
        other()
        between = time.perf_counter()
        work()
        took.append((between - start, time.perf_counter() - between))
    return median(b / a for a, b in took), median(b for _, b in took)


def frames(table: Table) -> None:
    """Viewports and exports through a whole crop and a turned frame, against the same pixels without a frame."""
    picture = photograph(WIDTH, HEIGHT)
    stack = stack_of(reference_layers(WIDTH, HEIGHT))
    crop = Rect(440, 294, 5120, 3412)
    for name, level, plain, shown in (
        ("fit (level 2)", 2, crop, None),
        ("at 100 %", 0, Rect(2440, 1294, 1280, 800), Rect(2000, 1000, 1280, 800)),
    ):
        unframed = _viewport(picture, stack, level, plain)
        for turn, aim in ((0.0, "1"), (2.0, "1.4")):
            how = "turned by 2°" if turn else "a whole crop"
            ratio, seconds = _ratio(_viewport(picture, framed(stack, turn), level, shown), unframed)
            table.add(SECTION, f"viewport, {name}, {how} / without", f"{ratio:.2f} ({seconds * 1000:.0f} ms)", aim)
    for turn in (0.0, 2.0):
        how = "turned by 2°" if turn else "a whole crop"
        ratio, seconds = _ratio(_export(picture, framed(stack, turn)), _export(picture, stack), 3)
        table.add(SECTION, f"16-bit export, {how}, 17.5 megapixels / 24 without", f"{ratio:.2f} ({seconds:.1f} s)", "")


def registration(table: Table) -> None:
    """A darker rendition of 24 megapixels, shifted and turned, laid exactly over the first."""
    folder = files("glyptic.demo").joinpath("plates")
    with tempfile.TemporaryDirectory(prefix="glyptic-bench-") as made:
        shop = Workshop(Store(Path(made)))
        plates = []
        for name in ("vase-trio.jpg", "vase-trio-low-moved.jpg"):
            image = Image.open(BytesIO(folder.joinpath(name).read_bytes())).resize(
                (WIDTH, HEIGHT), Image.Resampling.BICUBIC
            )
            buffer = BytesIO()
            image.save(buffer, "JPEG", quality=92)
            plates.append(open_picture(shop, buffer.getvalue(), name))
        first = shop.current(plates[0])
        taken = add_from_plate(shop, plates[0], first.revision, plates[1], False, "base", "open")
        took = []
        for _ in range(5):
            current = shop.current(plates[0])
            start = time.perf_counter()
            laid = lay_over(shop, plates[0], current.revision, taken.chosen)
            took.append(time.perf_counter() - start)
        words = laid.sentence.split(": ")[1]
        table.add(
            SECTION,
            f"a second rendition laid exactly over ({words}); first, median of 5",
            f"{took[0]:.1f} s, {median(took):.1f} s",
            "2 s",
        )
