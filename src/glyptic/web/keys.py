"""All keys of the bench: what is pressed, where, what it does. The page binds its deeds to their names; the list behind
`?`, the tips and the documentation are written from here."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any


@dataclass(frozen=True)
class Key:
    """A key. name: what the page binds a deed to. presses: as the page reads them, `ctrl+`, `alt+` and `shift+` before
    the key. shown: as it is written; says: what it does, '' for one that needs no line in the list; family: its part of
    the list. held: works while it is held. repeats: goes on while it is held down. free: Shift and Alt are the
    deed's own business. where: a selector of what must have the focus; '' for anywhere that no text is typed."""

    name: str
    presses: tuple[str, ...]
    shown: str
    says: str
    family: str
    held: bool = False
    repeats: bool = False
    free: bool = False
    where: str = ""


LOOKING, HAND, LAYERS, SETTINGS, PLATE = "Looking", "Hand and brush", "Layers", "Curves, bars and numbers", "The plate"
_ACROSS, _UPRIGHT = ("ArrowLeft", "ArrowRight"), ("ArrowUp", "ArrowDown")
_ARROWS = (*_ACROSS, *_UPRIGHT)
_STAGE = "#stage"

KEYS = (
    # Those of one place come before those of everywhere: the first that fits is done.
    Key("curve-nudge", _ARROWS, "arrows", "on a curve: move what is chosen; with Shift far, with Alt finely", SETTINGS,
        repeats=True, free=True, where="#curve"),
    Key("curve-choose", ("PageUp", "PageDown"), "Page up, down", "on a curve: another point; with Shift several",
        SETTINGS, repeats=True, free=True, where="#curve"),
    Key("curve-all", ("ctrl+a",), "Ctrl+A", "on a curve: choose every point", SETTINGS, where="#curve"),
    Key("curve-remove", ("Delete", "Backspace"), "Delete", "on a curve: remove what is chosen", SETTINGS,
        where="#curve"),
    Key("curve-add", ("Enter",), "Enter", "on a curve: a point between this one and the next", SETTINGS,
        where="#curve"),
    Key("curve-one", ("Escape",), "Escape", "", SETTINGS, where="#curve"),
    Key("handle-step", _ARROWS, "", "", SETTINGS, repeats=True, free=True, where="[data-handle]"),
    Key("edge-step", _ARROWS, "", "", SETTINGS, repeats=True, free=True, where="[data-edge]"),
    Key("mask-curve-step", _ARROWS, "", "", SETTINGS, repeats=True, free=True, where="[data-point]"),
    Key("mask-curve-remove", ("Delete", "Backspace"), "", "", SETTINGS, where="[data-point]"),
    Key("hairline-step", _ARROWS, "arrows", "on the hairline of Split: move it; with Shift far", LOOKING, repeats=True,
        free=True, where="#hairline"),
    Key("pin-step", _ARROWS, "arrows", "on a pin: move it by a pixel; with Shift by ten", LOOKING, repeats=True,
        free=True, where=".pin"),
    Key("pin-remove", ("Delete", "Backspace"), "Delete", "on a pin: remove it", LOOKING, where=".pin"),
    Key("ring-step", _ARROWS, "arrows", "on a hue ring: turn it; with Shift widen it", SETTINGS, repeats=True,
        free=True, where="[data-ring]"),
    Key("bar-step", _ARROWS, "arrows", "on a bar: step it; with Shift ten times as far, with Alt a tenth", SETTINGS,
        repeats=True, free=True, where="input.bar"),
    Key("bar-home", ("Delete", "Backspace"), "Delete", "on a bar: its default, as a double press does", SETTINGS,
        where="input.bar"),
    Key("number-step", _UPRIGHT, "↑ ↓", "in a number: step it, as a bar is", SETTINGS, repeats=True, free=True,
        where="input.number"),
    Key("hold", (" ", "Enter"), "", "", SETTINGS, held=True, where="[data-hold]"),
    Key("add-best", ("Enter",), "Enter", "in the search of Add: add the first that is found", LAYERS,
        where="#add-search"),
    Key("add-step", _ARROWS, "", "", LAYERS, repeats=True, where="#add"),
    Key("found-step", _UPRIGHT, "", "", LAYERS, repeats=True, where="#strip-search"),
    Key("found-take", ("Enter",), "", "", LAYERS, where="#strip-search"),
    Key("choose-card", (" ", "Enter"), "Enter", "on a card: choose it; with Ctrl one more, with Shift a range", LAYERS,
        free=True, where="#strip .choose"),
    Key("choose-more", ("ctrl+ ", "ctrl+Enter"), "", "", LAYERS, free=True, where="#strip .choose"),
    Key("next-card", (*_ACROSS, "Home", "End"), "← →", "on a card: the next one", LAYERS, repeats=True,
        where="#strip .choose"),
    Key("row-step", _ARROWS, "arrows", "in a row of choices: the next one", SETTINGS, repeats=True,
        where='[role="radio"], [role="tab"], [role="toolbar"] button'),
    Key("typed", ("Enter",), "Enter", "in a number or a name: keep it, and back to the picture", SETTINGS,
        where="#bench input.number, #bench .layer-name, #bench #zoom"),
    Key("escape", ("Escape",), "Escape", "give up what is being drawn; stop; close a panel; let go of several cards",
        PLATE),
    Key("hands", tuple("12345678"), "1 to 8", "Move, Paint, Ramp, Oval, Outline, Region, Pick, Frame", HAND),
    Key("frame-done", ("Enter",), "Enter", "with Frame: show the sheet", HAND, where=_STAGE),
    Key("frame-step", _ARROWS, "arrows", "with Frame: shift it by a pixel, with Shift by ten; with Alt turn it", HAND,
        repeats=True, free=True, where=_STAGE),
    Key("cross", _ARROWS, "arrows", "with Pick or Region: a cross on the picture; with Shift finely", HAND,
        repeats=True, free=True, where=_STAGE),
    Key("shift-mask", _ARROWS, "arrows", "while a mask is shifted: by a pixel, with Shift by ten", HAND, repeats=True,
        free=True, where=_STAGE),
    Key("pan", _ARROWS, "arrows", "with Move: the picture; with Shift finely", HAND, repeats=True, free=True,
        where=_STAGE),
    Key("press-cross", ("Enter",), "Enter", "press at the cross; close an outline", HAND, where=_STAGE),
    Key("move-held", (" ",), "Space, held", "move the picture", HAND, held=True),
    Key("brush-up-down", _UPRIGHT, "↑ ↓", "brush size; with Shift hardness", HAND, repeats=True, free=True),
    Key("brush-left-right", _ACROSS, "← →", "brush opacity by 5; with Shift flow", HAND, repeats=True, free=True),
    Key("side", ("s",), "S", "other side of the brush", HAND),
    Key("resize", ("d",), "D, held", "drag: brush size across, hardness up and down", HAND, held=True),
    Key("fit", ("f",), "F", "fit the picture", LOOKING),
    Key("one-to-one", ("g",), "G", "one picture pixel per device pixel", LOOKING),
    Key("zoom-in", ("+", "="), "+", "zoom in at the pointer, as the wheel does", LOOKING, repeats=True),
    Key("zoom-out", ("-",), "−", "zoom out", LOOKING, repeats=True),
    Key("turn-left", (",",), ",", "turn the view left by 15°", LOOKING, repeats=True),
    Key("turn-right", (".",), ".", "turn the view right by 15°", LOOKING, repeats=True),
    Key("mirror", ("m",), "M", "mirror the view", LOOKING),
    Key("upright", ("0",), "0", "the view upright again", LOOKING),
    Key("next-view", ("v",), "V", "next view", LOOKING),
    Key("before", ("h",), "H, held", "before", LOOKING, held=True),
    Key("without", ("w",), "W, held", "without the chosen cards: before them alone", LOOKING, held=True),
    Key("pin", ("p",), "P", "set a pin at the pointer: its numbers stay in sight", LOOKING),
    Key("pins-hidden", ("shift+p",), "Shift+P", "hide the pins, or show them again", LOOKING),
    Key("split", ("b",), "B", "Split: beside the picture what it is compared with; again: the picture alone", LOOKING),
    Key("flick", ("x",), "X, held", "flick: what Split compares with, in the picture's place", LOOKING, held=True),
    Key("swap-sides", ("y",), "Y", "in Split: exchange the two sides", LOOKING),
    Key("everywhere", ("e",), "E, held", "the chosen layer everywhere, as if its mask were open", LOOKING, held=True),
    Key("switch", ("q",), "Q", "chosen layers on or off", LAYERS),
    Key("add", ("a",), "A", "add a layer; with a group chosen, into it", LAYERS),
    Key("add-beside", ("shift+a",), "Shift+A", "add a layer after the chosen group, not into it", LAYERS),
    Key("duplicate", ("c",), "C", "copy the chosen layers", LAYERS),
    Key("remove", ("Delete",), "Delete", "remove the chosen layers", LAYERS),
    Key("earlier", ("ctrl+[",), "Ctrl+[", "move the chosen layers towards the base", LAYERS, repeats=True),
    Key("later", ("ctrl+]",), "Ctrl+]", "move them towards the finished picture", LAYERS, repeats=True),
    Key("group", ("ctrl+g",), "Ctrl+G", "put the chosen layers into a group", LAYERS),
    Key("out-of-group", ("o",), "O", "take the chosen layers out of their group", LAYERS),
    Key("rename", ("F2", "n"), "N", "rename the chosen layer", LAYERS),
    Key("find-layer", ("/",), "/", "find a layer by its name or kind", LAYERS),
    Key("next-leaf", ("t",), "T", "next leaf of the desk", SETTINGS),
    Key("copy-layers", ("ctrl+c",), "Ctrl+C", "copy the chosen cards; Ctrl+V pastes them, here or on another plate",
        LAYERS),
    Key("keep-kit", ("shift+k",), "Shift+K", "keep the chosen cards as a kit, for other plates", LAYERS),
    Key("undo", ("ctrl+z",), "Ctrl+Z", "undo", PLATE, repeats=True),
    Key("redo", ("ctrl+shift+z", "ctrl+y"), "Ctrl+Shift+Z", "redo", PLATE, repeats=True),
    Key("plate-before", ("PageUp",), "Page up", "the plate before it in its shoot", PLATE),
    Key("plate-after", ("PageDown",), "Page down", "the plate after it in its shoot", PLATE),
    Key("pull-proof", ("ctrl+Enter",), "Ctrl+Enter", "pull a proof: name it, and once more to keep it", PLATE),
    Key("checks", ("k",), "K", "checks: look at the work as it is", PLATE),
    Key("help", ("?",), "?", "what the control under the pointer does; on the picture, this list", PLATE),
)  # fmt: skip

_OTHERS = {
    LOOKING: (("Wheel", "zoom at the pointer"), ("Two fingers", "pan, zoom and turn the view")),
    HAND: (
        ("Shift, press", "a straight line from the last stroke"),
        ("Alt, Region", "a scribble on what does not belong"),
    ),
    SETTINGS: (("Alt, wheel", "turn a bar"), ("Double press", "a bar's default"), ("80+5", "numbers may be sums")),
    LAYERS: (
        ("Shift, press", "on a card: a range of cards; with Ctrl one more"),
        ("Shift, Add", "adds it closed, with the brush in the hand"),
        ("Alt, Add", "does the contrary: darker for lighter, cooler for warmer"),
    ),
    PLATE: (("Ctrl+V", "a picture from the clipboard, as a layer"),),
}
"""What else a hand can do, by family."""


def key_list() -> list[tuple[str, list[tuple[str, str]]]]:
    """The list behind `?`: families, each with what is pressed and what it does."""
    return [
        (family, [(key.shown, key.says) for key in KEYS if key.family == family and key.says] + list(more))
        for family, more in _OTHERS.items()
    ]


def key_of(name: str) -> str:
    """How the key of that name is written."""
    return next(key.shown for key in KEYS if key.name == name)


def plain_keys() -> list[dict[str, Any]]:
    """The keys as the page reads them."""
    used = ("name", "presses", "held", "repeats", "free", "where")
    return [{name: value for name, value in asdict(key).items() if name in used} for key in KEYS]
