"""Light scaled: enc(lin(x) · gain) along a row.

Where x and the result lie in the same part of the transfer function that is a straight line in x: in the bright part
enc(lin(x) · gain) = (x + 0.055) · gain^(1/2.4) − 0.055. Powers are needed only where the knee is crossed, which is
looked for piece by piece.
"""

from __future__ import annotations

from glyptic.pixels.compiled import Row, formula
from glyptic.pixels.transfer import KNEE, NOTHING, OFFSET, enc, lin
from glyptic.pixels.vector import size

PIECE = 64
"""Pixels of a row that are looked at together."""


@formula
def _crosses(x: float, y: float) -> bool:
    """Whether x, and y on its straight line, lie on two sides of the knee."""
    is_dark: bool = size(x) <= KNEE
    return is_dark != ((y if x >= NOTHING else -y) <= KNEE)


@formula
def relight(x: Row, gain: Row, root: Row, out: Row) -> None:
    """out = enc(lin(x) · gain) for gains >= 0; root: gain^(1/2.4)."""
    for start in range(0, x.shape[0], PIECE):
        old, new = x[start : start + PIECE], out[start : start + PIECE]
        much, rooted = gain[start : start + PIECE], root[start : start + PIECE]
        crossing = False
        for j in range(old.shape[0]):
            a = size(old[j])
            y = a * much[j] if a <= KNEE else (a + OFFSET) * rooted[j] - OFFSET
            new[j] = y if old[j] >= NOTHING else -y
        for j in range(old.shape[0]):
            crossing |= _crosses(old[j], new[j])
        if crossing:
            for j in range(old.shape[0]):
                new[j] = enc(lin(old[j]) * much[j]) if _crosses(old[j], new[j]) else new[j]


@formula
def mix_row(x: Row, new: Row, alpha: Row) -> None:
    """x += alpha · (new − x)."""
    for j in range(x.shape[0]):
        x[j] += alpha[j] * (new[j] - x[j])
