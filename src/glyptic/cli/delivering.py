"""The options of commands that write pictures: a delivery as a file, and a flag for each of its settings."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from glyptic.base.errors import DocumentError, ExportError, Fault
from glyptic.document.delivery import DELIVERY, KINDS, OWN, WORKING, read_delivery
from glyptic.document.values import WORKING_SPACES
from glyptic.params import Choice, Param, Real, Toggle, Values, Whole

if TYPE_CHECKING:
    from glyptic.actions.delivery import Written

NOT_FLAGS = ("name", "pattern", "format")
"""What a name, a pattern and an ending say elsewhere."""


def declare_delivery(parser: argparse.ArgumentParser, formats: bool) -> None:
    """Add the options. formats: whether the format is one of them, and not told by an ending."""
    group = parser.add_argument_group("how files are written", "each of them goes before what the delivery says")
    group.add_argument("--delivery", type=Path, metavar="FILE.json", help="a delivery, as the page keeps them")
    for name, param in DELIVERY.params.items():
        if name in NOT_FLAGS and not (formats and name == "format"):
            continue
        _add(group, name, param)


def _add(group: Any, name: str, param: Param) -> None:
    flag = f"--{name.replace('_', '-')}"
    says = " ".join(f"{param.label}: {param.help}".replace("%", "%%").split())
    if isinstance(param, Toggle):
        group.add_argument(flag, action=argparse.BooleanOptionalAction, default=None, help=says)
    elif isinstance(param, Choice):
        group.add_argument(flag, metavar="|".join(param.options), help=says)
    elif isinstance(param, Real):
        group.add_argument(flag, metavar="N", help=says)
    else:
        group.add_argument(flag, metavar="SPACE|own|FILE.icc", help=says)


def delivery_of(
    options: argparse.Namespace, kind: str, faults: list[Fault], base: Path | None = None
) -> Written | None:
    """The delivery that the options ask for, every fault added. kind: the format, where an ending or a flag says it.
    base: the file whose own profile is meant by `own`."""
    plain = _from_file(options.delivery, faults) if options.delivery else {"name": "command", "format": "png"}
    if kind:
        plain["format"] = kind
    for name, param in DELIVERY.params.items():
        given = getattr(options, name, None)
        if given is not None and name not in NOT_FLAGS:
            plain[name] = _value(name, param, given, faults)
    from glyptic.actions.delivery import Written

    profile = _profile(plain, faults, base)
    found: list[Fault] = []
    values = DELIVERY.parse(plain, "", found)
    faults += found
    if values is None or faults:
        return None
    written = Written(values, profile)
    try:
        written.output  # noqa: B018  told here if it does not go together
    except ExportError as error:
        faults.append(Fault("output", str(error)))
    return written


def _from_file(path: Path, faults: list[Fault]) -> dict[str, Any]:
    try:
        return DELIVERY.plain(read_delivery(path.read_bytes()))
    except DocumentError as error:
        faults += [Fault(f"delivery.{fault.field}".rstrip("."), fault.message) for fault in error.faults]
    except OSError as error:
        faults.append(Fault(str(path), f"cannot be used: {error.strerror}"))
    return {"name": "command"}


def _value(name: str, param: Param, given: Any, faults: list[Fault]) -> Any:
    """A flag's text as plain data."""
    if not isinstance(param, Real):
        return given
    try:
        number = float(given)
    except ValueError:
        span = f"{param.low:g}..{param.high:g}"
        what = "a whole number" if isinstance(param, Whole) else "a number"
        faults.append(Fault(name.replace("_", "-"), f"must be {what} in {span}, not {given[:40]!r}"))
        return param.default
    return number


def _profile(plain: dict[str, Any], faults: list[Fault], base: Path | None) -> bytes:
    """The bytes of the profile that is meant: a file's, or that of the base."""
    from glyptic.formats.as_it_came import own_profile
    from glyptic.formats.press import press_profile

    name = str(plain.get("profile", WORKING))
    if name in (WORKING, *WORKING_SPACES):
        return b""
    if name == OWN:
        return own_profile(base) if base is not None else b""
    if name == "practice":
        return press_profile()
    try:
        return Path(name).read_bytes()
    except OSError as error:
        known = ", ".join((WORKING, OWN, "practice", *WORKING_SPACES))
        faults.append(Fault("profile", f"must be one of {known}, or a file that can be read ({error.strerror})"))
        return b""


def kind_of(path: Path) -> str:
    """The format that an ending asks for; '' for none that is known."""
    ending = path.suffix.lower().removeprefix(".")
    ending = {"jpeg": "jpg", "tiff": "tif"}.get(ending, ending)
    return ending if ending in KINDS else ""


def plain_of(written: Written) -> dict[str, Any]:
    """A delivery as plain data for a job."""
    values: Values = written.values
    return DELIVERY.plain(values)
