"""The crop's geometry, and what edits make of a frame and of layers that are moved across it."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from glyptic.actions.edit import edited
from glyptic.base.errors import DocumentError
from glyptic.document.codec import parse_stack
from glyptic.document.framing import Crop, nearest_right_angle, proportions, straightened
from glyptic.document.scaling import scaled_layer
from glyptic.document.values import FRAME
from glyptic.document.writing import plain_layer
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.params import Scale

BASE = {"id": "base", "kind": "picture", "source": "a.png"}
OVAL = {"centre": [300, 200], "radii": [80, 50], "rotation": 10, "softness": 0.5}
VIGNETTE = {"id": "v", "kind": "vignette", "settings": {"stops": -1, **OVAL}}


def stack_with(*layers, **frame):
    frame = {"corners": [[10, 20], [410, 20], [410, 320], [10, 320]], "size": [400, 300], **frame}
    return parse_stack({"format": "glyptic-stack", "version": 1, "layers": [BASE, *layers], "frame": frame}, VOCABULARY)


def seen(width, height, turn, tilt, swing, focal=1500.0):
    """The corners of a rectangle of the scene in a picture of 3000 x 2000, by a pinhole camera that looks at its middle."""
    a, b, c = np.radians([turn, tilt, swing])
    about_z = np.array([[math.cos(a), -math.sin(a), 0], [math.sin(a), math.cos(a), 0], [0, 0, 1]])
    about_x = np.array([[1, 0, 0], [0, math.cos(b), -math.sin(b)], [0, math.sin(b), math.cos(b)]])
    about_y = np.array([[math.cos(c), 0, math.sin(c)], [0, 1, 0], [-math.sin(c), 0, math.cos(c)]])
    places = np.array([[-width, -height, 0], [width, -height, 0], [width, height, 0], [-width, height, 0]]) / 2
    turned = places @ (about_x @ about_y @ about_z).T + [0, 0, 2000]
    return tuple((1500 + focal * x / z, 1000 + focal * y / z) for x, y, z in turned)


@given(st.floats(0.4, 2.5), st.floats(-40, 40), st.floats(-30, 30), st.floats(-30, 30))
@settings(max_examples=60)
def test_the_true_proportions_are_found_from_the_corners(ratio, turn, tilt, swing):
    corners = seen(900 * ratio, 900, turn, tilt + 5, swing + 5)
    assert proportions(corners, (1500, 1000)) == pytest.approx(ratio, rel=0.02)


def test_a_panel_seen_straight_on_keeps_its_sides_and_is_no_coarser_than_it_was():
    crop = straightened(((100, 100), (700, 100), (700, 500), (100, 500)), (1500, 1000))
    assert crop.size == (600, 400)
    tilted = straightened(seen(900, 600, 3, 12, 8), (1500, 1000))
    x, y = np.array(tilted.corners).T
    area = abs(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y)) / 2
    assert tilted.size[0] * tilted.size[1] >= area
    assert tilted.size[0] / tilted.size[1] == pytest.approx(1.5, abs=0.01)


@given(st.floats(-44, 44), st.integers(0, 3))
def test_a_turned_crop_stays_inside_and_a_line_it_is_levelled_by_comes_out_level(by, quarters):
    crop = Crop(((100, 80), (900, 80), (900, 680), (100, 680)), (800, 600)).quarter(quarters)
    turned = crop.turned_inside(by, 1000, 760)
    assert turned.is_inside(1000, 760)
    assert turned.levelled((100, 100), (200, 100)) == pytest.approx(nearest_right_angle(-turned.turn), abs=1e-6)
    level = turned.turned(turned.levelled((100, 100), (700, 350)))
    assert level.levelled((100, 100), (700, 350)) == pytest.approx(0, abs=1e-6)


def test_quarters_and_mirrors_come_round():
    crop = Crop.whole(800, 600)
    assert crop.quarter(1).quarter(3) == crop.mirrored().mirrored() == crop
    assert crop.quarter(1).size == (600, 800)
    assert crop.in_proportion(1, 1).size == (600, 600)
    assert crop.in_proportion(1, 1).corners[0] == (100, 0)


@pytest.mark.parametrize(
    ("frame", "words"),
    [
        ({"size": [200, 150]}, "Frame cropped to 200 × 150"),
        ({"border": {"left": 5, "bottom": 9}}, "Frame border 5, 0, 0, 9 px"),
        ({"outside": [0, 0, 0]}, "Frame another colour outside"),
        ({"corners": [[20, 20], [420, 20], [420, 320], [20, 320]]}, "Frame laid anew"),
        ({"enabled": False}, "Frame off"),
    ],
)
def test_the_log_says_what_became_of_the_frame(frame, words):
    assert edited(stack_with(), "set-frame", {"frame": frame}).sentence == words


def test_a_turn_is_told_in_degrees_and_a_border_by_share_of_the_shorter_side():
    crop = Crop(((10, 20), (410, 20), (410, 320), (10, 320)), (400, 300)).turned(1.25)
    assert edited(stack_with(), "set-frame", {"frame": {"corners": crop.corners}}).sentence == "Frame turned by 1.25°"
    made = edited(stack_with(), "border", {"amount": 4, "unit": "%", "below": 1.5}).stack
    assert made.frame.border == (12, 12, 12, 18)
    assert edited(made, "set", {"layer": FRAME, "field": "border.left", "value": 99}).stack.frame.border[0] == 99


@pytest.mark.parametrize(
    ("frame", "field"),
    [
        ({"corners": [[0, 0], [10, 0], [0, 10], [10, 10]]}, "frame.corners"),
        ({"size": [0, 10]}, "frame.size"), ({"size": [100_001, 10]}, "frame.size"), ({"size": [9e4, 9e4]}, "frame.size"),
        ({"border": {"top": 20_001}}, "frame.border.top"), ({"border": {"top": 1.5}}, "frame.border.top"),
        ({"outside": [2, 0, 0]}, "frame.outside[0]"), ({"odd": 1}, "frame.odd"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_a_frame_is_named_by_its_field(frame, field):
    with pytest.raises(DocumentError) as caught:
        edited(stack_with(), "set-frame", {"frame": frame})
    assert caught.value.faults[0].field == field


def test_a_layer_moved_across_the_frame_lies_where_it_lay_and_comes_back_the_same():
    border = {"left": 30, "top": 40}
    stack = stack_with(VIGNETTE, border=border)
    over = edited(stack, "move-layer", {"layer": "v", "into": FRAME})
    assert over.stack.sheet_layers[0].settings["centre"] == pytest.approx((320, 220))
    assert "onto the sheet" in over.sentence
    back = edited(over.stack, "move-layer", {"layer": "v", "before": FRAME}).stack
    assert back.layers[1].settings["centre"] == pytest.approx((300, 200))
    turned = edited(
        stack, "set-frame", {"frame": {"corners": Crop(stack.frame.corners, stack.frame.size).turned(30).corners}}
    ).stack
    moved = edited(turned, "move-layer", {"layer": "v", "into": FRAME}).stack.sheet_layers[0]
    assert moved.settings["rotation"] == pytest.approx(-20)
    assert moved.settings["radii"] == pytest.approx((80, 50))


def test_what_cannot_be_carried_exactly_is_refused_in_words():
    stack = stack_with(VIGNETTE, corners=[[10, 20], [410, 30], [400, 320], [20, 310]])
    with pytest.raises(DocumentError, match="cannot go across the frame"):
        edited(stack, "move-layer", {"layer": "v", "into": FRAME})
    plain = stack_with({"id": "e", "kind": "exposure"}, corners=[[10, 20], [410, 30], [400, 320], [20, 310]])
    assert len(edited(plain, "move-layer", {"layer": "e", "into": FRAME}).stack.sheet_layers) == 1


def test_removing_the_frame_takes_the_sheet_along_and_links_stay_on_their_side():
    stack = stack_with(layers=[VIGNETTE])
    gone = edited(stack, "remove-layers", {"layers": [FRAME]})
    assert gone.stack.frame is None and "and the layer over it" in gone.sentence
    masked = {"id": "m", "kind": "exposure", "mask": {"start": "closed"}}
    with pytest.raises(DocumentError):
        stack_with(masked, layers=[{**VIGNETTE, "mask": {"linked": "m"}}])


def test_what_lies_over_the_sheet_follows_its_size_and_undone_is_what_it_was():
    stack = stack_with(layers=[VIGNETTE])
    smaller = edited(stack, "set-frame", {"frame": {"size": [200, 150]}}).stack
    assert smaller.sheet_layers[0].settings["centre"] == (150, 100)
    assert smaller.sheet_layers[0].settings["radii"] == (40, 25)
    moved = edited(stack, "set-frame", {"frame": {"outside": [0, 0, 0]}}).stack
    assert moved.sheet_layers == stack.sheet_layers


def test_layers_are_scaled_as_kits_are():
    stack = stack_with(
        {**VIGNETTE, "mask": {"feather": 4, "parts": [{"kind": "oval", **OVAL, "feather": 2}]}},
        {"id": "g", "kind": "grey", "strokes": [{"to": 1, "size": 20, "hardness": 0, "opacity": 1, "flow": 1, "points": [[5, 6], [7, 8]]}]},
    )  # fmt: skip
    by = Scale(2, 8)
    vignette, grey = (plain_layer(scaled_layer(layer, by, VOCABULARY), VOCABULARY) for layer in stack.layers[1:])
    assert vignette["settings"]["centre"] == [600, 1600] and vignette["settings"]["radii"] == [160, 400]
    assert vignette["settings"]["rotation"] == 10
    assert vignette["mask"]["feather"] == 16 and vignette["mask"]["parts"][0]["feather"] == 8
    assert grey["strokes"][0]["size"] == 80 and grey["strokes"][0]["points"][1][:2] == [14, 64]
