"""Commands for looks: what there are, what one says, what differs between two, what a running order shows at a time."""

from __future__ import annotations

import argparse
import json
import math
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from zarfwright.core.carriers.posed import posed, poses_told
from zarfwright.core.dmx.features import FEATURES
from zarfwright.core.errors import JobError
from zarfwright.core.looks.differences import Pairs, differences
from zarfwright.core.looks.look import number_text
from zarfwright.core.looks.said import Said, packed, table_of
from zarfwright.core.looks.shown import carriers_of, facts_of, in_order, look_numbered, resolved
from zarfwright.core.playback.of_show import carriers_at, score_of
from zarfwright.core.playback.order import Order
from zarfwright.core.rig.things import Carrier
from zarfwright.core.show import Show
from zarfwright.web.desk import Desk

UNIT = {feature.name: feature.unit for feature in FEATURES}


def _key(name: str) -> tuple[str, float]:
    """What a feature is called in answers, and what its value is multiplied by: angles are in degrees."""
    if UNIT[name].startswith("rad"):
        return f"{name}_deg" if UNIT[name] == "rad" else f"{name}_deg_s", 180.0 / math.pi
    return (f"{name}_deg", 1.0) if UNIT[name] == "deg" else (name, 1.0)


def names_of(show: Show) -> dict[str, str]:
    """What answers call each fixture: its number; what has none, or one that another has too, by its id."""
    taken: set[str] = set()
    names = {}
    for item, fixture in show.fixtures():
        number = str(fixture.number) if fixture.number is not None else item.id
        names[item.id] = item.id if number in taken else number
        taken.add(number)
    return names


def said_out(show: Show, said: Said) -> dict[str, Any]:
    """Values by fixture; where the cells of one differ, a list of them, from the first to the last."""
    names, cells = names_of(show), dict[str, list[dict[str, float]]]()
    for key, row in said.items():
        cells.setdefault(key.split("/", 1)[0], []).append(dict(row))
    found: dict[str, Any] = {}
    for fixture, rows in cells.items():
        values: dict[str, Any] = {}
        for name in dict.fromkeys(name for row in rows for name in row):
            called, factor = _key(name)
            each = [round(row[name] * factor, 6) if name in row else None for row in rows]
            values[called] = each[0] if all(one == each[0] for one in each) else each
        found[names.get(fixture, fixture)] = values
    return found


def _carriers_out(show: Show, places: dict[str, tuple[float, float, float, float]]) -> dict[str, Any]:
    return {
        item.name: {"x": place[0], "y": place[1], "z": place[2], "turn_deg": place[3]}
        for key, place in places.items()
        if (item := show.items.get(key)) is not None and isinstance(item.body, Carrier)
    }


def _moved_out(show: Show, values: Mapping[str, Mapping[str, float]]) -> dict[str, Any]:
    """Where carriers are under values of their drivers; those that none moves are not in it."""
    poses = poses_told(show, values)
    now = posed(show, poses)
    places = {
        item.id: (*carrier.position, carrier.turn_deg)
        for item, carrier in now.bodies(Carrier)
        if item.id in poses
    }  # fmt: skip
    return _carriers_out(show, places)


def _opened(path: str) -> Desk:
    return Desk(Path(path), look=True)


def list_looks(args: argparse.Namespace) -> int:
    """The looks by their numbers."""
    desk = _opened(args.file)
    try:
        looks = in_order(desk.show)
        facts = [facts_of(resolved(desk.show, key)) for key, _ in looks]
    finally:
        desk.close()
    if args.json:
        told = [
            {
                "number": whole_or_not(look.number),
                "name": look.name,
                "note": look.note,
                "fixtures": fact.fixtures,
                "lit": fact.lit,
            }
            for (_, look), fact in zip(looks, facts, strict=True)
        ]
        print(json.dumps({"looks": told}))
        return 0
    for (_, look), fact in zip(looks, facts, strict=True):
        lit = f"{fact.lit:>5} of {fact.fixtures} lit"
        print(f"{number_text(look.number):>6}  {look.name:<36} {lit}")
    return 0


def whole_or_not(number: float) -> int | float:
    """4 as 4, 4.5 as 4.5."""
    return int(number) if number == int(number) else number


def _print_said(answer: dict[str, Any]) -> None:
    for name, values in answer["fixtures"].items():
        said = ", ".join(f"{key} {value}" for key, value in values.items())
        print(f"{name:>6}  {said}")
    for name, place in answer["carriers"].items():
        print(f"{name}: {', '.join(f'{key} {value:g}' for key, value in place.items())}")


def show_look(args: argparse.Namespace) -> int:
    """What a look says, with all that it is made of and linked to."""
    desk = _opened(args.file)
    try:
        item = look_numbered(desk.show, args.number)
        values = resolved(desk.show, item.id)
        carriers = {**_carriers_out(desk.show, carriers_of(desk.show, item.id)), **_moved_out(desk.show, values)}
        answer = {"fixtures": said_out(desk.show, values), "carriers": carriers}
    finally:
        desk.close()
    if args.json:
        print(json.dumps(answer))
    else:
        _print_said(answer)
    return 0


def _pair(name: str, pair: tuple[float | None, float | None]) -> tuple[str, list[float | None]]:
    called, factor = _key(name)
    return called, [None if one is None else round(one * factor, 6) for one in pair]


def _rows_out(names: dict[str, str], rows: dict[str, Pairs]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, pairs in rows.items():
        fixture, _, cell = key.partition("/")
        name = names[fixture] + (f"/{cell}" if cell else "")
        found[name] = dict(_pair(feature, pair) for feature, pair in pairs.items())
    return found


def diff_looks(args: argparse.Namespace) -> int:
    """What of the second look is unlike the first; exit status 1 where anything is."""
    desk = _opened(args.file)
    try:
        show = desk.show
        one, other = (resolved(show, look_numbered(show, number).id) for number in (args.number, args.other))
        found = differences(show, one, other)
        names = names_of(show)
    finally:
        desk.close()
    answer = {
        "groups": [{"fixtures": [names[key] for key in g.fixtures], "text": g.text} for g in found.groups],
        "fixtures": _rows_out(names, found.rows),
    }
    if args.json:
        print(json.dumps(answer))
    else:
        print("\n".join(group.text for group in found.groups) or "They are the same.")
    return 1 if found.rows else 0


def _order_named(show: Show, name: str) -> Order:
    wanted = name.strip().casefold()
    found = [order for _, order in show.bodies(Order) if order.name.casefold() == wanted]
    if not found:
        names = ", ".join(order.name for _, order in show.bodies(Order)) or "none"
        raise JobError(f"There is no running order {name} in this show; there is: {names}.")
    return found[0]


def look_at(args: argparse.Namespace) -> int:
    """What a running order shows at a time, in seconds from its beginning."""
    desk = _opened(args.file)
    try:
        show = desk.show
        order = _order_named(show, args.order)
        score = score_of(show, order)
        t = float(np.clip(args.time, 0.0, score.total_s))
        rows, _ = score.at(t)
        said = packed(table_of(score.rig.keys, rows))
        carriers = {**_carriers_out(show, carriers_at(show, score.steps, t)), **_moved_out(show, said)}
        answer = {"fixtures": said_out(show, said), "carriers": carriers, "total_s": score.total_s}
    finally:
        desk.close()
    if args.json:
        print(json.dumps(answer))
    else:
        _print_said(answer)
    return 0


def add_commands(commands: Any) -> None:
    """The looks' commands."""
    parts = commands.add_parser("look", help="looks: listed, shown, compared, played").add_subparsers(
        dest="what", required=True
    )
    listing = parts.add_parser("list", help="the looks by their numbers")
    showing = parts.add_parser("show", help="what a look says")
    diffing = parts.add_parser("diff", help="what differs between two looks")
    playing = parts.add_parser("at", help="what a running order shows at a time")
    for command, run in ((listing, list_looks), (showing, show_look), (diffing, diff_looks), (playing, look_at)):
        command.add_argument("file", metavar="SHOW")
        command.add_argument("--json", action="store_true", help="one JSON document")
        command.set_defaults(run=run)
    for command in (showing, diffing):
        command.add_argument("number", metavar="N", help="the number of a look: 4, 4.5")
    diffing.add_argument("other", metavar="M", help="the number of the other")
    playing.add_argument("--order", required=True, metavar="NAME", help="the name of a running order")
    playing.add_argument("--time", required=True, type=float, metavar="S", help="seconds from its beginning")
