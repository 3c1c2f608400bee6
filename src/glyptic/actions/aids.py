"""Helps in finding settings: mending a curve, and what is worked out from a histogram."""

from __future__ import annotations

from glyptic.actions.edit import apply_edit
from glyptic.actions.measure import reaching
from glyptic.actions.workshop import Current, Workshop
from glyptic.adjust import KINDS
from glyptic.analysis.trust import mended
from glyptic.base.errors import DocumentError, Fault
from glyptic.document.tree import layer_of
from glyptic.document.values import Layer, Stack


def _of_kind(stack: Stack, layer_id: str, kind: str) -> Layer:
    layer = layer_of(stack, layer_id)
    if layer.kind != kind:
        raise DocumentError([Fault("layer", f"‘{layer.name}’ has no {kind}; nothing was changed")])
    return layer


def mend_curve(
    workshop: Workshop, plate_id: int, revision: int, layer_id: str, channel: str, stretch: tuple[float, float]
) -> Current:
    """Mend a stretch of a curve by moving the two points nearest to it as little as needed, as one step."""
    layer = _of_kind(workshop.current(plate_id).stack, layer_id, "curves")
    points = layer.settings["points"].get(channel)
    if points is None:
        raise DocumentError([Fault("channel", "is not a curve of this layer")])
    changed = [list(point) for point in mended(points, *stretch)]
    arguments = {"layer": layer_id, "field": f"settings.points.{channel}", "value": changed}
    return apply_edit(workshop, plate_id, revision, "set", arguments)


def find_settings(workshop: Workshop, plate_id: int, revision: int, layer_id: str, name: str) -> Current:
    """Set what a kind works out from the histogram of what reaches the layer, as one step."""
    stack = workshop.current(plate_id).stack
    layer = layer_of(stack, layer_id)
    kind = KINDS[layer.kind]
    if name not in {aid.name for aid in kind.autos}:
        raise DocumentError([Fault("auto", f"is nothing that ‘{layer.name}’ can work out; nothing was changed")])
    changes = kind.auto(layer.settings, name, reaching(workshop, stack, layer_id))
    return apply_edit(workshop, plate_id, revision, "set", {"layer": layer_id, "field": "settings", "value": changes})
