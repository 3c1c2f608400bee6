"""What a layer does, in numbers: known changes give their known figures."""

import numpy as np
import pytest

from glyptic.analysis.effect import effect, sentence
from glyptic.analysis.histogram import histograms
from glyptic.pixels.counts import BINS
from glyptic.pixels.spaces import SRGB
from glyptic.pixels.transfer import enc, lin
from tests.conftest import colourful


def scaled(px, gain):
    return np.vectorize(lambda v: enc(lin(float(v)) * gain))(px).astype(np.float32)


@pytest.fixture
def grey():
    return np.full((3, 20, 20), 0.4, np.float32)


def test_a_stop_is_a_stop(grey):
    done = effect(grey, scaled(grey, 2), SRGB)
    assert done.reached == 1 and done.mean == pytest.approx(1, abs=1e-3) and done.up == pytest.approx(1, abs=1e-3)
    assert sentence(done).startswith("Lightens 100 % of the picture by 1.0 stops")


def test_both_ways_are_told(grey):
    after = grey.copy()
    after[:, :10] = scaled(grey[:, :10], 2)
    after[:, 10:15] = scaled(grey[:, 10:15], 0.5)
    assert sentence(effect(grey, after, SRGB)).startswith(
        "Lightens 50 % of the picture by up to 1.0 stops and darkens 25 %"
    )


def test_what_clips_newly_is_told_and_what_was_clipped_is_not(grey):
    before, after = grey.copy(), grey.copy()
    before[:, 0], after[:, 0], after[0, 1] = 1, 1, 1
    done = effect(before, after, SRGB)
    assert done.clipped == pytest.approx(1 / 20) and "Newly clips 5.0 %" in sentence(done)


def test_nothing_and_colour_only(grey):
    assert sentence(effect(grey, grey, SRGB)) == "Changes nothing yet."
    turned = grey.copy()
    turned[2] += 0.05
    assert "tone stays" in sentence(effect(grey, turned, SRGB))


def test_histograms_count_every_pixel():
    px = colourful(40, 30) / np.float32(65535)
    counts = histograms(px, SRGB)
    assert {name: c.sum() for name, c in counts.items()} == {
        "red": 1200,
        "green": 1200,
        "blue": 1200,
        "rgb": 3600,
        "tone": 1200,
    }
    assert len(counts["tone"]) == BINS and counts["red"][-1] >= 64
