"""Turn a rig's modes and addresses into flat arrays that decode in one gather.

A source is one channel of one fixture: its raw value is put together once. A lane of it (core/dmx/segments.py) writes
one feature of one beam; masters say whether it does, relations what its value is multiplied by.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.features import COUNT
from zarfwright.core.dmx.mode import CompiledMode, LaneTable, compile_mode, virtual_level
from zarfwright.core.dmx.rows import SLOTS, PatchRow, beam_keys
from zarfwright.core.dmx.segments import Condition
from zarfwright.core.space import Floats
from zarfwright.core.types.model import Mode


def empty() -> NDArray[np.int64]:
    return np.zeros(0, dtype=np.int64)


@dataclass(frozen=True, eq=False)
class Masters:
    """For each condition: the lane that it is for, the source it looks at, and the raw values it asks for."""

    lane: NDArray[np.int64] = field(default_factory=empty)
    source: NDArray[np.int64] = field(default_factory=empty)
    low: NDArray[np.int64] = field(default_factory=empty)
    high: NDArray[np.int64] = field(default_factory=empty)


@dataclass(frozen=True, eq=False)
class Relations:
    """For each relation: the lane that follows while its source is within a function, and the master's source.

    The lane's value becomes value * keep + add, with share = raw / top of the master: keep = share and add = 0 to
    multiply; to override, while the master is away from its home, keep = 0 and add = low + span * share.
    """

    lane: NDArray[np.int64] = field(default_factory=empty)
    first: NDArray[np.int64] = field(default_factory=empty)
    last: NDArray[np.int64] = field(default_factory=empty)
    source: NDArray[np.int64] = field(default_factory=empty)
    top: Floats = field(default_factory=lambda: np.zeros(0))
    home: NDArray[np.int64] = field(default_factory=empty)
    """Of the master, for those that override; -1 for those that multiply."""
    low: Floats = field(default_factory=lambda: np.zeros(0))
    span: Floats = field(default_factory=lambda: np.zeros(0))


@dataclass(frozen=True, eq=False)
class CompiledRig:
    """The arrays of a rig; n beams, c sources, k lanes of distinct channels, l lanes of the rig, s segments."""

    keys: tuple[str, ...]
    """(n,) what each row is called (beam_keys): looks and hands may name a fixture or one of its cells."""
    fixtures: tuple[str, ...]
    """(n,) whose beam each row is."""
    universes: tuple[int, ...]
    universe_of_row: NDArray[np.int64]
    """(n,) index into universes of its first break, -1 where not patched."""
    neutral: Floats
    """(n, COUNT) values of features that no channel drives."""
    home: Floats
    """(n, COUNT) values at the channels' defaults."""
    byte_places: tuple[NDArray[np.int64], ...]
    """For each byte (coarse first): places in the flat (u * 512) levels, for the sources that have that byte."""
    has_bytes: tuple[slice, ...]
    """For each byte: which sources those are (they are sorted so that it is a tail)."""
    sources: int
    lane_source: NDArray[np.int64]
    """(l,) the lanes in the order in which they are written: what a master chooses comes last."""
    lane_row: NDArray[np.int64]
    lane_table: NDArray[np.int64]
    lane_way: NDArray[np.int64]
    """(l,) ONE, BYTE, PICKS or ANY: how a lane is worked out."""
    unmastered: int
    """How many lanes no master chooses: the first ones."""
    coarse_segment: NDArray[np.int32]
    """(k, 256) the segment that holds the first raw value of each coarse byte."""
    coarse_shift: NDArray[np.int64]
    """(k,) how many bits a raw value has below its coarse byte."""
    refinements: int
    """How many further segments may begin within one coarse byte, at most."""
    next_start: NDArray[np.int64]
    origin: Floats
    at: Floats
    slope: Floats
    feature: NDArray[np.int64]
    masters: Masters
    relations: Relations

    @property
    def row_of(self) -> dict[str, int]:
        return {key: row for row, key in enumerate(self.keys)}


def _met_at_rest(mode: Mode, condition: Condition) -> bool:
    """Whether a condition holds on a channel that nothing drives."""
    channel = mode.by_name[condition.channel]
    return condition.low <= (virtual_level(channel) if channel.virtual else channel.home) <= condition.high


class _Rig:
    """Collects the sources, lanes, masters and relations of a rig."""

    def __init__(self) -> None:
        self.places: list[tuple[int, ...]] = []
        self.lanes: list[tuple[bool, int, int, int, int]] = []
        self.masters: list[tuple[int, int, int, int]] = []
        self.relations: list[tuple[int, int, int, int, float, int, float, float]] = []

    def _sources_of(self, mode: Mode, bases: Mapping[int, int | None]) -> Callable[[int], int | None]:
        """The source of a channel by its place in the mode, made when it is first asked for; None: it is not driven."""

        @cache
        def source(number: int) -> int | None:
            channel = mode.channels[number]
            base = bases.get(channel.dmx_break)
            if channel.virtual or base is None:
                return None
            places = tuple(base + slot - 1 for slot in channel.slots)
            if places and max(places) // SLOTS != base // SLOTS:
                return None
            self.places.append(places)
            return len(self.places) - 1

        return source

    def add(self, mode: CompiledMode, first_row: int, first_lane: int, bases: Mapping[int, int | None]) -> None:
        """A fixture; `first_lane` is the number of its mode's first lane in the table, `bases` are the flat places of
        each break's first slot."""
        source = self._sources_of(mode.mode, bases)
        for n, plan in enumerate(mode.lanes):
            own = source(plan.channel)
            if own is None:
                continue
            wanted = [(source(mode.mode.place_of(c.channel)), c) for c in plan.conditions]
            if not all(_met_at_rest(mode.mode, c) for at, c in wanted if at is None):
                continue
            for beam in plan.beams:
                lane = len(self.lanes)
                self.lanes.append(
                    (plan.lane.master is not None, plan.way, own, first_row + beam, first_lane + plan.table)
                )
                self.masters += [(lane, at, c.low, c.high) for at, c in wanted if at is not None]
                for relation in mode.relations:
                    master = source(relation.channel) if relation.lane == n else None
                    if master is not None:
                        top, at = mode.mode.channels[relation.channel].top, relation
                        self.relations.append((lane, at.first, at.last, master, top, at.home, at.low, at.span))


def _ints(values: Sequence[int]) -> NDArray[np.int64]:
    return np.array(values, dtype=np.int64)


@dataclass(frozen=True, eq=False)
class _Rows:
    """What there is for each beam, and the lanes, sources and conditions of all fixtures together."""

    keys: list[str]
    fixtures: list[str]
    universes: list[int]
    universe_of_row: list[int]
    neutral: Floats
    home: Floats
    table: LaneTable
    rig: _Rig


def _collected(rows: Sequence[PatchRow]) -> _Rows:
    """Fixture by fixture, in the order of `rows`."""
    table, rig = LaneTable(), _Rig()
    first_lanes: dict[tuple[int, str], int] = {}
    placed = [row.places() for row in rows]
    patched = sorted({universe for places in placed for universe, _ in places.values()})
    index = {universe: i for i, universe in enumerate(patched)}
    keys: list[str] = []
    fixtures: list[str] = []
    neutrals, homes, universe_rows = [np.zeros((0, COUNT))], [np.zeros((0, COUNT))], []
    for row, places in zip(rows, placed, strict=True):
        mode = compile_mode(row.type, row.mode)
        named = (id(row.type), row.mode)
        if named not in first_lanes:
            first_lanes[named] = table.take(mode.table)
        first, count = len(keys), len(mode.chains)
        keys += beam_keys(row.fixture, count)
        fixtures += [row.fixture] * count
        neutrals.append(mode.neutral)
        homes.append(mode.home)
        universe_rows += [index[next(iter(places.values()))[0]] if places else -1] * count
        bases = {b: index[universe] * SLOTS + slot - 1 for b, (universe, slot) in places.items()}
        rig.add(mode, first, first_lanes[named], bases)
    return _Rows(keys, fixtures, patched, universe_rows, np.concatenate(neutrals), np.concatenate(homes), table, rig)


def _ranks(order: Sequence[int]) -> NDArray[np.int64]:
    """Where each one comes in an order."""
    rank = np.zeros(len(order), dtype=np.int64)
    rank[list(order)] = np.arange(len(order))
    return rank


def _masters(
    found: Sequence[tuple[int, int, int, int]], lanes: NDArray[np.int64], sources: NDArray[np.int64]
) -> Masters:
    if not found:
        return Masters()
    lane, source, low, high = (_ints(column) for column in zip(*found, strict=True))
    return Masters(lanes[lane], sources[source], low, high)


def _relations(
    found: Sequence[tuple[int, int, int, int, float, int, float, float]],
    lanes: NDArray[np.int64],
    sources: NDArray[np.int64],
) -> Relations:
    if not found:
        return Relations()
    lane, first, last, source, top, home, low, span = (np.array(column) for column in zip(*found, strict=True))
    return Relations(lanes[lane], first, last, sources[source], top.astype(float), home, low.astype(float),
                     span.astype(float))  # fmt: skip


def compile_rig(rows: Sequence[PatchRow]) -> CompiledRig:
    """Compile the fixtures, a row for each beam, in the order of `rows`. Slots past a universe's end are left out."""
    made = _collected(rows)
    rig, table = made.rig, made.table
    # Sources by their number of bytes, lanes with those that masters choose last.
    order = sorted(range(len(rig.places)), key=lambda i: len(rig.places[i]))
    sizes = _ints([len(rig.places[i]) for i in order])
    tails = [int(np.searchsorted(sizes, byte, side="right")) for byte in range(int(sizes.max()) if len(sizes) else 0)]
    lane_order = sorted(range(len(rig.lanes)), key=lambda i: rig.lanes[i][:2])
    source_rank, lane_rank = _ranks(order), _ranks(lane_order)
    lanes = np.array([rig.lanes[i] for i in lane_order], dtype=np.int64).reshape(-1, 5)
    columns = np.array(table.columns, dtype=float).reshape(-1, 4)
    return CompiledRig(
        keys=tuple(made.keys),
        fixtures=tuple(made.fixtures),
        universes=tuple(made.universes),
        universe_of_row=_ints(made.universe_of_row),
        neutral=made.neutral,
        home=made.home,
        byte_places=tuple(_ints([rig.places[i][byte] for i in order[tail:]]) for byte, tail in enumerate(tails)),
        has_bytes=tuple(slice(tail, None) for tail in tails),
        sources=len(rig.places),
        lane_source=source_rank[lanes[:, 2]],
        lane_row=lanes[:, 3],
        lane_table=lanes[:, 4],
        lane_way=lanes[:, 1],
        unmastered=int(np.count_nonzero(lanes[:, 0] == 0)),
        coarse_segment=np.array(table.coarse, dtype=np.int32).reshape(-1, 256),
        coarse_shift=_ints(table.shift),
        refinements=table.refinements,
        next_start=_ints(table.next_start),
        origin=columns[:, 0],
        at=columns[:, 1],
        slope=columns[:, 2],
        feature=columns[:, 3].astype(np.int64),
        masters=_masters(rig.masters, lane_rank, source_rank),
        relations=_relations(rig.relations, lane_rank, source_rank),
    )
