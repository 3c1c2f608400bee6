"""Settings of one value: numbers, choices, switches, names."""

from __future__ import annotations

import math
from dataclasses import dataclass
from pathlib import PurePosixPath

from glyptic.base.errors import Fault
from glyptic.params.declared import Param, describe, finite_number


@dataclass(frozen=True, kw_only=True)
class Real(Param):
    """A number in low..high (ends included; `above` makes the lower end excluded).

    `soft_low` and `soft_high` are what a slider spans where the permitted range is wider than a hand needs.
    `unit` is written behind the number; % shows a share of 0..1 times 100. `ends` are the words for its two ends.
    """

    low: float = -math.inf
    high: float = math.inf
    above: float | None = None
    unit: str = ""
    step: float = 0.01
    soft_low: float | None = None
    soft_high: float | None = None
    ends: tuple[str, str] | None = None

    def parse(self, raw: object, at: str, faults: list[Fault]) -> float | None:
        number = finite_number(raw, at, faults)
        if number is None:
            return None
        if self.above is not None and number <= self.above:
            words = f"must be above {self._shown(self.above)}; it was {self._shown(number)}"
            faults.append(Fault(at, f"must be above {self.above:g}, not {number:g}", words=words))
            return None
        if not self.low <= number <= self.high:
            words = f"must be {self._said_span()}; it was {self._shown(number)}"
            faults.append(Fault(at, f"must be {self._span()}, not {number:g}", words=words))
            return None
        return number

    def opposite(self, value: float) -> float:
        """What goes both ways from a default of nought does the contrary as far the other way, as far as it goes."""
        goes_both_ways = self.default == 0 and self.low < 0
        return min(max(-value, self.low), self.high) if goes_both_ways and value else value

    def _shown(self, value: float) -> str:
        """A value as the page writes it."""
        text = f"{value * self.factor:.4f}".rstrip("0").rstrip(".")
        return f"{text} {self.unit}".strip()

    def _said_span(self) -> str:
        if math.isinf(self.high):
            return f"{self._shown(self.low)} or more"
        if math.isinf(self.low):
            return f"{self._shown(self.high)} or less"
        return f"between {self._shown(self.low)} and {self._shown(self.high)}"

    def _span(self) -> str:
        if math.isinf(self.high):
            return f"{self.low:g} or more"
        if math.isinf(self.low):
            return f"{self.high:g} or less"
        shown = f" (shown as {self.low * 100:g} to {self.high * 100:g} %)" if self.unit == "%" else ""
        return f"in {self.low:g}..{self.high:g}{shown}"

    @property
    def factor(self) -> float:
        """What the number is multiplied by to be shown."""
        return 100.0 if self.unit == "%" else 1.0

    @property
    def slider(self) -> tuple[float, float]:
        """The ends of the slider."""
        low = self.soft_low if self.soft_low is not None else max(self.low, self.above or self.low)
        high = self.soft_high if self.soft_high is not None else self.high
        return low, high

    @property
    def has_slider(self) -> bool:
        """Whether the number has ends that a slider could span."""
        return all(math.isfinite(end) for end in self.slider)


@dataclass(frozen=True, kw_only=True)
class Whole(Real):
    """A whole number in low..high, ends included."""

    step: float = 1

    def parse(self, raw: object, at: str, faults: list[Fault]) -> float | None:
        number = super().parse(raw, at, faults)
        if number is not None and number != round(number):
            faults.append(Fault(at, f"must be a whole number, not {number:g}"))
            return None
        return number


def share(label: str, help_text: str, default: object) -> Real:
    """A strength of 0..1, shown in per cent."""
    return Real(label=label, help=help_text, default=default, low=0, high=1, unit="%")


@dataclass(frozen=True, kw_only=True)
class Choice(Param):
    """One of a few names; `titles` gives the words the page shows for them."""

    options: tuple[str, ...] = ()
    titles: tuple[str, ...] = ()

    def parse(self, raw: object, at: str, faults: list[Fault]) -> str | None:
        if isinstance(raw, str) and raw in self.options:
            return raw
        faults.append(Fault(at, f"must be one of {', '.join(self.options)}, not {describe(raw)}"))
        return None

    @property
    def shown(self) -> tuple[tuple[str, str], ...]:
        return tuple(zip(self.options, self.titles or self.options, strict=True))


@dataclass(frozen=True, kw_only=True)
class Toggle(Param):
    """true or false."""

    def parse(self, raw: object, at: str, faults: list[Fault]) -> bool | None:
        if isinstance(raw, bool):
            return raw
        faults.append(Fault(at, f"must be true or false, not {describe(raw)}"))
        return None


@dataclass(frozen=True, kw_only=True)
class Text(Param):
    """A short text of 1 to `longest` characters without control characters; of none at all where it may be `blank`."""

    longest: int = 200
    blank: bool = False

    def parse(self, raw: object, at: str, faults: list[Fault]) -> str | None:
        if not isinstance(raw, str):
            faults.append(Fault(at, f"must be a text, not {describe(raw)}"))
        elif not raw and self.blank:
            return raw
        elif not raw.strip():
            faults.append(Fault(at, "must not be empty"))
        elif len(raw) > self.longest:
            faults.append(Fault(at, f"must have at most {self.longest} characters, not {len(raw)}"))
        elif any(ord(c) < 32 or 0xD800 <= ord(c) <= 0xDFFF for c in raw):
            faults.append(Fault(at, "must not hold control characters"))
        else:
            return raw
        return None


@dataclass(frozen=True, kw_only=True)
class Reference(Param):
    """The path of a file beside the stack file: relative, and never out of its folder."""

    def parse(self, raw: object, at: str, faults: list[Fault]) -> str | None:
        text = Text(longest=1000).parse(raw, at, faults)
        if text is None:
            return None
        path = PurePosixPath(text)
        if path.is_absolute() or ".." in path.parts or "\\" in text or ":" in path.parts[0]:
            faults.append(Fault(at, "must be a path below the stack file's folder"))
            return None
        return text
