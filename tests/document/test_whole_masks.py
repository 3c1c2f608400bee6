"""Masks as a whole: links, shifting, inverted copies; what they refuse, and that pixels move as they say."""

import numpy as np
import pytest

from glyptic.actions.edit import edited
from glyptic.base.errors import DocumentError
from glyptic.base.rectangles import Canvas, Rect
from glyptic.document.codec import parse_stack
from glyptic.document.fields import MASK_LEVELS
from glyptic.document.values import NO_LEVELS
from glyptic.document.writing import plain_stack
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.reader import Reader
from glyptic.engine.vocabulary import VOCABULARY
from tests.conftest import BASE, colourful, picture_of, stack_of

PICTURE = picture_of(colourful())
STROKE = {
    "to": 1,
    "size": 50,
    "hardness": 0.5,
    "opacity": 0.9,
    "flow": 1,
    "points": [[60, 90, 0.5, 0.2, 0.7], [150, 120]],
}
DRAWN = [
    {"kind": "oval", "centre": [120, 110], "radii": [60, 40], "rotation": 20, "softness": 0.4},
    {"kind": "ramp", "op": "hide", "from": [40, 40], "to": [200, 160]},
    {"kind": "outline", "points": [[150, 60], [220, 90], [160, 150]]},
    {"kind": "paint", "strokes": [STROKE]},
]  # fmt: skip


def layer(name, **mask):
    return {"id": name, "kind": "exposure", "name": name.upper(), "mask": {"start": "closed", **mask}}


def mask_of(stack, name):
    plan = make_plan(stack, lambda source: PICTURE)
    return Reader(TileCache(), Canvas(300, 280), 0).read(plan.masks[name], Rect(0, 0, 300, 280))[0]


def test_the_neutral_levels_are_the_declared_ones():
    assert MASK_LEVELS.defaults == NO_LEVELS


def test_a_shifted_mask_is_the_mask_elsewhere_to_the_pixel():
    stack = stack_of(layer("a", parts=DRAWN))
    moved = edited(stack, "shift-mask", {"layer": "a", "by": [30, -20]}).stack
    before, after = mask_of(stack, "a"), mask_of(moved, "a")
    assert np.abs(after[:260, 30:] - before[20:, :270]).max() < 1e-5 and before.max() > 0.5
    assert edited(moved, "shift-mask", {"layer": "a", "by": [-30, 20]}).stack == stack


def test_what_looks_at_the_picture_is_not_shifted():
    looking = [{"kind": "tone", "high": 0.4}, {"kind": "everything", "op": "keep"}]
    with pytest.raises(DocumentError, match="nothing to shift"):
        edited(stack_of(layer("a", parts=looking)), "shift-mask", {"layer": "a", "by": [3, 3]})


def test_a_mask_goes_along_with_its_picture_only_where_it_is_told_to():
    picture = {
        "id": "p",
        "kind": "picture",
        "source": "x.png",
        "place": {"x": 100, "y": 100},
        "mask": {"parts": [DRAWN[0]]},
    }
    for along, centre in ((False, (120, 110)), (True, (150, 110))):
        stack = edited(stack_of(picture), "set", {"layer": "p", "field": "mask.along", "value": along}).stack
        moved = edited(stack, "set", {"layer": "p", "field": "place.x", "value": 130}).stack
        assert moved.find("p").place.x == 130 and moved.find("p").mask.parts[0].settings["centre"] == centre


def test_a_linked_mask_follows_and_is_made_its_own_again():
    stack = stack_of(layer("a", parts=DRAWN), layer("b", linked="a", parts=[{"kind": "everything", "op": "keep"}]))
    assert np.array_equal(mask_of(stack, "a"), mask_of(stack, "b"))
    changed = edited(stack, "shift-mask", {"layer": "a", "by": [9, 9]}).stack
    assert np.array_equal(mask_of(changed, "a"), mask_of(changed, "b"))
    own = edited(changed, "unlink-mask", {"layer": "b"}).stack
    assert own.find("b").mask.linked == "" and np.array_equal(mask_of(own, "b"), mask_of(changed, "b"))


@pytest.mark.parametrize(("of", "own", "kept"), [
    ({"feather": 5}, {}, True), ({"feather": 5}, {"invert": True}, False), ({"feather": 5}, {"parts": [DRAWN[0]]}, False),
    ({"enabled": False}, {"invert": True}, True), ({}, {"grow": 3}, True),
])  # fmt: skip
def test_unlinking_shows_the_same_or_is_refused(of, own, kept):
    stack = stack_of(layer("a", parts=DRAWN, **of), layer("b", **{"linked": "a", **own}))
    if not kept:
        with pytest.raises(DocumentError, match="keep the link"):
            edited(stack, "unlink-mask", {"layer": "b"})
        return
    apart = edited(stack, "unlink-mask", {"layer": "b"}).stack
    assert np.array_equal(mask_of(apart, "b"), mask_of(stack, "b"))


@pytest.mark.parametrize(("edit", "arguments"), [
    ("remove-layers", {"layers": ["a"]}), ("move-layer", {"layer": "b", "before": "a", "into": None}),
    ("set", {"layer": "a", "field": "mask.linked", "value": "b"}), ("set", {"layer": "b", "field": "mask.linked", "value": "b"}),
    ("shift-mask", {"layer": "b", "by": [1, 1]}),
])  # fmt: skip
def test_no_edit_leaves_a_link_to_nothing_or_round_in_a_ring(edit, arguments):
    stack = stack_of(layer("a", parts=DRAWN), layer("b", linked="a"))
    with pytest.raises(DocumentError, match="link"):
        edited(stack, edit, arguments)


def test_a_file_with_a_link_to_nothing_is_refused_by_its_field():
    plain = {"format": "glyptic-stack", "version": 1, "layers": [BASE, layer("b", linked="zz"), layer("a")]}
    with pytest.raises(DocumentError, match=r"layers\[1\]\.mask\.linked: is linked to 'zz'"):
        parse_stack(plain, VOCABULARY)


def test_an_inverted_copy_shows_what_the_other_hides():
    stack = stack_of(layer("a", parts=DRAWN, grow=4, feather=3), {"id": "b", "kind": "levels"})
    copied = edited(stack, "take-mask", {"layer": "b", "from": "a", "copy": True, "invert": True}).stack
    assert np.abs(mask_of(copied, "a") + mask_of(copied, "b") - 1).max() < 1e-4


def test_everything_a_mask_can_be_comes_back_from_its_file():
    whole = {
        "grow": -3,
        "levels": {"black": 0.1, "gamma": 2},
        "curve": [[0, 0.1], [1, 0.8]],
        "along": True,
        "density": 0.5,
    }
    parts = [*DRAWN, {"kind": "region", "source": "r.png", "edge": 0.4, "begin": "backdrop", "name": "Wall", "op": "replace",
                      "seeds": [{"points": [[1, 2], [3, 4]], "size": 5, "belongs": False}], "shift": [2, 3]}]  # fmt: skip
    stack = stack_of(layer("a", parts=parts, **whole), layer("b", linked="a"))
    assert parse_stack(plain_stack(stack, VOCABULARY), VOCABULARY) == stack


@pytest.mark.parametrize(("mask", "fault"), [
    ({"grow": 101}, "grow"), ({"levels": {"black": 0.9, "white": 0.2}}, "levels.white"), ({"curve": [[0, 0], [0, 1]]}, r"curve\[1\]"),
    ({"parts": [{"kind": "region", "source": "r.png", "seeds": [{"points": []}]}]}, r"seeds\[0\].points"),
    ({"parts": [{"kind": "oval", "centre": [1, 1], "radii": [1, 1], "name": "a\nb"}]}, "name"),
    ({"parts": [{"kind": "paint", "strokes": [{**STROKE, "points": [[1, 1, 0.5, 2, 0]]}]}]}, r"points\[0\]\[3\]: tilt must be in 0..1"),
    ({"parts": [{"kind": "paint", "strokes": [{**STROKE, "points": [[1, 1, 0.5, 0]]}]}]}, r"points\[0\]: must be \[x, y, pressure\]"),
])  # fmt: skip
def test_bad_masks_are_refused_by_the_field(mask, fault):
    with pytest.raises(DocumentError, match=fault):
        stack_of(layer("a", **mask))
