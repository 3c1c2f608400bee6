"""What happens between a hand and its picture, computation only: viewports, painted tiles, toggling, undo, strokes."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from bench.reference import SIZES, photograph, reference_layers, stack_of, strokes
from bench.table import Spread, Table, timed
from glyptic.actions.budget import Budget
from glyptic.base.rectangles import TILE, Rect
from glyptic.brush.coverage import Trail, coverage, touched
from glyptic.document.codec import parse_stroke
from glyptic.document.edits.strokes import with_stroke
from glyptic.document.values import Stroke
from glyptic.engine.cache import TileCache
from glyptic.engine.exact import Exact
from glyptic.engine.moving import Moving
from glyptic.engine.paintings import Chains
from glyptic.engine.plan import Plan, make_plan
from glyptic.engine.pool import crew
from glyptic.engine.reader import Reader
from glyptic.engine.render import Rendering
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.params import Values
from glyptic.pixels.quantise import to_codes
from glyptic.pixels.shapes import Patch

WIDTH, HEIGHT = SIZES[24]
VIEW = (1280, 800)
TIMES = 15
CHANGED = "l3"


def _spread(work: Callable[[], object], times: int = TIMES) -> Spread:
    took = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        took.append(time.perf_counter() - start)
    return Spread.of(took)


def _with(layers: list[dict[str, Any]], name: str, **changes: Any) -> list[dict[str, Any]]:
    return [{**layer, **changes} if layer["id"] == name else layer for layer in layers]


FIT = float(np.log2(HEIGHT / 548))
"""The level in which the picture just fits the stage of a window of 1280 x 800: 822 x 548 pixels."""
AT_WORK = "At work, computation, 24 megapixels, 12 layers (median / p95)"


def viewports(table: Table) -> None:
    """A viewport made anew after a change in layer 3, with what is below it kept: exactly, in tiles; and as it is shown
    while that is dragged."""
    picture = photograph(WIDTH, HEIGHT)
    stack = stack_of(reference_layers(WIDTH, HEIGHT))
    before = stack.find(CHANGED)
    assert before is not None
    for name, level, region, moves, aim in (
        ("fit (822 x 548 pixels)", FIT, None, False, "50 ms"), ("fit, as shown while dragging", FIT, None, True, "25 ms"),
        ("at 100 %", 0.0, Rect(2048, 1280, *VIEW), False, ""),
        ("at 100 %, as shown while dragging", 0.0, Rect(2048, 1280, *VIEW), True, "60 ms"),
    ):  # fmt: skip
        cache, chains = TileCache(2**30), Chains()
        values: Iterator[float] = iter(np.linspace(0.2, 0.9, 1000).tolist())
        last: list[Plan | None] = [None]

        def work(
            level: float = level, region: Rect | None = region, moves: bool = moves, cache: TileCache = cache,
            chains: Chains = chains, values: Iterator[float] = values, last: list[Plan | None] = last,
        ) -> None:  # fmt: skip
            changed = replace(before, settings=Values({**before.settings, "stops": next(values)}))
            plan = last[0] = make_plan(stack.replaced(changed), lambda source: picture, chains, last[0])
            plan.work_on(CHANGED)
            reader = plan.reader(cache, level)
            if moves:
                with crew() as hands:
                    Moving(plan, reader, CHANGED, hands).codes(plan.finished, region or reader.bounds)
            else:
                Rendering(plan, cache, level, (region or reader.bounds).from_level(level)).whole()

        work()
        table.add(AT_WORK, f"viewport 1280 x 800, {name}, after a change in layer 3", _spread(work), aim)


def tile(table: Table) -> None:
    """One painted tile in the middle of the stack: a stroke grows, the tile is composited anew."""
    picture = photograph(WIDTH, HEIGHT)
    layers = reference_layers(WIDTH, HEIGHT)
    chains, cache = Chains(), TileCache(2**30)
    stack = stack_of(layers)
    before = make_plan(stack, lambda source: picture, chains)
    rect = Rect(10 * TILE, 7 * TILE, TILE, TILE)
    took = []
    head = {"to": 1, "size": 200, "hardness": 0, "opacity": 0.4, "flow": 0.5}
    points = [[rect.x + 30 + 8 * i, rect.y + 128] for i in range(24)]
    trail: Trail | None = None
    for count in range(2, len(points)):
        stroke = parse_stroke({**head, "points": points[:count]}, VOCABULARY, "stroke", even_allowed=True)
        start = time.perf_counter()
        trail = trail or Trail(stroke)
        trail.grow(stroke)
        painted = with_stroke(stack, stack.find("l4"), "grey", stroke)
        plan = make_plan(painted, lambda source: picture, chains, before, "l4")
        plan.work_on("l4")
        to_codes(plan.reader(cache, 0, trail).read(plan.finished, rect), 8)
        took.append(time.perf_counter() - start)
    table.add(AT_WORK, "a painted 256 tile in the middle of the stack, composited", Spread.of(took[3:]), "3 ms")


def toggle_and_undo(table: Table) -> None:
    """A layer off and on again, and undo, each the second time."""
    picture = photograph(WIDTH, HEIGHT)
    layers = reference_layers(WIDTH, HEIGHT)
    cache, shown, chains = TileCache(2**30), TileCache(2**28), Chains()
    stacks = [stack_of(layers), stack_of(_with(layers, "l9", visible=False)), stack_of(layers[:-1])]
    plans = [make_plan(stack, lambda source: picture, chains) for stack in stacks]

    def look(number: int) -> int:
        reader = plans[number].reader(cache, 2)
        made = 0
        for x, y in reader.bounds.tiles():
            key = reader.key(plans[number].finished, x, y)
            if shown.peek(key) is None:
                made += 1
                shown.put(key, to_codes(reader.read(plans[number].finished, reader.tile_rect(x, y)), 8))
        return made

    section = "At work, computation, 24 megapixels, 12 layers (median / p95)"
    for name, number in (("a layer switched off", 1), ("undo", 2)):
        look(0), look(number)
        for there in (number, 0):
            if look(there):
                raise RuntimeError("a tile seen before was made again")
        table.add(
            section,
            f"{name} and on again, second time: keys of the viewport, no tile made",
            _spread(lambda n=number: (look(n), look(0))),
        )


def stroke_lengths(table: Table) -> None:
    for radius in (40, 200, 800):
        points = [[1000 + 2 * i, 2000 + 100 * np.sin(i / 90)] for i in range(1000)]
        head = {
            "to": 1,
            "size": 2 * radius,
            "hardness": 0.3,
            "opacity": 0.5,
            "flow": 0.3,
            "points": np.round(points, 2).tolist(),
        }
        for level in (0, 2):
            stroke = parse_stroke(head, VOCABULARY, "stroke", even_allowed=False)
            spread = _spread(lambda stroke=stroke, level=level: _laid(stroke, level), 7)
            aim = "60 ms" if radius == 800 and level == 0 else ""
            table.add(
                "Strokes (median / p95)", f"2,000 pixels, radius {radius}, level {level}, one thread", spread, aim
            )


def _laid(stroke: Stroke, level: int) -> None:
    bounds = Rect(0, 0, WIDTH >> level, HEIGHT >> level)
    for x, y in touched(stroke, level).meet(bounds).tiles():
        coverage(stroke, Patch(Rect(x * TILE, y * TILE, TILE, TILE).meet(bounds), level, WIDTH, HEIGHT))


def stroke_counts(table: Table) -> None:
    """Strokes on a mask laid from nothing, and one more in the plan that follows, as the application makes it."""
    picture = photograph(WIDTH, HEIGHT)
    for count in (10, 300, 3000):
        made = strokes(count, WIDTH, HEIGHT, 1)
        mask = {"start": "closed", "parts": [{"kind": "paint", "strokes": made}]}
        stack = stack_of([{"id": "x", "kind": "exposure", "settings": {"stops": 1}, "mask": mask}])
        cache, chains = TileCache(2**30), Chains()
        plan = make_plan(stack, lambda source: picture, chains)
        start = time.perf_counter()
        reader = plan.reader(cache, 2)
        reader.read(plan.finished, reader.bounds)
        first = time.perf_counter() - start
        more = parse_stroke(made[count // 2], VOCABULARY, "stroke", even_allowed=False)
        start = time.perf_counter()
        again = make_plan(with_stroke(stack, stack.find("x"), "mask", more), lambda source: picture, chains)
        reader = again.reader(cache, 2)
        reader.read(again.finished, reader.bounds)
        took = time.perf_counter() - start
        what = f"{count} strokes on a mask, 24 megapixels at level 2: laid; the whole picture with one more"
        table.add("Strokes (median / p95)", what, f"{first:.2f} s; {1000 * took:.0f} ms")


def at_rest(table: Table) -> None:
    """The whole picture at fit made exact, as while the hand rests: at first, after a change in layer 3, whose mask is
    painted all over, and after one in a layer with a small mask."""
    picture, budget = photograph(WIDTH, HEIGHT), Budget()
    oval = {"kind": "oval", "centre": [WIDTH * 0.3, HEIGHT * 0.4], "radii": [200, 150], "softness": 0.5}
    small = {
        "id": "small",
        "kind": "exposure",
        "settings": {"stops": 0.2},
        "mask": {"start": "closed", "parts": [oval]},
    }
    stack = stack_of([*reference_layers(WIDTH, HEIGHT)[:-1], small, reference_layers(WIDTH, HEIGHT)[-1]])
    tiles, chains = TileCache(budget.tiles), Chains()
    codes, scratch = TileCache(budget.codes), TileCache(budget.scratch)
    for name, layer, stops in (
        ("at first", CHANGED, 0.4), ("after a change in layer 3", CHANGED, 0.6),
        ("after a change in a layer with a small mask", "small", 0.4),
    ):  # fmt: skip
        before = stack.find(layer)
        assert before is not None
        stack = stack.replaced(replace(before, settings=Values({**before.settings, "stops": stops})))
        plan = make_plan(stack, lambda source: picture, chains)
        reader, node = plan.reader(tiles, FIT), Exact(plan.finished, codes, scratch)
        made = 0

        def work(reader: Reader = reader, node: Exact = node) -> None:
            nonlocal made
            with crew() as hands:
                for x, y in reader.bounds.tiles():
                    pieces = node.missing(reader, [(x, y)])
                    made += len(pieces)
                    hands.all(pieces)
                    reader.tile(node, x, y)

        took = timed(work)
        all_pieces = sum(1 for _ in plan.outer.at(0).tiles())
        figure = f"{took.wall:.1f} s wall, {took.cpu:.1f} s CPU; {made} of {all_pieces} tiles made"
        table.add("Exact at rest, 24 megapixels, 12 layers, fit", name, figure, "2 s CPU" if layer == "small" else "")
