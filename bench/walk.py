"""One compiled loop over a run's layers, strip by strip, against the pass as it is: pieces in the cache, called from Python."""

from __future__ import annotations

from collections.abc import Callable
from statistics import median
from typing import Any

import numba
import numpy as np
from numpy import float32

from bench.table import Table, timed
from glyptic.adjust.hue_saturation import _turn
from glyptic.adjust.vibrance import _enliven
from glyptic.adjust.vignette import _darken
from glyptic.pixels.spaces import SRGB
from glyptic.pixels.tables import _through, make_table

HEIGHT, WIDTH, PIECE, TIMES = 512, 768, 256, 9
HUE = tuple(float32(v) for v in (0.99, 0.1, 1.15, 0, 0, 180, 27))
LIVELY, AS_IT_IS, DARKER = float32(0.4), float32(1), float32(-1.2)


def _layers(px: Any, alpha: Any, inside: Any, marked: Any, words: Any, of: Any) -> None:
    """Seven layers by their kinds' own kernels."""
    _through(px, alpha, words, words, words, marked)
    _darken(px, alpha, inside, DARKER)
    _through(px, alpha, words, words, words, marked)
    _turn(px, alpha, HUE[0], HUE[1], HUE[2], HUE[3], HUE[4], HUE[5], HUE[6], of)
    _through(px, alpha, words, words, words, marked)
    _enliven(px, alpha, LIVELY, AS_IT_IS, of)
    _darken(px, alpha, inside, DARKER)


_compiled = numba.njit(nogil=True)(_layers)


@numba.njit(nogil=True)
def _walk(src: Any, alpha: Any, inside: Any, out: Any, h: int, words: Any, of: Any) -> None:
    px, marked = np.empty((3, h, PIECE), np.float32), np.zeros((3, h, PIECE), np.bool_)
    for y in range(0, src.shape[1], h):
        for x in range(0, src.shape[2], PIECE):
            px[:] = src[:, y : y + h, x : x + PIECE]
            _compiled(
                px, alpha[y : y + h, x : x + PIECE].copy(), inside[y : y + h, x : x + PIECE].copy(), marked, words, of
            )
            out[:, y : y + h, x : x + PIECE] = px


def _per_pixel(work: Callable[[], object]) -> float:
    """Nanoseconds of processor time a pixel, the median of several runs."""
    work()
    return median(timed(work).cpu for _ in range(TIMES)) * 1e9 / (HEIGHT * WIDTH)


def walk(table: Table) -> None:
    rng = np.random.default_rng(0)
    src = rng.random((3, HEIGHT, WIDTH), np.float32) * float32(0.6) + float32(0.1)
    inside, alpha, out = (
        rng.random((HEIGHT, WIDTH), np.float32),
        np.full((HEIGHT, WIDTH), 0.5, np.float32),
        np.empty_like(src),
    )
    words = make_table(lambda x: np.clip(x, 0, None) * 1.2).words

    def from_python() -> None:
        for y in range(0, HEIGHT, PIECE):
            for x in range(0, WIDTH, PIECE):
                part = np.s_[..., y : y + PIECE, x : x + PIECE]
                px, much, within = (np.ascontiguousarray(one[part]) for one in (src, alpha, inside))
                _layers(px, much, within, np.zeros(px.shape, np.bool_), words, SRGB.of)
                out[part] = px

    section = "Seven point-wise layers, one thread: a compiled loop over layers, against the pass as it is"
    table.add(
        section,
        "pieces of 256 by 256, each kernel called from Python (as it is)",
        f"{_per_pixel(from_python):.1f} ns/px",
    )
    for h in (256, 64, 16, 8):
        found = _per_pixel(lambda h=h: _walk(src, alpha, inside, out, h, words, SRGB.of))
        table.add(section, f"one compiled loop, strips of {h} rows by 256", f"{found:.1f} ns/px")
