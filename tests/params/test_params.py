"""Every declared setting passes one suite: values round-trip, what is beyond is refused by name."""

import math

import pytest

from glyptic.base.errors import DocumentError
from glyptic.base.homography import Homography
from glyptic.params import (
    Angle,
    Choice,
    Colour,
    CurvePoints,
    Length,
    Point,
    Polygon,
    Radii,
    Real,
    Reference,
    Scale,
    Schema,
    Shift,
    Text,
    Toggle,
    Turn,
)

SIMILAR = Homography.affine(1.2, -0.9, 30.0, 0.9, 1.2, -4.0)
"""Turned, enlarged and shifted."""
CARRIED = {"shift": Homography.shift(3.5, -2.0), "similarity": SIMILAR}


def near(found, expected):
    """Equal but for the last digits, whatever is nested in what."""
    if isinstance(expected, tuple):
        assert len(found) == len(expected)
        for a, b in zip(found, expected, strict=True):
            near(a, b)
    else:
        assert found == (pytest.approx(expected, abs=1e-6) if isinstance(expected, float) else expected)


class Suite:
    param = None
    accepted: tuple = ()
    refused: tuple = (None, object())

    def test_accepted_values_round_trip(self):
        for raw in self.accepted:
            faults = []
            value = self.param.parse(raw, "field", faults)
            assert not faults, f"{raw}: {faults}"
            assert self.param.parse(self.param.plain(value), "field", []) == value

    @pytest.mark.parametrize("by", CARRIED.values(), ids=CARRIED)
    def test_what_is_carried_away_comes_back(self, by):
        for value in self.values():
            if not (isinstance(self.param, Shift) and not by.is_shift):
                near(self.param.carried(self.param.carried(value, by), by.inverse), value)

    def test_what_is_scaled_comes_back(self):
        for value in self.values():
            near(self.param.scaled(self.param.scaled(value, Scale(2.5, 1.5)), Scale(1 / 2.5, 1 / 1.5)), value)

    def values(self):
        return [self.param.parse(raw, "field", []) for raw in self.accepted]

    def test_the_rest_is_refused_with_its_field(self):
        for raw in self.refused:
            faults = []
            assert self.param.parse(raw, "field", faults) is None
            assert faults and all(fault.field.startswith("field") for fault in faults), raw


class TestReal(Suite):
    param = Real(low=-1, high=2)
    accepted = (-1, 2, 0.5, 0)
    refused = (-1.001, 2.001, math.inf, math.nan, "1", True, None, [], 10**400)


class TestRealAbove(Suite):
    param = Real(above=0, high=10)
    accepted = (1e-9, 10)
    refused = (0, -1)


class TestAngle(Suite):
    param = Angle()
    accepted = (-720, 33.3)
    refused = (math.inf, "90")


class TestChoice(Suite):
    param = Choice(options=("one", "two"))
    accepted = ("one", "two")
    refused = ("three", 1, None, ["one"])


class TestToggle(Suite):
    param = Toggle()
    accepted = (True, False)
    refused = (0, 1, "true", None)


class TestText(Suite):
    param = Text(longest=5)
    accepted = ("a", "Größe")
    refused = ("", "  ", "toolong", "a\nb", 5, None, "\ud800")


class TestReference(Suite):
    param = Reference()
    accepted = ("a.png", "folder/a.png")
    refused = ("/etc/passwd", "../a.png", "a/../../b.png", "c:\\a.png", "file:a.png", "")


class TestPoint(Suite):
    param = Point()
    accepted = ([0, 0], [-5.5, 1e6])
    refused = ([1], [1, 2, 3], ["1", 2], [math.nan, 0], 5, None, [0, 1.1e6], [-1e19, 0])


class TestRadii(Suite):
    param = Radii()
    accepted = ([0.1, 5],)
    refused = ([0, 5], [5, -1], [5, 1e7])


class TestShift(Suite):
    param = Shift()
    accepted = ([-3, 4.5],)
    refused = ([1e308, 0],)


class TestLength(Suite):
    param = Length(low=0, high=50)
    accepted = (0, 12.5)
    refused = (-1, 51)


class TestTurn(Suite):
    param = Turn()
    accepted = (30, -90)
    refused = (math.nan,)


@pytest.mark.parametrize(
    "param, value", [(Radii(), (3.0, 4.0)), (Turn(), 30.0), (Length(), 5.0), (Shift(), (1.0, 1.0))]
)
def test_what_would_be_drawn_out_of_shape_is_refused(param, value):
    with pytest.raises(DocumentError, match="exactly"):
        param.carried(value, Homography.affine(2.0, 0.0, 0.0, 0.0, 1.0, 0.0))


def test_a_mirror_turns_angles_the_other_way():
    assert Turn().carried(30.0, Homography.affine(1.0, 0.0, 0.0, 0.0, -1.0, 100.0)) == pytest.approx(-30)


class TestPolygon(Suite):
    param = Polygon()
    accepted = ([[0, 0], [1, 0], [0, 1]],)
    refused = ([[0, 0], [1, 0]], [[0, 0], [1, 0], [0]], "abc", [[0, i] for i in range(10_001)])


class TestColour(Suite):
    param = Colour()
    accepted = ([0, 0.5, 1],)
    refused = ([0, 0.5], [0, 0.5, 1.01], [0, 0.5, -0.01], "#fff")


class TestCurvePoints(Suite):
    param = CurvePoints()
    accepted = ([[0, 1], [1, 0]], [[0.2, 0.3], [0.4, 0.1], [0.9, 1]])
    refused = (
        [[0, 0]],
        [[0, 0], [0, 1]],
        [[0.5, 0], [0.4, 1]],
        [[0, 0], [1, 1.1]],
        [[0, 0], [1e-300, 1]],
        [[i / 40, 0] for i in range(33)],
    )


def test_a_schema_collects_every_fault():
    schema = Schema({"a": Real(low=0, high=1), "b": Toggle(default=False)})
    faults = []
    assert schema.parse({"a": 2, "b": 1, "c": 3}, "at", faults) is None
    assert [fault.field for fault in faults] == ["at.c", "at.a", "at.b"]


@pytest.mark.parametrize("raw", [None, [], "x"])
def test_a_schema_wants_an_object(raw):
    faults = []
    assert Schema({}).parse(raw, "at", faults) is None
    assert faults[0].field == "at"
