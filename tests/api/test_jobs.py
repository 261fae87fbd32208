"""Jobs: calls made in other processes, here and on a cluster; how far they are, stopped, fetched once."""

import os
import subprocess
import sys
import time

import pytest

from tests.processes import Program, wait_for
from zarfwright.core.edits import Call
from zarfwright.core.errors import JobError
from zarfwright.web.jobs import KEPT, Cluster, Jobs, Local


def square(n):
    return n * n, os.getpid()


def long_square(n, path):
    """Says that it has begun, and takes half a minute."""
    path.write_text(str(os.getpid()))
    time.sleep(30)
    return n * n


def die_until(path, times):
    """Its process ends under it, as often as is said; then it answers."""
    before = len(path.read_text()) if path.exists() else 0
    path.write_text("x" * (before + 1))
    if before < times:
        os.kill(os.getpid(), 9)
    return os.getpid()


def wrong(_):
    raise JobError("That cannot be squared: give a number.")


@pytest.fixture
def local():
    made = Local()
    yield made
    made.close()


def ended(jobs, job):
    return wait_for(lambda: next(one for one in jobs.report() if one["id"] == job)["state"] != "running", "the job")


def test_calls_are_made_in_other_processes_and_their_answers_kept_in_order(local):
    told = []
    jobs = Jobs(local, told.append)
    job = jobs.start("me", "Square", [Call(square, (n,)) for n in range(6)], lambda answers: answers)
    ended(jobs, job)
    assert {one["done"] for report in told for one in report} >= {0, 6}
    out, answers = jobs.fetch(job)
    assert (out["state"], out["done"], out["of"], out["who"]) == ("done", 6, 6, "me")
    assert [value for value, _ in answers] == [0, 1, 4, 9, 16, 25]
    assert os.getpid() not in {pid for _, pid in answers}
    # Fetched once.
    assert jobs.report() == []
    with pytest.raises(JobError, match="no longer there"):
        jobs.fetch(job)


def test_one_call_is_made_in_another_process_and_again_where_that_was_ended(local, tmp_path):
    jobs = Jobs(local)
    assert jobs.elsewhere(Call(die_until, (tmp_path / "once", 1))) != os.getpid()
    with pytest.raises(JobError, match="was ended from outside"):
        jobs.elsewhere(Call(die_until, (tmp_path / "ever", 9)))
    with pytest.raises(JobError, match="give a number"):
        jobs.elsewhere(Call(wrong, (1,)))
    assert jobs.report() == []


def test_a_job_that_is_stopped_ends_its_process_and_gives_nothing(local, tmp_path):
    jobs = Jobs(local)
    begun = tmp_path / "begun"
    finished = []
    job = jobs.start("me", "Long", [Call(long_square, (2, begun))], finished.append)
    pid = int(wait_for(lambda: begun.exists() and begun.read_text(), "the call to begin"))
    jobs.stop(job)
    ended(jobs, job)
    assert jobs.fetch(job)[0]["state"] == "stopped"
    assert finished == []
    wait_for(lambda: not os.path.exists(f"/proc/{pid}") or "Z" in state_of(pid), "its process to end")
    # And the next one has new processes.
    again = jobs.start("me", "Square", [Call(square, (3,))], lambda answers: answers[0][0])
    ended(jobs, again)
    assert jobs.fetch(again)[1] == 9


def state_of(pid):
    try:
        with open(f"/proc/{pid}/stat") as stat:
            return stat.read().rsplit(")", 1)[1].split()[0]
    except OSError:
        return "Z"


def test_what_goes_wrong_is_told_and_the_others_go_on(local):
    jobs = Jobs(local)
    bad = jobs.start("me", "Wrong", [Call(wrong, (1,))], lambda answers: answers)
    good = jobs.start("me", "Square", [Call(square, (2,))], lambda answers: answers[0][0])
    ended(jobs, bad)
    ended(jobs, good)
    assert jobs.fetch(bad)[0] | {"id": ""} == {
        "id": "", "who": "me", "name": "Wrong", "of": 1, "done": 0, "state": "failed",
        "problem": "That cannot be squared: give a number.",
    }  # fmt: skip
    assert jobs.fetch(good)[1] == 4


def killed(_):
    os.kill(os.getpid(), 9)


def test_a_process_ended_from_outside_is_told_and_the_next_job_has_new_ones(local):
    jobs = Jobs(local)
    first = jobs.start("me", "Square", [Call(killed, (1,))], lambda answers: answers)
    ended(jobs, first)
    out, _ = jobs.fetch(first)
    assert (out["state"], out["problem"][:33]) == ("failed", "Square: one of its processes was ")
    again = jobs.start("me", "Square", [Call(square, (3,))], lambda answers: answers[0][0])
    ended(jobs, again)
    assert jobs.fetch(again)[1] == 9


def test_results_that_nobody_fetches_are_let_go_in_the_end():
    jobs = Jobs()
    for _ in range(KEPT + 10):
        ended(jobs, jobs.start("me", "Nothing", [], lambda answers: answers))
    assert len(jobs.report()) <= KEPT + 1


@pytest.mark.timeout(120)
def test_a_cluster_of_two_workers_makes_the_same_calls():
    from distributed import LocalCluster

    with LocalCluster(
        n_workers=2, threads_per_worker=1, host="127.0.0.1", dashboard_address=None, silence_logs=50
    ) as here:
        runs = Cluster(here.scheduler_address)
        jobs = Jobs(runs)
        job = jobs.start("me", "Square", [Call(square, (n,)) for n in range(8)], lambda answers: answers)
        ended(jobs, job)
        out, answers = jobs.fetch(job)
        assert (out["state"], [value for value, _ in answers]) == ("done", [n * n for n in range(8)])
        assert os.getpid() not in {pid for _, pid in answers}
        jobs.close()


def test_a_scheduler_that_is_not_there_is_told_and_nothing_is_served(tmp_path):
    path = tmp_path / "a.zarf"
    subprocess.run([sys.executable, "-m", "zarfwright", "new", str(path)], check=True)
    command = [sys.executable, "-m", "zarfwright", "serve", str(path), "--port", "0", "--jobs", "tcp://127.0.0.1:9"]
    found = subprocess.run(command, capture_output=True, text=True, timeout=300, check=False)
    assert found.returncode == 2
    assert "cannot be reached" in found.stderr


def over(program, asked):
    """Have a job done; the job as it is then."""
    status, started = program.post("/api/shows/SHOW/jobs", asked)
    assert status == 200, started

    def ended_one():
        jobs = program.get("/api/shows/SHOW/jobs")
        return next(job for job in jobs if job["id"] == started["id"] and job["state"] != "running")

    return wait_for(ended_one, "the job")


def test_an_edit_that_takes_long_is_made_when_its_work_is_done(tmp_path):
    program = Program(tmp_path / "demo.zarf")
    try:
        program.edit("add viewpoint", eye=[-14, -16, 3.0], target=[0, -15, 1.0])
        crowd = program.edit("add crowd", width="12m", depth="6m", y="DS 20", seating="rows")["select"][0]
        rev = program.document()["rev"]
        status, refused = program.post("/api/shows/SHOW/jobs", {"kind": "thin crowds", "args": {"all": "maybe"}})
        assert status == 400
        assert "cannot be used" in refused["error"]
        thin = {"kind": "thin crowds", "args": {}, "who": "me"}
        # Only looked at, nothing is stored.
        looked = over(program, {**thin, "preview": True})
        assert looked["name"] == "Look at: Thin crowds"
        seen = program.get(f"/api/shows/SHOW/jobs/{looked['id']}")["result"]
        assert (seen["rev"], program.document()["rev"]) == (rev, rev)
        assert [row["id"] for row in seen["ghost"]["objects"] if row["body"]["left_out"]] == [crowd]
        started = over(program, thin)
        assert (started["state"], started["name"], started["who"]) == ("done", "Thin crowds", "me")
        # The edit is in the show already; who asked for it fetches what is to be said.
        document = program.document()
        assert document["rev"] == rev + 1
        left = next(row["body"]["left_out"] for row in document["objects"] if row["id"] == crowd)
        fetched = program.get(f"/api/shows/SHOW/jobs/{started['id']}")
        assert fetched["result"]["sentence"] == f"Leave {len(left)} of the crowds out"
        assert "people are enough from" in fetched["result"]["report"][0]
        assert program.get("/api/shows/SHOW/jobs") == []
        program.post("/api/shows/SHOW/undo", {"who": "me"})
        row = next(row for row in program.document()["objects"] if row["id"] == crowd)
        assert row["body"]["left_out"] == []
    finally:
        program.end()
