"""What a retoucher notes about a picture besides its layers: sets, pins, the subject, findings left as they are.

None of it touches a pixel; all of it travels in the stack file."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from glyptic.base.errors import Fault
from glyptic.document.words import WORDS
from glyptic.params import Coordinate, Group, Param, Point, Radii, Schema, Text, Toggle, Values, Whole
from glyptic.params.declared import describe

MOST_SETS, MOST_PINS, MOST_LEFT, MOST_IN_SET = 64, 12, 500, 1000
OVER = (1, 5, 11)
"""Over squares of how many pixels a pin takes the average."""


def _one_of_over(values: Values) -> tuple[str, str] | None:
    return None if values["over"] in OVER else ("over", f"must be one of {', '.join(map(str, OVER))}")


@dataclass(frozen=True, kw_only=True)
class Names(Param):
    """A list of ids of layers, each once."""

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[str, ...] | None:
        if not isinstance(raw, list | tuple) or len(raw) > MOST_IN_SET or not all(isinstance(one, str) for one in raw):
            faults.append(Fault(at, f"must be a list of layer ids, not {describe(raw)}"))
            return None
        return tuple(dict.fromkeys(raw))

    def plain(self, value: tuple[str, ...]) -> list[str]:
        return list(value)


SET = Schema(
    {
        "name": Text(label="Name", longest=60, help="What the set is called at the left of the strip."),
        "layers": Names(label="Layers", help="The layers that are switched together."),
        "off": Names(label="Off before", default=(), help="Those that were off before the set was; they stay so."),
    }
)  # fmt: skip
PIN = Schema(
    {
        "x": Coordinate(label="x", help="Where it stands, in pixels of the base picture."),
        "y": Coordinate(label="y", help="Where it stands, in pixels of the base picture."),
        "name": Text(label="Name", longest=60, default="", blank=True, help="What the spot is."),
        "neutral": Toggle(label="Neutral", default=False, help="It should have no colour: its cast is told in words."),
        "over": Whole(label="Average", low=1, high=11, default=1, unit="px", help="Side of the square it averages."),
    },
    checks=(_one_of_over,),
)  # fmt: skip
SUBJECT = Schema(
    {
        "centre": Point(label="Centre", help="The middle of the oval that the eye should be led to."),
        "radii": Radii(label="Radii", help="Of the oval, across and down."),
    }
)
LEFT = Schema(
    {
        "check": Text(label="Check", longest=60, help="The check whose finding is left as it is."),
        "of": Text(label="Of", longest=64, help="A digest of what it speaks of; until that changes it counts."),
        "why": Text(label="Why", longest=300, default="", blank=True, help="Why it is left as it is."),
    }
)  # fmt: skip


@dataclass(frozen=True)
class Notes:
    """sets, pins, left: as the declarations have them, in the order they were made; subject: or None; words: those
    written for the picture, None for the file's own."""

    sets: tuple[Values, ...] = ()
    pins: tuple[Values, ...] = ()
    left: tuple[Values, ...] = ()
    subject: Values | None = None
    words: Values | None = None

    def among(self, is_there: Callable[[str], bool]) -> Notes:
        """The notes where only some layers are there: sets without the others, none that is empty."""
        kept = (_among(one, is_there) for one in self.sets)
        sets = tuple(one for one in kept if one["layers"])
        return self if sets == self.sets else replace(self, sets=sets)


def _among(one: Values, is_there: Callable[[str], bool]) -> Values:
    layers = tuple(layer for layer in one["layers"] if is_there(layer))
    return (
        one
        if layers == one["layers"]
        else Values({**one, "layers": layers, "off": tuple(set(one["off"]) & set(layers))})
    )


NOTHING_NOTED = Notes()
LISTS = {"sets": (SET, MOST_SETS), "pins": (PIN, MOST_PINS), "left": (LEFT, MOST_LEFT)}
"""The lists of the stack file: what each holds, and how many at most."""
FIELDS = {*LISTS, "subject", "words"}


def parse_notes(raw: Mapping[str, Any], faults: list[Fault]) -> Notes:
    """The notes of a document's plain data; adds a fault for each that is wrong."""
    found: dict[str, Any] = {}
    for name, (schema, most) in LISTS.items():
        items = raw.get(name, [])
        if not isinstance(items, list) or len(items) > most:
            what = f"must hold at most {most}" if isinstance(items, list) else f"must be a list, not {describe(items)}"
            faults.append(Fault(name, what))
            continue
        values = (schema.parse(item, f"{name}[{i}]", faults) for i, item in enumerate(items))
        found[name] = tuple(one for one in values if one is not None)
    subject = Group(schema=SUBJECT, nullable=True, default=None).parse(raw.get("subject"), "subject", faults)
    words = Group(schema=WORDS, nullable=True, default=None).parse(raw.get("words"), "words", faults)
    return Notes(**found, subject=subject, words=words)


def plain_notes(notes: Notes) -> dict[str, Any]:
    """Plain data; what is empty is left out."""
    lists = {name: [schema.plain(one) for one in getattr(notes, name)] for name, (schema, _) in LISTS.items()}
    subject = {"subject": SUBJECT.plain(notes.subject)} if notes.subject is not None else {}
    words = {"words": WORDS.plain(notes.words)} if notes.words is not None else {}
    return {name: items for name, items in lists.items() if items} | subject | words
