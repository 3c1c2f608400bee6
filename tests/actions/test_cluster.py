"""The same work on a cluster of two workers: the same pixels, whoever dies on the way; what cannot be used is told."""

import json
import os
from pathlib import Path

import numpy as np
import pytest

from glyptic.actions.kits.files import jobs_of, run_jobs
from glyptic.actions.open_picture import open_picture
from glyptic.actions.runs import board as runs
from glyptic.actions.runs import cluster as clusters
from glyptic.actions.runs.cluster import Cluster
from glyptic.actions.runs.foreman import Foreman, runner_for
from glyptic.actions.runs.parcels import run_parcels
from glyptic.actions.runs.runners import Here, Processes
from glyptic.base.errors import ClusterError
from tests.actions.test_runners import gave_up, results, tell
from tests.conftest import colourful, png_bytes

KIT = {
    "format": "glyptic-kit", "version": 1, "name": "Texture", "size": [200, 180],
    "layers": [
        {"kind": "local-contrast", "settings": {"amount": 0.6, "radius": 12}},
        {"kind": "picture", "source": "grain.png", "blend": "soft-light", "opacity": 0.4},
    ],
}  # fmt: skip


@pytest.fixture(scope="module")
def address():
    """Two workers of this machine, each a process."""
    distributed = pytest.importorskip("distributed")
    made = distributed.LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None, silence_logs=50)
    yield made.scheduler_address
    made.close()


@pytest.fixture
def jobs(tmp_path):
    """Gives the jobs of applying a kit to five pictures, into a folder."""
    shapes = [(200, 180), (120, 90), (64, 64), (300, 200), (90, 140)]
    for i, size in enumerate(shapes):
        codes = np.moveaxis(colourful(*size, i) >> 8, 0, 2).astype(np.uint8)
        (tmp_path / f"p{i}.png").write_bytes(png_bytes(codes))
    (tmp_path / "grain.png").write_bytes((tmp_path / "p1.png").read_bytes())
    (tmp_path / "kit.json").write_text(json.dumps(KIT))
    (tmp_path / "p2.png").write_bytes(b"no picture")

    def into(name, stacks=False):
        (tmp_path / name).mkdir()
        pictures = [tmp_path / f"p{i}.png" for i in range(len(shapes))]
        return jobs_of(tmp_path / "kit.json", pictures, tmp_path / name, ".png", stacks)

    return into


def written(folder):
    return {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


def test_every_way_of_working_writes_the_same_bytes_and_one_bad_picture_fails_alone(address, jobs, tmp_path):
    told = []
    ways = {"here": (Here(), run_jobs), "two": (Processes(2), run_jobs)}
    ways |= {"paths": (Cluster(address), run_jobs), "parcels": (Cluster(address), run_parcels)}
    for name, (runner, run_all) in ways.items():
        failed = run_all(jobs(name, stacks=True), runner, lambda outcome, done, count: told.append(outcome))
        runner.close()
        assert failed == 1, name
    here, *others = [written(tmp_path / name) for name in ways]
    assert len([name for name in here if name.endswith(".png") and "/" not in name]) == 4
    assert all(other == here for other in others)
    assert {Path(one.job.picture).name for one in told if one.trouble} == {"p2.png"}


def test_a_worker_that_dies_is_made_up_for_and_a_job_that_kills_every_worker_is_given_up(address, tmp_path):
    runner = Cluster(address)
    work = [(i, f"once {tmp_path / 'mark'}" if i == 1 else "die" if i == 4 else "") for i in range(6)]
    outcomes = dict(outcome for _, outcome in results(runner, tell, work, gave_up))
    runner.close()
    assert sorted(outcomes) == list(range(6)) and [i for i in outcomes if outcomes[i] is None] == [4]
    assert os.getpid() not in outcomes.values() and (tmp_path / "mark").exists()


def test_a_cluster_that_is_not_there_or_runs_something_else_is_told_and_nothing_begins(address, monkeypatch):
    monkeypatch.setattr(clusters, "PATIENCE", 1)
    with pytest.raises(ClusterError, match=r"no scheduler at tcp://127\.0\.0\.1:9"):
        Cluster("tcp://127.0.0.1:9")
    with pytest.raises(ClusterError, match="no scheduler"):
        Cluster("nonsense")
    monkeypatch.setattr(clusters, "__version__", "99")
    with pytest.raises(ClusterError, match="another Glyptic"):
        Cluster(address)


def test_runs_of_the_shelf_go_to_the_cluster_that_is_set(address, shop, photo, monkeypatch):
    plates = [open_picture(shop, photo, "p.png") for _ in range(3)]
    shop.store.settings.write({"cluster": address})
    run = runs.begin_run(shop, "deliver", plates, {"deliveries": ["Web"]})
    Foreman(shop).work_off()
    assert runs.look_at_run(shop, run).done == 3
    monkeypatch.setattr(clusters, "PATIENCE", 1)
    shop.store.settings.write({"cluster": "tcp://127.0.0.1:9"})
    run = runs.begin_run(shop, "deliver", plates, {"deliveries": ["Web"]})
    foreman = Foreman(shop)
    foreman.work_off()
    assert runs.look_at_run(shop, run).state == "stopped" and "no scheduler" in foreman.troubles[run]
    with pytest.raises(ClusterError):
        runner_for(shop)
