"""What a check declares, and what it finds."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any, ClassVar

from glyptic.base.rectangles import Rect
from glyptic.checks.subject import Subject
from glyptic.document.values import Layer, Stack
from glyptic.params import Real

Path = tuple[tuple[tuple[float, float], ...], ...]
"""Lines of (x, y)."""


@dataclass(frozen=True)
class Mend:
    """What mends a finding: an ordinary step, undone like any other. title: of its button; help: what it does; path,
    body: what the page posts for it, beside the revision."""

    title: str
    help: str
    path: str
    body: dict[str, Any]


def by_edit(title: str, help_text: str, edit: str, **arguments: Any) -> Mend:
    """A mend that is an edit by name."""
    return Mend(title, help_text, "edits", {"edit": edit, "arguments": arguments})


def by_setting(title: str, help_text: str, layer: str, name: str, value: Any) -> Mend:
    """A mend that sets one field of a layer."""
    return by_edit(title, help_text, "set", layer=layer, field=name, value=value)


def by_weakening(layer: Layer, opacity: float, more: str = "") -> Mend:
    """A mend that lowers a layer's opacity."""
    help_text = f"Lowers the opacity of ‘{layer.name}’ to {opacity * 100:.0f} %{more}."
    return by_setting("Weaken it", help_text, layer.id, "opacity", opacity)


def by_weakening_enough(
    subject: Subject, layer: Layer | None, measure: Callable[[Stack], float], most: float
) -> tuple[Mend, ...]:
    """A mend that lowers a layer's opacity until a measure is at most so much, where that is tried and works."""
    opacity = subject.weakened(layer, measure, most)
    return () if layer is None or opacity is None else (by_weakening(layer, opacity),)


def by_adding(subject: Subject, title: str, help_text: str, **layer: Any) -> Mend:
    """A mend that adds a layer at the end of the picture's own."""
    return by_edit(title, help_text, "add-layer", layer=layer, after=subject.stack.layers[-1].id, beside=True)


def by_removing(layer: Layer) -> tuple[Mend, ...]:
    """A mend that removes a layer, where it is not locked."""
    words = "Removes the layer; undo brings it back."
    return () if layer.locked else (by_edit("Remove it", words, "remove-layers", layers=[layer.id]),)


@dataclass(frozen=True)
class Finding:
    """Something that a check found.

    says: one sentence with its numbers. layer: the id of the layer that does it, '' where it is the whole work. rect,
    path: its place, in full-size pixels of what that layer lies on (of what comes out where there is none); None for
    everywhere. worth: how bad it is, 1 at the threshold. mark: what it speaks of besides the layer, in words that stay
    the same until that changes. mends: what can be done about it.
    """

    says: str
    layer: str = ""
    rect: Rect | None = None
    path: Path = ()
    worth: float = 1.0
    mark: str = ""
    mends: tuple[Mend, ...] = field(default=())


class Check:
    """A check. Subclasses declare; an instance in the module's namespace registers the check.

    name: as it is kept; title: as the page writes it; reason: one sentence, why it matters; threshold: the number from
    which on something is told, with its unit, range and default. rank: its place in the list, and in the order in
    which they are run: the quick ones first.
    """

    name: ClassVar[str]
    title: ClassVar[str]
    reason: ClassVar[str]
    threshold: ClassVar[Real]
    rank: ClassVar[int] = 50

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        """What is found, in any order. subject: the picture and its layers; threshold: in the declaration's unit."""
        raise NotImplementedError
