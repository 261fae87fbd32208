"""Edits of colour: one chromaticity on any types, a white by its temperature, the same as another fixture shows."""

from __future__ import annotations

from zarfwright.core.aiming.colour import Prefer, Xy, xy_of_white
from zarfwright.core.aiming.coloured import shown_xy
from zarfwright.core.aiming.giving import coloured
from zarfwright.core.edits.aiming import chosen_fixtures, require_cells
from zarfwright.core.edits.base import Arguments, Around, Edit, NewId, changed, within
from zarfwright.core.errors import JobError
from zarfwright.core.show import Show, listed

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
