"""A stretch of listening, recorded for the doctor: what each universe came to, and what each of its sources said."""

from __future__ import annotations

import base64
import threading
import zlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, NamedTuple

import numpy as np
from pydantic import TypeAdapter

from zarfwright.core.connections import Interface
from zarfwright.core.doctor.facts import Came, ConnectionSeen, Facts, Gone, SourceSeen, Track
from zarfwright.links.live import clock
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.hearing import AS_STARTED, Hearing
from zarfwright.links.live.inputs import Inputs, Key
from zarfwright.links.sources import Source

FRAME_S = 1 / 44
FRAMES_MOST = 120_000
"""Levels of a universe that are kept in all: sixty megabytes."""


@dataclass
class Said:
    """What was said, frame by frame, where it changed."""

    times: list[float] = field(default_factory=list)
    levels: list[bytes] = field(default_factory=list)

    def add(self, at: float, levels: bytes) -> bool:
        """One more frame; False where it is the one before."""
        if self.levels and self.levels[-1] == levels:
            return False
        self.times.append(at)
        self.levels.append(levels)
        return True

    def track(self) -> Track:
        levels = np.frombuffer(b"".join(self.levels), dtype=np.uint8).reshape(-1, 512)
        return Track(np.array(self.times), levels)


class Count(NamedTuple):
    """How many packets of a source came, were passed over, and could not follow the one before."""

    packets: int = 0
    missed: int = 0
    crossed: int = 0

    @classmethod
    def of(cls, source: Source, before: Count | None = None) -> Count:
        """So far, or since another count."""
        crossed = source.late - source.twice + source.back
        came = cls(source.packets + source.late, source.missed, crossed)
        return came if before is None else cls(*(now - then for now, then in zip(came, before, strict=True)))


class Recorder:
    """Records until it is asked for the facts."""

    def __init__(self, engine: Engine, hearing: Hearing) -> None:
        self.engine, self.hearing = engine, hearing
        self.merged: dict[int, Said] = {}
        self.sources: dict[tuple[int, int], tuple[Source, Said]] = {}
        self.frames = 0
        self.began = clock.now()
        self._begins = self._counted()
        self._elsewhere = {key: one.packets for key, one in [*hearing.receiver.elsewhere.items()]}
        self._dropped = self._all_dropped()
        self._drops = hearing.receiver.kernel_drops()
        with engine.lock:
            registries = engine.inputs.registries.values()
            self._told = {id(one): (one, Count.of(one)) for of in registries for one in of.by_key.values()}

    def record(self, seconds: float) -> Facts:
        """Listen for so long, in the calling thread."""
        end = self.began + seconds
        done = threading.Event()
        while clock.now() < end:
            self.sample()
            done.wait(FRAME_S)
        self.sample()
        return self.facts()

    def sample(self) -> None:
        """What is said just now."""
        self.engine.take_in()
        with self.engine.lock:
            at = clock.now() - self.began
            inputs = self.engine.inputs
            for universe, heard in inputs.by_universe.items():
                levels = self.engine.levels.get(universe)
                if self.frames > FRAMES_MOST or levels is None:
                    continue
                self.frames += self.merged.setdefault(universe, Said()).add(at, levels)
                for source in heard if len(heard) > 1 else ():
                    if source.held:
                        _, said = self.sources.setdefault((universe, id(source)), (source, Said()))
                        self.frames += said.add(at, source.held)

    def _counted(self) -> dict[tuple[Key, int], int]:
        with self.engine.lock:
            registries = self.engine.inputs.registries
            return {(key, universe): n for key, of in registries.items() for universe, n in of.starts.items()}

    def _all_dropped(self) -> dict[str, int]:
        dropped: dict[str, int] = {}
        with self.engine.lock:
            for registry in self.engine.inputs.registries.values():
                for why, count in registry.dropped.items():
                    dropped[why] = dropped.get(why, 0) + count
        return dropped

    def facts(self) -> Facts:
        """Everything that was seen."""
        now = clock.now()
        begins = self._counted()
        receiver = self.hearing.receiver
        problems, refused = dict(receiver.problems), dict(receiver.refused)
        with self.engine.lock:
            inputs = self.engine.inputs
            for registry in inputs.registries.values():
                registry.measure(now)
            all_of = [(key, source) for key, of in inputs.registries.items() for source in of.by_key.values()]
            seen = {id(source): self._seen(inputs, key, source) for key, source in all_of}
            by_source: dict[int, list[tuple[SourceSeen, Track]]] = {}
            for (universe, _), (source, said) in self.sources.items():
                if id(source) in seen:
                    by_source.setdefault(universe, []).append((seen[id(source)], said.track()))
            started: dict[int, int] = {}
            for (key, universe), count in begins.items():
                new = count - self._begins.get((key, universe), 0)
                for landed in inputs.landings(key, universe) if new > 0 else ():
                    started[landed] = started.get(landed, 0) + new
            gone = []
            for universe in {*self.engine.levels, *started} - inputs.by_universe.keys():
                ended = inputs.last_ended(universe)
                if ended is not None:
                    gone.append(Gone(universe, ended.name, ended.why, now - ended.at, started.get(universe, 0)))
            connections = tuple(
                ConnectionSeen(
                    None if one.id.startswith(AS_STARTED) else one.id,
                    one.connection, one.interface, one.audible, one.said, one.nearest,
                    *((problems.get(one.key, ""), refused.get(one.key, "")) if one.key is not None else ()),
                )
                for one in inputs.heard
            )  # fmt: skip
        elsewhere = tuple(
            Came(one.protocol, one.address, new, one.sender, tuple(sorted(one.universes)))
            for key, one in [*receiver.elsewhere.items()]
            if (new := one.packets - self._elsewhere.get(key, 0)) > 0
        )
        dropped = {why: n - self._dropped.get(why, 0) for why, n in self._all_dropped().items()}
        return Facts(
            round(now - self.began, 2),
            connections,
            tuple(self.hearing.interfaces()),
            tuple(seen.values()),
            tuple(gone),
            elsewhere,
            {why: n for why, n in dropped.items() if n > 0},
            max(receiver.kernel_drops() - self._drops, 0),
            started,
            {universe: said.track() for universe, said in self.merged.items()},
            {universe: tuple(pairs) for universe, pairs in by_source.items() if len(pairs) > 1},
        )

    def _seen(self, inputs: Inputs, key: Key, source: Source) -> SourceSeen:
        shown = inputs.landings(key, source.universe, source.preview)
        ours = [one for one in inputs.heard if one.key == key and one.audible]
        lands = {landed for one in ours if (landed := one.connection.lands_on(source.universe)) is not None}
        _, before = self._told.get(id(source), (source, Count()))
        count = Count.of(source, before)
        return SourceSeen(
            source.name, source.address, source.protocol, source.universe, key[1], tuple(sorted(lands)),
            source.priority, source.rate, source.jitter, source.longest, count.packets, count.missed, source.preview,
            bool(shown), bool(source.priorities), bool(source.waiting), count.crossed,
        )  # fmt: skip


# To the desk over the pipe: levels packed, all else plain.


def _packed(track: Track) -> dict[str, Any]:
    return {
        "times": track.times.tolist(),
        "levels": base64.b64encode(zlib.compress(track.levels.tobytes(), 1)).decode(),
    }


def _unpacked(told: Mapping[str, Any]) -> Track:
    levels = zlib.decompress(base64.b64decode(told["levels"]))
    return Track(np.array(told["times"]), np.frombuffer(levels, dtype=np.uint8).reshape(-1, 512))


PLAIN = ("seconds", "connections", "interfaces", "sources", "gone", "elsewhere", "dropped", "kernel_drops", "begins")
_PLAIN: dict[str, TypeAdapter[Any]] = {
    name: TypeAdapter(kind)
    for name, kind in {
        "seconds": float, "connections": tuple[ConnectionSeen, ...], "interfaces": tuple[Interface, ...],
        "sources": tuple[SourceSeen, ...], "gone": tuple[Gone, ...], "elsewhere": tuple[Came, ...],
        "dropped": dict[str, int], "kernel_drops": int, "begins": dict[int, int],
    }.items()
}  # fmt: skip
_SEEN = TypeAdapter(SourceSeen)


def facts_told(facts: Facts) -> dict[str, Any]:
    """Facts as one JSON message."""
    plain = {name: _PLAIN[name].dump_python(getattr(facts, name), mode="json") for name in PLAIN}
    return {
        **plain,
        "tracks": {str(universe): _packed(track) for universe, track in facts.tracks.items()},
        "by_source": {
            str(universe): [[_SEEN.dump_python(source, mode="json"), _packed(track)] for source, track in pairs]
            for universe, pairs in facts.by_source.items()
        },
    }


def facts_read(told: Mapping[str, Any]) -> Facts:
    """Facts from such a message."""
    plain = {name: _PLAIN[name].validate_python(told[name]) for name in PLAIN}
    return Facts(
        **plain,
        tracks={int(universe): _unpacked(track) for universe, track in told["tracks"].items()},
        by_source={
            int(universe): tuple((_SEEN.validate_python(source), _unpacked(track)) for source, track in pairs)
            for universe, pairs in told["by_source"].items()
        },
    )
