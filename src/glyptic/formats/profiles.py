"""Colour profiles on reading: from what a file's values mean to a working space, in 16 bits. LittleCMS does the
conversion, relative colorimetric.

What counts is what a profile does, not what it is called: its colours are carried to the working spaces and compared.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from io import BytesIO
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray
from PIL import ImageCms

from glyptic.base.errors import Fault
from glyptic.formats.icc import adapted, of_space
from glyptic.formats.shaper import Shaper, shaper_of
from glyptic.pixels.quantise import rounded
from glyptic.pixels.spaces import SPACES_IN_ORDER, SRGB, WHITE, Matrix, Space, xyz_of
from glyptic.pixels.transfer import encoded

RELATIVE_COLORIMETRIC = 1
SAME = 1 / 255
"""A profile whose colours lie no further than this from a space's, in encoded values, is that space; and one whose
colours lie no further outside it is held by it."""
LATTICES = {"gray": 256, "rgb": 9, "cmyk": 6}
"""Colours a channel that are compared."""
CHANNELS = {"gray": 1, "rgb": 3, "cmyk": 4}
MODELS = {"GRAY": "gray", "RGB": "rgb", "CMYK": "cmyk"}
HIGHEST = 65535
REMEMBERED = 64
Samples = NDArray[np.unsignedinteger]


def opened(profile: bytes) -> ImageCms.ImageCmsProfile | None:
    """A profile as LittleCMS reads it; None for one it cannot."""
    try:
        return ImageCms.ImageCmsProfile(BytesIO(profile))
    except (ImageCms.PyCMSError, OSError):
        return None


@lru_cache(REMEMBERED)
def model_of(profile: bytes) -> str:
    """Which colours a profile is about: gray, rgb or cmyk; '' for others, and for one that cannot be read."""
    found = opened(profile)
    return "" if found is None else MODELS.get(found.profile.xcolor_space.strip(), "")


@lru_cache(REMEMBERED)
def describe(profile: bytes) -> str:
    """The profile's own name, or an empty text where it cannot be read."""
    found = opened(profile)
    try:
        return "" if found is None else ImageCms.getProfileDescription(found).strip()
    except ImageCms.PyCMSError:
        return ""


def transformed(
    samples: NDArray[Any], source: bytes, target: bytes, models: tuple[str, str], dtype: str = "float32",
    intent: int = RELATIVE_COLORIMETRIC, flags: int = 0,
) -> NDArray[Any]:  # fmt: skip
    """Samples (h, w, channels), or (h, w) of grey, carried from one profile to another; 0..1 where they are floating.
    Inks are shares of full coverage. Raises whatever LittleCMS says where it cannot."""
    floating = samples.dtype.kind == "f"
    given = samples * np.float32(100) if floating and models[0] == "cmyk" else samples
    carried: NDArray[Any] = imagecodecs.cms_transform(
        np.ascontiguousarray(given), source, target, colorspace=models[0], outcolorspace=models[1], outdtype=dtype,
        intent=intent, flags=flags,
    )  # fmt: skip
    return carried / np.float32(100) if dtype == "float32" and models[1] == "cmyk" else carried


def _to_xyz(profile: bytes, colours: NDArray[np.float32]) -> Matrix:
    """Colours (n, channels) that a profile is about in XYZ under D65 (3, n)."""
    model = model_of(profile)
    given = colours.T if model == "gray" else colours[None]
    connected = transformed(given, profile, imagecodecs.cms_profile("xyz"), (model, "xyz"))
    return np.asarray(np.linalg.inv(adapted(xyz_of(*WHITE))) @ connected.reshape(-1, 3).T.astype(np.float64))


@lru_cache(REMEMBERED)
def _cube(profile: bytes) -> tuple[NDArray[Any], Matrix] | None:
    """Colours (n, channels) that a profile is about, and what they are in XYZ under D65 (3, n); None for a profile that
    cannot be used."""
    model = model_of(profile)
    if not model:
        return None
    steps = np.linspace(0, 1, LATTICES[model]).astype(np.float32)
    grid = np.stack(np.meshgrid(*[steps] * CHANNELS[model], indexing="ij"), -1).reshape(-1, CHANNELS[model])
    try:
        return grid, _to_xyz(profile, grid)
    except Exception:  # whatever LittleCMS says
        return None


@lru_cache(REMEMBERED)
def _shaper(profile: bytes) -> Shaper | None:
    """The curves and the matrix of a profile of RGB that is nothing else."""
    found = _cube(profile)
    if found is None or model_of(profile) != "rgb":
        return None
    return shaper_of(lambda colours: _to_xyz(profile, colours), found[0])


@lru_cache(REMEMBERED)
def is_as(profile: bytes, space: Space) -> bool:
    """Whether a profile means what a working space means; False also for one that cannot be used."""
    found = _cube(profile)
    if found is None or model_of(profile) == "cmyk":
        return False
    given, seen = found
    return bool(np.abs(encoded(space.from_xyz @ seen) - np.broadcast_to(given.T, seen.shape)).max() <= SAME)


@lru_cache(REMEMBERED)
def smallest_for(profile: bytes) -> Space:
    """The smallest working space that holds a profile's colours; the widest where none does."""
    found = _cube(profile)
    if found is None:
        return SRGB
    for space in SPACES_IN_ORDER:
        there = encoded(space.from_xyz @ found[1])
        if is_as(profile, space) or (there.min() >= -SAME and there.max() <= 1 + SAME):
            return space
    return SPACES_IN_ORDER[-1]


@dataclass(frozen=True)
class Meaning:
    """What a file's values mean, and where they are carried to.

    model: gray, rgb or cmyk. source: the profile they are taken by; same: whether they stay as they are. name: of that
    profile; assumed: whether nothing in the file said so. notes: what is to be told of it.
    """

    model: str
    source: bytes
    space: Space
    same: bool
    name: str
    assumed: bool
    notes: tuple[str, ...] = ()

    def carry(self, samples: Samples) -> Samples:
        """Samples (h, w, channels) of 8 or 16 bits in the working space: (h, w, 3), or (h, w, 1) of grey; of 16 bits
        where they had to be converted."""
        if self.same:
            return samples
        if self.model == "gray":
            curve = _grey_curve(self.source, self.space)
            codes = curve if samples.dtype == np.uint16 else curve[:: (HIGHEST + 1) // 255]
            return np.asarray(codes[samples])
        shaper = _shaper(self.source)
        if shaper is not None:
            return shaper.carry(samples, self.space)
        given = samples.astype(np.float32) / np.float32(np.iinfo(samples.dtype).max)
        carried = transformed(given, self.source, of_space(self.space), (self.model, "rgb"))
        return rounded(carried, HIGHEST).astype(np.uint16)


@lru_cache(REMEMBERED)
def _grey_curve(profile: bytes, space: Space) -> NDArray[np.uint16]:
    """What every 16-bit code of a grey picture is in a working space. It is worked out in floating point: LittleCMS'
    tables of 16 bits are coarse where the curve is steep."""
    ramp = (np.arange(HIGHEST + 1) / HIGHEST).astype(np.float32)[None]
    model = model_of(profile)
    given = ramp if model == "gray" else np.repeat(ramp[:, :, None], 3, axis=2)
    carried = transformed(given, profile, of_space(space), (model, "rgb"))
    return rounded(carried[0, :, 1], HIGHEST).astype(np.uint16)


def meaning(
    profile: bytes, model: str, into: Space | None = None, assumed: Space | None = None, fallback: bytes = b""
) -> Meaning:
    """What values of a model mean that come with a profile, or with none.

    into: the working space they are wanted in; None for the smallest that holds them. assumed: what they are taken for
    where no profile that can be used says so: `into`, or sRGB, unless told. fallback: the profile of inks that come
    with none.
    """
    fits = _fits(profile, model)
    notes = []
    if profile and not fits:
        notes.append(
            f"The embedded profile ({describe(profile) or 'unnamed'}) could not be used; the values were taken as "
            f"{'plain inks' if model == 'cmyk' else (assumed or into or SRGB).title}. It is kept with the file."
        )
    if not fits and model == "cmyk":
        return _of_inks(fallback, into, notes)
    if not fits:
        taken = assumed or into or SRGB
        space = into or taken
        notes += [] if taken is space else [f"Taken as {taken.title}, and converted to {space.title}."]
        return Meaning(model, of_space(taken), space, taken is space or model == "gray", taken.title, True, (*notes,))
    space, name = into or smallest_for(profile), describe(profile) or "an unnamed profile"
    same = is_as(profile, space)
    if not same:
        notes.append(f"Converted from {name} to {space.title} on reading.")
    return Meaning(model, profile, space, same, name, False, (*notes,))


def _fits(profile: bytes, model: str) -> bool:
    """Whether values of a model can be read by a profile: a grey picture may come with one of RGB."""
    found = model_of(profile) if profile else ""
    return (
        bool(found)
        and found in {"gray": ("gray", "rgb"), "rgb": ("rgb",), "cmyk": ("cmyk",)}[model]
        and (_cube(profile) is not None)
    )


def _of_inks(fallback: bytes, into: Space | None, notes: list[str]) -> Meaning:
    if not fallback:
        raise ValueError(Fault("", "inks need a profile"))
    notes.append("No profile says what its inks are; they were taken as those of the practice press.")
    space = into or smallest_for(fallback)
    return Meaning("cmyk", fallback, space, False, describe(fallback), True, (*notes,))
