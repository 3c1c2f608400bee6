"""What every declared setting has in common."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final

from glyptic.base.errors import Fault
from glyptic.base.homography import Homography
from glyptic.params.moving import Scale


class _Required:
    def __repr__(self) -> str:
        return "required"


Recolour = Callable[[tuple[float, ...]], tuple[float, ...]]
"""Encoded red, green, blue of one working space as those of another."""

REQUIRED: Final = _Required()
"""The default of a setting that has none: it must be given."""


@dataclass(frozen=True, kw_only=True)
class Param(ABC):
    """A setting: how it is named on the page, what it means, and which values it takes.

    `parse` takes plain data and returns the value, or None after adding one fault or more to the list; `plain`
    is its inverse.
    """

    label: str = ""
    help: str = ""
    default: Any = REQUIRED

    @property
    def required(self) -> bool:
        return self.default is REQUIRED

    @abstractmethod
    def parse(self, raw: object, at: str, faults: list[Fault]) -> Any:
        """The value of `raw`; on a fault, None, with the fault added under the field name `at`."""

    def plain(self, value: Any) -> Any:
        """Plain data for a value (JSON types only)."""
        return value

    def carried(self, value: Any, by: Homography) -> Any:
        """The value where the plane is carried by a homography: the same, unless it tells of places or lengths. Raises
        DocumentError where it cannot be carried exactly."""
        return value

    def scaled(self, value: Any, by: Scale) -> Any:
        """The value on a picture of another size: the same, unless it tells of places or lengths."""
        return value

    def opposite(self, value: Any) -> Any:
        """The value that does the contrary: the same, unless it goes two ways from a middle."""
        return value

    def recoloured(self, value: Any, by: Recolour) -> Any:
        """The value in another working space: the same, unless it is a colour."""
        return value


def finite_number(raw: object, at: str, faults: list[Fault]) -> float | None:
    """`raw` as a finite float, or None with a fault; true and false are not numbers."""
    if isinstance(raw, bool) or not isinstance(raw, int | float):
        faults.append(Fault(at, f"must be a number, not {describe(raw)}"))
        return None
    try:
        number = float(raw)
    except OverflowError:
        number = math.inf
    if not math.isfinite(number):
        faults.append(Fault(at, "must be a finite number"))
        return None
    return number


def describe(raw: object) -> str:
    """A short word for what was found instead of what was wanted."""
    if raw is None:
        return "null"
    if isinstance(raw, bool):
        return str(raw).lower()
    if isinstance(raw, str):
        return f"the text {raw[:40]!r}"
    if isinstance(raw, list | tuple):
        return "a list"
    if isinstance(raw, dict):
        return "an object"
    return str(raw)[:40]
