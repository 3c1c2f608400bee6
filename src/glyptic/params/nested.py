"""Settings made of settings: schemas, optional groups, gradient stops."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from glyptic.base.digests import digest_plain
from glyptic.base.errors import DocumentError, Fault
from glyptic.base.homography import Homography
from glyptic.params.declared import Param, Recolour, describe
from glyptic.params.geometry import Colour
from glyptic.params.moving import Scale
from glyptic.params.scalar import Real

Check = Callable[["Values"], tuple[str, str] | None]
"""A rule between settings: None, or (field, message)."""


class Values(Mapping[str, Any]):
    """The parsed settings of a schema: an immutable mapping with every setting present."""

    __slots__ = ("_digest", "_items")

    def __init__(self, items: Mapping[str, Any]) -> None:
        self._items = dict(items)
        self._digest = b""

    def __getitem__(self, name: str) -> Any:
        return self._items[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._items)

    def __len__(self) -> int:
        return len(self._items)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Values) and self._items == other._items

    def __hash__(self) -> int:
        return hash(tuple(self._items.items()))

    def __repr__(self) -> str:
        return f"Values({self._items!r})"


@dataclass(frozen=True)
class Schema:
    """Named settings, in the order the page shows them, and the rules between them."""

    params: Mapping[str, Param] = field(default_factory=dict)
    checks: tuple[Check, ...] = ()

    def parse(self, raw: object, at: str, faults: list[Fault]) -> Values | None:
        """Parse an object of settings: missing ones take their default, unknown ones are faults."""
        if not isinstance(raw, Mapping):
            faults.append(Fault(at, f"must be an object, not {describe(raw)}"))
            return None
        before = len(faults)
        for name in raw:
            if name not in self.params:
                faults.append(Fault(join_field(at, str(name)[:60]), "is not a field Glyptic knows"))
        items: dict[str, Any] = {}
        for name, param in self.params.items():
            where = join_field(at, name)
            if name in raw:
                first = len(faults)
                items[name] = param.parse(raw[name], where, faults)
                faults[first:] = [titled(fault, param.label) for fault in faults[first:]]
            elif param.required:
                faults.append(Fault(where, "is missing"))
            else:
                items[name] = param.default
        if len(faults) > before:
            return None
        values = Values(items)
        for check in self.checks:
            wrong = check(values)
            if wrong:
                faults.append(Fault(join_field(at, wrong[0]), wrong[1], self.params[wrong[0]].label))
        return values if len(faults) == before else None

    def plain(self, values: Values) -> dict[str, Any]:
        """Plain data; settings at their default are left out."""
        return {
            name: param.plain(values[name])
            for name, param in self.params.items()
            if param.required or values[name] != param.default
        }

    def carried(self, values: Values, by: Homography) -> Values:
        """Every setting where the plane is carried by a homography; raises DocumentError where one cannot be."""
        return Values({name: param.carried(values[name], by) for name, param in self.params.items()})

    def scaled(self, values: Values, by: Scale) -> Values:
        """Every setting on a picture of another size."""
        return Values({name: param.scaled(values[name], by) for name, param in self.params.items()})

    def recoloured(self, values: Values, by: Recolour) -> Values:
        """Every setting in another working space."""
        return Values({name: param.recoloured(values[name], by) for name, param in self.params.items()})

    def opposite(self, values: Values) -> Values:
        """Every setting that goes two ways, the other way."""
        return Values({name: param.opposite(values[name]) for name, param in self.params.items()})

    def checked(self, values: Values, at: str) -> Values:
        """The values, if they are still such as `parse` accepts; raises DocumentError with every fault."""
        faults: list[Fault] = []
        self.parse(self.plain(values), at, faults)
        if faults:
            raise DocumentError(faults)
        return values

    def digest(self, values: Values) -> bytes:
        """The digest of the plain data; remembered by the values."""
        if not values._digest:
            values._digest = digest_plain(self.plain(values))
        return values._digest

    @property
    def defaults(self) -> Values:
        """Every setting at its default; the schema must have no required settings."""
        return Values({name: param.default for name, param in self.params.items()})


def titled(fault: Fault, title: str) -> Fault:
    """A fault under the name the page has for its field; the innermost name is kept."""
    return fault if fault.title else replace(fault, title=title)


def join_field(at: str, name: str) -> str:
    return f"{at}.{name}" if at else name


@dataclass(frozen=True, kw_only=True)
class Group(Param):
    """An object of settings inside the settings; null is allowed where `nullable`."""

    schema: Schema = field(default_factory=Schema)
    nullable: bool = False

    def parse(self, raw: object, at: str, faults: list[Fault]) -> Values | None:
        if raw is None and self.nullable:
            return None
        return self.schema.parse(raw, at, faults)

    def plain(self, value: Values | None) -> dict[str, Any] | None:
        return None if value is None else self.schema.plain(value)

    def carried(self, value: Values | None, by: Homography) -> Values | None:
        return None if value is None else self.schema.carried(value, by)

    def scaled(self, value: Values | None, by: Scale) -> Values | None:
        return None if value is None else self.schema.scaled(value, by)

    def opposite(self, value: Values | None) -> Values | None:
        return None if value is None else self.schema.opposite(value)

    def recoloured(self, value: Values | None, by: Recolour) -> Values | None:
        return None if value is None else self.schema.recoloured(value, by)


@dataclass(frozen=True, kw_only=True)
class GradientStops(Param):
    """[{"at", "colour", "alpha", "middle"}, ...]: two or more, `at` strictly growing in 0..1."""

    stop: Schema = field(
        default_factory=lambda: Schema(
            {
                "at": Real(label="At", low=0, high=1, unit="%", help="Where on the gradient the stop lies."),
                "colour": Colour(label="Colour"),
                "alpha": Real(label="Alpha", low=0, high=1, default=1.0, unit="%", help="How much it covers."),
                "middle": Real(
                    label="Middle",
                    low=0.05,
                    high=0.95,
                    default=0.5,
                    unit="%",
                    help="How far on the way to the next stop half of the change has happened.",
                ),
            }
        )
    )

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[Values, ...] | None:
        if not isinstance(raw, list | tuple) or not 2 <= len(raw) <= 64:
            faults.append(Fault(at, "must be a list of 2 to 64 stops"))
            return None
        before = len(faults)
        stops = [self.stop.parse(item, f"{at}[{i}]", faults) for i, item in enumerate(raw)]
        for i, (a, b) in enumerate(zip(stops, stops[1:], strict=False)):
            if a is not None and b is not None and b["at"] <= a["at"]:
                faults.append(Fault(f"{at}[{i + 1}].at", "must grow"))
        return tuple(s for s in stops if s is not None) if len(faults) == before else None

    def plain(self, value: tuple[Values, ...]) -> list[dict[str, Any]]:
        return [self.stop.plain(s) for s in value]

    def recoloured(self, value: tuple[Values, ...], by: Recolour) -> tuple[Values, ...]:
        return tuple(self.stop.recoloured(one, by) for one in value)
