"""Levels to features, every fixture of every type in one flat gather."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.dmx.features import COUNT
from zarfwright.core.dmx.mode import BYTE, ONE, PICKS
from zarfwright.core.dmx.part import bytes_of
from zarfwright.core.dmx.segments import NOTHING
from zarfwright.core.dmx.straight import Straight, straight_lanes
from zarfwright.core.space import Floats

Real = Any
"""np.float32 or np.float64: arrays of both are spoken of as Floats."""


class Decoder:
    """Decodes one compiled rig; keeps its working arrays, so one thread at a time.

    `real` is what it reckons in. Single precision is finer than all that a picture shows, and half the way through
    memory; what is kept is decoded in double.
    """

    def __init__(self, rig: CompiledRig, real: Real = np.float64) -> None:
        self.rig = rig
        n = len(rig.fixtures)
        # One more column takes what changes nothing in the picture. A column lies together, as frames are made.
        self._values: Floats = np.zeros((COUNT + 1, n), dtype=real)
        self._others: Floats = np.zeros((COUNT + 1, n), dtype=real)
        self._neutral = np.ascontiguousarray(rig.neutral.T, dtype=real)
        self._home = np.ascontiguousarray(rig.home.T, dtype=real)
        self._unpatched = np.flatnonzero(rig.universe_of_row < 0)
        self._nothing = NOTHING * n
        # at + slope * (raw - origin) in two gathers instead of three.
        bias = rig.at - rig.slope * rig.origin
        self._slopes: Floats = np.asarray(rig.slope, dtype=real)
        self._bias: Floats = np.asarray(bias, dtype=real)
        self._column_start = rig.feature * n
        self._coarse = rig.coarse_segment.reshape(-1).astype(np.int64)
        # What each raw value of a byte comes to, and where it is written; right for lanes of one byte only.
        raw = np.arange(len(self._coarse)) % 256
        self._byte_value: Floats = np.asarray(rig.slope[self._coarse] * raw + bias[self._coarse], dtype=real)
        self._byte_column = self._column_start[self._coarse]
        first = self._coarse[rig.lane_table * 256]
        place = self._column_start[first] + rig.lane_row
        straight, others = straight_lanes(rig, place)
        self._straight = Straight(rig, straight, place, self._byte_value)
        self._take_others(others, place, first)

    def _take_others(self, lanes: NDArray[np.int64], place: NDArray[np.int64], first: NDArray[np.int64]) -> None:
        """What is needed of the lanes that are not straight, in their order."""
        rig = self.rig
        renumbered = np.zeros(len(place), dtype=np.int64)
        renumbered[lanes] = np.arange(len(lanes))
        relations, masters = rig.relations, rig.masters
        self._related, self._mastered = renumbered[relations.lane], renumbered[masters.lane]
        # Of the sources only those that they ask for, in their order: by their number of bytes.
        used = np.unique(np.concatenate((rig.lane_source[lanes], relations.source, masters.source)))
        source = np.zeros(rig.sources, dtype=np.int64)
        source[used] = np.arange(len(used))
        self._raw = np.zeros(len(used), dtype=np.int64)
        self._bytes = bytes_of(rig, used)
        self._relation_source, self._master_source = source[relations.source], source[masters.source]
        self._source, self._row = source[rig.lane_source[lanes]], rig.lane_row[lanes]
        self._table_start = rig.lane_table[lanes] * 256
        self._shift = rig.coarse_shift[rig.lane_table[lanes]]
        self._slope, self._offset = self._slopes[first[lanes]], self._bias[first[lanes]]
        self._place = place[lanes]
        edges = np.flatnonzero(np.diff(rig.lane_way[lanes], prepend=-1, append=-1))
        self._runs = [(int(rig.lane_way[lanes[a]]), slice(a, b)) for a, b in itertools.pairwise(edges.tolist())]
        self._own = np.zeros(len(lanes), dtype=np.int64)
        self._value: Floats = np.zeros(len(lanes), dtype=self._values.dtype)

    def decode(self, levels: NDArray[np.uint8]) -> Floats:
        """Features of shape (n, COUNT) from levels of shape (universes, 512) in the order of `rig.universes`.

        Rows that are not patched are at home. The result is overwritten by the call after the next.
        """
        flat = levels.reshape(-1)
        self._values, self._others = self._others, self._values
        values = self._values
        values[:NOTHING] = self._neutral
        values[:NOTHING, self._unpatched] = self._home[:, self._unpatched]
        self._straight.write(flat, values.reshape(-1))
        if len(self._source):
            raw = self._raw
            raw[:] = 0
            for places, which in self._bytes:
                raw[which] = (raw[which] << 8) | flat.take(places, mode="clip")
            own, value, place = self._own, self._value, self._place.copy()
            raw.take(self._source, out=own, mode="clip")
            for way, run in self._runs:
                self._run(way, run, own[run], value[run], place[run])
            if len(self._related):
                self._relate(own, value)
            if len(self._mastered):
                self._choose(place)
            values.reshape(-1)[place] = value
        return values[:NOTHING].T

    def _run(self, way: int, run: slice, own: NDArray[np.int64], value: Floats, place: NDArray[np.int64]) -> None:
        """Values and places of lanes that are worked out in the same way, in place."""
        rig = self.rig
        if way == ONE:
            np.multiply(self._slope[run], own, out=value)
            value += self._offset[run]
            return
        if way in (BYTE, PICKS):
            entry = self._table_start[run] + own
            self._byte_value.take(entry, out=value, mode="clip")
            if way == PICKS:
                self._byte_column.take(entry, out=place, mode="clip")
                place += self._row[run]
            return
        segment = self._coarse.take(self._table_start[run] + (own >> self._shift[run]))
        for _ in range(rig.refinements):
            segment += own >= rig.next_start.take(segment)
        np.multiply(self._slopes.take(segment), own, out=value)
        value += self._bias.take(segment)
        self._column_start.take(segment, out=place, mode="clip")
        place += self._row[run]

    def _relate(self, own: NDArray[np.int64], value: Floats) -> None:
        """Multiply or override, in the order in which the type names its relations."""
        r, lane = self.rig.relations, self._related
        here, master = own.take(lane), self._raw.take(self._relation_source)
        within = (here >= r.first) & (here <= r.last)
        share = master / r.top
        multiplies = r.home < 0
        by = np.where(within & multiplies, share, 1.0).astype(value.dtype)
        np.multiply.at(value, lane, by)
        over = np.flatnonzero(within & ~multiplies & (master != r.home))
        value[lane[over]] = r.low[over] + r.span[over] * share[over]

    def _choose(self, place: NDArray[np.int64]) -> None:
        """Send the lanes whose masters do not hold where nothing is seen, in place."""
        m = self.rig.masters
        master = self._raw.take(self._master_source)
        unmet = self._mastered[(master < m.low) | (master > m.high)]
        place[unmet] = self._nothing
