"""Schedules of power and weight: circuits, phases with their balance, structures with their points; and cables."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from zarfwright.core.patching.dimmers import power_of
from zarfwright.core.patching.racks import Rack
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.schedules.rig import position_of
from zarfwright.core.schedules.supply import Supply
from zarfwright.core.schedules.table import Row, Table, sort_key
from zarfwright.core.show import Show
from zarfwright.core.site.loads import points_of
from zarfwright.core.site.structures import axis_length_m, rail_names, truss_rails, weight_kg
from zarfwright.core.site.things import Truss

VOLTS = {"metric": 230.0, "imperial": 120.0}
PHASES = ("L1", "L2", "L3")
LENGTHS_M = (1.0, 2.0, 3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 50.0, 75.0, 100.0)
SLACK = 0.1
"""Cables are so much longer than the way along the structure and straight down, and a metre more."""


@dataclass(frozen=True)
class _Outlet:
    """What draws power together: a dimmer, a circuit, or one fixture with neither."""

    universe: int | None
    circuit: str
    dimmer: int | None
    ids: tuple[str, ...]
    watts: float
    unknown: int
    phase: str = ""


def _outlets(show: Show) -> list[_Outlet]:
    groups: dict[tuple[object, ...], list[tuple[str, Fixture]]] = defaultdict(list)
    for item, fixture in show.fixtures():
        if fixture.type not in show.types:
            continue
        own = (fixture.dimmer, fixture.circuit) if fixture.dimmer is not None or fixture.circuit else (None, item.id)
        groups[fixture.universe, *own].append((item.id, fixture))
    made = []
    for on in groups.values():
        powers = [power_of(fixture, show.types[fixture.type]) for _, fixture in on]
        first = on[0][1]
        watts, unknown = math.fsum(one or 0.0 for one in powers), sum(one is None for one in powers)
        ids = tuple(key for key, _ in on)
        made.append(_Outlet(first.universe, first.circuit, first.dimmer, ids, watts, unknown))
    return sorted(made, key=lambda one: (sort_key(one.universe), sort_key(one.dimmer), sort_key(one.circuit), one.ids))


def phases_of(show: Show, outlets: Sequence[tuple[int | None, float]]) -> list[str]:
    """A phase for each outlet (its dimmer, its watts): dimmers of a rack go by turns; the others, largest first, each
    to the phase that has least."""
    racks = [(rack.first, rack.last) for _, rack in show.bodies(Rack)]
    phases = [""] * len(outlets)
    loads = dict.fromkeys(PHASES, 0.0)
    for i, (dimmer, watts) in enumerate(outlets):
        rack = next(((first, last) for first, last in racks if dimmer is not None and first <= dimmer <= last), None)
        if rack is not None and dimmer is not None:
            phases[i] = PHASES[(dimmer - rack[0]) % 3]
            loads[phases[i]] += watts
    for i in sorted((i for i, phase in enumerate(phases) if not phase), key=lambda i: (-outlets[i][1], i)):
        phases[i] = min(PHASES, key=lambda phase: (loads[phase], phase))
        loads[phases[i]] += outlets[i][1]
    return phases


POWER = ("Universe", "Circuit", "Dimmer", "Fixtures", "Numbers", "Types", "Power W", "Current A", "Phase")


def power(show: Show) -> Table:
    """What draws how much: by universe and circuit, with a phase for each and how even the three are."""
    volts = VOLTS[show.settings.system]
    outlets = _outlets(show)
    phases = phases_of(show, [(one.dimmer, one.watts) for one in outlets])
    rows: list[Row] = []
    loads = dict.fromkeys(PHASES, 0.0)
    for one, phase in zip(outlets, phases, strict=True):
        fixtures = [show.body(key, Fixture) for key in one.ids]
        numbers = ", ".join("no number" if f.number is None else str(f.number) for f in fixtures)
        kinds = ", ".join(dict.fromkeys(show.types[f.type].name for f in fixtures))
        rows.append((one.universe, one.circuit, one.dimmer, len(one.ids), numbers, kinds, one.watts,
                     round(one.watts / volts, 2), phase))  # fmt: skip
        loads[phase] += one.watts
    total = math.fsum(one.watts for one in outlets)
    mean = total / 3
    uneven = max(abs(load - mean) for load in loads.values()) / mean * 100 if mean else 0.0
    totals = {"fixtures": sum(len(one.ids) for one in outlets), "power_w": total, "current_a": round(total / volts, 2),
              **{f"{phase}_w": loads[phase] for phase in PHASES}, "unbalance_percent": round(uneven, 1),
              "power_unknown": sum(one.unknown for one in outlets)}  # fmt: skip
    note = (f"At {volts:g} V and a power factor of 1. Dimmers of a rack are on the phases by turns, all else where "
            "there is least: a proposal.")  # fmt: skip
    return Table("power", "Power by universe, circuit and phase", POWER, tuple(rows), totals,
                 tuple(one.ids for one in outlets), "Universe", note)  # fmt: skip


WEIGHTS = ("Structure", "Point", "At m", "Length m", "Fixtures", "Own kg (estimate)", "Fixtures kg (estimate)",
           "Total kg (estimate)")  # fmt: skip


def weights(show: Show) -> Table:
    """What each structure weighs with all that hangs on it, and what comes on each of its points: an estimate."""
    rows: list[Row] = []
    things = []
    own_kg, hung_kg = [], []
    fixtures = 0
    for item, truss in show.bodies(Truss):
        on = [
            (fixture, show.types[fixture.type].weight_kg)
            for _, fixture in show.fixtures()
            if fixture.hang is not None and fixture.hang.structure == item.id and fixture.type in show.types
        ]
        for row in _points(item.name, truss, on):
            rows.append(row)
            things.append((item.id,))
        own_kg.append(weight_kg(truss))
        hung_kg += [kilograms for _, kilograms in on]
        fixtures += len(on)
    totals = {"structures": len(own_kg), "points": len(rows), "fixtures": fixtures,
              "own_kg": round(math.fsum(own_kg), 6), "fixtures_kg": round(math.fsum(hung_kg), 6),
              "total_kg": round(math.fsum([*own_kg, *hung_kg]), 6)}  # fmt: skip
    note = ("An estimate, no structural proof: each fixture bears on the two points beside it by the lever rule, a "
            "structure's own weight evenly; cables, motors and clamps are not in it.")  # fmt: skip
    title = "Weights by structure and point"
    return Table("weights", title, WEIGHTS, tuple(rows), totals, tuple(things), "Structure", note)


def shares_on(places: Sequence[float], along: float, length: float, closed: bool) -> list[float]:
    """What share of a weight at a distance along a structure each of its points bears: the two beside it by the lever
    rule, beyond the last one the last one alone."""
    shares = [0.0] * len(places)
    if len(places) == 1:
        return [1.0]
    turn = length if closed else math.inf
    before = [k for k in range(len(places)) if places[k] <= along + 1e-9]
    a = before[-1] if before else (len(places) - 1 if closed else 0)
    b = (a + 1) % len(places) if closed else min(a + 1, len(places) - 1)
    if not closed and (not before or a == b):
        shares[a] = 1.0
        return shares
    gap = (places[b] - places[a]) % turn if closed else places[b] - places[a]
    share = ((along - places[a]) % turn if closed else along - places[a]) / gap
    shares[a] += 1 - share
    shares[b] += share
    return shares


def point_places(truss: Truss, count: int) -> list[float]:
    """How far along each of a structure's points is (site/rigging.py puts them there)."""
    length = axis_length_m(truss)
    closed = truss.form == "arc" and truss.span_deg >= 360 - 1e-9
    return [length * (k if closed else k + 0.5) / count for k in range(count)]


def _points(name: str, truss: Truss, on: Sequence[tuple[Fixture, float]]) -> list[Row]:
    length = axis_length_m(truss)
    rail = truss_rails(truss)[rail_names(truss)[0]]
    places = [0.0] if truss.form == "upright" else point_places(truss, points_of(truss))
    hung = [0.0] * len(places)
    count = [0.0] * len(places)
    for fixture, kilograms in on:
        assert fixture.hang is not None
        along = fixture.hang.along_m * length / rail.length_m if rail.length_m else 0.0
        for k, share in enumerate(shares_on(places, along, length, rail.closed)):
            hung[k] += share * kilograms
            count[k] += share
    own = weight_kg(truss) / len(places)
    return [
        (name, f"{k + 1} of {len(places)}",
         *(round(part, 3) for part in (places[k], length, count[k], own, hung[k], own + hung[k])))
        for k in range(len(places))
    ]  # fmt: skip


CABLES = ("From", "Circuit", "Position", "Numbers", "Way m", "Cable m")


def cable_m(way_m: float) -> float | None:
    """The usual length of cable that a way of so many metres takes, with slack; None where there is none so long."""
    wanted = way_m * (1 + SLACK) + 1.0
    return next((length for length in LENGTHS_M if length >= wanted - 1e-9), None)


def cables(show: Show) -> Table:
    """Cables from a distribution point: one for each circuit, or fixture without one, along the structure to its
    nearer end and from there square along the room."""
    supplies = list(show.bodies(Supply))
    title = "Cables by length"
    if not supplies:
        note = "Place a distribution point first: Papers, Cables."
        return Table("cables", title, CABLES, (), {"cables": 0}, note=note)
    groups: dict[tuple[str, str], list[tuple[str, Fixture]]] = defaultdict(list)
    for item, fixture in show.fixtures():
        if fixture.type in show.types:
            groups[position_of(show, fixture), fixture.circuit or item.id].append((item.id, fixture))
    found: list[tuple[Row, tuple[str, ...]]] = []
    for (position, _), on in groups.items():
        ways = [(_way(show, fixture, supply), supply.name) for _, supply in supplies for _, fixture in on]
        # The nearest point, to the furthest fixture of the circuit.
        name = min(ways)[1]
        way = max(far for far, of in ways if of == name)
        numbers = ", ".join("no number" if f.number is None else str(f.number) for _, f in on)
        row: Row = (name, on[0][1].circuit, position, numbers, round(way, 2), cable_m(way))
        found.append((row, tuple(key for key, _ in on)))
    found.sort(key=lambda pair: [sort_key(pair[0][column]) for column in (0, 5, 2, 1, 3)])
    totals: dict[str, float] = {"cables": len(found), "cable_m": math.fsum(float(row[5] or 0) for row, _ in found)}
    for length in LENGTHS_M:
        count = sum(row[5] == length for row, _ in found)
        if count:
            totals[f"of_{length:g}_m"] = count
    too_long = sum(row[5] is None for row, _ in found)
    if too_long:
        totals["too_long"] = too_long
    note = f"Along the structure to its nearer end, then square: {SLACK:.0%} and a metre more for slack."
    rows, things = tuple(row for row, _ in found), tuple(ids for _, ids in found)
    return Table("cables", title, CABLES, rows, totals, things, "Cable m", note)


def _way(show: Show, fixture: Fixture, supply: Supply) -> float:
    """From a fixture along its structure to an end, then square along the room to a distribution point, metres."""
    clamp = clamp_placement(show, fixture).position

    def square(a: Sequence[float]) -> float:
        return math.fsum(abs(p - q) for p, q in zip(a, supply.position, strict=True))

    hang = fixture.hang
    body = show.items[hang.structure].body if hang is not None and hang.structure in show.items else None
    if hang is None or not isinstance(body, Truss) or body.form == "arc":
        return square(clamp)
    rail = truss_rails(body).get(hang.rail)
    if rail is None:
        return square(clamp)
    if body.form == "upright":
        foot = body.position
        return math.fsum([abs(clamp[2] - foot[2]), square((foot[0], foot[1], foot[2]))])
    ends = ((hang.along_m, rail.start), (rail.length_m - hang.along_m, rail.end))
    return min(max(far, 0.0) + square(end) for far, end in ends)
