"""Writes the profile of the practice press, a printing press there is not: four inks on a slightly bluish paper.

What a mixture of inks looks like is worked out as Neugebauer has it, with the exponent of Yule and Nielsen: shares of
the sixteen ways in which full inks lie over each other, dots grown. The way back is found by Gauss-Newton steps, black
taking over from grey as the picture gets darker.
"""

from __future__ import annotations

import struct
from itertools import product
from pathlib import Path

import numpy as np

from glyptic.formats.icc import D50, profile, xyz

OUT = Path(__file__).parents[1] / "src/glyptic/formats/practice-press.icc"
PAPER = (93.5, 0.4, -2.6)
FULL = {
    "": (100, 0, 0), "c": (57, -38, -44), "m": (49, 71, -3), "y": (90, -7, 88), "cm": (27, 21, -42),
    "cy": (51, -62, 28), "my": (48, 65, 45), "cmy": (25, 1, 1), "k": (17, 0.5, 0.5), "ck": (13, -6, -8),
    "mk": (13, 12, -1), "yk": (16, -1, 9), "cmk": (9, 4, -8), "cyk": (12, -9, 4), "myk": (12, 11, 7), "cmyk": (7, 0, 0),
}  # fmt: skip
"""L*, a*, b* of full inks over each other, as seen against the paper."""
SPREAD = 1.9
"""The exponent of Yule and Nielsen: light that enters the paper beside a dot and leaves it under one."""
GROWS = 0.15
"""How much larger a dot of half coverage is printed."""
MIXED, SEEN = 11, 29
"""Colours a side of the tables from inks, and to inks."""
MOST_INK = 3.1
STEPS = 40


def xyz_of(lab: np.ndarray) -> np.ndarray:
    fy = (lab[..., 0] + 16) / 116
    f = np.stack([fy + lab[..., 1] / 500, fy, fy - lab[..., 2] / 200], -1)
    return D50 * np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29))


def lab_of(light: np.ndarray) -> np.ndarray:
    r = np.maximum(light, 0) / D50
    f = np.where(r > (6 / 29) ** 3, np.cbrt(r), r / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], -1)


WAYS = np.array(list(product((0, 1), repeat=4)))
BENT = np.array(
    [xyz_of(np.array(FULL["".join(n for n, on in zip("cmyk", way, strict=True) if on)], float)) for way in WAYS]
)
BENT = np.maximum(BENT, 1e-6) ** (1 / SPREAD)


def printed(inks: np.ndarray) -> np.ndarray:
    """L*, a*, b* against the paper of coverages (n, 4) in 0..1."""
    grown = inks + GROWS * 4 * inks * (1 - inks)
    shares = np.prod(np.where(WAYS[None] == 1, grown[:, None], 1 - grown[:, None]), -1)
    return lab_of((shares @ BENT) ** SPREAD)


def black_for(lab: np.ndarray) -> np.ndarray:
    """How much black a colour gets: none in the lights, all that is left in the darks, less where it is colourful."""
    dark = np.clip((68 - lab[:, 0]) / 60, 0, 1) ** 1.6
    return (
        0.95 * dark * np.clip(1 - np.hypot(lab[:, 1], lab[:, 2]) / 70, 0, 1) + np.clip((9 - lab[:, 0]) / 9, 0, 1) * 0.05
    )


def inks_for(lab: np.ndarray) -> np.ndarray:
    """Coverages (n, 4) that print a colour (n, 3), or the nearest there is."""
    black = black_for(lab)
    inks = np.concatenate([np.full((len(lab), 3), 0.4), black[:, None]], 1)
    damping = np.full(len(lab), 1.0)
    off = np.square(printed(inks) - lab).sum(1)
    for _ in range(STEPS):
        here = printed(inks)
        slope = np.empty((len(lab), 3, 3))
        for ink in range(3):
            moved = inks.copy()
            moved[:, ink] = np.where(inks[:, ink] > 0.5, inks[:, ink] - 1e-3, inks[:, ink] + 1e-3)
            slope[:, :, ink] = (printed(moved) - here) / (moved[:, ink] - inks[:, ink])[:, None]
        normal = slope.transpose(0, 2, 1) @ slope + damping[:, None, None] * 40 * np.eye(3)
        step = np.linalg.solve(normal, (slope.transpose(0, 2, 1) @ (lab - here)[:, :, None]))[:, :, 0]
        tried = inks.copy()
        tried[:, :3] = np.clip(inks[:, :3] + step, 0, 1)
        error = np.square(printed(tried) - lab).sum(1)
        better = error < off
        inks[better], off = tried[better], np.where(better, error, off)
        damping = np.clip(np.where(better, damping / 3, damping * 4), 1e-4, 1e4)
    return limited(inks)


def limited(inks: np.ndarray) -> np.ndarray:
    """No more ink than the paper takes: colours give way to black."""
    room = MOST_INK - inks[:, 3]
    share = np.minimum(1, room / np.maximum(inks[:, :3].sum(1), 1e-6))
    return np.concatenate([inks[:, :3] * share[:, None], inks[:, 3:]], 1)


def table(inputs: int, outputs: int, side: int, codes: np.ndarray) -> bytes:
    """A lut16Type: straight curves, and a table of codes, the last input changing fastest."""
    head = (
        struct.pack(">4sIBBBx", b"mft2", 0, inputs, outputs, side)
        + np.round(np.eye(3).ravel() * 65536).astype(">i4").tobytes()
    )
    straight = np.array([0, 65535], ">u2").tobytes()
    return head + struct.pack(">HH", 2, 2) + straight * inputs + codes.astype(">u2").tobytes() + straight * outputs


def lab_codes(lab: np.ndarray) -> np.ndarray:
    """As a lut16Type writes L*, a*, b*."""
    return np.clip(
        np.round(np.stack([lab[:, 0] * 652.8, (lab[:, 1] + 128) * 256, (lab[:, 2] + 128) * 256], -1)), 0, 65535
    )


def seen_grid() -> np.ndarray:
    steps = np.linspace(0, 65535, SEEN)
    grid = np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), -1).reshape(-1, 3)
    return np.stack([grid[:, 0] / 652.8, grid[:, 1] / 256 - 128, grid[:, 2] / 256 - 128], -1)


def eased(lab: np.ndarray) -> np.ndarray:
    """Colours brought nearer to what the press prints: darks lifted, and what is very colourful held back."""
    darkest = float(printed(np.array([[0.75, 0.68, 0.68, 0.98]]))[0, 0])
    light = darkest + (100 - darkest) * np.clip(lab[:, :1], 0, 100) / 100
    chroma = np.hypot(lab[:, 1:2], lab[:, 2:])
    held = np.where(chroma > 35, 35 + 55 * np.tanh((chroma - 35) / 90), chroma)
    return np.concatenate([light, lab[:, 1:] * held / np.maximum(chroma, 1e-9)], 1)


def main() -> None:
    steps = np.linspace(0, 1, MIXED)
    mixed = np.stack(np.meshgrid(*[steps] * 4, indexing="ij"), -1).reshape(-1, 4)
    prints = table(4, 3, MIXED, lab_codes(printed(mixed)))
    seen = seen_grid()
    exact = table(3, 4, SEEN, np.round(inks_for(seen) * 65535))
    pleasing = table(3, 4, SEEN, np.round(inks_for(eased(seen)) * 65535))
    paper = xyz_of(np.array(PAPER))
    tags = {
        b"wtpt": xyz(paper), b"A2B0": prints, b"A2B1": prints, b"A2B2": prints, b"B2A0": pleasing, b"B2A1": exact,
        b"B2A2": pleasing,
    }  # fmt: skip
    OUT.write_bytes(profile(b"prtr", b"CMYK", b"Lab ", "Practice press", tags))
    print(f"{OUT} ({OUT.stat().st_size} bytes)")


if __name__ == "__main__":
    main()
