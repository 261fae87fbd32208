"""What is heard, what drives, and the frame that comes of it. State is touched under `lock` only."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter

from zarfwright.core.dmx.compile import CompiledRig, compile_rig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.merge import merge
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.drive import DRIVERS, settle, value_rows
from zarfwright.core.looks import kept_values
from zarfwright.core.motion import Spinning, Travel
from zarfwright.core.picture import BeamTable, beam_table
from zarfwright.core.programs import Programs
from zarfwright.core.space import Floats
from zarfwright.core.types.chain import chain_of
from zarfwright.core.types.model import Chromaticity, FixtureType
from zarfwright.links.frames import Scaling, scaling
from zarfwright.links.sacn import Sources

TYPE_ADAPTER: TypeAdapter[FixtureType] = TypeAdapter(FixtureType)


@dataclass(frozen=True, eq=False)
class Patch:
    """A rig compiled whole; swapped whole."""

    number: int
    rig: CompiledRig
    beams: BeamTable
    scaling: Scaling
    decoder: Decoder
    travel: Travel
    spinning: Spinning
    programs: Programs


def compile_patch(number: int, types: Mapping[str, Any], rows: list[list[Any]]) -> Patch:
    """Compile what the desk sends: types as JSON by id, rows of fixture, type, mode, universe, address, breaks, gel."""
    known = {key: TYPE_ADAPTER.validate_python(value) for key, value in types.items()}
    patch_rows = [
        PatchRow(
            fixture,
            known[t],
            mode,
            universe,
            address,
            tuple((b, u, a) for b, u, a in breaks),
            Chromaticity(*gel) if gel else None,
        )
        for fixture, t, mode, universe, address, breaks, gel in rows
    ]
    return patch_of(number, patch_rows)


def patch_of(number: int, rows: list[PatchRow]) -> Patch:
    """Compile rows."""
    rig = compile_rig(rows)
    turns = max((abs(end) for row in rows for end in chain_of(row.type, row.mode).pan_range), default=2 * np.pi)
    travel, spinning, table = Travel(rows), Spinning(len(rig.keys)), beam_table(rows)
    return Patch(number, rig, table, scaling(max(turns, 1.0)), Decoder(rig), travel, spinning, Programs(table))


class Engine:
    """The live state."""

    def __init__(self, clock: Callable[[], float] = time.time) -> None:
        self.lock = threading.Condition()
        self.sources = Sources()
        self.patch = patch_of(0, [])
        self.look: dict[str, dict[str, float]] = {}
        self.hands: dict[str, dict[str, float]] = {}
        self.follow = True
        self.levels: dict[int, NDArray[np.uint8]] = {}
        self.dirty: set[int] = set()
        self.changed = True
        self.first_dirty_at = 0.0
        self.computing = threading.Lock()
        self.clock = clock
        self.moving = False
        self._moved_at = clock()
        self.shown: Floats = self.patch.rig.home
        self._shown_rig = self.patch.rig
        self.driver: NDArray[np.int64] = np.zeros(0, dtype=np.int64)
        self._look_rows = self._hand_rows = self.patch.rig.home
        self._last: tuple[Patch, NDArray[np.float32]] | None = None
        self.latency: deque[float] = deque(maxlen=2000)

    # What comes in

    def packet(self, data: bytes | memoryview, address: str, now: float) -> None:
        """One datagram."""
        with self.lock:
            universe = self.sources.take(data, address, now)
            if universe is not None:
                self._touch(universe, now)

    def _touch(self, universe: int, now: float) -> None:
        if not self.dirty:
            self.first_dirty_at = now
            self.dirty.add(universe)
            self.lock.notify_all()
            return
        self.dirty.add(universe)
        # The publisher wakes when the first comes and when all have come, not for each.
        if len(self.dirty) >= len(self.sources.by_universe):
            self.lock.notify_all()

    def set_patch(self, patch: Patch) -> None:
        with self.computing, self.lock:
            patch.travel.continue_from(self.patch.travel, patch.rig.keys, self.patch.rig.keys)
            self.patch = patch
            self._settle_rows()

    def set_drive(
        self, look: dict[str, dict[str, float]] | None, hands: dict[str, dict[str, float]] | None, follow: bool
    ) -> None:
        """What else drives; None leaves look or hands as they are."""
        with self.lock:
            self.look = self.look if look is None else look
            self.hands = self.hands if hands is None else hands
            self.follow = follow
            self._settle_rows()

    def _settle_rows(self) -> None:
        self._look_rows = value_rows(self.patch.rig, self.look)
        self._hand_rows = value_rows(self.patch.rig, self.hands)
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
            for source in self.sources.forget_lost(now):
                self._touch(source.universe, now)

    # What goes out

    def live_universes(self) -> set[int]:
        return set(self.sources.by_universe)

    def all_seen(self) -> bool:
        """Whether every universe that has a source has spoken since the last frame."""
        return len(self.dirty) >= len(self.sources.by_universe)

    def _merge_dirty(self) -> bool:
        """Merge what was heard; whether any level is another than before. Consoles mostly repeat themselves."""
        news = False
        for universe in self.dirty:
            heard = self.sources.by_universe.get(universe)
            if not heard:
                continue
            before = self.levels.get(universe)
            if len(heard) == 1:
                self.levels[universe] = heard[0].levels
                news = news or before is None or before.tobytes() != heard[0].held
                continue
            out = np.zeros(512, dtype=np.uint8)
            levels = np.stack([source.levels for source in heard])[None]
            merge(levels, np.array([[source.priority for source in heard]], dtype=np.int16), out[None])
            self.levels[universe] = out
            news = news or before is None or bool((before != out).any())
        self.dirty.clear()
        return news

    def beams(self) -> tuple[Patch, NDArray[np.float32], float]:
        """Merge, decode, settle, travel: the patch, its beams (n, fields), and when the oldest packet in them came.

        The receiver goes on while this computes: only what was heard is copied under the lock. Call without the lock.
        """
        with self.computing:
            with self.lock:
                now = self.clock()
                came = self.first_dirty_at if self.dirty else now
                news = self._merge_dirty() or self.changed or self.moving
                self.changed = False
                if not news and self._last is not None and self._last[0] is self.patch:
                    self._moved_at = now
                    return (*self._last, came)
                patch, look, hands, follow = self.patch, self._look_rows, self._hand_rows, self.follow
                heard = [self.levels.get(universe) for universe in patch.rig.universes]
            rig = patch.rig
            levels = np.zeros((len(rig.universes), 512), dtype=np.uint8)
            # The last one stands for rows that are not patched (-1).
            known = np.zeros(len(rig.universes) + 1, dtype=bool)
            for i, one in enumerate(heard):
                if one is not None:
                    levels[i], known[i] = one, True
            decoded = patch.decoder.decode(levels)
            console = known[rig.universe_of_row] & follow
            shown, driver = settle(rig.home, look, decoded, console, hands)
            elapsed = now - self._moved_at
            travelled, moving = patch.travel.step(shown, elapsed)
            travelled, busy = patch.programs.step(shown, travelled, now, elapsed)
            moving = moving or busy
            self._moved_at = now
            frame = patch.beams.frame(travelled)
            patch.spinning.apply(frame, now)
            with self.lock:
                self.shown, self.driver, self._shown_rig, self.moving = shown, driver, rig, moving
                self._last = (patch, frame)
                if moving:
                    self.lock.notify_all()
        return patch, frame, came

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
        with self.lock:
            self.sources.measure(now)
            universes = []
            for universe in sorted({*self.levels, *self.live_universes()}):
                heard = self.sources.by_universe.get(universe, [])
                gone = sorted({name for (its, _), name in self.sources.ended.items() if its == universe})
                levels = self.levels.get(universe)
                universes.append(
                    {
                        "universe": universe,
                        "state": "live" if heard else "held",
                        "lit_slots": int(np.count_nonzero(levels)) if levels is not None else 0,
                        "last_source": gone[-1] if gone and not heard else "",
                        "sources": [
                            {
                                "name": source.name,
                                "address": source.address,
                                "protocol": "sACN",
                                "priority": source.priority,
                                "rate_hz": round(source.rate, 1),
                            }
                            for source in sorted(heard, key=lambda one: (-one.priority, one.name))
                        ],
                    }
                )
            waits = sorted(self.latency)
            return {
                "universes": universes,
                "dropped": dict(self.sources.dropped),
                "drivers": self.drivers(),
                "latency_ms": {
                    "p50": round(waits[len(waits) // 2] * 1000, 2) if waits else 0.0,
                    "p99": round(waits[int(len(waits) * 0.99)] * 1000, 2) if waits else 0.0,
                },
            }

    def drivers(self) -> dict[str, str]:
        """Who drives each fixture; for one held by hand in part, what drives the rest is not said."""
        drivers: dict[str, str] = {}
        for fixture, driver in zip(self._shown_rig.fixtures, self.driver, strict=True):
            # One cell held by hand makes the fixture one that hands are on.
            drivers[fixture] = DRIVERS[max(int(driver), DRIVERS.index(drivers.get(fixture, DRIVERS[0])))]
        return drivers


__all__ = ["Engine", "Patch", "compile_patch", "patch_of"]
