"""Edits: document to document; the input is never changed, everything not touched is shared."""

import pytest

from glyptic.actions.edit import edited
from glyptic.base.errors import DocumentError, NotFound
from glyptic.document.edits import EDITS
from tests.conftest import stack_of
from tests.document.test_codec import RAMP, STROKE

EXPOSURE = {"id": "e", "kind": "exposure", "name": "Light"}
GREY = {"id": "g", "kind": "grey", "name": "Rims"}
INNER = {"id": "i", "kind": "levels", "name": "Ends"}
GROUP = {"id": "group", "kind": "group", "name": "Jar", "layers": [INNER]}


@pytest.fixture
def stack():
    return stack_of(EXPOSURE, GREY, GROUP)


def ids(stack):
    return [layer.id for layer in stack.walk()]


def test_add_puts_the_layer_after_the_chosen_one_and_names_it_apart(stack):
    result = edited(stack, "add-layer", {"layer": {"kind": "levels"}, "after": "e"})
    new = result.stack.layers[2]
    assert new.kind == "levels" and result.choose == new.id and ids(stack) == ["base", "e", "g", "group", "i"]
    again = edited(result.stack, "add-layer", {"layer": {"kind": "levels"}, "after": new.id})
    assert again.stack.layers[3].name == "Levels 2"


def test_add_after_a_group_goes_into_it(stack):
    result = edited(stack, "add-layer", {"layer": {"kind": "exposure"}, "after": "group"})
    assert [layer.kind for layer in result.stack.find("group").layers] == ["levels", "exposure"]


def test_move_into_and_out_of_a_group(stack):
    inside = edited(stack, "move-layer", {"layer": "e", "before": None, "into": "group"}).stack
    assert [layer.id for layer in inside.find("group").layers] == ["i", "e"]
    outside = edited(inside, "move-layer", {"layer": "e", "before": "g", "into": None}).stack
    assert ids(outside) == ids(stack)


def test_nothing_moves_below_the_base_and_no_group_into_itself(stack):
    moved = edited(stack, "move-layer", {"layer": "g", "before": "base", "into": None}).stack
    assert ids(moved)[:2] == ["base", "g"]
    with pytest.raises(DocumentError):
        edited(stack, "move-layer", {"layer": "group", "before": None, "into": "group"})
    with pytest.raises(DocumentError):
        edited(stack, "move-layer", {"layer": "base", "before": None, "into": "group"})


def test_group_and_take_apart_are_inverse(stack):
    grouped = edited(stack, "group-layers", {"layers": ["e", "g"]})
    assert [layer.id for layer in grouped.stack.find(grouped.choose).layers] == ["e", "g"]
    apart = edited(grouped.stack, "ungroup-layer", {"layer": grouped.choose})
    assert ids(apart.stack) == ids(stack)


def test_a_group_whose_mask_covers_several_masks_is_taken_apart_only_when_told_to(stack):
    masked = edited(stack, "add-mask", {"layer": "group", "start": "closed"}).stack
    several = edited(masked, "duplicate-layers", {"layers": ["i"]}).stack
    with pytest.raises(DocumentError, match="would change the picture"):
        edited(several, "ungroup-layer", {"layer": "group"})
    apart = edited(several, "ungroup-layer", {"layer": "group", "anyway": True})
    assert apart.stack.find("group") is None and apart.stack.find("i") is not None


def test_what_one_layer_owes_to_its_group_it_keeps(stack):
    changed = edited(stack, "add-mask", {"layer": "group", "start": "closed"}).stack
    changed = edited(changed, "set", {"layer": "group", "field": "opacity", "value": 0.5}).stack
    layer = edited(changed, "ungroup-layer", {"layer": "group"}).stack.find("i")
    assert layer.opacity == 0.5 * changed.find("i").opacity and layer.mask == changed.find("group").mask
    off = edited(changed, "show-layers", {"layers": ["group"], "visible": False}).stack
    assert not edited(off, "ungroup-layer", {"layer": "group"}).stack.find("i").visible


def test_only_an_isolated_group_blends(stack):
    with pytest.raises(DocumentError, match="isolated first"):
        edited(stack, "set", {"layer": "group", "field": "blend", "value": "multiply"})
    isolated = edited(stack, "set", {"layer": "group", "field": "mode", "value": "isolated"}).stack
    multiplied = edited(isolated, "set", {"layer": "group", "field": "blend", "value": "multiply"}).stack
    assert (
        edited(multiplied, "set", {"layer": "group", "field": "mode", "value": "through"}).stack.find("group").blend
        == "normal"
    )


def test_remove_and_duplicate(stack):
    assert "i" not in ids(edited(stack, "remove-layers", {"layers": ["group"]}).stack)
    twice = edited(stack, "duplicate-layers", {"layers": ["group"]}).stack
    assert len(ids(twice)) == len(ids(stack)) + 2 and len(set(ids(twice))) == len(ids(twice))
    with pytest.raises(DocumentError, match="base"):
        edited(stack, "remove-layers", {"layers": ["base"]})


@pytest.mark.parametrize(
    ("layer", "field", "value"),
    [
        ("e", "opacity", 0.25), ("e", "name", "Brighter"), ("e", "blend", "screen"), ("e", "settings.stops", 1.5),
        ("g", "settings.reach.low", 0.3), ("g", "settings.reach", {"low": 0.1}), ("i", "settings.rgb.gamma", 2),
        ("e", "mask.feather", 12), ("e", "visible", False), ("e", "settings", {"stops": 1, "offset": 0.1}),
    ],
)  # fmt: skip
def test_set_changes_one_layer_and_shares_the_rest(stack, layer, field, value):
    result = edited(stack, "set", {"layer": layer, "field": field, "value": value})
    assert result.stack != stack and result.sentence
    untouched = "g" if layer != "g" else "e"
    assert result.stack.find(untouched) is stack.find(untouched)


@pytest.mark.parametrize(
    ("layer", "field", "value"),
    [
        ("e", "opacity", 2), ("e", "settings.stops", "much"), ("e", "settings.nothing", 1), ("e", "id", "x"),
        ("base", "opacity", 0.5), ("group", "blend", "screen"), ("e", "mask.parts[0].op", "keep"), ("e", "", 1),
    ],
)  # fmt: skip
def test_set_refuses_what_the_stack_file_refuses(stack, layer, field, value):
    with pytest.raises(DocumentError):
        edited(stack, "set", {"layer": layer, "field": field, "value": value})


def test_a_locked_layer_refuses_until_it_is_unlocked(stack):
    locked = edited(stack, "set", {"layer": "g", "field": "locked", "value": True}).stack
    with pytest.raises(DocumentError, match="locked"):
        edited(locked, "add-stroke", {"layer": "g", "target": "grey", "stroke": STROKE})
    free = edited(locked, "set", {"layer": "g", "field": "locked", "value": False}).stack
    assert edited(free, "add-stroke", {"layer": "g", "target": "grey", "stroke": STROKE}).stack.find("g").strokes


def test_a_stroke_makes_the_mask_it_needs(stack):
    shown = edited(stack, "add-stroke", {"layer": "e", "target": "mask", "stroke": STROKE}).stack.find("e").mask
    assert shown.start == "closed" and len(shown.parts[0].strokes) == 1
    hidden = edited(stack, "add-stroke", {"layer": "e", "target": "mask", "stroke": {**STROKE, "to": 0}})
    assert hidden.stack.find("e").mask.start == "open"


def test_a_stroke_after_a_ramp_starts_a_new_paint_part(stack):
    for part in (None, RAMP, None):
        arguments = {"layer": "e", "part": part} if part else {"layer": "e", "target": "mask", "stroke": STROKE}
        stack = edited(stack, "add-part" if part else "add-stroke", arguments).stack
    assert [part.kind for part in stack.find("e").mask.parts] == ["paint", "ramp", "paint"]


def test_parts_are_set_moved_and_removed(stack):
    stack = edited(stack, "add-part", {"layer": "e", "part": RAMP}).stack
    stack = edited(stack, "add-part", {"layer": "e", "part": {"kind": "tone", "low": 0.5}}).stack
    stack = edited(stack, "set", {"layer": "e", "field": "mask.parts[1].soft_low", "value": 0.2}).stack
    assert stack.find("e").mask.parts[1].settings["soft_low"] == 0.2
    stack = edited(stack, "move-part", {"layer": "e", "part": 1, "to": 0}).stack
    stack = edited(stack, "remove-part", {"layer": "e", "part": 1}).stack
    assert [part.kind for part in stack.find("e").mask.parts] == ["tone"]


def test_a_mask_is_moved_or_copied_to_another_layer(stack):
    stack = edited(stack, "add-mask", {"layer": "e", "start": "closed"}).stack
    copied = edited(stack, "take-mask", {"layer": "group", "from": "e", "copy": True}).stack
    assert copied.find("group").mask == copied.find("e").mask
    moved = edited(stack, "take-mask", {"layer": "group", "from": "e", "copy": False}).stack
    assert moved.find("e").mask is None and moved.find("group").mask is not None


def test_what_is_gone_is_not_found(stack):
    with pytest.raises(NotFound):
        edited(stack, "set", {"layer": "gone", "field": "opacity", "value": 1})
    with pytest.raises(DocumentError):
        edited(stack, "explode", {})


def test_every_edit_declares_its_arguments():
    for edit in EDITS.values():
        if edit.name == "set-words":
            continue  # none at all are those of the file
        with pytest.raises(DocumentError):
            edited(stack_of(), edit.name, {})


def test_a_group_that_is_added_filled_is_worked_on_in_its_first_layer(stack):
    pair = {
        "kind": "group",
        "name": "Pair",
        "layers": [{"kind": "curves", "name": "Lighter"}, {"kind": "curves", "name": "Darker"}],
    }
    result = edited(stack, "add-layer", {"layer": pair, "after": "e"})
    assert result.stack.find(result.choose).name == "Lighter"
    beside = edited(stack, "add-layer", {"layer": {"kind": "exposure"}, "after": "group", "beside": True})
    assert beside.stack.layers[-1].id == beside.choose and len(beside.stack.find("group").layers) == 1


def test_copies_of_copies_are_numbered_on(stack):
    copy = edited(stack, "duplicate-layers", {"layers": ["e"]})
    again = edited(copy.stack, "duplicate-layers", {"layers": [copy.choose]})
    assert [again.stack.find(i).name for i in ("e", copy.choose, again.choose)] == ["Light", "Light 2", "Light 3"]


def test_several_layers_are_set_in_one_step_and_locked_ones_say_why_not(stack):
    result = edited(stack, "set-layers", {"layers": ["e", "i"], "field": "opacity", "value": 0.3})
    assert [result.stack.find(i).opacity for i in ("e", "g", "i")] == [0.3, 1, 0.3]
    assert result.sentence == "Opacity of 2 layers"
    locked = edited(stack, "set-layers", {"layers": ["g"], "field": "locked", "value": True}).stack
    with pytest.raises(DocumentError, match="locked"):
        edited(locked, "set-layers", {"layers": ["e", "g"], "field": "mark", "value": "star"})
    marked = edited(stack, "set-layers", {"layers": ["e", "g"], "field": "mark", "value": "star"}).stack
    assert [marked.find(i).mark for i in ("e", "g", "i")] == ["star", "star", ""]
    for wrong in (
        {"layers": ["base"], "field": "opacity", "value": 1},
        {"layers": ["e"], "field": "name", "value": "x"},
        {"layers": ["e"], "field": "opacity", "value": 2},
    ):
        with pytest.raises(DocumentError):
            edited(stack, "set-layers", wrong)


@pytest.mark.parametrize(("chosen", "by", "order"), [
    (["e"], "later", ["base", "g", "e", "group"]),
    (["e", "g"], "later", ["base", "group", "e", "g"]),
    (["g", "group"], "earlier", ["base", "g", "group", "e"]),
    (["e", "group"], "earlier", ["base", "e", "group", "g"]),
])  # fmt: skip
def test_several_layers_move_one_place_together(stack, chosen, by, order):
    moved = edited(stack, "move-layers", {"layers": chosen, "by": by}).stack
    assert [layer.id for layer in moved.layers] == order


def test_nothing_moves_beyond_the_ends_or_from_two_groups_at_once(stack):
    for chosen, by in (
        (["e"], "earlier"),
        (["group"], "later"),
        (["i"], "later"),
        (["e", "i"], "later"),
        (["base"], "later"),
    ):
        with pytest.raises(DocumentError):
            edited(stack, "move-layers", {"layers": chosen, "by": by})


def test_layers_are_taken_out_of_their_group_and_stand_beside_it(stack):
    result = edited(stack, "take-out", {"layers": ["i"]})
    assert [layer.id for layer in result.stack.layers] == ["base", "e", "g", "group", "i"]
    with pytest.raises(DocumentError, match="is in no group"):
        edited(stack, "take-out", {"layers": ["e"]})
