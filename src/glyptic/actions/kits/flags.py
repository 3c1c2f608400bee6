"""What is to be looked at where a kit found something by itself: halos along it, gaps and spill in it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from glyptic.checks.check import Check
from glyptic.checks.gaps import CHECK as GAPS
from glyptic.checks.halos import CHECK as HALOS
from glyptic.checks.subject import Subject
from glyptic.document.kit_making import is_backdrop
from glyptic.document.kits import Kit, is_to_be_found
from glyptic.document.values import Layer, Part, Stack
from glyptic.engine.plan import Plan

TOLD_HALOS, WIDEST_GAP = 4, 1 / 25
"""What is found by itself is told of more rarely than what is drawn, for nobody looks through a list of everything: at
so many times the threshold of halos, and gaps no wider than this share of the picture's longer side."""


def finds(kit: Kit) -> bool:
    """Whether something in a kit is found in each picture."""
    return any(is_to_be_found(part) for layer in kit.walk() for part in _parts(layer))


def flags(stack: Stack, plan_of: Callable[[Stack], Plan], before: Stack) -> Iterator[str]:
    """Sentences of the halo and gap checks about the masks that hold something found, of the layers of a stack that
    were not there before."""
    known = {layer.id for layer in before.walk()}
    looked_at = {x.id for x in stack.walk() if x.id not in known and any(map(is_backdrop, _parts(x)))}
    subject = Subject(stack, plan_of)
    for check, threshold in _limits(subject) if looked_at else ():
        for finding in check.look(subject, threshold):
            if finding.layer in looked_at:
                yield finding.says


def _limits(subject: Subject) -> Iterator[tuple[Check, float]]:
    yield HALOS, TOLD_HALOS * HALOS.threshold.default
    yield GAPS, min(GAPS.threshold.default, WIDEST_GAP * max(subject.plan.inner))


def _parts(layer: Layer) -> tuple[Part, ...]:
    return layer.mask.parts if layer.mask is not None else ()
