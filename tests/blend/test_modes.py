"""The 16 blend modes against Skia's, an independent implementation of the W3C's formulas, in float32 with alpha."""

import numpy as np
import pytest
import skia

from glyptic.blend import mix
from glyptic.document.values import BLEND_MODES
from tests.tolerances import W3C

NAMES = {
    "normal": "SrcOver", "multiply": "Multiply", "screen": "Screen", "overlay": "Overlay", "darken": "Darken",
    "lighten": "Lighten", "color-dodge": "ColorDodge", "color-burn": "ColorBurn", "hard-light": "HardLight",
    "soft-light": "SoftLight", "difference": "Difference", "exclusion": "Exclusion", "hue": "Hue",
    "saturation": "Saturation", "color": "Color", "luminosity": "Luminosity",
}  # fmt: skip
SIDE = 40


def raster(planes, alpha):
    """A Skia image of unpremultiplied planes (3, h, w) and alpha (h, w)."""
    pixels = np.concatenate([planes, alpha[None]]).transpose(1, 2, 0).astype(np.float32)
    return skia.Image.fromarray(
        np.ascontiguousarray(pixels), skia.ColorType.kRGBA_F32_ColorType, skia.kUnpremul_AlphaType
    )


@pytest.mark.parametrize("mode", BLEND_MODES)
def test_agrees_with_skia(mode):
    rng = np.random.default_rng(7)
    below, above = rng.random((2, 3, SIDE, SIDE)).astype(np.float32)
    alpha = rng.random((SIDE, SIDE)).astype(np.float32)
    info = skia.ImageInfo.Make(SIDE, SIDE, skia.ColorType.kRGBA_F32_ColorType, skia.kPremul_AlphaType)
    surface = skia.Surface.MakeRaster(info)
    canvas = surface.getCanvas()
    canvas.drawImage(raster(below, np.ones_like(alpha)), 0, 0)
    canvas.drawImage(
        raster(above, alpha),
        0,
        0,
        skia.SamplingOptions(),
        skia.Paint(BlendMode=getattr(skia.BlendMode, f"k{NAMES[mode]}")),
    )
    expected = surface.toarray(colorType=skia.ColorType.kRGBA_F32_ColorType)[:, :, :3].transpose(2, 0, 1)
    mixed = below.copy()
    mix(mixed, above, alpha, mode)
    assert np.abs(mixed - expected).max() < W3C


@pytest.mark.parametrize("mode", BLEND_MODES)
def test_no_alpha_keeps_every_bit_also_beyond_the_range(mode):
    rng = np.random.default_rng(8)
    below = (rng.random((3, SIDE, SIDE)) * 3 - 1).astype(np.float32)
    mixed = below.copy()
    mix(mixed, rng.random((3, SIDE, SIDE)).astype(np.float32), np.zeros((SIDE, SIDE), np.float32), mode)
    assert np.array_equal(mixed, below)


@pytest.mark.parametrize(
    ("mode", "below", "above", "expected"),
    [("color-dodge", 0, 1, 0), ("color-dodge", 0.2, 1, 1), ("color-burn", 1, 0, 1), ("color-burn", 0.9, 0, 0),
     ("soft-light", 0.3, 0.5, 0.3), ("overlay", 0.3, 0.5, 0.3), ("hard-light", 0.3, 0.5, 0.3)],
)  # fmt: skip
def test_the_corners_of_the_formulas(mode, below, above, expected):
    px = np.full((3, 1, 1), below, np.float32)
    mix(px, np.full((3, 1, 1), above, np.float32), np.ones((1, 1), np.float32), mode)
    assert px[0, 0, 0] == pytest.approx(expected, abs=1e-6)


@pytest.mark.parametrize("mode", [m for m in BLEND_MODES if m != "normal"])
def test_arguments_are_clamped_but_not_what_lies_outside_the_blend(mode):
    below = np.full((3, 1, 1), 1.5, np.float32)
    wild, tame = below.copy(), below.copy()
    half = np.full((1, 1), 0.5, np.float32)
    mix(wild, np.full((3, 1, 1), 7, np.float32), half, mode)
    mix(tame, np.ones((3, 1, 1), np.float32), half, mode)
    assert np.array_equal(wild, tame)
    blended = np.ones((3, 1, 1), np.float32)
    mix(blended, np.ones((3, 1, 1), np.float32), np.ones((1, 1), np.float32), mode)
    assert wild[0, 0, 0] == pytest.approx((1.5 + blended[0, 0, 0]) / 2, abs=1e-6)
