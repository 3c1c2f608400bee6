"""The scales beside the maps of change."""

from __future__ import annotations

from typing import Any

from glyptic.engine.maps import (
    COLOUR_ONLY,
    DARKER_COLOUR,
    DARKEST_UNDER,
    LIGHTER_COLOUR,
    MEASURES,
    PER_TONE_UNDER,
    strength,
)


def _hex(colour: tuple[float, ...]) -> str:
    return "#" + "".join(f"{round(255 * value):02x}" for value in colour)


def change_scales() -> list[dict[str, Any]]:
    """The scales of the maps of change, drawn in the inks that the maps use."""
    inks = {"lighter": LIGHTER_COLOUR, "darker": DARKER_COLOUR, "colour": COLOUR_ONLY}
    of = {"apart": ("change", (0, 1, 2, 5, 10, 20), "ΔE2000"), "stops": ("change-stops", (0, 0.1, 0.5, 1, 2), "stops")}
    return [
        {
            "view": view,
            "says": f"The scale of the map in {unit}: up to {MEASURES[measure]:g}",
            "ground": _hex((float(DARKEST_UNDER + PER_TONE_UNDER / 2),) * 3),
            "rows": [
                {"word": word, "colour": _hex(ink)}
                for word, ink in inks.items()
                if measure == "apart" or word != "colour"
            ],
            "ticks": [(float(strength(tick, MEASURES[measure])), f"{tick:g}") for tick in ticks],
        }
        for measure, (view, ticks, unit) in of.items()
    ]
