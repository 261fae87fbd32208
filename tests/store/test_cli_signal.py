"""`listen` and `doctor` without a browser, with a foreign sender on real sockets."""

from __future__ import annotations

import json
import socket
import threading

import pytest

from tests.links.test_artnet import dmx
from tests.links.test_receive import free_port
from tests.links.test_sacn import packet
from tests.processes import own_address
from zarfwright.cli.commands import main
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
        self._thread.join(5)


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
