"""The one vocabulary of the application: every kind of layer, of mask part and every working space there is."""

from collections.abc import Sequence

import numpy as np

from glyptic.adjust import KINDS
from glyptic.document.vocabulary import Vocabulary
from glyptic.masks import PARTS
from glyptic.pixels.seen import Seen
from glyptic.pixels.spaces import SPACES, carried


def _seen(values: Sequence[float], space: str) -> Seen:
    red, green, blue, tone = values
    return Seen(red, green, blue, tone, SPACES[space])


def _carried(colour: Sequence[float], old: str, new: str) -> tuple[float, ...]:
    return tuple(float(value) for value in carried(np.array(colour, np.float64), SPACES[old], SPACES[new]))


VOCABULARY = Vocabulary(KINDS, PARTS, SPACES, _seen, _carried)
