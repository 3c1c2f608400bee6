"""Measure against an earlier commit: parts of the table run in turn there and here, each with its own bench code.

python -m bench.before COMMIT [TURNS] PART ...; prints the medians of the rows that both have.
"""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from statistics import median

GIT = shutil.which("git") or "git"
HERE = Path(__file__).resolve().parents[1]
NUMBER = re.compile(r"\d+(?:\.\d+)?")
IN_BRACKETS = re.compile(r"\s*\([^)]*\)")


def rows(tree: Path, part: str) -> Iterator[tuple[str, float]]:
    """The rows of a part, measured by a tree: what was measured, without what stands in brackets, and its first number."""
    env = {**os.environ, "PYTHONPATH": f"{tree / 'src'}:{tree}"}
    done = subprocess.run(
        [sys.executable, "-m", "bench", part], cwd=tree, env=env, capture_output=True, text=True, check=True
    )
    for line in done.stdout.splitlines():
        cells = [cell.strip() for cell in line.split(" | ")]
        found = NUMBER.search(cells[2]) if len(cells) > 2 else None
        if found:
            yield IN_BRACKETS.sub("", cells[1]), float(found[0])


def compare(commit: str, turns: int, parts: list[str]) -> None:
    with tempfile.TemporaryDirectory(prefix="glyptic-before-") as made:
        before = Path(made) / "tree"
        subprocess.run([GIT, "worktree", "add", "--quiet", "--detach", str(before), commit], cwd=HERE, check=True)
        try:
            found: dict[str, tuple[list[float], list[float]]] = {}
            for _ in range(turns):
                for side, tree in enumerate((before, HERE)):
                    for part in parts:
                        for name, number in rows(tree, part):
                            found.setdefault(name, ([], []))[side].append(number)
        finally:
            subprocess.run([GIT, "worktree", "remove", "--force", str(before)], cwd=HERE, check=True)
    for name, (then, now) in found.items():
        if then and now:
            print(f"{name}: {median(then):.3g} before, {median(now):.3g} now, {median(then) / median(now):.2f} times")


if __name__ == "__main__":
    given = sys.argv[2:]
    times = int(given.pop(0)) if given and given[0].isdigit() else 3
    compare(sys.argv[1], times, given or ["viewports", "tile"])
