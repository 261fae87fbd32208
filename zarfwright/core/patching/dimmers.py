"""Which fixtures are on which dimmer, where that is driven, and its load against what it carries."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from zarfwright.core.patching.racks import Rack
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Change, Show
from zarfwright.core.types.model import FixtureType

Racks = Mapping[int, tuple[str, Rack]]
"""The rack of each dimmer, with its id."""


@dataclass(frozen=True)
class Dimmer:
    """One dimmer: what is on it, and how much of what it carries. Watts."""

    number: int
    rack: str | None
    """The id of its rack; None: fixtures name it, and no rack has it."""
    place: tuple[int, int] | None
    """Universe and slot."""
    carries_w: float | None
    switched: bool
    fixtures: tuple[str, ...]
    """Their ids, by number."""
    circuits: tuple[str, ...]
    load_w: float
    unknown: tuple[str, ...]
    """Those of which nobody says how much power they take: the load is at least what it says."""

    @property
    def left_w(self) -> float | None:
        """What more it would carry; less than nothing where it is overloaded."""
        return None if self.carries_w is None else self.carries_w - self.load_w


def racks_of(show: Show) -> dict[int, tuple[str, Rack]]:
    """The rack of each dimmer there is; of two that have one number, the first."""
    found: dict[int, tuple[str, Rack]] = {}
    for item, rack in show.bodies(Rack):
        for number in rack.numbers:
            found.setdefault(number, (item.id, rack))
    return found


def place_of(racks: Racks, dimmer: int | None) -> tuple[int, int] | None:
    """Universe and slot that drive a dimmer; None where none do."""
    return racks[dimmer][1].place_of(dimmer) if dimmer is not None and dimmer in racks else None


def is_dimmed(show: Show, fixture: Fixture) -> bool:
    """Whether all that it takes is one slot for its intensity: then that slot is its dimmer's. All else takes its data
    itself, and from a dimmer no more than steady power."""
    if fixture.type not in show.types:
        return False
    driven = [channel for channel in show.types[fixture.type].mode(fixture.mode).channels if channel.slots]
    return len(driven) == 1 and driven[0].attribute == "Dimmer" and len(driven[0].slots) == 1


def power_of(fixture: Fixture, fixture_type: FixtureType | None) -> float | None:
    """The power that a fixture takes at full, in watts: that of the lamp put into it, else what its type says of the
    whole, else of its light sources together. None where neither says."""
    if fixture.lamp is not None and fixture.lamp.power_w is not None:
        return fixture.lamp.power_w
    if fixture_type is None:
        return None
    if fixture_type.power_w > 0:
        return fixture_type.power_w
    sources = [
        geometry.beam.power_w for tree in fixture_type.geometries for geometry, _ in tree.walk() if geometry.beam
    ]
    return sum(sources) or None


def with_dimmer(show: Show, racks: Racks, fixture: Fixture, dimmer: int | None) -> Fixture:
    """The fixture on another dimmer, or none: what is dimmed is driven where its dimmer is. Off a dimmer it keeps an
    address of its own, not the dimmer's."""
    after = replace(fixture, dimmer=dimmer)
    if not is_dimmed(show, fixture):
        return after
    place, before = place_of(racks, dimmer), place_of(racks, fixture.dimmer)
    if place is not None:
        return replace(after, universe=place[0], address=place[1])
    if before is not None and (fixture.universe, fixture.address) == before:
        return replace(after, universe=None, address=None)
    return after


def addresses_taken(changes: Iterable[Change]) -> tuple[str, ...]:
    """What is said of fixtures that are driven elsewhere because they came to another dimmer."""
    count = 0
    for change in changes:
        before, after = (item.body if item is not None else None for item in (change.before, change.after))
        if isinstance(before, Fixture) and isinstance(after, Fixture) and after.address is not None:
            count += (before.universe, before.address) != (after.universe, after.address)
    if not count:
        return ()
    takes = "s take the addresses of their dimmers" if count > 1 else " takes the address of its dimmer"
    return (f"{count} fixture{takes}.",)


def dimmers_of(show: Show) -> list[Dimmer]:
    """Every dimmer of every rack, and those that fixtures name and no rack has, by number."""
    racks = racks_of(show)
    on: dict[int, list[tuple[str, Fixture]]] = {}
    for item, fixture in show.fixtures():
        if fixture.dimmer is not None:
            on.setdefault(fixture.dimmer, []).append((item.id, fixture))
    return [_dimmer(show, racks, number, on.get(number, [])) for number in sorted(racks.keys() | on.keys())]


def _dimmer(show: Show, racks: Racks, number: int, on: list[tuple[str, Fixture]]) -> Dimmer:
    on = sorted(on, key=lambda pair: (pair[1].number is None, pair[1].number or 0))
    powers = {key: power_of(fixture, show.types.get(fixture.type)) for key, fixture in on}
    key, rack = racks.get(number, (None, None))
    return Dimmer(
        number,
        key,
        place_of(racks, number),
        rack.carried_by(number) if rack is not None else None,
        rack is not None and number in rack.switched,
        tuple(key for key, _ in on),
        tuple(dict.fromkeys(fixture.circuit for _, fixture in on if fixture.circuit)),
        sum(power or 0.0 for power in powers.values()),
        tuple(key for key, power in powers.items() if power is None),
    )


def format_power(watts: float) -> str:
    """Watts as people write them: `2.3 kW`, `750 W`."""
    return f"{watts / 1000:g} kW" if watts >= 1000 and watts % 10 == 0 else f"{watts:g} W"
