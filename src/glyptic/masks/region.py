"""Region: an area found by its edges, kept as a grey picture with the scribbles it grew from."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from glyptic.base.errors import Fault
from glyptic.masks.part import SHIFT, Pictured
from glyptic.params import Choice, Length, Param, Points, Reference, Scale, Schema, Toggle, Values
from glyptic.params.scalar import share

MOST_SCRIBBLES, MOST_POINTS = 200, 2000


SCRIBBLE = Schema(
    {
        "points": Points(label="Points", most=MOST_POINTS),
        "size": Length(label="Size", above=0, high=100_000, help="How wide it was drawn."),
        "belongs": Toggle(label="Belongs", default=True, help="Whether what it covers belongs to the area."),
    }
)


@dataclass(frozen=True, kw_only=True)
class Scribbles(Param):
    """[{"points", "size", "belongs"}, ...]: what was drawn on to find an area."""

    scribble: Schema = field(default_factory=lambda: SCRIBBLE)

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[Values, ...] | None:
        if not isinstance(raw, list | tuple) or len(raw) > MOST_SCRIBBLES:
            faults.append(Fault(at, f"must be a list of at most {MOST_SCRIBBLES} scribbles"))
            return None
        found = [self.scribble.parse(item, f"{at}[{i}]", faults) for i, item in enumerate(raw)]
        return None if None in found else tuple(one for one in found if one is not None)

    def plain(self, value: tuple[Values, ...]) -> list[dict[str, Any]]:
        return [self.scribble.plain(one) for one in value]

    def scaled(self, value: tuple[Values, ...], by: Scale) -> tuple[Values, ...]:
        """They lie on the base picture: scaled with it, but not carried with a mask."""
        return tuple(self.scribble.scaled(one, by) for one in value)


class Region(Pictured):
    """Coverage is code / max of the grey picture the region finder made. What it was made from is kept beside it: the
    scribbles, how strong an edge must be to stop it, and whether it began with the likely backdrop."""

    name = "region"
    title = "Region"
    summary = "An area found by its edges."
    schema = Schema(
        {
            "source": Reference(label="Picture", help="The grey picture of the area."),
            "shift": SHIFT,
            "seeds": Scribbles(label="Scribbles", help="What was drawn on to find the area.", default=()),
            "edge": share("Edge", "How strong an edge must be to stop the area; higher grows further.", 0.25),
            "begin": Choice(label="Begins with", options=("scribbles", "backdrop"), default="scribbles",
                            help="Whether the area begins with the scribbles or with the likely backdrop."),
        }
    )  # fmt: skip


REGION = Region()
