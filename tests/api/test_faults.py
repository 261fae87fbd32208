"""The desk beside a live process that does not do as it should: nobody waits for it, and the picture comes back."""

import os
import signal
import subprocess
import sys
import time

import pytest

from tests.processes import PATIENCE_S, Program, wait_for
from zarfwright.core.errors import JobError
from zarfwright.web.children.live import ANSWER_S, LiveLink


@pytest.fixture
def program(tmp_path):
    made = Program(tmp_path / "demo.zarf")
    yield made
    if made.process.poll() is None:
        made.end()


def test_a_live_process_that_hangs_is_started_again_and_edits_go_on(program):
    before = program.live_pid()
    os.kill(before, signal.SIGSTOP)
    took = []

    def edited_until_it_is_gone():
        began = time.monotonic()
        program.edit("add deck", name="Raft")
        took.append(time.monotonic() - began)
        return program.live_pid() != before

    wait_for(edited_until_it_is_gone, "the one that hangs to be ended")
    # Not one of them would be quick if edits waited for it: for an answer they would wait for two seconds.
    assert min(took) < ANSWER_S
    wait_for(lambda: program.live_pid() not in (0, before), "a new live process")
    wait_for(lambda: program.signal().get("listening"), "it to speak")
    # It plays the show as it is now: what heads show can be asked again.
    lamp = next(row["id"] for row in program.document()["objects"] if row["kind"] == "fixture")
    assert program.edit("aim at", ids=[lamp], point=[0, 3, 1])["sentence"].startswith("Aim")


def test_the_desk_ends_although_its_live_process_hangs(program):
    live = program.live_pid()
    os.kill(live, signal.SIGSTOP)
    assert program.end() == 0
    assert not os.path.exists(f"/proc/{live}")


def test_what_the_live_process_could_not_do_is_told_to_every_browser(monkeypatch):
    link = LiveLink("127.0.0.1", [], "127.0.0.1", ["--sacn-port", "0"])
    told = []
    try:
        assert link.wait_ready(PATIENCE_S)
        starts = link.starts
        monkeypatch.setattr(link, "tell_event", lambda event, **content: told.append((event, content["text"])))
        link.set_patch(1, {}, [["a", "nowhere", "Mode", 1, 1, [], None, None, None, False]])
        wait_for(lambda: told, "the trouble")
        link.set_patch(1, {}, [["a", "nowhere", "Mode", 1, 1, [], None, None, None, False]])
        # And it goes on; the same thing is not told again at once.
        assert link.values() == {}
    finally:
        link.close()
    assert [event for event, _ in told] == ["trouble"]
    assert "nowhere" in told[0][1]
    assert link.starts == starts
    with pytest.raises(JobError):
        link.values()


def test_one_that_was_long_in_starting_or_has_little_of_the_machine_is_not_taken_for_hung():
    busy = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(6)]
    link = LiveLink("127.0.0.1", [], "127.0.0.1", ["--sacn-port", "0"])
    try:
        assert link.wait_ready(PATIENCE_S)
        beats = []
        hear = link._child._hear
        link._child._hear = lambda message: (beats.append(message["is"]), hear(message))
        wait_for(lambda: beats.count("beat") > 12, "a dozen beats")
    finally:
        for one in busy:
            one.kill()
        link.close()
    assert link.starts == 1
