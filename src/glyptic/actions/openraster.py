"""OpenRaster (0.0.5): a plate written so that other programs show it, layer by layer, and read again whole.

A layer that brings colour of its own is that picture; any other is a picture of its effect at full strength, which the
format's own opacity, and its mask as alpha, mix in just as the layer does. Our own archive lies inside, in `glyptic/`.
What the format cannot say (a masked group, say) stands as one picture of its effect, its layers hidden below it.
"""

from __future__ import annotations

import zipfile
from collections.abc import Iterator
from dataclasses import dataclass, replace
from io import BytesIO
from typing import IO
from xml.sax.saxutils import quoteattr

import numpy as np
from PIL import Image

from glyptic.actions.archive import archive_files
from glyptic.actions.workshop import Workshop
from glyptic.document.values import Frame, Layer, Stack
from glyptic.engine.cache import TileCache
from glyptic.engine.nodes import Node
from glyptic.engine.plan import AT_REST, Plan, make_plan
from glyptic.engine.render import Progress, Rendering, cache_for
from glyptic.engine.shown import shown_in
from glyptic.formats.decoded import Metadata
from glyptic.formats.openraster import MERGED, MIMETYPE
from glyptic.formats.writing import Output, encode_picture
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.quantise import to_codes
from glyptic.pixels.spaces import SRGB

VERSION = "0.0.5"
THUMBNAIL, LONGEST_THUMBNAIL = "Thumbnails/thumbnail.png", 256
INSIDE = "glyptic"
"""The folder of the ZIP that our own archive lies in."""
SOURCE_OVER = "svg:src-over"
NOTHING = Metadata()


@dataclass(frozen=True)
class Entry:
    """A line of the description: a layer with its picture, or a stack of others, the topmost first."""

    name: str
    opacity: float = 1.0
    visible: bool = True
    mode: str = SOURCE_OVER
    picture: bytes = b""
    inner: tuple[Entry, ...] = ()
    isolated: bool = False


def composite(blend: str) -> str:
    """A blend mode as the format names it."""
    return SOURCE_OVER if blend == "normal" else f"svg:{blend}"


class Drawing:
    """Draws a plate's layers one by one. pictures: those of the stack."""

    def __init__(self, workshop: Workshop, stack: Stack) -> None:
        self.stack = stack
        self._pictures = workshop.pictures_of(stack)
        self._kept: dict[str, Picture] = {}

    def plan(self, stack: Stack) -> Plan:
        return make_plan(stack, self._pictures, finer=AT_REST)

    def png(self, plan: Plan, node: Node, mask: Node | None) -> bytes:
        """A PNG in sRGB of a node as it comes out, its alpha that of a mask."""
        wanted = Rendering(plan, cache_for(plan), node=shown_in(node, SRGB))
        colour = wanted.whole().colour
        alpha = None
        if mask is not None:
            reader = plan.reader(TileCache(), 0)
            alpha = to_codes(reader.read(mask, reader.bounds), 8)[:, :, 0]
        return encode_picture(colour, alpha, Output("png"), NOTHING)

    def effect(self, layer: Layer) -> bytes:
        """What a layer makes of the picture at full strength; its alpha is its mask."""
        full = replace(layer, opacity=1.0, mask=None, visible=True)
        plan = self.plan(_alone(self.stack.replaced(full), layer.id))
        with_mask = self.plan(self.stack.replaced(replace(layer, visible=True, opacity=1.0)))
        mask = with_mask.masks.get(layer.id)
        seen = None if mask is None else with_mask.seen(layer.id, mask, 1.0)
        return self.png(plan, plan.seen(layer.id, plan.above[layer.id]), seen)


def _alone(stack: Stack, layer_id: str) -> Stack:
    """The stack with the groups around a layer shown whole: what happens in a group that is off is drawn, too."""

    def opened(row: tuple[Layer, ...]) -> tuple[Layer, ...]:
        return tuple(
            replace(layer, visible=True, layers=opened(layer.layers)) if _holds(layer, layer_id) else layer
            for layer in row
        )

    return stack.with_rows(opened)


def _holds(layer: Layer, layer_id: str) -> bool:
    return any(child.id == layer_id or _holds(child, layer_id) for child in layer.layers)


def _entries(drawing: Drawing, row: tuple[Layer, ...], hidden: bool, told: Progress) -> Iterator[Entry]:
    """The lines of a row of layers, the lowest first. hidden: whether they only stand there to be looked at."""
    for layer in row:
        told(0)
        visible = layer.visible and not hidden
        if layer.kind != "group":
            yield Entry(layer.name, layer.opacity, visible, SOURCE_OVER, drawing.effect(layer))
        elif _is_plain(layer):
            inner = tuple(_entries(drawing, layer.layers, hidden, told))[::-1]
            yield Entry(layer.name, 1.0, visible, inner=inner)
        else:
            inner = tuple(_entries(drawing, layer.layers, True, told))[::-1]
            yield Entry(f"{layer.name}: its layers", 1.0, False, inner=inner)
            yield Entry(layer.name, layer.opacity, visible, SOURCE_OVER, drawing.effect(layer))


def _is_plain(group: Layer) -> bool:
    """Whether a group is nothing but its layers one after the other."""
    return group.mode == "through" and group.mask is None and group.opacity == 1


def _described(entries: tuple[Entry, ...], names: Iterator[str], files: dict[str, bytes], deep: int) -> Iterator[str]:
    """The lines of the description; their pictures are put among the files."""
    for entry in entries:
        head = (
            f'name={quoteattr(entry.name)} opacity="{entry.opacity:.6g}" composite-op="{entry.mode}" '
            f'visibility="{"visible" if entry.visible else "hidden"}"'
        )
        space = "  " * deep
        if entry.inner:
            yield f'{space}<stack {head} isolation="auto" x="0" y="0">'
            yield from _described(entry.inner, names, files, deep + 1)
            yield f"{space}</stack>"
        elif entry.picture:
            name = next(names)
            files[name] = entry.picture
            yield f'{space}<layer {head} src="{name}" x="0" y="0"/>'


def _names() -> Iterator[str]:
    number = 0
    while True:
        number += 1
        yield f"data/layer{number:03}.png"


def write_openraster(workshop: Workshop, plate_id: int, stream: IO[bytes], told: Progress = lambda share: None) -> None:
    """Write a plate's current state. told: may raise to stop."""
    stack = workshop.current(plate_id).stack
    drawing = Drawing(workshop, stack)
    plan = drawing.plan(stack)
    framed = stack.frame is not None and stack.frame.enabled
    base = Entry(stack.base.name, picture=drawing.png(plan, plan.before, plan.alpha))
    rows = [base, *_entries(drawing, stack.layers[1:], False, told)]
    if framed and isinstance(stack.frame, Frame):
        rows += _entries(drawing, stack.frame.layers, False, told)
    merged = drawing.png(plan, plan.finished, plan.alpha)
    files: dict[str, bytes] = {}
    lines = list(_described(tuple(rows[::-1]), _names(), files, 2))
    width, height = plan.outer
    size = f'w="{width}" h="{height}" xres="300" yres="300"'
    head = ["<?xml version='1.0' encoding='UTF-8'?>", f'<image version="{VERSION}" {size}>', "  <stack>"]
    text = "\n".join([*head, *lines, "  </stack>", "</image>", ""])
    with zipfile.ZipFile(stream, "w") as archive:
        archive.writestr("mimetype", MIMETYPE, zipfile.ZIP_STORED)
        archive.writestr("stack.xml", text, zipfile.ZIP_DEFLATED)
        for name, content in files.items():
            archive.writestr(name, content, zipfile.ZIP_STORED)
        archive.writestr(MERGED, merged, zipfile.ZIP_STORED)
        archive.writestr(THUMBNAIL, _thumbnail(merged), zipfile.ZIP_STORED)
        archive_files(workshop, plate_id, archive, f"{INSIDE}/")


def _thumbnail(png: bytes) -> bytes:
    with Image.open(BytesIO(png)) as image:
        image.thumbnail((LONGEST_THUMBNAIL, LONGEST_THUMBNAIL))
        return encode_picture(np.asarray(image.convert("RGB")), None, Output("png"), NOTHING)
