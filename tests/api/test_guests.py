"""Guests look on and change nothing: they have a port and a key of their own, and none of the desk's routes."""

import http.client
import io
import json
import re
import socket
import urllib.parse

import pytest
from PIL import Image
from waitress import wasyncore

from tests.api.test_looks import look, picture, put
from tests.processes import Program, wait_for
from zarfwright.store.showfile import ShowFile
from zarfwright.web.app import openapi_document
from zarfwright.web.desk import Desk
from zarfwright.web.guests.serving import GuestPort
from zarfwright.web.guests.sharing import ASKED_MOST, GUESTS_MOST, WRONG_MOST, Sharing


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("guests") / "demo.zarf")
    yield made
    assert made.end() == 0
    assert "Traceback" not in made.output()


class Guest:
    """Somebody with a link, on a device of their own."""

    def __init__(self, link):
        parts = urllib.parse.urlsplit(link)
        self.host, self.port, self.join, self.cookie = parts.hostname, parts.port, parts.path, ""

    def ask(self, method, path, body=None, **headers):
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        given = {"Host": f"127.0.0.1:{self.port}", "Cookie": f"guest={self.cookie}", **headers}
        data = None if body is None else body if isinstance(body, bytes) else json.dumps(body).encode()
        if data is not None and not isinstance(body, bytes):
            given.setdefault("Content-Type", "application/json")
        line.request(method, path, data, given)
        answer = line.getresponse()
        told = answer.status, answer.read(), answer.headers
        line.close()
        return told

    def say(self, path, body, **headers):
        return self.ask("POST", path, body, **{"Origin": f"http://127.0.0.1:{self.port}", **headers})

    def come_in(self):
        status, _, headers = self.ask("GET", self.join)
        if status == 302:
            self.cookie = re.match(r"guest=([^;]+)", headers["Set-Cookie"])[1]
            assert "HttpOnly" in headers["Set-Cookie"]
            assert "SameSite=Strict" in headers["Set-Cookie"]
        return status

    def told(self):
        status, body, _ = self.ask("GET", "/told")
        assert status == 200, body
        return json.loads(body)


def share(program, on=True, notes=False):
    status, answer = program.post("/api/shows/SHOW/sharing", {"on": on, "who": "me", "notes": notes})
    assert status == 200, answer
    return answer


@pytest.fixture
def guest(program):
    made = Guest(share(program, notes=True)["links"][-1])
    assert made.come_in() == 302
    yield made
    share(program, on=False)


def everything(program):
    document = program.document()
    return document["rev"], document["objects"]


def test_nothing_is_open_before_it_is_shared_and_nothing_after(program):
    report = program.get("/api/shows/SHOW/sharing")
    assert (report["on"], report["links"], report["qr"]) == (False, [], "")
    first = Guest(share(program)["links"][-1])
    assert first.come_in() == 302
    second = Guest(share(program)["links"][-1])
    assert second.join != first.join
    assert len(second.join) > 35, "a key that cannot be guessed"
    # A new key, a new port: whoever came in before is out.
    assert second.come_in() == 302
    assert program.get("/api/shows/SHOW/sharing")["qr"].startswith("<svg")
    assert share(program, on=False)["on"] is False
    for port in (first.port, second.port):
        with socket.socket() as line:
            assert line.connect_ex(("127.0.0.1", port)) != 0


def test_a_guest_changes_nothing_by_any_route_of_the_desk(program, guest):
    before = everything(program)
    show = program.document()["id"]
    asked = 0
    for path, methods in openapi_document()["paths"].items():
        place = re.sub(r"\{show\}", show, path)
        place = re.sub(r"\{[a-z]+\}", "x", place)
        for method in methods:
            body = None if method == "get" else {"kind": "remove", "args": {"ids": []}, "who": "guest", "on": True}
            if asked % 30 == 0:
                # Anew: who asks very much has to wait, and that is not what is tried here.
                guest = Guest(share(program, notes=True)["links"][-1])
                assert guest.come_in() == 302
            status, _, _ = guest.ask(method.upper(), place, body, Origin=f"http://127.0.0.1:{guest.port}")
            assert status in (404, 405), f"{method} {path}: {status}"
            asked += 1
    assert asked > 100
    assert everything(program) == before
    # Nor does the guests' key open the desk's own door to another host's page.
    status, _ = program.post("/api/shows/SHOW/edits", {"kind": "set show", "args": {"haze_per_m": 0.5}, "who": "g"},
                             {"Origin": f"http://127.0.0.1:{guest.port}"})  # fmt: skip
    assert status == 403
    assert everything(program) == before


def test_a_guest_sees_what_is_presented_and_roams_among_what_was_drawn(program, guest):
    flood = look(program, "Flood")["id"]
    view = program.edit("add viewpoint", name="Desk", eye=[0, -20, 2], target=[0, 0, 2])["select"][0]
    assert guest.told()["picture"] is False
    assert guest.ask("GET", "/picture")[0] == 404
    assert put(program, f"/api/shows/SHOW/sharing/shown?who=me&look={flood}&viewpoint=Desk", picture("teal")) == 200
    assert put(program, "/api/shows/SHOW/sharing/shown?who=another", picture("teal")) == 400
    told = guest.told()
    assert (told["look"].split()[-1], told["viewpoint"], told["picture"]) == ("Flood", "Desk", True)
    status, data, headers = guest.ask("GET", "/picture")
    assert (status, headers["Content-Type"], Image.open(io.BytesIO(data)).size) == (200, "image/jpeg", (640, 360))
    assert put(program, f"/api/shows/SHOW/looks/{flood}/seen?viewpoint={view}&made_of=now", picture("navy")) == 200
    assert next(one for one in guest.told()["looks"] if one["id"] == flood)["seen"] == [view]
    assert guest.ask("GET", f"/seen/{flood}/{view}")[0] == 200
    assert guest.ask("GET", f"/seen/{flood}/before")[0] == 404
    status, page, headers = guest.ask("GET", "/")
    assert status == 200
    assert "default-src 'none'" in headers["Content-Security-Policy"]
    assert headers["Cache-Control"] == "no-store"
    assert b"http" not in page
    assert guest.ask("GET", "/guest.js")[0] == 200
    there = program.get("/api/shows/SHOW/sharing")["guests"]
    assert [one["name"] for one in there] == ["Guest 1"]
    program.edit("remove", ids=[view])


def test_notes_of_guests_are_taken_where_they_are_asked_for(program, guest):
    assert guest.say("/name", {"name": "Wren"})[0] == 200
    assert guest.say("/say", {"text": "Lovely <b>"})[0] == 200
    note = next(row["body"] for row in program.document()["objects"] if row["kind"] == "note")
    assert (note["text"], note["who"], note["tags"]) == ("Lovely <b>", "Wren", ["guest"])
    assert guest.say("/say", {"text": "At once again"})[0] == 429
    for bad in ({"text": ""}, {"text": "x" * 3000}, {"text": 5}, [], b"{", b'{"text": "\\ud800"}'):
        data = bad if isinstance(bad, bytes) else json.dumps(bad).encode()
        assert guest.say("/say", data, **{"Content-Type": "application/json"})[0] == 400
    assert guest.say("/say", {"text": "x" * 20_000})[0] == 413
    # Pages of other sites say nothing, and forms neither.
    assert guest.ask("POST", "/say", {"text": "x"})[0] == 403
    assert guest.say("/say", {"text": "x"}, Origin="http://elsewhere.invalid")[0] == 403
    assert guest.say("/say", b"text=x", **{"Content-Type": "application/x-www-form-urlencoded"})[0] == 415
    quiet = Guest(share(program, notes=False)["links"][-1])
    quiet.come_in()
    assert quiet.told()["notes"] is False
    assert quiet.say("/say", {"text": "x"})[0] == 403
    assert sum(row["kind"] == "note" for row in program.document()["objects"]) == 1


def test_who_has_no_key_or_comes_by_another_name_is_not_let_in(program, guest):
    stranger = Guest(f"http://127.0.0.1:{guest.port}/join/wrong")
    for path in ("/", "/told", "/picture", "/seen/a/b"):
        assert stranger.ask("GET", path)[0] == 401
    assert stranger.say("/say", {"text": "x"})[0] == 401
    assert guest.ask("GET", "/told", Host="rebound.invalid")[0] == 403
    assert guest.ask("GET", "/told", Host=f"127.0.0.1:{guest.port + 1}")[0] == 403
    assert [stranger.ask("GET", "/join/wrong")[0] for _ in range(WRONG_MOST + 1)] == [403] * WRONG_MOST + [429]
    # Whoever tries keys waits; who is in goes on.
    assert stranger.ask("GET", guest.join)[0] == 429
    assert guest.told()["you"]
    codes = [guest.ask("GET", "/told")[0] for _ in range(ASKED_MOST + 2)]
    assert codes[0] == 200
    assert codes[-1] == 429


def test_who_was_let_in_to_one_show_is_not_shown_another(program):
    guest = Guest(share(program)["links"][-1])
    assert guest.come_in() == 302
    first = next(one["path"] for one in program.get("/api/recent") if one["open"])
    assert program.post("/api/new", {"name": "Another"})[0] == 200
    with socket.socket() as line:
        assert line.connect_ex(("127.0.0.1", guest.port)) != 0
    assert program.post("/api/open", {"path": first})[0] == 200
    assert program.get("/api/shows/SHOW/sharing")["on"] is False


def test_the_program_shares_from_its_start_where_it_is_told_to(tmp_path):
    made = Program(tmp_path / "demo.zarf", more=("--share",))
    link = wait_for(lambda: re.findall(r"http://127\.0\.0\.1:\d+/join/\S+", made.output()), "the link")[-1]
    guest = Guest(link)
    assert guest.come_in() == 302
    # Whoever is at the desk first presents.
    assert put(made, "/api/shows/SHOW/sharing/shown?who=first", picture("teal")) == 200
    assert put(made, "/api/shows/SHOW/sharing/shown?who=second", picture("teal")) == 400
    assert guest.told()["picture"]
    assert made.end() == 0
    assert "Traceback" not in made.output()
    with socket.socket() as line:
        assert line.connect_ex(("127.0.0.1", guest.port)) != 0


def test_there_is_room_for_so_many_and_a_key_ends():
    sharing = Sharing()
    assert sharing.let_in("", "a") is None
    key = sharing.begin("me", notes=False)
    tokens = [sharing.let_in(key, "a") for _ in range(GUESTS_MOST)]
    assert len({*tokens}) == GUESTS_MOST
    assert sharing.let_in(key, "b") is None
    assert len(sharing.guests()) == GUESTS_MOST
    sharing.end()
    assert sharing.guest(tokens[0]) is None
    assert sharing.let_in(key, "c") is None
    assert sharing.guests() == []
    again = sharing.begin("me", notes=False)
    assert again != key
    assert sharing.guest(tokens[0]) is None
    sharing.end()
    sharing.present(b"x", "", "")
    assert sharing.shown.jpeg == b""


def test_a_port_whose_loop_has_ended_is_closed_all_the_same_and_opened_again(tmp_path):
    path = tmp_path / "new.zarf"
    ShowFile(path).close()
    desk = Desk(path)
    port = GuestPort(desk)
    port.begin("me", notes=False, address="127.0.0.1")
    server = port._server
    server.trigger.pull_trigger(lambda: wasyncore.close_all(server._map, ignore_all=True))
    port._thread.join(10)
    assert not port._thread.is_alive()
    links = port.begin("me", notes=False, address="127.0.0.1")
    assert port._thread.is_alive()
    assert links[0].startswith("http://127.0.0.1:")
    port.end()
    desk.close()
