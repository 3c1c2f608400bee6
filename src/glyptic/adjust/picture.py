"""Pictures: the base, and pictures laid over it."""

from __future__ import annotations

from glyptic.adjust.kind import Kind


class Picture(Kind):
    """A picture from a file; above the base it is placed by its centre, scale and turn (stack-format.md)."""

    name = "picture"
    title = "Picture"
    purpose = "Pictures"
    covers = True
    summary = "Another picture laid over what is below, placed, scaled and turned."
    carries = "picture"
    starts_open = True


PICTURE = Picture()
