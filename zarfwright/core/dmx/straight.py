"""The lanes that are read and written the shortest way: whatever their channel says, it is one feature of one beam.

Most lanes of a rig are of this kind. They go from bytes to values without a raw value between, and lanes that lie
beside each other in the picture are written as one stretch.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.dmx.mode import BYTE, ONE
from zarfwright.core.space import Floats

LEAST_STRETCH = 8
"""Lanes to a stretch, on average, from which stretches are quicker than single places."""


def straight_lanes(rig: CompiledRig, place: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The straight lanes of a rig, those that may be written before all others, and the others. Of several straight
    ones that are written to one place only the last is in either: it hides them."""
    straight = np.isin(rig.lane_way, (ONE, BYTE))
    straight[rig.unmastered :] = False
    # What has a relation, and what is written where such a one is, keeps its turn among the others.
    straight &= ~np.isin(place, place[rig.relations.lane])
    backwards = np.flatnonzero(straight)[::-1]
    _, last = np.unique(place[backwards], return_index=True)
    return np.sort(backwards[last]), np.flatnonzero(~straight)


@dataclass(frozen=True, eq=False)
class _Group:
    """Lanes that are read alike, in the order of their places."""

    byte_places: tuple[NDArray[np.int64], ...]
    slopes: tuple[Floats, ...]
    """By byte; none: by `table`."""
    bias: Floats
    first: NDArray[np.int64]
    """Where each lane's 256 values begin in the table."""
    place: NDArray[np.int64]
    stretches: tuple[tuple[int, int, int], ...]
    """(from, to, place) of lanes that lie beside each other; none: written one by one."""
    byte: NDArray[np.uint8]
    value: Floats
    part: Floats

    def write(self, flat: NDArray[np.uint8], table: Floats, values: Floats) -> None:
        """Levels (u * 512,) to their places in `values`, flat as well."""
        value, byte = self.value, self.byte
        flat.take(self.byte_places[0], out=byte, mode="clip")
        if not self.slopes:
            table.take(self.first + byte, out=value, mode="clip")
        else:
            np.multiply(self.slopes[0], byte, out=value)
            value += self.bias
            for places, slope in zip(self.byte_places[1:], self.slopes[1:], strict=True):
                flat.take(places, out=byte, mode="clip")
                value += np.multiply(slope, byte, out=self.part)
        if not self.stretches:
            values[self.place] = value
        for start, end, at in self.stretches:
            values[at : at + end - start] = value[start:end]


class Straight:
    """The straight lanes of a rig."""

    def __init__(self, rig: CompiledRig, lanes: NDArray[np.int64], place: NDArray[np.int64], byte_value: Floats):
        """`lanes` are those, `place` where each lane of the rig is written, `byte_value` what a byte comes to."""
        self._table = byte_value
        self._groups = list(_groups(rig, lanes, place, byte_value))

    def write(self, flat: NDArray[np.uint8], values: Floats) -> None:
        """Levels (u * 512,) to their places in `values`, flat as well."""
        for group in self._groups:
            group.write(flat, self._table, values)


def _groups(
    rig: CompiledRig, lanes: NDArray[np.int64], place: NDArray[np.int64], byte_value: Floats
) -> Iterator[_Group]:
    source = rig.lane_source[lanes]
    # Sources are sorted by their number of bytes; each further byte is that of a tail of them.
    sizes = np.ones(rig.sources, dtype=np.int64)
    for tail in rig.has_bytes[1:]:
        sizes[tail] += 1
    first = rig.coarse_segment.reshape(-1).astype(np.int64)[rig.lane_table[lanes] * 256]
    for way in (ONE, BYTE):
        for size in range(1, len(rig.byte_places) + 1):
            which = np.flatnonzero((rig.lane_way[lanes] == way) & (sizes[source] == size))
            if len(which) == 0:
                continue
            which = which[np.argsort(place[lanes[which]], kind="stable")]
            mine, ones = lanes[which], source[which]
            tails = [tail.start for tail in rig.has_bytes[:size]]
            slope = rig.slope[first[which]]
            real = byte_value.dtype
            count = len(which)
            yield _Group(
                tuple(rig.byte_places[byte][ones - tail] for byte, tail in enumerate(tails)),
                tuple((slope * 256.0 ** (size - 1 - byte)).astype(real) for byte in range(size)) if way == ONE else (),
                (rig.at[first[which]] - slope * rig.origin[first[which]]).astype(real),
                rig.lane_table[mine] * 256,
                place[mine],
                _stretches(place[mine]),
                np.zeros(count, dtype=np.uint8),
                np.zeros(count, dtype=real),
                np.zeros(count, dtype=real),
            )


def _stretches(place: NDArray[np.int64]) -> tuple[tuple[int, int, int], ...]:
    """Where places, in order, follow each other without a gap; none at all where that is not worth it."""
    starts = np.flatnonzero(np.diff(place, prepend=-2) != 1)
    if len(starts) * LEAST_STRETCH > len(place):
        return ()
    ends = np.append(starts[1:], len(place))
    return tuple(zip(starts.tolist(), ends.tolist(), place[starts].tolist(), strict=True))
