"""Make the demo's further pictures: two textures, and a darker rendition that a hand-held camera might have brought,
shifted and turned a little. Run with the environment's Python; the result is committed."""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from scipy.ndimage import gaussian_filter

PLATES = Path(__file__).resolve().parents[1] / "src" / "glyptic" / "demo" / "plates"
MOVED = np.array([[0.99996, -0.0089, 21.4], [0.0087, 1.00012, -13.2], [1.1e-6, -0.7e-6, 1.0]])
"""Carries pixels of the moved rendition to pixels of the one that stands still (from the corner of the first pixel)."""
WIDTH, HEIGHT = 1800, 1200


def save(name: str, light: np.ndarray, tint: tuple[float, float, float], quality: int = 86) -> None:
    rgb = np.clip(light[:, :, None] * np.array(tint), 0, 1)
    Image.fromarray((rgb * 255 + 0.5).astype(np.uint8)).save(PLATES / name, quality=quality, subsampling=0)
    sys.stdout.write(f"{name}: {(PLATES / name).stat().st_size // 1024} KB\n")


def clouds(rng: np.random.Generator, sigma: float) -> np.ndarray:
    """Soft noise of one width, mean 0, spread 1."""
    noise = gaussian_filter(rng.standard_normal((HEIGHT, WIDTH)), sigma, mode="wrap")
    return (noise - noise.mean()) / noise.std()


def laid_paper() -> np.ndarray:
    """Paper from a mould: close laid lines, chain lines across them, fibres, a little cloud."""
    rng = np.random.default_rng(5)
    x, y = np.arange(WIDTH)[None, :], np.arange(HEIGHT)[:, None]
    drift = 0.35 * clouds(rng, 60)
    laid = 0.5 + 0.5 * np.cos(2 * np.pi * (y / 5.2 + drift))
    chain = np.exp(-(((x + 2.2 * clouds(rng, 40)) % 118 - 59) ** 2) / 14)
    fibres = gaussian_filter(rng.standard_normal((HEIGHT, WIDTH)), (0.7, 3.2), mode="wrap")
    fibres += gaussian_filter(rng.standard_normal((HEIGHT, WIDTH)), (3.0, 0.7), mode="wrap")
    return 0.955 - 0.028 * laid - 0.022 * chain + 0.03 * fibres / fibres.std() * 0.5 + 0.008 * clouds(rng, 90)


def linen() -> np.ndarray:
    """A plain weave: threads over and under each other, each of its own thickness and lightness."""
    rng = np.random.default_rng(8)
    pitch = 7.5
    x, y = np.arange(WIDTH)[None, :], np.arange(HEIGHT)[:, None]
    sway_x, sway_y = 0.8 * clouds(rng, 30), 0.8 * clouds(rng, 30)
    u, v = (x + sway_x) / pitch, (y + sway_y) / pitch
    warp, weft = np.floor(u).astype(int), np.floor(v).astype(int)
    own = rng.normal(0, 0.035, 4096)
    over = (warp + weft) % 2 == 0
    ridge_warp, ridge_weft = np.sin(np.pi * (u % 1)), np.sin(np.pi * (v % 1))
    light = np.where(over, 0.55 + 0.45 * ridge_warp, 0.5 + 0.45 * ridge_weft)
    light = light + np.where(over, own[warp % 4096], own[(weft + 2000) % 4096])
    return 0.62 + 0.3 * light + 0.02 * clouds(rng, 1.2) + 0.01 * clouds(rng, 80)


def moved_rendition() -> None:
    """vase-trio-low.jpg as a camera that was touched between the two exposures would have brought it."""
    still = np.asarray(Image.open(PLATES / "vase-trio-low.jpg"))
    half = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1.0]])
    matrix = np.linalg.inv(half) @ MOVED @ half
    height, width = still.shape[:2]
    flags = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
    made = cv2.warpPerspective(still, matrix, (width, height), flags=flags, borderMode=cv2.BORDER_REFLECT)
    path = PLATES / "vase-trio-low-moved.jpg"
    Image.fromarray(made).save(path, quality=90, subsampling=0)
    sys.stdout.write(f"{path.name}: {path.stat().st_size // 1024} KB\n")


def main() -> None:
    save("laid-paper.jpg", laid_paper(), (1.0, 0.985, 0.95))
    save("linen.jpg", linen(), (1.0, 0.98, 0.94))
    moved_rendition()


if __name__ == "__main__":
    main()
