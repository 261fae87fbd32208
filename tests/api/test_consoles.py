"""Consoles beside the running program: simulated ones as programs of their own, and stations and OSC ends by hand."""

import json
import socket
import time
import urllib.request
from functools import partial

import pytest
from pythonosc.udp_client import SimpleUDPClient

from tests.links.test_xchange import RIG, listening, plain_station, said
from tests.processes import Program, wait_for


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("consoles") / "show.zarf")
    yield made
    assert made.end() == 0, made.output()
    assert "Traceback" not in made.output(), made.output()


@pytest.fixture
def console(program):
    made = Simulated(program)
    yield made
    made.press(do="end")


class Simulated:
    """A simulated console that is started empty, and linked."""

    def __init__(self, program, **how):
        self.program = program
        status, started = program.post("/api/shows/SHOW/simulated", {"patch": False, **how})
        assert status == 200, started
        self.key = started["key"]
        wait_for(lambda: self.link()["linked"] and self.state, "it to be linked, and its screen")

    def link(self):
        return next(one for one in self.program.get("/api/shows/SHOW/consoles")["consoles"] if one["key"] == self.key)

    @property
    def state(self):
        report = self.program.get("/api/shows/SHOW/simulated")
        return next(one for one in report["consoles"] if one["key"] == self.key)["state"]

    def press(self, **command):
        status, answer = self.program.post(f"/api/shows/SHOW/simulated/{self.key}", command)
        assert status == 200, answer

    def ask(self, what, **body):
        return self.program.post(f"/api/shows/SHOW/consoles/{self.key}/{what}", body)

    def offered(self, way="add", **wish):
        status, answer = self.ask("offer", **wish)
        assert status == 200, answer
        status, answer = self.ask("take", way=way)
        assert status == 200, answer
        return answer


# Of the demo's first part one number is used twice, and one fixture has no address.
ALL, FIT = 29, 27


def fixtures(program):
    return {row["body"]["number"]: row for row in program.document()["objects"] if row["kind"] == "fixture"}


def test_a_rig_is_offered_asked_taken_and_compared(program, console):
    status, offer = console.ask("offer", comment="Before load-in")
    assert status == 200, offer
    assert (offer["fixtures"], offer["there"], offer["result"]) == (ALL, 0, None)
    assert {way: one["taken"] for way, one in offer["ways"].items()} == {"add": FIT, "replace": FIT, "clear": FIT}
    # It was only asked: nothing is taken before somebody says so.
    assert console.state["fixtures"] == 0
    _, offer = console.ask("take", way="add")
    assert offer["result"]["counts"] == {"taken": FIT, "number in use": 1, "refused": 1}
    refused = [line["reason"] for line in offer["result"]["lines"] if line["answer"] != "taken"]
    assert refused == ["Number 83 is a Dunlin here.", "It has no address."]
    assert offer["result"]["missing"] == []
    wait_for(lambda: console.state["fixtures"] == FIT, "the console's patch")
    assert console.state["universes"] == [1, 2, 3]
    wait_for(lambda: console.link()["rigs"], "the console's own rig")
    status, found = console.ask("compare")
    assert (status, found["same"]) == (200, FIT)
    assert {line["kind"] for line in found["lines"]} == {"missing"}


def test_a_console_with_another_patch_is_explained_by_cause_and_either_side_is_taken(program, console):
    console.offered()
    console.press(do="fault", name="Heron", mode="Extended")
    console.press(do="show rig", name="In the other mode")
    wait_for(lambda: console.link()["rigs"][-1]["comment"] == "In the other mode", "the rig with the other mode")
    _, found = console.ask("compare")
    cause = next(one for one in found["causes"] if one["cause"] == "other_mode")
    assert "Extended (33 slots) in the list, Standard (16) here" in cause["text"]
    # Theirs: the show's fixtures become so, and compared again nothing differs.
    differs = [line for line in found["lines"] if line["kind"] != "missing"]
    takes = [line["take"] for line in differs]
    program.edit("take patch", lines=takes)
    status, again = program.post(f"/api/shows/SHOW/patch/compare/{found['scene']}", {})
    assert status == 200
    assert {line["kind"] for line in again["lines"]} == {"missing"}
    program.post("/api/shows/SHOW/undo", {"who": "tester"})
    # Ours: what differs is given again, in place of what has these numbers.
    herons = [line["fixture"] for line in differs]
    result = console.offered("replace", ids=herons)["result"]
    # In the longer mode some reach into the next one: those stay as the console had them, and it says so.
    reasons = {line["answer"]: line["reason"] for line in result["lines"]}
    assert reasons.keys() == {"other mode", "refused"}
    assert "not in Standard" in reasons["other mode"]
    assert "would share slots with fixture" in reasons["refused"]
    assert result["replaced"] == sum(line["answer"] == "other mode" for line in result["lines"])


def test_a_console_that_has_a_patch_says_what_adding_replacing_and_clearing_would_do(program, console):
    some = [row["id"] for number, row in sorted(fixtures(program).items())[:5]]
    console.offered(ids=some)
    status, offer = console.ask("offer")
    assert status == 200
    ways = {way: (one["taken"], one["gone"], one["replaced"]) for way, one in offer["ways"].items()}
    assert ways == {"add": (FIT - 5, 0, 0), "replace": (FIT, 0, 5), "clear": (FIT, 5, 0)}
    in_use = [line for line in offer["ways"]["add"]["lines"] if line["answer"] == "number in use"]
    assert {line["id"] for line in in_use} > set(some)
    assert "This very fixture is in the patch already." in {line["reason"] for line in in_use}
    _, offer = console.ask("take", way="clear")
    assert offer["result"]["gone"] == 5


def test_a_person_at_the_console_may_say_no_and_then_yes(program, console):
    console.press(do="manners", asks=True)
    wait_for(lambda: console.link()["linked"] and console.state["station"]["asks"], "it to have joined anew")
    for yes in (False, True):
        answer = console.offered()
        assert "has to say yes" in answer["said"]
        assert answer["result"] is None
        asked = lambda: [one for one in console.state["station"]["offers"] if one["way"]]  # noqa: E731
        offer = wait_for(asked, "the question on its screen")[0]
        assert (offer["way"], offer["by"]) == ("add", "Zarfwright")
        console.press(do="answer", key=offer["key"], yes=yes)
        said = wait_for(partial(heard_since, program, console, answer["said"]), "what the person said")
        assert (said["result"] is not None) is yes
        assert said["said"] == ("" if yes else "The person at the console said no.")


def heard_since(program, console, before):
    """The offer, once something else is said of it."""
    now = program.get(f"/api/shows/SHOW/consoles/{console.key}/offer")
    return now if now["said"] != before else None


def test_what_does_not_fit_is_named_before_anything_is_sent(program):
    newer = Simulated(program, version="2.0", name="Newer desk")
    try:
        misfits = newer.link()["misfits"]
        assert misfits[0]["what"].startswith("Newer desk speaks MVR 2.0, this program 1.6")
        assert "offer" in misfits[0]["stops"]
        status, refused = newer.ask("offer")
        assert status == 400
        assert "no rig can be given" in refused["error"]
        assert newer.state["station"]["offers"] == []
        newer.press(do="manners", version="1.5", features=["values"])
        wait_for(lambda: newer.link()["linked"] and newer.link()["version"] == "1.5", "it to have joined anew")
        assert [one["stops"] for one in newer.link()["misfits"]] == [[], ["answers"], ["selection"], ["palettes"]]
        status, offer = newer.ask("offer")
        assert (status, offer["ways"]) == (200, {})
        assert newer.ask("take", way="add")[0] == 400
    finally:
        newer.press(do="end")


def test_a_console_that_dies_is_missed_and_found_again(program, console):
    console.offered()
    console.press(do="make cues")
    console.press(do="next")

    def heard():
        return [
            one for u in program.signal()["universes"] for one in u["sources"] if one["name"] == console.state["name"]
        ]

    wait_for(heard, "its levels")
    console.press(do="fault", dead=True)
    wait_for(lambda: not console.link()["linked"], "the link to be gone")
    assert console.link()["said"]
    wait_for(lambda: not heard(), "its levels to stop")
    console.press(do="fault", dead=False)
    wait_for(lambda: console.link()["linked"] and heard(), "it to be back")


def test_universes_go_out_by_the_protocol_that_is_asked_for(program):
    ways = [
        program.edit("add connection", protocol=protocol, address=program.sacn_address)["select"][0]
        for protocol in ("sACN", "Art-Net")
    ]
    console = Simulated(program, sacn="1-2", artnet="3", priority=120, name="Split desk")
    try:
        console.offered()
        console.press(do="level", number=61, level=1.0)

        def heard():
            return {
                (one["protocol"], one["heard_as"], one["priority"])
                for u in program.signal()["universes"]
                for one in u["sources"]
            }

        wait_for(lambda: heard() == {("sACN", 1, 120), ("sACN", 2, 120), ("Art-Net", 2, 100)}, "both protocols")
        assert "“x” is no universe" in wait_for(
            lambda: console.press(do="send", sacn="x") or problem(program, console.key), "its complaint"
        )
    finally:
        console.press(do="end")
        program.edit("remove", ids=ways)


def problem(program, key):
    report = program.get("/api/shows/SHOW/simulated")
    return next(one for one in report["consoles"] if one["key"] == key)["problem"]


def test_values_are_handed_over_kept_as_a_cue_and_come_back_as_palettes_and_selection(program, console):
    console.offered()
    heron = fixtures(program)[61]["id"]
    program.edit("aim at", ids=[heron], point=[0, 0, 0])
    time.sleep(0.3)
    assert console.state["editor"] == []
    status, _ = console.ask("beside", hand_over=True)
    assert status == 200
    editor = wait_for(lambda: {one["function"]: one["value"] for one in console.state["editor"]}, "the aim over there")
    program.edit("set colour", ids=[heron], x=0.4, y=0.35)
    wait_for(lambda: len(console.state["editor"]) > 2, "the colour over there")
    assert {one["number"] for one in console.state["editor"]} == {61}
    assert set(editor) == {"Pan", "Tilt"}
    for kind, name in (("position", "Centre"), ("colour", "Dusk")):
        console.press(do="keep palette", kind=kind, name=name)
    console.press(do="keep cue", number=1, name="Handed over", fade_s=0)
    console.press(do="clear")
    console.press(do="next", number=1)
    console.press(do="select", numbers=[61, 62])
    told = [{"number": 1, "sort": "position", "name": "Centre"}, {"number": 2, "sort": "colour", "name": "Dusk"}]
    wait_for(lambda: console.link()["palettes"] == told and console.link()["selected"] == 2, "palettes and selection")
    time.sleep(0.3)
    status, taken = console.ask("palettes", who="tester")
    assert status == 200, taken
    bodies = {c["after"]["body"]["name"]: c["after"]["body"] for c in taken["update"]["changes"]}
    assert bodies["Dusk"]["xy"] == pytest.approx([0.4, 0.35], abs=0.005)
    assert bodies["Centre"]["angles"][heron] == pytest.approx(
        [editor["Pan"] * 0.0174533, editor["Tilt"] * 0.0174533], abs=0.001
    )
    # Nothing new: it is said, and nothing is changed.
    assert console.ask("palettes", who="tester")[0] == 400
    for _ in range(3):
        program.post("/api/shows/SHOW/undo", {"who": "tester"})


def test_what_is_dragged_goes_over_at_most_fifty_times_a_second_and_the_last_always(program):
    receiver = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    receiver.bind(("127.0.0.1", 0))
    receiver.settimeout(1.5)
    port = receiver.getsockname()[1]
    key = program.edit("link console", name="By hand", values_port=str(port))["select"][0]
    try:
        program.edit("set console", id=key, hand_over=True)
        heron = fixtures(program)[61]["id"]
        began = time.monotonic()
        for n in range(60):
            held = {"kind": "hold values", "args": {"ids": [heron], "values": {"dimmer": n / 59}}, "who": "tester"}
            program.post("/api/shows/SHOW/edits", {**held, "preview": True, "live": True})
        program.post("/api/shows/SHOW/edits", held)
        took = time.monotonic() - began
        came = []
        try:
            while True:
                data = receiver.recv(65536)
                if b"/fixture/61/Dimmer" in data:
                    came.append(data)
        except TimeoutError:
            pass
        assert 1 <= len(came) <= 50 * (took + 2)
        from pythonosc.osc_packet import OscPacket

        assert OscPacket(came[-1]).messages[-1].message.params == [1.0, "share"]
        program.post("/api/shows/SHOW/undo", {"who": "tester"})
    finally:
        program.edit("remove", ids=[key])
        receiver.close()


def test_a_console_that_is_only_heard_of_by_osc_says_what_it_has_selected(program):
    console = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    console.bind(("127.0.0.1", 0))
    console.settimeout(20)
    key = program.edit("link console", name="Side desk", values_port=str(console.getsockname()[1]))["select"][0]
    try:
        from pythonosc.osc_message import OscMessage

        greeting = OscMessage(console.recv(2000))
        assert (greeting.address, greeting.params[0]) == ("/hello", "Zarfwright")
        client = SimpleUDPClient("127.0.0.1", greeting.params[1])
        client._sock.close()
        client._sock = console
        client.send_message("/selection", [61, 999])

        def link():
            return next(one for one in program.get("/api/shows/SHOW/consoles")["consoles"] if one["key"] == key)

        wait_for(lambda: link()["selected"] == 2, "what it has selected")
        assert link()["said"].startswith("Values only: to give it the rig, type the port")
    finally:
        program.edit("remove", ids=[key])
        console.close()


def test_a_station_that_knows_the_standard_only_is_told_and_asked_for_its_rig(program):
    port, heard = listening(plain_station)
    key = program.edit("link console", name="Plain desk", port=str(port))["select"][0]
    try:

        def link():
            return next(one for one in program.get("/api/shows/SHOW/consoles")["consoles"] if one["key"] == key)

        wait_for(lambda: link()["linked"], "it to be joined")
        assert link()["misfits"][0]["stops"] == ["answers"]
        status, offer = program.post(f"/api/shows/SHOW/consoles/{key}/offer", {"comment": "Hello"})
        assert (status, offer["ways"]) == (200, {})
        commit = next(message for message in heard if message["Type"] == "MVR_COMMIT")
        assert (commit["Comment"], commit["FileSize"]) == ("Hello", offer["bytes"])
        status, refused = program.post(f"/api/shows/SHOW/consoles/{key}/take", {"way": "add"})
        assert status == 400
        # Its rig is rubbish: it is said, and nothing else happens.
        status, refused = program.post(f"/api/shows/SHOW/consoles/{key}/compare", {})
        assert status == 400, refused
        assert "Plain desk" in refused["error"]
        assert RIG.startswith(b"PK")
    finally:
        program.edit("remove", ids=[key])


def test_an_answer_that_is_rubbish_leaves_every_line_open(program):
    def odd(message):
        if message["Type"] == "ZARF_LOOK":
            return said(Type="ZARF_LOOK_RET", OK=True, Fixtures="lots", Ways={"add": {"Lines": 7}, "clear": "no"})
        return plain_station(message, Features={"answers": 1})

    port, _ = listening(odd)
    key = program.edit("link console", name="Odd desk", port=str(port))["select"][0]
    try:
        wait_for(
            lambda: any(c["key"] == key and c["linked"] for c in program.get("/api/shows/SHOW/consoles")["consoles"]),
            "it to be joined",
        )
        status, offer = program.post(f"/api/shows/SHOW/consoles/{key}/offer", {})
        assert status == 200, offer
        assert {way: one["counts"] for way, one in offer["ways"].items()} == {"add": {"no answer": ALL}}
    finally:
        program.edit("remove", ids=[key])


def test_a_rig_as_a_file_serves_a_console_without_the_link(program):
    with urllib.request.urlopen(f"{program.url}/api/shows/{program.show}/scene.mvr") as answer:
        data = answer.read()
    head = b'--edge\r\nContent-Disposition: form-data; name="file"; filename="desk.mvr"\r\n\r\n'
    body = head + data + b"\r\n--edge--\r\n"
    kind = {"Content-Type": "multipart/form-data; boundary=edge"}
    status, found = program.post("/api/shows/SHOW/patch/compare", body, kind)
    assert (status, found["same"], found["lines"]) == (200, ALL, [])


def test_the_line_is_checked_by_sending_and_those_made_silent_are_found(program, console):
    console.offered()
    console.press(do="fault", silent=[61])
    ids = [fixtures(program)[number]["id"] for number in (61, 62)]
    assert program.post("/api/shows/SHOW/check", {"do": "answered"})[0] == 400
    start = {"do": "start", "ids": ids, "way": "send", "console": console.key, "who": "tester"}
    status, report = program.post("/api/shows/SHOW/check", start)
    assert (status, report["going"], report["expects"]) == (200, True, "Fixture 61: take it dark, then to full.")
    assert program.post("/api/shows/SHOW/check", start)[0] == 400
    report = wait_for(lambda: not (r := program.get("/api/shows/SHOW/check"))["going"] and r, "the check to end")
    assert [(one["number"], one["function"], one["state"]) for one in report["steps"]] == [
        (61, "intensity", "silent"), (61, "colour", "silent"), (61, "position", "silent"),
        (62, "intensity", "answered"), (62, "colour", "answered"), (62, "position", "answered"),
    ]  # fmt: skip
    assert "have not moved" in report["steps"][0]["cause"]
    found = [one for one in program.document()["findings"] if "line check" in one["text"]]
    assert [(one["step"], one["where"]) for one in found] == [("signal", [ids[0]])]
    with urllib.request.urlopen(f"{program.url}/api/shows/{program.show}/check.html") as answer:
        page = answer.read().decode()
    assert "3 answered, 3 did not, 0 not tried." in page
    # It is mended, and checked again: by hand this time, with a person's word for what cannot be seen.
    console.press(do="fault", silent=[])
    program.post("/api/shows/SHOW/check", {"do": "start", "ids": ids[:1], "way": "hand", "who": "tester"})
    for _ in range(3):
        status, report = program.post("/api/shows/SHOW/check", {"do": "answered"})
        assert status == 200
    wait_for(lambda: not program.get("/api/shows/SHOW/check")["going"], "the check to end")
    assert not [one for one in program.document()["findings"] if "line check" in one["text"]]


def test_a_check_that_is_broken_off_holds_nothing_against_who_was_just_asked(program, console):
    console.offered()
    console.press(do="fault", silent=[61])
    heron = fixtures(program)[61]["id"]
    start = {"do": "start", "ids": [heron], "way": "send", "console": console.key, "who": "tester"}
    assert program.post("/api/shows/SHOW/check", start)[0] == 200
    program.post("/api/shows/SHOW/check", {"do": "end"})
    report = wait_for(lambda: not (r := program.get("/api/shows/SHOW/check"))["going"] and r, "the check to end")
    assert {one["state"] for one in report["steps"]} == {"waits"}
    assert not [one for one in program.document()["findings"] if "line check" in one["text"]]


def test_room_is_left_for_a_console_on_this_machine_by_one_switch(program):
    assert wait_for(lambda: program.signal().get("pace"), "how fast it goes")["spare"] is False
    program.edit("set show", spare_console=True)
    pace = wait_for(lambda: (p := program.signal()["pace"])["spare"] and p, "room to be left")
    assert pace["apart_ms"] >= 34
    program.edit("set show", spare_console=False)
    wait_for(lambda: not program.signal()["pace"]["spare"], "it to be over")


def test_nothing_but_the_loopback_listens_before_it_is_asked_for(program):
    """Every socket of the desk's and its children's is bound to a loopback address."""
    import psutil

    of = psutil.Process(program.process.pid)
    bound = {
        one.laddr.ip
        for process in (of, *of.children(recursive=True))
        for one in process.net_connections("inet")
        if one.laddr and not one.raddr and (one.status == "LISTEN" or one.type == socket.SOCK_DGRAM)
    }
    # Art-Net and sACN are heard on the address that the test gave; senders are bound nowhere before they send.
    assert all(ip.startswith("127.") or ip == "0.0.0.0" for ip in bound), json.dumps(sorted(bound))
    report = program.get("/api/shows/SHOW/consoles")
    assert report["looking_on"] == ""
    families = [one for name, several in psutil.net_if_addrs().items() if name != "lo" for one in several]
    for own in (one.address for one in families if one.family == socket.AF_INET):
        with pytest.raises(OSError, match=r"refused|unreachable"):
            socket.create_connection((own, report["port"]), 3)
