"""What is wrong with lasers: beams on people, on what reflects, out of the venue."""

from __future__ import annotations

from zarfwright.core.findings import Finding, Repair
from zarfwright.core.lasers.safety import AID, OPEN_M, Crossing, crossings
from zarfwright.core.show import Show


def irradiance_said(value: float) -> str:
    """An irradiance as people read it."""
    return f"{value:,.0f} W/m²" if value >= 10 else f"{value:.2g} W/m²"


def said(one: Crossing) -> str:
    """A crossing in words."""
    what = "The zone" if one.head.said.draws else "The still beam"
    of = f"{what} of {one.head.name}"
    if one.what == "open":
        return f"{of} {one.who}: {irradiance_said(one.irradiance_w_m2)} {OPEN_M:g} m away."
    strength, limit = irradiance_said(one.irradiance_w_m2), irradiance_said(one.limit_w_m2)
    at = f"{strength} of a resting beam against a limit of {limit}"
    if one.what == "reflective":
        return f"{of} meets {one.who}, which reflects: {at}."
    people = "1 person" if one.count == 1 else f"{one.count} people"
    return f"{of} crosses {people} ({one.who}): {at}."


def findings(show: Show) -> list[Finding]:
    """What lasers may reach that they should not, at full power and wherever they can draw."""
    found, out = [], []
    for one in crossings(show):
        if not one.over:
            continue
        if one.what == "open":
            out.append(one)
            continue
        people = one.what == "people"
        cut = people and one.head.said.draws
        repair = Repair("Cut its zone", "cut zones", {"ids": [one.head.id]}) if cut else None
        text = f"{said(one)} {'Cut its zone, or aim it elsewhere. ' if cut else ''}{AID}"
        code = "laser_people" if people else "laser_reflective"
        found.append(Finding("aim", (one.head.id, *one.ids), text, people, repair, code))
    return found + _leaving(out)


def _leaving(out: list[Crossing]) -> list[Finding]:
    """Those whose light goes out into the open, in one: a show in the open has it of all."""
    if not out:
        return []
    first = out[0]
    more = f" So do {len(out) - 1} more." if len(out) > 1 else ""
    where = tuple(dict.fromkeys(one.head.id for one in out))
    return [Finding("aim", where, f"{said(first)}{more} {AID}", code="laser_open")]
