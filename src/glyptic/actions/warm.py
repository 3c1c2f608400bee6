"""Compile every kernel, or load what was compiled, by drawing small stacks that use all of them."""

from __future__ import annotations

import gc
import os
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from hashlib import blake2b
from importlib import import_module
from io import BytesIO
from multiprocessing import get_context
from pathlib import Path

import numpy as np
from llvmlite import binding

from glyptic.adjust import KINDS
from glyptic.analysis.difference import changes
from glyptic.base.rectangles import Canvas, Rect
from glyptic.document.codec import parse_stack
from glyptic.document.values import FORMAT, VERSION, Stack
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.render import render
from glyptic.engine.shown import carry
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats import FORMATS, Metadata, Sheet
from glyptic.formats.shaper import Shaper
from glyptic.masks import PARTS
from glyptic.pixels.areas import Areas
from glyptic.pixels.compiled import MADE
from glyptic.pixels.kept_code import KEPT
from glyptic.pixels.means import Means
from glyptic.pixels.pyramid import Picture, Pyramid
from glyptic.pixels.quantise import narrowed
from glyptic.pixels.spaces import DISPLAY_P3, SRGB, luminances, tone

SIDE = 64
LATER = 10.0
"""Seconds after all kernels are loaded until OpenCV is: whoever opens a plate right after the start comes first."""
UNUSED_DAYS = 30
"""Compiled code that nobody asked for in this many days goes."""


Job = Callable[[], object]
PICTURE = "picture.png"
DEAREST = (
    "mode multiply", "mask grown", "hue-saturation", "mode color", "picture", "light", "colour-balance", "grey",
)  # fmt: skip
"""What takes longest to compile is begun first, so that no worker is left alone with it at the end."""


def _at_once() -> None:
    """Nobody is at work whom loading could hold up."""


def _mark() -> Path:
    """A file that is there once every kernel there is has been compiled for this processor. They make themselves known
    when their modules are loaded: those of kinds and parts are, once these are counted."""
    for family in (KINDS, PARTS):
        len(family)
    h = blake2b(f"{binding.get_host_cpu_name()} {binding.get_host_cpu_features().flatten()}".encode(), digest_size=8)
    for kernel in sorted(MADE):
        h.update(kernel.encode())
    return KEPT / f"whole-{h.hexdigest()}"


def is_compiled() -> bool:
    """Whether every kernel is compiled, so that loading them is all there is to do."""
    return _mark().exists()


def _common() -> None:
    """What every picture needs."""
    tone(np.zeros((3, 2, 2), np.float32), SRGB)
    _render([])


def _render(layers: list[dict[str, object]]) -> None:
    """Draw a small picture with some layers, at full size and reduced, in both depths."""
    ramp = np.linspace(0, 65535, 3 * SIDE * SIDE).astype(np.uint16).reshape(3, SIDE, SIDE)
    picture = Picture(Pyramid(ramp), b"warm", Pyramid(ramp[:1]))
    plain = {"format": FORMAT, "version": VERSION, "layers": [{"kind": "picture", "source": PICTURE}, *layers]}
    stack = parse_stack(plain, VOCABULARY)
    for layer in stack.layers[1:] or (stack.base,):
        plan = make_plan(Stack((stack.base, layer)), lambda source: picture)
        for level, depth in ((0, 8), (1, 16)):
            render(plan, TileCache(), level, depth=depth)


def _colours() -> None:
    """Colours carried from one space to another: for a screen, and of a file with a profile; and full size reduced."""
    px = np.zeros((3, 2, 2), np.float32)
    carry(px, DISPLAY_P3, SRGB)
    shaper = Shaper(np.zeros((3, 65536), np.float32), np.eye(3))
    for depth in (np.uint8, np.uint16):
        shaper.carry(np.zeros((2, 2, 3), depth), SRGB)
    means = Means(Rect(0, 0, 1, 1), 1, Canvas(2, 2))
    means.add(np.zeros((2, 2, 3), np.uint16), Rect(0, 0, 2, 2))
    means.planes()
    narrowed(np.zeros((2, 2, 3), np.uint16), np.zeros((2, 2, 3), np.uint8))
    codes = np.zeros((3, 4, 4), np.uint16)
    for samples in (codes, codes[:, 1:, 1:], codes[:1].astype(np.float32)):
        Areas(Rect(0, 0, 2, 2), 2.0, (4, 4), len(samples)).add(samples, Rect(0, 0, *samples.shape[:0:-1]))


def _frame() -> None:
    """Draw a small picture, with alpha and another one laid by its corners, through frames that turn it: as fine as it
    is, finer, and coarser."""
    ramp = np.linspace(0, 65535, 3 * SIDE * SIDE).astype(np.uint16).reshape(3, SIDE, SIDE)
    picture = Picture(Pyramid(ramp), b"warm", Pyramid(ramp[:1]))
    corners = [[2, 1], [SIDE - 1, 2], [SIDE - 2, SIDE - 1], [1, SIDE - 2]]
    laid = {"kind": "picture", "source": PICTURE, "place": {"corners": corners}}
    for side in (SIDE // 3, SIDE * 2):
        plain = {
            "format": FORMAT, "version": VERSION, "layers": [{"kind": "picture", "source": PICTURE}, laid],
            "frame": {"corners": corners, "size": [side, side]},
        }  # fmt: skip
        plan = make_plan(parse_stack(plain, VOCABULARY), lambda source: picture)
        render(plan, TileCache(), depth=16)


def _maps() -> None:
    """What tells of a picture: the maps of its tone and of what changed."""
    px = np.zeros((3, 2, 2), np.float32)
    luminances(px, SRGB)
    changes(px, px, SRGB)


def _write() -> None:
    for kind in FORMATS.values():
        kind.write(BytesIO(), Sheet(1, 1, 3, 8), [np.zeros((1, 1, 3), np.uint8)], 90, Metadata())


def _jobs() -> dict[str, Job]:
    """Everything that needs kernels, in pieces that can be done by themselves, the dearest first."""
    pieces: dict[str, Job] = {name: partial(_render, layers) for name, layers in everything().items()}
    pieces["formats"] = _write
    pieces["frame"] = _frame
    pieces["maps"] = _maps
    pieces["colours"] = _colours
    order = [name for name in DEAREST if name in pieces] + [name for name in pieces if name not in DEAREST]
    return {name: pieces[name] for name in order}


def compile_all(workers: int | None = None) -> None:
    """Compile every kernel there is: what all need first, then the rest by so many processes (one to a processor)."""
    if is_compiled():
        return
    gc.disable()  # compilers make many things and throw few away: looking for those takes a tenth of the time
    _common()
    jobs = _jobs()
    with get_context("fork").Pool(workers or os.cpu_count()) as pool:
        for _ in pool.imap_unordered(_do, jobs, chunksize=1):
            pass
    gc.enable()
    sweep_code(set(MADE))
    _mark().touch()


def sweep_code(used: set[str]) -> int:
    """Drop compiled code that nobody used for long; returns how many files. used: the digests in use, which are marked
    so."""
    now, dropped = time.time(), 0
    for path in KEPT.glob("*.nb?"):
        with suppress(OSError):
            if any(part in used for part in path.name.replace(".", "-").split("-")):
                os.utime(path)
            elif now - path.stat().st_mtime > UNUSED_DAYS * 86_400:
                path.unlink()
                dropped += 1
    return dropped


def _do(name: str) -> None:
    _jobs()[name]()


def warm(give_way: Job = _at_once) -> None:
    """Load every kernel into this process, so that no request waits for one. They are compiled by processes of their
    own, if that is still to be done.

    give_way: called between two pieces of work; it may wait for a rest.
    """
    if not is_compiled():
        subprocess.run([sys.executable, "-m", "glyptic.cli.main", "warm"], check=True)
    for job in (_common, *_jobs().values()):
        give_way()
        job()
    if give_way is not _at_once:
        time.sleep(LATER)
    give_way()
    _areas()


def _areas() -> None:
    """What looks for areas, so that the first scribble does not wait for OpenCV to be loaded."""
    import_module("glyptic.analysis.regions")
    import_module("glyptic.actions.checking")


def everything() -> dict[str, list[dict[str, object]]]:
    """Plain layers by name: every kind of layer and part that has kernels of its own, with what makes it use them."""
    stroke = {"size": 40, "hardness": 0.9, "opacity": 1, "flow": 1, "points": [[5, 5], [40, 40]]}
    parts: list[dict[str, object]] = [
        {"kind": "everything", "op": "hide"},
        {"kind": "ramp", "from": [0, 0], "to": [9, 9]},
        {"kind": "oval", "centre": [9, 9], "radii": [9, 9]},
        {"kind": "outline", "points": [[0, 0], [9, 0], [9, 9]]},
        {"kind": "tone", "high": 0.5, "feather": 1},
        {"kind": "colour", "colour": [0.5, 0.5, 0.5]},
        {"kind": "raster", "source": PICTURE},
        {"kind": "paint", "strokes": [{**stroke, "to": 1}]},
    ]
    curve = [[0, 0], [0.4, 0.5], [1, 1]]
    stops = [{"at": 0, "colour": [0, 0, 0]}, {"at": 1, "colour": [1, 1, 1]}]
    line = {"from": [0, 0], "to": [9, 9], "stops": stops}
    grey = {"hold_colour": True, "reach": {"low": 0.1}}
    vivid = {"hold_colour": True, "holds": "chroma"}
    made: dict[str, list[dict[str, object]]] = {
        kind.name: [{"kind": kind.name, **kind.sampled(SIDE, SIDE)}]
        for kind in KINDS.values()
        if kind.sampled(SIDE, SIDE)
    }
    made["curves"] = [*made["curves"], {"kind": "curves", "settings": {"points": {"tone": curve}}}]
    toned: dict[str, object] = {"kind": "curves", "settings": {"points": {"tone": curve}}}
    for part in parts:
        made[f"mask of {part['kind']}"] = [{**toned, "mask": {"start": "closed", "parts": [part]}}]
    shaped = {"start": "closed", "parts": parts[1:2]}
    made["mask grown"] = [{**toned, "mask": {**shaped, "grow": 2, "levels": {"black": 0.1}}}]
    made["mask feathered"] = [{**toned, "mask": {**shaped, "feather": sigma}} for sigma in (3, 20)]
    made["hue-saturation"] = [*made["hue-saturation"], {"kind": "hue-saturation", "settings": {"tint": True}}]
    made["grain"] = [*made["grain"], {"kind": "grain", "settings": {"amount": 1}}]
    made["blur"] = [{"kind": "blur", "settings": {"sigma": sigma}} for sigma in (1, 7, 8, 40)]
    made["picture"] = [{"kind": "picture", "source": PICTURE, "place": {"x": 9, "y": 9, "scale": s}} for s in (2, 0.6)]
    made["gradient"] = [
        {"kind": "gradient", "settings": line},
        {"kind": "gradient", "settings": {**line, "shape": "radial"}},
    ]
    made["grey"] = [
        {"kind": "grey", "settings": grey, "strokes": [{**stroke, "to": 1}, {**stroke, "even": 3}]},
        {"kind": "grey", "strokes": [{**stroke, "to": 1}]},
        {"kind": "grey", "settings": vivid, "strokes": [{**stroke, "to": 1}]},
        {"kind": "grey", "strokes": [{**stroke, "to": 1}], "blend": "multiply"},
    ]
    for mode in ("multiply", "color"):
        made[f"mode {mode}"] = [{"kind": "fill", "settings": {"colour": [0, 0, 0]}, "blend": mode}]
    return made
