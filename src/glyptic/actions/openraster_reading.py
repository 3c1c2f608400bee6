"""OpenRaster files of other programs, opened as plates: their layers become picture layers, their stacks groups."""

from __future__ import annotations

import math
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import IO, Any
from xml.etree.ElementTree import Element

import numpy as np
from defusedxml.ElementTree import fromstring

from glyptic.actions.keeping import keep_first
from glyptic.actions.open_picture import keep_asset, plate_name
from glyptic.actions.workshop import Workshop
from glyptic.actions.zips import LARGEST_FILE, MOST_FILES
from glyptic.base.errors import DocumentError, PictureError
from glyptic.document.codec import parse_stack
from glyptic.document.values import BLEND_MODES, FORMAT
from glyptic.document.values import VERSION as STACK_VERSION
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats.decoded import Metadata
from glyptic.formats.openraster import NO_ORA, entry
from glyptic.formats.writing import Output, encode_picture

DESCRIPTION = "stack.xml"
LARGEST_DESCRIPTION = 4 * 2**20
DEEPEST, MOST_LAYERS = 16, 500
LONGEST_SIDE = 300_000


@dataclass
class Reading:
    """What is read as one goes: the ZIP, the canvas, where pictures are kept."""

    workshop: Workshop
    archive: zipfile.ZipFile
    width: int
    height: int
    count: int = 0

    def asset(self, name: str) -> tuple[str, int, int]:
        """A layer's picture, kept; its width and height."""
        asset = keep_asset(self.workshop, entry(self.archive, name, LARGEST_FILE), PurePosixPath(name).name)
        picture = self.workshop.picture(asset)
        return asset, picture.width, picture.height


def _refused(why: str) -> PictureError:
    return PictureError(NO_ORA.format(why=why))


def open_openraster(workshop: Workshop, stream: IO[bytes], name: str) -> int:
    """Put the plate that an OpenRaster file describes on the shelf; returns its id. Raises PictureError with what is
    wrong; the shelf is unchanged then."""
    try:
        with zipfile.ZipFile(stream) as archive:
            if len(archive.infolist()) > MOST_FILES:
                raise _refused(f"it holds more than {MOST_FILES} files")
            image = _image(entry(archive, DESCRIPTION, LARGEST_DESCRIPTION))
            width, height = _sides(image)
            if width * height > workshop.limit:
                raise _refused(f"it measures {width} × {height} pixels, which is more than the limit")
            stack = _plain(Reading(workshop, archive, width, height), image)
    except zipfile.BadZipFile as error:
        raise _refused("it is damaged") from error
    try:
        made = parse_stack(stack, VOCABULARY)
    except DocumentError as error:
        raise _refused("; ".join(str(fault) for fault in error.faults[:3])) from error
    return keep_first(workshop, plate_name(name), made.base.source, made, "Opened from OpenRaster")


def _image(text: bytes) -> Element:
    """The description's root; entities are refused."""
    try:
        root: Element = fromstring(text, forbid_dtd=True)
    except Exception as error:  # whatever its parser says of what is no XML, or of entities
        raise _refused("its description is no XML, or uses entities") from error
    if root.tag != "image" or root.find("stack") is None:
        raise _refused("its description describes no picture")
    return root


def _sides(image: Element) -> tuple[int, int]:
    found = [image.get(name, "") for name in ("w", "h")]
    if not all(side.isdecimal() and 0 < int(side) <= LONGEST_SIDE for side in found):
        raise _refused("its description has no size")
    return int(found[0]), int(found[1])


def _plain(reading: Reading, image: Element) -> dict[str, Any]:
    """The plain data of a stack."""
    root = image.find("stack")
    layers = list(_layers(reading, root if root is not None else image, 0))
    clear = np.zeros((reading.height, reading.width, 4), np.uint8)
    data = encode_picture(clear[:, :, :3], clear[:, :, 3], Output("png"), Metadata())
    base = keep_asset(reading.workshop, data, "canvas.png")
    if layers and _covers(reading, layers[0]):
        base, layers = layers[0]["source"], layers[1:]
    first = {"id": "base", "kind": "picture", "name": "Base", "source": base}
    return {"format": FORMAT, "version": STACK_VERSION, "working_space": "srgb", "layers": [first, *layers]}


def _covers(reading: Reading, layer: dict[str, Any]) -> bool:
    """Whether a layer can be the base: a picture of the canvas's size, as it is."""
    if layer["kind"] != "picture" or layer.get("opacity", 1) != 1 or layer["blend"] != "normal" or not layer["visible"]:
        return False
    picture = reading.workshop.picture(layer["source"])
    middle = {"x": reading.width / 2, "y": reading.height / 2}
    return bool(picture.canvas == (reading.width, reading.height) and layer["place"] == middle)


def _layers(reading: Reading, stack: Element, deep: int) -> Iterator[dict[str, Any]]:
    """The layers of a stack, the lowest first."""
    if deep > DEEPEST:
        raise _refused(f"its stacks are nested more than {DEEPEST} deep")
    for element in reversed(list(stack)):
        if element.tag not in ("layer", "stack"):
            continue
        reading.count += 1
        if reading.count > MOST_LAYERS:
            raise _refused(f"it holds more than {MOST_LAYERS} layers")
        head = _head(element)
        if element.tag == "stack":
            mode = "through" if element.get("isolation") == "auto" and _is_plain(head) else "isolated"
            yield {**head, "kind": "group", "mode": mode, "layers": list(_layers(reading, element, deep + 1))}
            continue
        asset, width, height = reading.asset(element.get("src", ""))
        place = {"x": _whole(element, "x") + width / 2, "y": _whole(element, "y") + height / 2}
        yield {**head, "kind": "picture", "source": asset, "place": place}


def _is_plain(head: dict[str, Any]) -> bool:
    return bool(head["blend"] == "normal" and head["opacity"] == 1)


def _head(element: Element) -> dict[str, Any]:
    name = " ".join("".join(c if c.isprintable() else " " for c in element.get("name", "")).split())[:80]
    mode = element.get("composite-op", "svg:src-over").removeprefix("svg:")
    try:
        opacity = min(max(float(element.get("opacity", "1")), 0.0), 1.0)
    except ValueError:
        opacity = 1.0
    return {
        "name": name or ("Group" if element.tag == "stack" else "Layer"),
        "opacity": 1.0 if math.isnan(opacity) else opacity,
        "visible": element.get("visibility", "visible") != "hidden",
        "blend": mode if mode in BLEND_MODES else "normal",
    }


def _whole(element: Element, name: str) -> int:
    text = element.get(name, "0")
    try:
        found = int(float(text))
    except (ValueError, OverflowError):
        return 0
    return min(max(found, -LONGEST_SIDE), LONGEST_SIDE)
