"""Work done elsewhere: whatever becomes of the workers, every job has one outcome, and only so many are handed out."""

import os
import signal
from pathlib import Path

import pytest

from glyptic.actions.runners import AHEAD, Here, Processes, results


def tell(job):
    """Says which job it was; 'die' kills its worker, 'once' only the first time."""
    number, what = job
    if what.startswith("once"):
        mark = Path(what.removeprefix("once "))
        if not mark.exists():
            mark.touch()
            os.kill(os.getpid(), signal.SIGKILL)
    if what == "die":
        os.kill(os.getpid(), signal.SIGKILL)
    return number, os.getpid()


def gave_up(job):
    return job[0], None


@pytest.fixture
def two():
    runner = Processes(2)
    yield runner
    runner.close()


def test_every_job_has_its_outcome_wherever_it_is_done(two):
    jobs = [(i, "") for i in range(9)]
    here = [number for _, (number, _) in results(Here(), tell, jobs, gave_up)]
    there = [outcome for _, outcome in results(two, tell, jobs, gave_up)]
    assert here == sorted(number for number, _ in there) == list(range(9))
    assert os.getpid() not in {process for _, process in there}


def test_a_job_whose_worker_dies_once_is_begun_again_and_none_is_done_twice(two, tmp_path):
    jobs = [(i, f"once {tmp_path / 'mark'}" if i == 3 else "") for i in range(8)]
    outcomes = [outcome for _, outcome in results(two, tell, jobs, gave_up)]
    assert sorted(number for number, _ in outcomes) == list(range(8))
    assert all(process for _, process in outcomes)


def test_a_job_that_kills_its_worker_each_time_is_given_up_and_the_others_go_on(two):
    jobs = [(i, "die" if i in (2, 5) else "") for i in range(8)]
    outcomes = dict(outcome for _, outcome in results(two, tell, jobs, gave_up))
    assert [number for number in sorted(outcomes) if outcomes[number] is None] == [2, 5] and len(outcomes) == 8


class Counting(Here):
    """Counts how many promises are open at once."""

    width = 2

    def __init__(self):
        self.asked = 0

    def submit(self, work, job):
        self.asked += 1
        return super().submit(work, job)


def test_jobs_are_taken_as_they_are_needed_and_no_more_are_begun_when_it_is_to_stop():
    runner, taken = Counting(), []

    def endless():
        for i in range(10_000):
            taken.append(i)
            yield i, ""

    found = results(runner, tell, endless(), gave_up, go_on=lambda: runner.asked < 7)
    assert next(found)[1][0] == 0 and len(taken) == AHEAD * runner.width
    assert len(list(found)) == 6 and runner.asked == 7
