"""Make the demo's worked stacks. Strokes are drawn as a hand draws them: along a path, with a tremor, pressure rising
and falling, several passes. Run with the environment's Python; the result is committed."""

import json
import sys
from pathlib import Path

import numpy as np
from make_demo_pictures import MOVED

from glyptic.document.framing import straightened

TARGET = Path(__file__).resolve().parents[1] / "src" / "glyptic" / "demo" / "stacks"
TREMOR = 0.012
STEP = 14.0


def path_through(corners: list[tuple[float, float]]) -> np.ndarray:
    """A smooth path (Catmull and Rom 1974) through corners, with a point every few pixels."""
    p = np.array(corners, float)
    p = np.vstack([2 * p[0] - p[1], p, 2 * p[-1] - p[-2]])
    out = []
    for a, b, c, d in zip(p, p[1:], p[2:], p[3:], strict=False):
        n = max(2, int(np.hypot(*(c - b)) / STEP))
        t = np.linspace(0, 1, n, endpoint=False)[:, None]
        out.append(0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3))
    return np.vstack([*out, p[-2:-1]])


class Hand:
    """Draws strokes with one brush."""

    def __init__(self, seed: int) -> None:
        self.rng = np.random.default_rng(seed)

    def stroke(self, corners, to, size, opacity, flow=0.35, hardness=0.0):
        line = path_through(corners)
        drift = np.cumsum(self.rng.normal(0, size * TREMOR, line.shape), axis=0)
        drift -= np.linspace(0, 1, len(line))[:, None] * drift[-1]
        along = np.linspace(0, 1, len(line))
        pressure = np.clip(np.sin(np.pi * (0.12 + 0.8 * along)) + self.rng.normal(0, 0.03, len(line)), 0.15, 1)
        points = [
            [round(x, 1), round(y, 1), round(float(q), 3)] for (x, y), q in zip(line + drift, pressure, strict=True)
        ]
        return {
            "to": to, "size": size, "hardness": hardness, "opacity": opacity, "flow": flow, "spacing": 0.1,
            "pressure": {"size": False, "opacity": False, "flow": True}, "points": points,
        }  # fmt: skip

    def passes(self, corners, to, size, opacity, times, **brush):
        """The same path gone over several times, never quite the same."""
        strokes = []
        for _ in range(times):
            off = self.rng.normal(0, size * 0.06, 2)
            strokes.append(self.stroke([(x + off[0], y + off[1]) for x, y in corners], to, size, opacity, **brush))
        return strokes


def curves(**points):
    return {"points": points}


def paint(*strokes):
    return {"kind": "paint", "strokes": [s for group in strokes for s in group]}


def vase_trio():
    hand = Hand(11)
    bottle = [
        (1010, 150),
        (1010, 420),
        (880, 680),
        (720, 900),
        (640, 1180),
        (720, 1480),
        (900, 1620),
        (1120, 1600),
        (1320, 1330),
        (1330, 1000),
        (1180, 720),
        (1080, 420),
    ]
    jar = [
        (1700, 690),
        (1480, 930),
        (1450, 1180),
        (1640, 1290),
        (1900, 1260),
        (2050, 1560),
        (2250, 1350),
        (2340, 1080),
        (2240, 850),
        (2060, 700),
    ]
    inside_jar = [(1893 + (x - 1893) * 0.9, 1130 + (y - 1130) * 0.92) for x, y in jar]
    bowl_right = [(1820, 1330), (1840, 1480), (1760, 1640), (1680, 1740)]
    keep_vessels = [hand.stroke(bottle, 0, 260, 1, flow=0.8, hardness=0.3), hand.stroke(inside_jar, 0, 170, 1, flow=0.8, hardness=0.5),
                    hand.stroke([(990, 700), (900, 1000), (960, 1350), (1180, 1250)], 0, 360, 1, flow=0.8, hardness=0.2),
                    hand.stroke([(1650, 900), (1900, 1100), (2150, 1050), (2000, 850)], 0, 380, 1, flow=0.8, hardness=0.2)]  # fmt: skip
    open_jar = [
        hand.stroke([(1720, 690), (1890, 700), (2060, 690)], 1, 90, 1, flow=0.7, hardness=0.3),
        hand.stroke([(1960, 1520), (2120, 1480)], 1, 160, 0.9, flow=0.6),
    ]
    take_back = [
        hand.stroke([(1480, 690), (1420, 830), (1395, 1000)], 0, 110, 0.9, flow=0.7),
        hand.stroke([(1080, 1370), (1380, 1340), (1700, 1350), (1880, 1300)], 0, 130, 1, flow=0.8),
        hand.stroke([(1500, 1480), (1700, 1520), (1840, 1460)], 0, 230, 1, flow=0.8),
    ]
    highlights = [s for spot in ([(860, 830), (845, 900)], [(893, 930), (895, 1000)], [(1655, 985), (1740, 985)], [(2185, 890), (2225, 925)], [(1640, 1330), (1740, 1345)])
                  for s in hand.passes(spot, 1, 110, 0.6, 2, flow=0.5)]  # fmt: skip
    dodge = [
        *hand.passes(bowl_right, 1, 200, 0.12, 5), *hand.passes([(1150, 1420), (1180, 1560), (1260, 1680)], 1, 140, 0.08, 3),
        *hand.passes([(800, 800), (690, 1080), (720, 1380)], 1, 150, 0.1, 4), *hand.passes([(1060, 1300), (1400, 1350), (1850, 1270)], 1, 60, 0.12, 3),
        *hand.passes([(1560, 800), (1480, 1000), (1520, 1200)], 1, 160, 0.08, 3),
        *hand.passes([(1300, 900), (1350, 1150), (1280, 1400)], 0, 150, 0.1, 4), *hand.passes([(2260, 900), (2350, 1130), (2240, 1420)], 0, 190, 0.1, 4),
        *hand.passes([(1000, 1690), (1400, 1880), (1800, 1840)], 0, 200, 0.08, 3), *hand.passes([(1120, 260), (1090, 420), (1120, 560)], 0, 90, 0.09, 3),
    ]  # fmt: skip
    return [
        {"id": "base", "kind": "picture", "name": "Base", "source": "vase-trio.jpg"},
        {"id": "up", "kind": "exposure", "name": "A little more light", "settings": {"stops": 0.25}},
        {
            "id": "backdrop", "kind": "curves", "name": "Backdrop down", "opacity": 0.85,
            "settings": curves(rgb=[[0, 0], [0.42, 0.33], [0.8, 0.55], [1, 0.8]]),
            "mask": {"start": "closed", "feather": 6, "parts": [
                {"kind": "ramp", "op": "show", "from": [2900, 60], "to": [1250, 1150], "ease": "smooth"}, paint(keep_vessels)]},
        },
        {
            "id": "left", "kind": "curves", "name": "Left lifted", "opacity": 0.8,
            "settings": curves(rgb=[[0, 0.01], [0.25, 0.34], [0.6, 0.66], [1, 1]]),
            "mask": {"start": "closed", "parts": [
                {"kind": "ramp", "op": "show", "from": [120, 760], "to": [1050, 900], "ease": "smooth"},
                paint([hand.stroke(bottle, 0, 240, 0.9, flow=0.8, hardness=0.2)])]},
        },
        {
            "id": "jar", "kind": "group", "name": "Pale jar",
            "mask": {"start": "closed", "feather": 5, "parts": [
                {"kind": "oval", "op": "show", "centre": [1893, 1120], "radii": [468, 478], "softness": 0.1}, paint(open_jar, take_back)]},
            "layers": [
                {"id": "cast", "kind": "curves", "name": "Cast out", "opacity": 0.7,
                 "settings": curves(red=[[0, 0], [0.55, 0.553], [1, 1]], green=[[0, 0], [0.55, 0.536], [1, 0.99]], blue=[[0, 0], [0.5, 0.55], [1, 1]])},
                {"id": "depth", "kind": "levels", "name": "Glaze depth", "opacity": 0.5, "settings": {"rgb": {"black": 0.05, "white": 0.93, "gamma": 1.04}}},
            ],
        },
        {
            "id": "held", "kind": "picture", "name": "Highlights held", "source": "vase-trio-low.jpg", "opacity": 0.3, "blend": "darken",
            "place": {"x": 1500, "y": 1000}, "mask": {"start": "closed", "feather": 8, "parts": [paint(highlights)]},
        },
        {"id": "shape", "kind": "grey", "name": "Rims & bowl", "opacity": 0.9, "settings": {"hold_colour": True}, "strokes": dodge},
        {"id": "edges", "kind": "vignette", "name": "Edges held", "opacity": 0.7,
         "settings": {"stops": -0.9, "centre": [1500, 1020], "radii": [2000, 1500], "softness": 0.7}},
        {"id": "last", "kind": "curves", "name": "Last lift", "opacity": 0.6, "settings": curves(tone=[[0, 0], [0.3, 0.33], [0.7, 0.73], [1, 1]])},
    ]  # fmt: skip


def tile_panel():
    hand = Hand(23)
    frame = [*hand.passes([(150, 150), (170, 1000), (200, 1850)], 1, 130, 0.1, 3), *hand.passes([(300, 100), (1500, 90), (2700, 60)], 1, 120, 0.1, 3),
             *hand.passes([(2790, 200), (2820, 1000), (2840, 1800)], 1, 120, 0.12, 3)]  # fmt: skip
    glaze = [
        s
        for x in (640, 1470, 2310)
        for y in (590, 1430)
        for s in hand.passes([(x - 190, y - 120), (x, y - 190), (x + 190, y - 100)], 1, 150, 0.08, 2)
    ]
    grout = hand.passes([(250, 1780), (1400, 1860), (2700, 1780)], 0, 160, 0.08, 3)
    return [
        {"id": "base", "kind": "picture", "name": "Base", "source": "tile-panel.jpg"},
        {"id": "corners", "kind": "vignette", "name": "Corners back", "opacity": 0.8,
         "settings": {"stops": 0.9, "centre": [1500, 1000], "radii": [1900, 1350], "softness": 0.8}},
        {"id": "magenta", "kind": "curves", "name": "Magenta out, top left", "opacity": 0.85,
         "settings": curves(red=[[0, 0], [0.6, 0.575], [1, 0.97]], green=[[0, 0], [0.5, 0.535], [1, 1]], blue=[[0, 0], [0.6, 0.585], [1, 0.99]]),
         "mask": {"start": "closed", "parts": [
             {"kind": "oval", "op": "show", "centre": [150, 250], "radii": [1150, 1000], "rotation": -20, "softness": 0.95}]}},
        {"id": "green", "kind": "curves", "name": "Green out, bottom left", "opacity": 0.8,
         "settings": curves(red=[[0, 0], [0.5, 0.52], [1, 1]], green=[[0, 0], [0.5, 0.46], [1, 0.975]], blue=[[0, 0], [0.5, 0.515], [1, 1]]),
         "mask": {"start": "closed", "parts": [
             {"kind": "ramp", "op": "show", "from": [60, 1900], "to": [900, 1300], "ease": "smooth"}]}},
        {"id": "ends", "kind": "levels", "name": "Ends set", "settings": {"rgb": {"black": 0.03, "white": 0.9, "gamma": 1.08}}},
        {"id": "whites", "kind": "curves", "name": "Glaze whites", "opacity": 0.6, "settings": curves(tone=[[0, 0], [0.5, 0.53], [0.85, 0.9], [1, 1]]),
         "mask": {"parts": [{"kind": "tone", "op": "keep", "low": 0.55, "high": 1, "soft_low": 0.2, "feather": 4}]}},
        {"id": "light", "kind": "grey", "name": "Frame & roundels", "strokes": [*frame, *glaze, *grout]},
    ]  # fmt: skip


def glass_bowl():
    hand = Hand(37)
    inside = [*hand.passes([(800, 950), (1100, 1080), (1500, 980)], 1, 240, 0.1, 4), *hand.passes([(880, 1300), (1150, 1420), (1420, 1300)], 1, 130, 0.12, 4),
              *hand.passes([(620, 760), (1150, 720), (1760, 800)], 1, 60, 0.12, 3), *hand.passes([(2020, 900), (1990, 1200), (2020, 1480)], 1, 120, 0.1, 3),
              *hand.passes([(700, 1560), (1200, 1640), (1800, 1600)], 0, 220, 0.08, 3)]  # fmt: skip
    blocks = [
        hand.stroke(
            [(60, 1350), (300, 1320), (480, 1450), (500, 1750), (250, 1800), (60, 1700), (250, 1560)],
            1,
            340,
            1,
            flow=0.8,
        )
    ]
    return [
        {"id": "base", "kind": "picture", "name": "Base", "source": "glass-bowl.jpg"},
        {"id": "blocks", "kind": "curves", "name": "Blocks opened", "opacity": 0.9, "settings": curves(rgb=[[0, 0], [0.08, 0.17], [0.3, 0.42], [1, 1]]),
         "mask": {"start": "closed", "parts": [paint(blocks), {"kind": "tone", "op": "keep", "low": 0, "high": 0.3, "soft_high": 0.15, "of": "base", "feather": 6}]}},
        {"id": "window", "kind": "gradient", "name": "Window held back", "blend": "multiply", "opacity": 0.75,
         "settings": {"shape": "linear", "from": [3000, 500], "to": [2050, 640],
                      "stops": [{"at": 0, "colour": [0.62, 0.66, 0.72]}, {"at": 1, "colour": [1, 1, 1]}]},
         "mask": {"parts": [{"kind": "tone", "op": "keep", "low": 0.7, "high": 1, "soft_low": 0.25, "feather": 12}]}},
        {"id": "amber", "kind": "curves", "name": "Amber richer", "opacity": 0.7,
         "settings": curves(red=[[0, 0], [0.5, 0.54], [1, 1]], blue=[[0, 0], [0.5, 0.43], [1, 0.97]]),
         "mask": {"start": "closed", "feather": 4, "parts": [
             {"kind": "colour", "op": "show", "colour": [0.72, 0.55, 0.32], "tolerance": 0.07, "softness": 0.09, "of": "base"},
             {"kind": "oval", "op": "keep", "centre": [1170, 1100], "radii": [760, 560], "softness": 0.4}]}},
        {"id": "glass", "kind": "grey", "name": "Bowl & bottle", "settings": {"hold_colour": True}, "strokes": inside},
        {"id": "far", "kind": "blur", "name": "Wall softer", "settings": {"sigma": 9},
         "mask": {"start": "closed", "parts": [{"kind": "ramp", "op": "show", "from": [1500, 0], "to": [1500, 600], "ease": "smooth"},
             {"kind": "ramp", "op": "hide", "from": [2400, 300], "to": [2100, 300], "ease": "smooth"}]}},
    ]  # fmt: skip


def laid(source, name, width, height, **more):
    """A texture stretched over a sheet."""
    corners = [[0, 0], [width, 0], [width, height], [0, height]]
    return {"kind": "picture", "name": name, "source": source, "place": {"corners": corners}, **more}


def vase_trio_held():
    """The darker rendition, which was moved, laid exactly over; it brings back the highlights where they are painted."""
    hand = Hand(41)
    spots = [[(862, 815), (845, 905)], [(893, 915), (897, 1010)], [(780, 1130), (800, 1180)], [(1655, 985), (1740, 985)],
             [(2185, 890), (2225, 925)], [(1640, 1330), (1740, 1345)], [(1880, 835), (1910, 850)]]  # fmt: skip
    brought = [s for spot in spots for s in hand.passes(spot, 1, 130, 0.8, 2, flow=0.6)]
    rims = [*hand.passes([(1060, 1300), (1400, 1350), (1850, 1270)], 1, 60, 0.12, 4), *hand.passes([(1820, 1330), (1840, 1480), (1760, 1640)], 1, 190, 0.12, 4),
            *hand.passes([(690, 1080), (700, 1300), (760, 1500)], 1, 150, 0.1, 3)]  # fmt: skip
    corners = [[round(float(v), 3) for v in corner] for corner in carried(MOVED, 3000, 2000)]
    layers = [
        {"id": "base", "kind": "picture", "name": "Base", "source": "vase-trio.jpg"},
        {"id": "low", "kind": "picture", "name": "Darker rendition", "source": "vase-trio-low-moved.jpg", "opacity": 0.9,
         "place": {"corners": corners}, "mask": {"start": "closed", "parts": [paint(brought), {"kind": "tone", "op": "keep", "low": 0.86, "high": 1, "soft_low": 0.16, "of": "base", "feather": 2}]}},
        {"id": "backdrop", "kind": "curves", "name": "Backdrop down", "opacity": 0.8, "settings": curves(rgb=[[0, 0], [0.42, 0.35], [0.8, 0.58], [1, 0.85]]),
         "mask": {"start": "closed", "parts": [{"kind": "ramp", "op": "show", "from": [2900, 60], "to": [1400, 1000], "ease": "smooth"}]}},
        {"id": "jar", "kind": "curves", "name": "Jar's cast out", "opacity": 0.7, "settings": curves(green=[[0, 0], [0.55, 0.535], [1, 0.99]], blue=[[0, 0], [0.5, 0.55], [1, 1]]),
         "mask": {"start": "closed", "feather": 5, "parts": [{"kind": "oval", "op": "show", "centre": [1893, 1120], "radii": [468, 478], "softness": 0.1}]}},
        {"id": "left", "kind": "curves", "name": "Left lifted", "opacity": 0.7, "settings": curves(rgb=[[0, 0.01], [0.25, 0.34], [0.6, 0.66], [1, 1]]),
         "mask": {"start": "closed", "parts": [{"kind": "ramp", "op": "show", "from": [120, 760], "to": [1050, 900], "ease": "smooth"}]}},
        {"id": "shape", "kind": "grey", "name": "Rims & bowl", "settings": {"hold_colour": True}, "strokes": rims},
    ]  # fmt: skip
    frame = {
        "corners": [[150, 0], [2817, 0], [2817, 2000], [150, 2000]], "size": [2667, 2000],
        "border": {"left": 150, "top": 150, "right": 150, "bottom": 225, "colour": [0.95, 0.94, 0.92]},
        "layers": [
            laid("laid-paper.jpg", "Laid paper", 2967, 2375, id="paper", blend="multiply", opacity=0.85),
            {"id": "edges", "kind": "vignette", "name": "Edges of the sheet", "opacity": 0.5, "settings": {"stops": -0.35, "centre": [1483, 1150], "radii": [2150, 1720], "softness": 0.6}},
        ],
    }  # fmt: skip
    return layers, frame


def tile_panel_framed():
    """The panel straightened by its corners, on linen; the paintings of the other worked panel lie where they lay."""
    crop = straightened(((105, 118), (2810, 20), (2868, 1880), (175, 1972)), (1500, 1000))
    width, height = crop.size[0] + 320, crop.size[1] + 420
    frame = {
        "corners": [list(corner) for corner in crop.corners], "size": list(crop.size),
        "border": {"left": 160, "top": 160, "right": 160, "bottom": 260, "colour": [0.93, 0.91, 0.87]},
        "layers": [
            laid("linen.jpg", "Linen", width, height, id="linen", blend="multiply", opacity=0.6,
                 mask={"parts": [{"kind": "outline", "op": "hide", "points": [[160, 160], [width - 160, 160], [width - 160, height - 260], [160, height - 260]]}]}),
        ],
    }  # fmt: skip
    return tile_panel(), frame


def carried(matrix, width, height):
    """Where a picture's corners are carried."""
    places = np.array([[0, 0, 1], [width, 0, 1], [width, height, 1], [0, height, 1]], float) @ matrix.T
    return places[:, :2] / places[:, 2:]


def main() -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    made = (("vase-trio", (vase_trio(), None)), ("tile-panel", (tile_panel(), None)), ("glass-bowl", (glass_bowl(), None)),
            ("vase-trio-held", vase_trio_held()), ("tile-panel-framed", tile_panel_framed()))  # fmt: skip
    for name, (layers, frame) in made:
        stack = {"format": "glyptic-stack", "version": 1, "working_space": "srgb", "layers": layers}
        if frame is not None:
            stack["frame"] = frame
        (TARGET / f"{name}.json").write_text(json.dumps(stack, separators=(",", ":")) + "\n")
        sys.stdout.write(f"{name}: {len(layers)} layers\n")


if __name__ == "__main__":
    main()
