"""The stack file: every fault with its field; what is read is written the same."""

import json

import pytest

from glyptic.base.errors import DocumentError
from glyptic.document.codec import parse_stack, read_stack
from glyptic.document.writing import plain_stack, write_stack
from glyptic.engine.vocabulary import VOCABULARY
from tests.conftest import BASE
from tests.properties.stacks import StackMaker

NEARLY = [True, None, "1", [1], float("nan"), float("inf"), 10**400]
"""What is no number of a point, though it may look like one."""
STROKE = {"to": 1, "size": 10, "hardness": 0, "opacity": 1, "flow": 1, "points": [[1, 1]]}
RAMP = {"kind": "ramp", "from": [0, 0], "to": [1, 1]}


def document(*layers, **changes):
    return {"format": "glyptic-stack", "version": 1, "layers": [BASE, *layers], **changes}


def fields_of(plain):
    with pytest.raises(DocumentError) as caught:
        parse_stack(plain, VOCABULARY)
    return [fault.field for fault in caught.value.faults]


def masked(*parts, **head):
    return {"kind": "exposure", "mask": {"parts": list(parts), **head}}


FAULTS = {
    "not an object": ([], ""),
    "format": (document(format="other"), "format"),
    "version": (document(version=99), "version"),
    "working space": (document(working_space="lab"), "working_space"),
    "no layers": (document(layers=[]), "layers"),
    "unknown field": (document(extra=1), "extra"),
    "base is no picture": ({**document(), "layers": [{"kind": "exposure"}]}, "layers[0].kind"),
    "mask on the base": ({**document(), "layers": [{**BASE, "mask": None}]}, "layers[0].mask"),
    "opacity on the base": ({**document(), "layers": [{**BASE, "opacity": 1}]}, "layers[0].opacity"),
    "unknown kind": (document({"kind": "sparkle"}), "layers[1].kind"),
    "missing kind": (document({}), "layers[1].kind"),
    "opacity": (document({"kind": "exposure", "opacity": 1.5}), "layers[1].opacity"),
    "blend": (document({"kind": "exposure", "blend": "dissolve"}), "layers[1].blend"),
    "same id": (document({"kind": "exposure", "id": "base"}), "layers[1].id"),
    "unknown setting": (document({"kind": "exposure", "settings": {"ev": 1}}), "layers[1].settings.ev"),
    "missing colour": (document({"kind": "fill", "settings": {}}), "layers[1].settings.colour"),
    "x must grow": (
        document({"kind": "curves", "settings": {"points": {"rgb": [[0, 0], [0.5, 1], [0.5, 0]]}}}),
        "layers[1].settings.points.rgb[2]",
    ),
    "black above white": (
        document({"kind": "levels", "settings": {"red": {"black": 0.5, "white": 0.5}}}), "layers[1].settings.red.white",
    ),
    "gamma": (document({"kind": "levels", "settings": {"rgb": {"gamma": 0}}}), "layers[1].settings.rgb.gamma"),
    "radii": (
        document({"kind": "vignette", "settings": {"centre": [0, 0], "radii": [0, 1]}}), "layers[1].settings.radii",
    ),
    "from is to": (document(masked({**RAMP, "to": [0, 0]})), "layers[1].mask.parts[0].to"),
    "unknown part": (document(masked({"kind": "cloud"})), "layers[1].mask.parts[0].kind"),
    "op on paint": (document(masked({"kind": "paint", "op": "keep"})), "layers[1].mask.parts[0].op"),
    "part op": (document(masked({**RAMP, "op": "add"})), "layers[1].mask.parts[0].op"),
    "start": (document(masked(start="half")), "layers[1].mask.start"),
    "stops grow": (
        document({"kind": "gradient", "settings": {"from": [0, 0], "to": [1, 1],
                  "stops": [{"at": 0.5, "colour": [0, 0, 0]}, {"at": 0.5, "colour": [0, 0, 0]}]}}),
        "layers[1].settings.stops[1].at",
    ),
    "size": (document({"kind": "grey", "strokes": [{**STROKE, "size": 0}]}), "layers[1].strokes[0].size"),
    "no points": (document({"kind": "grey", "strokes": [{**STROKE, "points": []}]}), "layers[1].strokes[0].points"),
    "pressure": (
        document({"kind": "grey", "strokes": [{**STROKE, "points": [[0, 0, 2]]}]}), "layers[1].strokes[0].points[0][2]",
    ),
    "even on a mask": (
        document(masked({"kind": "paint", "strokes": [{**STROKE, "even": 3}]})), "layers[1].mask.parts[0].strokes[0].even",
    ),
    "to and even": (document({"kind": "grey", "strokes": [{**STROKE, "even": 3}]}), "layers[1].strokes[0].even"),
    "mode": (document({"kind": "group", "mode": "alone", "layers": []}), "layers[1].mode"),
    "blend of a group": (document({"kind": "group", "blend": "multiply"}), "layers[1].blend"),
    "inside a group": (
        document({"kind": "group", "layers": [{"kind": "exposure", "opacity": -1}]}), "layers[1].layers[0].opacity",
    ),
    "path out of the folder": (document({"kind": "picture", "source": "../x.png"}), "layers[1].source"),
}  # fmt: skip


@pytest.mark.parametrize("case", FAULTS)
def test_a_fault_is_named_by_its_field(case):
    plain, field = FAULTS[case]
    assert field in fields_of(plain)


def test_all_faults_are_collected():
    plain = document({"kind": "exposure", "opacity": 2}, {"kind": "fill"}, masked({"kind": "oval", "radii": [1, 1]}))
    assert fields_of(plain) == ["layers[1].opacity", "layers[2].settings.colour", "layers[3].mask.parts[0].centre"]


@pytest.mark.parametrize("text", ["", "{", b"\xff\xfe", "[" * 100_000, "nan", '{"format": NaN}'])
def test_text_that_is_no_stack_is_refused(text):
    with pytest.raises(DocumentError):
        read_stack(text, VOCABULARY)


@pytest.mark.parametrize("seed", range(20))
def test_random_stacks_round_trip(seed):
    stack = parse_stack(StackMaker(seed).stack(), VOCABULARY)
    again = read_stack(write_stack(stack, VOCABULARY), VOCABULARY)
    assert again == stack
    assert plain_stack(again, VOCABULARY) == plain_stack(stack, VOCABULARY)


def test_defaults_are_those_of_the_contract():
    stack = parse_stack(document({"kind": "grey"}, masked({**RAMP}, {"kind": "paint"})), VOCABULARY)
    grey, exposure = stack.layers[1:]
    assert (grey.opacity, grey.visible, grey.blend, grey.mask, grey.strokes) == (1, True, "soft-light", None, ())
    assert exposure.blend == "normal"
    assert exposure.mask.start == "open" and exposure.mask.density == 1 and exposure.mask.enabled
    ramp = exposure.mask.parts[0]
    assert (ramp.op, ramp.feather, ramp.invert, ramp.settings["ease"]) == ("show", 0, False, "smooth")


def test_ids_are_made_where_they_are_missing():
    stack = parse_stack(document({"kind": "exposure"}, {"kind": "exposure", "id": "layer-1"}), VOCABULARY)
    ids = [layer.id for layer in stack.layers]
    assert len(set(ids)) == 3 and all(ids)


def test_the_text_is_json_that_people_can_read():
    text = write_stack(parse_stack(document({"kind": "exposure", "name": "Größer"}), VOCABULARY), VOCABULARY)
    assert json.loads(text)["layers"][1]["name"] == "Größer" and "Größer" in text


@pytest.mark.parametrize("wrong", NEARLY, ids=str)
def test_one_wrong_number_among_many_points_is_found_and_named(wrong):
    points = [[i, 2.5 * i, 0.5] for i in range(40)]
    points[17] = [17, wrong, 0.5]
    with pytest.raises(DocumentError) as caught:
        parse_stack(document({"kind": "grey", "strokes": [{**STROKE, "points": points}]}), VOCABULARY)
    assert [fault.field for fault in caught.value.faults] == ["layers[1].strokes[0].points[17][1]"]


def test_points_are_the_same_whether_they_all_tell_of_pressure_or_not():
    def read(points):
        plain = document({"kind": "grey", "strokes": [{**STROKE, "points": points}]})
        return parse_stack(plain, VOCABULARY).layers[1].strokes[0].points

    told = [[i, 3 - i / 7, 1] for i in range(30)]
    assert read(told) == read([[x, y] for x, y, _ in told]) == read([told[0][:2], *told[1:]])
