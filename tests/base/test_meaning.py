"""Other code, other keys: nothing made by one kernel is shown as what another would make."""

import shutil

import pytest

from glyptic.base.meaning import DECIDES_LEVELS, DECIDES_PIXELS, PACKAGE, digest_of_sources, of_pixels
from glyptic.engine import reader
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from tests.conftest import stack_of

STROKE = {"to": 1, "size": 30, "hardness": 0, "opacity": 0.5, "flow": 0.5, "points": [[10, 10, 1], [90, 60, 1]]}


@pytest.fixture
def package(tmp_path):
    """A copy of the package's sources, to be changed."""
    copy = tmp_path / "glyptic"
    shutil.copytree(PACKAGE, copy, ignore=shutil.ignore_patterns("__pycache__", "static", "plates", "*.jpg"))
    return copy


@pytest.mark.parametrize("kernel", ["pixels/transfer.py", "adjust/exposure.py", "brush/painting.py", "engine/steps.py"])
def test_a_changed_kernel_is_other_code(package, kernel):
    before = digest_of_sources(package, DECIDES_PIXELS)
    assert before == of_pixels()
    (package / kernel).write_text((package / kernel).read_text().replace(" + ", " - ", 1))
    assert digest_of_sources(package, DECIDES_PIXELS) != before


def test_levels_go_by_what_decodes_and_reduces_only(package):
    before = digest_of_sources(package, DECIDES_LEVELS)
    (package / "adjust" / "exposure.py").write_text("other")
    assert digest_of_sources(package, DECIDES_LEVELS) == before
    (package / "formats" / "tiff.py").write_text("other")
    assert digest_of_sources(package, DECIDES_LEVELS) != before


def every_key(picture):
    """The keys of what a plate shows and of what was painted on it."""
    layers = (
        {"kind": "grey", "strokes": [STROKE]},
        {"kind": "exposure", "settings": {"stops": 1}, "mask": {"feather": 3}},
    )
    plan = make_plan(stack_of(*layers), lambda source: picture)
    eye = plan.reader(TileCache(), 0)
    return {eye.key(node, 0, 0) for node in (plan.base, plan.finished, *plan.painted, *plan.masks.values())}


def test_every_key_changes_with_the_code(picture, monkeypatch):
    ours = every_key(picture)
    monkeypatch.setattr(reader, "MEANING", b"of other code")
    assert not ours & every_key(picture)
