"""Layers that do nothing, and masks that show nothing."""

from __future__ import annotations

from collections.abc import Iterator

from glyptic.checks.check import Check, Finding, by_removing
from glyptic.checks.subject import State, Subject
from glyptic.params import Real


class DoesNothing(Check):
    """Takes the greatest change that a layer which is on makes anywhere, and what its mask shows at most."""

    name = "idle"
    title = "Does nothing"
    reason = "A layer that does nothing was forgotten half made, or its mask is not what it was meant to be."
    rank = 6
    threshold = Real(
        label="Change up to", unit="%", low=0, high=0.05, default=0.001, step=0.001,
        help="A layer that changes no pixel by more than this counts as doing nothing.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        for state in subject.states.values():
            if not state.layer.visible or state.layer.opacity == 0:
                continue
            mask = subject.mask(state.layer.id)
            if mask is not None and float(mask.max()) <= threshold:
                yield _told(state, "has a mask that shows nothing", "mask")
            elif float(abs(state.above - state.below).max()) <= threshold:
                yield _told(state, "is on and changes nothing", "layer")


def _told(state: State, what: str, mark: str) -> Finding:
    layer = state.layer
    return Finding(f"‘{layer.name}’ {what}.", layer.id, mark=mark, mends=by_removing(layer))


CHECK = DoesNothing()
