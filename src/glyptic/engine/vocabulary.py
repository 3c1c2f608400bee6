"""The one vocabulary of the application: every kind of layer, of mask part and every working space there is."""

from collections.abc import Sequence

from glyptic.adjust import KINDS
from glyptic.document.vocabulary import Vocabulary
from glyptic.masks import PARTS
from glyptic.pixels.seen import Seen
from glyptic.pixels.spaces import SPACES


def _seen(values: Sequence[float], space: str) -> Seen:
    red, green, blue, tone = values
    return Seen(red, green, blue, tone, SPACES[space])


VOCABULARY = Vocabulary(KINDS, PARTS, SPACES, _seen)
