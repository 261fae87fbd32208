"""Turn a rig's modes and addresses into flat arrays that decode in one gather.

A source is one channel of one fixture: its raw value is put together once. A lane of it (core/dmx/segments.py) writes
one feature of one beam; masters say whether it does, relations what its value is multiplied by.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.features import COUNT, FEATURES, INDEX, INVERSE, PHYSICAL, drives_of
from zarfwright.core.dmx.segments import NOTHING, Condition, Lane, conditions_of, lanes_of
from zarfwright.core.space import Floats
from zarfwright.core.types.chain import Chain, chains_of
from zarfwright.core.types.model import Channel, Chromaticity, FixtureType, Mode

SLOTS = 512
NO_NEXT = np.iinfo(np.int64).max
ONE, BYTE, PICKS, ANY = range(4)
"""How a lane is worked out: one straight line; a byte, by table; a byte that also chooses the feature; by segments."""
DIMMER, MASTER_DIMMER = INDEX["dimmer"], INDEX["master dimmer"]
Address = tuple[int, int]
"""Universe and slot."""


@dataclass(frozen=True)
class PatchRow:
    """One fixture as the decoder needs it. Without universe or address it is not driven by DMX."""

    fixture: str
    type: FixtureType
    mode: str
    universe: int | None
    address: int | None
    breaks: tuple[tuple[int, int, int], ...] = ()
    """Where its further breaks are, as (break, universe, slot); one that is not named follows the one before it."""
    gel: Chromaticity | None = None
    """The filter before all of its beams."""

    def places(self) -> dict[int, Address]:
        """The address of each break; none where it is not patched."""
        if self.universe is None or self.address is None:
            return {}
        return break_places(self.type.mode(self.mode), (self.universe, self.address), self.breaks)


def break_places(mode: Mode, start: Address, named: Sequence[tuple[int, int, int]]) -> dict[int, Address]:
    """The address of each break of a mode: as named, else right after the break before it."""
    given = {number: (universe, address) for number, universe, address in named}
    places: dict[int, Address] = {}
    universe, address = start
    for i, (number, size) in enumerate(mode.footprints.items()):
        if i > 0 and number in given:
            universe, address = given[number]
        elif i > 0 and address + size - 1 > SLOTS:
            universe, address = universe + 1, 1
        places[number] = (universe, address)
        address += size
    return places


def beam_keys(fixture: str, count: int) -> list[str]:
    """What the rows of a fixture's beams are called: its own id, or id/1, id/2 ... where it has several cells."""
    return [fixture] if count == 1 else [f"{fixture}/{cell + 1}" for cell in range(count)]


def fixture_of(key: str) -> str:
    """Whose beam a row of that name is."""
    return key.split("/", 1)[0]


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


class _LaneTable:
    """Collects the segments of distinct lanes."""

    def __init__(self) -> None:
        self.starts: list[int] = []
        self.columns: list[list[float]] = []
        self.next_start: list[int] = []
        self.coarse: list[NDArray[np.int32]] = []
        self.shift: list[int] = []
        self.refinements = 0
        self.ways: list[int] = []
        self.features: list[frozenset[int]] = []

    def add(self, lane: Lane, size: int, remap: Mapping[int, int]) -> int:
        first = len(self.columns)
        starts = np.array([segment.start for segment in lane.segments])
        step = 256 ** (size - 1)
        lowest = np.arange(256) * step
        found = np.maximum(np.searchsorted(starts, lowest, side="right") - 1, 0)
        highest = np.maximum(np.searchsorted(starts, lowest + step - 1, side="right") - 1, 0)
        self.refinements = max(self.refinements, int((highest - found).max()))
        features = [remap.get(one.feature, one.feature) for one in lane.segments]
        for one, feature in zip(lane.segments, features, strict=True):
            self.columns.append([one.origin, one.at, one.slope, feature])
        same = len(set(features)) == 1
        self.ways.append(ONE if len(features) == 1 else ANY if size > 1 else BYTE if same else PICKS)
        self.features.append(frozenset(features) - {NOTHING})
        self.next_start += [*starts[1:].tolist(), NO_NEXT]
        self.coarse.append((found + first).astype(np.int32))
        self.shift.append(8 * (size - 1))
        return len(self.coarse) - 1


def default_zoom_deg(chain: Chain) -> float:
    """The field angle of a beam whose mode has no zoom: its own."""
    return max(chain.beam.field_angle_deg, chain.beam.beam_angle_deg)


def driven_beams(channel: Channel, chains: Sequence[Chain]) -> list[int]:
    """Which beams a channel drives: those at or below its geometry; all of them where the tree has no such part."""
    below = [i for i, chain in enumerate(chains) if channel.geometry in chain.path]
    return below or list(range(len(chains)))


def virtual_level(channel: Channel) -> int:
    """What a channel without a slot is taken to be at: its default. A virtual dimmer is full, for the console has
    multiplied it in before it sent the colours."""
    return channel.top if channel.attribute == "Dimmer" else channel.home


@dataclass(frozen=True)
class _LanePlan:
    """A lane of a mode: where its channel stands in the mode, its number in the table, the beams that it drives."""

    channel: int
    lane: Lane
    table: int
    beams: tuple[int, ...]
    conditions: tuple[Condition, ...]
    way: int = ANY


@dataclass(frozen=True)
class _RelationPlan:
    """A relation of a mode: the lane (by its place in the plan), the function's range, and what the master does."""

    lane: int
    first: int
    last: int
    channel: int
    home: int
    low: float
    span: float


@dataclass(frozen=True, eq=False)
class _CompiledMode:
    """What is the same for every fixture of a type in a mode."""

    mode: Mode
    chains: tuple[Chain, ...]
    lanes: tuple[_LanePlan, ...]
    relations: tuple[_RelationPlan, ...]
    neutral: Floats
    home: Floats


def _dimmers_above(mode: Mode, chains: Sequence[Chain]) -> set[int]:
    """The dimmers (by their place in the mode) above which others lie: theirs are multiplied, not overwritten."""
    dims = [(i, c, set(driven_beams(c, chains))) for i, c in enumerate(mode.channels) if c.attribute == "Dimmer"]
    return {i for i, _, beams in dims if any(other < beams for _, _, other in dims)}


def _relation_plans(
    fixture_type: FixtureType, mode: Mode, lanes: Sequence[_LanePlan], chains: Sequence[Chain]
) -> list[_RelationPlan]:
    plans = []
    for relation in mode.relations:
        master, follower = mode.by_name.get(relation.master), mode.by_name.get(relation.follower)
        # A channel without a slot stands still, whatever relations say of it.
        if master is None or follower is None or master.virtual or follower.virtual:
            continue
        dims = relation.kind == "Multiply" and master.attribute == "Dimmer"
        # A dimmer above its followers is multiplied into the light once, by the picture.
        if dims and set(driven_beams(follower, chains)) <= set(driven_beams(master, chains)):
            continue
        span = next((one for one in follower.spans() if one[0].name == relation.function), None)
        if span is None:
            continue
        for n, plan in enumerate(lanes):
            names = [name for name, _, _ in plan.lane.spans]
            if mode.channels[plan.channel] is not follower or relation.function not in names:
                continue
            # Wheel slots and kinds of strobe have nothing to be multiplied.
            feature = plan.lane.at(span[1]).feature
            if not any(d.source in (PHYSICAL, INVERSE) and INDEX[d.feature] == feature for d in drives_of(span[0])):
                continue
            ends = [plan.lane.at(raw).value(raw) for raw in span[1:]]
            home = master.home if relation.kind == "Override" else -1
            number = mode.place_of(master.name)
            plans.append(_RelationPlan(n, span[1], span[2], number, home, ends[0], ends[1] - ends[0]))
    return plans


def _compiled_mode(row: PatchRow, table: _LaneTable) -> _CompiledMode:
    mode, chains = row.type.mode(row.mode), chains_of(row.type, row.mode)
    neutral = np.tile([feature.neutral for feature in FEATURES], (len(chains), 1))
    neutral[:, INDEX["zoom"]] = [default_zoom_deg(chain) for chain in chains]
    above = _dimmers_above(mode, chains)
    plans: list[_LanePlan] = []
    for i, channel in enumerate(mode.channels):
        beams = tuple(driven_beams(channel, chains))
        for lane in lanes_of(row.type, channel):
            conditions = conditions_of(mode, lane.master)
            # Channels that change nothing in the picture (control ranges) are not decoded at all.
            if conditions is None or not lane.drives:
                continue
            remap = {DIMMER: MASTER_DIMMER} if i in above else {}
            number = table.add(lane, max(len(channel.slots), 1), remap)
            plans.append(_LanePlan(i, lane, number, beams, tuple(conditions)))
    plans.sort(key=lambda plan: plan.lane.master is not None)
    plans = _with_ways(plans, table)
    relations = _relation_plans(row.type, mode, plans, chains)
    compiled = _CompiledMode(mode, chains, tuple(plans), tuple(relations), neutral, neutral)
    levels = [virtual_level(channel) if channel.virtual else channel.home for channel in mode.channels]
    # What virtual channels do is done once: no slot will change it.
    virtual = {i for i, channel in enumerate(mode.channels) if channel.virtual}
    neutral = _written(compiled, neutral, levels, above, virtual)
    home = _written(compiled, neutral, levels, above, None)
    return _CompiledMode(mode, chains, tuple(plans), tuple(relations), neutral, home)


def _with_ways(plans: list[_LanePlan], table: _LaneTable) -> list[_LanePlan]:
    """The lanes with how they are worked out.

    The rig's lanes are sorted by that. Those that write the same feature of a beam have to keep their order, so all of
    them are worked out in the same way.
    """
    together: dict[tuple[bool, int, int], list[int]] = {}
    for n, plan in enumerate(plans):
        for beam in plan.beams:
            for feature in table.features[plan.table]:
                together.setdefault((plan.lane.master is not None, beam, feature), []).append(n)
    ways = [table.ways[plan.table] for plan in plans]
    mixed = [group for group in together.values() if len(group) > 1]
    while group := next((group for group in mixed if len({ways[n] for n in group}) > 1), None):
        for n in group:
            ways[n] = ANY
    return [replace(plan, way=way) for plan, way in zip(plans, ways, strict=True)]


def _written(
    compiled: _CompiledMode, start: Floats, levels: Sequence[int], above: set[int], only: set[int] | None
) -> Floats:
    """Features (beams, COUNT) at given raw values of the mode's channels; of all its channels, or of some."""
    out = start.copy()
    by_name = {name: levels[compiled.mode.place_of(name)] for name in compiled.mode.by_name}
    for n, plan in enumerate(compiled.lanes):
        if only is not None and plan.channel not in only:
            continue
        if not all(c.low <= by_name[c.channel] <= c.high for c in plan.conditions):
            continue
        raw = levels[plan.channel]
        segment = plan.lane.at(raw)
        if segment.feature == NOTHING:
            continue
        value = segment.value(raw)
        for relation in compiled.relations:
            if relation.lane == n and relation.first <= raw <= relation.last:
                master = levels[relation.channel]
                share = master / compiled.mode.channels[relation.channel].top
                if relation.home < 0:
                    value *= share
                elif master != relation.home:
                    value = relation.low + relation.span * share
        feature = MASTER_DIMMER if plan.channel in above and segment.feature == DIMMER else segment.feature
        out[list(plan.beams), feature] = value
    return out


class _Rig:
    """Collects the sources, lanes, masters and relations of a rig."""

    def __init__(self) -> None:
        self.places: list[tuple[int, ...]] = []
        self.lanes: list[tuple[bool, int, int, int, int]] = []
        self.masters: list[tuple[int, int, int, int]] = []
        self.relations: list[tuple[int, int, int, int, float, int, float, float]] = []

    def add(self, mode: _CompiledMode, first_row: int, bases: Mapping[int, int | None]) -> None:
        """A fixture; `bases` are the flat places of each break's first slot."""
        sources: dict[int, int] = {}

        def source(number: int) -> int | None:
            if number in sources:
                return sources[number]
            channel = mode.mode.channels[number]
            base = bases.get(channel.dmx_break)
            if channel.virtual or base is None:
                return None
            places = tuple(base + slot - 1 for slot in channel.slots)
            if places and max(places) // SLOTS != base // SLOTS:
                return None
            sources[number] = len(self.places)
            self.places.append(places)
            return sources[number]

        for n, plan in enumerate(mode.lanes):
            own = source(plan.channel)
            if own is None:
                continue
            wanted = [(source(mode.mode.place_of(c.channel)), c) for c in plan.conditions]
            fixed = [mode.mode.by_name[c.channel] for at, c in wanted if at is None]
            levels = [virtual_level(channel) if channel.virtual else channel.home for channel in fixed]
            unmet = [c for at, c in wanted if at is None]
            if not all(c.low <= level <= c.high for c, level in zip(unmet, levels, strict=True)):
                continue
            for beam in plan.beams:
                lane = len(self.lanes)
                self.lanes.append((plan.lane.master is not None, plan.way, own, first_row + beam, plan.table))
                self.masters += [(lane, at, c.low, c.high) for at, c in wanted if at is not None]
                for relation in mode.relations:
                    master = source(relation.channel) if relation.lane == n else None
                    if master is not None:
                        top = mode.mode.channels[relation.channel].top
                        self.relations.append(
                            (
                                lane,
                                relation.first,
                                relation.last,
                                master,
                                top,
                                relation.home,
                                relation.low,
                                relation.span,
                            )
                        )


def _ints(values: Sequence[int]) -> NDArray[np.int64]:
    return np.array(values, dtype=np.int64)


def compile_rig(rows: Sequence[PatchRow]) -> CompiledRig:
    """Compile the fixtures, a row for each beam, in the order of `rows`. Slots past a universe's end are left out."""
    table, rig = _LaneTable(), _Rig()
    modes: dict[tuple[int, str], _CompiledMode] = {}
    placed = [row.places() for row in rows]
    patched = sorted({universe for places in placed for universe, _ in places.values()})
    index = {universe: i for i, universe in enumerate(patched)}
    keys: list[str] = []
    fixtures: list[str] = []
    neutrals, homes, universe_rows = [np.zeros((0, COUNT))], [np.zeros((0, COUNT))], []
    for row, places in zip(rows, placed, strict=True):
        mode = modes.get((id(row.type), row.mode))
        if mode is None:
            mode = modes[id(row.type), row.mode] = _compiled_mode(row, table)
        first, count = len(keys), len(mode.chains)
        keys += beam_keys(row.fixture, count)
        fixtures += [row.fixture] * count
        neutrals.append(mode.neutral)
        homes.append(mode.home)
        universe_rows += [index[next(iter(places.values()))[0]] if places else -1] * count
        rig.add(mode, first, {b: index[universe] * SLOTS + slot - 1 for b, (universe, slot) in places.items()})
    # Sources by their number of bytes, lanes with those that masters choose last.
    order = sorted(range(len(rig.places)), key=lambda i: len(rig.places[i]))
    rank = np.zeros(len(order), dtype=np.int64)
    rank[order] = np.arange(len(order))
    sizes = _ints([len(rig.places[i]) for i in order])
    tails = [int(np.searchsorted(sizes, byte, side="right")) for byte in range(int(sizes.max()) if len(sizes) else 0)]
    lane_order = sorted(range(len(rig.lanes)), key=lambda i: rig.lanes[i][:2])
    lane_rank = np.zeros(len(lane_order), dtype=np.int64)
    lane_rank[lane_order] = np.arange(len(lane_order))
    lanes = [rig.lanes[i] for i in lane_order]
    columns = np.array(table.columns, dtype=float).reshape(-1, 4)
    masters, relations = rig.masters, rig.relations
    return CompiledRig(
        keys=tuple(keys),
        fixtures=tuple(fixtures),
        universes=tuple(patched),
        universe_of_row=_ints(universe_rows),
        neutral=np.concatenate(neutrals),
        home=np.concatenate(homes),
        byte_places=tuple(_ints([rig.places[i][byte] for i in order[tail:]]) for byte, tail in enumerate(tails)),
        has_bytes=tuple(slice(tail, None) for tail in tails),
        sources=len(rig.places),
        lane_source=rank[_ints([lane[2] for lane in lanes])] if lanes else empty(),
        lane_row=_ints([lane[3] for lane in lanes]),
        lane_table=_ints([lane[4] for lane in lanes]),
        lane_way=_ints([lane[1] for lane in lanes]),
        coarse_segment=np.array(table.coarse, dtype=np.int32).reshape(-1, 256),
        coarse_shift=_ints(table.shift),
        refinements=table.refinements,
        next_start=_ints(table.next_start),
        origin=columns[:, 0],
        at=columns[:, 1],
        slope=columns[:, 2],
        feature=columns[:, 3].astype(np.int64),
        masters=Masters(
            lane_rank[_ints([m[0] for m in masters])],
            rank[_ints([m[1] for m in masters])],
            _ints([m[2] for m in masters]),
            _ints([m[3] for m in masters]),
        )
        if masters
        else Masters(),
        relations=Relations(
            lane_rank[_ints([r[0] for r in relations])],
            _ints([r[1] for r in relations]),
            _ints([r[2] for r in relations]),
            rank[_ints([r[3] for r in relations])],
            np.array([r[4] for r in relations], dtype=float),
            _ints([r[5] for r in relations]),
            np.array([r[6] for r in relations]),
            np.array([r[7] for r in relations]),
        )
        if relations
        else Relations(),
    )
