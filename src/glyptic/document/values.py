"""Stack, layer, mask, part and stroke: immutable values with structural sharing."""

from __future__ import annotations

from array import array
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from functools import cached_property
from math import floor

from glyptic.base.digests import digest
from glyptic.base.homography import Homography, Quad
from glyptic.document.notes import NOTHING_NOTED, Notes
from glyptic.params import Values

FORMAT = "glyptic-stack"
VERSION = 1
WORKING_SPACES = ("srgb", "display-p3", "wide")
BLEND_MODES = [
    "normal",
    "multiply",
    "screen",
    "overlay",
    "darken",
    "lighten",
    "color-dodge",
    "color-burn",
    "hard-light",
    "soft-light",
    "difference",
    "exclusion",
    "hue",
    "saturation",
    "color",
    "luminosity",
]
EMPTY = Values({})
NO_LEVELS = Values({"black": 0.0, "white": 1.0, "gamma": 1.0})


PLAIN, LEANING = 3, 5
"""Numbers of a point: x, y, pressure; and with tilt and speed."""


@dataclass(frozen=True)
class StrokePoints:
    """Points of a stroke: x, y in full-size pixels and pressure 0..1, and, where the pen told of them, tilt and speed
    0..1; packed row by row as little-endian float64. columns: 3, or 5 with tilt and speed."""

    packed: bytes
    columns: int = PLAIN

    @classmethod
    def of(cls, rows: Iterable[tuple[float, ...]]) -> StrokePoints:
        """The points of rows of 3 or 5 numbers; where one has 5, what the others do not tell is 0."""
        points = list(rows)
        columns = max((len(point) for point in points), default=PLAIN)
        flat = array("d")
        for point in points:
            flat.extend((*point, *(0.0,) * (columns - len(point))))
        return cls(flat.tobytes(), columns)

    def __len__(self) -> int:
        return len(self.packed) // (8 * self.columns)

    def __iter__(self) -> Iterator[tuple[float, ...]]:
        flat = self.flat
        return zip(*(flat[i :: self.columns] for i in range(self.columns)), strict=True)

    def after(self, first: int) -> StrokePoints:
        """The points without the first ones."""
        return StrokePoints(self.packed[first * 8 * self.columns :], self.columns)

    def and_then(self, more: StrokePoints) -> StrokePoints:
        """These points and more."""
        if self.columns == more.columns:
            return StrokePoints(self.packed + more.packed, self.columns)
        return StrokePoints.of([*self, *more])

    @property
    def flat(self) -> array[float]:
        flat = array("d")
        flat.frombytes(self.packed)
        return flat


@dataclass(frozen=True)
class Drives:
    """Which of a stroke's measures the pen's pressure drives, or its tilt, or its speed."""

    size: bool = False
    opacity: bool = False
    flow: bool = False


NOTHING_DRIVEN = Drives()


@dataclass(frozen=True)
class Stroke:
    """One stroke of the brush (computation.md, Stroke).

    size: diameter in full-size pixels, above 0. hardness, opacity, flow: 0..1. to: the value it paints towards,
    0..1, or None for a stroke that evens out. even: the Gaussian sigma in pixels of such a stroke, else None.
    spacing: share of the diameter between dabs.
    """

    points: StrokePoints
    size: float
    hardness: float
    opacity: float
    flow: float
    to: float | None = 1.0
    even: float | None = None
    spacing: float = 0.1
    pressure: Drives = NOTHING_DRIVEN
    tilt: Drives = NOTHING_DRIVEN
    speed: Drives = NOTHING_DRIVEN

    @cached_property
    def digest(self) -> bytes:
        driven = (d for by in (self.pressure, self.tilt, self.speed) for d in (by.size, by.opacity, by.flow))
        return digest(
            self.points.packed, self.points.columns, self.size, self.hardness, self.opacity, self.flow, self.to,
            self.even, self.spacing, *driven,
        )  # fmt: skip

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """left, top, right, bottom of the points, without the brush's radius."""
        flat, columns = self.points.flat, self.points.columns
        xs, ys = flat[0::columns], flat[1::columns]
        return min(xs), min(ys), max(xs), max(ys)


Painting = tuple[Stroke, ...]


@dataclass(frozen=True)
class Part:
    """One ingredient of a mask. `strokes` is for paint parts, which know no op, feather, invert or name. A part that is
    not `enabled` is as if it were not there."""

    kind: str
    settings: Values = EMPTY
    strokes: Painting = ()
    op: str = "show"
    feather: float = 0.0
    invert: bool = False
    enabled: bool = True
    name: str = ""


STRAIGHT = ((0.0, 0.0), (1.0, 1.0))


@dataclass(frozen=True)
class Mask:
    """What a layer is confined to: `start`, or the mask of the layer it is `linked` to; then parts in order; then
    invert, grow (pixels), feather, levels, curve and density. along: whether it moves with a picture layer."""

    start: str = "open"
    parts: tuple[Part, ...] = ()
    linked: str = ""
    invert: bool = False
    grow: float = 0.0
    feather: float = 0.0
    levels: Values = field(default_factory=lambda: NO_LEVELS)
    curve: tuple[tuple[float, float], ...] = STRAIGHT
    density: float = 1.0
    enabled: bool = True
    along: bool = False


@dataclass(frozen=True)
class Place:
    """Where a picture layer's centre lies (pixels of what it is laid on), its scale and its turn in degrees clockwise;
    or where its four corners lie."""

    x: float = 0.0
    y: float = 0.0
    scale: float = 1.0
    rotation: float = 0.0
    corners: Quad | None = None


@dataclass(frozen=True)
class Layer:
    """One layer. `source`, `reading` (how its file is read, None for as usual), `place` and `made_of` (what a merged
    copy was made of, as JSON, or '') are for pictures, `strokes` for grey layers, `layers` and `mode` for groups."""

    id: str
    kind: str
    name: str
    visible: bool = True
    locked: bool = False
    opacity: float = 1.0
    blend: str = "normal"
    mask: Mask | None = None
    settings: Values = EMPTY
    strokes: Painting = ()
    source: str = ""
    reading: Values | None = None
    place: Place | None = None
    made_of: str = ""
    layers: tuple[Layer, ...] = ()
    mode: str = "through"
    mark: str = ""

    @property
    def picture(self) -> tuple[str] | tuple[str, Values]:
        """What its picture is asked for by: its source, and how that is read where it is not as usual."""
        return (self.source,) if self.reading is None else (self.source, self.reading)


FRAME = "@frame"
"""What stands for the frame where the id of a layer is asked for: its card stands among them."""


@dataclass(frozen=True)
class Frame:
    """The crop with its levelling, straightening and border (stack-format.md, The frame): `settings` as fields.FRAME
    declares them; `layers` lie over the sheet, in its pixels."""

    settings: Values
    layers: tuple[Layer, ...] = ()

    @property
    def corners(self) -> Quad:
        a, b, c, d = self.settings["corners"]
        return a, b, c, d

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the cropped picture, without the border."""
        width, height = self.settings["size"]
        return width, height

    @property
    def steps(self) -> tuple[int, int, int, int] | None:
        """Where pixel centres are carried onto pixel centres, as by whole crops, quarter turns and mirrors: the unit
        steps (xx, xy, yx, yy) in the picture for one across and one down; else None."""
        (x0, y0), (x1, y1), (x2, y2), (x3, y3) = self.corners
        width, height = self.size
        steps = ((x1 - x0) / width, (x3 - x0) / height, (y1 - y0) / width, (y3 - y0) / height)
        unit = sorted(map(abs, steps)) == [0, 0, 1, 1] and steps[0] * steps[3] - steps[1] * steps[2] != 0
        closes = (x2, y2) == (x1 + x3 - x0, y1 + y3 - y0)
        if not unit or not closes or x0 != floor(x0) or y0 != floor(y0):
            return None
        xx, xy, yx, yy = (int(step) for step in steps)
        return xx, xy, yx, yy

    @property
    def enabled(self) -> bool:
        return bool(self.settings["enabled"])

    @property
    def border(self) -> tuple[int, int, int, int]:
        """Whole pixels at the left, top, right and bottom."""
        border = self.settings["border"]
        if border is None:
            return 0, 0, 0, 0
        return int(border["left"]), int(border["top"]), int(border["right"]), int(border["bottom"])

    @property
    def sheet(self) -> tuple[int, int]:
        """Width and height of what comes out."""
        left, top, right, bottom = self.border
        return self.size[0] + left + right, self.size[1] + top + bottom

    @property
    def onto(self) -> Homography:
        """Carries pixels of the sheet to pixels of the picture."""
        left, top, _, _ = self.border
        return Homography.onto(self.corners, *self.size).after(Homography.shift(-left, -top))

    @property
    def colours(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Of what lies beyond the picture, and of the border."""
        border = self.settings["border"]
        of_border = border["colour"] if border is not None else (1.0, 1.0, 1.0)
        return self.settings["outside"] or of_border, of_border


@dataclass(frozen=True)
class Stack:
    """A whole document; `layers[0]` is the base picture."""

    layers: tuple[Layer, ...]
    working_space: str = "srgb"
    frame: Frame | None = None
    notes: Notes = NOTHING_NOTED

    @cached_property
    def unframed(self) -> Stack:
        """The stack without its frame and what lies over it."""
        return replace(self, frame=None)

    @property
    def sheet_layers(self) -> tuple[Layer, ...]:
        """The layers over the sheet."""
        return self.frame.layers if self.frame is not None else ()

    def with_rows(self, change: Callable[[tuple[Layer, ...]], tuple[Layer, ...]]) -> Stack:
        """This stack with its layers and those of its frame changed."""
        layers, over = change(self.layers), change(self.sheet_layers)
        frame = self.frame if self.frame is None or over == self.frame.layers else replace(self.frame, layers=over)
        return replace(self, layers=layers, frame=frame)

    @property
    def base(self) -> Layer:
        return self.layers[0]

    def walk(self) -> Iterator[Layer]:
        """Every layer, groups before what is in them."""
        pending = list(reversed((*self.layers, *self.sheet_layers)))
        while pending:
            layer = pending.pop()
            yield layer
            pending.extend(reversed(layer.layers))

    def find(self, layer_id: str) -> Layer | None:
        return next((layer for layer in self.walk() if layer.id == layer_id), None)

    def holds(self, card: str) -> bool:
        """Whether there is a layer of that id, or a frame that FRAME stands for."""
        return self.frame is not None if card == FRAME else self.find(card) is not None

    def replaced(self, new: Layer) -> Stack:
        """This stack with the layer of the same id replaced; everything else is shared."""
        return self.with_rows(lambda row: _replaced(row, new))


def _replaced(layers: tuple[Layer, ...], new: Layer) -> tuple[Layer, ...]:
    out: list[Layer] = []
    for layer in layers:
        if layer.id == new.id:
            out.append(new)
        elif layer.layers:
            inner = _replaced(layer.layers, new)
            out.append(layer if inner == layer.layers else replace(layer, layers=inner))
        else:
            out.append(layer)
    return tuple(out)
