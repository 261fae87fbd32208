"""Lists for the crew and the console: rows of text, in the order they are read."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from zarfwright.core.patch import Place, footprint_of
from zarfwright.core.patching.dimmers import Dimmer, dimmers_of, power_of
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.site.structures import rail_label, start_side
from zarfwright.core.site.things import Truss
from zarfwright.core.units import format_length

PATCH_COLUMNS = (
    "Number", "Unit", "Type", "Maker", "Mode", "Universe", "Address", "Last", "On", "Along", "Height", "For",
    "Gel", "Circuit", "Dimmer",
)  # fmt: skip
CIRCUIT_COLUMNS = (
    "Dimmer", "Rack", "Address", "Circuits", "Channels", "Fixtures", "On", "For", "Load W", "Carries W", "Left W",
)  # fmt: skip
Cell = str | int | float | None
HOOKUP_COLUMNS = (
    "Number",
    "Type",
    "Mode",
    "Attribute",
    "Universe",
    "Slots",
    "Default",
    "From",
    "To",
    "Stage x",
    "Stage y",
)


def _number(value: int | None) -> str:
    return "" if value is None else str(value)


def position_of(show: Show, fixture: Fixture) -> tuple[str, str]:
    """Where it hangs and how far along, as a crew reads it."""
    if fixture.hang is None or fixture.hang.structure not in show.items:
        return "free", ""
    truss = show.body(fixture.hang.structure, Truss)
    along = format_length(fixture.hang.along_m, show.settings.system)
    return f"{truss.name}, {rail_label(truss, fixture.hang.rail)}", f"{along} from {start_side(truss)}"


def _by_number(show: Show) -> list[tuple[str, Fixture]]:
    fixtures = [(item.id, fixture) for item, fixture in show.fixtures() if fixture.type in show.types]
    return sorted(fixtures, key=lambda pair: (pair[1].number is None, pair[1].number or 0))


def patch_list(show: Show) -> list[tuple[str, ...]]:
    """One row for each fixture, by number; those without a number come last."""
    rows: list[tuple[str, ...]] = []
    for _, fixture in _by_number(show):
        fixture_type, size = show.types[fixture.type], footprint_of(show, fixture)
        where, along = position_of(show, fixture)
        patched = fixture.universe is not None and fixture.address is not None
        last = str(Place(fixture.universe or 1, fixture.address or 1).address + size - 1) if patched else ""
        height = format_length(clamp_placement(show, fixture).position[2], show.settings.system)
        rows.append(
            (
                _number(fixture.number),
                _number(fixture.unit),
                fixture_type.name,
                fixture_type.maker,
                fixture.mode,
                _number(fixture.universe),
                _number(fixture.address),
                last,
                where,
                along,
                height,
                fixture.purpose,
                fixture.gel.name if fixture.gel else "",
                fixture.circuit,
                _number(fixture.dimmer),
            )
        )
    return rows


def channel_hookup(show: Show) -> list[tuple[str, ...]]:
    """One row for each channel of each patched fixture: what a console needs to drive the rig.

    Slots are absolute, coarse first, joined by `+`; From and To are the physical values at 0 and at full.
    """
    rows: list[tuple[str, ...]] = []
    for _, fixture in _by_number(show):
        if fixture.universe is None or fixture.address is None:
            continue
        fixture_type = show.types[fixture.type]
        mode = fixture_type.mode(fixture.mode)
        x, y, _ = clamp_placement(show, fixture).position
        for channel in mode.channels:
            low = channel.functions[0].physical[0]
            high = channel.functions[-1].physical[1]
            rows.append(
                (
                    _number(fixture.number),
                    fixture_type.name,
                    mode.name,
                    channel.attribute,
                    str(fixture.universe),
                    "+".join(str(fixture.address - 1 + slot) for slot in channel.slots),
                    str(channel.home),
                    f"{low:g}",
                    f"{high:g}",
                    f"{x:.3f}",
                    f"{y:.3f}",
                )
            )
    return rows


def circuit_schedule(show: Show) -> list[tuple[Cell, ...]]:
    """One row for each dimmer, by number, with what is on it and its load; what is plugged to none comes last, a row
    for each circuit. Watts."""
    rows = [_dimmer_row(show, one) for one in dimmers_of(show)]
    loose: dict[str, list[str]] = {}
    for item, fixture in show.fixtures():
        if fixture.dimmer is None and fixture.circuit:
            loose.setdefault(fixture.circuit, []).append(item.id)
    for circuit, ids in loose.items():
        load = sum(power_of(f, show.types.get(f.type)) or 0.0 for f in (show.body(key, Fixture) for key in ids))
        rows.append((None, "", "", circuit, *_plugged(show, ids), load, None, None))
    return rows


def _dimmer_row(show: Show, one: Dimmer) -> tuple[Cell, ...]:
    return (
        one.number,
        show.items[one.rack].name if one.rack else "",
        str(Place(*one.place)) if one.place else "",
        ", ".join(one.circuits),
        *_plugged(show, one.fixtures),
        one.load_w,
        one.carries_w,
        one.left_w,
    )


def _plugged(show: Show, ids: Iterable[str]) -> tuple[str, str, str, str]:
    """The channel numbers, the types, the places and the purposes of fixtures, each once."""
    fixtures = [show.body(key, Fixture) for key in ids]
    types = Counter(show.types[f.type].name if f.type in show.types else "type lost" for f in fixtures)
    return (
        ", ".join(_number(f.number) or "no number" for f in fixtures),
        ", ".join(name if count == 1 else f"{count} {name}" for name, count in types.items()),
        "; ".join(dict.fromkeys(position_of(show, f)[0] for f in fixtures)),
        "; ".join(dict.fromkeys(f.purpose for f in fixtures if f.purpose)),
    )


def circuit_totals(show: Show) -> dict[str, float]:
    """What a schedule of circuits comes to: dimmers there are and in use, load of all that is on them, what all carry
    together, and how many are overloaded."""
    found = dimmers_of(show)
    return {
        "dimmers": len(found),
        "used": sum(bool(one.fixtures) for one in found),
        "load_w": sum(one.load_w for one in found),
        "carries_w": sum(one.carries_w or 0.0 for one in found),
        "overloaded": sum(one.left_w is not None and one.left_w < 0 for one in found),
    }
