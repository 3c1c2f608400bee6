"""Chroma lowered until a colour fits, against a search in float64."""

import numpy as np

from glyptic.pixels.compiled import kernel
from glyptic.pixels.oklch import fit, rows
from glyptic.pixels.spaces import SRGB
from glyptic.pixels.transfer import linear


@kernel
def fitted(lab, of):
    l, a, b, _, room = rows(lab.shape[1])
    l[:], a[:], b[:] = lab[0], lab[1], lab[2]
    fit(l, a, b, room, of)
    lab[0], lab[1], lab[2] = l, a, b


INVERSE = np.array(
    [[1, 0.3963377774, 0.2158037573], [1, -0.1055613458, -0.0638541728], [1, -0.0894841775, -1.291485548]]
)
TO_LIGHT = np.array([
    [4.0767416621, -3.3077115913, 0.2309699292], [-1.2684380046, 2.6097574011, -0.3413193965],
    [-0.0041960863, -0.7034186147, 1.707614701],
])  # fmt: skip


def light(lab):
    return TO_LIGHT @ (INVERSE @ lab) ** 3


def test_chroma_is_lowered_just_as_far_as_it_takes():
    rng = np.random.default_rng(5)
    lab = np.stack([rng.random(4000), rng.uniform(-0.45, 0.45, 4000), rng.uniform(-0.45, 0.45, 4000)])
    low, high = np.zeros(4000), np.ones(4000)
    for _ in range(40):
        middle = (low + high) / 2
        lit = light(lab * [np.ones(4000), middle, middle])
        inside = (lit.min(0) >= -1e-6) & (lit.max(0) <= 1 + 1e-6)
        low, high = np.where(inside, middle, low), np.where(inside, high, middle)
    lit = light(lab)
    share = np.where((lit.min(0) >= -1e-6) & (lit.max(0) <= 1 + 1e-6), 1, low)
    expected = np.clip(light(lab * [np.ones(4000), share, share]), 0, 1)
    found = lab.astype(np.float32)
    fitted(found, SRGB.of)
    assert (share < 1).mean() > 0.3
    assert np.abs(linear(found) - expected).max() < 2e-4
