"""What the document needs to know of the kinds of layers and mask parts, without knowing how they compute."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

from glyptic.params import Schema, Values


class Aid(Protocol):
    """Something that can be set by pressing on the picture."""

    @property
    def name(self) -> str: ...
    @property
    def title(self) -> str: ...


class LayerKind(Protocol):
    """A declared kind of layer. `carries` says what it holds beside settings."""

    @property
    def name(self) -> str: ...
    @property
    def title(self) -> str: ...
    @property
    def schema(self) -> Schema: ...
    @property
    def default_blend(self) -> str: ...
    @property
    def carries(self) -> str:
        """'' for settings only; 'picture' for source and place; 'strokes'; 'layers'."""
        ...

    @property
    def picks(self) -> Sequence[Aid]: ...
    def works_on_channels(self, settings: Values) -> bool:
        """Whether it does a little otherwise in another working space."""
        ...

    def opposite(self, settings: Values) -> Values:
        """The settings that do the contrary; the same where there is no such."""
        ...

    def pick(self, settings: Values, name: str, seen: Any, by: float) -> dict[str, Any]:
        """The plain settings to change for one of `picks`."""
        ...


class PartKind(Protocol):
    """A declared kind of mask part; `carries` is '' or 'strokes'."""

    @property
    def name(self) -> str: ...
    @property
    def title(self) -> str: ...
    @property
    def schema(self) -> Schema: ...
    @property
    def carries(self) -> str: ...


class PickedPart(Protocol):
    """A part that can be set by pressing on the picture."""

    def picked(self, settings: Values, seen: Any, more: bool) -> dict[str, Any]:
        """The plain settings to change."""
        ...


class WorkingSpace(Protocol):
    """A space that a plate's colours can be of."""

    @property
    def title(self) -> str: ...


@dataclass(frozen=True)
class Vocabulary:
    """Every kind of layer, every kind of mask part and every working space by name. seen: red, green, blue and tone of
    a spot, and the name of their space, as kinds and parts are told of them. carried: encoded red, green, blue of one
    space as those of another, unclamped."""

    kinds: Mapping[str, LayerKind]
    parts: Mapping[str, PartKind]
    spaces: Mapping[str, WorkingSpace]
    seen: Callable[[Sequence[float], str], Any]
    carried: Callable[[Sequence[float], str, str], tuple[float, ...]]
