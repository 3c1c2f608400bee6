"""Colour on the way in and out: profiles honoured in 16 bits, round trips, inks, what is said where nothing is known.

The profiles are made here from the standards' own figures; LittleCMS and colour-science are the oracles."""

import io
import json
import struct

import colour
import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image

from glyptic.cli.main import main
from glyptic.formats import read_picture
from glyptic.formats.icc import adapted, fixed, of_space, profile, xyz
from glyptic.formats.press import press_profile
from glyptic.formats.profiles import describe, is_as, model_of, smallest_for, transformed
from glyptic.formats.targets import Target
from glyptic.formats.wish import Wish
from glyptic.pixels.spaces import DISPLAY_P3, SPACES, SRGB, WIDE, Space, carried, xyz_of
from tests.conftest import colourful

OP_RGB = Space("op", "opRGB", "", "", ((0.64, 0.33), (0.21, 0.71), (0.15, 0.06)))
ROMM = ((0.734699, 0.265301), (0.159597, 0.840403), (0.036598, 0.000105))
D50 = (0.3457, 0.3585)


def made(primaries, white, curve, name):
    """A profile of three primaries and a curve."""
    columns = np.array([xyz_of(*primary) for primary in primaries]).T
    columns = adapted(xyz_of(*white)) @ (columns * np.linalg.solve(columns, xyz_of(*white)))
    tags = {key: xyz(column) for key, column in zip((b"rXYZ", b"gXYZ", b"bXYZ"), columns.T, strict=True)}
    return profile(b"mntr", b"RGB ", b"XYZ ", name, tags | dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), curve))


PROFILES = {
    "srgb": of_space(SRGB),
    "display-p3": of_space(DISPLAY_P3),
    "opRGB": made(OP_RGB.primaries, (0.3127, 0.3290), b"curv\0\0\0\0" + struct.pack(">IH", 1, 563) + b"\0\0", "opRGB"),
    "ROMM": made(
        ROMM, D50, b"para\0\0\0\0" + struct.pack(">HH", 3, 0) + fixed(np.array([1.8, 1, 0, 1 / 16, 0.031248])), "ROMM"
    ),
}  # fmt: skip
THEIR_OP_RGB = colour.RGB_Colourspace(
    "opRGB", OP_RGB.primaries, (0.3127, 0.3290), "D65", cctf_decoding=lambda values: np.power(values, 563 / 256)
)
"""By IEC 61966-2-5."""
HOLDS = {"srgb": SRGB, "display-p3": DISPLAY_P3, "opRGB": WIDE, "ROMM": WIDE}


def tiff(array, icc, **more):
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, array, photometric=more.pop("photometric", "rgb"), iccprofile=icc or None, **more)
    return buffer.getvalue()


@pytest.mark.parametrize("name", PROFILES)
def test_a_picture_opens_in_the_smallest_space_that_holds_its_colours(name):
    assert smallest_for(PROFILES[name]) is HOLDS[name]
    decoded = read_picture(tiff(np.moveaxis(colourful(40, 30), 0, 2), PROFILES[name]))
    assert decoded.space is HOLDS[name] and not decoded.assumed


@pytest.mark.parametrize("name", ["opRGB", "ROMM"])
def test_colours_of_a_profile_are_those_littlecms_and_colour_science_make_of_them(name):
    codes = np.moveaxis(colourful(80, 60), 0, 2)
    decoded = np.moveaxis(read_picture(tiff(codes, PROFILES[name])).codes, 0, 2) / 65535
    theirs = transformed((codes / 65535).astype(np.float32), PROFILES[name], of_space(WIDE), ("rgb", "rgb"))
    assert np.abs(decoded - np.clip(theirs, 0, 1)).max() < 2e-4
    standard = THEIR_OP_RGB if name == "opRGB" else "ROMM RGB"
    linear = colour.RGB_to_RGB(codes / 65535, standard, "ITU-R BT.2020", "Bradford", apply_cctf_decoding=True)
    wanted = np.clip(colour.cctf_encoding(np.clip(linear, 0, 1), function="sRGB"), 0, 1)
    assert np.abs(decoded - wanted).max() < 2e-3, "the curve is cut to a few digits in a profile"


@pytest.mark.parametrize("depth", [8, 16])
@pytest.mark.parametrize("name", PROFILES)
def test_a_picture_goes_out_to_its_own_profile_as_it_came(tmp_path, name, depth):
    codes = np.moveaxis(colourful(60, 40), 0, 2)
    array = codes if depth == 16 else (codes >> 8).astype(np.uint8)
    (tmp_path / "in.tif").write_bytes(tiff(array, PROFILES[name]))
    base = {"kind": "picture", "source": "in.tif"}
    stack = {"format": "glyptic-stack", "version": 1, "working_space": HOLDS[name].name, "layers": [base]}
    (tmp_path / "stack.json").write_text(json.dumps(stack))
    out = tmp_path / "out.tif"
    assert main(["render", str(tmp_path / "stack.json"), str(out), "--depth", str(depth), "--profile", "own"]) == 0
    with tifffile.TiffFile(out) as written:
        assert written.pages[0].tags[34675].value == PROFILES[name]
        assert np.array_equal(written.asarray(), array)


@pytest.mark.parametrize("name", PROFILES)
def test_worked_on_colours_go_out_to_a_profile_within_a_code_of_16_bits(name):
    """Middling colours, a stop from either end: near black the curves of some spaces are steeper than 16 bits."""
    rng = np.random.default_rng(4)
    codes = rng.integers(16_000, 50_000, (40, 50, 3)).astype(np.uint16)
    space = HOLDS[name]
    decoded = read_picture(tiff(codes, PROFILES[name]))
    px = (decoded.codes / 65535).astype(np.float32)
    back = Target(PROFILES[name], black_point=False).codes_from(space)(px, 16, None)
    held = ((px > 1e-3) & (px < 0.999)).all(0)
    assert held.mean() > 0.5
    assert np.abs(back.astype(int) - codes)[held].max() <= (0 if name in ("srgb", "display-p3") else 2)


def test_what_the_file_does_not_say_is_taken_as_asked_and_said():
    plain = tiff(np.moveaxis(colourful(40, 30), 0, 2), b"")
    usual = read_picture(plain)
    assert usual.assumed and usual.space is SRGB and usual.metadata.notes == ()
    in_wide = read_picture(plain, wish=Wish(WIDE))
    assert np.array_equal(in_wide.codes, usual.codes), "values of the plate's own space"
    meant = read_picture(plain, wish=Wish(WIDE, assumed=SRGB))
    expected = np.floor(carried(usual.codes / 65535, SRGB, WIDE) * 65535 + 0.5)
    assert np.abs(meant.codes - expected).max() <= 2 and "Taken as sRGB" in meant.metadata.notes[0]


def test_inks_are_read_by_their_profile_and_by_the_practice_press_where_there_is_none():
    rng = np.random.default_rng(1)
    inks = rng.integers(0, 256, (20, 30, 4)).astype(np.uint8)
    decoded = read_picture(tiff(inks, press_profile(), photometric="separated"))
    theirs = transformed((inks / 255).astype(np.float32), press_profile(), of_space(decoded.space), ("cmyk", "rgb"))
    assert np.abs(np.moveaxis(decoded.codes, 0, 2) / 65535 - np.clip(theirs, 0, 1)).max() < 1e-3
    without = read_picture(tiff(inks, b"", photometric="separated"))
    assert np.array_equal(without.codes, decoded.codes) and "practice press" in without.metadata.notes[0]
    buffer = io.BytesIO()
    Image.fromarray(inks, mode="CMYK").save(buffer, "JPEG", quality=100, icc_profile=press_profile())
    assert np.abs(read_picture(buffer.getvalue()).codes.astype(int) - decoded.codes).mean() < 4 * 257


def test_the_practice_press_is_a_press():
    found = press_profile()
    assert model_of(found) == "cmyk" and describe(found) == "Practice press"
    grey = np.linspace(0, 1, 12, dtype=np.float32)[:, None].repeat(3, 1)[None]
    inks = transformed(grey, of_space(SRGB), found, ("rgb", "cmyk"))
    assert inks.sum(-1).max() <= 3.15 and (np.diff(inks.sum(-1)[0]) < 0.02).all()
    seen = transformed(inks, found, of_space(SRGB), ("cmyk", "rgb"))
    assert np.abs(seen - grey)[0, 4:].max() < 0.02, "greys it can print come out as they went in"


@pytest.mark.parametrize("space", SPACES.values(), ids=SPACES)
def test_the_profile_that_is_embedded_is_the_space(space):
    assert is_as(of_space(space), space) and describe(of_space(space)) == space.title
    px = (colourful(50, 40) / 65535).astype(np.float32)
    there = imagecodecs.cms_transform(
        np.ascontiguousarray(np.moveaxis(px, 0, 2)), of_space(space), of_space(WIDE), colorspace="rgb",
        outcolorspace="rgb", outdtype="float32", intent=1,
    )  # fmt: skip
    ours = np.moveaxis(carried(px, space, WIDE), 0, 2)
    inside = (ours > 1e-3).all(-1)
    assert np.abs(there - ours)[inside].max() < 2e-4
