"""Recordings over HTTP: made, fetched, brought along, and sent again into the picture."""

import io

import pytest

from tests.api.test_api import form
from tests.links.test_capture import some
from tests.processes import Program, sender, stop, wait_for
from zarfwright.links.pcap import read_capture, sources_of, write_capture

CAPTURE = "/api/shows/SHOW/capture"


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("captures") / "demo.zarf")
    yield made
    assert made.end() == 0
    assert "Traceback" not in made.output()


def idle(program):
    return wait_for(lambda: (r := program.get(CAPTURE))["state"] == "idle" and r, "it to be done")


def kept(program):
    report = idle(program)
    if report["recording"] is None:
        assert "Nothing came" in report["problem"]
        program.post(CAPTURE, {"do": "record", "seconds": 0.5})
    return report["recording"] and report


def test_what_comes_in_is_kept_fetched_and_sent_again(program):
    desk = sender(program, universe=1, name="Quay")
    desk[1].dmx_data = (200,) * 512
    try:
        wait_for(lambda: program.signal().get("universes"), "the source")
        assert program.post(CAPTURE, {"do": "record", "seconds": 120})[1]["state"] == "recording"
        assert program.post(CAPTURE, {"do": "record"})[0] == 400
        wait_for(lambda: program.get(CAPTURE)["packets"] > 3, "it to tell what it holds by now")
        # Whoever has seen enough keeps what there is; nothing, where that was too soon.
        program.post(CAPTURE, {"do": "keep"})
        report = wait_for(lambda: kept(program), "something to be kept")
        assert report["problem"] == ""
        assert not report["recording"]["full"]
        assert [one["name"] for one in report["recording"]["sources"]] == ["Quay"]
        captured = read_capture(program.raw("/api/shows/SHOW/recordings"), "fetched.pcap")
        assert [one.universes for one in sources_of(captured)] == [(1,)]
        assert captured.datagrams[0].data[126:128] == b"\xc8\xc8"
    finally:
        stop(desk)


def test_a_file_that_was_brought_says_what_it_holds_and_drives_the_picture(program):
    file = io.BytesIO()
    write_capture(some(400), file)
    status, report = program.post("/api/shows/SHOW/recordings", *form(file.getvalue(), "from a colleague.pcap"))
    assert status == 200
    assert report["recording"]["name"] == "from a colleague.pcap"
    assert {one["protocol"] for one in report["recording"]["sources"]} == {"sACN", "Art-Net"}
    assert program.post(CAPTURE, {"do": "replay"})[1]["state"] == "replaying"
    wait_for(
        lambda: any(one["universe"] == 3 and one["sources"] for one in program.signal()["universes"]), "universe 3"
    )
    wait_for(lambda: program.get(CAPTURE)["packets"] > 10, "it to tell how far it is")
    program.post(CAPTURE, {"do": "stop"})
    assert idle(program)["recording"]["packets"] == 401


def test_what_is_no_recording_is_refused_and_the_one_there_is_stays(program):
    status, wrong = program.post("/api/shows/SHOW/recordings", *form(b"no pcap", "list.txt"))
    assert status == 400
    assert "list.txt is no recording" in wrong["error"]
    assert program.get(CAPTURE)["recording"]["name"] == "from a colleague.pcap"
    # Nor is it lost to a recording of nothing.
    wait_for(lambda: not any(one["sources"] for one in program.signal()["universes"]), "everybody to be silent")
    program.post(CAPTURE, {"do": "record", "seconds": 0.5})
    assert "Nothing came" in idle(program)["problem"]
    assert program.get(CAPTURE)["recording"]["name"] == "from a colleague.pcap"
    assert len(read_capture(program.raw("/api/shows/SHOW/recordings"), "kept.pcap").datagrams) == 401


def test_a_slot_is_told_in_words_at_the_levels_that_are_there(program):
    (one,) = program.get("/api/shows/SHOW/slots/1/1")
    assert (one["number"], one["channel"], one["byte"]) == ("61", "pan", "coarse")
    assert program.get("/api/shows/SHOW/slots/900/1") == []
