"""Peak memory of rendering a stack file to a picture file, each measured in a process of its own."""

from __future__ import annotations

import json
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from bench.reference import parametric_layers, photograph
from glyptic.document.values import FORMAT, VERSION
from glyptic.formats.decoded import Metadata
from glyptic.formats.sheet import Samples, Sheet
from glyptic.formats.writing import Output, write_picture

PATCH = (1500, 1000)
LAUNCHER = """
import os, re, subprocess, sys, time
process = subprocess.Popen(sys.argv[1:])
own, ended = 0, 0
while not ended:
    ended, status, used = os.wait4(process.pid, os.WNOHANG)
    with open(f"/proc/{process.pid}/status") if not ended else open(os.devnull) as facts:
        found = re.search(r"RssAnon:\\s+(\\d+)", facts.read())
    own = max(own, int(found[1]) if found else 0)
    time.sleep(0.01)
print(used.ru_maxrss, own)
sys.exit(1 if status else 0)
"""
"""A small process between: a child's peak begins with the size of the process it was made by. It looks every hundredth
of a second how much is the child's own, not mapped from a file."""


@dataclass(frozen=True)
class Peak:
    """Wall seconds and peak resident bytes of one run, and of those the bytes that are its own rather than mapped from
    a file; base: bytes of the decoded base picture."""

    seconds: float
    resident: int
    own: int
    base: int


def repeated(width: int, height: int) -> Iterator[Samples]:
    """Bands of a picture of any size, made by repeating a small one."""
    patch = np.moveaxis(photograph(*PATCH).colour.full, 0, 2)
    across = np.tile(patch, (1, -(-width // PATCH[0]), 1))[:, :width]
    for top in range(0, height, PATCH[1]):
        yield across[: min(PATCH[1], height - top)]


def write_base(path: Path, width: int, height: int) -> None:
    write_picture(path, Sheet(width, height, 3, 16), repeated(width, height), Output("tiff", 16), Metadata())


def render_peak(folder: Path, width: int, height: int, out: str, depth: int) -> Peak:
    """Render twelve layers with parametric masks over a 16-bit TIFF of a size, by the command."""
    base = folder / f"base-{width}.tif"
    if not base.exists():
        write_base(base, width, height)
    layers = [{"kind": "picture", "source": base.name}, *parametric_layers(width, height)]
    stack = folder / "stack.json"
    stack.write_text(json.dumps({"format": FORMAT, "version": VERSION, "layers": layers}))
    command = [sys.executable, "-m", "glyptic.cli.main", "render", str(stack), str(folder / out)]
    started = time.perf_counter()
    launch = [sys.executable, "-c", LAUNCHER, *command, "--depth", str(depth), "--limit", "1000"]
    told = subprocess.run(launch, check=True, stdout=subprocess.PIPE, text=True).stdout
    resident, own = (int(kilobytes) * 1024 for kilobytes in told.split())
    return Peak(time.perf_counter() - started, resident, own, width * height * 6)
