"""A document's colours as they are in another working space."""

from __future__ import annotations

from dataclasses import replace

from glyptic.document import fields
from glyptic.document.values import Frame, Layer, Mask, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Recolour


def _mask(mask: Mask, by: Recolour, vocabulary: Vocabulary) -> Mask:
    parts = tuple(
        replace(part, settings=vocabulary.parts[part.kind].schema.recoloured(part.settings, by))
        if part.settings
        else part
        for part in mask.parts
    )
    return replace(mask, parts=parts)


def recoloured_layer(layer: Layer, by: Recolour, vocabulary: Vocabulary) -> Layer:
    """A layer and what is in it, every colour that its settings name carried over."""
    schema = vocabulary.kinds[layer.kind].schema
    return replace(
        layer,
        settings=schema.recoloured(layer.settings, by) if layer.settings else layer.settings,
        mask=_mask(layer.mask, by, vocabulary) if layer.mask is not None else None,
        layers=tuple(recoloured_layer(child, by, vocabulary) for child in layer.layers),
    )


def recoloured(stack: Stack, by: Recolour, vocabulary: Vocabulary) -> Stack:
    """A stack with every colour that is named in it carried over, its frame's too."""

    def row(layers: tuple[Layer, ...]) -> tuple[Layer, ...]:
        return tuple(recoloured_layer(layer, by, vocabulary) for layer in layers)

    frame: Frame | None = stack.frame
    if frame is not None:
        frame = Frame(fields.FRAME.recoloured(frame.settings, by), row(frame.layers))
    return replace(stack, layers=row(stack.layers), frame=frame)
