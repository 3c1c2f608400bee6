"""An independent whole-picture float64 renderer of computation.md, for level 0, on plain NumPy and SciPy.

It works on the stack file's plain data, shares nothing with the package, and is slow on purpose: every formula is
written the way the contract states it.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from scipy.interpolate import PchipInterpolator

from tests.oracle.formulas import (
    Colours,
    as_far_as_it_goes,
    enc,
    gauss,
    grown,
    lin,
    luminance_of,
    smoothstep,
    tone,
    tone_window,
)
from tests.oracle.methods import Methods
from tests.oracle.quads import framed, placed


def with_middles(stops):
    """The stops of a gradient and, where the middle between two is not half way, one of the mean colour there."""
    found = []
    for a, b in pairwise(stops):
        share = a.get("middle", 0.5)
        mean = [(x + y) / 2 for x, y in zip(a["colour"], b["colour"], strict=True)]
        found += [
            a,
            {
                "at": a["at"] + share * (b["at"] - a["at"]),
                "colour": mean,
                "alpha": (a.get("alpha", 1) + b.get("alpha", 1)) / 2,
            },
        ]
    return [{"alpha": 1, **stop} for stop in [*found, stops[-1]]]


NON_SEPARABLE = ("hue", "saturation", "color", "luminosity")
NEUTRAL_GREY_MODES = ("soft-light", "overlay", "hard-light")


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


class Whole(Methods):
    """Renders one stack of plain data over one base picture (h, w, 3) in 0..1."""

    def __init__(self, stack, base, pictures=None):
        self.stack = stack
        self.colours = Colours((stack or {}).get("working_space", "srgb"))
        self.base = base
        self.pictures = pictures or {}
        self.masks = {}
        h, w = base.shape[:2]
        self.y, self.x = np.mgrid[0:h, 0:w] + 0.5

    def render(self):
        finished = self.through(self.stack["layers"][1:], self.base)
        frame = self.stack.get("frame")
        if not frame or not frame.get("enabled", True):
            return finished
        over = {"layers": [None, *frame.get("layers", [])]}
        return Whole(over, framed(self.base, frame), self.pictures).over(framed(finished, frame))

    def over(self, sheet):
        """The sheet's layers over a sheet; the base is the framed base."""
        return self.through(self.stack["layers"][1:], sheet)

    def through(self, layers, c):
        for layer in layers:
            c = self.layer(layer, c)
        return c

    def layer(self, layer, cb):
        kind, settings = layer["kind"], layer.get("settings", {})
        m = self.mask_of(layer, cb)
        if not layer.get("visible", True):
            return cb
        mode = layer.get("blend", "soft-light" if kind == "grey" else "normal")
        a = layer.get("opacity", 1) * m[..., None]
        if kind == "group" and layer.get("mode") == "isolated":
            colour, alpha = self.isolated(layer["layers"], cb, np.zeros(cb.shape[:2])[..., None])
            return cb + a * alpha * (blend(mode, cb, colour) - cb)
        if kind == "group":
            return cb + a * (self.through(layer["layers"], cb) - cb)
        if kind == "grey":
            return self.grey(layer, settings, mode, cb, a)
        if kind == "picture":
            cs, alpha = self.picture(layer)
        else:
            cs, alpha = getattr(self, kind.replace("-", "_"))(settings, cb)
        return cb + a * alpha * (blend(mode, cb, cs) - cb)

    def isolated(self, layers, c, alpha):
        """Colour and alpha of what layers bring: W3C Compositing 1, section 5, on a backdrop with an alpha."""
        for layer in layers:
            kind, settings = layer["kind"], layer.get("settings", {})
            m = self.mask_of(layer, c)
            if not layer.get("visible", True):
                continue
            a = layer.get("opacity", 1) * m[..., None]
            mode = layer.get("blend", "normal")
            if kind == "group" and layer.get("mode", "through") == "through":
                inner, brought = self.isolated(layer["layers"], c, alpha)
                new = alpha + a * (brought - alpha)
                with np.errstate(divide="ignore", invalid="ignore"):
                    share = np.where(new > 0, a * brought / new, a)
                c, alpha = c + share * (inner - c), new
                continue
            if kind == "group":
                cs, own = self.isolated(layer["layers"], c, np.zeros_like(alpha))
            elif kind == "picture":
                cs, own = self.picture(layer)
            elif kind in ("fill", "gradient"):
                cs, own = getattr(self, kind)(settings, c)
            else:
                c = self.layer(layer, c)
                continue
            source = a * own
            new = source + alpha * (1 - source)
            light = source * (1 - alpha) * cs + alpha * (c + source * (blend(mode, c, cs) - c))
            with np.errstate(divide="ignore", invalid="ignore"):
                c, alpha = np.where(new > 0, light / new, c), new
        return c, alpha

    def grey(self, layer, settings, mode, cb, a):
        g = self.painting(layer.get("strokes", []), np.full(cb.shape[:2], 0.5))
        inside = np.clip(cb, 0, 1)
        if settings.get("reach"):
            g = 0.5 + (g - 0.5) * tone_window(settings["reach"], tone(self.colours.luminance(cb)))
        b = blend(mode, inside, np.repeat(g[..., None], 3, -1))
        if settings.get("hold_colour"):
            wanted = np.concatenate([self.colours.oklab(b)[..., :1], self.colours.oklab(inside)[..., 1:]], -1)
            y, below = self.colours.luminance(b)[..., None], self.colours.luminance(inside)[..., None]
            with np.errstate(divide="ignore", invalid="ignore"):
                light = np.where(below > 0, lin(inside) * y / below, y)
                top = light.max(-1, keepdims=True)
                k = np.where(top > 1, (1 - y) / (top - y), 1)
            held = np.clip(y + (light - y) * k, 0, 1)
            if settings.get("holds") == "chroma":
                held = as_far_as_it_goes(held, self.colours.light_of(wanted))
            b = enc(held)
        neutral = (g == 0.5) & (mode in NEUTRAL_GREY_MODES)
        return np.where(neutral[..., None], cb, cb + a * (b - inside))

    def picture(self, layer):
        """Colour and alpha of a picture; `pictures` has it as (h, w, 4)."""
        source = self.pictures[layer["source"]]
        colour, cover = placed(source[..., :3], source[..., 3], layer.get("place") or {}, *self.x.shape[::-1])
        return colour, cover[..., None]

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
        stops = with_middles(settings["stops"])
        at = [s["at"] for s in stops]
        colour = [np.interp(u, at, [s["colour"][k] for s in stops]) for k in range(3)]
        return np.stack(colour, -1), np.interp(u, at, [s["alpha"] for s in stops])[..., None]

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
            y = self.colours.luminance(out)[..., None]
            new = luminance_of(self.curve(points["tone"], tone(y)))
            with np.errstate(divide="ignore", invalid="ignore"):
                out = enc(np.where(y > 0, lin(out) * new / y, new))
        return out, 1.0

    def blur(self, settings, cb):
        return gauss(cb, settings["sigma"]), 1.0

    def mask_of(self, layer, cb):
        self.masks[layer.get("id")] = m = self.mask(layer.get("mask"), cb)
        return m

    def mask(self, mask, cb):
        m = np.ones(cb.shape[:2])
        if mask is None or not mask.get("enabled", True):
            return m
        if mask.get("start", "open") == "closed":
            m = np.zeros(cb.shape[:2])
        m = self.masks[mask["linked"]] if mask.get("linked") else m
        for part in mask.get("parts", []):
            m = self.part(part, m, cb) if part.get("enabled", True) else m
        if mask.get("invert"):
            m = 1 - m
        m = grown(m, mask.get("grow", 0))
        m = gauss(m, mask.get("feather", 0))
        ends = {"black": 0, "white": 1, "gamma": 1, **mask.get("levels", {})}
        m = np.clip((m - ends["black"]) / (ends["white"] - ends["black"]), 0, 1) ** (1 / ends["gamma"])
        m = self.curve(mask.get("curve", [[0, 0], [1, 1]]), m)
        return 1 - mask.get("density", 1) * (1 - m)

    def part(self, part, m, cb):
        if part["kind"] == "paint":
            return self.painting(part.get("strokes", []), m)
        seen = self.base if part.get("of") == "base" else cb
        p = gauss(getattr(self, f"{part['kind']}_part")(part, seen), part.get("feather", 0))
        if part.get("invert"):
            p = 1 - p
        return {"show": m + p * (1 - m), "hide": m * (1 - p), "keep": m * p, "replace": p}[part.get("op", "show")]

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
        return tone_window(s, tone(self.colours.luminance(seen)))

    def colour_part(self, s, seen):
        colours = [np.array(colour, float) for colour in (s["colour"], *s.get("also", []))]
        d = np.min(
            [np.linalg.norm(self.colours.oklab(seen) - self.colours.oklab(colour), axis=-1) for colour in colours],
            axis=0,
        )
        tolerance, softness = s.get("tolerance", 0.1), s.get("softness", 0)
        return 1 - smoothstep(tolerance, tolerance + softness, d) if softness else (d <= tolerance).astype(float)

    def everything_part(self, s, seen):
        return np.ones(self.x.shape)

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
        hardness = stroke["hardness"]
        for x, y, by_size, by_opacity, by_flow in dabs(stroke):
            r = max(stroke["size"] / 2 * by_size, 0.5)
            flow, opacity = stroke["flow"] * by_flow, stroke["opacity"] * by_opacity
            d = np.hypot(self.x - x, self.y - y)
            u = np.clip(((1 + hardness) / 2 * r - d) / max((1 - hardness) * r, 1) + 0.5, 0, 1)
            s = s + flow * u * u * (3 - 2 * u) * np.maximum(0, opacity - s)
        return s


def driven(stroke, point):
    """By what size, opacity and flow are multiplied at a point."""
    pressure, tilt, speed = (*point[2:], *(1.0, 0.0, 0.0)[len(point) - 2 :])
    has_pen = any(len(p) == 5 for p in stroke["points"])
    told = {"pressure": pressure, "tilt": 0.25 + 0.75 * tilt, "speed": 1 - 0.75 * speed}
    return [
        np.prod([v for what, v in told.items() if stroke.get(what, {}).get(name) and (what == "pressure" or has_pen)])
        for name in ("size", "opacity", "flow")
    ]


def dabs(stroke):
    """The first dab at the first point, each next after max(spacing · diameter, 0.5) px of arc from the last."""
    points = [(p[0], p[1], *driven(stroke, p)) for p in stroke["points"]]
    spacing = stroke.get("spacing", 0.1)

    def step(by_size):
        return max(spacing * 2 * max(stroke["size"] / 2 * by_size, 0.5), 0.5)

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
