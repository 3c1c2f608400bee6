"""The 16 blend modes of W3C Compositing and Blending Level 1, and mixing a layer into what lies below it."""

from glyptic.blend.mix import SEPARABLE, fade, mix

__all__ = ["SEPARABLE", "fade", "mix"]
