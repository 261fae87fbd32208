"""Levels to features, every fixture of every type in one flat gather."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.dmx.features import COUNT
from zarfwright.core.dmx.mode import BYTE, ONE, PICKS
from zarfwright.core.dmx.segments import NOTHING
from zarfwright.core.space import Floats


class Decoder:
    """Decodes one compiled rig; keeps its working arrays, so one thread at a time."""

    def __init__(self, rig: CompiledRig) -> None:
        self.rig = rig
        self._raw = np.zeros(rig.sources, dtype=np.int64)
        n, lanes = len(rig.fixtures), len(rig.lane_row)
        # One more column takes what changes nothing in the picture. A column lies together, as frames are made.
        self._values, self._others = np.zeros((COUNT + 1, n)), np.zeros((COUNT + 1, n))
        self._neutral = np.ascontiguousarray(rig.neutral.T)
        self._home = np.ascontiguousarray(rig.home.T)
        self._unpatched = np.flatnonzero(rig.universe_of_row < 0)
        self._nothing = NOTHING * n
        # at + slope * (raw - origin) in two gathers instead of three.
        self._bias = rig.at - rig.slope * rig.origin
        self._column_start = rig.feature * n
        self._coarse = rig.coarse_segment.reshape(-1).astype(np.int64)
        self._table_start = rig.lane_table * 256
        self._shift = rig.coarse_shift[rig.lane_table]
        # What each raw value of a byte comes to, and where it is written; right for lanes of one byte only.
        raw = np.arange(len(self._coarse)) % 256
        self._byte_value = rig.slope[self._coarse] * raw + self._bias[self._coarse]
        self._byte_column = self._column_start[self._coarse]
        first = self._coarse[self._table_start]
        self._slope, self._offset = rig.slope[first], self._bias[first]
        self._place = self._column_start[first] + rig.lane_row
        edges = np.flatnonzero(np.diff(rig.lane_way, prepend=-1, append=-1))
        self._runs = [(int(rig.lane_way[a]), slice(a, b)) for a, b in itertools.pairwise(edges.tolist())]
        self._own = np.zeros(lanes, dtype=np.int64)
        self._value = np.zeros(lanes)

    def decode(self, levels: NDArray[np.uint8]) -> Floats:
        """Features of shape (n, COUNT) from levels of shape (universes, 512) in the order of `rig.universes`.

        Rows that are not patched are at home. The result is overwritten by the call after the next.
        """
        rig, flat = self.rig, levels.reshape(-1)
        self._values, self._others = self._others, self._values
        values = self._values
        values[:NOTHING] = self._neutral
        values[:NOTHING, self._unpatched] = self._home[:, self._unpatched]
        if len(rig.lane_row):
            raw = self._raw
            raw[:] = flat[rig.byte_places[0]]
            for places, which in zip(rig.byte_places[1:], rig.has_bytes[1:], strict=True):
                raw[which] = (raw[which] << 8) | flat[places]
            own, value, place = self._own, self._value, self._place.copy()
            raw.take(rig.lane_source, out=own, mode="clip")
            for way, run in self._runs:
                self._run(way, run, own[run], value[run], place[run])
            if len(rig.relations.lane):
                self._relate(own, value)
            if len(rig.masters.lane):
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
                place += rig.lane_row[run]
            return
        segment = self._coarse.take(self._table_start[run] + (own >> self._shift[run]))
        for _ in range(rig.refinements):
            segment += own >= rig.next_start.take(segment)
        np.multiply(rig.slope.take(segment), own, out=value)
        value += self._bias.take(segment)
        self._column_start.take(segment, out=place, mode="clip")
        place += rig.lane_row[run]

    def _relate(self, own: NDArray[np.int64], value: Floats) -> None:
        """Multiply or override, in the order in which the type names its relations."""
        r = self.rig.relations
        here, master = own.take(r.lane), self._raw.take(r.source)
        within = (here >= r.first) & (here <= r.last)
        share = master / r.top
        multiplies = r.home < 0
        by = np.where(within & multiplies, share, 1.0)
        np.multiply.at(value, r.lane, by)
        over = np.flatnonzero(within & ~multiplies & (master != r.home))
        value[r.lane[over]] = r.low[over] + r.span[over] * share[over]

    def _choose(self, place: NDArray[np.int64]) -> None:
        """Send the lanes whose masters do not hold where nothing is seen, in place."""
        m = self.rig.masters
        master = self._raw.take(m.source)
        unmet = m.lane[(master < m.low) | (master > m.high)]
        place[unmet] = self._nothing
