"""Layers that are hidden, and perhaps forgotten."""

from __future__ import annotations

from collections.abc import Iterator

from glyptic.checks.check import Check, Finding, by_edit, by_removing
from glyptic.checks.subject import Subject
from glyptic.document.values import Stack
from glyptic.params import Real


class HiddenLayers(Check):
    """Names the layers that are off, or at an opacity of almost nothing, outside any set that switches them."""

    name = "hidden"
    title = "Hidden and forgotten"
    reason = "What is hidden is handed on with the file: it should be there for a reason."
    rank = 7
    threshold = Real(
        label="Opacity up to", unit="%", low=0, high=0.2, default=0.0, step=0.01,
        help="A layer at no more than this opacity counts as hidden.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        kept = {layer for one in subject.stack.notes.sets for layer in one["layers"]}
        inside = _inside_hidden(subject.stack)
        for layer in subject.stack.walk():
            is_hidden = not layer.visible or layer.opacity <= threshold
            if layer.id == subject.stack.base.id or not is_hidden or layer.id in kept or layer.id in inside:
                continue
            what = f"is at an opacity of {layer.opacity * 100:.0f} %" if layer.visible else "is off"
            show = by_edit("Switch it on", "Shows the layer again.", "show-layers", layers=[layer.id], visible=True)
            mends = (*(() if layer.visible else (show,)), *by_removing(layer))
            yield Finding(f"‘{layer.name}’ {what}, and belongs to no set.", layer.id, mark="hidden", mends=mends)


def _inside_hidden(stack: Stack) -> set[str]:
    """The layers in groups that are off: the group is told, not what is in it."""
    return {inner.id for layer in stack.walk() if not layer.visible for inner in Stack(layer.layers).walk()}


CHECK = HiddenLayers()
