"""What is heard, what drives, and the frame that comes of it. State is touched under `lock` only."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray
from pydantic import TypeAdapter

from zarfwright.core.compiled import compiled
from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.rows import PatchRow, received
from zarfwright.core.drive import TOLD_BY, settle, value_rows
from zarfwright.core.looks import kept_values
from zarfwright.core.motion import Spinning, Travel
from zarfwright.core.picture import BeamTable
from zarfwright.core.programs import Programs
from zarfwright.core.space import Floats
from zarfwright.core.types.chain import chain_of
from zarfwright.core.types.model import FixtureType
from zarfwright.links.artnet import ArtNetSources, replies
from zarfwright.links.frames import Scaling, scaling
from zarfwright.links.live import clock
from zarfwright.links.live.inputs import Heard, Inputs, Key, merged
from zarfwright.links.live.report import report

HELD_MOST = 1024
"""So many universes that nobody has patched may be held."""
TYPE_ADAPTER: TypeAdapter[FixtureType] = TypeAdapter(FixtureType)


@dataclass(frozen=True, eq=False)
class LiveRig:
    """A rig as it is played: compiled whole, swapped whole."""

    number: int
    rig: CompiledRig
    beams: BeamTable
    scaling: Scaling
    decoder: Decoder
    travel: Travel
    spinning: Spinning
    programs: Programs


def received_rig(number: int, types: Mapping[str, Any], rows: list[list[Any]]) -> LiveRig:
    """Compile what the desk sends: types as JSON by id, and rows (core/dmx/rows.py)."""
    known = {key: _type_of(orjson.dumps(value)) for key, value in types.items()}
    return live_rig(number, [received(row, known) for row in rows])


@lru_cache(maxsize=200)
def _type_of(text: bytes) -> FixtureType:
    """A type from its JSON; the very same one where nothing of it has changed, so that it is not compiled anew."""
    return TYPE_ADAPTER.validate_json(text)


def scaling_of(rows: Sequence[PatchRow]) -> Scaling:
    """How the frames of a rig are scaled: by how far its heads turn."""
    turns = max((abs(end) for row in rows for end in chain_of(row.type, row.mode).pan_range), default=2 * np.pi)
    return scaling(max(turns, 1.0))


def live_rig(number: int, rows: Sequence[PatchRow]) -> LiveRig:
    """Compile rows."""
    made = compiled(rows)
    travel, spinning = Travel(rows), Spinning(len(made.rig.keys))
    return LiveRig(
        number, made.rig, made.beams, scaling_of(rows), Decoder(made.rig), travel, spinning, Programs(made.beams)
    )


class Engine:
    """The live state."""

    def __init__(self, clock: Callable[[], float] = clock.now) -> None:
        self.lock = threading.Condition()
        self.inputs = Inputs(self._leaving)
        self.playing = live_rig(0, [])
        self.look: dict[str, dict[str, float]] = {}
        self.hands: dict[str, dict[str, float]] = {}
        self.fixed: dict[str, dict[str, float]] = {}
        self.follow = True
        self.levels: dict[int, NDArray[np.uint8]] = {}
        self.dirty: set[int] = set()
        self.changed = True
        self.first_dirty_at = 0.0
        self.computing = threading.Lock()
        self.clock = clock
        self.moving = False
        self._moved_at = clock()
        self.shown: Floats = self.playing.rig.home
        self._shown_rig = self.playing.rig
        self.driver: NDArray[np.int64] = np.zeros(0, dtype=np.int64)
        self._look_rows = self._hand_rows = self._fixed_rows = self.playing.rig.home
        self._last: tuple[LiveRig, NDArray[np.float32]] | None = None
        self.latency: deque[float] = deque(maxlen=2000)

    # What comes in

    def set_connections(self, heard: list[Heard]) -> None:
        """Hear other connections; what is silenced is held."""
        with self.lock:
            before = set(self.inputs.by_universe)
            self.inputs.hear(heard)
            now = self.clock()
            for universe in {*before, *self.inputs.by_universe}:
                self._touch(universe, now)
            # Where nothing is live any more, there is nothing to wait for.
            self.lock.notify_all()

    def packets(self, key: Key, datagrams: Sequence[tuple[bytes, str]], now: float) -> None:
        """Datagrams that came in on an address of this machine, each with its sender's address."""
        with self.lock:
            registry = self.inputs.registries.get(key)
            if registry is None:
                return
            for data, address in datagrams:
                for universe in registry.take(data, address, now):
                    for landed in registry.lands.get(universe) or self.inputs.landings(key, universe):
                        self._touch(landed, now)

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
            self.changed = True

    def _touch(self, universe: int, now: float) -> None:
        if not self.dirty:
            self.first_dirty_at = now
            self.dirty.add(universe)
            self.lock.notify_all()
            return
        self.dirty.add(universe)
        # The publisher wakes when the first comes and when all have come, not for each.
        if len(self.dirty) >= len(self.inputs.by_universe):
            self.lock.notify_all()

    def set_rig(self, playing: LiveRig) -> None:
        with self.computing, self.lock:
            playing.travel.continue_from(self.playing.travel, playing.rig.keys, self.playing.rig.keys)
            self.playing = playing
            self._settle_rows()

    def set_drive(
        self,
        look: dict[str, dict[str, float]] | None,
        hands: dict[str, dict[str, float]] | None,
        follow: bool,
        fixed: dict[str, dict[str, float]] | None = None,
    ) -> None:
        """What else drives, and what is set at the lamps themselves; None leaves each as it is."""
        with self.lock:
            self.look = self.look if look is None else look
            self.hands = self.hands if hands is None else hands
            self.fixed = self.fixed if fixed is None else fixed
            self.follow = follow
            self._settle_rows()

    def _settle_rows(self) -> None:
        self._look_rows = value_rows(self.playing.rig, self.look)
        self._hand_rows = value_rows(self.playing.rig, self.hands)
        self._fixed_rows = value_rows(self.playing.rig, self.fixed)
        self.changed = True
        self.lock.notify_all()

    def restore(self, levels: Mapping[int, bytes]) -> None:
        """Hold levels that were heard before this process started."""
        with self.lock:
            for universe, held in levels.items():
                if universe not in self.levels and len(held) == 512:
                    self.levels[universe] = np.frombuffer(held, dtype=np.uint8).copy()
            self.changed = True
            self.lock.notify_all()

    def check_lost(self, now: float) -> None:
        """Forget the sources that fell silent; what they left is merged again, or held."""
        with self.lock:
            for key, registry in self.inputs.registries.items():
                for source in registry.forget_lost(now):
                    for landed in self.inputs.landings(key, source.universe, source.preview):
                        self._touch(landed, now)
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
        heard = self.inputs.sources(universe)
        before = self.levels.get(universe)
        if not heard:
            return False
        if len(heard) == 1 and not heard[0].priorities:
            self.levels[universe] = heard[0].levels
            return before is None or before.tobytes() != heard[0].held
        out, _ = merged(heard, before)
        self.levels[universe] = out
        return before is None or bool((before != out).any())

    def _merge_dirty(self) -> bool:
        """Merge what was heard; whether any level is another than before."""
        news = [self._merge(universe) for universe in self.dirty]
        self.dirty.clear()
        return any(news)

    def take_in(self) -> None:
        """Merge what was heard, with no picture made of it yet."""
        with self.lock:
            self.changed = self._merge_dirty() or self.changed

    def beams(self) -> tuple[LiveRig, NDArray[np.float32], float]:
        """Merge, decode, settle, travel: the rig, its beams (n, fields), and when the oldest packet in them came.

        The receiver goes on while this computes: only what was heard is copied under the lock. Call without the lock.
        """
        with self.computing:
            with self.lock:
                now = self.clock()
                came = self.first_dirty_at if self.dirty else now
                news = self._merge_dirty() or self.changed or self.moving
                self.changed = False
                if not news and self._last is not None and self._last[0] is self.playing:
                    self._moved_at = now
                    return (*self._last, came)
                playing, follow = self.playing, self.follow
                look, hands, fixed = self._look_rows, self._hand_rows, self._fixed_rows if self.fixed else None
                heard = [self.levels.get(universe) for universe in playing.rig.universes]
            rig = playing.rig
            levels = np.zeros((len(rig.universes), 512), dtype=np.uint8)
            # The last one stands for rows that are not patched (-1).
            known = np.zeros(len(rig.universes) + 1, dtype=bool)
            for i, one in enumerate(heard):
                if one is not None:
                    levels[i], known[i] = one, True
            decoded = playing.decoder.decode(levels)
            console = known[rig.universe_of_row] & follow
            shown, driver = settle(rig.home, look, decoded, console, hands, fixed)
            elapsed = now - self._moved_at
            travelled, moving = playing.travel.step(shown, elapsed)
            travelled, busy = playing.programs.step(shown, travelled, now, elapsed)
            moving = moving or busy
            self._moved_at = now
            frame = playing.beams.frame(travelled)
            playing.spinning.apply(frame, now)
            with self.lock:
                self.shown, self.driver, self._shown_rig, self.moving = shown, driver, rig, moving
                self._last = (playing, frame)
                if moving:
                    self.lock.notify_all()
        return playing, frame, came

    # What is told

    def values(self) -> dict[str, dict[str, float]]:
        """What every beam shows now, or is on its way to, as a look keeps it."""
        self.beams()
        with self.lock:
            # That picture has not been published: the publisher makes it again.
            self.changed = True
            self.lock.notify_all()
            return kept_values(self._shown_rig.keys, self.shown)

    def status(self, now: float) -> dict[str, Any]:
        """What the Signal step shows."""
        waits = sorted([*self.latency])
        with self.lock:
            fixtures, driver = self._shown_rig.fixtures, self.driver
        return {
            **report(self.inputs, self.levels, self.playing.rig.universes, now),
            "drivers": _drivers(fixtures, driver),
            "latency_ms": {
                "p50": round(waits[len(waits) // 2] * 1000, 2) if waits else 0.0,
                "p99": round(waits[int(len(waits) * 0.99)] * 1000, 2) if waits else 0.0,
            },
        }

    def drivers(self) -> dict[str, str]:
        """Who drives each fixture; for one held by hand in part, what drives the rest is not said."""
        return _drivers(self._shown_rig.fixtures, self.driver)


def _drivers(fixtures: Sequence[str], driver: NDArray[np.int64]) -> dict[str, str]:
    found: dict[str, int] = {}
    for fixture, one in zip(fixtures, driver.tolist(), strict=True):
        # One cell held by hand makes the fixture one that hands are on.
        found[fixture] = max(one, found.get(fixture, 0))
    return {fixture: TOLD_BY[one] for fixture, one in found.items()}


__all__ = ["Engine", "LiveRig", "live_rig", "received_rig"]
