"""Paint: strokes of the brush."""

from glyptic.masks.part import PartKind


class Paint(PartKind):
    """Strokes move the mask towards their `to`; they know no op, feather or invert."""

    name = "paint"
    title = "Paint"
    summary = "What was painted by hand: Show opens the mask, Hide closes it."
    carries = "strokes"


PAINT = Paint()
