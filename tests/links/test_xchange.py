"""MVR-xchange over the loopback: this program as a station beside a hand-made one, and beside the simulated console."""

import json
import socket
import struct
import threading
import time
import uuid

import pytest

from tests.processes import wait_for
from zarfwright.core.linking.handshake import misfits
from zarfwright.links.xchange.messages import read_commits, read_met
from zarfwright.links.xchange.station import Station
from zarfwright.links.xchange.wire import FILE_MOST, MESSAGE_MOST, LinkError

HEAD = struct.Struct(">IIIIIQ")
RIG = b"PK" + bytes(range(256)) * 40


def packet(
    payload: bytes, kind: int = 0, number: int = 0, count: int = 1, flag: int = 778682, version: int = 1
) -> bytes:
    return HEAD.pack(flag, version, number, count, kind, len(payload)) + payload


def said(**message) -> bytes:
    return packet(json.dumps(message).encode())


class Foreign:
    """Another program's station, by hand: one connection, packet by packet."""

    def __init__(self, connection: socket.socket) -> None:
        self.connection = connection
        self.connection.settimeout(20)
        self.key = str(uuid.uuid4())

    def say(self, **message) -> None:
        self.connection.sendall(said(**message))

    def hear(self):
        """The next message, or file."""
        head = self.connection.recv(HEAD.size, socket.MSG_WAITALL)
        if not head:
            return None
        *_, kind, size = HEAD.unpack(head)
        data = self.connection.recv(size, socket.MSG_WAITALL)
        return data if kind == 1 else json.loads(data)

    def join(self, **more):
        self.say(Type="MVR_JOIN", Provider="By hand", StationName="Foreign", StationUUID=self.key, verMajor=1,
                 verMinor=5, **more)  # fmt: skip
        return self.hear()


@pytest.fixture
def station():
    made = Station("Zarfwright", lambda: None, lambda peer, message: None)
    assert made.listen(["127.0.0.1"]) == {}
    yield made
    made.close()


@pytest.fixture
def foreign(station):
    return Foreign(socket.create_connection(("127.0.0.1", station.port)))


def listening(answer):
    """A station that others join: it says to each message what `answer` gives. Gives its port, and what it heard."""
    server = socket.create_server(("127.0.0.1", 0))
    heard = []

    def serve():
        connection, _ = server.accept()
        other = Foreign(connection)
        while (message := other.hear()) is not None:
            heard.append(message)
            connection.sendall(answer(message))

    threading.Thread(target=serve, daemon=True).start()
    return server.getsockname()[1], heard


def plain_station(message, **more):
    """What a station says that knows the standard only."""
    kind = message["Type"]
    if kind == "MVR_REQUEST":
        half = len(RIG) // 2
        # Two packets, numbered from 0.
        return packet(RIG[:half], 1, 0, 2) + packet(RIG[half:], 1, 1, 2)
    found = {"Type": f"{kind}_RET", "OK": True, "Message": ""}
    if kind == "MVR_JOIN":
        found |= {"Provider": "By hand", "StationName": "Foreign", "StationUUID": str(uuid.uuid4()), "verMajor": 1,
                  "verMinor": 6, "Files": [{"FileUUID": str(uuid.uuid4()), "Comment": "First"}], **more}  # fmt: skip
    return said(**found)


def test_a_station_that_joins_is_told_who_this_is_and_given_the_rig_that_it_asks_for(station, foreign):
    file = station.keep("Show.mvr", "Before load-in", RIG)
    answer = foreign.join()
    assert (answer["Type"], answer["OK"], answer["Provider"]) == ("MVR_JOIN_RET", True, "Zarfwright")
    assert (answer["verMajor"], answer["verMinor"], answer["StationUUID"]) == (1, 6, station.key)
    commit = answer["Commits"][0]
    assert (commit["FileUUID"], commit["FileSize"], commit["Comment"]) == (file.key, len(RIG), "Before load-in")
    foreign.say(Type="MVR_REQUEST", FileUUID=file.key, FromStationUUID=[station.key])
    assert foreign.hear() == RIG
    # Nothing named: the latest. Both forms of who is asked are read.
    foreign.say(Type="MVR_REQUEST", FileUUID="", FromStationUUID=station.key)
    assert foreign.hear() == RIG
    foreign.say(Type="MVR_REQUEST", FileUUID=str(uuid.uuid4()), FromStationUUID=[])
    assert foreign.hear() == {"Type": "MVR_REQUEST_RET", "OK": False, "Message": "There is no such rig here."}
    (peer,) = station.peers.values()
    assert peer.asked == {file.key}


def test_what_a_station_commits_is_noted_and_nothing_is_taken(station, foreign):
    foreign.join()
    key = str(uuid.uuid4())
    foreign.say(Type="MVR_COMMIT", FileUUID=key, Comment="New\x07 hang\n", FileSize=12, FileName="a.mvr")
    assert foreign.hear()["OK"] is True
    (peer,) = station.peers.values()
    assert [(one.key, one.comment, one.size) for one in peer.commits] == [(key, "New hang", 12)]
    foreign.say(Type="MVR_COMMIT", FileUUID="no uuid")
    assert foreign.hear()["OK"] is False
    foreign.say(Type="MVR_NEW_SESSION_HOST", ServiceName="x", ServiceURL="http://x")
    assert "does not know MVR_NEW_SESSION_HOST" in foreign.hear()["Message"]
    foreign.say(Type="MVR_LEAVE", FromStationUUID=foreign.key)
    wait_for(lambda: not station.peers, "it to have left")


def test_nobody_is_given_anything_before_joining(station, foreign):
    station.keep("Show.mvr", "", RIG)
    foreign.say(Type="MVR_REQUEST", FileUUID="")
    assert foreign.hear() == {"Type": "MVR_REQUEST_RET", "OK": False, "Message": "Join first."}
    foreign.say(Type="MVR_JOIN", StationName="Nobody")
    assert "no StationUUID" in foreign.hear()["Message"]


def test_a_rig_is_told_to_and_fetched_from_a_station_that_knows_the_standard_only(station):
    port, heard = listening(plain_station)
    peer = station.join("127.0.0.1", port)
    assert (peer.met.name, peer.met.provider, peer.commits[0].comment) == ("Foreign", "By hand", "First")
    assert station.fetch(peer, peer.commits[0].key) == RIG
    file = station.keep("Show.mvr", "Changed", RIG)
    station.tell(peer, file)
    assert [message["Type"] for message in heard] == ["MVR_JOIN", "MVR_REQUEST", "MVR_COMMIT"]
    assert heard[1]["FromStationUUID"] == [peer.met.key] == heard[2]["ForStationsUUID"]
    assert "answer line by line" in misfits(peer.met)[0].what


def test_what_a_station_refuses_is_said_with_its_words(station):
    port, _ = listening(lambda message: said(Type=f"{message['Type']}_RET", OK=False, Message="Not in this session."))
    with pytest.raises(LinkError, match=r"refused to be joined: Not in this session\."):
        station.join("127.0.0.1", port)
    assert not station.peers


def test_nobody_there_is_said_with_what_to_look_at(station):
    port, _ = listening(plain_station)
    with pytest.raises(LinkError, match=r"Nothing answers at 127\.0\.0\.1:1 .*is the port right"):
        station.join("127.0.0.1", 1)
    assert port


HOSTILE = {
    "another protocol": b"GET / HTTP/1.1\r\nHost: a\r\n\r\n" + b"x" * 40,
    "another flag": packet(b"{}", flag=1),
    "another version": packet(b"{}", version=9),
    "an unknown kind": packet(b"{}", kind=7),
    "no JSON": packet(b"\xff\xfe{"),
    "JSON that is no message": packet(b"[1, 2]"),
    "a huge message": HEAD.pack(778682, 1, 0, 1, 0, MESSAGE_MOST + 1),
    "a huge file": HEAD.pack(778682, 1, 0, 1, 1, FILE_MOST + 1),
    "endless packets": HEAD.pack(778682, 1, 0, 2**32 - 1, 0, 0),
    "too much at once": said(Type="MVR_COMMIT", FileUUID="x") * 2000,
}


@pytest.mark.parametrize("what", HOSTILE, ids=lambda what: what.replace(" ", "-"))
def test_hostile_bytes_end_that_connection_and_no_other(station, foreign, what):
    foreign.join()
    with socket.create_connection(("127.0.0.1", station.port)) as bad:
        bad.settimeout(20)
        try:
            bad.sendall(HOSTILE[what])
            while bad.recv(65536):
                pass
        except ConnectionError:
            # It was cut off while it was still sending.
            pass
    foreign.say(Type="MVR_REQUEST", FileUUID="")
    assert foreign.hear()["Message"] == "There is no such rig here."


def test_a_length_alone_reserves_nothing(station, foreign):
    import resource

    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    foreign.connection.sendall(HEAD.pack(778682, 1, 0, 1, 1, FILE_MOST) + b"x")
    time.sleep(0.2)
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 50_000


def test_names_of_others_are_plain_text_of_bounded_length():
    met = read_met({"StationUUID": "{" + str(uuid.UUID(int=7)) + "}", "StationName": "<b>\u202ea\x00" + "x" * 999,
                    "verMajor": "2", "verMinor": None, "Features": {"answers": "1", "other": -3}})  # fmt: skip
    assert met.name.startswith("<b>a")
    assert len(met.name) <= 60
    assert (met.version, met.features) == ((2, 0), {"answers": 1, "other": 0})
    assert read_commits({"Commits": "none"}) == read_commits({}) == ()


def test_when_listening_ends_the_port_is_free_again(station):
    port = station.port
    station.listen([])
    with pytest.raises(LinkError):
        Station("x", lambda: None, lambda peer, message: None).join("127.0.0.1", port)
    socket.create_server(("127.0.0.1", port)).close()


def test_stations_find_each_other_by_name_and_see_each_other_go():
    from zarfwright.links.xchange.finding import Finder
    from zarfwright.standins.console.found import announce

    name, key = f"Desk {uuid.uuid4().hex[:8]}", str(uuid.uuid4())
    finder = Finder("Zarfwright", str(uuid.uuid4()), ["127.0.0.1"], 4321, lambda: None)
    try:
        announced = announce(name, key, "127.0.0.1", 4242)
        found = wait_for(lambda: next((one for one in finder.found if one.key == key), None), "the console by its name")
        assert (found.name, found.host, found.port) == (name, "127.0.0.1", 4242)
        announced.close()
        wait_for(lambda: all(one.key != key for one in finder.found), "it to be gone")
    finally:
        finder.close()
