"""The one vocabulary of the application: every kind of layer and every kind of mask part there is."""

from glyptic.adjust import KINDS
from glyptic.document.vocabulary import Vocabulary
from glyptic.masks import PARTS

VOCABULARY = Vocabulary(KINDS, PARTS)
