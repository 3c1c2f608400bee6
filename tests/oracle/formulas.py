"""The formulas of computation.md that several rules share, in float64."""

import numpy as np
from scipy.ndimage import gaussian_filter, grey_dilation, grey_erosion

WEIGHTS = np.array([0.2126, 0.7152, 0.0722])


def lin(x):
    a = np.abs(x)
    return np.sign(x) * np.where(a <= 0.04045, a / 12.92, ((a + 0.055) / 1.055) ** 2.4)


def enc(y):
    a = np.abs(y)
    return np.sign(y) * np.where(a <= 0.0031308, a * 12.92, 1.055 * a ** (1 / 2.4) - 0.055)


def luminance(c):
    return np.maximum(0, lin(c) @ WEIGHTS)


def tone(y):
    return np.where(y > 216 / 24389, 116 * np.cbrt(y) - 16, 24389 / 27 * y) / 100


def luminance_of(t):
    return np.where(t > 0.08, ((t + 0.16) / 1.16) ** 3, t * 100 * 27 / 24389)


def smoothstep(a, b, x):
    if a == b:
        return (x >= a).astype(float)
    u = np.clip((x - a) / (b - a), 0, 1)
    return u * u * (3 - 2 * u)


def tone_window(s, t):
    low, high = s.get("low", 0), s.get("high", 1)
    soft_low, soft_high = s.get("soft_low", 0), s.get("soft_high", 0)
    rise = smoothstep(low - soft_low, low, t) if soft_low else (t >= low - 1e-7).astype(float)
    fall = smoothstep(high, high + soft_high, t) if soft_high else (t > high + 1e-7).astype(float)
    return rise * (1 - fall)


def gauss(x, sigma):
    if sigma == 0:
        return x
    axes = (sigma, sigma) + (0,) * (x.ndim - 2)
    return gaussian_filter(x, axes, mode="reflect", truncate=6)


def grown(m, r):
    """The greatest value within r pixels; the least for r below 0."""
    if r == 0:
        return m
    reach = int(abs(r))
    dy, dx = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    change = grey_dilation if r > 0 else grey_erosion
    return change(m, footprint=dx * dx + dy * dy <= r * r, mode="reflect")


TO_LMS = np.array([
    [0.4122214708, 0.5363325363, 0.0514459929],
    [0.2119034982, 0.6806995451, 0.1073969566],
    [0.0883024619, 0.2817188376, 0.6299787005],
])  # fmt: skip
TO_LAB = np.array([
    [0.2104542553, 0.7936177850, -0.0040720468],
    [1.9779984951, -2.4285922050, 0.4505937099],
    [0.0259040371, 0.7827717662, -0.8086757660],
])  # fmt: skip


def oklab(c):
    return np.cbrt(lin(np.clip(c, 0, 1)) @ TO_LMS.T) @ TO_LAB.T


def light_of(lab):
    """Linear light of Oklab, in range or not."""
    return (lab @ np.linalg.inv(TO_LAB).T) ** 3 @ np.linalg.inv(TO_LMS).T


def as_far_as_it_goes(inside, wanted):
    """On the way from a colour in 0..1 to another, the last one that lies in 0..1."""
    way = wanted - inside
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(way > 0, (1 - inside) / way, np.where(way < 0, -inside / way, 1))
    return inside + np.clip(share, 0, 1).min(-1, keepdims=True) * way


def fitted(lab):
    """Encoded RGB of Oklab, the chroma lowered until it lies in range."""
    lab = np.array(lab)
    lab[..., 0] = np.clip(lab[..., 0], 0, 1)

    def light(share):
        scaled = np.concatenate([lab[..., :1], lab[..., 1:] * share], -1)
        return (scaled @ np.linalg.inv(TO_LAB).T) ** 3 @ np.linalg.inv(TO_LMS).T

    low, high = np.zeros_like(lab[..., :1]), np.ones_like(lab[..., :1])
    for _ in range(40):
        middle = (low + high) / 2
        rgb = light(middle)
        fits = ((rgb >= -1e-6) & (rgb <= 1 + 1e-6)).all(-1, keepdims=True)
        low, high = np.where(fits, middle, low), np.where(fits, high, middle)
    return enc(np.clip(light(low), 0, 1))


def over(cb, colour):
    """What lies beyond 0..1 keeps its distance."""
    return cb - np.clip(cb, 0, 1) + colour


def bias(x, b):
    return b * x / ((1 - 2 * b) * (1 - x) + b)
