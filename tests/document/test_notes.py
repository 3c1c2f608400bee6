"""What is noted about a picture: sets that remember, pins, findings left; in the file, and through every edit."""

from __future__ import annotations

import json

import pytest

from glyptic.actions.edit import edited
from glyptic.base.errors import DocumentError
from glyptic.document.codec import read_stack
from glyptic.document.edits.notes import set_is_on
from glyptic.document.writing import write_stack
from glyptic.engine.vocabulary import VOCABULARY
from tests.conftest import BASE, stack_of

LAYERS = [{"id": name, "kind": "exposure", "name": name, "settings": {"stops": 1}} for name in "abc"]


def done(stack, edit, **arguments):
    return edited(stack, edit, arguments).stack


def at_work(stack):
    return "".join(layer.id for layer in stack.layers[1:] if layer.visible)


@pytest.fixture
def stack():
    return done(stack_of(*LAYERS), "keep-set", name="Burns", layers=["a", "b"])


def test_a_set_turns_its_layers_off_and_on_and_remembers_which_were_off(stack):
    dark = done(stack, "set", layer="b", field="visible", value=False)
    off = done(dark, "switch-set", set=0, on=False)
    assert at_work(off) == "c" and not set_is_on(off, off.notes.sets[0])
    assert at_work(done(off, "switch-set", set=0, on=True)) == "ac"


def test_a_set_whose_layers_were_all_off_turns_all_on(stack):
    none = done(
        done(stack, "set", layer="a", field="visible", value=False), "set", layer="b", field="visible", value=False
    )
    assert at_work(done(done(none, "switch-set", set=0, on=False), "switch-set", set=0, on=True)) == "abc"


def test_a_layer_that_goes_leaves_its_sets_and_an_empty_set_goes_too(stack):
    one = done(stack, "remove-layers", layers=["a"])
    assert one.notes.sets[0]["layers"] == ("b",)
    assert done(one, "remove-layers", layers=["b"]).notes.sets == ()


def test_all_that_is_noted_travels_in_the_file(stack):
    for edit, arguments in (
        ("put-pin", {"pin": None, "value": {"x": 10.5, "y": 20, "name": "Rim", "neutral": True, "over": 5}}),
        ("mark-subject", {"subject": {"centre": [50, 60], "radii": [20, 30]}}),
        ("leave-finding", {"check": "heavy", "of": "ab12", "why": "wanted so"}),
    ):
        stack = done(stack, edit, **arguments)
    text = write_stack(stack, VOCABULARY)
    assert read_stack(text, VOCABULARY) == stack
    assert json.loads(text)["pins"] == [{"x": 10.5, "y": 20, "name": "Rim", "neutral": True, "over": 5}]


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"sets": [{"name": "x", "layers": ["nowhere"]}]}, "sets[0].layers[0]"),
        ({"sets": [{"name": "x"}]}, "sets[0].layers"),
        ({"pins": [{"x": 1, "y": 1}] * 13}, "pins"),
        ({"pins": [{"x": 1, "y": 1e9}]}, "pins[0].y"),
        ({"pins": [{"x": 1, "y": 1, "over": 3}]}, "pins[0].over"),
        ({"subject": {"centre": [1, 1], "radii": [0, 5]}}, "subject.radii"),
        ({"left": {}}, "left"),
    ],
)
def test_what_is_noted_wrongly_is_refused_by_its_field(more, field):
    text = json.dumps({"format": "glyptic-stack", "version": 1, "layers": [BASE], **more})
    with pytest.raises(DocumentError) as refused:
        read_stack(text, VOCABULARY)
    assert [fault.field for fault in refused.value.faults] == [field]


def test_pins_are_set_moved_named_and_removed_up_to_twelve(stack):
    for i in range(12):
        stack = done(stack, "put-pin", pin=None, value={"x": i, "y": i})
    with pytest.raises(DocumentError):
        done(stack, "put-pin", pin=None, value={"x": 0, "y": 0})
    moved = done(stack, "put-pin", pin=3, value={"x": 90, "y": 80})
    assert (moved.notes.pins[3]["x"], moved.notes.pins[3]["y"]) == (90, 80)
    assert len(done(moved, "remove-pin", pin=3).notes.pins) == 11


def test_a_finding_left_is_taken_up_again(stack):
    left = done(stack, "leave-finding", check="heavy", of="ab12", why="")
    assert done(left, "take-up-finding", of="ab12").notes.left == ()
