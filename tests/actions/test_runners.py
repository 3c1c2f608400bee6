"""Work done elsewhere: whatever becomes of the workers, every job has one outcome, and only so many are handed out."""

import os
import signal
import subprocess
import sys
from pathlib import Path

import psutil
import pytest

from glyptic.actions.runs.runners import AHEAD, Here, Processes, results


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
    assert next(found)[1][0] in taken and len(taken) == AHEAD * runner.width
    assert len(list(found)) == 6 and runner.asked == 7


STARTS_AND_DIES = """
import os, signal, sys
from glyptic.actions.runs.runners import Processes
if __name__ == "__main__":
    runner = Processes(1)
    runner.submit(abs, -1).result()
    print(*runner._pool._processes, flush=True)
    os.kill(os.getpid(), signal.SIGKILL)
"""


def test_a_process_ends_with_the_one_that_started_it_however_that_ended(tmp_path):
    script = tmp_path / "starts.py"
    script.write_text(STARTS_AND_DIES)
    said = subprocess.run([sys.executable, script], capture_output=True, text=True, timeout=60, check=False).stdout
    worker = int(said.split()[-1])
    assert not psutil.pid_exists(worker) or psutil.Process(worker).status() == psutil.STATUS_ZOMBIE
