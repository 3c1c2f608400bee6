"""The adjustments by published method, each written from its statement, in float64."""

import math
from itertools import pairwise

import numpy as np

from tests.oracle.formulas import Colours, bias, enc, gauss, lin, luminance_of, over, smoothstep, tone


def inverse(function, values):
    """Where a growing function of 0..1 takes each value, by halving; values outside stay."""
    low, high = np.zeros_like(values), np.ones_like(values)
    for _ in range(50):
        middle = (low + high) / 2
        low, high = np.where(function(middle) < values, middle, low), np.where(function(middle) < values, high, middle)
    return np.where((values > 0) & (values < 1), low, values)


class Methods:
    """Each takes plain settings and the backdrop (h, w, 3) and gives (Cs, alpha)."""

    colours = Colours()

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
        """The sums of CIE 15 and of the Bradford transform, in XYZ."""
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
        xyz = self.colours.to_xyz
        m = np.linalg.inv(xyz) @ np.linalg.inv(cone) @ np.diag(scale) @ cone @ xyz
        return enc(lin(cb) @ m.T), 1.0

    def vibrance(self, settings, cb):
        lab = self.colours.oklab(cb)
        c = np.hypot(lab[..., 1], lab[..., 2])
        more = 1 + settings.get("vibrance", 0) * (1 - np.minimum(c / 0.3, 1)) ** 2
        lab[..., 1:] *= (more * (1 + settings.get("saturation", 0)))[..., None]
        return over(cb, self.colours.fitted(lab)), 1.0

    def hue_saturation(self, settings, cb):
        s = {"hue": 0, "saturation": 0, "lightness": 0, "centre": 0, "width": 360, "border": 0.3, **settings}
        lab = self.colours.oklab(cb)
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
        return over(cb, np.where((w > 0)[..., None], self.colours.fitted(lab), np.clip(cb, 0, 1))), 1.0

    def tone_moved(self, cb, new):
        """Linear light scaled to a new tone; grey where there is none."""
        y, new = self.colours.luminance(cb)[..., None], luminance_of(np.maximum(new, 0))[..., None]
        with np.errstate(divide="ignore", invalid="ignore"):
            return enc(np.where(y > 5e-8, lin(cb) * new / y, new))

    def guided_base(self, t, radius, edge):
        """He, Sun and Tang 2010, the plane its own guide, with Gaussian windows, no wider than the picture."""
        sigma = min(radius, max(t.shape)) / 2
        mean = gauss(t, sigma)
        spread = gauss(t * t, sigma) - mean**2
        a = spread / (spread + edge**2)
        return gauss(a, sigma) * t + gauss((1 - a) * mean, sigma)

    def light(self, settings, cb):
        s = {"highlights": 0, "shadows": 0, "whites": 0, "blacks": 0, "radius": 60, **settings}
        t = tone(self.colours.luminance(cb))
        base = self.guided_base(t, s["radius"], 0.05)

        def lift(x, amount):
            lifted = x + 2.4 * abs(amount) * x * (1 - x) ** 3
            if amount >= 0:
                return lifted
            return inverse(lambda v: v + 2.4 * abs(amount) * v * (1 - v) ** 3, x)

        moved = lift(1 - lift(1 - base, -s["highlights"]), s["shadows"])
        moved = moved + 0.2 * (s["whites"] * moved**4 + s["blacks"] * (1 - moved) ** 4)
        return self.tone_moved(cb, moved + t - base), 1.0

    def local_contrast(self, settings, cb):
        t = tone(self.colours.luminance(cb))
        base = self.guided_base(t, settings.get("radius", 30), 0.08)
        return self.tone_moved(cb, base + (1 + settings.get("amount", 0)) * (t - base)), 1.0

    def sharpen(self, settings, cb):
        s = {"amount": 0, "radius": 1.5, "noise": 0.005, "limit": 0.1, **settings}
        t = tone(self.colours.luminance(cb))
        d = t - gauss(t, s["radius"])
        more = s["amount"] * d**3 / (d**2 + max(s["noise"], 1e-4) ** 2)
        return self.tone_moved(cb, t + more / (1 + abs(more) / s["limit"])), 1.0

    def thirds(self, cb):
        """The weights of shadows, midtones and highlights."""
        t = tone(self.colours.luminance(cb))[..., None]
        dark, bright = 1 - smoothstep(0.1, 0.55, t), smoothstep(0.45, 0.9, t)
        return dark, 1 - dark - bright, bright

    def colour_balance(self, settings, cb):
        moved = cb.copy()
        for name, w in zip(("shadows", "midtones", "highlights"), self.thirds(cb), strict=True):
            moved += 0.2 * w * np.array([settings.get(name, {}).get(c, 0) for c in ("red", "green", "blue")])
        return (
            self.tone_moved(moved, tone(self.colours.luminance(cb))) if settings.get("hold_tone", True) else moved
        ), 1.0

    def split_tone(self, settings, cb):
        s = {"shadow_hue": 250, "shadow_saturation": 0, "highlight_hue": 75, "highlight_saturation": 0, "balance": 0}
        s |= settings
        middle = 0.5 - 0.35 * s["balance"]
        w = smoothstep(middle - 0.35, middle + 0.35, tone(self.colours.luminance(cb)))
        lab = self.colours.oklab(cb)
        for name, weight in (("shadow", 1 - w), ("highlight", w)):
            turned = 0.16 * s[f"{name}_saturation"] * np.exp(1j * np.radians(s[f"{name}_hue"]))
            lab[..., 1] += weight * turned.real
            lab[..., 2] += weight * turned.imag
        return over(cb, self.colours.fitted(lab)), 1.0

    def colour_families(self, settings, cb):
        s = {"by": "hue", "centre": 30, "width": 60, "border": 0.3, "red": 0, "yellow": 0, "lightness": 0, **settings}
        lab = self.colours.oklab(cb)
        ab = lab[..., 1] + 1j * lab[..., 2]
        away = np.abs((np.degrees(np.angle(ab)) - s["centre"] + 180) % 360 - 180)
        in_hue = 1 - smoothstep(s["width"] / 2, s["width"] / 2 + max(1, 90 * s["border"]), away)
        dark, mid, bright = (w[..., 0] for w in self.thirds(cb))
        w = {
            "hue": in_hue * smoothstep(0, 0.02, abs(ab)), "darks": dark, "mids": mid, "lights": bright,
            "neutrals": 1 - smoothstep(0.02, 0.08, abs(ab)),
        }[s["by"]]  # fmt: skip
        room = 1 - lab[..., 0] if s["lightness"] > 0 else lab[..., 0]
        lab += w[..., None] * np.stack(
            [s["lightness"] * room, *(np.full_like(room, 0.12 * s[n]) for n in ("red", "yellow"))], -1
        )
        return over(cb, np.where((w > 0)[..., None], self.colours.fitted(lab), np.clip(cb, 0, 1))), 1.0

    def black_white(self, settings, cb):
        ring = [
            ("red", 29),
            ("yellow", 110),
            ("green", 142),
            ("cyan", 195),
            ("blue", 264),
            ("magenta", 328),
            ("red", 389),
        ]
        lab = self.colours.oklab(cb)
        hue = (np.degrees(np.arctan2(lab[..., 2], lab[..., 1])) - 29) % 360 + 29
        stops = np.zeros_like(hue)
        for (low, a), (high, b) in pairwise(ring):
            share = smoothstep(a, b, hue)
            between = (hue >= a) & (hue < b)
            stops += between * ((1 - share) * settings.get(low, 0) + share * settings.get(high, 0))
        y = self.colours.luminance(cb) * 2 ** (stops * np.minimum(np.hypot(lab[..., 1], lab[..., 2]) / 0.25, 1))
        return cb + settings.get("strength", 0) * (enc(y)[..., None] - cb), 1.0

    def grain(self, settings, cb):
        """Plain whole numbers, one place of the lattice after the other."""
        size, seed = settings.get("size", 1), int(settings.get("seed", 1))

        def at(column, row):
            h = (column + row * 0x9E3779B9 + seed * 0x85EBCA6B) & 0xFFFFFFFF
            h = ((h ^ h >> 16) * 0x7FEB352D) & 0xFFFFFFFF
            h = ((h ^ h >> 15) * 0x846CA68B) & 0xFFFFFFFF
            h ^= h >> 16
            return (sum(h.to_bytes(4, "big")) - 510) / 147.8

        n = np.zeros(cb.shape[:2])
        for i, j in np.ndindex(n.shape):
            v, u = (i + 0.5) / size - 0.5, (j + 0.5) / size - 0.5
            row, column = math.floor(v), math.floor(u)
            fy, fx = v - row, u - column
            weights = np.outer([1 - fy, fy], [1 - fx, fx])
            near = [[at(column + dx, row + dy) for dx in (0, 1)] for dy in (0, 1)]
            n[i, j] = (weights * near).sum() / np.sqrt((weights**2).sum())
        t = tone(self.colours.luminance(cb))
        return cb + (0.1 * settings.get("amount", 0) * np.maximum(4 * t * (1 - t), 0) * n)[..., None], 1.0
