"""Groups: layers that share one mask and one opacity."""

from __future__ import annotations

from glyptic.adjust.kind import Kind


class Group(Kind):
    """Layers composited on the backdrop, then mixed with it by the group's mask and opacity (mode through)."""

    name = "group"
    title = "Group"
    purpose = "Groups"
    summary = "Holds several layers under one mask and one opacity."
    carries = "layers"


GROUP = Group()
