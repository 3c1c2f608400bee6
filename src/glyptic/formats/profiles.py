"""Colour profiles: to sRGB on reading, sRGB embedded on writing. LittleCMS does the conversion.

What counts is what a profile does, not what it is called: its colours are carried to sRGB and compared.
"""

from __future__ import annotations

from functools import cache, lru_cache
from importlib.resources import files
from io import BytesIO
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray
from PIL import ImageCms

RELATIVE_COLORIMETRIC = 1
SAME = 1 / 255
"""A profile whose colours lie no further than this from sRGB's, in encoded values, is sRGB."""
LATTICE = 9
"""Colours a channel that are compared."""
HIGHEST = 65535
REMEMBERED = 64


@cache
def srgb_profile() -> bytes:
    """The sRGB profile that is embedded in what Glyptic writes."""
    return files("glyptic.formats").joinpath("srgb.icc").read_bytes()


def _opened(profile: bytes) -> ImageCms.ImageCmsProfile | None:
    try:
        return ImageCms.ImageCmsProfile(BytesIO(profile))
    except (ImageCms.PyCMSError, OSError):
        return None


@lru_cache(REMEMBERED)
def describe(profile: bytes) -> str:
    """The profile's own name, or an empty text where it cannot be read."""
    opened = _opened(profile)
    try:
        return "" if opened is None else ImageCms.getProfileDescription(opened).strip()
    except ImageCms.PyCMSError:
        return ""


def _carried(samples: NDArray[Any], profile: bytes, grey: bool, dtype: str = "uint16") -> NDArray[Any]:
    """Samples (h, w, 3), or (h, w) of grey, in a profile's space to sRGB (h, w, 3); raises whatever LittleCMS says
    where it cannot."""
    carried: NDArray[Any] = imagecodecs.cms_transform(
        np.ascontiguousarray(samples), profile, srgb_profile(), colorspace="gray" if grey else "rgb",
        outcolorspace="rgb", outdtype=dtype, intent=RELATIVE_COLORIMETRIC,
    )  # fmt: skip
    return carried


@lru_cache(REMEMBERED)
def does_as_srgb(profile: bytes) -> bool:
    """Whether a profile of RGB means what sRGB means; False also for one that cannot be used."""
    steps = np.linspace(0, HIGHEST, LATTICE).round().astype(np.uint16)
    colours = np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), axis=-1).reshape(1, -1, 3)
    try:
        carried = _carried(colours, profile, grey=False)
    except Exception:
        return False
    return bool(np.abs(carried.astype(int) - colours.astype(int)).max() <= SAME * HIGHEST)


def _said(name: str, done: bool) -> str:
    shown = name or "an unnamed profile"
    if done:
        return f"Converted from {shown} to sRGB on reading."
    return f"The embedded profile ({shown}) could not be used; the values were taken as sRGB."


def to_srgb(samples: NDArray[np.unsignedinteger], profile: bytes) -> tuple[NDArray[np.unsignedinteger], str | None]:
    """RGB samples (h, w, 3) in sRGB, and a note where something had to be done or could not be."""
    if not profile or does_as_srgb(profile):
        return samples, None
    try:
        return _carried(samples, profile, grey=False), _said(describe(profile), done=True)
    except Exception:
        return samples, _said(describe(profile), done=False)


@lru_cache(REMEMBERED)
def _grey_curve(profile: bytes) -> NDArray[np.uint16] | None:
    """What every 16-bit code of a grey picture with a profile is in sRGB; None for a profile that cannot be used. It is
    worked out in floating point: LittleCMS' tables of 16 bits are coarse where sRGB is steep."""
    ramp = (np.arange(HIGHEST + 1) / HIGHEST).astype(np.float32)[None]
    opened = _opened(profile)
    grey = opened is not None and opened.profile.xcolor_space.strip() == "GRAY"
    try:
        carried = _carried(ramp if grey else np.repeat(ramp[:, :, None], 3, axis=2), profile, grey, "float32")
    except Exception:
        return None
    return np.asarray(np.floor(np.clip(carried[0, :, 1], 0, 1) * HIGHEST + 0.5), np.uint16)


def grey_to_srgb(
    samples: NDArray[np.unsignedinteger], profile: bytes
) -> tuple[NDArray[np.unsignedinteger], str | None]:
    """Grey samples (h, w, 1) in sRGB's tones, and a note where something had to be done or could not be."""
    if not profile:
        return samples, None
    curve = _grey_curve(profile)
    if curve is None:
        return samples, _said(describe(profile), done=False)
    if np.abs(curve.astype(int) - np.arange(HIGHEST + 1)).max() <= SAME * HIGHEST:
        return samples, None
    codes = curve if samples.dtype == np.uint16 else curve[:: (HIGHEST + 1) // 255]
    return codes[samples], _said(describe(profile), done=True)
