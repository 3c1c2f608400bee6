"""Every declared setting passes one suite: values round-trip, what is beyond is refused by name."""

import math

import pytest

from glyptic.params import Angle, Choice, Colour, CurvePoints, Point, Polygon, Real, Reference, Schema, Text, Toggle


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
    refused = ([1], [1, 2, 3], ["1", 2], [math.nan, 0], 5, None)


class TestRadii(Suite):
    param = Point(positive=True)
    accepted = ([0.1, 5],)
    refused = ([0, 5], [5, -1])


class TestPolygon(Suite):
    param = Polygon()
    accepted = ([[0, 0], [1, 0], [0, 1]],)
    refused = ([[0, 0], [1, 0]], [[0, 0], [1, 0], [0]], "abc")


class TestColour(Suite):
    param = Colour()
    accepted = ([0, 0.5, 1],)
    refused = ([0, 0.5], [0, 0.5, 1.01], [0, 0.5, -0.01], "#fff")


class TestCurvePoints(Suite):
    param = CurvePoints()
    accepted = ([[0, 1], [1, 0]], [[0.2, 0.3], [0.4, 0.1], [0.9, 1]])
    refused = ([[0, 0]], [[0, 0], [0, 1]], [[0.5, 0], [0.4, 1]], [[0, 0], [1, 1.1]], [[i / 40, 0] for i in range(33)])


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
