"""Picture files: one module per format, and colour profiles."""

from glyptic.formats.decoded import Decoded, Metadata
from glyptic.formats.reading import DEFAULT_LIMIT, read_picture
from glyptic.formats.sheet import Sheet
from glyptic.formats.writing import FORMATS, Output, write_picture

__all__ = ["DEFAULT_LIMIT", "FORMATS", "Decoded", "Metadata", "Output", "Sheet", "read_picture", "write_picture"]
