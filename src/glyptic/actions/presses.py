"""Profiles that somebody brought: of presses and printers, kept in the data folder; and what they cannot print."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from hashlib import sha256

from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault, NotFound, PictureError
from glyptic.document.delivery import INTENTS
from glyptic.document.values import Layer
from glyptic.engine.nodes import Node
from glyptic.engine.plan import Plan
from glyptic.engine.printed import HELD, Press
from glyptic.engine.reader import Reader
from glyptic.engine.states import Ascent
from glyptic.formats.press import press_profile
from glyptic.formats.profiles import describe, model_of
from glyptic.formats.proofing import press_of
from glyptic.formats.writing import write_whole
from glyptic.params import Choice, Schema, Text, Toggle, Values
from glyptic.store.faults import told

FOLDER = "profiles"
PRACTICE = "practice"
LARGEST = 16 * 2**20
MEASURED_SIDE = 400
MOST = 60
PROOFING = Schema(
    {
        "press": Text(label="Press", default=PRACTICE, longest=64, help="Whose profile is used."),
        "intent": Choice(
            label="Intent", options=tuple(INTENTS), default="relative",
            titles=("perceptual", "relative", "saturation", "absolute"),
            help="How colours are brought into what the press has: relative keeps all it can print; perceptual eases "
            "everything, so that steps between strong colours stay.",
        ),
        "black_point": Toggle(
            label="Black point", default=True,
            help="The picture's black becomes the press's black, and darks keep apart.",
        ),
        "paper": Toggle(
            label="Paper white", default=False, help="Shows the paper's own white and the ink's own black."
        ),
        "marks": Toggle(label="Marks", default=True, help="Marks the colours that the press cannot print."),
    }
)  # fmt: skip
"""How a press is proofed."""


@dataclass(frozen=True)
class Kept:
    """A profile that is kept: key, its name, and whether it is of inks."""

    key: str
    name: str
    model: str


def _known(workshop: Workshop) -> Iterator[tuple[str, bytes]]:
    yield PRACTICE, press_profile()
    folder = workshop.store.folder / FOLDER
    if folder.is_dir():
        for path in sorted(folder.glob("*.icc"))[:MOST]:
            yield path.stem, path.read_bytes()


def list_presses(workshop: Workshop) -> list[Kept]:
    """The profiles there are, the practice press first."""
    return [Kept(key, describe(profile) or "unnamed", model_of(profile)) for key, profile in _known(workshop)]


def profile_of(workshop: Workshop, key: str) -> bytes:
    """A kept profile; raises NotFound."""
    for known, profile in _known(workshop):
        if known == key:
            return profile
    raise NotFound("That profile is not kept here; choose another one.")


def keep_press(workshop: Workshop, data: bytes) -> Kept:
    """Keep a profile; raises PictureError for a file that is none, or one that nothing can be printed by."""
    if len(data) > LARGEST or model_of(data) not in ("rgb", "cmyk"):
        raise PictureError("The file is no profile of a printer: neither RGB nor CMYK. Nothing was changed.")
    key = sha256(data).hexdigest()[:16]
    folder = workshop.store.folder / FOLDER
    with told():
        folder.mkdir(exist_ok=True)
        write_whole(folder / f"{key}.icc", data)
    return Kept(key, describe(data) or "unnamed", model_of(data))


def press_asked(workshop: Workshop, asked: object) -> Press:
    """The press that a page asks for; raises DocumentError with every fault."""
    faults: list[Fault] = []
    values = PROOFING.parse(asked, "press", faults)
    if values is None:
        raise DocumentError(faults)
    return proofed(workshop, values)


def proofed(workshop: Workshop, values: Values) -> Press:
    """A press as these settings have it."""
    profile = profile_of(workshop, values["press"])
    return press_of(profile, values["intent"], values["black_point"], values["paper"], values["marks"])


@dataclass(frozen=True)
class Unprintable:
    """The share of the picture, 0..1, that a press cannot print, of the finished picture and of the base; and what each
    layer newly brings there, by its id."""

    finished: float
    base: float
    layers: dict[str, float]


def unprintable(workshop: Workshop, current: Current, press: Press) -> Unprintable:
    """How much of a plate a press cannot print, and whose doing that is, at a small level."""
    plan = workshop.plan(current.stack)
    outer = plan.reader(workshop.tiles, plan.outer.level_within(MEASURED_SIDE))

    def share(node: Node) -> float:
        beyond = press.beyond(outer.read(node, outer.bounds)[:3], plan.space) > HELD
        return float(beyond.mean())

    inner = outer if plan.framed is None else plan.framed.inside(outer)
    layers = _brought(plan, inner, current.stack.layers[1:], plan.base, press)
    if plan.framed is not None:
        layers |= _brought(plan, outer, current.stack.sheet_layers, plan.framed, press)
    return Unprintable(share(plan.finished), share(plan.before), layers)


def _brought(plan: Plan, reader: Reader, layers: tuple[Layer, ...], start: Node, press: Press) -> dict[str, float]:
    found = {}
    for layer, below, above in Ascent(plan, reader, reader.bounds).states(layers, start):
        if above is below:
            found[layer.id] = 0.0
            continue
        before, after = (press.beyond(px, plan.space) > HELD for px in (below, above))
        found[layer.id] = float((after & ~before).mean())
    return found
