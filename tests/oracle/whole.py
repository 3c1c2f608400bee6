"""An independent whole-picture float64 renderer of computation.md, for level 0, on plain NumPy and SciPy.

It works on the stack file's plain data, shares nothing with the package, and is slow on purpose: every formula is
written the way the contract states it.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import gaussian_filter

WEIGHTS = np.array([0.2126, 0.7152, 0.0722])
NON_SEPARABLE = ("hue", "saturation", "color", "luminosity")
NEUTRAL_GREY_MODES = ("soft-light", "overlay", "hard-light")


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


def blend(mode, cb, cs):
    if mode == "normal":
        return cs
    cb, cs = np.clip(cb, 0, 1), np.clip(cs, 0, 1)
    if mode in NON_SEPARABLE:
        return non_separable(mode, cb, cs)
    with np.errstate(divide="ignore", invalid="ignore"):
        dodge = np.where(cb == 0, 0, np.where(cs == 1, 1, np.minimum(1, cb / (1 - cs))))
        burn = np.where(cb == 1, 1, np.where(cs == 0, 0, 1 - np.minimum(1, (1 - cb) / cs)))
    d = np.where(cb <= 0.25, ((16 * cb - 12) * cb + 4) * cb, np.sqrt(cb))

    def hard(b, s):
        return np.where(s <= 0.5, b * 2 * s, b + (2 * s - 1) - b * (2 * s - 1))

    return {
        "multiply": lambda: cb * cs,
        "screen": lambda: cb + cs - cb * cs,
        "overlay": lambda: hard(cs, cb),
        "darken": lambda: np.minimum(cb, cs),
        "lighten": lambda: np.maximum(cb, cs),
        "color-dodge": lambda: dodge,
        "color-burn": lambda: burn,
        "hard-light": lambda: hard(cb, cs),
        "soft-light": lambda: np.where(cs <= 0.5, cb - (1 - 2 * cs) * cb * (1 - cb), cb + (2 * cs - 1) * (d - cb)),
        "difference": lambda: np.abs(cb - cs),
        "exclusion": lambda: cb + cs - 2 * cb * cs,
    }[mode]()


def lum(c):
    return (c @ np.array([0.3, 0.59, 0.11]))[..., None]


def set_lum(c, l):
    c = c + (l - lum(c))
    l = lum(c)
    n, x = c.min(-1, keepdims=True), c.max(-1, keepdims=True)
    with np.errstate(divide="ignore", invalid="ignore"):
        c = np.where(n < 0, l + (c - l) * l / (l - n), c)
        return np.where(x > 1, l + (c - l) * (1 - l) / (x - l), c)


def sat(c):
    return c.max(-1, keepdims=True) - c.min(-1, keepdims=True)


def set_sat(c, s):
    span = sat(c)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(span > 0, (c - c.min(-1, keepdims=True)) * s / span, 0)


def non_separable(mode, cb, cs):
    if mode == "hue":
        return set_lum(set_sat(cs, sat(cb)), lum(cb))
    if mode == "saturation":
        return set_lum(set_sat(cb, sat(cs)), lum(cb))
    return set_lum(cs, lum(cb)) if mode == "color" else set_lum(cb, lum(cs))


class Whole:
    """Renders one stack of plain data over one base picture (h, w, 3) in 0..1."""

    def __init__(self, stack, base, pictures=None):
        self.stack = stack
        self.base = base
        self.pictures = pictures or {}
        h, w = base.shape[:2]
        self.y, self.x = np.mgrid[0:h, 0:w] + 0.5

    def render(self):
        return self.through(self.stack["layers"][1:], self.base)

    def through(self, layers, c):
        for layer in layers:
            c = self.layer(layer, c)
        return c

    def layer(self, layer, cb):
        kind, settings = layer["kind"], layer.get("settings", {})
        if not layer.get("visible", True):
            return cb
        mode = layer.get("blend", "soft-light" if kind == "grey" else "normal")
        a = layer.get("opacity", 1) * self.mask(layer.get("mask"), cb)[..., None]
        if kind == "group":
            return cb + a * (self.through(layer["layers"], cb) - cb)
        if kind == "grey":
            return self.grey(layer, settings, mode, cb, a)
        cs, alpha = getattr(self, kind.replace("-", "_"))(settings, cb)
        return cb + a * alpha * (blend(mode, cb, cs) - cb)

    def grey(self, layer, settings, mode, cb, a):
        g = self.painting(layer.get("strokes", []), np.full(cb.shape[:2], 0.5))
        inside = np.clip(cb, 0, 1)
        if settings.get("reach"):
            g = 0.5 + (g - 0.5) * tone_window(settings["reach"], tone(luminance(cb)))
        b = blend(mode, inside, np.repeat(g[..., None], 3, -1))
        if settings.get("hold_colour"):
            y, below = luminance(b)[..., None], luminance(inside)[..., None]
            with np.errstate(divide="ignore", invalid="ignore"):
                light = np.where(below > 0, lin(inside) * y / below, y)
                top = light.max(-1, keepdims=True)
                k = np.where(top > 1, (1 - y) / (top - y), 1)
            b = enc(y + (light - y) * k)
        neutral = (g == 0.5) & (mode in NEUTRAL_GREY_MODES)
        return np.where(neutral[..., None], cb, cb + a * (b - inside))

    def fill(self, settings, cb):
        return np.broadcast_to(np.array(settings["colour"], float), cb.shape), 1.0

    def gradient(self, settings, cb):
        f, t = np.array(settings["from"], float), np.array(settings["to"], float)
        d = t - f
        if settings.get("shape", "linear") == "linear":
            u = ((self.x - f[0]) * d[0] + (self.y - f[1]) * d[1]) / (d @ d)
        else:
            u = np.hypot(self.x - f[0], self.y - f[1]) / np.hypot(*d)
        u = np.clip(u, 0, 1)
        at = [s["at"] for s in settings["stops"]]
        colour = [np.interp(u, at, [s["colour"][k] for s in settings["stops"]]) for k in range(3)]
        return np.stack(colour, -1), np.interp(u, at, [s.get("alpha", 1) for s in settings["stops"]])[..., None]

    def oval_p(self, s):
        turn = np.deg2rad(s.get("rotation", 0))
        dx, dy = self.x - s["centre"][0], self.y - s["centre"][1]
        u = (dx * np.cos(turn) + dy * np.sin(turn)) / s["radii"][0]
        v = (-dx * np.sin(turn) + dy * np.cos(turn)) / s["radii"][1]
        return 1 - smoothstep(1 - s.get("softness", 0), 1, np.hypot(u, v))

    def vignette(self, settings, cb):
        v = (1 - self.oval_p(settings))[..., None]
        return enc(lin(cb) * 2 ** (settings.get("stops", 0) * v)), 1.0

    def exposure(self, settings, cb):
        stops, offset = settings.get("stops", 0), settings.get("offset", 0)
        return (cb if stops == offset == 0 else enc(lin(cb) * 2.0**stops + offset)), 1.0

    def invert(self, settings, cb):
        return cb + settings.get("strength", 0) * (1 - 2 * cb), 1.0

    def brightness_contrast(self, settings, cb):
        b, g = 0.5 + 0.4 * settings.get("brightness", 0), 0.5 - 0.4 * settings.get("contrast", 0)

        def moved(x):
            y = bias(x, b)
            return np.where(y < 0.5, bias(2 * y, g) / 2, 1 - bias(2 - 2 * y, g) / 2)

        tiny = 1e-7
        first, last = moved(tiny) / tiny, (1 - moved(1 - tiny)) / tiny
        return moved(np.clip(cb, 0, 1)) + first * np.minimum(cb, 0) + last * np.maximum(cb - 1, 0), 1.0

    def white_balance(self, settings, cb):
        """The sums of CIE 15 and of the Bradford transform, with the rounded sRGB matrix of IEC 61966-2-1."""
        kelvin, tint = settings.get("temperature", 6504), settings.get("tint", 0)

        def uv(k):
            a = (-4.6070e9, 2.9678e6, 0.09911e3, 0.244063) if k <= 7000 else (-2.0064e9, 1.9018e6, 0.24748e3, 0.237040)
            x = np.polyval(a, 1 / k)
            y = np.polyval((-3, 2.87, -0.275), x)
            return (4 * x + 6j * y) / (12 * y - 2 * x + 3)

        def white(z):
            x, y = 3 * z.real / (2 * z.real - 8 * z.imag + 4), 2 * z.imag / (2 * z.real - 8 * z.imag + 4)
            return np.array([x, y, 1 - x - y]) / y

        along = uv(kelvin + 1) - uv(kelvin - 1)
        across = along / abs(along) * 1j
        across *= np.sign(across.imag)
        cone = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
        scale = (cone @ white(uv(6504))) / (cone @ white(uv(kelvin) + 0.02 * tint * across))
        xyz = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
        m = np.linalg.inv(xyz) @ np.linalg.inv(cone) @ np.diag(scale) @ cone @ xyz
        return enc(lin(cb) @ m.T), 1.0

    def vibrance(self, settings, cb):
        lab = oklab(cb)
        c = np.hypot(lab[..., 1], lab[..., 2])
        more = 1 + settings.get("vibrance", 0) * (1 - np.minimum(c / 0.3, 1)) ** 2
        lab[..., 1:] *= (more * (1 + settings.get("saturation", 0)))[..., None]
        return over(cb, fitted(lab)), 1.0

    def hue_saturation(self, settings, cb):
        s = {"hue": 0, "saturation": 0, "lightness": 0, "centre": 0, "width": 360, "border": 0.3, **settings}
        lab = oklab(cb)
        c = np.hypot(lab[..., 1], lab[..., 2])
        away = np.abs((np.degrees(np.arctan2(lab[..., 2], lab[..., 1])) - s["centre"] + 180) % 360 - 180)
        inside = 1 - smoothstep(s["width"] / 2, s["width"] / 2 + max(1, 90 * s["border"]), away)
        w = inside * smoothstep(0, 0.02, c) if s["width"] < 360 else np.ones_like(c)
        if s.get("tint"):
            w = np.ones_like(c)
            h, chroma = np.radians(s["hue"]), 0.15 * (1 + s["saturation"])
            lab[..., 1], lab[..., 2] = chroma * np.cos(h), chroma * np.sin(h)
        else:
            turned = (lab[..., 1] + 1j * lab[..., 2]) * np.exp(1j * np.radians(s["hue"]))
            ab = lab[..., 1] + 1j * lab[..., 2]
            ab = (ab + w * (turned - ab)) * (1 + w * s["saturation"])
            lab[..., 1], lab[..., 2] = ab.real, ab.imag
        room = 1 - lab[..., 0] if s["lightness"] > 0 else lab[..., 0]
        lab[..., 0] += w * s["lightness"] * room
        return over(cb, np.where((w > 0)[..., None], fitted(lab), np.clip(cb, 0, 1))), 1.0

    def levels(self, settings, cb):
        out = cb.copy()
        for name, channels in (("red", [0]), ("green", [1]), ("blue", [2]), ("rgb", [0, 1, 2])):
            s = {"black": 0, "white": 1, "gamma": 1, "out_black": 0, "out_white": 1, **settings.get(name, {})}
            if s == {"black": 0, "white": 1, "gamma": 1, "out_black": 0, "out_white": 1}:
                continue
            u = np.clip((out[..., channels] - s["black"]) / (s["white"] - s["black"]), 0, 1)
            out[..., channels] = s["out_black"] + (s["out_white"] - s["out_black"]) * u ** (1 / s["gamma"])
        return out, 1.0

    @staticmethod
    def curve(points, v):
        x, y = np.array(points, float).T
        if x[0] == 0 and x[-1] == 1 and (x == y).all():
            return v
        return PchipInterpolator(x, y)(np.clip(v, x[0], x[-1]))

    def curves(self, settings, cb):
        points = settings.get("points", {})
        straight = [[0, 0], [1, 1]]
        out = np.stack([
            self.curve(points.get("rgb", straight), self.curve(points.get(n, straight), cb[..., k]))
            for k, n in enumerate(("red", "green", "blue"))
        ], -1)  # fmt: skip
        if "tone" in points:
            y = luminance(out)[..., None]
            new = luminance_of(self.curve(points["tone"], tone(y)))
            with np.errstate(divide="ignore", invalid="ignore"):
                out = enc(np.where(y > 0, lin(out) * new / y, new))
        return out, 1.0

    def blur(self, settings, cb):
        return gauss(cb, settings["sigma"]), 1.0

    def mask(self, mask, cb):
        m = np.ones(cb.shape[:2])
        if mask is None or not mask.get("enabled", True):
            return m
        if mask.get("start", "open") == "closed":
            m = np.zeros(cb.shape[:2])
        for part in mask.get("parts", []):
            m = self.part(part, m, cb)
        if mask.get("invert"):
            m = 1 - m
        m = gauss(m, mask.get("feather", 0))
        return 1 - mask.get("density", 1) * (1 - m)

    def part(self, part, m, cb):
        if part["kind"] == "paint":
            return self.painting(part.get("strokes", []), m)
        seen = self.base if part.get("of") == "base" else cb
        p = gauss(getattr(self, f"{part['kind']}_part")(part, seen), part.get("feather", 0))
        if part.get("invert"):
            p = 1 - p
        return {"show": m + p * (1 - m), "hide": m * (1 - p), "keep": m * p}[part.get("op", "show")]

    def ramp_part(self, s, seen):
        f, t = np.array(s["from"], float), np.array(s["to"], float)
        d = t - f
        u = np.clip(((self.x - f[0]) * d[0] + (self.y - f[1]) * d[1]) / (d @ d), 0, 1)
        return 1 - (smoothstep(0, 1, u) if s.get("ease", "smooth") == "smooth" else u)

    def oval_part(self, s, seen):
        p = self.oval_p(s)
        return p if s.get("inside", True) else 1 - p

    def outline_part(self, s, seen, n=60):
        """Even-odd coverage by n x n points a pixel."""
        h, w = self.x.shape
        offsets = (np.arange(n) + 0.5) / n
        y, x = np.arange(h)[:, None] + offsets, np.arange(w)[:, None] + offsets
        ys, xs = y.reshape(-1)[:, None], x.reshape(-1)[None, :]
        inside = np.zeros((h * n, w * n), bool)
        points = s["points"]
        for (xa, ya), (xb, yb) in zip(points, points[1:] + points[:1], strict=True):
            if ya == yb:
                continue
            crosses = (ya <= ys) != (yb <= ys)
            inside ^= crosses & (xs >= xa + (ys - ya) / (yb - ya) * (xb - xa))
        return inside.reshape(h, n, w, n).mean((1, 3))

    def tone_part(self, s, seen):
        return tone_window(s, tone(luminance(seen)))

    def colour_part(self, s, seen):
        d = np.linalg.norm(oklab(seen) - oklab(np.array(s["colour"], float)), axis=-1)
        tolerance, softness = s.get("tolerance", 0.1), s.get("softness", 0)
        return 1 - smoothstep(tolerance, tolerance + softness, d) if softness else (d <= tolerance).astype(float)

    def raster_part(self, s, seen):
        return self.pictures[s["source"]]

    def painting(self, strokes, m):
        for stroke in strokes:
            cover = self.cover(stroke)
            to = gauss(m, stroke["even"]) if "even" in stroke else stroke["to"]
            m = m + cover * (to - m)
        return m

    def cover(self, stroke):
        s = np.zeros(self.x.shape)
        driven = stroke.get("pressure", {})
        hardness = stroke["hardness"]
        for x, y, pressure in dabs(stroke):
            r = max(stroke["size"] / 2 * (pressure if driven.get("size") else 1), 0.5)
            flow = stroke["flow"] * (pressure if driven.get("flow") else 1)
            opacity = stroke["opacity"] * (pressure if driven.get("opacity") else 1)
            d = np.hypot(self.x - x, self.y - y)
            u = np.clip(((1 + hardness) / 2 * r - d) / max((1 - hardness) * r, 1) + 0.5, 0, 1)
            s = s + flow * u * u * (3 - 2 * u) * np.maximum(0, opacity - s)
        return s


def dabs(stroke):
    """The first dab at the first point, each next after max(spacing · diameter, 0.5) px of arc from the last."""
    points = [(*p, 1.0)[:3] for p in stroke["points"]]
    by_size = stroke.get("pressure", {}).get("size", False)
    spacing = stroke.get("spacing", 0.1)

    def step(pressure):
        return max(spacing * 2 * max(stroke["size"] / 2 * (pressure if by_size else 1), 0.5), 0.5)

    out = [points[0]]
    left = step(points[0][2])
    corners = [np.array(p, float) for p in points]
    for a, b in pairwise(corners):
        length = np.hypot(*(b - a)[:2])
        at = 0.0
        while length - at >= left:
            at += left
            out.append(tuple(a + (b - a) * at / length))
            left = step(out[-1][2])
        left -= length - at
    return out
