"""What is wrong with dimmers: overloaded, at odds with the addresses of what is on them, of no rack, or of two."""

from __future__ import annotations

from itertools import combinations

from zarfwright.core.doctor.facts import spans
from zarfwright.core.doctor.rig import few
from zarfwright.core.findings import Finding, Repair
from zarfwright.core.patch import occupied
from zarfwright.core.patching.dimmers import Dimmer, dimmers_of, format_power, is_dimmed
from zarfwright.core.patching.racks import Rack
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show


def _names(show: Show, ids: tuple[str, ...]) -> str:
    return few([show.items[key].name for key in ids])


def overload(show: Show, one: Dimmer) -> str | None:
    """What is said of a dimmer that has more on it than it carries; None: it has not."""
    if one.left_w is None or one.left_w >= 0 or one.carries_w is None:
        return None
    return (
        f"Dimmer {one.number} carries {format_power(one.carries_w)} and has {format_power(one.load_w)} on it "
        f"({_names(show, one.fixtures)})"
    )


def dimmer_findings(show: Show) -> list[Finding]:
    """Everything to put right about dimmers, by their numbers."""
    found = _racks_at_odds(show)
    racked = any(True for _ in show.bodies(Rack))
    strays: list[Dimmer] = []
    for one in dimmers_of(show):
        over = overload(show, one)
        if over is not None:
            text = f"{over}: take {format_power(-(one.left_w or 0.0))} off it."
            found.append(Finding("patch", one.fixtures, text, wrong=True, code="dimmer_overloaded"))
        if one.rack is None:
            strays += [one] if racked else []
        else:
            found += _as_driven(show, one)
    if strays:
        ids = tuple(key for one in strays for key in one.fixtures)
        numbers = [one.number for one in strays]
        which = f"Dimmer {numbers[0]} is" if len(numbers) == 1 else f"Dimmers {spans(numbers)} are"
        text = f"{which} of no rack: plug {_names(show, ids)} to another, or add the rack."
        found.append(Finding("patch", ids, text, code="dimmer_of_no_rack"))
    return [*found, *_in_the_way(show), *_circuits(show)]


def _as_driven(show: Show, one: Dimmer) -> list[Finding]:
    """What is on a dimmer and driven elsewhere, and what needs steady power on one that dims."""
    dimmed = {key: is_dimmed(show, show.body(key, Fixture)) for key in one.fixtures}
    found = []
    away = tuple(
        key
        for key, fixture in ((key, show.body(key, Fixture)) for key in one.fixtures)
        if dimmed[key] and fixture.address is not None and (fixture.universe, fixture.address) != one.place
    )
    if away and one.place is not None:
        where = f"{one.place[0]}.{one.place[1]:03d}"
        verb = "is" if len(away) == 1 else "are"
        which = f"{_names(show, away).capitalize()} {verb} on dimmer {one.number}"
        text = f"{which}, which is driven at {where}, and patched elsewhere: patch there, or plug to another dimmer."
        repair = Repair(f"Patch to {where}", "plug", {"ids": list(away), "dimmer": str(one.number)})
        found.append(Finding("patch", away, text, True, repair, code="dimmer_address"))
    steady = tuple(key for key in one.fixtures if not dimmed[key] and show.body(key, Fixture).type in show.types)
    if steady and not one.switched:
        verb = "needs" if len(steady) == 1 else "need"
        text = (
            f"{_names(show, steady).capitalize()} {verb} steady power, and dimmer {one.number} dims: plug to another, "
            "or say that it is switched."
        )
        repair = Repair(f"{one.number} is switched", "rate dimmers", {"dimmers": str(one.number), "switched": True})
        found.append(Finding("patch", steady, text, repair=repair, code="needs_steady_power"))
    return found


def _racks_at_odds(show: Show) -> list[Finding]:
    """Racks that have dimmers of one number, or are driven by the same slots."""
    found = []
    for (a, one), (b, other) in combinations(show.bodies(Rack), 2):
        both = range(max(one.first, other.first), min(one.last, other.last) + 1)
        if both:
            numbers = f"dimmer {both[0]}" if len(both) == 1 else f"dimmers {both[0]} to {both[-1]}"
            text = f"{one.name} and {other.name} both have {numbers}: number one of them otherwise."
            found.append(Finding("patch", (a.id, b.id), text, wrong=True, code="racks_share_numbers"))
        if one.universe is None or one.universe != other.universe or one.address is None or other.address is None:
            continue
        slots = range(
            max(one.address, other.address),
            min(one.address + len(one.numbers), other.address + len(other.numbers)),
        )
        if slots:
            where = f"slot {slots[0]}" if len(slots) == 1 else f"slots {slots[0]} to {slots[-1]}"
            text = f"{one.name} and {other.name} share {where} of universe {one.universe}: move one of them."
            found.append(Finding("patch", (a.id, b.id), text, wrong=True, code="racks_share_slots"))
    return found


def _in_the_way(show: Show) -> list[Finding]:
    """What lies on slots of a rack without being plugged to it: it would move with a dimmer."""
    racks = [(rack, rack.address) for _, rack in show.bodies(Rack) if rack.address is not None]
    found = []
    for item, fixture in show.fixtures() if racks else ():
        for universe, first, last in occupied(show, fixture):
            for rack, start in racks:
                if universe != rack.universe or last < start or first >= start + len(rack.numbers):
                    continue
                if not is_dimmed(show, fixture):
                    text = f"{item.name.capitalize()} lies on slots of {rack.name}: give it another address."
                    found.append(Finding("patch", (item.id,), text, wrong=True, code="on_rack_slots"))
                elif fixture.dimmer is None:
                    number = rack.first + first - start
                    text = f"{item.name.capitalize()} is driven as dimmer {number}"
                    text = f"{text}: plug it there, or give it another address."
                    repair = Repair(f"Plug to {number}", "plug", {"ids": [item.id], "dimmer": str(number)})
                    found.append(Finding("patch", (item.id,), text, repair=repair, code="on_dimmer_slot"))
    return found


def _circuits(show: Show) -> list[Finding]:
    """Circuits that are plugged to more than one dimmer: one of the numbers is wrong."""
    on: dict[str, dict[int, list[str]]] = {}
    for item, fixture in show.fixtures():
        if fixture.circuit and fixture.dimmer is not None:
            on.setdefault(fixture.circuit, {}).setdefault(fixture.dimmer, []).append(item.id)
    found = []
    for circuit, dimmers in on.items():
        if len(dimmers) > 1:
            numbers = " and ".join(str(number) for number in sorted(dimmers))
            ids = tuple(key for several in dimmers.values() for key in several)
            text = f"Circuit {circuit} is on dimmers {numbers} at once ({_names(show, ids)})"
            text = f"{text}: plug all to one, or give one another circuit."
            found.append(Finding("patch", ids, text, wrong=True, code="circuit_split"))
    return found
