"""`listen` and `doctor` without a browser, with a foreign sender on real sockets."""

from __future__ import annotations

import json
import socket
import threading
from argparse import Namespace

import pytest

from tests.links.test_artnet import dmx
from tests.links.test_receive import free_port
from tests.links.test_sacn import packet
from tests.processes import PATIENCE_S, own_address, wait_for
from zarfwright.cli.commands import main
from zarfwright.cli.signal import all_of, ears, hearing_of
from zarfwright.demo.build import build_first_part


@pytest.fixture(scope="module")
def show_file(tmp_path_factory):
    path = tmp_path_factory.mktemp("signal") / "part.zarf"
    build_first_part(path)
    return path


class Sender:
    """Sends packets forty times a second until it is closed. Each is made anew, with the next sequence."""

    def __init__(self, *made):
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, args=(made,))
        self._thread.start()

    def _run(self, made):
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as udp:
            sequence = 0
            while not self._stop.wait(1 / 40):
                sequence = sequence % 255 + 1
                for make, to in made:
                    udp.sendto(bytes(make(sequence)), to)

    def __enter__(self):
        return self

    def __exit__(self, *_):
        self._stop.set()
        self._thread.join(PATIENCE_S)


def told(capsys, *words):
    status = main([*map(str, words), "--json"])
    return status, json.loads(capsys.readouterr().out)


def place():
    address, port = own_address(), free_port()
    return f"{address}:{port}", (address, port)


def test_listen_names_who_sends_what_by_both_protocols(capsys):
    (sacn, by_sacn), (artnet, by_artnet) = place(), place()
    with Sender(
        (lambda n: packet(700, [9, 0, 9], "Quay", 120, n), by_sacn),
        (lambda n: packet(3, [1], "Blind", sequence=n, cid=b"b" * 16, preview=True), by_sacn),
        (lambda n: dmx(0, [1, 2], n), by_artnet),
        (lambda n: b"rubbish that is longer than a head of a packet", by_sacn),
    ):
        status, answer = told(capsys, "listen", "--seconds", 1.5, "--sacn", sacn, "--artnet", artnet)
    assert status == 0
    by_name = {(one["protocol"], one["universe"]): one for one in answer["universes"]}
    assert set(by_name) == {("sACN", 700), ("sACN", 3), ("Art-Net", 0)}
    assert by_name["sACN", 700]["lit_slots"] == 2
    [source] = by_name["sACN", 700]["sources"]
    assert (source["name"], source["priority"], source["preview"]) == ("Quay", 120, False)
    assert source["rate_hz"] > 5
    assert by_name["sACN", 3]["sources"][0]["preview"]
    assert answer["dropped"]["not sACN"] > 5


def test_listen_says_so_where_nothing_arrives(capsys):
    status, answer = told(capsys, "listen", "--seconds", 0.2, "--sacn", place()[0])
    assert (status, answer) == (1, {"universes": [], "dropped": {}})
    with pytest.raises(SystemExit):
        main(["listen", "--sacn", "here"])
    assert "is no address" in capsys.readouterr().err


def test_the_doctor_finds_nothing_arriving_and_says_what_to_do(show_file, capsys):
    status, answer = told(capsys, "doctor", show_file, "--seconds", 0.3, "--sacn", place()[0])
    assert status == 1
    [cause] = answer["causes"]
    assert set(cause) == {"cause", "universe", "fixtures", "evidence", "action"}
    assert cause["cause"] == "no_packets"


def test_the_doctor_sees_a_fixture_kept_dark_and_a_preview_on_real_sockets(show_file, capsys):
    sacn, to = place()
    # Heron 61 at 1.001: dimmer on slot 5, shutter on slot 6 shut; its colours in, its iris open.
    lit = [0, 0, 0, 0, 255, 0, 0, 0, 0]
    with Sender(
        (lambda n: packet(1, lit, "Quay", sequence=n), to),
        (lambda n: packet(2, lit, "Blind", sequence=n, cid=b"b" * 16, preview=True), to),
    ):
        status, answer = told(capsys, "doctor", show_file, "--seconds", 3, "--sacn", sacn)
    assert status == 1
    found = {one["cause"]: one for one in answer["causes"]}
    assert set(found) == {"dark_shutter", "preview_only"}
    assert found["dark_shutter"]["fixtures"] == [61]
    assert found["preview_only"]["universe"] == 2


def test_the_doctor_of_a_show_that_is_not_there_fails_with_a_sentence(tmp_path, capsys):
    assert main(["doctor", str(tmp_path / "none.zarf"), "--seconds", "0.2"]) == 2
    assert capsys.readouterr().err.startswith("zarfwright: ")


def test_what_was_recorded_is_told_and_sent_again_and_heard_as_it_was(capsys, tmp_path):
    (asked, at), path = place(), tmp_path / "got.pcap"
    levels = [7, 0, 255]
    with Sender((lambda n: packet(universe=9, name="Quay", sequence=n, levels=levels), at)):
        assert told(capsys, "record", path, "--sacn", asked, "--seconds", 0.6)[0] == 0
    status, holds = told(capsys, "replay", path, "--look")
    assert (status, holds["sent"], holds["left_out"]) == (0, 0, {})
    (source,) = holds["sources"]
    assert (source["name"], source["protocol"], source["universes"]) == ("Quay", "sACN", [9])
    assert holds["packets"] == source["packets"] > 2
    again, _ = place()
    with hearing_of(all_of(arguments(again)), arguments(again), ()) as (engine, _):
        assert told(capsys, "replay", path, "--sacn", again, "--speed", 2)[1]["sent"] == holds["packets"]
        wait_for(lambda: engine.inputs.by_universe.get(9), "the source of the recording")
        (source,) = engine.inputs.sources(9)
        assert (source.name, list(source.levels[:3])) == ("Quay", levels)


def arguments(sacn):
    return Namespace(sacn=ears("sACN")(sacn), artnet=None)


def test_nothing_to_record_leaves_no_file_and_says_so(capsys, tmp_path):
    asked, _ = place()
    status, answer = told(capsys, "record", tmp_path / "none.pcap", "--sacn", asked, "--seconds", 0.1)
    assert (status, answer) == (1, {"packets": 0})
    assert not (tmp_path / "none.pcap").exists()
    assert main(["replay", str(tmp_path / "none.pcap")]) == 2
    assert "cannot be read" in capsys.readouterr().err


def test_a_slot_is_said_in_words(capsys, show_file):
    status, answer = told(capsys, "slot", show_file, "1.1", "--level", 255)
    (one,) = answer["means"]
    assert (status, answer["slot"], one["number"], one["channel"], one["byte"]) == (0, "1.001", "61", "pan", "coarse")
    assert one["words"] == ["pan 270°"]
    status, answer = told(capsys, "slot", show_file, "900.1")
    assert (status, answer["means"]) == (1, [])
    assert main(["slot", str(show_file), "1.600"]) == 2
    assert "Slot 600 does not exist" in capsys.readouterr().err
