"""Colour profiles: to sRGB on reading, sRGB embedded on writing. LittleCMS does the conversion."""

from __future__ import annotations

from functools import cache
from importlib.resources import files
from io import BytesIO

import imagecodecs
import numpy as np
from numpy.typing import NDArray
from PIL import ImageCms

RELATIVE_COLORIMETRIC = 1


@cache
def srgb_profile() -> bytes:
    """The sRGB profile that is embedded in what Glyptic writes."""
    return files("glyptic.formats").joinpath("srgb.icc").read_bytes()


def describe(profile: bytes) -> str:
    """The profile's own name, or an empty text where it cannot be read."""
    try:
        return ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(BytesIO(profile))).strip()
    except (ImageCms.PyCMSError, OSError):
        return ""


def to_srgb(samples: NDArray[np.unsignedinteger], profile: bytes) -> tuple[NDArray[np.unsignedinteger], str | None]:
    """RGB samples (h, w, 3) in sRGB, and a note where something had to be done or could not be."""
    if not profile:
        return samples, None
    name = describe(profile)
    if "srgb" in name.lower():
        return samples, None
    shown = name or "an unnamed profile"
    try:
        converted = imagecodecs.cms_transform(
            np.ascontiguousarray(samples), profile, srgb_profile(), colorspace="rgb", outcolorspace="rgb",
            outdtype="uint16", intent=RELATIVE_COLORIMETRIC,
        )  # fmt: skip
    except Exception:
        return samples, f"The embedded profile ({shown}) could not be used; the values were taken as sRGB."
    return converted, f"Converted from {shown} to sRGB on reading."
