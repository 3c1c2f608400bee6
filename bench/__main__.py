"""Run the benchmarks (or those named), print the table, and write it into docs/performance.md."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from bench import engine, working
from bench.adjustments import adjustments
from bench.areas import areas
from bench.browser import latencies
from bench.day import day, dragging
from bench.framing import frames, registration
from bench.kits import shoots, stroke_in_a_run
from bench.looking import checks
from bench.memory import render_peak
from bench.reference import SIZES
from bench.table import Table, machine
from bench.walk import walk
from glyptic.actions.warm import warm

PAGE = Path(__file__).resolve().parents[1] / "docs" / "performance.md"
START, END = "<!-- figures: written by make bench -->", "<!-- end of figures -->"
HUGE = (16400, 12200)


def memory(table: Table, folder: Path) -> None:
    section = "Memory of a render by the command, nine parametric layers (whole process)"
    for (width, height), out, depth, aim in (
        (SIZES[1.5], "small.tif", 16, ""), (SIZES[24], "full.tif", 16, "300 MB beyond base and masks"),
        (SIZES[24], "full.png", 16, ""), (SIZES[24], "full.jpg", 8, ""), (HUGE, "huge.tif", 16, "2 GiB in total"),
    ):  # fmt: skip
        peak = render_peak(folder, width, height, out, depth)
        figure = (
            f"{peak.resident / 1e6:.0f} MB at the most, {peak.own / 1e6:.0f} of them its own; "
            f"the decoded base is {peak.base / 1e6:.0f}; {peak.seconds:.0f} s"
        )
        table.add(
            section, f"{width * height / 1e6:.1f} megapixels to {out.split('.')[1].upper()}, {depth} bits", figure, aim
        )


def write(table: Table) -> None:
    """Put the sections that were measured in the place of those that stand there."""
    before, rest = PAGE.read_text().split(START, 1)
    inner, after = rest.split(END, 1)
    sections = {}
    for piece in inner.split("### ")[1:]:
        name, text = piece.split("\n", 1)
        sections[name.strip()] = text.strip()
    for piece in table.markdown.split("### ")[1:]:
        name, text = piece.split("\n", 1)
        sections[name.strip()] = text.strip()
    body = "\n\n".join(f"### {name}\n\n{text}" for name, text in sections.items())
    PAGE.write_text(f"{before}{START}\nMeasured on {machine()}.\n\n{body}\n\n{END}{after}")


def main() -> None:
    wanted = sys.argv[1:]
    table = Table()
    warm()
    with tempfile.TemporaryDirectory(prefix="glyptic-bench-") as made:
        parts = {
            "engine": lambda: engine.against_numpy(table), "sizes": lambda: engine.sizes(table),
            "pieces": lambda: engine.pieces(table), "areas": lambda: areas(table),
            "layers": lambda: engine.layers(table), "adjustments": lambda: adjustments(table), "viewports": lambda: working.viewports(table),
            "tile": lambda: working.tile(table), "rest": lambda: working.at_rest(table), "frames": lambda: (frames(table), registration(table)), "toggle": lambda: working.toggle_and_undo(table),
            "strokes": lambda: (working.stroke_lengths(table), working.stroke_counts(table)),
            "browser": lambda: latencies(table, Path(made)), "memory": lambda: memory(table, Path(made)), "day": lambda: day(table), "dragging": lambda: dragging(table), "checks": lambda: checks(table),
            "walk": lambda: walk(table), "kits": lambda: (stroke_in_a_run(table), shoots(table)),
        }  # fmt: skip
        for name in wanted or parts:
            parts[name]()
    write(table)


if __name__ == "__main__":
    main()
