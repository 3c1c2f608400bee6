"""What the picture is compared with: what it was, a proof, a step of the log, or itself without some of its layers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from glyptic.actions.workshop import Current, Workshop
from glyptic.analysis.difference import changes
from glyptic.base.errors import DocumentError, Fault
from glyptic.document.differing import differences, through_frame_of
from glyptic.document.edits.layers import turned
from glyptic.document.values import FRAME, Stack
from glyptic.engine.plan import until
from glyptic.engine.states import colour
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.pixels.compiled import Plane
from glyptic.store.plates import plate_of, revision_of
from glyptic.store.proofs import proof_of

MEASURED_SIDE = 512
"""Two states are measured against each other at the first level whose longer side is at most this many pixels."""
SEEN = 16
"""Where they differ most is looked for among squares of this many pixels of that level."""


@dataclass(frozen=True)
class Side:
    """One side of a comparison. kind: of SIDES; of: the proof or step by its number, layers by their ids."""

    kind: str = "before"
    number: int = 0
    layers: tuple[str, ...] = ()


def _before(workshop: Workshop, current: Current, side: Side) -> Stack:
    stack = current.stack
    return replace(stack, layers=stack.layers[:1], frame=stack.frame and replace(stack.frame, layers=()))


def _proof(workshop: Workshop, current: Current, side: Side) -> Stack:
    with workshop.store.session() as session:
        root = proof_of(session, plate_of(session, current.plate_id), side.number).root
    return _kept(workshop, current, root)


def _step(workshop: Workshop, current: Current, side: Side) -> Stack:
    with workshop.store.session() as session:
        root = revision_of(session, plate_of(session, current.plate_id), side.number).root
    return _kept(workshop, current, root)


def _kept(workshop: Workshop, current: Current, root: bytes) -> Stack:
    """A state that is kept, as the present frame shows it; one that cannot be drawn is refused, with the reason."""
    workshop.check(root)
    return through_frame_of(current.stack, workshop.stack(root), VOCABULARY)


def _without(workshop: Workshop, current: Current, side: Side) -> Stack:
    stack = current.stack
    there = [layer for layer in side.layers if layer != stack.base.id and stack.holds(layer) and layer != FRAME]
    return turned(stack, there, False)


def _up_to(workshop: Workshop, current: Current, side: Side) -> Stack:
    layer = next((layer for layer in side.layers if layer != FRAME and current.stack.holds(layer)), None)
    return until(current.stack, layer) if layer is not None else current.stack


SIDES: dict[str, Callable[[Workshop, Current, Side], Stack]] = {
    "before": _before, "proof": _proof, "step": _step, "without": _without, "upto": _up_to,
}  # fmt: skip
"""What the other side of a comparison can be, and how its state is made of the current one."""


def side_of(workshop: Workshop, current: Current, side: Side) -> Stack:
    """The state that stands on the other side; the same value for the same question, so that it is planned once.
    Raises DocumentError, or NotFound for a proof or a step that is not there."""
    make = SIDES.get(side.kind)
    if make is None:
        raise DocumentError([Fault("side.kind", f"must be one of {', '.join(SIDES)}")])
    return workshop.sides.get_or((current.root, side), lambda: make(workshop, current, side))


@dataclass(frozen=True)
class Apart:
    """How two states differ. says: what one has, lacks, has otherwise than the other; mean, most: CIEDE2000, and where
    most, in full-size pixels of what comes out and in words ('' where there is no difference)."""

    says: list[str]
    mean: float
    most: float
    at: tuple[float, float]
    where: str


def _seen_where(apart: Plane) -> tuple[float, float, float]:
    """The greatest mean over a square, and where the square lies as shares of the picture."""
    height, width = apart.shape
    rows, columns = (max(1, side // SEEN) for side in (height, width))
    squares = apart[: rows * (height // rows), : columns * (width // columns)]
    means = squares.reshape(rows, height // rows, columns, width // columns).mean((1, 3))
    row, column = divmod(int(means.argmax()), columns)
    return float(means.max()), (column + 0.5) / columns, (row + 0.5) / rows


def place_in_words(x: float, y: float) -> str:
    """Where a place lies, given as shares of the picture: by thirds."""
    across, down = ("left", "", "right")[min(2, int(x * 3))], ("top", "", "bottom")[min(2, int(y * 3))]
    return f"at the {down} {across}".replace("  ", " ").strip() if across or down else "in the middle"


def apart(workshop: Workshop, one: Stack, other: Stack) -> Apart:
    """How another state differs from one, in words and in numbers; it is seen through the frame of the first."""
    said = differences(other, one)
    plan, their = workshop.plan(one), workshop.plan(through_frame_of(one, other, VOCABULARY))
    reader = plan.reader(workshop.tiles, plan.outer.level_within(MEASURED_SIDE))
    here, there = (colour(reader, node, reader.bounds) for node in (plan.finished, their.finished))
    amount, _ = changes(here, there, plan.space)
    most, x, y = _seen_where(amount)
    where = place_in_words(x, y) if most > 0 else ""
    at = (x * plan.outer.width, y * plan.outer.height)
    return Apart(said, float(np.mean(amount)), most, at, where)
