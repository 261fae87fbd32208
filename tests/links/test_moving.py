"""What drivers move, live: poses that go out with frames, held and brought home, and heads turned along."""

import numpy as np
import pytest

from tests.conftest import Workbench
from tests.core.driven import channel, do
from tests.links.test_engine import SACN, connect
from tests.links.test_sacn import packet
from zarfwright.core.carriers.plan import received, sent
from zarfwright.core.carriers.planned import plan_of
from zarfwright.core.connections import Connection
from zarfwright.core.looks.said import said_of
from zarfwright.core.patch import patch_rows
from zarfwright.core.picture import COLUMN
from zarfwright.core.playback.order import Step
from zarfwright.core.playback.transport import Transport
from zarfwright.links.frames import HEADER, POSES, poses_message
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.playing import live_rig
from zarfwright.links.live.run import Run

PAN, TILT = COLUMN["pan"], COLUMN["tilt"]


class Clock:
    """A time that a test turns."""

    def __init__(self):
        self.now = 100.0

    def __call__(self):
        return self.now


class Stage:
    """A show with a bridge that lifts, six heads on it that keep their aim, and the engine that plays it."""

    def __init__(self):
        self.bench = bench = Workbench()
        truss = bench.made("add truss", length="8m", start_trim="5m", y="US 9")
        self.heads = bench.do("place along rail", structure=truss, type="heron", count="6").select
        self.carrier = bench.made("make carrier", ids=[truss, *self.heads], name="Bridge", pivot=[0, 9, 5])
        channels = [channel("z", "0m", "0m", "3m", speed="3", quick="6")]
        self.driver = do(bench, "add driver", thing=self.carrier, channels=channels, returns=True, start="1.001")
        point = bench.made("add focus point", name="Lectern", point=[0, 1, 1.6])
        bench.do("aim at", ids=list(self.heads), focus=point)
        bench.do("keep aim", ids=list(self.heads))
        self.clock, self.heard = Clock(), 0
        self.engine = Engine(self.clock)
        connect(self.engine, Connection("desk", "sACN"))
        self.engine.set_rig(live_rig(1, patch_rows(bench.show)))
        self.engine.set_plan(received(sent(plan_of(bench.show))), 7)

    def hear(self, *levels):
        self.heard += 1
        data = bytes(packet(universe=1, levels=list(levels), sequence=self.heard))
        self.engine.packet(SACN, data, "127.0.0.1", self.clock.now)

    def after(self, seconds):
        """The frames of some seconds; gives the last pose that was told in them."""
        told = None
        for _ in range(round(seconds * 44)):
            self.clock.now += 1 / 44
            made = self.engine.publish()
            told = made.poses if made.poses is not None else told
        return told

    @property
    def height(self):
        return self.engine.poses()[self.carrier][2]


@pytest.fixture
def stage():
    return Stage()


def test_poses_are_told_at_first_and_then_when_they_change(stage):
    first = stage.engine.publish()
    assert first.plan == 7
    assert first.poses.tolist() == [[0, 0, 0, 0, 0, 0, 1, 1]]
    assert stage.after(0.5) is None
    stage.hear(255, 255, 0)
    told = stage.after(0.25)
    assert told is not None
    assert 0 < told[0, 2] < 0.3
    assert stage.engine.waiting
    stage.after(2.0)
    assert stage.height == pytest.approx(3.0)
    assert stage.after(0.2) is None
    assert not stage.engine.moving


def test_nothing_jumps_when_a_console_comes_goes_or_is_not_followed(stage):
    stage.hear(128, 0, 0)
    stage.after(0.5)
    assert stage.height == 0.0
    stage.hear(255, 255, 0)
    stage.after(3.0)
    # The console falls silent: what it said last holds.
    stage.engine.check_lost(stage.clock.now + 60)
    stage.after(0.5)
    assert stage.height == pytest.approx(3.0)
    stage.engine.set_drive(None, None, False)
    heights = []
    for _ in range(100):
        stage.after(1 / 44)
        heights.append(stage.height)
    assert max(-np.diff(heights)) <= 3.0 / 44 + 1e-6
    assert heights[-1] == 0.0


def test_a_rig_or_a_plan_that_is_told_anew_leaves_things_where_they_were(stage):
    stage.hear(255, 255, 0)
    stage.after(0.6)
    before = stage.height
    stage.engine.set_rig(live_rig(2, patch_rows(stage.bench.show)))
    stage.engine.set_plan(plan_of(stage.bench.show), 8)
    made = stage.engine.publish()
    assert made.plan == 8
    assert made.poses[0, 2] == pytest.approx(before, abs=0.1)
    stage.after(2.0)
    assert stage.height == pytest.approx(3.0)


def test_the_return_brings_it_home_and_holds_while_it_is_on(stage):
    stage.hear(255, 255, 0)
    stage.after(3.0)
    stage.hear(255, 255, 200)
    stage.after(3.0)
    assert stage.height == 0.0
    stage.hear(255, 255, 100)
    stage.after(3.0)
    assert stage.height == pytest.approx(3.0)


def test_heads_turn_as_they_are_carried_and_so_they_are_kept(stage):
    rig, beams, _ = stage.engine.beams()
    rows = [[*rig.outside(np.array(rig.rig.fixtures))].index(head) for head in stage.heads]
    at_home = beams[rows][:, [PAN, TILT]]
    hands = {head: stage.bench.body(head).hands for head in stage.heads}
    assert at_home == pytest.approx(np.array([[one["pan"], one["tilt"]] for one in hands.values()]), abs=1e-3)
    stage.hear(255, 255, 0)
    stage.after(3.0)
    _, beams, _ = stage.engine.beams()
    assert np.abs(beams[rows][:, TILT] - at_home[:, 1]).min() > 0.1
    kept = stage.engine.values()
    assert [kept[head]["tilt"] for head in stage.heads] == pytest.approx(beams[rows][:, TILT].tolist(), abs=1e-4)
    # However they are told to turn meanwhile.
    stage.engine.set_drive(None, {head: {"pan": 0.0, "tilt": 0.0} for head in stage.heads}, True)
    _, again, _ = stage.engine.beams()
    assert again[rows] == pytest.approx(beams[rows])


def test_a_running_order_that_is_scrubbed_has_it_where_it_would_be_then(stage):
    looks = {"down": said_of({stage.driver: {"shift z": 0.0}}), "up": said_of({stage.driver: {"shift z": 3.0}})}
    steps = (Step("a", "down", 0.0, hold_s=5.0), Step("b", "up", 0.0, hold_s=5.0))
    playing = stage.engine.playing
    # 3 m at 3 m/s and 6 m/s2: half a second up to speed, 0.75 m; 1.5 s in all.
    for at, height in ((4.0, 0.0), (5.5, 0.75), (6.0, 2.25), (9.0, 3.0), (5.0, 0.0)):
        stage.engine.set_run(Run("o", steps, [(None, None, None)] * 2, looks, playing, Transport(at_s=at)))
        stage.after(1 / 44)
        assert stage.height == pytest.approx(height, abs=1e-3)


def test_drivers_that_the_rig_does_not_have_move_nothing():
    engine = Engine(Clock())
    nowhere, straight = [0, 0, 0], [0, 0, 0, 1]
    groups = [["c", -1, [["gone", nowhere, straight]]]]
    engine.set_plan(received({"groups": groups, "keepers": [["gone", 0, nowhere, straight, [1, 1, 1], -1]]}), 1)
    made = engine.publish()
    assert made.poses.tolist() == [[0, 0, 0, 0, 0, 0, 1, 1]]


def test_poses_on_the_wire():
    told = np.array([[1, 2, 3, 0, 0, 0, 1, 2]], dtype=np.float32)
    message = poses_message(told, 70, 65537, 12.0)
    sequence, kind, fields, plan, *_, count, _ = HEADER.unpack_from(message)
    assert (sequence, kind, fields, plan, count) == (70, POSES, 8, 1, 1)
    assert np.frombuffer(message[HEADER.size :], "<f4").tolist() == told[0].tolist()
