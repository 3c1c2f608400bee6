"""Looking for what is wrong: the checks of a 24-megapixel plate of twelve layers, one after the other."""

from __future__ import annotations

import time

from bench.reference import SIZES, photograph, reference_layers, stack_of
from bench.table import Table
from glyptic.checks import CHECKS
from glyptic.checks.subject import Subject
from glyptic.engine.plan import make_plan

WIDTH, HEIGHT = SIZES[24]
SECTION = "Checks, 24 megapixels, 12 layers"


def checks(table: Table) -> None:
    """Seconds until the first findings are there and until all are, of a state that was never measured before."""
    picture = photograph(WIDTH, HEIGHT)
    subject = Subject(stack_of(reference_layers(WIDTH, HEIGHT)), lambda stack: make_plan(stack, lambda source: picture))
    first = 0.0
    begun = time.perf_counter()
    took = []
    for check in sorted(CHECKS.values(), key=lambda one: one.rank):
        start = time.perf_counter()
        found = list(check.look(subject, check.threshold.default))
        took.append((time.perf_counter() - start, check.name, len(found)))
        if found and not first:
            first = time.perf_counter() - begun
    whole = time.perf_counter() - begun
    table.add(SECTION, "first findings", f"{first:.1f} s", "1 s")
    slowest = ", ".join(f"{name} {seconds:.1f}" for seconds, name, _ in sorted(took, reverse=True)[:4])
    table.add(
        SECTION,
        f"all {len(took)} checks ({sum(count for *_, count in took)} findings; slowest: {slowest})",
        f"{whole:.1f} s",
        "5 s",
    )
