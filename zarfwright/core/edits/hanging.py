"""Edits that put fixtures on the rig."""

from __future__ import annotations

import math
from typing import Literal

from zarfwright.core.carriers.types import is_driver
from zarfwright.core.edits.base import Arguments, Edit, NewId, added, length, made, signed_length
from zarfwright.core.errors import JobError
from zarfwright.core.rig.arrange import Ends, fill_length, step_length
from zarfwright.core.rig.bodies import widths
from zarfwright.core.rig.things import Fixture, Hang, Side, TypeEntry
from zarfwright.core.show import Show
from zarfwright.core.site.structures import Rail, rail_label, rail_of
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Placement, Vec, about, quat
from zarfwright.core.units import format_length, parse_count

ARM_MOST_M = 6.0
"""Of an arm, and of a drop pipe."""


def type_and_mode(show: Show, type_id: str, mode: str, hung: bool = True) -> tuple[TypeEntry, str]:
    """The entry of a type and the name of a mode that it has; of one that is `hung`, no driver. Raises JobError."""
    entry = show.body(type_id, TypeEntry)
    if type_id not in show.types:
        raise JobError(f"The GDTF of {entry.name} is missing from this show: add it again.", "type")
    if hung and is_driver(show.types[type_id]):
        raise JobError(f"{entry.name} is no lamp: in Hang, under Carry, give it to what it is to move.", "type")
    modes = [one.name for one in show.types[type_id].modes]
    chosen = mode or modes[0]
    if chosen not in modes:
        raise JobError(f"{entry.name} has no mode “{chosen}”: choose one of {', '.join(modes)}.", "mode")
    return entry, chosen


class PlaceAlongRail(Arguments):
    """n fixtures of a type spread over a rail. Numbers go on from `first_number` where it is given."""

    structure: str
    rail: str = "lower right"
    type: str
    mode: str = ""
    count: str = "1"
    step: str = ""
    """From one to the next; then `count` is as many as fit where it is empty."""
    reverse: bool = False
    """Numbered from the rail's end."""
    out: str = "0"
    drop: str = "0"
    clamps: str = "1"
    ends: Ends = "half a step in"
    margin: str = "0"
    side: Side = "under"
    about_rail_deg: float = 0.0
    """Turned about the rail, from what `side` gives."""
    on_slopes: Literal["follow", "plumb"] = "follow"
    first_number: str = ""
    purpose: str = ""


def place_along_rail(show: Show, args: PlaceAlongRail, new_id: NewId) -> Edit:
    entry, mode = type_and_mode(show, args.type, args.mode)
    truss = show.body(args.structure, Truss)
    rail = rail_of(truss, args.rail)
    margin = length(show, args.margin, "margin", 0.0) if args.ends == "margin" else 0.0
    places = _places(show, args, rail, margin)
    count = len(places)
    require_room(show, count, args.type, mode, rail, margin)
    if args.reverse:
        places = places[::-1]
    first = parse_count(args.first_number, 1, 99_000) if args.first_number.strip() else None
    bodies = [
        Fixture(
            type=args.type,
            mode=mode,
            hang=Hang(
                args.structure,
                args.rail,
                float(along),
                args.side,
                args.about_rail_deg,
                on_slopes=args.on_slopes,
                out_m=signed_length(show, args.out, "out", ARM_MOST_M),
                drop_m=signed_length(show, args.drop, "drop", ARM_MOST_M),
                clamps=parse_count(args.clamps, 1, 4),
            ),
            number=first + i if first is not None else None,
            unit=i + 1,
            purpose=args.purpose.strip(),
        )
        for i, along in enumerate(places)
    ]
    items = added(show, "fixture", bodies, new_id)
    noun = entry.name if count == 1 else f"{entry.name}s"
    where = f"{truss.name}, {rail_label(truss, args.rail)}"
    return Edit(
        tuple(made(item) for item in items),
        f"Place {count} {noun} on {where}{', reversed' if args.reverse else ''}",
        tuple(item.id for item in items),
    )


def require_room(show: Show, count: int, type_id: str, mode: str, rail: Rail, margin: float = 0.0) -> None:
    """Raises JobError where more lamps come onto a rail than there is room for, side by side on their narrower side."""
    fixture_type = show.types.get(type_id)
    narrow = min(widths(fixture_type, mode)) if fixture_type is not None else 0.0
    if narrow <= 0.01 or count < 2:
        return
    free = rail.length_m - 2 * margin
    fit = int(free / narrow + 1e-9) + (0 if rail.closed else 1)
    if count > fit:
        system = show.settings.system
        raise JobError(
            f"{count} do not fit on {format_length(free, system)}: each is {format_length(narrow, system)} wide, and "
            f"{fit} fit side by side. Type {fit} or fewer.",
            "count",
        )


def _places(show: Show, args: PlaceAlongRail, rail: Rail, margin: float) -> list[float]:
    """How far along a rail the fixtures come to be: by their count, or by the step between them."""
    step = length(show, args.step, "step", 0.02, 100.0) if args.step.strip() else 0.0
    free = rail.length_m - 2 * margin
    if step and not args.count.strip():
        # As many as fit, about the middle; on a ring all round.
        count = min(int(free / step + 1e-9) + (0 if rail.closed else 1), 500)
    else:
        try:
            count = parse_count(args.count, 1, 500)
        except JobError as wrong:
            raise JobError(str(wrong), "count") from wrong
    if step:
        if rail.closed:
            if count * step > rail.length_m + 1e-9:
                raise JobError(f"{count} do not fit {step:.2f} m apart: type a smaller step.", "step")
            return [i * step for i in range(count)]
        return [float(d) + margin for d in step_length(count, free, step, "middle")]
    if rail.closed:
        # On a whole turn the last would meet the first: n steps, not n - 1.
        first = 0.5 if args.ends == "half a step in" else 0.0
        return [(i + first) * rail.length_m / count for i in range(count)]
    return [float(d) for d in fill_length(count, rail.length_m, args.ends, margin)]


class PlaceFree(Arguments):
    """One fixture at a place of its own, upright (shining down in its zero pose) and turned about the upright axis."""

    type: str
    mode: str = ""
    position: Vec
    turn_deg: float = 0.0
    standing: bool = False
    """Standing on what is below instead of hanging."""
    number: int | None = None
    purpose: str = ""


def place_free(show: Show, args: PlaceFree, new_id: NewId) -> Edit:
    entry, mode = type_and_mode(show, args.type, args.mode)
    turn = quat(about((0.0, 0.0, 1.0), math.radians(args.turn_deg)))
    if args.standing:
        half = math.radians(args.turn_deg) / 2
        turn = (math.cos(half), math.sin(half), 0.0, 0.0)
    fixture = Fixture(args.type, mode, None, Placement(args.position, turn), args.number, purpose=args.purpose)
    items = added(show, "fixture", [fixture], new_id)
    return Edit((made(items[0]),), f"Place 1 {entry.name}", (items[0].id,))
