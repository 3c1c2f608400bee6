"""While something moves: only what is seen is worked out, and what is gathered further out is within what is stated."""

import numpy as np
import pytest

from glyptic.base.rectangles import Rect
from glyptic.document.codec import parse_stack
from glyptic.engine import moving
from glyptic.engine.cache import TileCache
from glyptic.engine.moving import Moving
from glyptic.engine.plan import make_plan
from glyptic.engine.pool import crew
from glyptic.engine.vocabulary import VOCABULARY
from tests.conftest import picture_of, stack_of
from tests.properties.stacks import StackMaker
from tests.properties.test_against_whole import picture_of as picture_with_alpha

LAYERS = (
    {"id": "e", "kind": "exposure", "settings": {"stops": 0.5}},
    {"id": "c", "kind": "curves", "settings": {"points": {"rgb": [[0, 0.05], [0.4, 0.5], [1, 0.9]]}}},
    {"id": "b", "kind": "blur", "opacity": 0.6, "settings": {"sigma": 20}},
    {"id": "s", "kind": "sharpen", "settings": {"amount": 0.8, "radius": 1.5}},
    {"id": "l", "kind": "local-contrast", "settings": {"amount": 0.4, "radius": 60}},
)


@pytest.fixture(scope="module")
def large():
    """As a camera sees: ramps with edges, and a little noise."""
    y, x = np.mgrid[0:1100, 0:1500]
    ramps = np.stack([x / 1500, y / 1100, (x // 150 + y // 110) % 2 * 0.6 + 0.1])
    values = np.clip(0.1 + 0.7 * ramps + np.random.default_rng(2).normal(0, 0.01, ramps.shape), 0, 1)
    return picture_of((values * 65535 + 0.5).astype(np.uint16), b"large and moving")


def frame_of(plan, layer, level, rect, cache):
    plan.work_on(layer)
    with crew() as hands:
        return Moving(plan, plan.reader(cache, level), layer, hands).planes(plan.finished, rect)


@pytest.mark.parametrize("what", ["", "isolated", "whole", "framed"])
@pytest.mark.parametrize("seed", range(5))
def test_what_is_not_gathered_further_out_is_bit_for_bit_what_stands_still(seed, what, monkeypatch):
    monkeypatch.setattr(moving, "COARSER", 0)
    maker = StackMaker(seed, isolated=what == "isolated", whole=what == "whole", framed=what == "framed")
    pictures = {
        "base.png": picture_with_alpha(maker.base(), b"%d" % seed),
        "laid.png": picture_with_alpha(maker.laid(), b"l"),
    }
    stack = parse_stack(maker.stack(), VOCABULARY)
    for level in (0, 0.7):
        for layer in list(make_plan(stack, pictures.__getitem__).layers)[::2]:
            plan = make_plan(stack, pictures.__getitem__)
            plan.work_on(layer)
            reader = plan.reader(TileCache(), level)
            part = Rect(7, 5, 31, 24).meet(reader.bounds)
            whole = reader.read(plan.finished, reader.bounds)
            assert np.array_equal(frame_of(plan, layer, level, reader.bounds, TileCache()), whole), layer
            seen = frame_of(plan, layer, level, part, TileCache())
            assert np.array_equal(seen, whole[:, part.y : part.bottom, part.x : part.right]), layer


@pytest.mark.parametrize(
    ("level", "rect"), [(0, Rect(311, 207, 700, 500)), (0, Rect(1100, 790, 400, 310)), (1.3, None)]
)
def test_what_is_gathered_further_out_is_nearly_that(large, level, rect):
    plan = make_plan(stack_of(*LAYERS), lambda source: large)
    reader = plan.reader(TileCache(), level)
    seen = rect or reader.bounds
    difference = np.abs(frame_of(plan, "e", level, seen, TileCache()) - reader.read(plan.finished, seen))
    assert difference.any()
    assert np.quantile(difference, 0.999) < 5e-3 and difference.mean() < 5e-4


def test_a_frame_works_out_little_more_than_is_seen_and_keeps_none_of_it(large):
    """Four steps go over what is seen; what the blur and the window look at is a sixty-fourth of its pixels."""
    rect, pixels = Rect(400, 300, 512, 400), 512 * 400
    cache = TileCache()
    for stops in (0.1, 0.2):
        layers = ({**LAYERS[0], "settings": {"stops": stops}}, *LAYERS[1:])
        plan = make_plan(stack_of(*layers), lambda source: large)
        plan.work_on("e")
        reader = plan.reader(cache, 0)
        with crew() as hands:
            Moving(plan, reader, "e", hands).planes(plan.finished, rect)
        held, worked = cache.bytes, reader.counts["pixels"]
    assert worked < len(LAYERS) * pixels
    with crew() as hands:
        Moving(plan, plan.reader(cache, 0), "e", hands).planes(plan.finished, rect)
    assert cache.bytes == held
