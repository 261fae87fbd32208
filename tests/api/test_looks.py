"""Looks and running orders over the API: what browsers are told, pictures, and the transport that all share."""

import io
import os
import signal
import urllib.error
import urllib.request

import pytest
from PIL import Image

from tests.processes import Program, sender, stop, wait_for


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("looks") / "demo.zarf")
    yield made
    assert made.end() == 0
    assert "Traceback" not in made.output()


def look(program, name):
    return next(row for row in program.document()["objects"] if row["kind"] == "look" and row["body"]["name"] == name)


def run(program):
    return program.get("/api/shows/SHOW/run")


def test_browsers_are_told_how_much_a_look_says_and_ask_for_what_it_says(program):
    document = program.document()
    ebb = look(program, "Ebb")
    facts = document["looks"][ebb["id"]]
    assert (facts["fixtures"], facts["sorts"]["intensity"]) == (29, 29)
    assert 0 < facts["lit"] < 29
    # What it says is not in the document: a large look would be a hundred kilobytes.
    assert len(ebb["body"]["values"]) < 200
    assert len(program.look_values(ebb["id"])) >= 29
    says = program.get(f"/api/shows/SHOW/looks/{ebb['id']}/says")
    assert any(group["lit"] for group in says["groups"])
    flood = look(program, "Flood")["id"]
    found = program.get(f"/api/shows/SHOW/looks/{ebb['id']}/diff?to={flood}")
    assert found["groups"]
    assert set(found["fixtures"]) >= set(found["groups"][0]["fixtures"])
    assert program.get(f"/api/shows/SHOW/looks/{ebb['id']}/diff?to={ebb['id']}") == {"groups": [], "fixtures": []}


def picture(colour):
    out = io.BytesIO()
    Image.new("RGB", (640, 360), colour).save(out, "PNG")
    return out.getvalue()


def put(program, path, body):
    asked = urllib.request.Request(program.url + path.replace("SHOW", program.document()["id"]), body, method="PUT")
    try:
        with urllib.request.urlopen(asked) as answer:
            return answer.status
    except urllib.error.HTTPError as refused:
        return refused.code


def test_a_picture_is_kept_small_with_what_it_is_made_of_and_no_other_bytes_are(program):
    ebb = look(program, "Ebb")["id"]
    assert put(program, f"/api/shows/SHOW/looks/{ebb}/picture?made_of=x-1", picture("red")) == 200
    assert program.document()["pictures"][ebb] == "x-1"
    where = f"/api/shows/{program.document()['id']}/looks/{ebb}/picture?made_of=x-1"
    with urllib.request.urlopen(program.url + where) as answer:
        assert answer.headers["Content-Type"] == "image/jpeg"
        with Image.open(io.BytesIO(answer.read())) as kept:
            assert kept.size == (256, 144)
            assert kept.getpixel((5, 5))[0] > 200
    assert put(program, f"/api/shows/SHOW/looks/{ebb}/picture?made_of=x-2", b"<html>no picture</html>") == 400
    assert put(program, "/api/shows/SHOW/looks/gone/picture?made_of=x-2", picture("red")) == 400
    assert program.document()["pictures"] == {ebb: "x-1"}


def test_a_running_order_is_played_paused_scrubbed_and_told_to_everybody(program):
    order = program.edit("add order", name="Evening")["select"][0]
    body = next(row["body"] for row in program.document()["objects"] if row["id"] == order)
    keys = [step["key"] for step in body["steps"]]
    program.edit("set step", id=order, steps=keys, fade_in="1", hold="60", follows=True)
    times = program.get(f"/api/shows/SHOW/orders/{order}/times")
    assert [one["starts_s"] for one in times] == [0.0, 61.0, 122.0]
    assert run(program)["order"] is None
    program.edit("play order", id=order)
    wait_for(lambda: run(program)["order"] == order, "the order to be in hand")
    program.post("/api/shows/SHOW/run", {"command": "play"})
    wait_for(lambda: run(program)["at_s"] > 0.05 and run(program)["playing"], "it to go on")
    program.post("/api/shows/SHOW/run", {"command": "pause"})
    program.post("/api/shows/SHOW/run", {"command": "to", "value": 100.0})
    wait_for(lambda: run(program)["at_s"] == 100.0 and run(program)["step"] == keys[1], "it to be there")
    assert run(program)["total_s"] == pytest.approx(183.0)
    # What is seen there is that look.
    flood = program.look_values(look(program, "Flood")["id"])
    kept = program.look_values(program.edit("keep look", name="Seen")["select"][0])
    heron = next(key for key, said in flood.items() if said["dimmer"] > 0)
    assert kept[heron]["dimmer"] == pytest.approx(flood[heron]["dimmer"], abs=1e-5)
    assert kept[heron]["pan"] == pytest.approx(flood[heron]["pan"], abs=1e-4)
    status, _ = program.post("/api/shows/SHOW/run", {"command": "fly"})
    assert status == 422
    # A live process that is started again goes on where the last one stood.
    before = program.live_pid()
    os.kill(before, signal.SIGKILL)
    wait_for(lambda: program.live_pid() not in (0, before), "another live process")
    wait_for(lambda: program.signal().get("drivers", {}).get(heron) == "look", "the picture to be back")
    wait_for(lambda: run(program)["at_s"] == 100.0, "the order to be where it was")
    program.edit("play order", id=None)
    wait_for(lambda: run(program)["order"] is None, "the order to be let go of")


def test_a_look_is_kept_each_time_the_picture_settles_with_its_time_and_who_sent_it(program):
    settling = lambda: program.get("/api/shows/SHOW/settling")  # noqa: E731
    program.edit("set show", look_first=False, follow_console=True)
    status, report = program.post("/api/shows/SHOW/settling", {"on": True, "who": "tester"})
    assert (status, report["on"], report["kept"]) == (200, True, [])
    other = sender(program, name="Quay desk")
    try:
        for n, level in enumerate((250, 40, 250), 1):
            other[1].dmx_data = (level,) * 512
            wait_for(lambda n=n: len(settling()["kept"]) == n, f"state {n} to stand")
    finally:
        stop(other)
        program.post("/api/shows/SHOW/settling", {"on": False})
    found = settling()
    assert not found["on"]
    # The first and the third are the same: the third is the one too many.
    assert found["doubles"] == [[found["kept"][0], found["kept"][2]]]
    kept = [row["body"] for row in program.document()["objects"] if row["id"] in found["kept"]]
    assert all(body["source"].startswith("Quay desk, ") for body in kept)
    program.edit("remove", ids=[found["kept"][2]])
    assert settling()["doubles"] == []


def form(data):
    head = b'--x\r\nContent-Disposition: form-data; name="file"; filename="looks.csv"\r\n\r\n'
    return head + data + b"\r\n--x--\r\n", {"Content-Type": "multipart/form-data; boundary=x"}


def test_looks_go_out_as_a_list_and_come_in_again_looked_at_first(program):
    show = program.document()["id"]
    data = program.raw(f"/api/shows/{show}/papers/looks.csv")
    assert data.decode("utf-8-sig").splitlines()[0] == "Look,Name,Note,Fixture,Cell,Function,Level,Unit"
    changed = data.replace(b",dimmer,0.4,", b",dimmer,0.7,")
    status, seen = program.post(f"/api/shows/{show}/looks?preview=true", *form(changed))
    assert (status, seen["left_out"]) == (200, [])
    ebb = look(program, "Ebb")["id"]
    before = program.look_values(ebb)
    status, done = program.post(f"/api/shows/{show}/looks?preview=false", *form(changed))
    assert status == 200
    assert done["sentence"].startswith("Take looks in from a list: ")
    after = program.look_values(ebb)
    lit = [key for key, said in before.items() if said["dimmer"] == 0.4]
    assert lit
    assert all(after[key]["dimmer"] == 0.7 for key in lit)
    status, refused = program.post(f"/api/shows/{show}/looks?preview=true", *form(b"a,b\n1,2\n"))
    assert status == 400
    assert "no list of looks" in refused["error"]
    orders = program.raw(f"/api/shows/{show}/papers/orders.csv").decode("utf-8-sig").splitlines()
    assert orders[0].startswith("Order,Step,Look,Name,Begins")


def test_a_sound_is_laid_under_an_order_and_what_is_none_is_refused(program):
    order = program.edit("add order", name="With music")["select"][0]
    show = program.document()["id"]
    where = f"/api/shows/{show}/orders/{order}/sound"
    status, refused = program.post(where, *form(b"MZ no music"))
    assert status == 400
    assert "WAV, FLAC, OGG or MP3" in refused["error"]
    wav = b"RIFF\x24\0\0\0WAVEfmt " + bytes(24)
    status, laid = program.post(where, *form(wav))
    assert (status, laid["sentence"]) == (200, "Lay looks.csv under With music")
    body = next(row["body"] for row in program.document()["objects"] if row["id"] == order)
    assert program.raw(f"/api/sounds/{body['sound']}") == wav
    program.edit("set sound", id=order, starts="-1.5")
    program.edit("set sound", id=order, asset="")
    # What lies under nothing is not to be had.
    with pytest.raises(urllib.error.HTTPError):
        program.raw(f"/api/sounds/{body['sound']}")
