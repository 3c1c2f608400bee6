"""How a picture's file is read, where the file alone does not say: which page, what its values mean, how a raw file is
developed. It stands on picture layers, the base among them, as `reading`."""

from __future__ import annotations

from glyptic.document.values import WORKING_SPACES
from glyptic.params import Choice, Group, Real, Schema, Values, Whole

AS_SHOT, CHOSEN = "as-shot", "chosen"
DEVELOPMENT = Schema(
    {
        "light": Choice(
            label="Light", options=(AS_SHOT, CHOSEN), titles=("as the camera set it", "chosen here"), default=AS_SHOT,
            help="Whose white balance counts.",
        ),
        "temperature": Real(
            label="Temperature", unit="K", low=2500, high=20_000, step=50, soft_low=2500, soft_high=12_000,
            default=5500.0, ends=("blue", "yellow"),
            help="The light it was taken in, where it is chosen here; name a bluer one for a warmer picture.",
        ),
        "tint": Real(
            label="Tint", unit="%", low=-1, high=1, step=0.01, default=0.0, ends=("green", "magenta"),
            help="How green that light was; above 0 the picture turns to magenta.",
        ),
        "exposure": Real(
            label="Exposure", unit="stops", low=-2, high=3, step=0.05, default=0.0,
            help="Before anything is rounded: what it brings up is still there.",
        ),
        "highlights": Choice(
            label="Blown lights", options=("clip", "blend", "rebuild"),
            titles=("clipped to white", "blended", "rebuilt from what is left"), default="clip",
            help="What becomes of places where the sensor was full in some colours.",
        ),
    }
)  # fmt: skip
"""How a raw file becomes a picture."""
READING = Schema(
    {
        "page": Whole(label="Page", low=1, high=9999, default=1, help="Which picture of a file that holds several."),
        "assumed": Choice(
            label="Taken as", options=("", *WORKING_SPACES), titles=("the working space", "sRGB", "Display P3", "Wide"),
            default="", help="What the values mean of a file that does not say so.",
        ),
        "development": Group(
            label="Development", schema=DEVELOPMENT, default=DEVELOPMENT.defaults, help="Of a raw file."
        ),
    }
)  # fmt: skip


def changed(reading: Values | None, **values: object) -> Values | None:
    """A reading with some of it otherwise; None where all of it is as usual."""
    made = Values({**(reading or READING.defaults), **values})
    return None if made == READING.defaults else made
