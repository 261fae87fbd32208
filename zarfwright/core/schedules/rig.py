"""Schedules of fixtures: by position, by channel number, by address, by colour and pattern, by focus."""

from __future__ import annotations

import math
from collections import Counter, defaultdict

import numpy as np

from zarfwright.core.aiming.points import place_of
from zarfwright.core.aiming.yokes import angles_now, chain_for, turns_by_hand
from zarfwright.core.memo import Memo
from zarfwright.core.patch import Place, occupied, overlaps
from zarfwright.core.patching.dimmers import power_of
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.schedules.table import Cell, Row, Table, sort_key
from zarfwright.core.show import Show
from zarfwright.core.site.structures import rail_label, rail_names, start_side
from zarfwright.core.site.things import Truss
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.model import FixtureType
from zarfwright.core.units import format_length

FREE = "Free"
"""What hangs on nothing is listed under this."""
FRAME_OVER_M, FRAME_STEP_MM = 0.02, 5
"""A gel is cut so much larger than the lens that it is before, in round sizes."""
SPARE = 0.1


def position_of(show: Show, fixture: Fixture) -> str:
    """The structure that it hangs on, as a crew calls it; of a driver, what it moves."""
    if fixture.drives is not None:
        return show.items[fixture.drives.thing].name if fixture.drives.thing in show.items else FREE
    hung = fixture.hang is not None and fixture.hang.structure in show.items
    return show.items[fixture.hang.structure].name if hung and fixture.hang is not None else FREE


def where_on(show: Show, fixture: Fixture) -> tuple[str, str]:
    """The rail and how far along it; where it is in the show for what hangs on nothing."""
    hang = fixture.hang
    if hang is None or hang.structure not in show.items:
        x, y, _ = clamp_placement(show, fixture).position
        system = show.settings.system
        sides = [f"{name} {format_length(abs(v), system)}" for v, name in ((x, "SL" if x >= 0 else "SR"),
                                                                          (y, "US" if y >= 0 else "DS"))]  # fmt: skip
        return "", ", ".join(sides)
    truss = show.body(hang.structure, Truss)
    rail = rail_label(truss, hang.rail) if hang.rail in rail_names(truss) else hang.rail
    return rail, f"{format_length(hang.along_m, show.settings.system)} from {start_side(truss)}"


def in_position_order(show: Show) -> list[tuple[str, Fixture]]:
    """Fixtures by structure (in the show's order), then by where they are on it; what hangs on nothing last."""
    order = {item.id: k for k, item in enumerate(show.of_kind("truss"))}

    def key(pair: tuple[str, Fixture]) -> tuple[float, float, float, tuple[int, float, str]]:
        hang = pair[1].hang
        number = sort_key(pair[1].number)
        if hang is None or hang.structure not in order:
            return (math.inf, 0.0, 0.0, number)
        truss = show.body(hang.structure, Truss)
        # Of a boom from the top down, arms among the rest by their height.
        if truss.form == "upright":
            return (order[hang.structure], -clamp_placement(show, pair[1]).position[2], hang.along_m, number)
        return (order[hang.structure], hang.along_m, 0.0, number)

    return sorted(((item.id, fixture) for item, fixture in show.fixtures() if fixture.type in show.types), key=key)


def by_number(show: Show) -> list[tuple[str, Fixture]]:
    """Fixtures by channel number; those without one last."""
    pairs = ((item.id, fixture) for item, fixture in show.fixtures() if fixture.type in show.types)
    return sorted(pairs, key=lambda pair: (sort_key(pair[1].number), pair[0]))


def address_of(fixture: Fixture) -> str:
    """Universe and slot as people write them; nothing where it has none."""
    if fixture.universe is None or fixture.address is None:
        return ""
    return str(Place(fixture.universe, fixture.address))


def _colour(fixture: Fixture) -> str:
    return fixture.gel.name if fixture.gel else ""


INSTRUMENTS = ("Position", "Unit", "Type", "Mode", "Purpose", "Number", "Address", "Circuit", "Dimmer", "Colour",
               "Rail", "Along", "Height m", "Weight kg", "Power W", "Note")  # fmt: skip


def instruments(show: Show) -> Table:
    """Fixtures position by position, as a crew hangs them."""
    rows: list[Row] = []
    pairs = in_position_order(show)
    for _, fixture in pairs:
        fixture_type = show.types[fixture.type]
        rail, along = where_on(show, fixture)
        height = round(clamp_placement(show, fixture).position[2], 3)
        rows.append((position_of(show, fixture), fixture.unit, fixture_type.name, fixture.mode, fixture.purpose,
                     fixture.number, address_of(fixture), fixture.circuit, fixture.dimmer, _colour(fixture), rail,
                     along, height, fixture_type.weight_kg, power_of(fixture, fixture_type), fixture.note))  # fmt: skip
    totals = {"fixtures": len(rows), "weight_kg": _sum(rows, 13), "power_w": _sum(rows, 14),
              "positions": len({row[0] for row in rows} - {FREE})}  # fmt: skip
    return Table("instruments", "Instruments by position", INSTRUMENTS, tuple(rows), totals,
                 tuple((key,) for key, _ in pairs), "Position")  # fmt: skip


def _sum(rows: list[Row], column: int) -> float:
    """The sum of a column, right to the last digit; what is not known counts nothing."""
    return math.fsum(float(row[column] or 0.0) for row in rows)


HOOKUP = ("Number", "Address", "Last", "Type", "Mode", "Position", "Unit", "Purpose", "Colour", "Circuit", "Dimmer",
          "Note")  # fmt: skip


def hookup(show: Show) -> Table:
    """Fixtures by channel number: what is where, and on which address."""
    rows: list[Row] = []
    pairs = by_number(show)
    for _, fixture in pairs:
        slots = occupied(show, fixture) if fixture.address is not None and fixture.universe is not None else []
        rows.append((fixture.number, address_of(fixture), slots[0][2] if slots else None, show.types[fixture.type].name,
                     fixture.mode, position_of(show, fixture), fixture.unit, fixture.purpose, _colour(fixture),
                     fixture.circuit, fixture.dimmer, fixture.note))  # fmt: skip
    numbers = Counter(fixture.number for _, fixture in pairs if fixture.number is not None)
    totals = {"fixtures": len(rows), "numbers": len(numbers),
              "without_number": sum(fixture.number is None for _, fixture in pairs),
              "without_address": sum(not address_of(fixture) for _, fixture in pairs),
              "doubled": sum(times > 1 for times in numbers.values())}  # fmt: skip
    return Table("hookup", "Channel hookup", HOOKUP, tuple(rows), totals, tuple((key,) for key, _ in pairs))


ADDRESSES = ("Universe", "First", "Last", "Slots", "Number", "Type", "Mode", "Position", "Unit", "Purpose")


def addresses(show: Show) -> Table:
    """What lies on which slots, universe by universe."""
    found: list[tuple[Row, str]] = []
    for item, fixture in show.fixtures():
        if fixture.type not in show.types or fixture.universe is None or fixture.address is None:
            continue
        for universe, first, last in occupied(show, fixture):
            row: Row = (universe, first, last, last - first + 1, fixture.number, show.types[fixture.type].name,
                        fixture.mode, position_of(show, fixture), fixture.unit, fixture.purpose)  # fmt: skip
            found.append((row, item.id))
    found.sort(key=lambda pair: ([sort_key(cell) for cell in pair[0][:5]], pair[1]))
    rows = [row for row, _ in found]
    free = sum(512 - len(slots) for slots in _slots(rows).values())
    totals = {"fixtures": len({key for _, key in found}), "universes": len({row[0] for row in rows}),
              "slots": sum(len(slots) for slots in _slots(rows).values()), "free": free,
              "shared": sum(not clash.meant for clash in overlaps(show))}  # fmt: skip
    return Table("addresses", "Addresses by universe", ADDRESSES, tuple(rows), totals,
                 tuple((key,) for _, key in found), "Universe")  # fmt: skip


def _slots(rows: list[Row]) -> dict[Cell, set[int]]:
    """The slots in use of each universe, each once."""
    used: dict[Cell, set[int]] = defaultdict(set)
    for row in rows:
        first, last = row[1], row[2]
        assert isinstance(first, int)
        assert isinstance(last, int)
        used[row[0]] |= {slot for slot in range(first, last + 1) if slot <= 512}
    return used


def _frame_mm(fixture_type: FixtureType, mode: str) -> int:
    radius = max(chain.beam.lens_radius_m for chain in chains_of(fixture_type, mode))
    return math.ceil((2 * radius + FRAME_OVER_M) * 1000 / FRAME_STEP_MM - 1e-6) * FRAME_STEP_MM


frame_mm: Memo[int] = Memo(_frame_mm, 500)
"""How large a gel is cut for a type: its lens and a little more, millimetres: `(fixture_type, mode)`."""


def spares_of(count: int) -> int:
    """How many more are cut: one in ten, and one at least."""
    return max(1, math.ceil(count * SPARE)) if count else 0


COLOURS = ("Sort", "Name", "Type", "Size mm", "In use", "Spares", "To cut", "Sheet m²", "Numbers")


def colours(show: Show) -> Table:
    """Gels to cut with their sizes, and the patterns that wheels of the rig have."""
    gels: dict[tuple[str, str, int], list[tuple[str, Fixture]]] = defaultdict(list)
    for key, fixture in by_number(show):
        if fixture.gel is not None:
            fixture_type = show.types[fixture.type]
            gels[fixture.gel.name, fixture_type.name, frame_mm(fixture_type, fixture.mode)].append((key, fixture))
    rows: list[Row] = []
    things = []
    for (name, kind, size), on in sorted(gels.items()):
        spares = spares_of(len(on))
        count = len(on) + spares
        sheet_m2 = round(count * size * size / 1e6, 6)
        rows.append(("gel", name, kind, size, len(on), spares, count, sheet_m2, _numbers(on)))
        things.append(tuple(key for key, _ in on))
    patterns = _patterns(show)
    for (kind, name), on in sorted(patterns.items()):
        rows.append(("gobo", name, kind, None, len(on), None, None, None, _numbers(on)))
        things.append(tuple(key for key, _ in on))
    cut = [row for row in rows if row[0] == "gel"]
    totals = {"gels": _sum(cut, 4), "spares": _sum(cut, 5), "to_cut": _sum(cut, 6), "sheet_m2": _sum(cut, 7),
              "gobos": len(patterns)}  # fmt: skip
    note = "Sizes are those of the lens and 20 mm more: measure the frames before cutting."
    title = "Colours and gobos, with cut list"
    return Table("colours", title, COLOURS, tuple(rows), totals, tuple(things), "Sort", note)


def _numbers(on: list[tuple[str, Fixture]]) -> str:
    return ", ".join("no number" if fixture.number is None else str(fixture.number) for _, fixture in on)


def _patterns(show: Show) -> dict[tuple[str, str], list[tuple[str, Fixture]]]:
    """Every image of every gobo wheel of a type in use, with the fixtures that have it."""
    found: dict[tuple[str, str], list[tuple[str, Fixture]]] = defaultdict(list)
    for key, fixture in by_number(show):
        fixture_type = show.types[fixture.type]
        for wheel in fixture_type.wheels:
            for slot in wheel.slots:
                if slot.image:
                    found[fixture_type.name, f"{wheel.name}: {slot.name}"].append((key, fixture))
    return found


FOCUS = ("Position", "Unit", "Number", "Type", "Purpose", "Focus", "At", "Away m", "Pan °", "Tilt °", "Field °",
         "Blades", "Gobo", "Colour", "Done", "Note")  # fmt: skip


def focus(show: Show) -> Table:
    """Where everything is pointed and how it is shaped, position by position: what a crew focuses from."""
    rows: list[Row] = []
    pairs = in_position_order(show)
    for _, fixture in pairs:
        rows.append(_focused(show, fixture))
    by_hand = [turns_by_hand(chain_for(show, fixture)) for _, fixture in pairs]
    focused = [bool(row[5]) or row[8] is not None for row in rows]
    totals = {"fixtures": len(rows), "by_hand": sum(by_hand),
              "not_focused": sum(hand and not done for hand, done in zip(by_hand, focused, strict=True))}  # fmt: skip
    return Table("focus", "Focus chart", FOCUS, tuple(rows), totals, tuple((key,) for key, _ in pairs), "Position")


def _focused(show: Show, fixture: Fixture) -> Row:
    chain = chain_for(show, fixture)
    pan, tilt = angles_now(fixture, chain)
    set_here = {**fixture.hands, **fixture.fixed}
    turned = any(key in set_here for key in ("pan", "tilt"))
    what, at, away = _target(show, fixture)
    zoom = set_here.get("zoom")
    field = zoom if zoom is not None else fixture.lens_deg or chain.beam.field_angle_deg or None
    angles = (round(math.degrees(pan), 1), round(math.degrees(tilt), 1)) if turned else (None, None)
    return (position_of(show, fixture), fixture.unit, fixture.number, show.types[fixture.type].name, fixture.purpose,
            what, at, away, *angles, round(field, 1) if field else None, _blades(set_here),
            _gobo(show, fixture, set_here), _colour(fixture), "", fixture.note)  # fmt: skip


def _target(show: Show, fixture: Fixture) -> tuple[str, str, float | None]:
    """What it is pointed at, where that is, and how far away."""
    if fixture.aim is None:
        return "", "", None
    place = place_of(show, fixture.aim)
    point = show.items.get(fixture.aim.point or "")
    x, y, z = place
    system = show.settings.system
    at = (f"{'SL' if x >= 0 else 'SR'} {format_length(abs(x), system)}, {'US' if y >= 0 else 'DS'} "
          f"{format_length(abs(y), system)}, up {format_length(z, system)}")  # fmt: skip
    away = float(np.linalg.norm(np.subtract(place, clamp_placement(show, fixture).position)))
    return point.name if point is not None else "a place", at, round(away, 2)


def _blades(values: dict[str, float]) -> str:
    """Which blades are in, by how much, and how they are turned."""
    said = []
    for n in (1, 2, 3, 4):
        depth = values.get(f"blade {n}", 0.0)
        if depth > 0.005:
            turn = math.degrees(values.get(f"blade {n} angle", 0.0))
            said.append(f"{n}: {depth * 100:.0f} %" + (f" at {turn:.0f}°" if abs(turn) >= 0.5 else ""))
    return ", ".join(said)


def _gobo(show: Show, fixture: Fixture, values: dict[str, float]) -> str:
    wheels = [wheel for wheel in show.types[fixture.type].wheels if any(slot.image for slot in wheel.slots)]
    said = []
    for wheel, name in zip(wheels, ("gobo slot", "gobo 2 slot"), strict=False):
        slot = round(values.get(name, 1.0))
        if 1 < slot <= len(wheel.slots):
            said.append(wheel.slots[slot - 1].name)
    return ", ".join(said)
