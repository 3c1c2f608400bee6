"""What every request can reach, and how requests are read."""

from __future__ import annotations

import json
import struct
from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from ipaddress import ip_address
from typing import Any, cast

from flask import Response, current_app, request

from glyptic.actions.comparing import Side, side_of
from glyptic.actions.export import Exports
from glyptic.actions.looking import Looking
from glyptic.actions.presses import press_asked
from glyptic.actions.runs.foreman import Foreman
from glyptic.actions.settle import Settler
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault
from glyptic.base.rectangles import Rect
from glyptic.document.values import Stack
from glyptic.engine.views import HATCH, Hatch
from glyptic.params.declared import finite_number
from glyptic.params.geometry import number_list


@dataclass(frozen=True)
class Context:
    """What one running application has."""

    workshop: Workshop
    exports: Exports
    settler: Settler | None = None
    foreman: Foreman | None = None


def context() -> Context:
    return cast(Context, current_app.extensions["glyptic"])


def workshop() -> Workshop:
    return context().workshop


def framed(head: dict[str, Any], content: bytes) -> Response:
    """Bytes with a JSON head before them: the head's length (32 bits, little-endian), the head, the content."""
    plain = json.dumps(head).encode()
    return Response(struct.pack("<I", len(plain)) + plain + content, mimetype="application/octet-stream")


View = Callable[..., Response]


def comes_first(view: View) -> View:
    """A view whose answer a hand waits for (see `actions.turns`)."""

    @wraps(view)
    def within(*given: Any, **named: Any) -> Response:
        with workshop().turns.first():
            return view(*given, **named)

    return within


def is_near() -> bool:
    """Whether whoever asks is on this machine: raw pixels then cost less than packing them."""
    try:
        return ip_address(request.remote_addr or "").is_loopback
    except ValueError:
        return False


def settle_soon(current: Current, level: float = 0) -> None:
    """Have the painted tiles of a state kept on disk when there is time. level: that of the screen."""
    settler = context().settler
    if settler is not None:
        settler.soon(current.plate_id, current.stack, level)


def body() -> dict[str, Any]:
    """The request's JSON object; raises DocumentError for anything else."""
    try:
        plain = request.get_json(silent=True)
    except RecursionError:
        plain = None
    if not isinstance(plain, dict):
        raise DocumentError([Fault("request", "must be a JSON object")])
    return plain


def form_request() -> dict[str, Any]:
    """The JSON that comes beside an uploaded file."""
    try:
        plain = json.loads(request.form.get("request", "{}"))
    except (ValueError, RecursionError):
        plain = None
    if not isinstance(plain, dict):
        raise DocumentError([Fault("request", "must be a JSON object")])
    return plain


def whole(plain: dict[str, Any], name: str) -> int:
    """A whole number of the request; raises DocumentError."""
    value = plain.get(name)
    if isinstance(value, bool) or not isinstance(value, int) or abs(value) > LARGEST:
        raise DocumentError([Fault(name, "must be a whole number")])
    return value


LARGEST = 2**53
"""No number of a plate, a state or a tile is larger."""


def asked_whole(name: str) -> int | None:
    """A whole number of the address, or None where there is none such."""
    value = request.args.get(name, type=int)
    return value if value is not None and abs(value) <= LARGEST else None


def number(plain: dict[str, Any], name: str) -> float:
    """A finite number of the request; raises DocumentError."""
    faults: list[Fault] = []
    value = finite_number(plain.get(name), name, faults)
    if value is None:
        raise DocumentError(faults)
    return value


def text(plain: dict[str, Any], name: str, longest: int = 200) -> str:
    """A text of the request; raises DocumentError."""
    value = plain.get(name)
    if not isinstance(value, str) or len(value) > longest or not value.isprintable():
        raise DocumentError([Fault(name, f"must be a text of at most {longest} characters")])
    return value


LONGEST_NUMBER = 64


def asked_number(plain: dict[str, Any]) -> str | None:
    """The number under which the page sends a request, so that it is kept once however often it is sent."""
    return text(plain, "number", LONGEST_NUMBER) if "number" in plain else None


def side(plain: dict[str, Any], name: str = "side") -> Side | None:
    """What the picture is compared with: {"kind", "number", "layers"}; None where the request does not say."""
    inner = plain.get(name)
    if inner is None:
        return None
    layers = inner.get("layers", []) if isinstance(inner, dict) else None
    if not isinstance(layers, list) or not all(isinstance(layer, str) for layer in layers):
        raise DocumentError([Fault(name, "must be an object with a kind, and a number or a list of layers")])
    return Side(text(inner, "kind"), whole(inner, "number") if "number" in inner else 0, tuple(layers))


def compared(plain: dict[str, Any], plate_id: int) -> Stack | None:
    """The state that a view compares with, where it says so; None for the base."""
    against = side(plain, "against")
    return side_of(workshop(), workshop().current(plate_id), against) if against is not None else None


def looking(plain: dict[str, Any], plate_id: int) -> Looking:
    """What the page looks at: {"view", "layer", "level", "rect": [x, y, w, h]} with the rectangle in level pixels, and
    "against" with what a map of change of that plate compares."""
    inner = plain.get("looking")
    if not isinstance(inner, dict):
        raise DocumentError([Fault("looking", "must be an object")])
    numbers = inner.get("rect")
    if not isinstance(numbers, list) or len(numbers) != 4:
        raise DocumentError([Fault("looking.rect", "must be [x, y, w, h]")])
    names = ("x", "y", "w", "h")
    rect = Rect(*(whole(dict(zip(names, numbers, strict=True)), name) for name in names))
    hatch = _hatch(inner["hatch"]) if inner.get("hatch") is not None else HATCH
    at_rest = inner.get("atRest") is True
    against = compared(inner, plate_id)
    return Looking(
        text(inner, "view"), text(inner, "layer"), number(inner, "level"), rect, hatch=hatch, at_rest=at_rest,
        against=against, exact=inner.get("exact") is True, soon=inner.get("soon") is True,
        screen=text(inner, "screen") if "screen" in inner else "srgb",
        press=press_asked(workshop(), inner["press"]) if "press" in inner else None,
    )  # fmt: skip


def _hatch(raw: object) -> Hatch:
    """The hatch over a mask: [r, g, b, strength], each 0..1."""
    found: list[Fault] = []
    numbers = number_list(raw, 4, "[r, g, b, strength]", "looking.hatch", found)
    if numbers is None or not all(0 <= n <= 1 for n in numbers):
        raise DocumentError(found or [Fault("looking.hatch", "must hold numbers in 0..1")])
    r, g, b, strength = numbers
    return Hatch((r, g, b), strength)
