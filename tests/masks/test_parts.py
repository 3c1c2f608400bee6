"""Every mask part passes one suite; the combining rules; outlines against exact areas."""

import numpy as np
import pytest

from glyptic.base.rectangles import Canvas, Rect
from glyptic.document.codec import parse_part
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.reader import Reader
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.masks import PARTS
from tests.conftest import colourful, picture_of, stack_of
from tests.oracle.whole import Whole
from tests.tolerances import BLURRED, EXACT, OUTLINE

GREY = picture_of(np.repeat(colourful(300, 280)[:1], 3, axis=0), b"grey")
SQUARE = [[50.25, 40.5], [200.75, 40.5], [200.75, 160.125], [50.25, 160.125]]


def mask_of(mask, picture, level=0, rect=None):
    """The mask (h, w) of a layer over a picture."""
    stack = stack_of({"id": "m", "kind": "exposure", "mask": mask})
    plan = make_plan(stack, lambda source: GREY if source == "grey.png" else picture)
    reader = Reader(TileCache(), picture.canvas, level)
    return reader.read(plan.masks["m"], rect or reader.bounds)[0]


class Suite:
    part: dict = {}
    tolerance = EXACT

    def mask(self, **more):
        return {"start": "closed", "parts": [{**self.part, **more}]}

    def test_covers_some_and_leaves_some(self, picture):
        m = mask_of(self.mask(), picture)
        assert m.min() < 0.1 and m.max() > 0.9 and m.min() >= 0 and m.max() <= 1

    @pytest.mark.parametrize("level", [0, 2])
    @pytest.mark.parametrize("feather", [0, 7])
    def test_tiles_are_the_whole(self, picture, level, feather):
        mask = {**self.mask(), "feather": feather}
        whole = mask_of(mask, picture, level)
        rect = Rect(11, 7, whole.shape[1] // 2, whole.shape[0] // 2)
        part = mask_of(mask, picture, level, rect)
        assert np.array_equal(part, whole[rect.y : rect.bottom, rect.x : rect.right])

    def test_agrees_with_the_independent_renderer(self, picture):
        base = np.moveaxis(picture.colour.full, 0, 2) / 65535
        oracle = Whole(None, base, {"grey.png": GREY.colour.full[0] / 65535})
        for more in ({}, {"invert": True}, {"feather": 4, "op": "hide"}):
            mask = (
                self.mask()
                if self.part["kind"] == "paint"
                else {**self.mask(**more), "start": "open" if more.get("op") else "closed"}
            )
            theirs = oracle.mask(mask, base)
            tolerance = BLURRED if more.get("feather") else self.tolerance
            assert np.abs(mask_of(mask, picture) - theirs).max() < tolerance

    def test_round_trips(self):
        from glyptic.document.writing import plain_part

        part = parse_part(self.part, VOCABULARY, "part")
        assert parse_part(plain_part(part, VOCABULARY), VOCABULARY, "part") == part


class TestRamp(Suite):
    part = {"kind": "ramp", "from": [20, 30], "to": [220, 200]}


class TestLinearRamp(TestRamp):
    part = {"kind": "ramp", "from": [220, 30], "to": [20, 200], "ease": "linear"}


class TestOval(Suite):
    part = {"kind": "oval", "centre": [140, 110], "radii": [120, 60], "rotation": 33, "softness": 0.4}


class TestOutsideOval(TestOval):
    part = {"kind": "oval", "centre": [140, 110], "radii": [120, 60], "inside": False, "softness": 0.2}


class TestOutline(Suite):
    part = {"kind": "outline", "points": [[30, 30], [250, 60], [80, 250], [70, 20], [260, 200]]}
    tolerance = OUTLINE

    def test_a_rectangle_covers_its_exact_area(self, picture):
        m = mask_of({"start": "closed", "parts": [{"kind": "outline", "points": SQUARE}]}, picture)
        assert m[100, 50] == pytest.approx(0.75, abs=1e-3) and m[40, 100] == pytest.approx(0.5, abs=1e-3)
        assert m[160, 200] == pytest.approx(0.75 * 0.125, abs=1e-3) and m[100, 100] == 1 and m[10, 10] == 0
        assert m.sum() == pytest.approx(150.5 * 119.625, rel=1e-4)

    def test_what_is_surrounded_twice_is_outside(self, picture):
        twice = [[p[0], p[1]] for p in SQUARE] + [[p[0], p[1]] for p in SQUARE]
        assert mask_of({"start": "closed", "parts": [{"kind": "outline", "points": twice}]}, picture).max() == 0


class TestTone(Suite):
    part = {"kind": "tone", "low": 0.3, "high": 0.6, "soft_low": 0.1, "soft_high": 0.2}

    def test_hard_ends_are_included(self):
        white = picture_of(np.full((3, 8, 8), 65535, np.uint16))
        for window in ({"low": 1, "high": 1}, {"low": 0, "high": 1}):
            assert mask_of({"start": "closed", "parts": [{"kind": "tone", **window}]}, white).min() == 1


class TestColours(Suite):
    part = {
        "kind": "colour",
        "colour": [0.1, 0.2, 0.2],
        "also": [[0.5, 0.5, 0.5], [0.8, 0.7, 0.8]],
        "tolerance": 0.1,
        "softness": 0.08,
    }


class TestColour(Suite):
    part = {"kind": "colour", "colour": [0.5, 0.5, 0.5], "tolerance": 0.12, "softness": 0.1, "of": "base"}

    def test_without_softness_the_very_colour_is_inside(self):
        codes = np.empty((3, 4, 4), np.uint16)
        codes[:] = np.array([51 * 257, 102 * 257, 153 * 257])[:, None, None]
        part = {"kind": "colour", "colour": [0.2, 0.4, 0.6], "tolerance": 0}
        assert mask_of({"start": "closed", "parts": [part]}, picture_of(codes)).min() == 1


class TestRaster(Suite):
    part = {"kind": "raster", "source": "grey.png"}


class TestRegion(TestRaster):
    part = {"kind": "region", "source": "grey.png"}

    def test_agrees_with_the_independent_renderer(self, picture):
        both = [
            mask_of({"start": "closed", "parts": [{**self.part, "kind": kind}]}, picture)
            for kind in ("region", "raster")
        ]
        assert np.array_equal(*both)


class TestShiftedRaster(TestRaster):
    part = {"kind": "raster", "source": "grey.png", "shift": [40, -25]}

    def test_agrees_with_the_independent_renderer(self, picture):
        still, shifted = (
            mask_of({"start": "closed", "parts": [part]}, picture) for part in (TestRaster.part, self.part)
        )
        assert np.array_equal(shifted[:-25, 40:], still[25:, :-40])
        assert shifted[-25:].max() == shifted[:, :40].max() == 0


class TestEverything(Suite):
    part = {"kind": "everything"}

    def test_covers_some_and_leaves_some(self, picture):
        assert (mask_of(self.mask(), picture) == 1).all() and (mask_of(self.mask(invert=True), picture) == 0).all()


class TestPaint(Suite):
    part = {"kind": "paint", "strokes": [
        {"to": 1, "size": 80, "hardness": 0.4, "opacity": 1, "flow": 0.8, "points": [[40, 40], [200, 170]]},
        {"to": 0, "size": 30, "hardness": 1, "opacity": 0.6, "flow": 1, "points": [[200, 40], [60, 200]]}]}  # fmt: skip


def test_below_is_what_reaches_the_layer_and_base_is_the_base(picture):
    dark = {"kind": "exposure", "settings": {"stops": -9}}
    masks = {}
    for of in ("below", "base"):
        layer = {
            "id": "m",
            "kind": "exposure",
            "mask": {"start": "closed", "parts": [{"kind": "tone", "low": 0.3, "of": of}]},
        }
        plan = make_plan(stack_of(dark, layer), lambda source: picture)
        masks[of] = Reader(TileCache(), Canvas(300, 280), 0).read(plan.masks["m"], Rect(0, 0, 300, 280))
    assert masks["below"].max() == 0 and masks["base"].max() == 1


def test_parts_combine_in_order_then_invert_then_density(picture):
    half = {"kind": "ramp", "from": [0, 0], "to": [0, 0.001], "ease": "linear", "invert": True}
    cases = [
        (("show", "open"), 1.0), (("hide", "open"), 0.0), (("keep", "open"), 1.0),
        (("show", "closed"), 1.0), (("hide", "closed"), 0.0), (("keep", "closed"), 0.0),
        (("replace", "open"), 1.0), (("replace", "closed"), 1.0),
    ]  # fmt: skip
    for (op, start), expected in cases:
        m = mask_of({"start": start, "parts": [{**half, "op": op}]}, picture)
        assert (m == expected).all(), (op, start)
    assert (mask_of({"start": "closed", "invert": True}, picture) == 1).all()
    assert mask_of({"start": "closed", "density": 0.25}, picture)[0, 0] == 0.75


def test_painting_after_other_parts_equals_painting_in_order(picture):
    base = np.moveaxis(picture.colour.full, 0, 2) / 65535
    mask = {"start": "closed", "parts": [TestOval.part, *[TestPaint.part], TestRamp.part, *[TestPaint.part]]}
    assert np.abs(mask_of(mask, picture) - Whole(None, base).mask(mask, base)).max() < EXACT


def test_every_part_has_its_suite():
    def below(suite):
        return {suite.part.get("kind")} | {kind for child in suite.__subclasses__() for kind in below(child)}

    assert below(Suite) - {None} == set(PARTS)
