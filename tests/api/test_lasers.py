"""Lasers over the API: feeds, a file on a head, zones that are asked for, tests of heads, and what a browser hears."""

import numpy as np
import orjson
import pytest
from websockets.sync.client import connect

from tests.processes import Program, wait_for
from zarfwright.core.lasers.frames import Frame, Reel
from zarfwright.formats.ild import write_ild
from zarfwright.library import stilt
from zarfwright.links.frames import HEADER, LASERS, PLACE

POINTS = np.zeros((90, 3), dtype=np.int16)
POINTS[:, 0] = np.linspace(-32767, 32767, 90)
FULL = {"dimmer": 1.0, "red": 1.0, "green": 1.0, "blue": 1.0}


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("lasers") / "show.zarf")
    yield made
    assert made.end() == 0, made.output()
    assert "Traceback" not in made.output(), made.output()


@pytest.fixture(scope="module")
def heads(program):
    """Three lasers on a truss that look downstage over a wall, feeds 1 to 3 from stage right."""
    kind = program.add_type(stilt())
    truss = program.edit("add truss", name="Laser truss", length="8m", start_trim="6m", y="US 9")["select"][0]
    ids = program.edit("place along rail", structure=truss, type=kind, count="3", first_number="71")["select"]
    for one in ids:
        program.edit("aim at", ids=[one], point=[0, -20, 6])
    program.edit("number feeds", ids=ids)
    program.edit("hold values", ids=ids, values=FULL)
    return ids


def upload(program, name, data):
    head = f'--edge\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'
    kind = {"Content-Type": "multipart/form-data; boundary=edge"}
    return program.post("/api/shows/SHOW/lasers/files", head.encode() + data + b"\r\n--edge--\r\n", kind)


class Heard:
    """What a browser hears of lasers: the heads by key, with their numbers of places and their greatest light."""

    def __init__(self, program):
        told = program.get("/api/shows/SHOW/ticket")
        where = f"{told['url']}?ticket={told['ticket']}"
        self.socket = connect(where, max_size=None, compression=None, ping_interval=None, legacy=True)
        self.told, self.drawn = {}, {}

    def hear(self):
        while True:
            try:
                message = self.socket.recv(timeout=0.05)
            except TimeoutError:
                return self.drawn
            if isinstance(message, str):
                event = orjson.loads(message)
                if event["event"] == "lasers":
                    self.told = event
                continue
            _, kind, _, plan, _, _, count, total = HEADER.unpack_from(message)
            if kind == LASERS and self.told and plan == self.told["plan"] & 0xFFFF:
                table = np.frombuffer(message, "<u2", count * 2, HEADER.size).reshape(-1, 2)
                places = np.frombuffer(message, PLACE, total, HEADER.size + 4 * count)
                ends = np.cumsum(table[:, 1])
                self.drawn = {
                    self.told["heads"][row]["key"]: places[end - n : end]
                    for (row, n), end in zip(table.tolist(), ends, strict=True)
                }


def test_the_simulated_feed_is_drawn_by_the_heads_that_take_it(program, heads):
    heard = Heard(program)
    wait_for(lambda: heard.hear() == {} and heard.told, "the heads")
    assert [one["key"] for one in heard.told["heads"]] == heads
    # Red, green and blue at full come to what six watts of white are.
    lm = np.array(heard.told["heads"][0]["lm"]).reshape(3, 3)
    assert float(lm.sum(axis=0) @ [0.2126, 0.7152, 0.0722]) == pytest.approx(1383, rel=0.01)
    status, feed = program.post("/api/shows/SHOW/laser-feed", {"pattern": "circle", "points": 120})
    assert (status, feed["running"], feed["feeds"]) == (200, True, "1-3")
    wait_for(lambda: len(heard.hear()) == 3, "three figures")
    assert all(len(places) == 120 for places in heard.drawn.values())
    wait_for(lambda: [f["feed"] for f in program.signal()["lasers"]["feeds"] if f["rate_hz"] > 5] == [1, 2, 3], "it")
    # One alone: the others are dark, and it is not the circle any more.
    program.raw("/api/shows/SHOW/lasers/test", {"heads": [], "alone": heads[1]})
    wait_for(lambda: set(heard.hear()) == {heads[1]} and len(heard.drawn[heads[1]]) != 120, "one alone")
    assert heard.told["alone"] == heads[1]
    program.raw("/api/shows/SHOW/lasers/test", {"heads": [], "alone": None})
    wait_for(lambda: len(heard.hear()) == 3, "all again")
    assert program.post("/api/shows/SHOW/laser-feed", {"run": False})[1]["running"] is False
    # What falls silent is dark.
    wait_for(lambda: heard.hear() == {}, "darkness")


def test_a_file_on_a_head_is_drawn_by_it_and_comes_out_as_it_went_in(program, heads):
    lit = np.zeros(90, dtype=bool)
    rgb = np.tile(np.array([0, 255, 0], dtype=np.uint8), (90, 1))
    data = write_ild(Reel((Frame(POINTS, lit, 5, rgb, name="Line"),)))
    status, read = upload(program, "Line.ild", data)
    assert (status, read["frames"], read["formats"], read["most_points"]) == (200, 1, [5], 90)
    before = len(program.document()["objects"])
    program.edit("draw file", ids=heads[:1], asset=read["asset"], name=read["name"])
    heard = Heard(program)
    wait_for(lambda: set(heard.hear()) == {heads[0]}, "the file's figure")
    places = heard.drawn[heads[0]]
    assert places["rgb"].max(axis=0).tolist() == [0, 255, 0]
    assert program.raw(f"/api/shows/SHOW/lasers/{heads[0]}/file") == data
    # One edit, and taken back like any other.
    assert len(program.document()["objects"]) == before
    program.edit("draw file", ids=heads[:1], asset=None)
    wait_for(lambda: heard.hear() == {}, "darkness")


def test_what_is_no_ilda_file_is_refused_and_changes_nothing(program, heads):
    status, said = upload(program, "Broken.ild", b"ILDA and nothing else")
    assert status in (400, 422)
    assert said["error"].startswith("Broken.ild cannot be drawn")
    status, said = program.post("/api/shows/SHOW/laser-feed", {"feeds": "one to six"})
    assert (status, said["field"]) == (400, "feeds")
    assert program.post("/api/shows/SHOW/laser-feed", {"run": False})[0] == 200


def test_zones_are_told_with_where_they_land_and_what_they_reach(program, heads):
    told = program.get("/api/shows/SHOW/lasers")
    assert "no proof of safety" in told["note"]
    assert [one["id"] for one in told["heads"]] == heads
    one = told["heads"][0]
    assert (one["feed"], one["draws"], one["power_w"]) == (1, True, pytest.approx(6.0))
    assert len(one["edge"]) == 32
    person = program.edit("add figures", pose="standing", x="0", y="-8", z="4.2")["select"][0]
    reached = [
        c for h in program.get("/api/shows/SHOW/lasers")["heads"] for c in h["crossings"] if c["what"] == "people"
    ]
    assert reached
    assert all(person in c["ids"] and c["over"] for c in reached)
    cut = program.edit("cut zones", ids=heads)
    assert any("no proof of safety" in line for line in cut["report"])
    after = program.get("/api/shows/SHOW/lasers")["heads"]
    assert not [c for h in after for c in h["crossings"] if c["what"] == "people" and person in c["ids"]]
    # In a look that has them dark they reach nothing.
    program.edit("release", ids=heads)
    look = program.edit("keep look", name="Dark", values={one: {"dimmer": 0.0} for one in heads})["select"][0]
    assert not [c for h in program.get(f"/api/shows/SHOW/lasers?look={look}")["heads"] for c in h["crossings"]]
