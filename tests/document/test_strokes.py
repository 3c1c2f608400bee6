"""Strokes stay objects: changed wherever they are in time, all others untouched."""

from itertools import chain

import pytest

from glyptic.actions.edit import edited
from glyptic.actions.open_picture import open_picture
from glyptic.actions.strokes import strokes_at
from glyptic.base.errors import DocumentError
from glyptic.document.edits.strokes import GREY_PART
from glyptic.engine.vocabulary import VOCABULARY
from tests.conftest import stack_of
from tests.document.test_codec import STROKE


def stroke(x, **more):
    return {
        **STROKE,
        "size": 20,
        "opacity": 0.5,
        "hardness": 0.4,
        "to": 1,
        "points": [[x, 50, 1], [x + 40, 50, 0.5]],
        **more,
    }


@pytest.fixture
def stack():
    painted = {"kind": "paint", "strokes": [stroke(20, to=0), stroke(120)]}
    grey = {
        "id": "g",
        "kind": "grey",
        "strokes": [stroke(10 + 30 * i) for i in range(5)] + [stroke(50, even=4, to=None)],
    }
    grey["strokes"][-1].pop("to")
    return stack_of({**grey, "mask": {"parts": [painted]}})


def change(stack, places, **how):
    return edited(stack, "change-strokes", {"layer": "g", "strokes": places, **how}).stack.find("g")


def test_one_in_the_middle_is_weakened_and_the_others_are_the_very_same(stack):
    before, after = stack.find("g"), change(stack, [[GREY_PART, 2]], strength=0.6)
    assert after.strokes[2].opacity == pytest.approx(0.3) and after.mask is before.mask
    others = [i for i in range(6) if i != 2]
    assert all(after.strokes[i] is before.strokes[i] for i in others)


def test_a_range_is_resized_hardened_shifted_and_held_within_bounds(stack):
    after = change(stack, [[GREY_PART, i] for i in (3, 4)], size=2, hardness=0.9, shift=[5, -7], strength=9)
    for old, new in zip(stack.find("g").strokes[3:5], after.strokes[3:5], strict=True):
        assert (new.size, new.hardness, new.opacity) == (2 * old.size, 1, 1)
        moved = [(x + 5, y - 7, p) for x, y, p in old.points]
        assert list(chain(*new.points)) == pytest.approx(list(chain(*moved)))


def test_flipped_they_do_the_opposite_and_evening_strokes_stay(stack):
    after = change(stack, [[GREY_PART, 0], [GREY_PART, 5], [0, 0]], flip=True)
    assert after.strokes[0].to == 0 and after.strokes[5].to is None and after.mask.parts[0].strokes[0].to == 1
    again = edited(edited(stack, "change-strokes", {"layer": "g", "strokes": [[0, 0]], "flip": True}).stack,
                   "change-strokes", {"layer": "g", "strokes": [[0, 0]], "flip": True}).stack  # fmt: skip
    assert again == stack


def test_removed_ones_are_gone_from_where_they_were(stack):
    after = edited(stack, "remove-strokes", {"layer": "g", "strokes": [[GREY_PART, 1], [0, 1]]}).stack.find("g")
    assert len(after.strokes) == 5 and len(after.mask.parts[0].strokes) == 1
    assert after.strokes[1] is stack.find("g").strokes[2]


@pytest.mark.parametrize("places", [[], "all", [[GREY_PART, 6]], [[3, 0]], [[GREY_PART, -1]], [[0.5, 0]], [[0]]])
def test_strokes_that_are_not_there_are_refused_and_nothing_is_changed(stack, places):
    with pytest.raises(DocumentError, match="strokes"):
        change(stack, places, strength=0.5)


def test_a_part_that_is_off_takes_no_strokes_and_comes_back_whole(stack):
    off = edited(stack, "set", {"layer": "g", "field": "mask.parts[0].enabled", "value": False}).stack
    more = {"layer": "g", "target": "mask", "stroke": stroke(60)}
    painted = edited(off, "add-stroke", more).stack.find("g").mask.parts
    assert len(painted) == 2 and painted[0].strokes == stack.find("g").mask.parts[0].strokes
    assert VOCABULARY.parts[painted[1].kind].carries == "strokes"
    assert edited(off, "set", {"layer": "g", "field": "mask.parts[0].enabled", "value": True}).stack == stack


def test_the_strokes_under_a_spot_are_found_newest_first(shop, stack, photo):
    number = open_picture(shop, photo, "one.png")
    grey = {"kind": "grey", "id": "g", "strokes": [stroke(10 + 30 * i) for i in range(5)]}
    current = shop.current(number)
    on_plate = edited(current.stack, "add-layer", {"layer": grey}).stack
    layer = on_plate.layers[1].id
    assert [found.index for found in strokes_at(shop, on_plate, layer, 45, 50)] == [1, 0]
    assert strokes_at(shop, on_plate, layer, 45, 90) == [] == strokes_at(shop, on_plate, layer, -5, 50)
    [last] = strokes_at(shop, on_plate, layer, 168, 50)
    assert last.index == 4 and 0 < last.here <= 0.5 and last.line[0] == (130, 50)
