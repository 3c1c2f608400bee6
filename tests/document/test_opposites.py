"""Layers doing the contrary: twice is the same again, and what can be undone exactly is."""

import numpy as np
import pytest

from glyptic.adjust import KINDS
from glyptic.document.codec import parse_layer
from glyptic.document.opposites import opposite_layer
from glyptic.document.writing import plain_layer
from glyptic.engine.vocabulary import VOCABULARY
from tests.conftest import finished
from tests.properties.stacks import StackMaker

UNDONE = {
    "exposure": {"stops": 0.7},
    "curves": {"points": {"rgb": [[0, 0], [0.25, 0.3], [0.5, 0.58], [0.75, 0.81], [1, 1]]}},
    "levels": {"rgb": {"out_black": 0.1, "out_white": 0.9, "gamma": 1.3}},
}
LEAST_KNOWN = 0.02


def turned(layer):
    return opposite_layer(parse_layer(layer, VOCABULARY, "layer"), VOCABULARY)


@pytest.mark.parametrize("seed", range(6))
def test_twice_the_contrary_is_the_same_within_each_range(seed):
    for plain in StackMaker(seed).stack()["layers"][1:]:
        layer = parse_layer(plain, VOCABULARY, "layer")
        once = opposite_layer(layer, VOCABULARY)
        assert parse_layer(plain_layer(once, VOCABULARY), VOCABULARY, "layer").settings == once.settings
        assert opposite_layer(opposite_layer(once, VOCABULARY), VOCABULARY) == once or layer.kind in (
            "levels",
            "white-balance",
            "group",
        )


@pytest.mark.parametrize("kind", UNDONE)
def test_a_layer_and_its_contrary_leave_the_picture(picture, kind):
    layer = {"id": "a", "kind": kind, "name": "A", "settings": UNDONE[kind]}
    back = {**plain_layer(turned(layer), VOCABULARY), "id": "b"}
    before, after = finished(picture), finished(picture, layer, back)
    # Curves are drawn through a few points: their inverse meets them there, and nearly between.
    assert np.quantile(np.abs(after - before), 0.99) < (LEAST_KNOWN if kind == "curves" else 1e-3)


def test_each_kind_that_goes_two_ways_declares_a_contrary_to_its_sample():
    without = {"blur", "fill", "gradient", "grain", "group", "invert", "picture", "sharpen"}
    for kind in KINDS.values():
        sample = kind.sampled(300, 200)
        layer = parse_layer({"kind": kind.name, **sample}, VOCABULARY, "layer") if sample else None
        turns = layer is not None and opposite_layer(layer, VOCABULARY) != layer
        assert turns == (kind.name not in without), kind.name
