"""Laser feeds over the wire, and what of them viewers get."""

import subprocess
import sys

import numpy as np
import orjson
import pytest

from tests.conftest import Workbench
from tests.core.lasered import give_stilt, laser
from tests.processes import PATIENCE_S, own_address, wait_for
from zarfwright.core.lasers.figure import POINT, figure
from zarfwright.core.lasers.pattern import pattern
from zarfwright.core.lasers.plan import received, sent
from zarfwright.core.lasers.planned import plan_of
from zarfwright.core.patch import patch_rows
from zarfwright.links.frames import ANGLE_STEP, HEADER, LASERS, PLACE
from zarfwright.links.lasers import LOST_S, PART_MOST, Feeds, packed, parsed
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.lasers import LaserReceiver, Lasers, Trial
from zarfwright.links.live.playing import live_rig

TURN = np.arange(300) / 300 * 2 * np.pi
CIRCLE = figure(np.stack([np.cos(TURN), np.sin(TURN)], axis=-1), (255, 0, 0))
LINE = figure([[-1, 0], [1, 0]] * 20, (0, 255, 0))


def test_a_frame_goes_over_the_wire_as_it_is_documented():
    (data,) = packed(12, 7, figure([[1, -1], [0, 0.5]], [(1, 2, 3), (250, 251, 252)], [True, False]))
    # ZLF1, feed 12, part 0 of 1, frame 7, two points, nothing; then two points of eight bytes.
    assert data.hex() == "5a4c46310c0000010700000002000000ff7f01800102030100000040fafbfc00"
    back = parsed(data)
    assert (back.feed, back.frame, len(back.points)) == (12, 7, 2)


def test_a_long_frame_comes_in_parts_in_any_order_and_is_shown_when_it_is_whole():
    turn = np.linspace(0, 1, PART_MOST + 900)
    long = figure(np.stack([turn, turn], axis=-1), (9, 9, 9))
    feeds, parts = Feeds(), packed(3, 1, long)
    assert len(parts) == 2
    assert feeds.take(parts[1], "a", 1.0) is None
    assert len(feeds.figure(3, 1.0)) == 0
    assert feeds.take(parts[0], "a", 1.0) == 3
    assert np.array_equal(feeds.figure(3, 1.0), long)


def test_late_frames_and_what_is_no_frame_change_nothing():
    feeds = Feeds()
    feeds.take(packed(1, 10, CIRCLE)[0], "a", 1.0)
    assert feeds.take(packed(1, 9, LINE)[0], "a", 1.1) is None
    assert len(feeds.figure(1, 1.1)) == 300
    good = packed(1, 11, LINE)[0]
    for bad in (b"", good[:10], b"XXXX" + good[4:], good[:-3], good + b"!", good[:4] + b"\0\0" + good[6:],
                good[:6] + b"\x05\x02" + good[8:], good[:7] + b"\xff" + good[8:]):  # fmt: skip
        assert feeds.take(bad, "a", 1.2) is None
    assert len(feeds.figure(1, 1.2)) == 300
    assert sum(feeds.dropped.values()) == 9
    # Another sender, or one that was started again, is heard; round the end of its count, too.
    assert feeds.take(packed(1, 0, LINE)[0], "b", 1.3) == 1
    feeds.take(packed(2, 0xFFFFFFFF, CIRCLE)[0], "a", 1.0)
    assert feeds.take(packed(2, 0, LINE)[0], "a", 1.1) == 2


def test_a_feed_that_falls_silent_goes_dark():
    feeds = Feeds()
    feeds.take(packed(1, 1, CIRCLE)[0], "a", 1.0)
    assert len(feeds.figure(1, 1.0 + LOST_S - 0.01)) == 300
    assert len(feeds.figure(1, 1.0 + LOST_S)) == 0
    assert feeds.told(5.0)[0]["heard"] is False


def test_of_feeds_that_nobody_takes_no_points_are_kept():
    feeds = Feeds()
    feeds.wanted = frozenset({1})
    assert feeds.take(packed(2, 1, CIRCLE)[0], "a", 1.0) is None
    assert feeds.take(packed(1, 1, CIRCLE)[0], "a", 1.0) == 1
    assert len(feeds.figure(2, 1.0)) == 0
    # They are told all the same, so that one sees what could be taken.
    assert [(one["feed"], one["points"], one["heard"]) for one in feeds.told(1.1)] == [(1, 300, True), (2, 300, True)]


class Stage:
    """Two lasers with feeds 1 and 2, and what is made for viewers of them."""

    def __init__(self) -> None:
        self.bench = bench = Workbench()
        give_stilt(bench)
        self.heads = [laser(bench, (x, 0.0, 4.0), (x, -50.0, 4.0), str(n)) for n, x in ((31, -2.0), (32, 2.0))]
        bench.do("number feeds", ids=self.heads)
        bench.do("hold values", ids=self.heads, values={"dimmer": 1.0, "red": 1.0, "green": 1.0, "blue": 1.0})
        self.engine = Engine(lambda: 100.0)
        self.lasers = Lasers(self.engine)
        self.tell()

    def tell(self) -> None:
        self.engine.set_rig(live_rig(1, patch_rows(self.bench.show)))
        hands = {item.id: fixture.hands for item, fixture in self.bench.show.fixtures()}
        fixed = {item.id: fixture.fixed for item, fixture in self.bench.show.fixtures()}
        self.engine.set_drive(None, hands, True, fixed)
        self.engine.publish()
        told = orjson.loads(orjson.dumps(sent(plan_of(self.bench.show))))
        self.lasers.set(received(told), 5)

    def look(self):
        """Angles (n, 2) and light (n, 3) by head; None where nothing is new."""
        data = self.lasers.look(100.0)
        if data is None:
            return None
        _, kind, _, plan, _, _, count, total = HEADER.unpack_from(data)
        assert (kind, plan) == (LASERS, 5)
        table = np.frombuffer(data, "<u2", count * 2, HEADER.size).reshape(-1, 2)
        places = np.frombuffer(data, PLACE, total, HEADER.size + count * 4)
        assert len(data) == HEADER.size + count * 4 + total * 8
        found, at = {}, 0
        for row, n in table.tolist():
            some = places[at : at + n]
            at += n
            found[row] = np.stack([some["a"], some["b"]], axis=-1) * ANGLE_STEP, some["rgb"] / 255
        return found


def test_each_head_draws_its_own_feed_in_its_zone_as_bright_as_it_is_told():
    stage = Stage()
    assert stage.look() == {}
    stage.lasers.feeds.take(packed(2, 1, CIRCLE)[0], "a", 100.0)
    (row,) = seen = stage.look()
    assert row == 1
    angles, light = seen[1]
    # The usual zone: 40 by 20 degrees, a little smaller by the mirrors at 100 Hz.
    assert np.abs(angles).max(axis=0) == pytest.approx([20, 10], rel=0.01)
    assert light.max(axis=0).tolist() == [1, 0, 0]
    assert stage.look() is None
    stage.bench.do("hold values", ids=stage.heads, values={"dimmer": 0.4})
    stage.bench.do("set field", ids=stage.heads, field="zone width", text="10")
    stage.tell()
    angles, light = stage.look()[1]
    assert np.abs(angles[:, 0]).max() == pytest.approx(5, rel=0.01)
    assert light.max() == pytest.approx(0.4, abs=0.003)


def test_a_zone_is_mirrored_and_switched_by_what_its_head_is_told():
    stage = Stage()
    one_side = figure(np.stack([0.5 + 0.4 * np.cos(TURN), 0.4 * np.sin(TURN)], axis=-1), (0, 0, 255))
    stage.lasers.feeds.take(packed(1, 1, one_side)[0], "a", 100.0)
    assert stage.look()[0][0][:, 0].mean() == pytest.approx(10, abs=0.3)
    stage.bench.do("hold values", ids=stage.heads, values={"zone mirror": 1.0})
    stage.tell()
    assert stage.look()[0][0][:, 0].mean() == pytest.approx(-10, abs=0.3)
    stage.bench.do("hold values", ids=stage.heads, values={"zone": 0.0})
    stage.tell()
    assert stage.look() == {}


def test_heads_are_verified_one_by_one_with_their_number():
    stage = Stage()
    for feed in (1, 2):
        stage.lasers.feeds.take(packed(feed, 1, CIRCLE)[0], "a", 100.0)
    assert set(stage.look()) == {0, 1}
    stage.lasers.test(Trial(frozenset(), stage.heads[1]))
    seen = stage.look()
    assert set(seen) == {1}
    # Its edge goes to the zone's corners, and it has its number: more light than a frame of lines.
    assert np.abs(seen[1][0]).max(axis=0) == pytest.approx([20, 10], rel=0.02)
    assert len(pattern(32)) > len(pattern(7)) > 200
    stage.lasers.test(Trial())
    assert set(stage.look()) == {0, 1}


def test_a_file_on_a_head_plays_frame_by_frame_over_its_feed():
    stage = Stage()
    stage.bench.do("draw file", ids=stage.heads[:1], asset="waves", name="Waves.ild")
    stage.tell()
    import base64

    frames = [base64.b64encode(one.tobytes()).decode() for one in (CIRCLE, LINE)]
    stage.lasers.set_files({"waves": frames}, ["waves"])
    shown = {len(stage.lasers._figure(stage.lasers.plan[0], 50 + t / 100)[0]) for t in range(8)}
    assert shown == {300, 40}
    assert np.array_equal(np.frombuffer(base64.b64decode(frames[1]), POINT), LINE)


def test_the_simulated_feed_is_heard_over_the_loopback_by_its_documented_stream(tmp_path):
    lasers = Lasers(Engine())
    receiver = LaserReceiver(lasers, own_address(), 7254)
    receiver.start()
    program = [sys.executable, "-m", "zarfwright.standins.lasers.process", "--to", f"{receiver.address}:7254"]
    feed = subprocess.Popen([*program, "--feeds", "1-11,64", "--points", "2000"], stdin=subprocess.PIPE)
    try:
        wait_for(lambda: len(lasers.feeds.by_number) == 12, "twelve feeds", PATIENCE_S)
        assert {len(one.figure) for one in lasers.feeds.by_number.values()} == {2000}
        wait_for(lambda: all(one.frames > 5 for one in lasers.feeds.by_number.values()), "frames", PATIENCE_S)
    finally:
        feed.stdin.close()
        assert feed.wait(PATIENCE_S) == 0
    assert not lasers.feeds.dropped
    assert receiver.report()["problem"] == ""


def test_two_that_listen_on_one_port_say_so():
    address = own_address()
    first, second = (LaserReceiver(Lasers(Engine()), address, 7254) for _ in range(2))
    held = first._open()
    second.start()
    wait_for(lambda: second.problem, "the refusal", PATIENCE_S)
    assert address in second.problem
    held.close()
