"""Write docs/kinds.md from the declarations of every kind of layer and mask part."""

import sys
from pathlib import Path

from glyptic.adjust import KINDS
from glyptic.document import fields
from glyptic.masks import PARTS
from glyptic.params import Choice, Group, Real, Schema

TARGET = Path(__file__).resolve().parents[1] / "docs" / "kinds.md"
HEAD = """# Kinds of layers and mask parts

Made by `scripts/make_docs.py` from the declarations in `src/glyptic/adjust` and `src/glyptic/masks`; a test fails
where it is out of date. The exact meaning of every number is in the contract of the computation.
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
    parts += ["## Strokes\n", table(fields.STROKE_HEAD)]
    return "\n".join(parts)


if __name__ == "__main__":
    TARGET.write_text(text())
    sys.stdout.write(f"{TARGET} written\n")
