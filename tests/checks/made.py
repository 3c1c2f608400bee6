"""Plates made to have, and not to have, what each check looks for. The pages in docs/checks state how it does on them.

Every picture is worked out here: a body with a strong edge before a smooth ground, in 16 bits unless said, 480 by 320
pixels, so that a pixel of it is a pixel of the level that checks measure.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

WIDTH, HEIGHT = 480, 320
CENTRE, RADII = (200.0, 170.0), (80.0, 100.0)


def ground(noise=0.0, low=0.42, high=0.6, bits=16, seed=3, tint=(1.0, 1.0, 1.0)):
    """A smooth ground alone: codes (3, h, w)."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    light = low + (high - low) * (x / WIDTH * 0.7 + y / HEIGHT * 0.3)
    return _codes(light[None] * np.array(tint)[:, None, None], noise, bits, seed)


def body(noise=0.0, bits=16, seed=3, colour=(0.26, 0.2, 0.16)):
    """A dark body before the ground."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH] + 0.5
    rho = np.hypot((x - CENTRE[0]) / RADII[0], (y - CENTRE[1]) / RADII[1])
    inside = np.clip((1 - rho) * 60, 0, 1)
    light = 0.5 + 0.12 * x / WIDTH
    rgb = light[None] + inside * (np.array(colour)[:, None, None] * (1.25 - 0.4 * rho) - light)
    return _codes(rgb, noise, bits, seed)


def dark(noise, seed=3):
    """A body, and beside it a dark, smooth half with noise."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    light = np.where(x > WIDTH / 2, 0.12 + 0.02 * y / HEIGHT, 0.5)
    return _codes(np.repeat(light[None], 3, 0), noise, 16, seed)


def _codes(rgb, noise, bits, seed):
    rng = np.random.default_rng(seed)
    values = np.clip(rgb + rng.normal(0, noise, (1, HEIGHT, WIDTH)), 0, 1)
    if bits == 8:
        return np.floor(values * 255 + 0.5).astype(np.uint16) * np.uint16(257)
    return np.floor(values * 65535 + 0.5).astype(np.uint16)


def layer(kind, name, mask=None, strokes=None, **settings):
    made = {"id": name.lower().replace(" ", "-"), "kind": kind, "name": name, "settings": settings}
    return made | ({"mask": mask} if mask else {}) | ({"strokes": strokes} if strokes else {})


def stroke(points, size, hardness, opacity, to=1):
    return {"to": to, "size": size, "hardness": hardness, "opacity": opacity, "flow": 1, "points": points}


def closed(*parts):
    return {"start": "closed", "parts": list(parts)}


def oval(centre=CENTRE, radii=RADII, softness=0.0, **more):
    return {"kind": "oval", "centre": list(centre), "radii": list(radii), "softness": softness, **more}


def painted(*strokes):
    return {"kind": "paint", "strokes": list(strokes)}


def curve(*points, name="Curve", **more):
    return layer("curves", name, points={"rgb": [list(point) for point in points]}, **more)


def up(stops, name="Up", **more):
    return layer("exposure", name, stops=stops, **more)


FAR = [[330, 90], [420, 230]]
"""Points of a stroke on the ground, away from the body."""


@dataclass(frozen=True)
class Case:
    """A plate. has: whether it has what the check looks for; layer: the name of the layer that is to be named."""

    check: str
    says: str
    has: bool
    codes: object
    layers: list
    layer: str = ""
    notes: dict = field(default_factory=dict)
    missed: bool = False
    """Whether it has the fault and is known not to be found."""


def has(check, says, codes, *layers, layer="", **notes):
    return Case(check, says, True, codes, list(layers), layer, notes)


def has_not(check, says, codes, *layers, **notes):
    return Case(check, says, False, codes, list(layers), "", notes)


def misses(check, says, codes, *layers, **notes):
    return Case(check, says, True, codes, list(layers), "", notes, True)


MILD = [up(0.12, f"Mild {i}", mask=closed(oval((90 + 100 * i, 160), (60, 60), 1.0))) for i in range(4)]
HARD = painted(stroke(FAR, 60, 1, 1))
SOFT = painted(stroke(FAR, 240, 0, 0.6))
CASES = [
    has("painting", "a hard stroke of the brush on a smooth ground", ground(), up(0.3, mask=closed(HARD)), layer="Up"),
    has("painting", "a hard stroke on a grey layer", ground(), layer("grey", "Dodge", strokes=[stroke(FAR, 60, 0.95, 0.25)]), layer="Dodge"),
    has("painting", "an oval without softness on the ground", body(), up(-0.4, "Down", mask=closed(oval((380, 90), (60, 50)))), layer="Down"),
    has("painting", "a mask shifted off the body it was made for", body(), up(0.5, mask=closed(oval((CENTRE[0] + 40, CENTRE[1])))), layer="Up"),
    has_not("painting", "a soft, broad stroke", ground(), up(0.3, mask=closed(SOFT))),
    has_not("painting", "a mask whose edge lies on the body's", body(), up(0.5, mask=closed(oval()))),
    has_not("painting", "a strong layer without a mask", body(), up(0.8)),
    has_not("painting", "a soft ramp", ground(), up(-0.8, mask=closed({"kind": "ramp", "from": [0, 0], "to": [480, 0], "ease": "smooth"}))),
    misses("painting", "a hard, weak stroke on a ground with strong grain, which hides most of it", ground(noise=0.05), up(0.1, mask=closed(HARD))),
    has("heavy", "one of five ovals ten times as strong as the others", body(), *MILD, up(1.4, "Strong", mask=closed(oval((380, 90), (50, 40), 1.0))), layer="Strong"),
    has("heavy", "a grey layer burned to black among mild ones", body(), *MILD, layer("grey", "Burn", strokes=[stroke(FAR, 90, 0, 0.9, to=0)]), layer="Burn"),
    has_not("heavy", "five ovals of the same strength", body(), *MILD, up(0.14, "Fifth", mask=closed(oval((380, 90), (50, 40), 1.0)))),
    has_not("heavy", "a strong layer by itself: there is nothing to compare it with", body(), up(1.4)),
    has_not("heavy", "a picture laid over: it is meant to change everything there", body(), *MILD, {"id": "p", "kind": "picture", "name": "Laid", "source": "base.png"}),
    has("halos", "a mask eight pixels larger than the body", body(), up(0.8, mask=closed(oval(radii=(RADII[0] + 8, RADII[1] + 8)))), layer="Up"),
    has("halos", "a group whose mask is eight pixels larger", body(), {"id": "g", "kind": "group", "name": "Body", "layers": [up(0.8)], "mask": closed(oval(radii=(RADII[0] + 8, RADII[1] + 8)))}, layer="Body"),
    has("halos", "a mask eight pixels smaller", body(), up(0.8, mask=closed(oval(radii=(RADII[0] - 8, RADII[1] - 8)))), layer="Up"),
    has_not("halos", "a mask that keeps to the edge", body(), up(0.8, mask=closed(oval()))),
    has_not("halos", "a mask away from any edge", body(), up(0.8, mask=closed(oval((390, 90), (50, 50))))),
    has_not("halos", "a mask that is off by eight pixels, of a layer that changes next to nothing", body(), up(0.02, mask=closed(oval(radii=(RADII[0] + 8, RADII[1] + 8))))),
    misses("halos", "a mask with a very soft rim that reaches far over the edge", body(), up(0.8, mask=closed(oval(radii=(RADII[0] + 30, RADII[1] + 30), softness=0.6)))),
    has("gaps", "two holes in what is shown", body(), up(0.3, mask=closed(oval(), oval((190, 150), (5, 5), op="hide"), oval((220, 190), (7, 6), op="hide"))), layer="Up"),
    has("gaps", "a speck outside", body(), up(0.3, mask=closed(oval(), oval((400, 60), (6, 6)))), layer="Up"),
    has_not("gaps", "a mask of one piece", body(), up(0.3, mask=closed(oval()))),
    has_not("gaps", "two pieces, each wide", body(), up(0.3, mask=closed(oval((100, 160), (80, 80)), oval((380, 160), (80, 80))))),
    misses("gaps", "a hole that touches the picture's border", body(), up(0.3, mask=closed({"kind": "everything"}, oval((240, 0), (8, 8), op="hide")))),
    has("curves", "a stretch that is nearly flat, where the ground lies", body(), curve((0, 0), (0.45, 0.5), (0.65, 0.52), (1, 1)), layer="Curve"),
    has("curves", "a stretch that falls", body(), curve((0, 0), (0.3, 0.6), (0.6, 0.5), (1, 1)), layer="Curve"),
    has("curves", "an end pulled in over what is there", body(), curve((0.25, 0), (1, 1)), layer="Curve"),
    has_not("curves", "a gentle bend", body(), curve((0, 0), (0.5, 0.58), (1, 1))),
    has_not("curves", "a flat stretch where the picture has nothing", body(), curve((0, 0), (0.7, 0.75), (0.85, 0.86), (0.95, 0.87), (1, 1))),
    has("clipped", "a stop and a half on a bright ground", ground(high=0.8), up(1.5), layer="Up"),
    has("clipped", "darks pulled to black, and a layer beside it that does nothing of the kind", body(), up(0.05), layer("levels", "Levels", rgb={"black": 0.28}), layer="Levels"),
    has_not("clipped", "a little more light", body(), up(0.2)),
    has_not("clipped", "what was blown before", _codes(np.clip(ground() / 65535 * 1.8, 0, 1), 0, 16, 1), up(-0.3)),
    has("banding", "a smooth ground of 8 bits, stretched", ground(bits=8), curve((0, 0), (0.42, 0.1), (0.6, 0.9), (1, 1), name="Steep"), layer="Steep"),
    has("banding", "the same by levels", ground(bits=8), layer("levels", "Levels", rgb={"black": 0.4, "white": 0.64}), layer="Levels"),
    has_not("banding", "the same in 16 bits", ground(), curve((0, 0), (0.42, 0.1), (0.6, 0.9), (1, 1))),
    has_not("banding", "8 bits with grain in them", ground(bits=8, noise=0.01), curve((0, 0), (0.42, 0.1), (0.6, 0.9), (1, 1))),
    has_not("banding", "8 bits, hardly stretched", ground(bits=8), curve((0, 0), (0.5, 0.54), (1, 1))),
    misses("banding", "bands in blue alone: green is looked at", ground(bits=8), layer("curves", "Blue", points={"blue": [[0, 0], [0.42, 0.1], [0.6, 0.9], [1, 1]]})),
    has("noise", "a noisy dark lifted by two and a half stops", dark(0.012), up(2.5, "Lift"), layer="Lift"),
    has("noise", "the same by a curve, and a layer beside it that does not", dark(0.012), curve((0, 0), (0.14, 0.45), (1, 1), name="Lift"), layer("vibrance", "Colour", vibrance=0.3), layer="Lift"),
    has_not("noise", "a dark without noise, lifted", dark(0.0), up(2.5)),
    has_not("noise", "a noisy dark left as it is", dark(0.012), up(0.2, mask=closed(oval((100, 100), (60, 60))))),
    misses("noise", "noise brought up in the lights, which are not looked at", ground(noise=0.01, low=0.5, high=0.62), curve((0, 0), (0.5, 0.2), (0.62, 0.8), (1, 1))),
    has("cast", "a white balance far off", ground(), layer("white-balance", "Warm", temperature=9500), layer="Warm"),
    has("cast", "a blue curve bent, beside a layer of tone", ground(), up(0.1), layer("curves", "Blue", points={"blue": [[0, 0], [0.5, 0.42], [1, 1]]}), layer="Blue"),
    has("cast", "a pinned grey that moved, where the rest is coloured", body(colour=(0.24, 0.24, 0.24)), layer("white-balance", "Warm", mask=closed(oval()), temperature=9500), layer="Warm", pins=[{"x": 200, "y": 170, "neutral": True, "name": "Body", "over": 5}]),
    has_not("cast", "a pinned spot that had a cast and is nearer to grey now", ground(tint=(1.0, 0.9, 0.75)), layer("white-balance", "Cooler", temperature=5200), pins=[{"x": 240, "y": 160, "neutral": True, "over": 5}]),
    has_not("cast", "more light", ground(), up(0.6)),
    has_not("cast", "a picture with nothing neutral in it", ground(tint=(1.0, 0.8, 0.55)), layer("white-balance", "Warm", temperature=9500)),
    has("shift", "a steep curve over all channels, on colour", ground(tint=(1.0, 0.72, 0.5)), curve((0, 0), (0.35, 0.15), (0.65, 0.85), (1, 1)), layer="Curve"),
    has("shift", "a burned grey layer", ground(tint=(1.0, 0.72, 0.5)), layer("grey", "Burn", strokes=[stroke(FAR, 160, 0, 0.9, to=0)]), layer="Burn"),
    has_not("shift", "the same curve in luminosity", ground(tint=(1.0, 0.72, 0.5)), {**curve((0, 0), (0.35, 0.15), (0.65, 0.85), (1, 1)), "blend": "luminosity"}),
    has_not("shift", "the same burn, colour held", ground(tint=(1.0, 0.72, 0.5)), layer("grey", "Burn", strokes=[stroke(FAR, 160, 0, 0.9, to=0)], hold_colour=True)),
    has_not("shift", "less light", ground(tint=(1.0, 0.72, 0.5)), up(-0.7)),
    has_not("shift", "a layer that is about colour", ground(tint=(1.0, 0.72, 0.5)), layer("white-balance", "Warm", temperature=9500)),
    has("overall", "two layers that darken, the second more", body(), up(-0.2, "A little"), up(-0.6, "Down"), layer="Down"),
    has("overall", "more light on the whole", body(), up(0.7), layer="Up"),
    has_not("overall", "as much lighter as darker", body(), up(0.4), up(-0.4, "Down")),
    has_not("overall", "a local change", body(), up(0.7, mask=closed(oval((380, 90), (50, 50), 1.0)))),
    has("leading", "contrast raised at the border", body(noise=0.02), layer("local-contrast", "Crisp", mask=closed(oval((240, 160), (190, 130), inside=False)), amount=1.0, radius=12), layer="Crisp"),
    has("leading", "contrast raised beside the marked subject", body(noise=0.02), curve((0, 0), (0.5, 0.1), (0.65, 0.95), (1, 1), name="Crisp", mask=closed(oval((390, 90), (80, 80), 0.5))), layer="Crisp", subject={"centre": [200, 170], "radii": [100, 120]}),
    has_not("leading", "contrast raised on the subject", body(noise=0.02), layer("local-contrast", "Crisp", mask=closed(oval()), amount=1.0, radius=12), subject={"centre": [200, 170], "radii": [100, 120]}),
    has_not("leading", "less light at the border", body(noise=0.02), layer("vignette", "Held", stops=-1, centre=[240, 160], radii=[300, 200], softness=0.8)),
    has("idle", "a neutral curve", body(), curve((0, 0), (1, 1)), layer="Curve"),
    has("idle", "a mask that was never opened", body(), up(0.5, mask={"start": "closed"}), layer="Up"),
    has_not("idle", "a layer that does something", body(), up(0.1)),
    has_not("idle", "a layer that is off", body(), {**curve((0, 0), (1, 1)), "visible": False}),
    has("hidden", "a layer that is off", body(), up(0.3), {**up(0.5, "Forgotten"), "visible": False}, layer="Forgotten"),
    has("hidden", "a layer at an opacity of nothing", body(), {**up(0.5, "Forgotten"), "opacity": 0}, layer="Forgotten"),
    has_not("hidden", "a layer that is off with its set", body(), {**up(0.5, "Kept"), "visible": False}, sets=[{"name": "Variant", "layers": ["kept"]}]),
    has_not("hidden", "layers at work", body(), up(0.5)),
]  # fmt: skip


def named(case):
    """What a case is called in a run of tests."""
    return f"{case.check}: {case.says}"
