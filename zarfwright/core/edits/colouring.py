"""Edits of colour: one chromaticity on any types, a white by its temperature, the same as another fixture shows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from zarfwright.core.aiming.colour import Prefer, Xy, xy_of_white
from zarfwright.core.aiming.coloured import kinds_of, matched, shown_xy
from zarfwright.core.aiming.pointing import Pair
from zarfwright.core.edits.aiming import cells_among, chosen_fixtures, require_cells
from zarfwright.core.edits.base import Arguments, Around, Edit, NewId, changed, listed, within
from zarfwright.core.errors import JobError
from zarfwright.core.rig.held import holding, holding_cells
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show

LEAST_XY, MOST_XY = 0.004, 0.85


class SetColour(Arguments):
    """Let fixtures show a chromaticity (CIE 1931 `x`, `y`), a white (`kelvin`, `tint` off the white line in CIE 1960
    u, v), or what another fixture shows (`like`); each type by its own emitters, flags or slots. `even` lets all
    emitters share in it."""

    ids: list[str]
    x: float | None = None
    y: float | None = None
    kelvin: float | None = None
    tint: float = 0.0
    like: str | None = None
    prefer: Prefer = "brightest"
    cells: list[int] = []


def needs_colour(show: Show, args: SetColour, around: Around) -> tuple[Show, SetColour]:
    """What the other fixture shows now."""
    if args.like is None or args.x is not None:
        return show, args
    xy = shown_xy(show, args.like, around.values())
    if xy is None:
        return show, args
    return show, args.model_copy(update={"x": xy[0], "y": xy[1]})


def wanted_xy(show: Show, args: SetColour) -> Xy:
    """The chromaticity that is wished. Raises JobError where that is none."""
    if args.kelvin is not None:
        return xy_of_white(within(args.kelvin, "kelvin", 1700.0, 20_000.0), within(args.tint, "tint", -0.05, 0.05))
    if args.x is None or args.y is None:
        if args.like is not None:
            raise JobError(
                f"{show.item(args.like).name.capitalize()} gives no light to be like: choose another.", "like"
            )
        raise JobError("There is no colour to show: pick one.", "x")
    x, y = within(args.x, "x", LEAST_XY, MOST_XY), within(args.y, "y", LEAST_XY, MOST_XY)
    if x + y > 1.0:
        raise JobError(f"There is no colour at x {x:g}, y {y:g}: together they are more than 1.", "y")
    return x, y


def coloured(
    show: Show, pairs: list[Pair], xy: Xy, prefer: Prefer, cells: Sequence[int] = ()
) -> tuple[dict[str, Fixture], list[str]]:
    """Fixtures with a colour held, or some of their cells, by id, and what to say of those that cannot show it."""
    now = {item.id: fixture for item, fixture in pairs}
    made: dict[str, Fixture] = {}
    report: list[str] = []
    for kind in kinds_of(show, pairs):
        found = matched(show, kind, xy, prefer)
        name = listed(show, kind.ids)
        if found is None:
            how = "has no colour of its own" if len(kind.ids) == 1 else "have no colour of their own"
            report.append(f"{name.capitalize()} {how}: give {'it' if len(kind.ids) == 1 else 'them'} a gel in Hang.")
            continue
        if not found.reaches:
            report.append(
                f"{name.capitalize()} ({show.types[kind.type].name}): out of reach, the nearest is {found.off_uv:.3f} "
                "off in u′v′."
            )
        for key in kind.ids:
            fixture = now[key]
            kept = {sort: one for sort, one in fixture.palettes.items() if sort != "colour"}
            chosen = cells_among(show, fixture, cells)
            held = holding_cells(fixture, chosen, found.values) if cells else holding(fixture, found.values)
            made[key] = replace(held, palettes=kept)
    return made, report


def set_colour(show: Show, args: SetColour, _: NewId) -> Edit:
    pairs = chosen_fixtures(show, args.ids)
    xy = wanted_xy(show, args)
    require_cells(show, pairs, args.cells)
    made, report = coloured(show, pairs, xy, args.prefer, args.cells)
    if not made:
        raise JobError(report[0] if report else "None of these makes colour.")
    changes = tuple(changed(show.items[key], body) for key, body in made.items())
    what = f"x {xy[0]:.3f}, y {xy[1]:.3f}"
    if args.kelvin is not None:
        what = f"{args.kelvin:.0f} K"
    elif args.like is not None:
        what = f"the colour of {show.item(args.like).name}"
    return Edit(changes, f"Colour {listed(show, made)} {what}", tuple(args.ids), tuple(report))
