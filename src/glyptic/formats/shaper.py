"""Profiles of three curves and a matrix, applied without asking LittleCMS for every pixel: thirty times as fast. Their
curves and matrix are found by asking it for ramps and checked against it on a lattice of colours."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from glyptic.pixels.compiled import kernel
from glyptic.pixels.spaces import Matrix, Space
from glyptic.pixels.transfer import enc_positive
from glyptic.pixels.vector import HALF, clamp01, whole

CODES = 65536
OFF = 2e-5
"""How far, in linear light, a profile may be from its curves and matrix to count as nothing else."""
ToXyz = Callable[[NDArray[np.float32]], Matrix]
"""Colours (n, 3) of a profile to XYZ under D65 (3, n)."""
Samples = NDArray[np.unsignedinteger]


@dataclass(frozen=True)
class Shaper:
    """curves: linear light (3, 65536) of every code; to_xyz: that light to XYZ under D65."""

    curves: NDArray[np.float32]
    to_xyz: Matrix

    def carry(self, samples: Samples, space: Space) -> Samples:
        """Samples (h, w, 3) of 8 or 16 bits in a working space, 16 bits, rounded once; clamped to what it holds."""
        out = np.empty(samples.shape, np.uint16)
        step = 1 if samples.dtype == np.uint16 else (CODES - 1) // 255
        matrix = (space.from_xyz @ self.to_xyz).astype(np.float32)
        _carry(np.require(samples, requirements=("C", "W")), np.ascontiguousarray(self.curves[:, ::step]), matrix, out)
        return out


@kernel
def _carry(samples: Samples, curves: NDArray[np.float32], m: NDArray[np.float32], out: NDArray[np.uint16]) -> None:
    m00, m01, m02 = m[0, 0], m[0, 1], m[0, 2]
    m10, m11, m12 = m[1, 0], m[1, 1], m[1, 2]
    m20, m21, m22 = m[2, 0], m[2, 1], m[2, 2]
    highest = np.float32(65535)
    for i in range(samples.shape[0]):
        for j in range(samples.shape[1]):
            r, g, b = curves[0, samples[i, j, 0]], curves[1, samples[i, j, 1]], curves[2, samples[i, j, 2]]
            out[i, j, 0] = whole(clamp01(enc_positive(clamp01(m00 * r + m01 * g + m02 * b))) * highest + HALF)
            out[i, j, 1] = whole(clamp01(enc_positive(clamp01(m10 * r + m11 * g + m12 * b))) * highest + HALF)
            out[i, j, 2] = whole(clamp01(enc_positive(clamp01(m20 * r + m21 * g + m22 * b))) * highest + HALF)


def shaper_of(to_xyz: ToXyz, lattice: NDArray[np.float32]) -> Shaper | None:
    """The curves and the matrix of a profile of RGB; None for one that is more than that. lattice: colours (n, 3) that
    it is checked by."""
    ramp = (np.arange(CODES) / (CODES - 1)).astype(np.float32)
    curves, columns = np.empty((3, CODES), np.float32), np.empty((3, 3))
    for channel in range(3):
        colours = np.zeros((CODES, 3), np.float32)
        colours[:, channel] = ramp
        seen = to_xyz(colours)
        columns[:, channel] = seen[:, -1] - seen[:, 0]
        strongest = int(np.abs(columns[:, channel]).argmax())
        if abs(columns[strongest, channel]) < OFF:
            return None
        curves[channel] = (seen[strongest] - seen[strongest, 0]) / columns[strongest, channel]
    lights = np.stack([np.interp(lattice[:, c], ramp, curves[c]) for c in range(3)])
    return Shaper(curves, columns) if np.abs(columns @ lights - to_xyz(lattice)).max() < OFF else None
