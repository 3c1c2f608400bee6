"""The Gaussian against SciPy's, narrow and wide, and free of where it was asked for."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from glyptic.adjust.blur import BLUR
from glyptic.base.digests import digest
from glyptic.base.rectangles import Canvas
from glyptic.engine.cache import TileCache
from glyptic.engine.nodes import Node
from glyptic.engine.reader import Reader
from glyptic.engine.surroundings import Surroundings
from glyptic.params import Values
from glyptic.pixels.gaussian import folded, reduction, reflected
from glyptic.pixels.spaces import SRGB
from tests.tolerances import FLOAT32, GAUSSIAN


class Flat(Node):
    """Planes as a node."""

    def __init__(self, px):
        super().__init__(b"planes")
        self.space = SRGB
        self.px, self.channels = px, len(px)

    def key(self, reader, tx, ty):
        return digest(self.own, reader.place(tx, ty))

    def evaluate(self, reader, rect):
        return self.px[:, rect.y : rect.bottom, rect.x : rect.right].copy()


def whole(px, sigma):
    """Blur a picture (c, h, w) through the engine, tile by tile."""
    reader = Reader(TileCache(), Canvas(px.shape[2], px.shape[1]), 0)
    return reader.read(Surroundings(BLUR, Values({"sigma": sigma}), Flat(px)), reader.bounds)


@pytest.fixture
def px():
    """Noise and hard edges: what a reduction could get wrong."""
    rng = np.random.default_rng(2)
    noise = rng.random((2, 470, 331), np.float32)
    noise[1, 60:, 90:] = 1
    noise[1, :60] = 0
    return noise


@pytest.mark.parametrize("sigma", [0.4, 1, 3.7, 7.9, 8, 9, 16, 20, 33.3, 60, 100, 400, 1500])
def test_agrees_with_scipy(px, sigma):
    expected = np.stack([gaussian_filter(plane.astype(float), sigma, mode="reflect", truncate=6) for plane in px])
    assert np.abs(whole(px, sigma) - expected).max() < (GAUSSIAN if reduction(sigma) > 1 else 10 * FLOAT32 + 3e-5)


@pytest.mark.parametrize("sigma", [0, 1e-300, 1e-5, 0.02])
def test_next_to_no_sigma_is_the_identity(px, sigma):
    assert np.array_equal(whole(px, sigma), px)


@pytest.mark.parametrize("sigma", [60, 500, 5000])
def test_what_a_gaussian_costs_does_not_grow_with_its_sigma_beyond_the_picture(px, sigma):
    """Each tile is read once, whatever the sigma; and once more only where it changed."""
    node, cache = Flat(px), TileCache()
    reader = Reader(cache, Canvas(px.shape[2], px.shape[1]), 0)
    reader.read(Surroundings(BLUR, Values({"sigma": sigma}), node), reader.bounds)
    assert reader.counts["pieces"] == len(list(reader.bounds.tiles()))


@pytest.mark.parametrize(("first", "count"), [(-3, 10), (2, 5), (-25, 60), (7, 20), (-40, 5)])
def test_what_lies_beyond_the_borders_mirrors_it_however_far(first, count):
    px = np.random.default_rng(1).random((2, 9, 11), np.float32)
    ys, xs = reflected(first, count, 9), reflected(first, count, 11)
    assert np.array_equal(folded(px, ys, xs), px[:, ys][:, :, xs])
    far = np.pad(px, ((0, 0), (60, 60), (60, 60)), mode="symmetric")
    assert np.array_equal(folded(px, ys, xs), far[:, 60 + first : 60 + first + count, 60 + first : 60 + first + count])


def test_reflection_repeats_the_border_pixel():
    assert reflected(-3, 10, 4).tolist() == [2, 1, 0, 0, 1, 2, 3, 3, 2, 1]
