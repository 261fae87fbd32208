"""The desk in its own process: who waits for whom, and what it keeps."""

import threading
import time
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

import pytest

from tests.processes import PATIENCE_S, wait_for
from zarfwright.core.mesh import box
from zarfwright.core.scene import solids
from zarfwright.formats.gdtf import write_gdtf
from zarfwright.library import heron, teal
from zarfwright.web.children.child import Child
from zarfwright.web.desk import Desk
from zarfwright.web.desk.shelf import LATE_BYTES, LATE_COUNT, Shelf
from zarfwright.web.types import kept_gdtf


class Slow:
    """A live process that is long in answering. What it is told it takes at once, as a queue does."""

    def __init__(self) -> None:
        self.asked, self.may_answer = threading.Event(), threading.Event()
        self.told: list[str] = []

    def values(self):
        self.asked.set()
        assert self.may_answer.wait(PATIENCE_S)
        return {}

    def set_patch(self, *_):
        self.told.append("patch")

    def set_connections(self, *_):
        self.told.append("connections")

    def drive(self, *_):
        self.told.append("drive")

    def tell(self, text):
        self.told.append(text)


@pytest.fixture
def desk(tmp_path):
    made = Desk(tmp_path / "a.zarf")
    yield made
    made.close()


def test_nobody_waits_while_the_live_process_is_asked(desk):
    fixture_type, _, asset = kept_gdtf(desk, "heron.gdtf", write_gdtf(heron()))
    kind = desk.edit("me", "add type", {"name": fixture_type.name, "maker": "Q", "asset": asset})["select"][0]
    lamp = desk.edit("me", "place free", {"type": kind, "position": [0, 0, 5]})["select"][0]
    desk.feed.live = live = Slow()
    answers = []
    aiming = threading.Thread(
        target=lambda: answers.append(desk.edit("me", "aim at", {"ids": [lamp], "point": [0, 3, 1]}))
    )
    aiming.start()
    assert live.asked.wait(PATIENCE_S)
    # While it is asked for the heads: another's document, preview, edit and undo go on.
    assert lamp.encode() in desk.document("another")
    assert desk.preview("another", "add deck", {})["ghost"]["objects"]
    deck = desk.edit("another", "add deck", {"name": "Between"})["select"][0]
    desk.undo("another")
    assert deck not in desk.show.items
    assert answers == []
    live.may_answer.set()
    aiming.join(PATIENCE_S)
    assert answers[0]["sentence"].startswith("Aim ")
    assert desk.show.items[lamp].body.hands


def test_a_process_that_does_not_read_keeps_nobody_waiting():
    gone = threading.Event()
    child = Child("tests.api.deaf", [], lambda _: None, gone.set)
    began = time.perf_counter()
    for _ in range(200):
        assert child.say({"text": "x" * 10_000})
    # Two megabytes, of which a pipe holds 64 kB.
    assert time.perf_counter() - began < PATIENCE_S
    child.end(0.2)
    assert gone.wait(PATIENCE_S)
    assert not child.say({"text": "x"})


def test_previews_keep_their_meshes_until_the_next_one(desk):
    desk.document("me")
    before = len(desk.shelf)
    for n in range(60):
        ghost = desk.preview("me", "add deck", {"width": f"{2 + n / 10}m"})["ghost"]["scene"][0]
        assert desk.shelf.get(ghost["mesh"]) is not None
        desk.preview("another", "add deck", {"height": f"{0.3 + n / 100}m"})
    owned = {key for keys in desk.shelf._owned.values() for key in keys}
    assert len(owned) == before + 2
    assert len(desk.shelf) <= before + 2 + LATE_COUNT


def test_the_meshes_of_a_show_are_those_of_its_things(desk):
    deck = desk.edit("me", "add deck", {"width": "4m"})
    first = deck["update"]["scene"][0]["mesh"]
    wider = desk.edit("me", "set field", {"ids": deck["select"], "field": "width", "text": "5m"})["update"]["scene"][0]
    assert desk.shelf._owned[deck["select"][0]] == {wider["mesh"]}
    assert first != wider["mesh"]
    desk.edit("me", "remove", {"ids": deck["select"]})
    assert deck["select"][0] not in desk.shelf._owned


def test_what_nobody_owns_is_kept_a_little_and_then_let_go():
    shelf = Shelf()
    meshes = [box((1, 1, n + 1)) for n in range(3)]
    shelf.keep("a", {mesh.key: mesh for mesh in meshes[:2]})
    shelf.keep("b", {meshes[1].key: meshes[1]})
    shelf.keep("a", {})
    assert all(shelf.get(mesh.key) is mesh for mesh in meshes[:2])
    large = box((1, 1, 9))
    object.__setattr__(large, "packed", b"x" * (LATE_BYTES + 1))
    shelf.keep("c", {large.key: large})
    shelf.keep("c", {})
    # The first has no owner and is the oldest; the second has one still.
    assert shelf.get(meshes[0].key) is None
    assert shelf.get(meshes[1].key) is meshes[1]


def test_mesh_files_belong_to_the_show_that_names_them(desk, tmp_path):
    corners = "\n".join(f"v {x} {y} {z}" for x in (0, 1) for y in (0, 1) for z in (0, 1))
    data = f"{corners}\nf 1 2 4 3\nf 5 7 8 6\nf 1 5 6 2\nf 3 4 8 7\n".encode()
    asset = desk.session.keep("block.obj", data)
    block = desk.edit("me", "add mesh", {"name": "Block", "asset": asset})
    assert block["update"]["scene"]
    assert set(desk.show.meshes) == {asset}
    other = Desk(tmp_path / "b.zarf")
    assert other.show.meshes == {}
    other.close()
    desk.edit("me", "remove", {"ids": block["select"]})
    assert desk.show.meshes == {}
    desk.undo("me")
    assert set(desk.show.meshes) == {asset}


def test_another_process_draws_the_same_show(desk):
    """Nothing that a show looks like is kept beside it, in a module."""
    corners = "\n".join(f"v {x} {y} {z}" for x in (0, 1) for y in (0, 1) for z in (0, 1))
    asset = desk.session.keep("block.obj", f"{corners}\nf 1 2 4 3\nf 5 7 8 6\n".encode())
    desk.edit("me", "add mesh", {"name": "Block", "asset": asset})
    here = [solid.mesh.key for solid in solids(desk.show, desk.show.items.values())]
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
        assert pool.submit(mesh_keys, desk.show).result(60) == here
    assert here


def mesh_keys(show):
    return [solid.mesh.key for solid in solids(show, show.items.values())]


def test_what_is_dragged_goes_to_the_picture_and_is_stored_once(desk):
    fixture_type, _, asset = kept_gdtf(desk, "heron.gdtf", write_gdtf(heron()))
    kind = desk.edit("me", "add type", {"name": fixture_type.name, "maker": "Q", "asset": asset})["select"][0]
    lamp = desk.edit("me", "place free", {"type": kind, "position": [0, 0, 5]})["select"][0]
    desk.feed.live = live = Driven()
    before, entries = desk.session.rev, len(desk.session.history())
    for n in range(100):
        desk.preview("me", "hold values", {"ids": [lamp], "values": {"dimmer": n / 100}}, live=True)
    assert [hands[lamp]["dimmer"] for hands in live.hands] == [n / 100 for n in range(100)]
    assert desk.show.items[lamp].body.hands == {}
    # Another drags another thing meanwhile: each keeps its own.
    desk.edit("another", "add deck", {"name": "Between"})
    desk.edit("me", "hold values", {"ids": [lamp], "values": {"dimmer": 0.5}})
    assert live.hands[-1] == {lamp: {"dimmer": 0.5}}
    assert desk.feed.gestures == {}
    assert (desk.session.rev, len(desk.session.history())) == (before + 2, entries + 2)
    # One undo takes all of it back.
    desk.undo("me")
    assert desk.show.items[lamp].body.hands == {}


def test_a_gesture_of_somebody_who_is_gone_is_let_go(desk, monkeypatch):
    monkeypatch.setattr("zarfwright.web.desk.gestures.GESTURE_S", 0.1)
    fixture_type, _, asset = kept_gdtf(desk, "heron.gdtf", write_gdtf(heron()))
    kind = desk.edit("me", "add type", {"name": fixture_type.name, "maker": "Q", "asset": asset})["select"][0]
    lamp = desk.edit("me", "place free", {"type": kind, "position": [0, 0, 5]})["select"][0]
    desk.feed.live = live = Driven()
    desk.preview("me", "hold values", {"ids": [lamp], "values": {"dimmer": 1.0}}, live=True)
    assert live.hands == [{lamp: {"dimmer": 1.0}}]
    wait_for(lambda: live.hands[-1] == {}, "the gesture to be let go")


def test_single_cells_are_dragged_in_the_picture_too(desk):
    fixture_type, _, asset = kept_gdtf(desk, "teal.gdtf", write_gdtf(teal()))
    kind = desk.edit("me", "add type", {"name": fixture_type.name, "maker": "Q", "asset": asset})["select"][0]
    bar = desk.edit("me", "place free", {"type": kind, "mode": "Cells", "position": [0, 0, 5]})["select"][0]
    desk.feed.live = live = Driven()
    desk.edit("me", "hold values", {"ids": [bar], "values": {"dimmer": 0.2}})
    desk.preview("me", "hold values", {"ids": [bar], "values": {"dimmer": 1.0}, "cells": [3]}, live=True)
    assert live.hands[-1] == {bar: {"dimmer": 0.2}, f"{bar}/3": {"dimmer": 1.0}}
    desk.edit("me", "hold values", {"ids": [bar], "values": {"dimmer": 1.0}, "cells": [3]})
    assert live.hands[-1] == {bar: {"dimmer": 0.2}, f"{bar}/3": {"dimmer": 1.0}}
    # All of them dragged together: the cell goes along at once.
    desk.preview("me", "hold values", {"ids": [bar], "values": {"dimmer": 0.5}}, live=True)
    assert live.hands[-1] == {bar: {"dimmer": 0.5}}


class Driven(Slow):
    """Keeps what hands it is driven with."""

    def __init__(self) -> None:
        super().__init__()
        self.hands = []

    def drive(self, look, hands, follow, fixed=None, first=False):
        if hands is not None:
            self.hands.append(hands)
