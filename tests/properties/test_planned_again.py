"""A plan made of the one before, edit after edit, shows what a plan made from nothing shows."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from glyptic.document.codec import parse_stack
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.vocabulary import VOCABULARY
from tests.properties.stacks import StackMaker
from tests.properties.test_against_whole import picture_of


def edits(stack, rng):
    """The stack after one edit after the other: layers and masks switched, opacity moved, the frame taken off and on."""
    for layer in list(stack.walk())[1:]:
        changed = replace(layer, visible=not layer.visible)
        if layer.mask is not None and rng.random() < 0.6:
            changed = replace(layer, mask=replace(layer.mask, invert=not layer.mask.invert))
        elif rng.random() < 0.4:
            changed = replace(layer, opacity=round(float(rng.uniform(0, 1)), 2))
        stack = stack.replaced(changed)
        yield stack
        if stack.frame is not None and rng.random() < 0.3:
            yield stack.unframed
            yield stack


@pytest.mark.parametrize("what", ["", "isolated", "whole", "framed"])
@pytest.mark.parametrize("seed", range(8))
def test_a_plan_of_the_one_before_is_that_of_the_state(seed, what):
    maker = StackMaker(seed, isolated=what == "isolated", whole=what == "whole", framed=what == "framed")
    pictures = {"base.png": picture_of(maker.base(), b"%d" % seed), "laid.png": picture_of(maker.laid(), b"laid")}
    before, cache = None, TileCache()
    for state in edits(parse_stack(maker.stack(), VOCABULARY), np.random.default_rng(seed)):
        plan = make_plan(state, pictures.__getitem__, still=before)
        fresh = make_plan(state, pictures.__getitem__)
        again = plan.reader(cache, 0).read(plan.finished, plan.outer.at(0))
        assert np.array_equal(again, fresh.reader(TileCache(), 0).read(fresh.finished, fresh.outer.at(0)))
        before = plan
