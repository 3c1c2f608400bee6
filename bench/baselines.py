"""What the engine is measured against: the same stack in whole-picture NumPy float32, and a plain copy.

Written as one would write it in NumPy to be fast: tables for curves, in-place arithmetic, SciPy for the blur. Masks
and paintings are given ready-made, which is in the baseline's favour.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import gaussian_filter1d

Px = NDArray[np.float32]
WEIGHTS = np.array([0.2126, 0.7152, 0.0722], np.float32)
LUM = np.array([0.3, 0.59, 0.11], np.float32)
TABLE = 65536


def copied(codes: NDArray[np.uint16], out: NDArray[np.uint16], threads: int = 2) -> None:
    """A plain copy of 16-bit codes, in strips on all cores."""
    edges = np.linspace(0, codes.shape[1], threads + 1).astype(int)

    def copy(i: int) -> None:
        np.copyto(out[:, edges[i] : edges[i + 1]], codes[:, edges[i] : edges[i + 1]])

    with ThreadPoolExecutor(threads) as pool:
        list(pool.map(copy, range(threads)))


def lin(x: Px) -> Px:
    return np.where(
        x <= np.float32(0.04045),
        x * np.float32(1 / 12.92),
        ((x + np.float32(0.055)) * np.float32(1 / 1.055)) ** np.float32(2.4),
    )


def enc(y: Px) -> Px:
    y = np.maximum(y, np.float32(0))
    return np.where(
        y <= np.float32(0.0031308),
        y * np.float32(12.92),
        np.float32(1.055) * y ** np.float32(1 / 2.4) - np.float32(0.055),
    )


def _looked_up(x: Px, table: Px) -> Px:
    return table[(np.clip(x, 0, 1) * np.float32(TABLE - 1) + np.float32(0.5)).astype(np.uint16)]


def _curve(points: Any) -> Px:
    x, y = np.array(points).T
    at = np.clip(np.linspace(0, 1, TABLE), x[0], x[-1])
    return PchipInterpolator(x, y)(at).astype(np.float32)


def _tone(px: Px) -> Px:
    y = np.maximum(np.tensordot(WEIGHTS, lin(px), 1), 0)
    return np.where(y > 216 / 24389, np.float32(1.16) * np.cbrt(y) - np.float32(0.16), y * np.float32(9.03296))


def curves(px: Px, settings: dict[str, Any]) -> Px:
    points = settings["points"]
    out = px
    for c, name in enumerate(("red", "green", "blue")):
        for part in (name, "rgb"):
            if part in points:
                out = out.copy() if out is px else out
                out[c] = _looked_up(out[c], _curve(points[part]))
    if "tone" in points:
        light = lin(out)
        y = np.maximum(np.tensordot(WEIGHTS, light, 1), 0)
        t = np.where(y > 216 / 24389, np.float32(1.16) * np.cbrt(y) - np.float32(0.16), y * np.float32(9.03296))
        moved = _looked_up(t, _curve(points["tone"]))
        new = np.where(moved > 0.08, ((moved + np.float32(0.16)) / np.float32(1.16)) ** 3, moved / np.float32(9.03296))
        light *= new / np.maximum(y, np.float32(5e-8))
        out = enc(light)
    return out


def levels(px: Px, settings: dict[str, Any]) -> Px:
    s = settings["rgb"]
    u = np.clip((px - np.float32(s["black"])) * np.float32(1 / (s["white"] - s["black"])), 0, 1)
    return u ** np.float32(1 / s.get("gamma", 1)) if s.get("gamma", 1) != 1 else u


def exposure(px: Px, settings: dict[str, Any]) -> Px:
    return enc(lin(px) * np.float32(2 ** settings["stops"]))


def vignette(px: Px, settings: dict[str, Any]) -> Px:
    _, h, w = px.shape
    (cx, cy), (rx, ry) = settings["centre"], settings["radii"]
    x = ((np.arange(w) + 0.5 - cx) / rx).astype(np.float32)[None]
    y = ((np.arange(h) + 0.5 - cy) / ry).astype(np.float32)[:, None]
    u = np.clip(
        (np.sqrt(x * x + y * y) - np.float32(1 - settings["softness"])) / np.float32(settings["softness"]), 0, 1
    )
    return enc(lin(px) * np.exp2(np.float32(settings["stops"]) * (u * u * (3 - 2 * u))))


def gradient(px: Px, settings: dict[str, Any]) -> tuple[Px, Px]:
    _, h, w = px.shape
    (x0, y0), (x1, y1) = settings["from"], settings["to"]
    dx, dy = x1 - x0, y1 - y0
    along = (((np.arange(w) + 0.5 - x0) * dx)[None] + ((np.arange(h) + 0.5 - y0) * dy)[:, None]).astype(np.float32)
    u = np.clip(along / np.float32(dx * dx + dy * dy), 0, 1)
    a, b = settings["stops"]
    colour = np.stack([np.float32(p) + u * np.float32(q - p) for p, q in zip(a["colour"], b["colour"], strict=True)])
    return colour, np.float32(1) + u * np.float32(b["alpha"] - 1)


def blur(px: Px, settings: dict[str, Any]) -> Px:
    across = gaussian_filter1d(px, settings["sigma"], axis=2, mode="reflect")
    return gaussian_filter1d(across, settings["sigma"], axis=1, mode="reflect")


TO_LMS = np.array([[0.4122214708, 0.5363325363, 0.0514459929], [0.2119034982, 0.6806995451, 0.1073969566],
                   [0.0883024619, 0.2817188376, 0.6299787005]], np.float32)  # fmt: skip
TO_LAB = np.array([[0.2104542553, 0.7936177850, -0.0040720468], [1.9779984951, -2.4285922050, 0.4505937099],
                   [0.0259040371, 0.7827717662, -0.8086757660]], np.float32)  # fmt: skip
FROM_LMS, FROM_LAB = np.linalg.inv(TO_LMS), np.linalg.inv(TO_LAB)
HALVINGS = 14


def _oklab(px: Px) -> Px:
    return np.tensordot(TO_LAB, np.cbrt(np.tensordot(TO_LMS, lin(np.clip(px, 0, 1)), 1)), 1)


def _light(lab: Px) -> Px:
    return np.tensordot(FROM_LMS, np.tensordot(FROM_LAB, lab, 1) ** 3, 1)


def _inside(light: Px) -> NDArray[np.bool_]:
    return (light.min(0) >= -1e-6) & (light.max(0) <= 1 + 1e-6)


def _fitted(lab: Px) -> Px:
    """Encoded colour; where it lies outside, and only there, the chroma that fits is looked for."""
    light = _light(lab)
    outside = ~_inside(light)
    if outside.any():
        wrong = lab[:, outside]
        low, high = np.zeros(wrong.shape[1], np.float32), np.ones(wrong.shape[1], np.float32)
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            fits = _inside(_light(np.stack([wrong[0], wrong[1] * middle, wrong[2] * middle])))
            low, high = np.where(fits, middle, low), np.where(fits, high, middle)
        light[:, outside] = _light(np.stack([wrong[0], wrong[1] * low, wrong[2] * low]))
    return enc(np.clip(light, 0, 1))


def hue_saturation(px: Px, settings: dict[str, Any]) -> Px:
    lab = _oklab(px)
    angle = np.deg2rad(settings["hue"])
    cos, sin = np.float32(np.cos(angle)), np.float32(np.sin(angle))
    more = np.float32(1 + settings["saturation"])
    lab[1], lab[2] = (lab[1] * cos - lab[2] * sin) * more, (lab[1] * sin + lab[2] * cos) * more
    return _fitted(lab)


def vibrance(px: Px, settings: dict[str, Any]) -> Px:
    lab = _oklab(px)
    lacking = 1 - np.minimum(np.hypot(lab[1], lab[2]) * np.float32(1 / 0.3), 1)
    lab[1:] *= 1 + np.float32(settings["vibrance"]) * lacking * lacking
    return _fitted(lab)


def local_contrast(px: Px, settings: dict[str, Any]) -> Px:
    def soft(plane: Px) -> Px:
        sigma = settings["radius"] / 2
        return gaussian_filter1d(gaussian_filter1d(plane, sigma, axis=1, mode="reflect"), sigma, axis=0, mode="reflect")

    t = _tone(px)
    mean = soft(t)
    spread = np.maximum(soft(t * t) - mean * mean, 0)
    a = spread / (spread + np.float32(0.08**2))
    base = soft(a) * t + soft((1 - a) * mean)
    moved = t + np.float32(settings["amount"]) * (t - base)
    light = lin(px)
    y = np.maximum(np.tensordot(WEIGHTS, light, 1), np.float32(5e-8))
    new = np.where(moved > 0.08, ((moved + np.float32(0.16)) / np.float32(1.16)) ** 3, moved / np.float32(9.03296))
    return enc(light * (new / y))


def overlay(cb: Px, cs: Px) -> Px:
    return np.where(cb <= 0.5, 2 * cb * cs, 1 - 2 * (1 - cb) * (1 - cs))


def soft_light(cb: Px, cs: Px) -> Px:
    d = np.where(cb <= 0.25, ((16 * cb - 12) * cb + 4) * cb, np.sqrt(cb))
    return np.where(cs <= 0.5, cb - (1 - 2 * cs) * cb * (1 - cb), cb + (2 * cs - 1) * (d - cb))


def color(cb: Px, cs: Px) -> Px:
    mixed = cs + (np.tensordot(LUM, cb, 1) - np.tensordot(LUM, cs, 1))
    l = np.tensordot(LUM, mixed, 1)
    n, x = mixed.min(0), mixed.max(0)
    mixed = np.where(n < 0, l + (mixed - l) * (l / np.maximum(l - n, np.float32(1e-9))), mixed)
    return np.where(x > 1, l + (mixed - l) * ((1 - l) / np.maximum(x - l, np.float32(1e-9))), mixed)


BLENDS = {"overlay": overlay, "color": color}
KINDS = {
    "curves": curves, "levels": levels, "exposure": exposure, "vignette": vignette, "blur": blur,
    "hue-saturation": hue_saturation, "vibrance": vibrance, "local-contrast": local_contrast,
}  # fmt: skip


def rendered(
    codes: NDArray[np.uint16], layers: list[dict[str, Any]], masks: dict[str, Px], paintings: dict[str, Px]
) -> NDArray[np.uint16]:
    """The finished 16-bit codes of a stack, every layer over the whole picture at once."""
    px = codes.astype(np.float32)
    px *= np.float32(1 / 65535)
    for layer in layers:
        alpha: Any = np.float32(layer.get("opacity", 1))
        mask = masks.get(layer["id"])
        if mask is not None:
            alpha = alpha * mask
        if layer["kind"] == "grey":
            inside = np.clip(px, 0, 1)
            px += alpha * (soft_light(inside, paintings[layer["id"]]) - inside)
            continue
        if layer["kind"] == "gradient":
            source, own = gradient(px, layer["settings"])
            alpha = alpha * own
        elif layer["kind"] == "fill":
            source = np.broadcast_to(np.array(layer["settings"]["colour"], np.float32)[:, None, None], px.shape)
        else:
            source = KINDS[layer["kind"]](px, layer["settings"])
        if "blend" in layer:
            source = BLENDS[layer["blend"]](np.clip(px, 0, 1), source)
        px += alpha * (source - px)
    return (np.clip(px, 0, 1) * np.float32(65535) + np.float32(0.5)).astype(np.uint16)
