"""What a layer does to the picture, in numbers and in a sentence."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from glyptic.analysis.clipping import newly_clipped
from glyptic.analysis.difference import looks_apart
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.spaces import Space, tone
from glyptic.pixels.transfer import LSTAR_KAPPA

NOTICED = 0.002
"""A change of tone smaller than this share counts as none."""
DARKEST = 0.01
"""Tones are measured in stops from here up; below, a stop means nothing to the eye."""
STEP = 0.05
"""A change of light smaller than this many stops counts as the same tone."""
LEAST_TOLD = 0.05
"""From so many stops on a change is told as a number."""
BOTH_WAYS = 0.15
"""From this share of the changed pixels on, the other direction is told too."""


@dataclass(frozen=True)
class Effect:
    """What changes. reached: share of the picture, 0..1; mean: change in stops there (negative darkens); lighter,
    darker: shares of the picture; up, down: the greatest change each way, in stops; apart, most_apart: the mean and the
    greatest difference there in CIEDE2000; clipped: share newly blown or blocked in a channel."""

    reached: float = 0.0
    mean: float = 0.0
    lighter: float = 0.0
    darker: float = 0.0
    up: float = 0.0
    down: float = 0.0
    apart: float = 0.0
    most_apart: float = 0.0
    clipped: float = 0.0


def effect(below: Planes, above: Planes, space: Space) -> Effect:
    """Measure the change from one picture (3, h, w) to another of the same working space."""
    reached = np.abs(above - below).max(0) > NOTICED
    clipped = newly_clipped(below, above)
    if not reached.any():
        return Effect(clipped=clipped)
    stops = np.log2(_light(tone(above, space)[reached]) / _light(tone(below, space)[reached]))
    lighter, darker = (float((way > STEP).sum() / reached.size) for way in (stops, -stops))
    up, down = max(float(stops.max()), 0.0), max(float(-stops.min()), 0.0)
    differences = looks_apart(below, above, reached, space)
    apart, most_apart = float(differences.mean()), float(differences.max())
    return Effect(float(reached.mean()), float(stops.mean()), lighter, darker, up, down, apart, most_apart, clipped)


def _light(t: Plane) -> NDArray[np.float64]:
    """Luminance of tones, none darker than DARKEST."""
    t64 = np.maximum(t.astype(np.float64), DARKEST)
    return np.where(t64 > 0.08, ((t64 + 0.16) / 1.16) ** 3, t64 / LSTAR_KAPPA * 100)


def _share(part: float) -> str:
    return "less than 1 %" if part < 0.01 else f"{part * 100:.0f} %"


def _deed(done: Effect) -> str:
    if max(done.lighter, done.darker) < 0.0005:
        return f"Changes colour or detail in {_share(done.reached)} of the picture; tone stays."
    if min(done.lighter, done.darker) >= BOTH_WAYS * done.reached:
        return (
            f"Lightens {_share(done.lighter)} of the picture by up to {_stops(done.up)} "
            f"and darkens {_share(done.darker)} by up to {_stops(done.down)}."
        )
    verb, most = ("Lightens", done.up) if done.mean > 0 else ("Darkens", done.down)
    share = _share(done.reached)
    return f"{verb} {share} of the picture by {_stops(abs(done.mean))} on average, {_stops(most)} at most."


def _stops(amount: float) -> str:
    return f"{amount:.1f} stops" if amount >= LEAST_TOLD else "less than 0.1 stops"


def sentence(done: Effect) -> str:
    """One plain sentence for the head of the desk."""
    if done.reached == 0:
        return "Changes nothing yet."
    clips = f"Newly clips {done.clipped * 100:.1f} %." if done.clipped >= 0.0005 else "Clips nothing new."
    looks = f"ΔE {done.apart:.1f} on average, {done.most_apart:.1f} at most."
    return f"{_deed(done)} {looks} {clips}"
