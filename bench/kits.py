"""A kit over a whole shoot: pictures a second one after the other, by jobs and on a cluster of this machine; memory on
the way; and what a stroke costs while a run goes on."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
import tempfile
import time
from itertools import cycle
from pathlib import Path

import psutil

from bench.reference import strokes
from bench.table import Spread, Table
from glyptic.actions import paint
from glyptic.actions.edit import apply_edit
from glyptic.actions.looking import Looking
from glyptic.actions.open_picture import open_picture
from glyptic.actions.runs import board as runs
from glyptic.actions.runs.foreman import Foreman
from glyptic.actions.tiles import tile_keys, tile_pixels
from glyptic.actions.workshop import Workshop
from glyptic.base.rectangles import Rect
from glyptic.store import Store

PLATES = Path(__file__).parents[1] / "src" / "glyptic" / "demo" / "plates"
NAMES = ("vase-trio.jpg", "tile-panel.jpg", "glass-bowl.jpg", "cloth-and-cup.jpg")
PICTURES, RENDERED, EARLY = 200, 24, 20
STROKES = 120
SECTION = f"A kit of five layers over {PICTURES} pictures of 6 megapixels, to JPEG"
LAYERS = [
    {"kind": "curves", "settings": {"points": {"tone": [[0, 0], [0.3, 0.25], [0.7, 0.76], [1, 1]]}}},
    {"kind": "split-tone", "settings": {"shadow_saturation": 0.2, "highlight_saturation": 0.2}},
    {"kind": "local-contrast", "settings": {"amount": 0.4, "radius": 30}},
    {"kind": "vibrance", "settings": {"vibrance": 0.3},
     "mask": {"parts": [{"kind": "tone", "low": 0.1, "high": 0.8, "soft_low": 0.1, "soft_high": 0.1}]}},
    {"kind": "vignette", "settings": {"stops": -0.7, "centre": [1500, 1000], "radii": [1800, 1300], "softness": 0.7}},
]  # fmt: skip
KIT = {"format": "glyptic-kit", "version": 1, "name": "Shoot", "size": [3000, 2000], "layers": LAYERS}


def _shoot(folder: Path) -> list[Path]:
    made = []
    for i, name in zip(range(PICTURES), cycle(NAMES), strict=False):
        made.append(folder / f"{i:03}.jpg")
        shutil.copyfile(PLATES / name, made[-1])
    (folder / "kit.json").write_text(json.dumps(KIT))
    return made


def _resident(process: psutil.Process) -> int:
    """Bytes that a process and its children hold of their own."""
    total = 0
    for one in (process, *process.children(recursive=True)):
        try:
            total += one.memory_info().rss - one.memory_info().shared
        except psutil.NoSuchProcess:
            continue
    return total


def _kit(folder: Path, pictures: list[Path], into: str, *options: str, held_to: str = "") -> tuple[float, int, int]:
    """Pictures a second of `glyptic kit`, and the most bytes held up to the 20th picture and after it. held_to: the
    only processor it may use."""
    out = folder / into
    command = [sys.executable, "-m", "glyptic.cli.main", "kit", str(folder / "kit.json"), *map(str, pictures)]
    if held_to:
        command = ["taskset", "-c", held_to, *command]
    started = time.perf_counter()
    process = subprocess.Popen([*command, "--into", str(out), "--format", "jpg", *options])
    early = late = 0
    watch = psutil.Process(process.pid)
    while process.poll() is None:
        held = _resident(watch) if psutil.pid_exists(watch.pid) else 0
        if len(list(out.glob("*.jpg"))) <= EARLY:
            early = max(early, held)
        else:
            late = max(late, held)
        time.sleep(1)
    return len(pictures) / (time.perf_counter() - started), early, late


def _rendered(folder: Path, pictures: list[Path]) -> float:
    """Pictures a second of `glyptic render`, one process after the other."""
    for picture in pictures:
        layers = [{"kind": "picture", "source": picture.name}, *LAYERS]
        stack = {"format": "glyptic-stack", "version": 1, "layers": layers}
        picture.with_suffix(".json").write_text(json.dumps(stack))
    started = time.perf_counter()
    for picture in pictures:
        command = [sys.executable, "-m", "glyptic.cli.main", "render", str(picture.with_suffix(".json"))]
        subprocess.run([*command, str(picture.with_suffix(".out.jpg"))], check=True)
    return len(pictures) / (time.perf_counter() - started)


def shoots(table: Table) -> None:
    """The command over the shoot in every way."""
    from distributed import LocalCluster

    with tempfile.TemporaryDirectory(prefix="glyptic-bench-") as made:
        folder = Path(made)
        pictures = _shoot(folder)
        one_by_one = _rendered(folder, pictures[:RENDERED])
        table.add(SECTION, "`glyptic render`, one after the other", f"{one_by_one:.2f} pictures a second", "")
        speeds = {}
        ways = {"one job": ("--jobs", "1"), "two jobs": ("--jobs", "2")}
        for name, options in ways.items():
            speed, early, late = _kit(folder, pictures, name, *options)
            speeds[name] = speed
            aim = "1.8 times one job" if name == "two jobs" else ""
            ratio = "" if name == "one job" else f", {speed / speeds['one job']:.2f} times one job"
            table.add(SECTION, name, f"{speed:.2f} a second, {speed / one_by_one:.2f} times render{ratio}", aim)
            grown = f"{early / 2**20:.0f} and {late / 2**20:.0f} MB"
            table.add(SECTION, f"{name}: most memory up to the {EARLY}th picture, and after", grown, "flat")
        alone, *_ = _kit(folder, pictures[: PICTURES // 4], "held", held_to="0")
        figure = f"{alone:.2f} a second; two jobs are {speeds['two jobs'] / alone:.2f} times that"
        table.add(SECTION, "one job held to one processor", figure, "")
        with LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None, silence_logs=50) as cluster:
            speed, *_ = _kit(folder, pictures, "cluster", "--cluster", cluster.scheduler_address)
        against = speed / speeds["two jobs"]
        figure = f"{speed:.2f} a second, {speed / one_by_one:.2f} times render, {against:.2f} times two jobs"
        table.add(SECTION, "a cluster of two workers, paths", figure, "0.9 of two jobs")


def _stroke(shop: Workshop, plate: int, number: int, stroke: dict[str, object]) -> float:
    """Seconds from a stroke's points to the pixels it changed."""
    full, layer = {**stroke, "to": 1}, shop.current(plate).chosen
    at = Looking("finished", layer, 1, Rect(256 * (number % 3), 0, 1024, 768))
    started = time.perf_counter()
    hand = paint.begin(shop, plate, layer, "grey", full)
    shop.in_hand.put((plate, str(number)), hand)
    paint.look(shop, hand, at)
    current = paint.keep_stroke(shop, plate, layer, "grey", full, str(number))
    for *_, key in tile_keys(shop, current.stack, at):
        tile_pixels(shop, key)
    return time.perf_counter() - started


def stroke_in_a_run(table: Table) -> None:
    """Strokes without a run of deliveries and with one under way."""
    with tempfile.TemporaryDirectory(prefix="glyptic-bench-") as made:
        shop = Workshop(Store(Path(made) / "shelf"))
        data = (PLATES / NAMES[0]).read_bytes()
        plates = [open_picture(shop, data, f"{i}.jpg") for i in range(40)]
        grey = {"layer": {"kind": "grey", "name": "Grey"}}
        apply_edit(shop, plates[0], shop.current(plates[0]).revision, "add-layer", grey)
        foreman = Foreman(shop)
        drawn = list(strokes(STROKES, 3000, 2000, 1))

        def draw(first: int) -> Spread:
            return Spread.of(_stroke(shop, plates[0], first + i, one) for i, one in enumerate(drawn))

        draw(0)
        alone = draw(1000)
        run = runs.begin_run(shop, "deliver", plates[1:], {"deliveries": ["Print"]})
        foreman.start()
        while not runs.look_at_run(shop, run).done:
            time.sleep(0.1)
        during = draw(2000)
        still = runs.look_at_run(shop, run).state
        table.add(
            SECTION, "a stroke alone, and while a run writes deliveries (median / p95)",
            f"{alone} and {during}, {during.middle / alone.middle:.2f} times ({still})", "1.3 times",
        )  # fmt: skip
        runs.stop_run(shop, run)
        time.sleep(3)
