"""Every check on plates made to have its fault and on plates made not to; the layer it names; its mends, tried."""

from __future__ import annotations

import numpy as np
import pytest

from glyptic.checks import CHECKS
from glyptic.checks.subject import PATCH, Subject
from glyptic.document.codec import parse_stack
from glyptic.engine.plan import make_plan
from glyptic.engine.vocabulary import VOCABULARY
from tests.checks.made import CASES, HEIGHT, WIDTH, body, named, up
from tests.conftest import BASE, picture_of


def subject_of(case):
    plain = {"format": "glyptic-stack", "version": 1, "layers": [BASE, *case.layers], **case.notes}
    picture = picture_of(case.codes, case.codes.tobytes()[:64])
    return Subject(parse_stack(plain, VOCABULARY), lambda stack: make_plan(stack, lambda source: picture))


def found(case, subject=None):
    looked = CHECKS[case.check]
    return list(looked.look(subject or subject_of(case), looked.threshold.default))


def test_every_check_has_plates_with_and_without_its_fault():
    for has in (True, False):
        assert {case.check for case in CASES if case.has is has} == set(CHECKS)


@pytest.mark.parametrize("case", CASES, ids=named)
def test_a_fault_is_found_where_it_was_made_and_only_there(case):
    findings = found(case)
    assert bool(findings) is (case.has and not case.missed)
    if not findings:
        return
    worst = max(findings, key=lambda one: one.worth)
    assert worst.worth >= 1 and case.layer in worst.says
    if worst.rect is not None:
        assert worst.rect.x >= 0 and worst.rect.right <= WIDTH + PATCH and worst.rect.bottom <= HEIGHT + PATCH
    assert all(np.isfinite(point).all() for line in worst.path for point in line)


BY_OTHER_DEEDS = ("halos", "gaps", "curves", "noise")
"""Checks whose mends are no edits (see tests/web/test_checks.py), or that have none where the fault is strong."""
MENDED = [
    case
    for case in CASES
    if case.has and not case.missed and case.check not in BY_OTHER_DEEDS and "pins" not in case.notes
]


@pytest.mark.parametrize("case", MENDED, ids=named)
def test_what_mends_a_fault_mends_it(case):
    """The first mend that is an edit leaves nothing of the kind, or less."""
    from glyptic.actions.edit import edited

    subject = subject_of(case)
    before = found(case, subject)
    edits = [mend for finding in before for mend in finding.mends if mend.path == "edits"]
    stack = edited(subject.stack, edits[0].body["edit"], edits[0].body["arguments"]).stack
    after = found(case, Subject(stack, subject.plan_of))
    assert max((one.worth for one in after), default=0) < max(one.worth for one in before)


def test_nothing_is_found_on_a_picture_without_layers():
    picture = picture_of(body())
    subject = Subject(
        parse_stack({"format": "glyptic-stack", "version": 1, "layers": [BASE]}, VOCABULARY),
        lambda stack: make_plan(stack, lambda source: picture),
    )
    assert [one.says for check in CHECKS.values() for one in check.look(subject, check.threshold.default)] == []


def test_a_higher_threshold_tells_less():
    case = next(case for case in CASES if case.check == "overall" and case.has)
    looked = CHECKS["overall"]
    assert list(looked.look(subject_of(case), 0.5)) and not list(looked.look(subject_of(case), 2.0))


def test_layers_over_the_sheet_and_in_groups_are_checked_too():
    group = {"id": "g", "kind": "group", "name": "Group", "layers": [up(0.5, "Inner", mask={"start": "closed"})]}
    frame = {"corners": [[20, 10], [460, 10], [460, 310], [20, 310]], "size": [440, 300], "layers": [up(0.0, "Over")]}
    plain = {"format": "glyptic-stack", "version": 1, "layers": [BASE, group], "frame": frame}
    picture = picture_of(body())
    subject = Subject(parse_stack(plain, VOCABULARY), lambda stack: make_plan(stack, lambda source: picture))
    said = " ".join(one.says for one in CHECKS["idle"].look(subject, 0.001))
    assert "‘Inner’" in said and "‘Over’" in said
