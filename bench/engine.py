"""The engine alone: the reference stack against NumPy and a copy, and how cost grows with size and layers."""

from __future__ import annotations

from typing import Any

import numpy as np

from bench import baselines
from bench.reference import SIZES, parametric_layers, photograph, reference_layers, stack_of
from bench.table import Table, in_turn, timed
from glyptic.base.rectangles import Canvas, Rect
from glyptic.engine.cache import Array, TileCache
from glyptic.engine.plan import Plan, make_plan
from glyptic.engine.reader import Reader
from glyptic.engine.render import Rendering, cache_for
from glyptic.pixels.pyramid import Picture

FULL = 24
LOOKING_AROUND = ("blur", "local-contrast")


def plan_of(picture: Picture, layers: list[dict[str, Any]]) -> Plan:
    return make_plan(stack_of(layers), lambda source: picture)


def settled(plan: Plan) -> dict[bytes, Array]:
    """The painted tiles of a plan at full size, as the store keeps them when the hand has rested."""
    reader = Reader(TileCache(), plan.inner, 0)
    return {reader.key(node, x, y): reader.tile(node, x, y) for node in plan.painted for x, y in reader.bounds.tiles()}


def render_all(plan: Plan, kept: dict[bytes, Array]) -> None:
    for _ in Rendering(plan, cache_for(plan, kept.get), depth=16).bands():
        pass


def _planes(plan: Plan, nodes: dict[str, Any]) -> dict[str, Any]:
    reader = Reader(TileCache(), plan.inner, 0)
    return {name: reader.read(node, reader.bounds)[0] for name, node in nodes.items()}


def against_numpy(table: Table) -> None:
    width, height = SIZES[FULL]
    picture = photograph(width, height)
    codes = picture.colour.full
    out = np.empty_like(codes)
    for name, layers in (
        ("twelve layers", reference_layers(width, height)),
        ("its ten point-wise layers", [a for a in reference_layers(width, height) if a["kind"] not in LOOKING_AROUND]),
    ):
        plan = plan_of(picture, layers)
        kept = settled(plan)
        masks, paintings = _planes(plan, dict(plan.masks)), _planes(plan, dict(plan.paintings))
        baselines.copied(codes, out)
        ours, copy, theirs = in_turn(
            3, lambda: render_all(plan, kept), lambda: baselines.copied(codes, out),
            lambda: baselines.rendered(codes, layers, masks, paintings),
        )  # fmt: skip
        aim = "100" if name == "twelve layers" else "60"
        section = f"Reference stack, {FULL} megapixels, 16 bits"
        table.add(
            section, f"{name}: CPU time of NumPy float32, whole picture / ours", f"{theirs.cpu / ours.cpu:.1f}", aim
        )
        table.add(section, f"{name}: wall time, ours / plain copy on all cores", f"{ours.wall / copy.wall:.0f}", "15")
        table.add(
            section,
            f"{name}: ours",
            f"{ours.wall:.2f} s wall, {ours.cpu:.2f} s CPU, {ours.cpu * 1e9 / codes[0].size:.0f} ns/px",
        )
        table.add(section, f"{name}: NumPy; copy", f"{theirs.cpu:.1f} s CPU; {1000 * copy.wall:.0f} ms wall")


def sizes(table: Table) -> None:
    for megapixels, (width, height) in SIZES.items():
        plan = plan_of(photograph(width, height), parametric_layers(width, height))
        took = timed(lambda plan=plan: render_all(plan, {}))
        figure = f"{took.wall:.2f} s wall, {took.cpu * 1e9 / (width * height):.0f} ns CPU/px"
        table.add("Growth", f"{megapixels} megapixels, nine parametric layers", figure)


def layers(table: Table) -> None:
    width, height = SIZES[6]
    picture = photograph(width, height)
    twelve = reference_layers(width, height)
    for count in (1, 4, 12, 40):
        many = [{**twelve[i % 12], "id": f"n{i}"} for i in range(count)]
        plan = plan_of(picture, many)
        kept = settled(plan)
        took = timed(lambda plan=plan, kept=kept: render_all(plan, kept))
        table.add(
            "Growth",
            f"{count} layers, 6 megapixels",
            f"{took.wall:.2f} s wall, {took.cpu * 1e9 / (width * height):.0f} ns CPU/px",
        )


def pieces(table: Table) -> None:
    """The point-wise layers in strips of several shapes, in turn: what a strip's calls and the cache cost."""
    width, height = 3072, 2048
    picture = photograph(width, height)
    layers = [layer for layer in reference_layers(width, height) if layer["kind"] not in LOOKING_AROUND]
    plan = plan_of(picture, layers)
    reader = Reader(TileCache(2**31), Canvas(width, height), 0)
    shapes = ((256, 256), (256, 64), (256, 16), (512, 256), (1024, 256))

    def run(w: int, h: int) -> None:
        for y in range(0, height, h):
            for x in range(0, width, w):
                reader.read(plan.finished, Rect(x, y, w, h))

    run(*shapes[0])
    took = {shape: min(timed(lambda s=shape: run(*s)).cpu for _ in range(3)) for shape in shapes}
    for (w, h), seconds in took.items():
        table.add(
            "The ten point-wise layers in strips of another shape, one thread, masks at hand",
            f"{w} x {h} pixels", f"{seconds * 1e9 / (width * height):.0f} ns/px, {seconds / took[shapes[0]]:.2f} times that of 256 x 256",
        )  # fmt: skip
