"""What templates need beyond Jinja's own: when something happened, numbers with units, kinds of settings."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from flask import Flask

from glyptic import params
from glyptic.base.meaning import of_pixels
from glyptic.document.fields import MEASURES
from glyptic.masks.tone import WINDOWS
from glyptic.store.tables import now
from glyptic.web.desk import WAYS, starting_values
from glyptic.web.keys import key_list, key_of
from glyptic.web.looks import LOOKS, chosen_look
from glyptic.web.statics import modules


def bits(value: int, mask: int) -> int:
    """Those bits of a number that a mask has, for marks."""
    return value & mask


MINUTE, HOUR, DAY = 60, 3600, 86_400


WIDGETS = {
    "Choice": "choice",
    "Toggle": "toggle",
    "Colour": "colour",
    "Colours": "colours",
    "Point": "point",
    "GradientStops": "stops",
    "Group": "group",
    "Hue": "hue",
}
"""The control of each declared setting; numbers of any sort are bars."""


def ago(at: datetime) -> str:
    """How long ago, in words short enough for a card."""
    seconds = max(0, int((now() - at).total_seconds()))
    if seconds < MINUTE:
        return "just now"
    if seconds < HOUR:
        return f"{seconds // MINUTE} min ago"
    if seconds < DAY:
        return f"{seconds // HOUR} h ago"
    return at.strftime("%-d %B %Y") if seconds >= 7 * DAY else f"{seconds // DAY} d ago"


def number(value: float) -> str:
    """A number without needless zeros."""
    return f"{value:.4f}".rstrip("0").rstrip(".") if value % 1 else f"{value:.0f}"


def bytes_words(count: float) -> str:
    """A number of bytes in words: 812 kB, 4.3 MB, 1.2 GB."""
    for unit, size in (("GB", 1e9), ("MB", 1e6)):
        if abs(count) >= size:
            return f"{count / size:.1f} {unit}"
    return f"{count / 1e3:.0f} kB"


def hex_colour(rgb: tuple[float, ...]) -> str:
    """#rrggbb of encoded values 0..1."""
    return "#" + "".join(f"{int(min(max(v, 0), 1) * 255 + 0.5):02x}" for v in rgb)


def starts(param: params.Group) -> Any:
    """The plain data of a group of settings as it starts; null for one that may be left out."""
    return None if param.nullable and param.default is None else starting_values(param.schema)


def widget(param: Any) -> str:
    """Which control shows a setting: the template layer/widgets/<name>.html."""
    names = (WIDGETS.get(family.__name__) for family in type(param).__mro__)
    return next((name for name in names if name), "real" if isinstance(param, params.Real) else "none")


def register(app: Flask) -> None:
    app.jinja_env.filters.update(ago=ago, number=number, hex_colour=hex_colour, widget=widget, bytes_words=bytes_words)
    app.jinja_env.filters.update(starts=starts, bits=bits)
    app.jinja_env.globals.update(
        pen_measures=MEASURES, modules=modules, made_by=of_pixels().hex(), key_of=key_of, key_list=key_list(),
        tone_windows=WINDOWS, ways=WAYS, looks=LOOKS, look=chosen_look,
    )  # fmt: skip
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
