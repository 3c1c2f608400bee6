"""Rows of the table: how things are timed, and how they are written down."""

from __future__ import annotations

import os
import platform
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from pathlib import Path
from statistics import median
from typing import Any


@dataclass(frozen=True)
class Took:
    """Seconds of one run: on the clock, and of the processor in this process."""

    wall: float
    cpu: float


def timed(work: Callable[[], Any]) -> Took:
    wall, cpu = time.perf_counter(), time.process_time()
    work()
    return Took(time.perf_counter() - wall, time.process_time() - cpu)


def in_turn(times: int, *works: Callable[[], Any]) -> list[Took]:
    """The median run (by processor time) of each, all run one after the other `times` times in the same process."""
    runs: list[list[Took]] = [[] for _ in works]
    for _ in range(times):
        for took, work in zip(runs, works, strict=True):
            took.append(timed(work))
    return [sorted(took, key=lambda t: t.cpu)[len(took) // 2] for took in runs]


@dataclass(frozen=True)
class Spread:
    """Milliseconds of many runs."""

    middle: float
    high: float

    @classmethod
    def of(cls, seconds: Iterable[float]) -> Spread:
        found = sorted(1000 * s for s in seconds)
        return cls(median(found), found[min(len(found) - 1, int(0.95 * len(found)))])

    def __str__(self) -> str:
        return f"{self.middle:.3g} / {self.high:.3g} ms"


@dataclass
class Table:
    """What was measured, section by section."""

    sections: dict[str, list[tuple[str, str, str]]] = field(default_factory=dict)

    def add(self, section: str, what: str, figure: object, aim: str = "") -> None:
        rows = self.sections.setdefault(section, [])
        rows.append((what, str(figure), aim))
        print(f"{section} | {what} | {figure} | {aim}", flush=True)

    @property
    def markdown(self) -> str:
        lines = []
        for section, rows in self.sections.items():
            lines += [f"### {section}", "", "| what | figure | aim |", "| --- | --- | --- |"]
            lines += [f"| {what} | {figure} | {aim} |" for what, figure, aim in rows]
            lines.append("")
        return "\n".join(lines)


def machine() -> str:
    """What this was measured on."""
    facts = Path("/proc/cpuinfo").read_text()
    model = next((line.split(":")[1].strip() for line in facts.splitlines() if line.startswith("model name")), "?")
    memory = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") / 2**30
    return (
        f"{os.cpu_count()} cores of {model}, {memory:.0f} GiB, {platform.system()}, "
        f"Python {platform.python_version()}, {time.strftime('%d %B %Y')}"
    )
