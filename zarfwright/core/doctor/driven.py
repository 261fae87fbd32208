"""Causes that lie in what moves: two drivers for one axis of one thing."""

from __future__ import annotations

from zarfwright.core.carriers.readiness import at_odds
from zarfwright.core.doctor.facts import Cause
from zarfwright.core.doctor.rig import few
from zarfwright.core.show import Show


def drivers_at_odds(show: Show) -> list[Cause]:
    """Two drivers that would both move one thing along one axis: it goes where the sum of them says."""
    found = []
    for odds in at_odds(show):
        names = few([show.items[key].name for key in odds.drivers])
        evidence = f"{names.capitalize()} both move {show.items[odds.thing].name} along its {odds.axis}."
        found.append(
            Cause("drivers_at_odds", evidence, "Keep one driver for that axis, and take the channel off the other.",
                  fixtures=odds.drivers, label="Remove the second", edit="remove", args={"ids": [odds.drivers[1]]})
        )  # fmt: skip
    return found
