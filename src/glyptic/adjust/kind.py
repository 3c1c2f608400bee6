"""What a kind of layer declares, and how it joins the pass over a strip of pixels (docs/engine.md).

Every kind that colours what lies below it works in place on a strip that stays in the processor's cache: after it,
`px` holds Cb + alpha (Cs − Cb). A run of layers is that, one kind after the other, on the same strip.
"""

from __future__ import annotations

from abc import ABC
from collections.abc import Mapping
from dataclasses import dataclass
from math import log2
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from glyptic.blend import mix
from glyptic.params import Schema, Values
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.seen import Seen
from glyptic.pixels.shapes import Patch
from glyptic.pixels.spaces import Space
from glyptic.pixels.tables import Function


@dataclass(frozen=True)
class Aid:
    """A help in finding settings. name: as edits write it; title, help: for the page; drags: whether a drag up or down
    from the spot that was pressed goes on changing what was found."""

    name: str
    title: str
    help: str
    drags: bool = False


PURPOSES = ("Light", "Colour", "Detail", "Dodge & burn", "Fills & shapes", "Pictures", "Groups")
"""The sections of the Add sheet, in their order."""


class Kind(ABC):
    """A kind of layer. Subclasses declare; an instance in the module's namespace registers the kind.

    name: as the stack file writes it; title: as the page writes it; purpose: the section of the Add sheet, rank: its
    place there, from 1; summary: one sentence of help. carries: '', 'picture', 'strokes' or 'layers'. covers: whether
    it brings colour of its own rather than changing what lies below. starts_open: whether a new layer has no mask
    whatever the switch says, for it changes nothing by itself. sample: plain settings of a sensible strength, for
    trying the kind out and for its page of documentation. picks: what can be set by pressing on the picture; autos:
    what can be worked out from a histogram.
    """

    name: ClassVar[str]
    title: ClassVar[str]
    purpose: ClassVar[str]
    summary: ClassVar[str]
    schema: ClassVar[Schema] = Schema()
    sample: ClassVar[dict[str, Any]] = {}
    rank: ClassVar[int] = 1
    starts_open: ClassVar[bool] = False
    covers: ClassVar[bool] = False
    channelwise: ClassVar[bool] = False
    """See `works_on_channels`."""
    picks: ClassVar[tuple[Aid, ...]] = ()
    autos: ClassVar[tuple[Aid, ...]] = ()
    default_blend: ClassVar[str] = "normal"
    carries: ClassVar[str] = ""

    def starting(self, width: int, height: int) -> dict[str, Any]:
        """Plain settings of a new layer on a picture of this size, where the defaults do not do."""
        return {}

    def sampled(self, width: int, height: int) -> dict[str, Any]:
        """Plain fields of a layer that shows on a picture of this size what the kind does; empty where it cannot."""
        return {"settings": self.starting(width, height) | self.sample} if self.sample else {}

    def ready(self, settings: Values, space: Space) -> Any:
        """What `lay` needs of the settings and the working space, made once for many strips: numbers, tables."""
        return settings

    def pick(self, settings: Values, name: str, seen: Seen, by: float) -> dict[str, Any]:
        """The plain settings to change for one of `picks` at a spot; by: how far the hand went up since, in shares of
        the whole range."""
        raise KeyError(name)

    def auto(self, settings: Values, name: str, counts: Mapping[str, NDArray[np.float64]]) -> dict[str, Any]:
        """The plain settings to change for one of `autos`, from the histograms of what reaches the layer (see
        `analysis.histogram`)."""
        raise KeyError(name)

    def opposite(self, settings: Values) -> Values:
        """The settings that do the contrary: darker for lighter, cooler for warmer; the same where there is no such."""
        return self.schema.opposite(settings)

    def works_on_channels(self, settings: Values) -> bool:
        """Whether it works on red, green and blue as they are encoded, so that it does a little otherwise in another
        working space; else on light, tone or hue, which are the same in all."""
        return self.channelwise

    def is_neutral(self, settings: Values) -> bool:
        """Whether these settings leave every colour as it is (in normal mode the layer then does nothing)."""
        return bool(settings == Values({n: p.default for n, p in self.schema.params.items()}))


class PointWise(Kind):
    """A kind whose colour at a pixel needs that pixel and its place only.

    It either moves each channel by a function of that channel (`channels`), of which the engine makes tables, blend
    mode included; or it lays itself over the strip with a kernel of its own (`ready`, `veil`, `lay`).
    """

    def channels(self, settings: Values) -> tuple[Function | None, ...] | None:
        """The new values of red, green and blue from the old, None for a channel that is left alone; or None for
        settings that mix channels or look at the place."""
        return None

    def veil(self, ready: Any, patch: Patch) -> Plane | None:
        """The layer's own alpha (h, w) over a patch; None where it is 1 everywhere."""
        return None

    def lay(self, ready: Any, px: Planes, alpha: Plane, patch: Patch) -> None:
        """px += alpha (Cs − px), in place; px: (3, h, w) the backdrop; alpha: (h, w), the layer's own included."""
        raise NotImplementedError


class Neighbourhood(Kind):
    """A kind whose colour at a pixel needs the backdrop around it. `around` gathers what it needs to know of that, on
    a reduced picture if it likes; `lay` then lays the layer over each strip, as that of a point-wise kind.

    planes: how many planes `around` gives; 0 for as many as the picture has.
    """

    planes: ClassVar[int] = 0

    def gaze(self, settings: Values) -> Values:
        """Those settings that `around` depends on: moving any other leaves what was gathered as it is."""
        return settings

    def within(self, settings: Values, width: int, height: int) -> Values:
        """The settings as they are on a picture of this size: a window need not be wider than the picture."""
        return settings

    def gaussian(self, settings: Values) -> float:
        """The sigma in full-size pixels, of a kind whose `around` is nothing but a Gaussian; 0 for any other."""
        return 0.0

    def reduction(self, settings: Values, step: float) -> int:
        """By which power of two the backdrop is reduced before `around` sees it, at a level of `step` full-size
        pixels to one; 1 for not at all."""
        return 1

    def coarser(self, settings: Values, step: float) -> int:
        """By how many levels further out it may be gathered for a moment, while something moves: what it looks through
        stays wide enough there to be nearly the same."""
        return int(log2(self.reduction(settings, step)))

    def reach(self, settings: Values, step: float) -> int:
        """How many pixels of the (reduced) level it looks beyond a pixel."""
        raise NotImplementedError

    def around(self, settings: Values, px: Planes, step: float, space: Space) -> Planes:
        """What is gathered, smaller than `px` by `reach` on every side; a reduced one is enlarged by the engine."""
        raise NotImplementedError

    def lay(self, ready: Any, around: Planes, px: Planes, alpha: Plane) -> None:
        """px += alpha (Cs − px), in place; unless said otherwise, what was gathered is the colour Cs."""
        mix(px, around, alpha, "normal")
