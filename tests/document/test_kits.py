"""Kits: read, written, and laid on pictures of other sizes, against plain data scaled by hand and the whole renderer."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest

from glyptic.base.errors import DocumentError
from glyptic.document.codec import parse_stack
from glyptic.document.kits import added, parse_kit, read_kit, scaled_kit, write_kit
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.render import render
from glyptic.engine.vocabulary import VOCABULARY
from tests.conftest import BASE, stack_of
from tests.oracle.whole import Whole
from tests.properties.stacks import HEIGHT, WIDTH, StackMaker
from tests.properties.test_against_whole import BLURRED_TOLERANCE, SHARE_OF_PIXELS, picture_of

UP = {"id": "up", "kind": "exposure", "name": "Up", "settings": {"stops": 1}}
POINTS = ("from", "to", "centre", "points", "corners", "radii")
LENGTHS = ("sigma", "feather", "grow", "size", "even", "radius")


def kit_of(*layers, size=(100, 80), **more):
    return {"format": "glyptic-kit", "version": 1, "name": "Kit", "size": list(size), "layers": list(layers), **more}


def scaled_plain(plain, sx, sy, name=""):
    """Plain data of a layer on a picture so many times as large, by the names of its fields alone."""
    if isinstance(plain, list) and name in POINTS:
        if plain and isinstance(plain[0], list):
            return [scaled_plain(point, sx, sy, name) for point in plain]
        return [plain[0] * sx, plain[1] * sy, *plain[2:]]
    if name in LENGTHS and isinstance(plain, int | float):
        return plain * math.sqrt(sx * sy)
    if isinstance(plain, list):
        return [scaled_plain(one, sx, sy) for one in plain]
    if isinstance(plain, dict):
        curves = name == "settings" and "points" in plain
        return {key: value if curves else scaled_plain(value, sx, sy, key) for key, value in plain.items()}
    return plain


@pytest.mark.parametrize("seed", range(5))
def test_a_kit_on_a_picture_of_another_size_agrees_with_the_whole_renderer(seed):
    maker = StackMaker(seed)
    layers = [layer for layer in maker.stack()["layers"][1:] if layer["kind"] != "picture"]
    assert layers
    width, height, strength = 225, 140, 0.7
    rng = np.random.default_rng(seed)
    base = rng.integers(0, 65536, (height, width, 3)).astype(np.uint16)
    kit = parse_kit(kit_of(*layers, size=(WIDTH, HEIGHT)), VOCABULARY)
    stack = added(stack_of(), scaled_kit(kit, (width, height), (width, height), VOCABULARY), (width, height), strength)
    ours = render(make_plan(stack, lambda source: picture_of(base, b"kit")), TileCache(), depth=16).colour / 65535.0
    group = {
        "kind": "group",
        "name": "Kit",
        "opacity": strength,
        "layers": scaled_plain(layers, width / WIDTH, height / HEIGHT),
    }
    theirs = np.clip(Whole({"layers": [BASE, group]}, base / 65535.0, {}).render(), 0, 1)
    assert np.mean(np.abs(ours - theirs).max(-1) <= BLURRED_TOLERANCE) >= SHARE_OF_PIXELS


def test_a_kit_of_its_own_size_at_full_strength_is_the_stack_it_was_kept_from():
    mask = {"start": "closed", "parts": [{"kind": "oval", "centre": [50, 40], "radii": [20, 10]}]}
    layers = [{**UP, "mask": mask}, {"kind": "invert", "name": "Turned", "mask": {"linked": "up"}}]
    kit = parse_kit(kit_of(*layers), VOCABULARY)
    stack = added(stack_of(UP), scaled_kit(kit, (100, 80), (100, 80), VOCABULARY), (100, 80), 1.0)
    group = stack.layers[-1]
    assert (group.kind, group.name, group.opacity) == ("group", "Kit", 1.0)
    assert group.layers[1].mask.linked == group.layers[0].id != "up"
    assert len({layer.id for layer in stack.walk()}) == 5


def test_layers_over_the_sheet_make_a_frame_where_there_is_none():
    over = {
        "kind": "vignette",
        "name": "Held",
        "settings": {"stops": -1, "centre": [50, 40], "radii": [40, 30], "softness": 1},
    }
    kit = parse_kit(kit_of(frame_layers=[over]), VOCABULARY)
    stack = added(stack_of(), scaled_kit(kit, (200, 160), (200, 160), VOCABULARY), (200, 160), 0.5)
    assert stack.frame.size == (200, 160) and stack.frame.steps == (1, 0, 0, 1)
    assert stack.frame.layers[0].layers[0].settings["radii"] == (80, 60)
    assert (
        parse_stack(json.loads(json.dumps({"format": "glyptic-stack", "version": 1, "layers": [BASE]})), VOCABULARY)
        == stack_of()
    )


def test_a_kit_file_is_read_as_it_was_written():
    found = {"kind": "region", "found": "backdrop", "op": "show"}
    kit = read_kit(json.dumps(kit_of({**UP, "mask": {"start": "closed", "parts": [found]}}, note="For Δ")), VOCABULARY)
    text = write_kit(kit, VOCABULARY)
    assert read_kit(text, VOCABULARY) == kit
    [part] = json.loads(text)["layers"][0]["mask"]["parts"]
    assert part["found"] == "backdrop" and "source" not in part


@pytest.mark.parametrize(
    ("plain", "field"),
    [
        ({"format": "glyptic-stack"}, "format"),
        ({**kit_of(UP), "version": 2}, "version"),
        ({**kit_of(UP), "more": 1}, "more"),
        (kit_of(), "layers"),
        ({**kit_of(UP), "size": [0, 5]}, "size"),
        (kit_of({"kind": "wonder"}), "layers[0].kind"),
        (kit_of({**UP, "mask": {"parts": [{"kind": "region", "found": "sky"}]}}), "layers[0].mask.parts[0].found"),
        (
            kit_of(
                {**UP, "mask": {"parts": [{"kind": "oval", "found": "backdrop", "centre": [1, 1], "radii": [1, 1]}]}}
            ),
            "layers[0].mask.parts[0].found",
        ),
        (kit_of({**UP, "mask": {"linked": "elsewhere"}}), "layers[0].mask.linked"),
        (kit_of(UP, frame_layers=[UP]), "frame_layers[0].id"),
        (kit_of({"kind": "picture", "source": "../x.png"}), "layers[0].source"),
    ],
)
def test_a_kit_with_faults_is_refused_by_its_fields(plain, field):
    with pytest.raises(DocumentError) as refused:
        read_kit(json.dumps(plain), VOCABULARY)
    assert field in [fault.field for fault in refused.value.faults]


def test_an_invalid_text_is_no_kit():
    for text in ("", "[1", "[" * 100_000):
        with pytest.raises(DocumentError):
            read_kit(text, VOCABULARY)


def test_on_a_picture_too_small_for_it_a_length_stays_at_the_end_of_its_range_and_that_is_told():
    fine = {"kind": "sharpen", "name": "Fine", "settings": {"amount": 1, "radius": 1.5}}
    told = []
    kit = scaled_kit(parse_kit(kit_of(fine), VOCABULARY), (10, 8), (10, 8), VOCABULARY, told)
    assert kit.layers[0].settings["radius"] == 0.2
    assert told == ["Radius held at 0.2 px, for it goes no further"]
