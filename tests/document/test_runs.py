"""Runs of strokes: found again as a painting grows, and never mistaken for others."""

from dataclasses import replace

from glyptic.base.digests import digest
from glyptic.document.runs import RUN, runs
from tests.conftest import stack_of

STROKE = {"to": 1, "size": 30, "hardness": 0, "opacity": 0.5, "flow": 0.5}


def painting(count, **more):
    strokes = [{**STROKE, "points": [[n, 5], [n + 20, 50]], **more} for n in range(count)]
    return stack_of({"kind": "grey", "strokes": strokes}).layers[1].strokes


def test_a_stroke_more_makes_one_run_anew():
    before = painting(3 * RUN + 5)
    after = (*before, *painting(1))
    assert [a is b for a, b in zip(runs(before), runs(after), strict=True)] == [True, True, True, False]
    assert [len(run) for run in runs(after)] == [RUN, RUN, RUN, 6]


def test_a_stroke_changed_in_the_middle_makes_another_run():
    before = painting(RUN)
    after = (*before[:30], replace(before[30], opacity=0.1), *before[31:])
    [first], [second] = runs(before), runs(after)
    assert first.digest != second.digest == digest(*(stroke.digest for stroke in after))
    assert runs(before)[0].digest == first.digest


def test_strokes_that_even_out_stand_by_themselves_and_idle_ones_nowhere():
    plain, evening, idle = painting(2), painting(1), painting(1)
    strokes = (*plain, replace(evening[0], to=None, even=3.0), replace(idle[0], to=None, even=0.0), *painting(1))
    [run] = runs(strokes)
    assert [len(piece) for piece in run.pieces] == [2, 1, 1] and run.pieces[1].strokes[0].even == 3.0
    [whole] = runs(plain)
    assert whole.pieces == (whole,)
