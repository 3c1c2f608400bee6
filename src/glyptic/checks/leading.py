"""Where the eye is led: contrast that lies at the border rather than at the subject."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from glyptic.checks.check import Check, Finding, Mend, by_adding
from glyptic.checks.edges import smoothed, steps
from glyptic.checks.subject import Subject, tones
from glyptic.params import Real, Values
from glyptic.pixels.compiled import Plane

BORDER = 0.12
"""Share of the shorter side that counts as border."""


class WhereTheEyeIsLed(Check):
    """Takes the contrast of tone (its steps after a small blur) at the border, or outside the marked subject, as a
    share of all, in the finished picture and in the base."""

    name = "leading"
    title = "Where the eye is led"
    reason = "The eye goes to contrast: work that raises it at the border leads away from the subject."
    rank = 53
    threshold = Real(
        label="Rise", unit="%", low=0.01, high=0.5, default=0.04, step=0.01,
        help="By how much of all contrast the share at the border, or outside the subject, must have risen.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        oval = subject.stack.notes.subject
        away = _border(subject.before.shape[1:]) if oval is None else _outside(subject, oval)
        was, now = (_share(tones(px, subject.space), away) for px in (subject.before, subject.finished))
        if now - was < threshold:
            return
        where = "at the border" if oval is None else "outside the subject"
        limit = now - (now - was) * 0.3
        blamed = subject.blamed(lambda stack: _share(tones(subject.finished_of(stack), subject.space), away), limit)
        whose = blamed.says("does most of it", f"{blamed.left * 100:.0f} %")
        yield Finding(
            f"{now * 100:.0f} % of the contrast lies {where}, {was * 100:.0f} % in the base.{whose}",
            worth=(now - was) / threshold, mark=f"{where} {(now - was) * 50:.0f}", mends=_mends(subject, oval),
        )  # fmt: skip


def _mends(subject: Subject, oval: Values | None) -> tuple[Mend, ...]:
    """A soft vignette about the subject, or about the middle."""
    if subject.stack.frame is not None:
        return ()
    width, height = subject.plan.inner
    centre, radii = ([width / 2, height / 2], [width * 0.7, height * 0.7])
    if oval is not None:
        centre, radii = list(oval["centre"]), [2.5 * radius for radius in oval["radii"]]
    settings = {"stops": -0.5, "centre": centre, "radii": radii, "softness": 0.7}
    words = "Adds a soft vignette of −0.5 stops at the end."
    return (by_adding(subject, "Hold the edges", words, kind="vignette", name="Edges held", settings=settings),)


def _outside(subject: Subject, oval: Values) -> Plane:
    """1 outside the marked subject, 0 inside, over what comes out."""
    reader, frame = subject.reader, subject.stack.frame
    down, across = np.mgrid[0 : reader.bounds.h, 0 : reader.bounds.w]
    x, y = (across + 0.5) * reader.step, (down + 0.5) * reader.step
    if frame is not None and frame.enabled:
        (a, b, c), (d, e, f), (g, h, i) = frame.onto.rows
        far = g * x + h * y + i
        x, y = (a * x + b * y + c) / far, (d * x + e * y + f) / far
    (cx, cy), (rx, ry) = oval["centre"], oval["radii"]
    return np.asarray(np.hypot((x - cx) / rx, (y - cy) / ry) > 1, np.float32)


def _border(shape: tuple[int, ...]) -> Plane:
    height, width = shape
    margin = round(BORDER * min(height, width))
    away = np.ones((height, width), np.float32)
    away[margin : height - margin, margin : width - margin] = 0
    return away


def _share(tone: Plane, away: Plane) -> float:
    contrast = steps(smoothed(tone, 1.5), 1)
    total = float(contrast.sum())
    return float((contrast * away).sum()) / total if total > 0 else 0.0


CHECK = WhereTheEyeIsLed()
