"""Levels to features, every fixture of every type in one flat gather."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.dmx.features import COUNT
from zarfwright.core.dmx.segments import NOTHING
from zarfwright.core.space import Floats


class Decoder:
    """Decodes one compiled rig; keeps its working arrays, so one thread at a time."""

    def __init__(self, rig: CompiledRig) -> None:
        self.rig = rig
        self._raw = np.zeros(rig.sources, dtype=np.int64)
        # One more column takes what changes nothing in the picture.
        self._values = np.zeros((len(rig.fixtures), COUNT + 1))
        self._row_start = rig.lane_row * (COUNT + 1)
        # at + slope * (raw - origin) in two gathers instead of three.
        self._bias = rig.at - rig.slope * rig.origin
        self._coarse = rig.coarse_segment.reshape(-1).astype(np.int64)
        self._table_start = rig.lane_table * 256
        self._shift = rig.coarse_shift[rig.lane_table]
        self._unpatched = np.flatnonzero(rig.universe_of_row < 0)

    def decode(self, levels: NDArray[np.uint8]) -> Floats:
        """Features of shape (n, COUNT) from levels of shape (universes, 512) in the order of `rig.universes`.

        Rows that are not patched are at home. The result is overwritten by the next call.
        """
        rig, flat = self.rig, levels.reshape(-1)
        values = self._values
        values[:, :NOTHING] = rig.neutral
        values[self._unpatched, :NOTHING] = rig.home[self._unpatched]
        if len(rig.lane_row):
            raw = self._raw
            raw[:] = flat[rig.byte_places[0]]
            for places, which in zip(rig.byte_places[1:], rig.has_bytes[1:], strict=True):
                raw[which] = (raw[which] << 8) | flat[places]
            own = raw.take(rig.lane_source)
            segment = self._coarse.take(self._table_start + (own >> self._shift))
            for _ in range(rig.refinements):
                segment += own >= rig.next_start.take(segment)
            value = rig.slope.take(segment)
            value *= own
            value += self._bias.take(segment)
            column = rig.feature.take(segment)
            if len(rig.relations.lane):
                self._relate(own, value)
            if len(rig.masters.lane):
                column = self._chosen(column)
            values.reshape(-1)[self._row_start + column] = value
        return values[:, :NOTHING]

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

    def _chosen(self, column: NDArray[np.int64]) -> NDArray[np.int64]:
        """Columns with the lanes whose masters do not hold sent where nothing is seen."""
        m = self.rig.masters
        master = self._raw.take(m.source)
        unmet = m.lane[(master < m.low) | (master > m.high)]
        column[unmet] = NOTHING
        return column
