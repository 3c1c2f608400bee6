"""Picture: a grey picture of the base's size as a mask part."""

from glyptic.masks.part import SHIFT, Pictured
from glyptic.params import Reference, Schema


class Raster(Pictured):
    """Coverage is code / max of a grey picture of the same size as the base."""

    name = "raster"
    title = "Picture"
    summary = "A grey picture: white covers, black does not."
    schema = Schema({"source": Reference(label="Picture", help="The file of the grey picture."), "shift": SHIFT})


RASTER = Raster()
