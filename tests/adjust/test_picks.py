"""What is picked in the picture or worked out from its histogram does what it says to the very spot."""

import numpy as np
import pytest

from glyptic.actions.edit import edited
from glyptic.adjust import KINDS
from glyptic.analysis.histogram import histograms
from glyptic.base.errors import DocumentError
from glyptic.pixels.counts import percentile
from glyptic.pixels.seen import Seen
from glyptic.pixels.spaces import SRGB, tone
from tests.conftest import colourful, finished, picture_of, stack_of


def flat(*rgb):
    return picture_of(
        np.broadcast_to((np.array(rgb) * 65535).round().astype(np.uint16)[:, None, None], (3, 4, 4)).copy()
    )


def seen(*rgb):
    px = np.array(rgb, np.float32)[:, None, None]
    return Seen(*rgb, float(tone(px, SRGB)[0, 0]), SRGB)


def picked(kind, name, spot, by=0.0, settings=None):
    """Plain settings of a layer after a pick, through the edit the page makes."""
    stack = stack_of({"kind": kind, "id": "l", "settings": settings or {}})
    arguments = {"layer": "l", "pick": name, "seen": list(seen(*spot)[:4]), "by": by}
    layer = edited(stack, "pick", arguments).stack.find("l")
    return KINDS[kind].schema.plain(layer.settings)


@pytest.mark.parametrize("spot", [(0.5, 0.45, 0.38), (0.4, 0.42, 0.5), (0.52, 0.5, 0.5)])
def test_a_picked_grey_becomes_grey(spot):
    settings = picked("white-balance", "grey", spot)
    after = finished(flat(*spot), {"kind": "white-balance", "settings": settings})[:, 0, 0]
    assert np.ptp(after) < 0.006 < np.ptp(spot)


def test_a_dark_and_a_light_spot_become_the_ends():
    settings = picked("levels", "black", (0.12, 0.14, 0.1))
    settings = picked("levels", "white", (0.8, 0.82, 0.84), settings=settings)
    for spot, end in (((0.12, 0.12, 0.12), 0), ((0.82, 0.82, 0.82), 1)):
        assert finished(flat(*spot), {"kind": "levels", "settings": settings}) == pytest.approx(end, abs=1e-3)


def test_picks_of_each_channel_take_the_cast_away():
    settings = picked("levels", "black-each", (0.12, 0.14, 0.1))
    settings = picked("levels", "white-each", (0.8, 0.85, 0.9), settings=settings)
    grey = (0.5, 0.42, 0.47)
    settings = picked("levels", "grey-each", grey, settings=settings)
    for spot in ((0.12, 0.14, 0.1), (0.8, 0.85, 0.9), grey):
        assert np.ptp(finished(flat(*spot), {"kind": "levels", "settings": settings})[:, 0, 0]) < 2e-3


def test_a_picked_middle_grey_becomes_the_middle():
    settings = picked("levels", "grey", (0.3, 0.3, 0.3))
    assert finished(flat(0.3, 0.3, 0.3), {"kind": "levels", "settings": settings}) == pytest.approx(0.5, abs=1e-3)


def test_black_never_passes_white():
    settings = picked("levels", "black", (0.9, 0.9, 0.9), settings={"rgb": {"white": 0.5}})
    assert settings["rgb"]["black"] < settings["rgb"]["white"]


@pytest.mark.parametrize(("name", "channels"), [("tone", ["rgb"]), ("each", ["red", "green", "blue"])])
def test_auto_lets_go_of_a_thousandth_at_either_end(name, channels):
    px = (colourful(200, 150) / 65535 * 0.6 + 0.2).astype(np.float32)
    levels = KINDS["levels"]
    changed = levels.auto(levels.schema.defaults, name, histograms(px, SRGB))
    assert list(changed) == channels
    for channel in channels:
        values = px if channel == "rgb" else px[channels.index(channel)]
        low, high = np.quantile(values, [0.001, 0.999])
        assert (changed[channel]["black"], changed[channel]["white"]) == pytest.approx((low, high), abs=4e-3)


def test_percentiles_are_those_of_the_values():
    values = np.random.default_rng(3).beta(2, 5, (3, 60, 80)).astype(np.float32)
    counts = histograms(values, SRGB)["green"]
    for share in (0.001, 0.2, 0.5, 0.99):
        assert percentile(counts, share) == pytest.approx(np.quantile(values[1], share), abs=5e-3)


def test_a_tone_picked_on_the_curve_gets_a_point_and_the_drag_moves_it():
    settings = picked("curves", "rgb", (0.3, 0.4, 0.5), by=0.1)
    assert settings["points"]["rgb"][1] == pytest.approx([0.4, 0.5], abs=1e-4)
    again = picked("curves", "rgb", (0.4, 0.4, 0.4), by=-0.05, settings=settings)
    assert again["points"]["rgb"] == [[0, 0], [0.4, pytest.approx(0.45)], [1, 1]]


def test_a_curve_is_met_after_the_curves_before_it():
    lifted = {"points": {"red": [[0, 0.2], [1, 1]], "rgb": [[0, 0], [1, 0.5]]}}
    curves = KINDS["curves"]
    meets = curves.meets(curves.schema.parse(lifted, "", []), seen(0.5, 0.5, 0.5))
    assert meets["red"] == 0.5 and meets["rgb"] == pytest.approx((0.6 + 0.5 + 0.5) / 3, abs=1e-6)
    after = finished(flat(0.5, 0.5, 0.5), {"kind": "curves", "settings": lifted})
    assert meets["tone"] == pytest.approx(float(tone(after, SRGB)[0, 0]), abs=1e-4)


def test_a_family_is_placed_where_the_picked_colour_lies():
    blue = (0.2, 0.3, 0.8)
    for kind in ("colour-families", "hue-saturation"):
        settings = picked(kind, "family", blue)
        move = {"yellow": 1} if kind == "colour-families" else {"hue": 90}
        after = finished(flat(*blue), {"kind": kind, "settings": {**settings, **move}})[:, 0, 0]
        assert np.abs(after - blue).max() > 0.1
        other = (0.8, 0.5, 0.2)
        kept = finished(flat(*other), {"kind": kind, "settings": {**settings, **move}})
        assert np.array_equal(kept, finished(flat(*other)))


def test_a_drag_on_a_colour_lightens_that_colour_in_black_and_white():
    settings = picked("black-white", "hue", (0.2, 0.3, 0.8), by=0.3)
    assert settings["blue"] > 0.5 and settings["strength"] == 1


def test_what_a_kind_cannot_pick_is_refused_by_name():
    with pytest.raises(DocumentError, match="pick"):
        picked("exposure", "grey", (0.5, 0.5, 0.5))
    with pytest.raises(DocumentError, match="seen"):
        edited(stack_of({"kind": "curves", "id": "l"}), "pick", {"layer": "l", "pick": "rgb", "seen": [1, "x"]})


def test_every_kind_that_can_be_shown_has_a_sample_that_changes_the_picture(picture):
    for kind in KINDS.values():
        fields = kind.sampled(picture.width, picture.height)
        if kind.name in ("picture", "group"):
            assert not fields
            continue
        layer = {"kind": kind.name, **fields}
        assert stack_of(layer) and np.abs(finished(picture, layer) - finished(picture)).max() > 0.01, kind.name
