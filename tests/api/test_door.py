"""What is refused before it reaches a route, what every answer carries, and connections that do nothing."""

import math
import socket
import urllib.request

import pytest

from tests.processes import PATIENCE_S, Program


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("door") / "demo.zarf")
    yield made
    assert made.end() == 0
    assert "Traceback" not in made.output()


def edit(kind: str, args: str) -> bytes:
    return f'{{"kind": "{kind}", "args": {args}}}'.encode()


LAMP = '"LAMP"'


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (edit("set show", '{"haze_per_m": NaN}'), "numbers have to be finite"),
        (edit("set show", '{"haze_per_m": 1e999}'), "numbers have to be finite"),
        (edit("set show", '{"haze_per_m": "nan"}'), "is not a finite number"),
        (edit("keep look", '{"values": {"LAMP": {"dimmer": Infinity}}}'), "numbers have to be finite"),
        (edit("keep look", '{"values": {"LAMP": {"dimmer": "-inf"}}}'), "is not a finite number"),
        (edit("keep look", '{"values": {"LAMP": {"pan": 1e300}}}'), "cannot be 1e+300"),
        (edit("move", '{"ids": ["LAMP"], "by": [0, "inf", 0]}'), "is not a finite number"),
        (edit("set field", '{"ids": ["LAMP"], "field": "name", "text": "\\ud800"}'), "text whole"),
        (edit("add deck", f'{{"name": "{"n" * 201}"}}'), "200 at most"),
        (edit("change draft", f'{{"id": "x", "draft": {"[" * 500}{"]" * 500}}}'), "nested more than 40 deep"),
        (edit("move", f'{{"ids": {"[" * 100_000}{"]" * 100_000}}}'), "cannot be read"),
        (b'{"kind": "move", "args": {"ids": ["' + b"x" * (9 * 2**20) + b'"]}}', "more than 8 MB"),
    ],
)
def test_what_a_show_cannot_hold_is_refused_and_nothing_is_changed(program, body, says):
    lamp = next(row["id"] for row in program.document()["objects"] if row["kind"] == "fixture")
    before = program.document()["rev"]
    status, answer = program.post("/api/shows/SHOW/edits", body.replace(b"LAMP", lamp.encode()))
    assert status in (400, 413, 422)
    assert says in answer["error"]
    assert program.document()["rev"] == before


def test_points_and_shows_have_names_that_can_be_kept(program):
    for path in ("/api/shows/SHOW/points", "/api/new"):
        status, answer = program.post(path, {"name": "n" * 201})
        assert (status, answer["field"]) == (400, "name")


def test_every_answer_says_what_the_page_may_do(program):
    for path in ("/", "/api/shows", "/assets/nothing.js", "/nowhere"):
        try:
            with urllib.request.urlopen(program.url + path, timeout=PATIENCE_S) as answer:
                headers = answer.headers
        except urllib.error.HTTPError as refused:
            headers = refused.headers
        policy = dict(part.split(" ", 1) for part in headers["Content-Security-Policy"].split("; "))
        assert policy["script-src"] == "'self'"
        assert policy["frame-ancestors"] == policy["object-src"] == "'none'"
        assert headers["X-Content-Type-Options"] == "nosniff"
        assert headers["Referrer-Policy"] == "no-referrer"


def test_idle_connections_keep_nobody_out(program):
    idle = [socket.create_connection(("127.0.0.1", program.port), 5) for _ in range(300)]
    half = [socket.create_connection(("127.0.0.1", program.port), 5) for _ in range(40)]
    for one in half:
        one.sendall(b"POST /api/shows HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 100\r\n\r\n{")
    assert program.get("/api/shows")
    assert program.edit("add deck", name="Raft")
    for one in idle + half:
        one.close()
    assert math.isfinite(program.document()["rev"])
