"""A delivery: how a finished picture is written. Its settings are declared here once; the page, the options of
commands, the file that is kept and the writing itself follow from them."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass

from glyptic.base.errors import DocumentError, Fault
from glyptic.params import Choice, Real, Schema, Text, Toggle, Values, Whole


@dataclass(frozen=True)
class Kind:
    """A format that pictures are written in. name, title: as a delivery has it, and in words; suffixes: of its files;
    depths: bits a channel; lossy: whether it has a quality; inks: whether it holds them; only_srgb: whether it can be
    marked as sRGB alone; has_alpha; media_type."""

    name: str
    title: str
    suffixes: tuple[str, ...]
    depths: tuple[int, ...]
    media_type: str
    has_alpha: bool = True
    lossy: bool = False
    inks: bool = False
    only_srgb: bool = False


KINDS = {
    kind.name: kind
    for kind in (
        Kind("jpg", "JPEG", (".jpg", ".jpeg"), (8,), "image/jpeg", has_alpha=False, lossy=True, inks=True),
        Kind("png", "PNG", (".png",), (8, 16), "image/png"),
        Kind("tif", "TIFF", (".tif", ".tiff"), (8, 16), "image/tiff", inks=True),
        Kind("webp", "WebP", (".webp",), (8,), "image/webp", lossy=True),
        Kind("avif", "AVIF", (".avif",), (8,), "image/avif", lossy=True),
        Kind("jxl", "JPEG XL", (".jxl",), (8,), "image/jxl", lossy=True, only_srgb=True),
    )
}
"""Formats by the name a delivery has for them."""
INTENTS = {"perceptual": 0, "relative": 1, "saturation": 2, "absolute": 3}
"""Rendering intents by their numbers in a profile."""
LEAVING = ("all", "rights", "none")
"""Which metadata leaves with a picture."""
FIELDS = {
    "name": "the plate's name",
    "number": "its place in the run, 001 and on",
    "shoot": "the shoot's name",
    "date": "the day it was taken, or that of the run",
    "delivery": "the delivery's name",
    "title": "its title, or its name",
}
"""What a name pattern may hold in braces."""
FIELD = re.compile(r"\{([^{}]*)\}")
WORKING, OWN = "working", "own"
SIZES = {
    "longest": "by its longest edge", "shortest": "by its shortest edge", "exact": "to fit into a box",
    "megapixels": "by megapixels", "print": "for print, by its longest edge in mm",
}  # fmt: skip


def _fits_together(values: Values) -> tuple[str, str] | None:
    """What does not go together."""
    kind = KINDS[values["format"]]
    if int(values["depth"]) not in kind.depths:
        return "depth", f"must be 8 for {kind.title}"
    if values["most_kb"] and not kind.lossy:
        return "most_kb", f"must be 0 for {kind.title}, which has no quality to be lowered"
    if kind.only_srgb and values["profile"] not in (WORKING, "srgb"):
        return "profile", f"must be sRGB for {kind.title}"
    unknown = [name for name in FIELD.findall(values["pattern"]) if name not in FIELDS]
    if unknown:
        return "pattern", f"has {{{unknown[0][:20]}}}, which is none of {', '.join(f'{{{name}}}' for name in FIELDS)}"
    return None


DELIVERY = Schema(
    {
        "name": Text(label="Name", longest=40, help="What the delivery is called."),
        "format": Choice(
            label="Format", options=tuple(KINDS), titles=tuple(kind.title for kind in KINDS.values()), default="jpg"
        ),
        "depth": Choice(label="Bits a channel", options=("8", "16"), default="8"),
        "packed": Choice(
            label="Packed by", options=("deflate", "zstd"), titles=("Deflate", "Zstandard"), default="deflate",
            help="Of a TIFF. Zstandard is quicker and smaller; fewer programs read it.",
        ),
        "quality": Whole(
            label="Quality", low=1, high=100, default=92,
            help="Of a JPEG, WebP, AVIF or JPEG XL; at 100 WebP and JPEG XL lose nothing.",
        ),
        "most_kb": Whole(
            label="At most", low=0, high=1_000_000, default=0, unit="kB",
            help="The greatest size of the file: the quality is lowered as far as it takes. 0 for any.",
        ),
        "sized": Choice(label="Size", options=tuple(SIZES), titles=tuple(SIZES.values()), default="longest"),
        "long_edge": Whole(
            label="Edge", low=0, high=100_000, default=0, unit="px",
            help="The longest, or shortest, edge; 0 for the size it has. Never enlarged.",
        ),
        "width": Whole(label="Box width", low=0, high=100_000, default=0, unit="px", help="Of the box it fits into."),
        "height": Whole(label="Box height", low=0, high=100_000, default=0, unit="px", help="Of the box it fits into."),
        "megapixels": Real(
            label="Megapixels", low=0, high=1000, default=0.0, step=0.1, help="At most so many; 0 for any."
        ),
        "millimetres": Real(label="Print edge", low=0, high=20_000, default=0.0, unit="mm", step=1,
                            help="The longest edge on paper; made larger where it takes that."),
        "dpi": Whole(label="Resolution", low=10, high=10_000, default=300, unit="dpi", help="Dots an inch on paper."),
        "sharpen": Choice(
            label="Sharpened", options=("none", "screen", "paper"), titles=("not", "for a screen", "for paper"),
            default="none", help="After the size is made: finely for a screen, more broadly for paper.",
        ),
        "sharpen_amount": Real(label="How strongly", low=0, high=2, default=0.5, unit="%", step=0.05),
        "profile": Text(
            label="Colours", longest=200, default=WORKING,
            help="The space or the profile that the colours are converted to, which is embedded.",
        ),
        "intent": Choice(
            label="Intent", options=tuple(INTENTS), default="relative", help="How colours are brought into a profile.",
        ),
        "black_point": Toggle(label="Black point", default=True, help="The darkest becomes the darkest."),
        "metadata": Choice(
            label="Metadata", options=LEAVING, titles=("all of it", "who made it and the rights", "none"),
            default="all",
            help="What leaves with the picture.",
        ),
        "place": Toggle(label="The place too", default=False, help="Where it was taken leaves only where this is on."),
        "border": Toggle(label="With the border", default=True, help="The frame's border, where there is one."),
        "pattern": Text(label="File name", longest=120, default="{name}", help="With fields in braces."),
    },
    (_fits_together,),
)  # fmt: skip


def read_delivery(text: bytes) -> Values:
    """A delivery of a file of its own, which is an object of these fields; raises DocumentError with every fault."""
    try:
        plain = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise DocumentError([Fault("", f"is not JSON: {error}")]) from None
    return parsed_delivery(plain)


def parsed_delivery(plain: object) -> Values:
    """A delivery of plain data; raises DocumentError with every fault."""
    faults: list[Fault] = []
    found = DELIVERY.parse(plain, "", faults)
    if found is None:
        raise DocumentError(faults)
    return found
