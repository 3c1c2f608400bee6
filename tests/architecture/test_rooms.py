"""What the import contracts miss: names, sizes, what a room may contain, what every member must say of itself."""

import ast
import importlib.util
import json
import re
from pathlib import Path

import pytest

from glyptic.actions.warm import everything
from glyptic.adjust import KINDS
from glyptic.document.values import WORKING_SPACES
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.masks import PARTS
from glyptic.params import Group
from glyptic.pixels.spaces import SPACES

ROOT = Path(__file__).resolve().parents[2]
PACKAGE = ROOT / "src" / "glyptic"
MODULES = sorted(PACKAGE.rglob("*.py"))
ROOMS = [
    "base",
    "params",
    "document",
    "pixels",
    "blend",
    "adjust",
    "brush",
    "masks",
    "analysis",
    "engine",
    "checks",
    "decoders",
    "formats",
    "store",
    "actions",
    "web",
    "demo",
    "cli",
]
TEMPLATES = sorted((PACKAGE / "web" / "templates").rglob("*.html"))
SCRIPTS = sorted((PACKAGE / "web" / "static" / "js").rglob("*.js"))
LONGEST_FILE = 350


def test_the_rooms_are_those_of_the_design():
    assert {p.name for p in PACKAGE.iterdir() if p.is_dir() and p.name != "__pycache__"} == set(ROOMS)


@pytest.mark.parametrize("path", MODULES, ids=lambda p: str(p.relative_to(PACKAGE)))
def test_a_module_says_what_it_is_for_and_stays_small(path):
    text = path.read_text()
    tree = ast.parse(text)
    assert not text or ast.get_docstring(tree), "needs a docstring"
    assert len(text.splitlines()) <= LONGEST_FILE
    assert path.stem not in ("utils", "helpers", "common", "misc")
    assert not any(isinstance(n, ast.ImportFrom) and n.names[0].name == "*" for n in ast.walk(tree))


def public_classes():
    for path in MODULES:
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                yield f"{path.relative_to(PACKAGE)}:{node.name}", node


@pytest.mark.parametrize(("name", "node"), list(public_classes()), ids=lambda v: v if isinstance(v, str) else "")
def test_a_public_class_has_a_docstring(name, node):
    assert ast.get_docstring(node), name


@pytest.mark.parametrize("path", [*TEMPLATES, *SCRIPTS], ids=lambda p: p.name)
def test_pages_keep_to_the_policy(path):
    text = path.read_text()
    assert not re.search(r"\sstyle=|<style|javascript:|\son(click|load|input|change)=|hx-on", text)
    assert "eval(" not in text
    if path.suffix == ".js":
        assert not re.search(r"[\"'`]\s*<\w+[^>]*>", text), "no HTML inside strings"


def declared(schema, path=""):
    for name, param in schema.params.items():
        yield f"{path}{name}", param
        if isinstance(param, Group):
            yield from declared(param.schema, f"{path}{name}.")


@pytest.mark.parametrize("member", [*KINDS.values(), *PARTS.values()], ids=lambda m: m.name)
def test_every_member_declares_itself(member):
    assert member.__class__.__doc__ and member.title and member.summary.endswith(".")
    for name, param in declared(member.schema):
        assert param.label, name
        assert param.help or isinstance(param, Group), name


def test_every_kind_can_be_drawn_on_the_desk_and_on_its_card():
    emblems = {p.stem for p in (PACKAGE / "web/templates/layer/emblems").glob("*.html")}
    assert set(VOCABULARY.kinds) <= emblems


def test_warming_compiles_every_kind_and_part():
    text = json.dumps(everything())
    for name in {*KINDS, *PARTS} - {"group", "region"}:
        assert f'"kind": "{name}"' in text, name


def test_documents_name_every_kind_and_part():
    spec = importlib.util.spec_from_file_location("make_docs", ROOT / "scripts" / "make_docs.py")
    make_docs = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(make_docs)
    assert (ROOT / "docs" / "kinds.md").read_text() == make_docs.text(), "run scripts/make_docs.py"
    assert make_docs.KEYS_PAGE.read_text() == make_docs.keys(), "run scripts/make_docs.py"
    assert make_docs.PAGE_TYPES.read_text() == make_docs.types_of_the_page(), "run scripts/make_docs.py"
    pages = ROOT / "docs" / "adjustments"
    assert (pages / "README.md").read_text() == make_docs.index(), "run scripts/make_docs.py"
    for kind in KINDS.values():
        assert (pages / f"{kind.name}.md").read_text() == make_docs.page(kind), "run scripts/make_docs.py"
        assert not make_docs.sampled(kind) or (pages / f"{kind.name}.jpg").stat().st_size > 1000, kind.name
    assert {path.stem for path in pages.glob("*.md")} == {*KINDS, "README"}
    told = {path.name: path.read_text() for path in make_docs.CHECK_PAGES.glob("*.md")}
    assert told == make_docs.check_pages(), "run scripts/make_docs.py"
    told = {path.name: path.read_text() for path in make_docs.KIT_PAGES.glob("*.md")}
    assert told == make_docs.kit_pages.pages(), "run scripts/make_docs.py"


def test_the_lock_files_pin_exactly():
    for name in ("runtime", "dev"):
        lines = (ROOT / "requirements" / f"{name}.txt").read_text().split()
        assert lines and all(re.fullmatch(r"[\w.-]+==[\w.]+", line) for line in lines)


def test_vendored_files_come_from_the_lock():
    copied = re.findall(r'": "([^"]+)"', (ROOT / "vendor" / "copy.py").read_text())
    assert sorted(copied) == sorted(
        p.name for p in (PACKAGE / "web/static/vendor").iterdir() if not p.name.endswith(".d.ts")
    )


PRIMARIES = re.compile(
    r"0\.2126|0\.7152|0\.0722|0\.4124|0\.3576|0\.1804|0\.4122|0\.5363|4\.0767|0\.64, ?0\.33|0\.30?, ?0\.60?\b|0\.15, ?0\.06"
)
"""Chromaticities of sRGB's primaries, and the numbers that follow from them."""


def test_nothing_but_the_spaces_knows_a_primary():
    told = {path.relative_to(PACKAGE).as_posix() for path in MODULES if PRIMARIES.search(path.read_text())}
    assert told == {"pixels/spaces.py"}


def test_opencv_is_asked_for_colours_only_where_they_were_made_srgb():
    asks = {path.relative_to(PACKAGE).as_posix() for path in MODULES if "cv2.COLOR_" in path.read_text()}
    assert asks == {"analysis/regions.py"}


def test_working_spaces_are_named_once():
    assert tuple(SPACES) == WORKING_SPACES
