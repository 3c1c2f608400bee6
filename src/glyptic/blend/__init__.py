"""The 16 blend modes of W3C Compositing and Blending Level 1, and mixing a layer into what lies below it."""

from glyptic.blend.mix import NEUTRAL_MODES, SEPARABLE, blended, fade, flat, mix, mix_grey

__all__ = ["NEUTRAL_MODES", "SEPARABLE", "blended", "fade", "flat", "mix", "mix_grey"]
