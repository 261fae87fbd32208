"""What moves: a line for each channel of each driver, with its travel, its speed and what it carries."""

from __future__ import annotations

from zarfwright.core.carriers.planned import drivers_of
from zarfwright.core.carriers.types import ranges_of
from zarfwright.core.rig.things import Fixture
from zarfwright.core.schedules.rig import address_of
from zarfwright.core.schedules.table import Row, Table
from zarfwright.core.show import Item, Show
from zarfwright.core.site.loads import load_of, points_of
from zarfwright.core.site.things import Truss

MOVES = ("Moves", "Number", "Driver", "Address", "Axis", "From", "Home", "To", "Unit", "Speed a second",
         "Acceleration", "Seconds end to end", "Bits", "Load kg", "Points", "Point load kg")  # fmt: skip


def carried_by(show: Show, thing: str) -> list[Item]:
    """A thing with all that is on it or hangs on it."""
    on: dict[str, list[Item]] = {}
    for item in show.items.values():
        hang = item.body.hang if isinstance(item.body, Fixture) else None
        above = hang.structure if hang is not None and hang.structure in show.items else item.parent
        if above is not None:
            on.setdefault(above, []).append(item)
    found, waiting, seen = [show.items[thing]], [thing], {thing}
    while waiting:
        for item in on.get(waiting.pop(), ()):
            if item.id not in seen:
                seen.add(item.id)
                found.append(item)
                waiting.append(item.id)
    return found


def load_kg(show: Show, thing: str) -> tuple[float, int]:
    """What a driver has to carry, of all whose weight is known (structures and fixtures), and by how many points."""
    kilograms, points = 0.0, 0
    for item in carried_by(show, thing):
        if isinstance(item.body, Truss):
            kilograms += load_of(show, item).own_kg
            points += points_of(item.body)
        elif isinstance(item.body, Fixture) and item.body.drives is None and item.body.type in show.types:
            kilograms += show.types[item.body.type].weight_kg
    return kilograms, points


def seconds_for(way: float, speed: float, acceleration: float) -> float:
    """The time for a way from rest to rest: s / v + v / a, or 2 sqrt(s / a) where the full speed is not reached."""
    if way <= 0 or speed <= 0:
        return 0.0
    if acceleration <= 0:
        return way / speed
    return way / speed + speed / acceleration if way >= speed**2 / acceleration else 2 * (way / acceleration) ** 0.5


def moves(show: Show) -> Table:
    """Hoists, fly bars, wagons, turntables: what a crew and a console have to know of them."""
    rows: list[Row] = []
    things = []
    for thing, drivers in drivers_of(show).items():
        kilograms, points = load_kg(show, thing)
        for item, fixture, _ in drivers:
            for one in ranges_of(show.types[fixture.type], fixture.mode):
                takes = seconds_for(one.high - one.low, one.speed, one.acceleration) if one.axis != "spin" else None
                name = show.types[fixture.type].name
                rows.append((
                    show.items[thing].name, fixture.number, name, address_of(fixture), one.axis,
                    round(one.low, 4), round(one.home, 4), round(one.high, 4), one.unit, round(one.speed, 4),
                    round(one.acceleration, 4), None if takes is None else round(takes, 2), one.bits,
                    round(kilograms, 2), points or None, round(kilograms / points, 2) if points else None,
                ))  # fmt: skip
                things.append((item.id, thing))
    totals = {"drivers": len({key for key, _ in things}), "channels": len(rows)}
    note = "Load: structures and fixtures whose weight is known; scenery and people are not weighed."
    return Table("moves", "What moves", MOVES, tuple(rows), totals, tuple(things), "Moves", note)
