"""Edits of base drawings: put under the work, set to their origin, put away."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from zarfwright.core.edits.base import Arguments, Edit, NewId, added, changed, made, within
from zarfwright.core.errors import JobError
from zarfwright.core.show import Show
from zarfwright.core.site.things import Drawing
from zarfwright.core.space import Floats
from zarfwright.core.units import parse_angle_deg


class AddDrawing(Arguments):
    """Put a base drawing under the work; its file is among the assets already."""

    name: str
    asset: str
    layers: list[str]
    metres: float
    origin: tuple[float, float] = (0.0, 0.0)


def add_drawing(show: Show, args: AddDrawing, new_id: NewId) -> Edit:
    if not args.layers:
        raise JobError("Choose at least one layer of the drawing.", "layers")
    metres = within(args.metres, "metres", 1e-6, 1e4)
    drawing = Drawing(args.name.strip() or "Drawing", args.asset, tuple(args.layers), metres, args.origin)
    items = added(show, "drawing", [drawing], new_id)
    return Edit((made(items[0]),), f"Put the drawing {drawing.name} under the work", (items[0].id,))


class SetDrawing(Arguments):
    """Change a base drawing; what is left out stays. `at` is a place of the plan that is to be its origin."""

    id: str
    layers: list[str] | None = None
    metres: float | None = None
    turn: str | None = None
    shown: bool | None = None
    at: tuple[float, float] | None = None


def set_drawing(show: Show, args: SetDrawing, _: NewId) -> Edit:
    item, drawing = show.thing(args.id, Drawing)
    after, said = drawing, "Change the drawing"
    if args.layers is not None:
        after = replace(after, layers=tuple(args.layers))
    if args.metres is not None:
        after = replace(after, metres=within(args.metres, "metres", 1e-6, 1e4))
    if args.turn is not None:
        after = replace(after, turn_deg=parse_angle_deg(args.turn))
    if args.shown is not None:
        after, said = replace(after, shown=args.shown), "Show the drawing" if args.shown else "Put the drawing away:"
    if args.at is not None:
        x, y = (float(value) for value in from_plan(drawing, np.array([args.at]))[0])
        after, said = replace(after, origin=(x, y)), "Set the origin of"
    return Edit((changed(item, after),), f"{said} {drawing.name}", (item.id,))


def to_plan(drawing: Drawing, points: Floats) -> Floats:
    """Points (n, 2) of the file, in its units, to the show's plan in metres."""
    angle = np.radians(drawing.turn_deg)
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    return np.asarray((points - np.array(drawing.origin)) * drawing.metres @ turn)


def from_plan(drawing: Drawing, points: Floats) -> Floats:
    """The way back of `to_plan`."""
    angle = np.radians(drawing.turn_deg)
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    return np.asarray(points @ turn.T / drawing.metres + np.array(drawing.origin))
