"""The edit that lays a blade of many heads along an edge of the set."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from zarfwright.core.aiming.blades import Blades, Cut, Edge, cut, edge_near, in_gate
from zarfwright.core.aiming.shutters import blades_of
from zarfwright.core.aiming.yokes import chain_for, turns_by_hand
from zarfwright.core.edits.aiming import beams_shown, chosen_fixtures, without_palettes
from zarfwright.core.edits.base import Arguments, Around, Edit, NewId, Values, changed
from zarfwright.core.errors import JobError
from zarfwright.core.scene import solids_of
from zarfwright.core.show import Show, listed
from zarfwright.core.space import Vec

OFF_RAD = math.radians(0.5)


class CutToEdge(Arguments):
    """Lay the nearest blade of fixtures along the edge of a thing (`thing`, a solid's id) that is nearest to a place.
    `values` is what they show now."""

    ids: list[str]
    point: Vec
    thing: str
    values: Values = {}


def needs_poses(show: Show, args: CutToEdge, around: Around) -> tuple[Show, CutToEdge]:
    """Where the beams are now."""
    return show, args if args.values else args.model_copy(update={"values": around.values()})


def edge_at(show: Show, thing: str, point: Vec) -> tuple[Vec, Vec]:
    """Both ends of the edge of a solid that is nearest to a place, in the show's frame. Raises JobError."""
    item = show.item(thing.split("/", 1)[0])
    edge = edge_near([one for one in solids_of(show, item) if one.id == thing], np.array(point, dtype=float))
    if edge is None:
        raise JobError(f"There is no edge of {item.name} near that place: click closer to one.", "point")
    return edge.a, edge.b


def _laid(able: Blades, found: Cut) -> dict[str, float]:
    """The features that lay a blade so."""
    name = f"blade {found.blade}"
    values = {name: found.depth}
    if able.ends and not able.askew:
        lean = math.tan(found.angle)
        values = {name: max(found.depth - lean, 0.0), f"{name} far": min(found.depth + lean, 1.0)}
    elif able.askew:
        values[f"{name} angle"] = found.angle
    if able.whole:
        values["blades turn"] = found.turn
    return values


def cut_to_edge(show: Show, args: CutToEdge, _: NewId) -> Edit:
    pairs = chosen_fixtures(show, args.ids)
    a, b = edge_at(show, args.thing, args.point)
    edge = Edge(a, b)
    rows, beams = beams_shown(show, pairs, args.values)
    changes, report = [], []
    for item, fixture in pairs:
        able = blades_of(show.type_of(fixture), fixture.mode)
        row = next((i for i, one in enumerate(rows) if one == item.id), None)
        if able is None or row is None:
            report.append(f"{item.name.capitalize()} has no blades.")
            continue
        line = in_gate(beams, row, edge)
        if line is None or line.distance >= 1.0:
            report.append(f"{item.name.capitalize()} does not shine on that edge: its blades stay.")
            continue
        now = {**fixture.fixed, **fixture.hands}
        used = {n for n in (1, 2, 3, 4) if now.get(f"blade {n}", 0.0) > 1e-6}
        found = cut(line, able, now.get("blades turn", 0.0), used)
        if found.off > OFF_RAD:
            askew = math.degrees(found.off)
            report.append(f"{item.name.capitalize()}: its blade lies {askew:.0f}° off the edge, it turns no further.")
        values = _laid(able, found)
        by_hand = turns_by_hand(chain_for(show, fixture))
        own = {**(fixture.fixed if by_hand else fixture.hands), **values}
        body = replace(fixture, fixed=own) if by_hand else replace(fixture, hands=own)
        changes.append(changed(item, without_palettes(body, values)))
    if not changes:
        raise JobError(report[0] if report else "None of these has blades.")
    what = show.item(args.thing.split("/", 1)[0]).name
    said = f"Cut {listed(show, [change.id for change in changes])} to an edge of {what}"
    return Edit(tuple(changes), said, tuple(args.ids), tuple(report))
