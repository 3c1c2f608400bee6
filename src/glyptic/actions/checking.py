"""Checks run on a plate: each by itself, so that the first findings are there at once; which are left as they are."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from glyptic.actions.workshop import Current, Workshop
from glyptic.base.digests import digest
from glyptic.base.errors import DocumentError, Fault, Stopped
from glyptic.base.homography import Homography
from glyptic.base.rectangles import Rect
from glyptic.checks import CHECKS, Check, Finding
from glyptic.checks.check import Path
from glyptic.checks.subject import Subject
from glyptic.document.values import Stack
from glyptic.params import Schema, Values
from glyptic.store.settings import KeptSettings

THRESHOLDS_FILE = "checks.json"
IN_ORDER: tuple[Check, ...] = tuple(sorted(CHECKS.values(), key=lambda check: check.rank))
"""Every check, the quick ones first."""
THRESHOLDS = Schema({check.name: check.threshold for check in IN_ORDER})
MOST_TOLD = 60
"""Findings of one check that are told."""
MOST_POINTS = 4000
"""Points of the lines that light a finding."""


@dataclass(frozen=True)
class Told:
    """A finding of a plate. of: a digest of what it speaks of; why: the word it is left as it is with, None where it is
    not; rect, path: its place in what comes out, in its full-size pixels."""

    check: Check
    finding: Finding
    of: str
    why: str | None
    rect: Rect | None
    path: Path


def thresholds(workshop: Workshop) -> KeptSettings:
    """The thresholds of this data folder."""
    return KeptSettings(workshop.store.folder / THRESHOLDS_FILE, THRESHOLDS)


def set_threshold(workshop: Workshop, name: str, value: float | None) -> Values:
    """Another threshold for a check, or its own again (None); raises DocumentError."""
    if name not in CHECKS:
        raise DocumentError([Fault("check", f"{name[:40]!r} is no check Glyptic knows")])
    kept = thresholds(workshop)
    plain = THRESHOLDS.plain(kept.read())
    plain.pop(name, None)
    return kept.write(plain if value is None else plain | {name: value})


def subject_of(workshop: Workshop, current: Current) -> Any:
    """What the checks of a state look at, measured once for all of them. It stops where the plate is changed, or who
    asked does not wait."""
    made = workshop.subjects.get(current.root)
    if made is None:
        made = workshop.subjects.put(current.root, Subject(current.stack, workshop.plan))
    begun = workshop.edits[current.plate_id]

    def go_on() -> None:
        workshop.stops.check()
        if workshop.edits[current.plate_id] != begun:
            raise Stopped("The plate was changed meanwhile; the checks look at it again when they are asked to.")

    made.check = go_on
    return made


def check(workshop: Workshop, current: Current, name: str) -> list[Told]:
    """What one check finds on a state, the worst first. Raises Stopped where whoever asked does not wait."""
    if name not in CHECKS:
        raise DocumentError([Fault("check", f"{name[:40]!r} is no check Glyptic knows")])
    looked = CHECKS[name]
    subject: Subject = subject_of(workshop, current)
    limit = thresholds(workshop).read()[name]
    found = sorted(looked.look(subject, limit), key=lambda one: -one.worth)
    return list(_told(workshop, current, looked, found))[:MOST_TOLD]


def _told(workshop: Workshop, current: Current, looked: Check, found: list[Finding]) -> Iterator[Told]:
    left = {one["of"]: one["why"] for one in current.stack.notes.left}
    for finding in found:
        layer = current.stack.find(finding.layer)
        key = workshop.store.objects.key_of(layer) if layer is not None and finding.layer else ""
        of = digest(looked.name, finding.layer, key, finding.mark).hex()
        rect, path = _shown(current.stack, finding)
        if rect is not None and finding.rect is not None and rect.empty:
            continue  # it lies outside the frame
        yield Told(looked, finding, of, left.get(of), rect, path)


def _shown(stack: Stack, finding: Finding) -> tuple[Rect | None, Path]:
    """The place of a finding in what comes out."""
    frame = stack.frame
    carried = frame is not None and frame.enabled and finding.layer and not _over_sheet(stack, finding.layer)
    path = _thinned(finding.path)
    if frame is None or not carried:
        return finding.rect, path
    onto: Homography = frame.onto.inverse.facing(*frame.corners[0])
    path = tuple(tuple(onto.at(x, y) for x, y in line) for line in path)
    if finding.rect is None:
        return None, path
    x, y, w, h = finding.rect
    corners = [onto.at(px, py) for px, py in ((x, y), (x + w, y), (x + w, y + h), (x, y + h))]
    xs, ys = ([corner[i] for corner in corners] for i in (0, 1))
    around = Rect.covering(min(xs), min(ys), max(xs), max(ys))
    return around.meet(Rect(0, 0, *frame.sheet)), path


def _over_sheet(stack: Stack, layer: str) -> bool:
    return any(one.id == layer for one in Stack(stack.sheet_layers).walk())


def _thinned(path: Path) -> Path:
    """No more lines than a page can draw quickly, the longest first."""
    kept, points = [], 0
    for line in sorted(path, key=len, reverse=True):
        points += len(line)
        if points > MOST_POINTS:
            break
        kept.append(line)
    return tuple(kept)


@dataclass(frozen=True)
class Standing:
    """What all checks found on a state: those that stand, those left as they are, and how long it took, in seconds."""

    open: list[Told]
    left: list[Told]
    took: float


def check_all(workshop: Workshop, current: Current) -> Standing:
    """Every check, one after the other."""
    begun = time.perf_counter()
    found = [told for one in IN_ORDER for told in check(workshop, current, one.name)]
    return Standing(
        [told for told in found if told.why is None], [told for told in found if told.why is not None],
        time.perf_counter() - begun,
    )  # fmt: skip


def plain_finding(told: Told) -> dict[str, Any]:
    """A finding as the page takes it."""
    finding, rect = told.finding, told.rect
    mends = [{"title": one.title, "help": one.help, "path": one.path, "body": one.body} for one in finding.mends]
    path = [[[round(x, 1), round(y, 1)] for x, y in line] for line in told.path]
    return {
        "check": told.check.name, "title": told.check.title, "says": finding.says, "layer": finding.layer,
        "of": told.of, "why": told.why, "rect": list(rect) if rect is not None else None, "path": path,
        "worth": finding.worth, "mends": mends,
    }  # fmt: skip
