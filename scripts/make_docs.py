"""Write docs/kinds.md, and a page with a picture for every kind of layer, from their declarations."""

import inspect
import json
import sys
from pathlib import Path

import numpy as np

from glyptic.actions.kits.files import Applied, opened_picture
from glyptic.adjust import KINDS
from glyptic.adjust.kind import PURPOSES
from glyptic.checks import CHECKS
from glyptic.document import fields
from glyptic.document.carriage import DEEPEST_GROUP
from glyptic.document.codec import parse_stack
from glyptic.document.notes import LISTS, SUBJECT
from glyptic.document.values import FORMAT, VERSION
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.render import render
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats.jpeg import encode_small
from glyptic.formats.reading import read_picture
from glyptic.masks import PARTS
from glyptic.params import Choice, CurvePoints, Group, Polygon, Real, Schema
from glyptic.params.geometry import FARTHEST, LEAST_APART
from glyptic.pixels.pyramid import Picture, Pyramid
from glyptic.web.declared import types_of_the_page
from glyptic.web.keys import key_list

sys.path.insert(0, str(Path(__file__).parent))
import kit_pages

ROOT = Path(__file__).resolve().parents[1]
TARGET = ROOT / "docs" / "kinds.md"
PAGES = ROOT / "docs" / "adjustments"
CHECK_PAGES = ROOT / "docs" / "checks"
KIT_PAGES = ROOT / "docs" / "kits"
KEYS_PAGE = ROOT / "docs" / "keys.md"
PAGE_TYPES = ROOT / "src" / "glyptic" / "web" / "static" / "js" / "core" / "declared.d.ts"
PLATES = ROOT / "src" / "glyptic" / "demo" / "plates"
PLATE = "vase-trio.jpg"
LEVEL, QUALITY, GAP = 3, 84, 6
SIZE = (3000, 2000)
"""Of the plate, in pixels."""
HEAD = """# Kinds of layers and mask parts

Made by `scripts/make_docs.py` from the declarations in `src/glyptic/adjust` and `src/glyptic/masks`; a test fails
where it is out of date. The exact meaning of every number is in the contract of the computation.
"""


NOTED = """Beside `layers`, a stack file may hold lists of sets, pins and findings left as they are, and the subject.
None of them touches a pixel.
"""
ON_CHECKS = """K looks at the work as it is. A finding says which layer does it (found by leaving layers out, where the
whole work is at fault), shows its place, and where it can be done offers to mend it by a step like any other. One that
is meant so is left as it is, with a word why, until what it speaks of changes. Work is measured as a screen shows it at
fit; noise and banding in patches of full size.
"""
BOUNDS = f"""Beyond these nothing could be drawn; each is checked by its field when it comes in.

| | at most |
| --- | --- |
| a place, across or down | ±{FARTHEST:,.0f} px |
| layers of a stack, besides the base | {fields.MOST_LAYERS} |
| groups in each other | {DEEPEST_GROUP} |
| parts of a mask | {fields.MOST_PARTS} |
| strokes of a painting | {fields.MOST_STROKES:,} |
| points of a stroke | {fields.MOST_POINTS:,} |
| dabs of a stroke | {fields.MOST_DABS:,} |
| points of an outline | {Polygon().most:,} |
| points of a curve | {CurvePoints().most}, {LEAST_APART:g} apart or more |
"""


def values_of(param: object) -> str:
    if isinstance(param, Choice):
        return ", ".join(f"`{option}`" for option in param.options)
    if isinstance(param, Real):
        low = f"above {param.above:g}" if param.above is not None else f"{param.low:g}"
        return f"{low} to {param.high:g}"
    return type(param).__name__.lower()


def default_of(param: object) -> str:
    if param.required:
        return "required"
    if isinstance(param, Group):
        return "none" if param.default is None else "neutral"
    return f"`{str(param.default).lower()}`" if isinstance(param.default, bool) else f"`{param.default}`"


def rows(schema: Schema, path: str = ""):
    for name, param in schema.params.items():
        unit = getattr(param, "unit", "")
        yield f"| `{path}{name}` | {values_of(param)} | {unit} | {default_of(param)} | {param.help or param.label} |"
        if isinstance(param, Group):
            yield from rows(param.schema, f"{path}{name}.")


def table(schema: Schema) -> str:
    if not schema.params:
        return "No settings of its own.\n"
    head = "| field | values | shown in | default | meaning |\n| --- | --- | --- | --- | --- |\n"
    return head + "\n".join(rows(schema)) + "\n"


def member(thing: object) -> str:
    doc = " ".join((type(thing).__doc__ or "").split())
    return f"### {thing.title}\n\n`{thing.name}`. {thing.summary}\n\n{doc}\n\n{table(thing.schema)}"


def text() -> str:
    parts = [HEAD, "## Layers\n", *(member(kind) for kind in KINDS.values())]
    parts += ["## Every mask\n", table(fields.MASK_HEAD), "## Mask parts\n", table(fields.PART_HEAD)]
    parts += [member(part) for part in PARTS.values()]
    parts += ["## What is noted\n", NOTED]
    parts += [f"### `{name}`\n\nAt most {most}.\n\n{table(schema)}" for name, (schema, most) in LISTS.items()]
    parts += [f"### `subject`\n\n{table(SUBJECT)}"]
    parts += ["## Strokes\n", table(fields.STROKE_HEAD), "## Bounds\n", BOUNDS]
    return "\n".join(parts)


def sources_of(kind: object) -> str:
    """What the kind's module says of itself and of its sources."""
    return inspect.cleandoc(inspect.getmodule(type(kind)).__doc__ or "")


def sampled(kind: object) -> dict:
    """The layer the page's picture shows, as the stack file has it; empty for a kind that cannot be shown alone."""
    fields_of = kind.sampled(*SIZE)
    return {"kind": kind.name, **fields_of} if fields_of else {}


def page(kind: object) -> str:
    """The page of a kind."""
    parts = [f"# {kind.title}\n", f"{kind.summary}\n"]
    layer = sampled(kind)
    if layer:
        shown = json.dumps(layer, ensure_ascii=False)
        parts += [f"![Before, and after]({kind.name}.jpg)\n", f"Before, and after `{shown}`\n"]
    parts += ["## What it does\n", " ".join((type(kind).__doc__ or "").split()) + "\n", f"{sources_of(kind)}\n"]
    parts += ["## Settings\n", f"Kind `{kind.name}` in the stack file. Every number is checked when it is read.\n"]
    parts.append(table(kind.schema))
    helps = [f"- **{aid.title}**: {aid.help}" for aid in (*kind.picks, *kind.autos)]
    if helps:
        parts += ["## Helps\n", "\n".join(dict.fromkeys(helps)) + "\n"]
    return "\n".join(parts)


def index() -> str:
    """The list of the pages, by purpose."""
    parts = [
        "# Adjustments and other layers\n",
        "Made by `scripts/make_docs.py` from the declarations; a test fails where a page is missing or out of date.\n"
        "All pictures are of the demo plate *Vase trio*.\n",
    ]
    for purpose in PURPOSES:
        found = sorted((k for k in KINDS.values() if k.purpose == purpose), key=lambda kind: kind.rank)
        parts += [f"## {purpose}\n", "\n".join(f"- [{k.title}]({k.name}.md): {k.summary}" for k in found) + "\n"]
    return "\n".join(parts)


def check_page(check: object, cases: list) -> str:
    """The page of a check: what it looks for, from when on, and how it does on plates made for it."""
    limit = check.threshold
    span = f"{limit.low * limit.factor:g} to {limit.high * limit.factor:g} {limit.unit}".strip()
    start = f"{limit.default * limit.factor:g} {limit.unit}".strip()
    parts = [f"# {check.title}\n", f"{check.reason}\n", "## What it looks for\n", f"{sources_of(check)}\n"]
    parts += [" ".join((type(check).__doc__ or "").split()) + "\n", "## From when on\n"]
    parts += [f"{limit.label}: {limit.help} {start} unless changed, {span}.\n", "## How it does\n"]
    found, missed, clean = (
        [case.says for case in cases if case.check == check.name and pick(case)]
        for pick in (lambda c: c.has and not c.missed, lambda c: c.missed, lambda c: not c.has)
    )
    parts.append("On plates made for it (`tests/checks/made.py`; a test holds this):\n\n| plate | |\n| --- | --- |")
    rows = [*((says, "found") for says in found), *((says, "has it, **missed**") for says in missed)]
    rows += [(says, "has it not, nothing told") for says in clean]
    parts += [f"| {says} | {what} |" for says, what in rows]
    hits = f"\nFound on {len(found)} of {len(found) + len(missed)} plates that have it; "
    hits += f"told on none of {len(clean)} that have it not.\n"
    return "\n".join([*parts, hits])


def check_index() -> str:
    """The list of the checks, in the order in which they run."""
    made = "Made by `scripts/make_docs.py` from the declarations; a test fails where a page is out of date."
    lines = [f"- [{check.title}]({check.name}.md): {check.reason}" for check in in_order()]
    return "\n".join(["# Checks\n", f"{made}\n", ON_CHECKS, *lines]) + "\n"


def in_order() -> list:
    return sorted(CHECKS.values(), key=lambda check: check.rank)


def check_pages() -> dict[str, str]:
    """Every page about checks by its file's name."""
    sys.path.insert(0, str(ROOT))
    from tests.checks.made import CASES  # noqa: PLC0415  (what the tests look at)

    return {"README.md": check_index()} | {f"{check.name}.md": check_page(check, CASES) for check in CHECKS.values()}


def plate() -> Picture:
    return Picture(Pyramid(read_picture(PLATES / PLATE).codes), b"docs")


def write_pages() -> None:
    """The pages, and a picture of before and after for each."""
    picture = plate()
    cache = TileCache()

    def look(*layers):
        base = {"kind": "picture", "source": PLATE}
        stack = parse_stack({"format": FORMAT, "version": VERSION, "layers": [base, *layers]}, VOCABULARY)
        return render(make_plan(stack, lambda source: picture), cache, LEVEL).colour

    PAGES.mkdir(exist_ok=True)
    before = look()
    gap = np.full((before.shape[0], GAP, 3), 255, np.uint8)
    for kind in KINDS.values():
        (PAGES / f"{kind.name}.md").write_text(page(kind))
        layer = sampled(kind)
        if layer:
            both = np.ascontiguousarray(np.hstack([before, gap, look(layer)]))
            (PAGES / f"{kind.name}.jpg").write_bytes(encode_small(both, QUALITY))
    (PAGES / "README.md").write_text(index())


def write_kit_pages() -> None:
    """The pages of the demo's kits, and a picture of before and after for each."""
    opened = opened_picture(PLATES / PLATE, 10**9)
    cache = TileCache()

    def look(stack, pictures):
        return render(make_plan(stack, pictures), cache, LEVEL).colour

    KIT_PAGES.mkdir(exist_ok=True)
    before = look(opened.stack, opened.pictures)
    gap = np.full((before.shape[0], GAP, 3), 255, np.uint8)
    for name, kit in kit_pages.demo_kits().items():
        applied = Applied(opened, kit, KIT_PAGES, 10**9)
        both = np.ascontiguousarray(np.hstack([before, gap, look(applied.stack(1.0), applied.pictures)]))
        (KIT_PAGES / f"{name}.jpg").write_bytes(encode_small(both, QUALITY))
    for name, content in kit_pages.pages().items():
        (KIT_PAGES / name).write_text(content)


def keys() -> str:
    """docs/keys.md: all keys of the bench."""
    parts = ["# Keys\n", "Made by `scripts/make_docs.py` from `glyptic.web.keys`; a test fails where it is old.\n"]
    for family, lines in key_list():
        rows = [f"| {shown} | {says} |" for shown, says in lines]
        parts += [f"## {family}\n", "\n".join(["| key | what it does |", "| --- | --- |", *rows]) + "\n"]
    return "\n".join(parts)


if __name__ == "__main__":
    TARGET.write_text(text())
    KEYS_PAGE.write_text(keys())
    PAGE_TYPES.write_text(types_of_the_page())
    CHECK_PAGES.mkdir(exist_ok=True)
    for name, content in check_pages().items():
        (CHECK_PAGES / name).write_text(content)
    write_pages()
    write_kit_pages()
    sys.stdout.write(f"{TARGET} and {PAGES} written\n")
