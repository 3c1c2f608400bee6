"""Raw files from a camera, developed by LibRaw to 16 bits: primaries of ITU-R BT.2020 and the curve of sRGB, which is
what the working space `wide` is."""

from __future__ import annotations

from typing import Any

import numpy as np
import rawpy
from numpy.typing import NDArray

from glyptic.decoders.found import Fits, Found, Refused

CURVE = (2.4, 12.92)
"""The power and the slope at black of IEC 61966-2-1, as LibRaw takes them."""
HIGHLIGHTS = {
    "clip": rawpy.HighlightMode.Clip,
    "blend": rawpy.HighlightMode.Blend,
    "rebuild": rawpy.HighlightMode.ReconstructDefault,
}


def read(path: str, fits: Fits, asked: dict[str, Any]) -> Found:
    """asked: from_xyz, XYZ to linear sRGB; light, XYZ of the light that counts as white, or None for what the camera
    set; gain, what light is multiplied by; highlights; half, whether half the size will do."""
    try:
        opened = rawpy.imread(path)
    except rawpy.LibRawError as error:
        raise Refused("No raw file that is known, or a damaged one.") from error
    with opened as raw:
        sizes = raw.sizes
        fits(sizes.iwidth, sizes.iheight)
        to_sensor = _to_sensor(raw, np.array(asked["from_xyz"]))
        shot = np.array(raw.camera_whitebalance, np.float64)[:3]
        white = _multipliers(to_sensor, asked["light"])
        samples = raw.postprocess(
            output_color=rawpy.ColorSpace.Rec2020, gamma=CURVE, output_bps=16, no_auto_bright=True,
            use_camera_wb=white is None and bool((shot > 0).all()), user_wb=white, exp_shift=asked["gain"],
            highlight_mode=HIGHLIGHTS[asked["highlights"]], half_size=asked["half"],
        )  # fmt: skip
    return Found(samples, turned=True, facts={"light": _light(to_sensor, shot)})


def _to_sensor(raw: rawpy.RawPy, from_xyz: NDArray[np.float64]) -> NDArray[np.float64]:
    """XYZ to what the sensor sees: from LibRaw's table of cameras, or from how it would turn what it sees into sRGB."""
    known = np.array(raw.rgb_xyz_matrix, np.float64)[:3]
    to_srgb = np.array(raw.color_matrix, np.float64)[:3, :3]
    balance = np.array(raw.daylight_whitebalance, np.float64)[:3]
    if known.any() or abs(np.linalg.det(to_srgb)) < 1e-9 or not (balance > 0).all():
        return known
    return np.asarray(np.diag(1 / balance) @ np.linalg.inv(to_srgb) @ from_xyz)


def _multipliers(to_sensor: NDArray[np.float64], light: list[float] | None) -> list[float] | None:
    """What the sensor's red, green, blue and second green are multiplied by, so that a light comes out as grey."""
    if light is None:
        return None
    seen = to_sensor @ np.array(light)
    if not (seen > 0).all():
        raise Refused("This camera's colours are not known well enough to choose the light; take it as the camera did.")
    red, green, blue = (float(seen[1] / value) for value in seen)
    return [red, green, blue, green]


def _light(to_sensor: NDArray[np.float64], shot: NDArray[np.float64]) -> list[float] | None:
    """XYZ of the light that the camera took for white, Y = 1; None where that is not known."""
    if not (shot > 0).all() or abs(np.linalg.det(to_sensor)) < 1e-9:
        return None
    light = np.linalg.solve(to_sensor, 1 / shot)
    return None if light[1] <= 0 else [float(value) for value in light / light[1]]
