"""Some beams of a compiled rig as a rig of their own, so that they can be worked out without the others."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.compile import CompiledRig, Masters, Relations


def part_of(rig: CompiledRig, rows: slice) -> CompiledRig:
    """The beams `rows` of a rig. It reads the same levels: its universes are those of the whole."""
    lanes = np.flatnonzero((rig.lane_row >= rows.start) & (rig.lane_row < rows.stop))
    lane_number = _numbers(lanes, len(rig.lane_row))
    masters = np.flatnonzero(lane_number[rig.masters.lane] >= 0)
    relations = np.flatnonzero(lane_number[rig.relations.lane] >= 0)
    used = np.unique(
        np.concatenate((rig.lane_source[lanes], rig.masters.source[masters], rig.relations.source[relations]))
    )
    source_number = _numbers(used, rig.sources)
    kept = bytes_of(rig, used)
    m, r = rig.masters, rig.relations
    return replace(
        rig,
        keys=rig.keys[rows],
        fixtures=rig.fixtures[rows],
        universe_of_row=rig.universe_of_row[rows],
        neutral=rig.neutral[rows],
        home=rig.home[rows],
        byte_places=tuple(places for places, _ in kept),
        has_bytes=tuple(which for _, which in kept),
        sources=len(used),
        lane_source=source_number[rig.lane_source[lanes]],
        lane_row=rig.lane_row[lanes] - rows.start,
        lane_table=rig.lane_table[lanes],
        lane_way=rig.lane_way[lanes],
        unmastered=int(np.searchsorted(lanes, rig.unmastered)),
        masters=Masters(
            lane_number[m.lane[masters]], source_number[m.source[masters]], m.low[masters], m.high[masters]
        ),
        relations=Relations(
            lane_number[r.lane[relations]], r.first[relations], r.last[relations],
            source_number[r.source[relations]], r.top[relations], r.home[relations], r.low[relations],
            r.span[relations],
        ),
    )  # fmt: skip


def bytes_of(rig: CompiledRig, used: NDArray[np.int64]) -> list[tuple[NDArray[np.int64], slice]]:
    """For each byte of some sources of a rig, given in their order: its places, and which of them have it. They are
    sorted by their number of bytes, so that each byte is that of a tail."""
    found = []
    for places, has in zip(rig.byte_places, rig.has_bytes, strict=True):
        first = int(np.searchsorted(used, has.start))
        found.append((places[used[first:] - has.start], slice(first, None)))
    return found


def universes_read(rig: CompiledRig) -> frozenset[int]:
    """The places in `rig.universes` of those that its beams look at."""
    places = [np.unique(places // 512) for places in rig.byte_places]
    return frozenset(int(one) for of in places for one in of)


def _numbers(kept: NDArray[np.int64], count: int) -> NDArray[np.int64]:
    """The new number of each of `count` things of which some are kept; -1 for the others."""
    found = np.full(count, -1, dtype=np.int64)
    found[kept] = np.arange(len(kept))
    return found
