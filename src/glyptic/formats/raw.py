"""Raw files from a camera: developed by LibRaw, in a process of its own, into the working space `wide`."""

from __future__ import annotations

import tifffile

from glyptic.adjust.white_balance import lit_by, nearest_light
from glyptic.document.reading import CHOSEN
from glyptic.formats import tiff
from glyptic.formats.decoded import Raw
from glyptic.formats.exif import read_block
from glyptic.formats.guarded import Answer, Limits, decoded
from glyptic.formats.icc import of_space
from glyptic.formats.source import Source
from glyptic.formats.wish import Wish
from glyptic.params import Values
from glyptic.pixels.spaces import SRGB, WIDE, xyz_of

SUFFIXES = (".dng", ".nef", ".cr2", ".cr3", ".arw", ".raf", ".orf", ".rw2", ".pef", ".srw")
SIGNATURES = (b"FUJIFILMCCD-RAW", b"IIRO", b"IIRS", b"MMOR", b"IIU\x00", b"FOVb", b"\x00MRM")
"""What files of makes begin with that are no TIFF."""
DNG_VERSION, SUB_DIRECTORIES = 50706, 330
SENSOR = (32803, 34892)
"""Photometric interpretations of what a sensor saw: a mosaic of colours, or linear light (TIFF/EP, DNG)."""


def is_raw(source: Source) -> bool:
    """Whether a file is a raw one: by its first bytes, or a TIFF that holds what a sensor saw."""
    head = source.head
    if head.startswith(SIGNATURES) or head[4:12] == b"ftypcrx " or head[8:10] == b"CR":
        return True
    if not head.startswith(tiff.SIGNATURES):
        return False
    try:
        with source.open() as stream, tifffile.TiffFile(stream) as opened:
            first = opened.pages[0]
            below = list(first.pages or ()) if SUB_DIRECTORIES in first.tags else []
            return DNG_VERSION in first.tags or any(_saw(page) for page in (first, *below))
    except Exception:  # whatever damaged files make of it; the reader of TIFF will say so
        return False


def _saw(page: object) -> bool:
    return int(getattr(page, "photometric", 0) or 0) in SENSOR


def _developed(source: Source, development: Values, limits: Limits, half: bool) -> Answer:
    chosen = development["light"] == CHOSEN
    light = xyz_of(*lit_by(development["temperature"], development["tint"])).tolist() if chosen else None
    gain = 2.0 ** development["exposure"]
    return decoded(
        "raw",
        "raw file",
        source,
        limits,
        light=light,
        gain=gain,
        highlights=development["highlights"],
        half=half,
        from_xyz=SRGB.from_xyz.tolist(),
    )


def read(source: Source, wish: Wish, limits: Limits) -> Raw:
    """The whole picture, as the wish says it is to be developed."""
    found = _developed(source, wish.development, limits, half=False)
    exif = b""
    if source.head.startswith(tiff.SIGNATURES):
        with source.open() as stream:
            exif, _ = read_block(stream)
    return Raw(found.samples, of_space(WIDE), exif, notes=("Developed from a raw file, which is kept.",))


def looked_at(source: Source, development: Values, limits: Limits) -> tuple[Answer, tuple[float, float] | None]:
    """A picture of half the size, for choosing; and the temperature and tint the camera set, None where not known."""
    found = _developed(source, development, limits, half=True)
    light = found.facts.get("light")
    return found, nearest_light(light) if light else None
