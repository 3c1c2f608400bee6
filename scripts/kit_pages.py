"""The pages of the demo kits, each with a picture of before and after; written by scripts/make_docs.py."""

from importlib.resources import files

from glyptic.adjust import KINDS
from glyptic.document.kits import Kit, read_kit
from glyptic.document.opposites import opposite_kit
from glyptic.document.values import Layer
from glyptic.engine.vocabulary import VOCABULARY

KITS = files("glyptic.demo").joinpath("kits")
MADE = "Made by `scripts/make_docs.py` from the demo's kit files; a test fails where a page is out of date.\n"
USING = """A kit stands first in Add: pointing tries it on the picture, a press adds it as one group whose opacity is
its strength. With Shift it starts closed, brush in hand, to be painted in; with Alt it does the contrary, where it has
one.
Pictures here are of the demo plate *Vase trio*, each kit at full strength.
"""


def demo_kits() -> dict[str, Kit]:
    """The demo kits by the names of their files."""
    found = sorted((one for one in KITS.iterdir() if one.name.endswith(".json")), key=lambda one: one.name)
    return {one.name.removesuffix(".json"): read_kit(one.read_bytes(), VOCABULARY) for one in found}


def rows(layers: tuple[Layer, ...], depth: int = 0) -> list[str]:
    """A line of the table for each layer, those of groups after them."""
    lines = []
    for layer in layers:
        kind = KINDS[layer.kind]
        settings = ", ".join(f"{name} `{value}`" for name, value in kind.schema.plain(layer.settings).items())
        mask = ""
        if layer.mask is not None:
            mask = ", ".join([layer.mask.start, *(part.kind for part in layer.mask.parts)])
        lines.append(f"| {'· ' * depth}{layer.name} | {kind.title.lower()} | {settings} | {mask} |")
        lines += rows(layer.layers, depth + 1)
    return lines


def page(name: str, kit: Kit) -> str:
    """The page of a kit."""
    parts = [f"# {kit.name}\n", f"{kit.note}\n", f"![Before, and after]({name}.jpg)\n"]
    parts += [
        "| layer | kind | settings | mask |\n| --- | --- | --- | --- |",
        *rows(kit.layers),
        *rows(kit.frame_layers),
    ]
    if opposite_kit(kit, VOCABULARY) is not None:
        parts.append("\nWith Alt it is turned over: every setting that goes two ways goes the other way.")
    return "\n".join(parts) + "\n"


def index(kits: dict[str, Kit]) -> str:
    """The list of the demo kits."""
    lines = [f"- [{kit.name}]({name}.md): {kit.note}" for name, kit in kits.items()]
    return "\n".join(["# The demo's kits\n", MADE, USING, *lines]) + "\n"


def pages() -> dict[str, str]:
    """Every page by its file's name."""
    kits = demo_kits()
    return {"README.md": index(kits)} | {f"{name}.md": page(name, kit) for name, kit in kits.items()}
