"""Region: an area found by its edges, kept as a grey picture."""

from glyptic.masks.part import Pictured
from glyptic.params import Reference, Schema


class Region(Pictured):
    """Coverage is code / max of the grey picture the region finder made."""

    name = "region"
    title = "Region"
    summary = "An area found by its edges."
    schema = Schema({"source": Reference(label="Picture", help="The grey picture of the area.")})


REGION = Region()
