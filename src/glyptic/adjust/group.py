"""Groups: layers that share one mask and one opacity."""

from __future__ import annotations

from glyptic.adjust.kind import Kind


class Group(Kind):
    """Through: layers composited on the backdrop, then mixed with it by the group's mask and opacity. Isolated: layers
    composited on nothing, so that adjustments in the group see only what the group itself brings; the result is laid
    on the backdrop in the group's blend mode (docs/isolated.md)."""

    name = "group"
    title = "Group"
    purpose = "Groups"
    summary = "Holds several layers under one mask and one opacity."
    carries = "layers"


GROUP = Group()
