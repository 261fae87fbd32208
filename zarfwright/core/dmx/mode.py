"""What is the same for every fixture of a type in a mode, worked out once: lanes, relations, where features rest."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.features import FEATURES, INDEX, INVERSE, PHYSICAL, drives_of
from zarfwright.core.dmx.segments import NOTHING, Condition, Lane, conditions_of, lanes_of
from zarfwright.core.memo import Memo
from zarfwright.core.space import Floats
from zarfwright.core.types.chain import Chain, chains_of
from zarfwright.core.types.model import Channel, FixtureType, Mode

NO_NEXT = np.iinfo(np.int64).max
ONE, BYTE, PICKS, ANY = range(4)
"""How a lane is worked out: one straight line; a byte, by table; a byte that also chooses the feature; by segments."""
DIMMER, MASTER_DIMMER = INDEX["dimmer"], INDEX["master dimmer"]


class LaneTable:
    """The segments of distinct lanes, of a mode or of a whole rig."""

    def __init__(self) -> None:
        self.columns: list[list[float]] = []
        self.next_start: list[int] = []
        self.coarse: list[NDArray[np.int32]] = []
        self.shift: list[int] = []
        self.refinements = 0
        self.ways: list[int] = []
        self.features: list[frozenset[int]] = []

    def take(self, other: LaneTable) -> int:
        """Take in another table's lanes; gives the number that its first one has here."""
        first, segments = len(self.coarse), len(self.columns)
        self.columns += other.columns
        self.next_start += other.next_start
        self.coarse += [one + np.int32(segments) for one in other.coarse]
        self.shift += other.shift
        self.ways += other.ways
        self.features += other.features
        self.refinements = max(self.refinements, other.refinements)
        return first

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
class LanePlan:
    """A lane of a mode: where its channel stands in the mode, its number in the table, the beams that it drives."""

    channel: int
    lane: Lane
    table: int
    beams: tuple[int, ...]
    conditions: tuple[Condition, ...]
    way: int = ANY


@dataclass(frozen=True)
class RelationPlan:
    """A relation of a mode: the lane (by its place in the plan), the function's range, and what the master does."""

    lane: int
    first: int
    last: int
    channel: int
    home: int
    low: float
    span: float


@dataclass(frozen=True, eq=False)
class CompiledMode:
    """What is the same for every fixture of a type in a mode."""

    mode: Mode
    chains: tuple[Chain, ...]
    lanes: tuple[LanePlan, ...]
    relations: tuple[RelationPlan, ...]
    neutral: Floats
    home: Floats
    table: LaneTable
    """The segments of its lanes."""


def _dimmers_above(mode: Mode, chains: Sequence[Chain]) -> set[int]:
    """The dimmers (by their place in the mode) above which others lie: theirs are multiplied, not overwritten."""
    dims = [(i, c, set(driven_beams(c, chains))) for i, c in enumerate(mode.channels) if c.attribute == "Dimmer"]
    return {i for i, _, beams in dims if any(other < beams for _, _, other in dims)}


def _relation_plans(
    fixture_type: FixtureType, mode: Mode, lanes: Sequence[LanePlan], chains: Sequence[Chain]
) -> list[RelationPlan]:
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
            plans.append(RelationPlan(n, span[1], span[2], number, home, ends[0], ends[1] - ends[0]))
    return plans


def _compile_mode(fixture_type: FixtureType, name: str) -> CompiledMode:
    mode, chains, table = fixture_type.mode(name), chains_of(fixture_type, name), LaneTable()
    neutral = np.tile([feature.neutral for feature in FEATURES], (len(chains), 1))
    neutral[:, INDEX["zoom"]] = [default_zoom_deg(chain) for chain in chains]
    above = _dimmers_above(mode, chains)
    plans: list[LanePlan] = []
    for i, channel in enumerate(mode.channels):
        beams = tuple(driven_beams(channel, chains))
        for lane in lanes_of(fixture_type, channel):
            conditions = conditions_of(mode, lane.master)
            # Channels that change nothing in the picture (control ranges) are not decoded at all.
            if conditions is None or not lane.drives:
                continue
            remap = {DIMMER: MASTER_DIMMER} if i in above else {}
            number = table.add(lane, max(len(channel.slots), 1), remap)
            plans.append(LanePlan(i, lane, number, beams, tuple(conditions)))
    plans.sort(key=lambda plan: plan.lane.master is not None)
    plans = _with_ways(plans, table)
    relations = _relation_plans(fixture_type, mode, plans, chains)
    compiled = CompiledMode(mode, chains, tuple(plans), tuple(relations), neutral, neutral, table)
    levels = [virtual_level(channel) if channel.virtual else channel.home for channel in mode.channels]
    # What virtual channels do is done once: no slot will change it.
    virtual = {i for i, channel in enumerate(mode.channels) if channel.virtual}
    neutral = _written(compiled, neutral, levels, above, virtual)
    home = _written(compiled, neutral, levels, above, None)
    return CompiledMode(mode, chains, tuple(plans), tuple(relations), neutral, home, table)


def _with_ways(plans: list[LanePlan], table: LaneTable) -> list[LanePlan]:
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
    compiled: CompiledMode, start: Floats, levels: Sequence[int], above: set[int], only: set[int] | None
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


compile_mode = Memo(_compile_mode, 120)
"""A mode of a type, worked out once."""
