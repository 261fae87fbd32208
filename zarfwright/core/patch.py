"""Universes and addresses: giving them in sequence, seeing who is on which slot, and what is at odds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zarfwright.core.compiled import Compiled, compiled
from zarfwright.core.dmx.rows import SLOTS, PatchRow, break_places
from zarfwright.core.errors import JobError
from zarfwright.core.memo import Memo
from zarfwright.core.patching.dimmers import is_dimmed
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.types.chain import chain_of
from zarfwright.core.types.model import FixtureType

LAST_UNIVERSE = 63999


@dataclass(frozen=True)
class Place:
    """A start address: universe 1..63999, slot 1..512. Written `2.001`."""

    universe: int
    address: int

    def __str__(self) -> str:
        return f"{self.universe}.{self.address:03d}"


def parse_place(text: str) -> Place:
    """Read `2.001`, `2/1` or `1` (universe 1). Raises JobError, saying what an address looks like."""
    parts = text.replace("/", ".").replace(" ", "").split(".")
    if len(parts) > 2 or not all(part.isdigit() and len(part) <= 6 for part in parts):
        raise JobError(f"“{text.strip()}” is not an address: type universe and slot, for instance 2.001.", "address")
    universe, address = (1, int(parts[0])) if len(parts) == 1 else (int(parts[0]), int(parts[1]))
    require_place(universe, address)
    return Place(universe, address)


def require_place(universe: int, address: int) -> None:
    """Raises JobError when the universe or the slot does not exist."""
    if not 1 <= universe <= LAST_UNIVERSE:
        raise JobError(f"Universe {universe} does not exist: type 1 to {LAST_UNIVERSE}.", "address")
    if not 1 <= address <= SLOTS:
        raise JobError(f"Slot {address} does not exist: a universe has 1 to {SLOTS}.", "address")


def in_sequence(footprints: Sequence[int], start: Place, gap: int = 0, cut: bool = False) -> list[Place]:
    """Addresses one after another. What would cross the end of a universe starts the next one, unless it may be `cut`.

    Raises JobError when a fixture is larger than a universe or the universes run out.
    """
    places, universe, address = [], start.universe, start.address
    for footprint in footprints:
        if footprint > SLOTS:
            raise JobError(f"A fixture of {footprint} slots does not fit a universe of {SLOTS}.")
        if address + footprint - 1 > SLOTS and not cut:
            universe, address = universe + 1, 1
        require_place(universe, address)
        places.append(Place(universe, address))
        address += footprint + gap
        if address > SLOTS:
            # What is cut goes on where its slots would have ended.
            universe, address = universe + 1, address - SLOTS if cut else 1
    return places


@dataclass(frozen=True)
class Overlap:
    """Two fixtures that share slots: from `first` to `last` of a universe. It is `meant` where they are of one type and
    mode on just one address, or on one dimmer: driven together."""

    universe: int
    first: int
    last: int
    fixtures: tuple[str, str]
    meant: bool = False


def footprint_of(show: Show, fixture: Fixture) -> int:
    """Slots a fixture takes in a row in its mode, with the breaks that follow each other; 0 when its type is lost."""
    if fixture.type not in show.types:
        return 0
    sizes = show.types[fixture.type].mode(fixture.mode).footprints
    elsewhere = {number for number, _, _ in fixture.breaks}
    return sum(size for i, (number, size) in enumerate(sizes.items()) if i == 0 or number not in elsewhere)


def _taken(fixture: Fixture, fixture_type: FixtureType) -> list[tuple[int, int, int]]:
    if fixture.universe is None or fixture.address is None:
        return []
    mode = fixture_type.mode(fixture.mode)
    places = break_places(mode, (fixture.universe, fixture.address), fixture.breaks)
    return [
        (universe, slot, slot + mode.footprints[number] - 1)
        for number, (universe, slot) in places.items()
        if mode.footprints[number]
    ]


_taken_memo = Memo(_taken)


def occupied(show: Show, fixture: Fixture) -> list[tuple[int, int, int]]:
    """What a fixture takes of universes: universe, first and last slot of each break."""
    return _taken_memo(fixture, show.types[fixture.type]) if fixture.type in show.types else []


def _driven_as(fixture: Fixture) -> tuple[object, ...]:
    return fixture.type, fixture.mode, fixture.universe, fixture.address, fixture.breaks


def overlaps(show: Show) -> list[Overlap]:
    """Every pair of fixtures that meets on a slot, by sweeping each universe from slot 1."""
    spans: dict[int, list[tuple[int, int, str]]] = {}
    for item, fixture in show.fixtures():
        for universe, first, last in occupied(show, fixture):
            spans.setdefault(universe, []).append((first, last, item.id))

    def meant(a: str, b: str) -> bool:
        one, other = show.body(a, Fixture), show.body(b, Fixture)
        if _driven_as(one) == _driven_as(other):
            return True
        return one.dimmer is not None and one.dimmer == other.dimmer and is_dimmed(show, one) and is_dimmed(show, other)

    found = []
    for universe, taken in sorted(spans.items()):
        active: list[tuple[int, int, str]] = []
        for span in sorted(taken):
            active = [other for other in active if other[1] >= span[0]]
            for other in active:
                both = (other[2], span[2])
                found.append(Overlap(universe, span[0], min(span[1], other[1]), both, meant(*both)))
            active.append(span)
    return found


def lamp_of(show: Show, fixture: Fixture) -> tuple[float, float | None] | None:
    """The lamp in a fixture as rows have it; only what does not move by itself has one that is chosen."""
    if fixture.lamp is None or fixture.type not in show.types:
        return None
    chain = chain_of(show.types[fixture.type], fixture.mode)
    if chain.moves or chain.beam.flux_lm <= 0:
        return None
    return fixture.lamp.flux_in(chain.beam) / chain.beam.flux_lm, fixture.lamp.kelvin


def patch_rows(show: Show) -> list[PatchRow]:
    """The fixtures as the decoder takes them, in the order of the frame's rows. Those without a type are left out."""
    return [
        PatchRow(
            item.id,
            show.types[fixture.type],
            fixture.mode,
            fixture.universe,
            fixture.address,
            fixture.breaks,
            fixture.gel.colour if fixture.gel else None,
            fixture.lens_deg,
            lamp_of(show, fixture),
            fixture.laser is not None and fixture.laser.draws,
        )
        for item, fixture in show.fixtures()
        if fixture.type in show.types
    ]


def compiled_show(show: Show) -> Compiled:
    """The rig of a show."""
    return _compiled_memo(show.types, *show.of_kind("fixture"))


_compiled_memo: Memo[Compiled] = Memo(
    lambda types, *fixtures: compiled(patch_rows(Show({item.id: item for item in fixtures}, types))), 4
)


def fixed_of(show: Show) -> dict[str, dict[str, float]]:
    """What is set at the lamps themselves, by fixture and feature."""
    return {
        item.id: fixture.fixed
        for item, fixture in show.fixtures()
        if fixture.fixed and fixture.type in show.types and not chain_of(show.types[fixture.type], fixture.mode).moves
    }
