"""Oklab (B. Ottosson 2020, as in CSS Color 4, section 9) of encoded sRGB."""

from __future__ import annotations

from glyptic.pixels.compiled import formula
from glyptic.pixels.srgb import lin


@formula
def oklab(r: float, g: float, b: float) -> tuple[float, float, float]:
    """L, a, b of encoded r, g, b clamped to 0..1."""
    r = lin(min(max(r, 0.0), 1.0))
    g = lin(min(max(g, 0.0), 1.0))
    b = lin(min(max(b, 0.0), 1.0))
    l = (0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b) ** (1.0 / 3.0)
    m = (0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b) ** (1.0 / 3.0)
    s = (0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b) ** (1.0 / 3.0)
    return (
        0.2104542553 * l + 0.7936177850 * m - 0.0040720468 * s,
        1.9779984951 * l - 2.4285922050 * m + 0.4505937099 * s,
        0.0259040371 * l + 0.7827717662 * m - 0.8086757660 * s,
    )
