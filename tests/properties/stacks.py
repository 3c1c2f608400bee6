"""Random stacks of plain data, everything the contract calls exact."""

from __future__ import annotations

import numpy as np

from glyptic.document.values import BLEND_MODES

WIDTH, HEIGHT = 150, 110
CHANNELS = ("red", "green", "blue")


class StackMaker:
    """Makes random stacks from a seed; with `isolated`, of many groups, half of them isolated; with `whole`, with masks
    that are grown, moved by levels and curves, and linked; with `framed`, with a frame, layers over its sheet, and
    pictures laid by their corners; in a working space."""

    def __init__(
        self, seed: int, isolated: bool = False, whole: bool = False, framed: bool = False, space: str = "srgb"
    ) -> None:
        self.space = space
        self.framed = framed
        self.isolated = isolated
        self.whole = whole
        self.masked: list[str] = []
        self.rng = np.random.default_rng(seed)

    def number(self, low, high):
        return round(float(self.rng.uniform(low, high)), 4)

    def chance(self, p=0.5):
        return bool(self.rng.random() < p)

    def pick(self, options):
        return options[int(self.rng.integers(len(options)))]

    def point(self):
        return [self.number(-20, WIDTH + 20), self.number(-20, HEIGHT + 20)]

    def colour(self):
        return [self.number(0, 1) for _ in range(3)]

    def curve(self):
        n = int(self.rng.integers(2, 6))
        xs = np.sort(self.rng.choice(np.linspace(0, 1, 21), n, replace=False))
        return [[round(float(x), 4), self.number(0, 1)] for x in xs]

    def window(self):
        low = self.number(0, 0.6)
        return {
            "low": low,
            "high": self.number(low, 1),
            "soft_low": self.number(0.02, 0.4),
            "soft_high": self.number(0.02, 0.4),
        }

    def oval(self):
        return {
            "centre": self.point(), "radii": [self.number(10, 90), self.number(10, 90)],
            "rotation": self.number(-180, 180), "softness": self.number(0.05, 1),
        }  # fmt: skip

    def ends(self):
        return {
            "black": self.number(0, 0.3), "white": self.number(0.5, 1), "gamma": self.number(0.5, 2),
            "out_black": self.number(0, 0.3), "out_white": self.number(0.6, 1),
        }  # fmt: skip

    def stroke(self, even=False):
        stroke = {
            "size": self.number(2, 80), "hardness": self.pick([0, 1, self.number(0, 1)]),
            "opacity": self.number(0.1, 1),
            "flow": self.number(0.1, 1), "spacing": self.number(0.05, 0.5),
            "points": [[*self.point(), self.number(0.2, 1)] for _ in range(int(self.rng.integers(1, 5)))],
            "pressure": {name: self.chance() for name in ("size", "opacity", "flow")},
        }  # fmt: skip
        if self.whole:
            stroke["points"] = [
                [*p, self.number(0, 1), self.number(0, 1)] if self.chance(0.8) else p for p in stroke["points"]
            ]
            stroke |= {
                what: {name: self.chance(0.3) for name in ("size", "opacity", "flow")} for what in ("tilt", "speed")
            }
        return (
            {**stroke, "even": self.number(1, 6)}
            if even
            else {**stroke, "to": self.pick([0, 0.5, 1, self.number(0, 1)])}
        )

    def part(self):
        kind = self.pick(["paint", "ramp", "oval", "outline", "tone", "colour"])
        if kind == "paint":
            return {"kind": kind, "strokes": [self.stroke() for _ in range(int(self.rng.integers(0, 4)))]}
        body = {
            "ramp": lambda: {"from": self.point(), "to": self.point(), "ease": self.pick(["linear", "smooth"])},
            "oval": lambda: {**self.oval(), "inside": self.chance()},
            "outline": lambda: {"points": [self.point() for _ in range(int(self.rng.integers(3, 7)))]},
            "tone": lambda: {**self.window(), "of": self.pick(["below", "base"])},
            "colour": lambda: {"colour": self.colour(), "tolerance": self.number(0.05, 0.3),
                               "softness": self.number(0.05, 0.3), "of": self.pick(["below", "base"])},
        }[kind]()  # fmt: skip
        feather = self.number(0.5, 6) if self.chance(0.3) else 0
        return {
            "kind": kind,
            "op": self.pick(["show", "hide", "keep", *(["replace"] if self.whole else [])]),
            "feather": feather,
            "invert": self.chance(0.3),
            **body,
        }

    def mask_as_a_whole(self):
        """What is done to a mask once its parts are combined; those made before are there to be linked to."""
        low, high = self.number(0, 0.3), self.number(0.6, 1)
        return {
            **({"grow": float(self.rng.integers(-5, 6))} if self.chance(0.4) else {}),
            **({"levels": {"black": low, "white": high, "gamma": self.number(0.5, 2)}} if self.chance(0.3) else {}),
            **(
                {"curve": [[0, self.number(0, 0.5)], [0.5, self.number(0.3, 0.7)], [1, self.number(0.5, 1)]]}
                if self.chance(0.3)
                else {}
            ),
            **({"linked": self.pick(self.masked)} if self.masked and self.chance() else {}),
        }

    def mask(self):
        return {
            **(self.mask_as_a_whole() if self.whole else {}),
            "start": self.pick(["open", "closed"]), "parts": [
                {**self.part(), "enabled": not self.isolated or self.chance(0.8)} for _ in range(int(self.rng.integers(0, 4)))
            ],
            "invert": self.chance(0.3), "feather": self.number(0.5, 8) if self.chance(0.3) else 0,
            "density": self.pick([1, self.number(0, 1)]),
        }  # fmt: skip

    def settings(self, kind):
        return {
            "curves": lambda: {"points": {n: self.curve() for n in ("rgb", *CHANNELS, "tone") if self.chance(0.4)}},
            "levels": lambda: {n: self.ends() for n in ("rgb", "red", "green", "blue") if self.chance(0.4)},
            "exposure": lambda: {"stops": self.number(-2, 2), "offset": self.number(-0.05, 0.05)},
            "fill": lambda: {"colour": self.colour()},
            "gradient": lambda: {
                "shape": self.pick(["linear", "radial"]), "from": self.point(), "to": self.point(),
                "stops": [{"at": a, "colour": self.colour(), "alpha": self.number(0, 1), "middle": self.pick([0.5, self.number(0.1, 0.9)])} for a in (0.1, 0.5, 0.9)],
            },
            "vignette": lambda: {"stops": self.number(-2, 2), **self.oval()},
            "blur": lambda: {"sigma": self.number(0.5, 30)},
            "grey": lambda: {"hold_colour": self.chance(), "holds": self.pick(["saturation", "chroma"]), "reach": self.window() if self.chance() else None},
        }[kind]()  # fmt: skip

    def layer(self, depth=0):
        kinds = ["curves", "levels", "exposure", "fill", "gradient", "vignette", "blur", "grey"]
        groups = ["group"] * (6 if self.isolated else 1) if depth < 2 else []
        kind = self.pick([*kinds, *groups, *["picture"] * (3 if self.framed else 0)])
        layer = {"kind": kind, "opacity": self.pick([1, self.number(0, 1)]), "visible": self.chance(0.9)}
        if self.whole:
            layer["id"] = f"l{len(self.masked) + 1}-{depth}"
        if self.chance() or self.whole:
            layer["mask"] = self.mask()
        if self.whole:
            self.masked.append(layer["id"])
        if kind == "group":
            if self.isolated and self.chance():
                layer |= {"mode": "isolated", "blend": self.pick(BLEND_MODES)}
            return {**layer, "layers": [self.layer(depth + 1) for _ in range(int(self.rng.integers(0, 3)))]}
        if kind == "picture":
            return {**layer, "source": "laid.png", "blend": self.pick(BLEND_MODES), **self.lies()}
        layer["settings"] = self.settings(kind)
        if kind == "grey":
            layer["strokes"] = [self.stroke(self.chance(0.2)) for _ in range(int(self.rng.integers(0, 4)))]
            layer["blend"] = self.pick(["soft-light", "overlay", "hard-light", "multiply"])
        elif self.chance():
            layer["blend"] = self.pick(BLEND_MODES)
        return layer

    def lies(self):
        """Where a picture is laid: by default, by its centre, or by its corners."""
        place = {"x": self.number(20, 130), "y": self.number(20, 90), "scale": self.number(0.3, 2.5)}
        place["rotation"] = self.number(-180, 180)
        quad = self.quad(self.number(20, 130), self.number(20, 90), self.number(20, 80))
        return self.pick([{}, {"place": place}, {"place": {"corners": quad}}, {"place": {"corners": quad}}])

    def quad(self, x, y, half):
        """Four corners about a place, each moved a little: always strictly convex; turned, mirrored or not."""
        turn = self.number(-3.2, 3.2)
        angles = turn + np.array([5, 7, 1, 3]) * np.pi / 4
        reach = half * np.sqrt(2) * self.rng.uniform(0.75, 1.25, 4)
        corners = [
            [round(x + r * np.cos(a), 3), round(y + r * np.sin(a), 3)] for r, a in zip(reach, angles, strict=True)
        ]
        return corners[::-1] if self.chance(0.3) else corners

    def frame(self):
        """A frame: a whole crop, turned by quarters or mirrored, or any quadrilateral, larger or smaller."""
        width, height = int(self.rng.integers(40, 120)), int(self.rng.integers(30, 100))
        corners = self.quad(75, 55, self.number(25, 70))
        if self.chance(0.4):
            x, y = int(self.rng.integers(-10, 60)), int(self.rng.integers(-10, 50))
            w, h = (width, height) if self.chance() else (height, width)
            corners = [[x, y], [x + w, y], [x + w, y + h], [x, y + h]]
            first = int(self.rng.integers(4)) if (w, h) == (width, height) else 1 + 2 * int(self.rng.integers(2))
            first = first - first % 2 if (w, h) == (width, height) else first
            corners = corners[first:] + corners[:first]
            corners = [corners[k] for k in (1, 0, 3, 2)] if self.chance(0.3) else corners
        sides = {side: int(self.rng.integers(0, 30)) for side in ("left", "top", "right", "bottom") if self.chance(0.7)}
        return {
            "corners": corners, "size": [width, height],
            **({"outside": self.colour()} if self.chance() else {}),
            **({"border": {**sides, "colour": self.colour()}} if self.chance() else {}),
            "layers": [self.layer() for _ in range(int(self.rng.integers(0, 3)))],
        }  # fmt: skip

    def laid(self):
        """A 16-bit picture (h, w, 4) to be laid over the base, its alpha smooth."""
        base = self.base()[10:90, 5:70]
        return np.concatenate([base, np.roll(base[..., :1], 9, 0)], -1)

    def stack(self, layers=5):
        base = {"id": "base", "kind": "picture", "source": "base.png"}
        return {
            **({"frame": self.frame()} if self.framed else {}),
            "format": "glyptic-stack",
            "version": 1,
            "working_space": self.space,
            "layers": [base, *(self.layer() for _ in range(layers))],
        }

    def base(self):
        """A 16-bit picture (h, w, 3) with smooth areas, noise, black and white."""
        y, x = np.mgrid[0:HEIGHT, 0:WIDTH] / 100.0
        waves = [np.sin(x * self.number(1, 9) + y * self.number(1, 9)) * 0.6 + 0.5 for _ in range(3)]
        noise = self.rng.normal(0, 0.05, (HEIGHT, WIDTH, 3))
        return (np.clip(np.stack(waves, -1) + noise, 0, 1) * 65535 + 0.5).astype(np.uint16)
