"""The formulas of computation.md that several rules share, in float64."""

from fractions import Fraction

import numpy as np
from scipy.ndimage import gaussian_filter, grey_dilation, grey_erosion

TO_XYZ = {
    "srgb": "506752/1228815 87881/245763 12673/70218 87098/409605 175762/245763 12673/175545 7918/409605 87881/737289 "
    "1001167/1053270",
    "display-p3": "608311/1250200 189793/714400 198249/1000160 35783/156275 247089/357200 198249/2500400 0 32229/714400 "
    "5220557/5000800",
    "wide": "63426534/99577255 20160776/139408157 47086771/278816314 26158966/99577255 472592308/697040785 "
    "8267143/139408157 0 19567812/697040785 295819943/278816314",
}
"""Linear light to XYZ under D65, as CSS Color 4 publishes it for sRGB, display-p3 and rec2020."""


def lin(x):
    a = np.abs(x)
    return np.sign(x) * np.where(a <= 0.04045, a / 12.92, ((a + 0.055) / 1.055) ** 2.4)


def enc(y):
    a = np.abs(y)
    return np.sign(y) * np.where(a <= 0.0031308, a * 12.92, 1.055 * a ** (1 / 2.4) - 0.055)


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


XYZ_TO_LMS = np.array([
    [0.8190224379967030, 0.3619062600528904, -0.1288737815209879],
    [0.0329836539323885, 0.9292868615863434, 0.0361446663506424],
    [0.0481771893596242, 0.2642395317527308, 0.6335478284694309],
])  # fmt: skip
TO_LAB = np.array([
    [0.2104542683093140, 0.7936177747023054, -0.0040720430116193],
    [1.9779985324311684, -2.4285922420485799, 0.4505937099617411],
    [0.0259040424655478, 0.7827717124575296, -0.8086757549230774],
])  # fmt: skip


class Colours:
    """What depends on a working space's primaries."""

    def __init__(self, space="srgb"):
        self.to_xyz = np.array([float(Fraction(v)) for v in TO_XYZ[space].split()]).reshape(3, 3)
        self.to_lms = XYZ_TO_LMS @ self.to_xyz

    def luminance(self, c):
        return np.maximum(0, lin(c) @ self.to_xyz[1])

    def oklab(self, c):
        return np.cbrt(lin(np.clip(c, 0, 1)) @ self.to_lms.T) @ TO_LAB.T

    def light_of(self, lab):
        """Linear light of Oklab, in range or not."""
        return (lab @ np.linalg.inv(TO_LAB).T) ** 3 @ np.linalg.inv(self.to_lms).T

    def fitted(self, lab):
        """Encoded RGB of Oklab, the chroma lowered until it lies in range."""
        lab = np.array(lab)
        lab[..., 0] = np.clip(lab[..., 0], 0, 1)

        def light(share):
            return self.light_of(np.concatenate([lab[..., :1], lab[..., 1:] * share], -1))

        low, high = np.zeros_like(lab[..., :1]), np.ones_like(lab[..., :1])
        for _ in range(40):
            middle = (low + high) / 2
            rgb = light(middle)
            fits = ((rgb >= -1e-6) & (rgb <= 1 + 1e-6)).all(-1, keepdims=True)
            low, high = np.where(fits, middle, low), np.where(fits, high, middle)
        return enc(np.clip(light(low), 0, 1))


def as_far_as_it_goes(inside, wanted):
    """On the way from a colour in 0..1 to another, the last one that lies in 0..1."""
    way = wanted - inside
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(way > 0, (1 - inside) / way, np.where(way < 0, -inside / way, 1))
    return inside + np.clip(share, 0, 1).min(-1, keepdims=True) * way


def over(cb, colour):
    """What lies beyond 0..1 keeps its distance."""
    return cb - np.clip(cb, 0, 1) + colour


def bias(x, b):
    return b * x / ((1 - 2 * b) * (1 - x) + b)
