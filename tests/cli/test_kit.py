"""`glyptic kit`: one file for each picture, the same bytes of pixels whatever the jobs, faults by picture, resumable."""

from __future__ import annotations

import json

import numpy as np
import pytest

from glyptic.cli.main import main
from glyptic.formats import read_picture
from tests.conftest import colourful, png_bytes
from tests.oracle.formulas import lin

CURVE = {"id": "c", "kind": "curves", "settings": {"points": {"rgb": [[0, 0], [0.5, 0.4], [1, 1]]}}}
OVAL = {"kind": "oval", "centre": [100, 90], "radii": [60, 50], "softness": 0.5}
KIT = {
    "format": "glyptic-kit",
    "version": 1,
    "name": "Burned",
    "size": [200, 180],
    "layers": [{**CURVE, "mask": {"start": "closed", "parts": [OVAL]}}],
}


def eight(width, height, seed):
    return np.moveaxis(colourful(width, height, seed) >> 8, 0, 2).astype(np.uint8)


@pytest.fixture
def folder(tmp_path):
    for i, size in enumerate(((200, 180), (300, 280), (120, 90))):
        (tmp_path / f"p{i}.png").write_bytes(png_bytes(eight(*size, i)))
    (tmp_path / "kit.json").write_text(json.dumps(KIT))
    return tmp_path


def run(folder, *options, pictures=("p0.png", "p1.png", "p2.png"), into="out"):
    return main(
        [
            "kit",
            str(folder / "kit.json"),
            *(str(folder / name) for name in pictures),
            "--into",
            str(folder / into),
            *options,
        ]
    )


def codes(folder, name, into="out"):
    return read_picture(folder / into / name).codes


def test_each_picture_gets_its_file_and_its_stack_renders_to_the_same(folder):
    assert run(folder, "--stacks", "--strength", "0.8", "--depth", "16") == 0
    for name in ("p0", "p1", "p2"):
        stack = folder / "out" / f"{name}.json"
        assert main(["render", str(stack), str(folder / "again.png"), "--depth", "16"]) == 0
        assert np.array_equal(read_picture(folder / "again.png").codes, codes(folder, f"{name}.png"))
        assert json.loads(stack.read_text())["layers"][-1]["opacity"] == 0.8


def test_the_jobs_change_no_pixel(folder):
    assert run(folder, into="one") == 0 and run(folder, "--jobs", "2", into="two") == 0
    assert all(np.array_equal(codes(folder, f"p{i}.png", "one"), codes(folder, f"p{i}.png", "two")) for i in range(3))


def test_a_picture_that_fails_is_named_and_the_others_go_on(folder, capsys):
    (folder / "p1.png").write_bytes(b"no picture at all")
    assert run(folder) == 1
    assert "p1.png" in capsys.readouterr().err
    assert {path.name for path in (folder / "out").iterdir()} == {"p0.png", "p2.png"}


def test_again_writes_only_what_is_missing_or_older(folder):
    assert run(folder) == 0
    kept = {path.name: path.stat().st_mtime_ns for path in (folder / "out").iterdir()}
    (folder / "out" / "p0.png").unlink()
    assert run(folder, "--again") == 0
    now = {path.name: path.stat().st_mtime_ns for path in (folder / "out").iterdir()}
    assert now["p1.png"] == kept["p1.png"] and now["p0.png"] != kept["p0.png"]


def test_the_longest_edge_is_kept_to_and_nothing_is_enlarged(folder):
    assert run(folder, "--long-edge", "150") == 0
    assert [codes(folder, f"p{i}.png").shape[1:] for i in range(3)] == [(135, 150), (140, 150), (90, 120)]
    assert run(folder, into="whole") == 0
    small, whole = (np.asarray(codes(folder, "p1.png", where), float) / 65535 for where in ("out", "whole"))
    assert np.abs(np.mean(lin(small)) - np.mean(lin(whole))) < 2e-3, "light is kept"
    clear = np.dstack([eight(200, 180, 3), np.tile(np.r_[np.zeros(100), np.full(100, 255)], (180, 1)).astype(np.uint8)])
    (folder / "clear.png").write_bytes(png_bytes(clear))
    assert run(folder, "--long-edge", "100", pictures=("clear.png",)) == 0
    alpha = read_picture(folder / "out" / "clear.png").alpha[0]
    assert alpha.shape == (90, 100) and alpha[:, :46].max() == 0 and alpha[:, 54:].min() == 65535


def test_pictures_of_one_name_get_files_of_their_own(folder):
    (folder / "more").mkdir()
    (folder / "more" / "p0.png").write_bytes(png_bytes(eight(50, 40, 9)))
    assert run(folder, pictures=("p0.png", "more/p0.png")) == 0
    assert codes(folder, "p0-2.png").shape[1:] == (40, 50)


def test_a_backdrop_is_found_in_each_picture_and_a_poor_find_is_noted(folder, capsys):
    found = {**CURVE, "mask": {"start": "closed", "parts": [{"kind": "region", "found": "backdrop"}]}}
    (folder / "kit.json").write_text(json.dumps({**KIT, "layers": [found]}))
    y, x = np.mgrid[0:180, 0:200]
    body = np.hypot((x - 100) / 50, (y - 100) / 60) < 1
    plain = np.where(body[..., None], [60, 40, 30], [180, 180, 185]).astype(np.uint8)
    (folder / "p0.png").write_bytes(png_bytes(plain))
    assert run(folder, "--stacks", pictures=("p0.png",)) == 0
    done = codes(folder, "p0.png") >> 8
    assert (done[:, 100, 100] == [60, 40, 30]).all() and done[0, 10, 10] < 180
    assert main(["render", str(folder / "out" / "p0.json"), str(folder / "again.png")]) == 0
    assert "note" not in capsys.readouterr().err, "it keeps to its edge"
    inner = {"id": "c", "kind": "exposure", "settings": {"stops": 2}}
    swollen = {"kind": "group", "name": "Swollen", "layers": [inner], "mask": {**found["mask"], "grow": 12}}
    (folder / "kit.json").write_text(json.dumps({**KIT, "layers": [swollen]}))
    assert run(folder, pictures=("p0.png",)) == 0
    assert "‘Swollen’ bleeds over strong edges" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("options", "field"),
    [
        (("--strength", "2"), "strength"),
        (("--format", "gif"), "format"),
        (("--jobs", "0"), "jobs"),
        (("--format", "jpg", "--depth", "16"), "depth"),
    ],
)
def test_nothing_is_begun_where_an_option_is_wrong(folder, options, field, capsys):
    assert run(folder, *options) == 2
    assert field in capsys.readouterr().err and not list((folder / "out").glob("*.*"))


def test_a_kit_with_faults_is_refused_whole(folder, capsys):
    (folder / "kit.json").write_text(
        json.dumps({**KIT, "layers": [{"kind": "wonder"}, {"kind": "curves", "opacity": 3}]})
    )
    assert run(folder) == 2
    said = capsys.readouterr().err
    assert "kit.layers[0].kind" in said and "kit.layers[1].opacity" in said


def test_a_delivery_says_how_the_files_are_written_and_single_options_say_otherwise(folder, capsys):
    delivery = {"name": "Small", "format": "jpg", "quality": 80, "long_edge": 60, "pattern": "{number} {shoot}"}
    (folder / "small.json").write_text(json.dumps(delivery))
    assert run(folder, "--delivery", str(folder / "small.json"), pictures=("p0.png", "p1.png")) == 0
    shoot = folder.name
    assert sorted(path.name for path in (folder / "out").iterdir()) == [f"001 {shoot}.jpg", f"002 {shoot}.jpg"]
    assert codes(folder, f"002 {shoot}.jpg").shape[1:] == (56, 60)
    assert (
        run(folder, "--delivery", str(folder / "small.json"), "--format", "png", pictures=("p0.png",), into="other")
        == 0
    )
    assert [path.suffix for path in (folder / "other").iterdir()] == [".png"]
    (folder / "small.json").write_text(json.dumps({**delivery, "quality": 0, "wonder": 1}))
    assert run(folder, "--delivery", str(folder / "small.json"), into="third") == 2
    said = capsys.readouterr().err
    assert "delivery.quality" in said and "delivery.wonder" in said and not (folder / "third").exists()


def test_a_cluster_that_is_not_there_is_told_and_nothing_is_begun(folder, capsys, monkeypatch):
    monkeypatch.setattr("glyptic.actions.runs.cluster.PATIENCE", 1)
    assert run(folder, "--cluster", "tcp://127.0.0.1:9") == 2
    assert "no scheduler" in capsys.readouterr().err and not (folder / "out").exists()
