"""What several rooms' tests share: small pictures, a workshop over an empty folder, rendering plain stacks."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from glyptic.actions.workshop import Workshop
from glyptic.document.codec import parse_stack
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.reader import Reader
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.pixels.pyramid import Picture, Pyramid
from glyptic.store import Store

BASE = {"id": "base", "kind": "picture", "source": "base.png"}


def picture_of(codes, key=b"test"):
    """A picture of 16-bit codes (3, h, w)."""
    return Picture(Pyramid(np.ascontiguousarray(codes)), key)


def colourful(width=300, height=280, seed=5):
    """Codes (3, h, w) that hold ramps, noise, pure black and pure white; wider than one tile."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:height, 0:width]
    ramps = np.stack([x / width, y / height, (x + y) / (width + height)])
    values = np.clip(ramps + rng.normal(0, 0.08, ramps.shape), 0, 1)
    values[:, :8, :8], values[:, :8, 8:16] = 0, 1
    return (values * 65535 + 0.5).astype(np.uint16)


def stack_of(*layers):
    return parse_stack({"format": "glyptic-stack", "version": 1, "layers": [BASE, *layers]}, VOCABULARY)


def finished(picture, *layers, level=0, rect=None, cache=None):
    """The unrounded finished picture (3, h, w) of plain layers over a picture."""
    plan = make_plan(stack_of(*layers), lambda source: picture)
    reader = Reader(cache or TileCache(), picture.canvas, level)
    return reader.read(plan.finished, rect or reader.bounds)


def png_bytes(array, **options):
    buffer = io.BytesIO()
    Image.fromarray(array).save(buffer, "PNG", **options)
    return buffer.getvalue()


@pytest.fixture
def picture():
    return picture_of(colourful())


@pytest.fixture
def shop(tmp_path):
    store = Store(tmp_path / "data")
    yield Workshop(store, limit=1_000_000)
    store.close()


@pytest.fixture
def photo():
    """A small 8-bit picture file."""
    codes = np.moveaxis(colourful(320, 200) >> 8, 0, 2).astype(np.uint8)
    return png_bytes(codes)


def overlaps(count, ratio, length):
    """(count, length): how much of each of `length` pixels every pixel of a picture `ratio` times smaller covers."""
    low, high = np.arange(count)[:, None] * ratio, np.arange(1, count + 1)[:, None] * ratio
    at = np.arange(length)[None, :]
    return np.clip(np.minimum(high, at + 1) - np.maximum(low, at), 0, None)
