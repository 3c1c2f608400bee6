"""`glyptic render`: the same pixels as the core, faults by field and status 2, no half files."""

import json

import numpy as np
import pytest

from glyptic.cli.main import main
from glyptic.formats import read_picture
from tests.conftest import colourful, finished, picture_of, png_bytes

CURVE = {"id": "c", "kind": "curves", "settings": {"points": {"rgb": [[0, 0], [0.5, 0.4], [1, 1]]}}}
UP = {"id": "u", "kind": "exposure", "settings": {"stops": 1}}


@pytest.fixture
def folder(tmp_path):
    eight = np.moveaxis(colourful(300, 280) >> 8, 0, 2).astype(np.uint8)
    (tmp_path / "base.png").write_bytes(png_bytes(eight))
    return tmp_path


def write(folder, *layers, **changes):
    base = {"id": "base", "kind": "picture", "source": "base.png"}
    path = folder / "stack.json"
    path.write_text(json.dumps({"format": "glyptic-stack", "version": 1, "layers": [base, *layers], **changes}))
    return path


def run(folder, *options, out="out.png"):
    status = main(["render", str(folder / "stack.json"), str(folder / out), *options])
    return status, (read_picture((folder / out).read_bytes()) if status == 0 else None)


def expected(*layers, level=0):
    codes = (colourful(300, 280) >> 8).astype(np.uint16) * np.uint16(257)
    return finished(picture_of(codes), *layers, level=level)


@pytest.mark.parametrize(("out", "depth"), [("out.png", 8), ("out.png", 16), ("out.tif", 16), ("out.tiff", 8)])
def test_renders_what_the_core_renders(folder, out, depth):
    write(folder, CURVE, UP)
    status, decoded = run(folder, "--depth", str(depth), out=out)
    top = 255 if depth == 8 else 65535
    wanted = np.floor(np.clip(expected(CURVE, UP), 0, 1) * top + 0.5)
    assert status == 0 and decoded.depth == depth
    assert np.abs(decoded.codes / (257 if depth == 8 else 1) - wanted).max() <= 1


@pytest.mark.parametrize("depth", ["8", "16"])
def test_neutral_layers_are_bit_exact(folder, depth):
    write(folder)
    _, plain = run(folder, "--depth", depth)
    write(
        folder,
        {"kind": "curves"},
        {"kind": "grey"},
        {"kind": "group", "layers": [{"kind": "levels"}]},
        {**UP, "opacity": 0},
    )
    _, neutral = run(folder, "--depth", depth)
    assert np.array_equal(plain.codes, neutral.codes)


def test_region_level_and_until(folder):
    write(folder, CURVE, UP)
    _, whole = run(folder, "--level", "1")
    assert whole.codes.shape == (3, 140, 150)
    _, part = run(folder, "--level", "1", "--region", "31,40,100,51")
    assert np.array_equal(part.codes, whole.codes[:, 20:46, 15:66])
    _, corner = run(folder, "--level", "1", "--region", "-31,-40,62,81")
    assert np.array_equal(corner.codes, whole.codes[:, :21, :16])
    _, early = run(folder, "--until", "c")
    write(folder, CURVE)
    assert np.array_equal(early.codes, run(folder)[1].codes)


@pytest.mark.parametrize(
    ("options", "field"),
    [
        (("--region", "900,900,5,5"), "region"), (("--region", "0,0,0,5"), "region"), (("--region", "a"), "region"),
        (("--until", "nobody"), "until"), (("--depth", "12"), "depth"), (("--quality", "0"), "quality"),
        (("--level", "-1"), "level"), (("--level", "x"), "level"),
    ],
)  # fmt: skip
def test_wrong_options_are_refused_by_name(folder, capsys, options, field):
    write(folder, CURVE)
    assert run(folder, *options)[0] == 2
    assert field in capsys.readouterr().err
    assert not (folder / "out.png").exists()


@pytest.mark.parametrize("out", ["out.gif", "out", "nowhere/out.png"])
def test_an_output_that_cannot_be_is_refused(folder, capsys, out):
    write(folder)
    assert run(folder, out=out)[0] == 2 and "output" in capsys.readouterr().err


def test_sixteen_bits_do_not_fit_a_jpeg(folder, capsys):
    write(folder)
    assert run(folder, "--depth", "16", out="out.jpg")[0] == 2 and "JPEG" in capsys.readouterr().err


def test_every_fault_is_a_line_and_no_file_is_left(folder, capsys):
    bad = {"kind": "curves", "settings": {"points": {"rgb": [[0, 0], [0.5, 2], [0.4, 1]]}}}
    write(folder, bad, {"kind": "fill"}, {"kind": "picture", "source": "missing.png"})
    assert run(folder)[0] == 2
    lines = capsys.readouterr().err.splitlines()
    assert [line.split(":")[0] for line in lines] == [
        "layers[1].settings.points.rgb[1]", "layers[1].settings.points.rgb[2]", "layers[2].settings.colour",
    ]  # fmt: skip
    assert sorted(p.name for p in folder.iterdir()) == ["base.png", "stack.json"]


def test_missing_or_unfit_pictures_are_named(folder, capsys):
    (folder / "small.png").write_bytes(png_bytes(np.zeros((5, 5), np.uint8)))
    (folder / "colour.png").write_bytes((folder / "base.png").read_bytes())
    parts = [{"kind": "raster", "source": name} for name in ("small.png", "colour.png", "gone.png")]
    write(folder, {**UP, "mask": {"parts": parts}})
    assert run(folder)[0] == 2
    lines = capsys.readouterr().err.splitlines()
    assert [line.split(":")[0] for line in lines] == [f"layers[1].mask.parts[{i}].source" for i in range(3)]


def test_a_link_out_of_the_folder_is_refused(folder, capsys):
    (folder / "inner").mkdir()
    (folder / "inner" / "link.png").symlink_to(folder / "base.png")
    inner = {"format": "glyptic-stack", "version": 1, "layers": [{"kind": "picture", "source": "link.png"}]}
    (folder / "inner" / "stack.json").write_text(json.dumps(inner))
    assert run(folder / "inner")[0] == 2 and "outside" in capsys.readouterr().err


def test_an_old_output_stays_when_the_new_one_fails(folder):
    write(folder)
    run(folder)
    before = (folder / "out.png").read_bytes()
    write(folder, {"kind": "fill"})
    assert run(folder)[0] == 2 and (folder / "out.png").read_bytes() == before
