"""What a layer does to the picture, in numbers and in a sentence."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from glyptic.pixels.compiled import Planes
from glyptic.pixels.srgb import LSTAR_KAPPA, tone

NOTICED = 0.002
"""A change of tone smaller than this share counts as none."""
DARKEST = 0.01
"""Tones are measured in stops from here up; below, a stop means nothing to the eye."""
BLOWN, BLOCKED = 1.0, 0.0


@dataclass(frozen=True)
class Effect:
    """reached: share of the picture that changes, 0..1; mean, most: change in stops there (negative darkens);
    clipped: share newly blown or blocked in a channel."""

    reached: float
    mean: float
    most: float
    clipped: float


def effect(below: Planes, above: Planes) -> Effect:
    """Measure the change from one picture (3, h, w) to another."""
    t0, t1 = tone(below).astype(np.float64), tone(above).astype(np.float64)
    change = np.abs(above - below).max(0)
    reached = change > NOTICED
    out = ((above >= BLOWN) | (above <= BLOCKED)).any(0)
    was_out = ((below >= BLOWN) | (below <= BLOCKED)).any(0)
    clipped = float((out & ~was_out).mean())
    if not reached.any():
        return Effect(0.0, 0.0, 0.0, clipped)
    y0, y1 = _light(t0[reached]), _light(t1[reached])
    stops = np.log2(y1 / y0)
    most = float(stops[np.argmax(np.abs(stops))])
    return Effect(float(reached.mean()), float(stops.mean()), most, clipped)


def _light(t: NDArray[np.float64]) -> NDArray[np.float64]:
    """Luminance of tones, none darker than DARKEST."""
    t = np.maximum(t, DARKEST)
    return np.where(t > 0.08, ((t + 0.16) / 1.16) ** 3, t / LSTAR_KAPPA * 100)


def sentence(done: Effect) -> str:
    """One plain sentence for the head of the desk."""
    if done.reached == 0:
        return "Changes nothing yet."
    share = "less than 1 %" if done.reached < 0.01 else f"{done.reached * 100:.0f} %"
    if abs(done.mean) < 0.02 and abs(done.most) < 0.1:
        text = f"Changes colour or detail in {share} of the picture; tone stays."
    else:
        verb = "Lightens" if done.mean > 0 else "Darkens"
        text = f"{verb} {share} of the picture by {abs(done.mean):.1f} stops on average, {abs(done.most):.1f} at most."
    clips = f" Newly clips {done.clipped * 100:.1f} %." if done.clipped >= 0.0005 else " Clips nothing new."
    return text + clips
