"""Lists for the crew and the console: rows of text, in the order they are read."""

from __future__ import annotations

from zarfwright.core.patch import Place, footprint_of
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.site.structures import rail_label, start_side
from zarfwright.core.site.things import Truss
from zarfwright.core.units import format_length

PATCH_COLUMNS = (
    "Number", "Unit", "Type", "Maker", "Mode", "Universe", "Address", "Last", "On", "Along", "Height", "For",
    "Gel",
)  # fmt: skip
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
