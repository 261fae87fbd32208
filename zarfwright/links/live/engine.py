"""What is heard, what drives, and the frame that comes of it. State is touched under `lock` only."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.carriers.plan import NOTHING, Plan
from zarfwright.core.drive import TOLD_BY, value_rows
from zarfwright.core.looks.said import Said, Values, packed, table_of
from zarfwright.core.playback.transport import Command
from zarfwright.links.artnet import ArtNetSources, replies
from zarfwright.links.live import clock
from zarfwright.links.live.inputs import Heard, Inputs, Key, merged_levels
from zarfwright.links.live.moving import Moving
from zarfwright.links.live.playing import Drive, LiveRig, Moment, Picture, live_rig
from zarfwright.links.live.report import report
from zarfwright.links.live.run import Run
from zarfwright.links.sources import Source

HELD_MOST = 1024
"""So many universes that nobody has patched may be held."""


@dataclass(frozen=True, eq=False)
class Published:
    """A frame to be sent: beams (n, fields), and which of them changed since the last one; None: nobody knows."""

    rig: int
    raw: NDArray[np.uint16]
    changed: NDArray[np.int64] | None
    came: float
    """When the oldest packet in it came."""
    poses: NDArray[np.float32] | None = None
    """(g, 8) where drivers have brought what they move; None: where it was in the frame before."""
    plan: int = 0
    """The number of the plan that those are by."""


@dataclass(eq=False)
class Sent:
    """What was published last of a rig: as it is worked out, (fields, n), and as it is sent, (n, fields)."""

    playing: LiveRig
    fields: NDArray[np.uint16]
    raw: NDArray[np.uint16]

    def bring(self, frame: NDArray[np.float32], rows: Sequence[slice]) -> NDArray[np.int64] | None:
        """Bring some rows of a picture (n, fields) into it: which beams are others than before. None: most of them."""
        others = []
        for one in rows:
            packed = self.playing.scaling.packed_fields(frame[one])
            differs = (packed != self.fields[:, one]).any(axis=0)
            others.append(one.start + np.flatnonzero(differs))
            self.fields[:, one] = packed
        found = np.concatenate(others) if others else np.zeros(0, dtype=np.int64)
        if 2 * len(found) > len(self.raw):
            self.raw = self.playing.outside(self.fields.T)
            return None
        places = self.playing.place[found]
        # Whoever sends the one before still reads it.
        self.raw = self.raw.copy()
        self.raw[places] = self.fields[:, found].T
        return np.sort(places)


class Engine:
    """The live state."""

    def __init__(self, clock: Callable[[], float] = clock.now) -> None:
        self.lock = threading.Condition()
        self.inputs = Inputs(self._leaving)
        self.playing = live_rig(0, [])
        self.look: Values = {}
        self.run: Run | None = None
        self.looks: dict[str, Said] = {}
        """What the looks of a run say, by the keys that its steps have them by."""
        self.hands: dict[str, dict[str, float]] = {}
        self.fixed: dict[str, dict[str, float]] = {}
        self.follow = True
        self.first = False
        """Whether a look or a run has the say over the console."""
        self.levels: dict[int, bytes] = {}
        """The 512 levels of each universe of the show. Bytes: mostly they are the very ones that a source sent."""
        self.dirty: set[int] = set()
        self.changed = True
        self.first_dirty_at = 0.0
        self.computing = threading.Lock()
        self.clock = clock
        self._news: set[int] = set()
        """The universes whose levels are others than in the picture."""
        self.moving = False
        self._moved_at = clock()
        self.picture = Picture(self.playing)
        self._drive = Drive(self.playing.rig.home)
        self.carried = Moving(NOTHING, self.playing)
        self._published: Sent | None = None
        self._astray = False
        """Whether the picture was worked out without being published."""
        self.latency: deque[float] = deque(maxlen=2000)

    # What comes in

    def set_connections(self, heard: list[Heard]) -> None:
        """Hear other connections; what is silenced is held."""
        with self.lock:
            before = set(self.inputs.by_universe)
            self.inputs.hear(heard)
            now = self.clock()
            self._touch({*before, *self.inputs.by_universe}, now)
            # Where nothing is live any more, there is nothing to wait for.
            self.lock.notify_all()

    def packets(self, key: Key, datagrams: Sequence[tuple[bytes, str]], now: float) -> None:
        """Datagrams that came in on an address of this machine, each with its sender's address."""
        with self.lock:
            registry = self.inputs.registries.get(key)
            if registry is None:
                return
            # Ten thousand packets a second come through here: what can be said of all at once is.
            take, spoken = registry.take, set[int]()
            for data, address in datagrams:
                spoken.update(take(data, address, now))
            lands, heard, touched = registry.lands, self.inputs.by_universe, list[int]()
            for universe in spoken:
                for landed in lands.get(universe) or self.inputs.landings(key, universe):
                    sources = heard.get(landed, ())
                    if len(sources) < 2 or not self._outvoted(landed, sources, now):
                        touched.append(landed)
            if touched:
                self._touch(touched, now)

    def _outvoted(self, universe: int, heard: Sequence[Source], now: float) -> bool:
        """Whether whoever just spoke for a universe changes nothing of it: one that stands by, while another has the
        say. Frames are paced by those who are seen."""
        best = heard[0]
        for source in heard[1:]:
            if source.priority > best.priority:
                best = source
        for source in heard:
            # Of several who have the say together each may bring news.
            if source.priorities or (source is not best and source.priority == best.priority):
                return False
        return best.heard_at != now and best.held == self.levels.get(universe)

    def packet(self, key: Key, data: bytes, address: str, now: float) -> None:
        """One such datagram."""
        self.packets(key, ((data, address),), now)

    def answers(self, key: Key) -> list[tuple[str, bytes]]:
        """What is to be answered to who asked by Art-Net who is there: what of a patch is heard there."""
        with self.lock:
            registry = self.inputs.registries.get(key)
            if not isinstance(registry, ArtNetSources) or not registry.polled:
                return []
            asked, registry.polled = registry.polled, set()
            ours = [one.connection for one in self.inputs.heard if one.key == key and one.audible]
            heard = (one.heard_as(universe) for one in ours for universe in self.playing.rig.universes)
            made = replies(key[1], "Zarfwright", (one for one in heard if one is not None), "shows what it hears")
        return [(address, reply) for address in sorted(asked) for reply in made]

    def _leaving(self, universe: int) -> None:
        """A source goes: what it said last, and nobody has taken yet, is what is held."""
        if universe in self.dirty and self._merge(universe):
            self._news.add(universe)

    def _touch(self, universes: Iterable[int], now: float) -> None:
        first = not self.dirty
        if first:
            self.first_dirty_at = now
        self.dirty.update(universes)
        # The publisher wakes when the first comes and when all have come, not for each.
        if first or len(self.dirty) >= len(self.inputs.by_universe):
            self.lock.notify_all()

    def set_rig(self, playing: LiveRig) -> None:
        with self.computing, self.lock:
            playing.whole.travel.continue_from(self.playing.whole.travel, playing.rig.keys, self.playing.rig.keys)
            self.playing = playing
            self._carry(self.carried.asked, self.carried.number)
            self.run = self.run.over(playing) if self.run is not None else None
            self._settle_rows()

    def set_plan(self, plan: Plan, number: int) -> None:
        """Let drivers move other things, or the same ones otherwise: they go on from where they were."""
        with self.computing, self.lock:
            self._carry(plan, number)
            self.changed = True
            self.lock.notify_all()

    def _carry(self, plan: Plan, number: int) -> None:
        made = Moving(plan, self.playing, number)
        made.continue_from(self.carried)
        self.carried = made

    def set_drive(
        self,
        look: Values | None,
        hands: dict[str, dict[str, float]] | None,
        follow: bool,
        fixed: dict[str, dict[str, float]] | None = None,
        first: bool = False,
    ) -> None:
        """What else drives, and what is set at the lamps themselves; None leaves each as it is. With `first`, look and
        run have the say over the console."""
        with self.lock:
            self.look = self.look if look is None else look
            self.hands = self.hands if hands is None else hands
            self.fixed = self.fixed if fixed is None else fixed
            self.follow, self.first = follow, first
            self._settle_rows()

    def set_run(self, run: Run | None) -> None:
        """Play a running order in place of a look, from where it stands; None: none."""
        with self.lock:
            self.run = run
            self._settle_rows()

    def command_run(self, command: Command, value: float | None) -> None:
        """Play, pause, step, scrub."""
        with self.lock:
            if self.run is not None:
                self.run.command(command, self.clock(), value)
                self.moving = True
                self.lock.notify_all()

    def run_told(self) -> dict[str, Any] | None:
        """Where the running order stands; None: none is played."""
        run = self.run
        return run.told(self.clock()) if run is not None else None

    def _settle_rows(self) -> None:
        rig = self.playing.rig
        hands, fixed = (value_rows(rig, said) if said else None for said in (self.hands, self.fixed))
        travelled = self.run is not None
        if self.run is not None:
            self.run.anew()
        look = np.full(rig.home.shape, np.nan) if travelled else value_rows(rig, self.look)
        self._drive = Drive(look, hands, fixed, self.follow, self.first, travelled)
        self.changed = True
        self.lock.notify_all()

    def restore(self, levels: Mapping[int, bytes]) -> None:
        """Hold levels that were heard before this process started."""
        with self.lock:
            for universe, held in levels.items():
                if universe not in self.levels and len(held) == 512:
                    self.levels[universe] = held
            self.changed = True
            self.lock.notify_all()

    def heard_levels(self) -> tuple[dict[int, bytes], list[int]]:
        """The levels of every universe of the show, and which of them are heard just now."""
        with self.lock:
            self._merge_dirty()
            self.changed = True
            return dict(self.levels), sorted(u for u, heard in self.inputs.by_universe.items() if heard)

    def check_lost(self, now: float) -> None:
        """Forget the sources that fell silent; what they left is merged again, or held."""
        with self.lock:
            for key, registry in self.inputs.registries.items():
                for source in registry.forget_lost(now):
                    self._touch(self.inputs.landings(key, source.universe, source.preview), now)
            self._let_go_of_strangers()

    def _let_go_of_strangers(self) -> None:
        """Levels of universes that are neither patched nor live are held as long as there is room."""
        over = len(self.levels) - HELD_MOST - len(self.playing.rig.universes)
        if over > 0:
            kept = {*self.playing.rig.universes, *self.inputs.by_universe}
            for universe in [one for one in self.levels if one not in kept][:over]:
                del self.levels[universe]

    # What goes out

    def all_seen(self) -> bool:
        """Whether every universe that has a source has spoken since the last frame."""
        return len(self.dirty) >= len(self.inputs.by_universe)

    def _merge(self, universe: int) -> bool:
        """Merge one universe; whether any level is another than before. Consoles mostly repeat themselves."""
        before, heard = self.levels.get(universe), self.inputs.by_universe.get(universe, ())
        if len(heard) == 1 and not heard[0].priorities:
            new = heard[0].held
        else:
            new = merged_levels([source for source in heard if source.held], before)
        if not new or new == before:
            return False
        self.levels[universe] = new
        return True

    def _merge_dirty(self) -> None:
        """Merge what was heard; where any level is another than before, that is news."""
        self._news.update(universe for universe in self.dirty if self._merge(universe))
        self.dirty.clear()

    def take_in(self) -> None:
        """Merge what was heard, with no picture made of it yet."""
        with self.lock:
            self._merge_dirty()
            if self._news:
                self.lock.notify_all()

    @property
    def waiting(self) -> bool:
        """Whether there is something to publish."""
        return bool(self.dirty or self._news or self.changed or self.moving)

    def beams(self) -> tuple[LiveRig, NDArray[np.float32], float]:
        """The rig, its beams as they are now (n, fields), and when the oldest packet in them came: merged, decoded,
        settled, travelled. Call without the lock."""
        with self.computing:
            came, _ = self._work()
            self._astray = True
            return self.playing, self.playing.outside(self.picture.frame), came

    def publish(self) -> Published:
        """As `beams`, packed to be sent, with which beams are not as they were published last."""
        with self.computing:
            came, rows = self._work()
            playing, published = self.playing, self._published
            if published is None or published.playing is not playing:
                sent = playing.scaling.packed_fields(self.picture.frame)
                published = Sent(playing, sent, playing.outside(sent.T))
                changed = None
            else:
                rows = [playing.whole.rows] if self._astray else rows
                changed = published.bring(self.picture.frame, rows)
            self._astray = False
            self._published = published
            carried = self.carried
            poses = carried.carrying.poses.astype(np.float32) if carried.fresh else None
            carried.fresh = False
        return Published(playing.number, published.raw, changed, came, poses, carried.number)

    def _work(self) -> tuple[float, list[slice]]:
        """Bring the picture up to date: when the oldest packet in it came, and the rows that were worked out. The
        receiver goes on while this computes: only what was heard is copied under the lock."""
        with self.lock:
            now = self.clock()
            came = self.first_dirty_at if self.dirty else now
            self._merge_dirty()
            whole = self.changed or self.picture.playing is not self.playing
            if self.picture.playing is not self.playing:
                self.picture = Picture(self.playing)
            self.changed = False
            news, self._news = self._news, set()
            picture, drive, run = self.picture, self._drive, self.run
            picture.take(self.levels if whole else news, self.levels)
        rows = run.rows(now) if run is not None and run.rig is self.picture.playing else None
        if rows is not None:
            drive, whole = replace(drive, look=rows), True
            with self.lock:
                if self._drive.travelled and self.run is run:
                    self._drive = drive
        elapsed, self._moved_at = now - self._moved_at, now
        worked: list[slice] = []
        if whole or news or picture.moving:
            steps = self.playing.whole.travel.due(elapsed)
            worked = picture.work(None if whole else news, drive, Moment(now, elapsed, steps))
        worked += self.carried.step(picture, drive, elapsed)
        with self.lock:
            self._goes_on(run, picture, now)
        return came, worked

    def _goes_on(self, run: Run | None, picture: Picture, now: float) -> None:
        """Whether there is something to be shown soon, though nothing is heard. Under the lock."""
        runs = run is not None and run.goes and not run.waits(now)
        self.moving = bool(picture.moving) or self.carried.moves or runs
        if self.moving:
            self.lock.notify_all()

    # What is told

    def values(self) -> Said:
        """What every beam shows now, or is on its way to, as a look keeps it."""
        with self.computing:
            self._work()
            self._astray = True
            told = self.carried.kept_in(self.picture.exactly(self._drive))
            kept = packed(table_of(self.picture.playing.rig.keys, told))
        with self.lock:
            # That picture has not been published: the publisher makes it again.
            self.changed = True
            self.lock.notify_all()
        return kept

    def poses(self) -> dict[str, list[float]]:
        """Where drivers have brought what they move, by the id of its thing: position, rotation, size."""
        with self.computing:
            carried = self.carried
            ids = [group.id for group in carried.asked.groups]
            return dict(zip(ids, carried.carrying.poses.tolist(), strict=True))

    def status(self, now: float) -> dict[str, Any]:
        """What the Signal step shows."""
        waits = sorted([*self.latency])
        return {
            **report(self.inputs, self.levels, self.playing.rig.universes, now),
            "drivers": self.drivers(),
            "latency_ms": {
                "p50": round(waits[len(waits) // 2] * 1000, 2) if waits else 0.0,
                "p99": round(waits[int(len(waits) * 0.99)] * 1000, 2) if waits else 0.0,
            },
        }

    def drivers(self) -> dict[str, str]:
        """Who drives each fixture; for one held by hand in part, what drives the rest is not said."""
        picture = self.picture
        return _drivers(picture.playing.rig.fixtures, picture.driver)


def _drivers(fixtures: Sequence[str], driver: NDArray[np.int64]) -> dict[str, str]:
    if len(driver) and (driver == driver[0]).all():
        return dict.fromkeys(fixtures, TOLD_BY[driver[0]])
    found: dict[str, int] = {}
    for fixture, one in zip(fixtures, driver.tolist(), strict=True):
        # One cell held by hand makes the fixture one that hands are on.
        found[fixture] = max(one, found.get(fixture, 0))
    return {fixture: TOLD_BY[one] for fixture, one in found.items()}
