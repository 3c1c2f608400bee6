"""Layers that come from elsewhere, their pictures made to fit what they are laid on."""

from __future__ import annotations

from dataclasses import replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from glyptic.base.rectangles import Canvas
from glyptic.document.kits import is_to_be_found
from glyptic.document.sources import SOURCE
from glyptic.document.values import Layer, Part
from glyptic.params import Values
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.quantise import to_codes

LEAST_FOUND, MOST_FOUND = 0.02, 0.93
"""Shares of a picture between which a backdrop that was found is taken to be one."""
FOUND_NOWHERE = "its backdrop was hardly found: {share:.0f} % of the picture was taken for it"


class Pictures(Protocol):
    """Where the pictures of layers are, and are kept."""

    def own(self, source: str) -> str:
        """A picture of the layers by the name it has where they go."""

    def read(self, source: str) -> Picture:
        """A picture by the name it has where the layers go."""

    def keep(self, codes: NDArray[np.uint8], name: str) -> str:
        """Keep a grey picture (h, w); returns its source."""

    def backdrop(self) -> str:
        """The source of the backdrop of the picture that the layers are laid on, found."""


def fitted_layer(layer: Layer, over: Canvas, pictures: Pictures) -> Layer:
    """A layer with the pictures of its masks as large as what it lies on, and what is to be found found."""
    mask = layer.mask
    if mask is not None:
        mask = replace(mask, parts=tuple(_part(part, over, pictures) for part in mask.parts))
    source = pictures.own(layer.source) if layer.source else ""
    inner = tuple(fitted_layer(child, over, pictures) for child in layer.layers)
    return replace(layer, source=source, mask=mask, layers=inner)


def _part(part: Part, over: Canvas, pictures: Pictures) -> Part:
    if SOURCE not in part.settings:
        return part
    source = pictures.backdrop() if is_to_be_found(part) else _grey(pictures.own(part.settings[SOURCE]), over, pictures)
    return replace(part, settings=Values({**part.settings, SOURCE: source}))


def _grey(source: str, over: Canvas, pictures: Pictures) -> str:
    """A grey picture as large as what it lies on."""
    picture = pictures.read(source)
    if picture.canvas == over:
        return source
    import cv2  # noqa: PLC0415  (OpenCV is only loaded where a mask's picture is of another size)

    codes = to_codes(picture.colour.read(picture.canvas.at(0), 0)[:1], 8)[:, :, 0]
    how = cv2.INTER_AREA if over.width < picture.width else cv2.INTER_LINEAR
    return pictures.keep(np.asarray(cv2.resize(codes, tuple(over), interpolation=how), np.uint8), "scaled.png")


def backdrop_of(picture: Picture) -> tuple[NDArray[np.uint8], str]:
    """Codes (h, w) of the likely backdrop of a picture, and what is to be said of a poor find, or ''."""
    from glyptic.analysis import regions  # noqa: PLC0415  (OpenCV is only loaded by those who look for areas)

    area = regions.backdrop(picture)
    codes = regions.at_full_size(picture, area, regions.coarse_level(picture.width, picture.height))
    return codes, poor_find(codes)


def poor_find(codes: NDArray[np.uint8]) -> str:
    """Why an area that was found is hardly a backdrop, or ''."""
    share = float(np.mean(codes >= 128))
    return "" if LEAST_FOUND <= share <= MOST_FOUND else FOUND_NOWHERE.format(share=share * 100)
