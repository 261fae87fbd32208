"""What is wrong with light where a certain amount is wanted."""

from __future__ import annotations

from zarfwright.core.findings import Finding
from zarfwright.core.looks.look import Look, at_start
from zarfwright.core.review.area import DRIVEN, Area, Measured
from zarfwright.core.review.maps import made_of
from zarfwright.core.show import Show


def fresh(show: Show, look: str, measured: Measured) -> bool:
    """Whether what was measured is of the show as it is now."""
    return measured.made_of == made_of(show, look)


def light_findings(show: Show) -> list[Finding]:
    """Areas that get more or less light than is wanted, by what was measured of the show as it is: what is old says
    nothing, and is marked so where it is shown."""
    found = []
    for item, area in show.bodies(Area):
        if area.wanted_lx is None:
            continue
        for look, measured in area.maps.items():
            body = show.items[look].body if look in show.items else None
            wanted = not area.wanted_in or look in area.wanted_in
            if look == DRIVEN or not isinstance(body, Look) or not wanted or not fresh(show, look, measured):
                continue
            mean = measured.mean
            away = abs(mean / area.wanted_lx - 1) * 100
            if away > area.tolerance:
                much = "more" if mean > area.wanted_lx else "less"
                text = (f"{at_start(body)}: {area.name} gets {mean:.0f} lx, {away:.0f} % {much} than the "
                        f"{area.wanted_lx:g} lx wanted there. Change the look, or what is wanted.")  # fmt: skip
                found.append(Finding("review", (item.id, look), text, code="light_not_as_wanted"))
    return found
