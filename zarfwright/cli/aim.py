"""`aim` and `probe`: how heads turn to a place, and what light falls on one, without a browser."""

from __future__ import annotations

import argparse
import json
import math
import re
from pathlib import Path
from typing import Any

import numpy as np

from zarfwright.core.aiming.pointing import aimable
from zarfwright.core.aiming.solve import Way, ways
from zarfwright.core.aiming.yokes import angles_now, chain_for
from zarfwright.core.dmx.encode import encode_raws
from zarfwright.core.edits.carrying import as_in_look
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.looks.shown import look_numbered, resolved
from zarfwright.core.playback.of_show import played
from zarfwright.core.raycast import Caster
from zarfwright.core.review.lit import who_lights
from zarfwright.core.review.maps import in_the_way
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Item, Show
from zarfwright.core.space import Vec, unit
from zarfwright.core.types.model import FixtureType, Mode
from zarfwright.web.desk import Desk
from zarfwright.web.desk.feed import hands_of


def place(text: str) -> Vec:
    """Read `x,y,z` in metres. Raises ArgumentTypeError."""
    try:
        x, y, z = (float(part) for part in text.split(","))
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” is no place: type x,y,z in metres, such as 0,2.5,1.6.") from None
    if not all(math.isfinite(part) for part in (x, y, z)):
        raise argparse.ArgumentTypeError(f"“{text}” is no place: its numbers have to be finite.")
    return x, y, z


def chosen(show: Show, text: str) -> list[tuple[Item, Fixture]]:
    """Fixtures by number: `41`, `41-46`, `41,45,101-108`, `all`; by id where they have none. Raises JobError."""
    every = list(show.fixtures())
    if text.strip() == "all":
        return every
    found: dict[str, tuple[Item, Fixture]] = {}
    for part in text.split(","):
        word = part.strip()
        span = re.fullmatch(r"(\d{1,6})(?:\s*-\s*(\d{1,6}))?", word)
        if span is not None:
            first, last = int(span[1]), int(span[2] or span[1])
            named = [pair for pair in every if pair[1].number is not None and first <= pair[1].number <= last]
        else:
            named = [pair for pair in every if pair[0].id == word]
        if not named:
            raise JobError(f"There is no fixture “{word}” in this show: name them by number, or “all”.")
        found |= {pair[0].id: pair for pair in named}
    return list(found.values())


def _dmx(fixture_type: FixtureType, mode: Mode, way: Way) -> dict[str, list[int]]:
    """The bytes of pan and tilt, coarse first, by attribute; none for what no channel turns."""
    raws = encode_raws(fixture_type, mode, {"pan": way.pan, "tilt": way.tilt})
    return {
        channel.attribute: list(raw.to_bytes(max(len(channel.slots), 1), "big"))
        for channel, raw in zip(mode.channels, raws, strict=True)
        if channel.attribute in ("Pan", "Tilt") and channel.slots
    }


def _finite(value: float, digits: int = 9) -> float:
    return round(float(value), digits) + 0.0


def _aimed(show: Show, item: Item, fixture: Fixture, at: Vec, heads: dict[str, tuple[float, float]]) -> dict[str, Any]:
    chain = chain_for(show, fixture)
    fixture_type = show.type_of(fixture)
    now = heads.get(item.id, angles_now(fixture, chain)) if chain.moves else angles_now(fixture, chain)
    found = ways(chain, clamp_placement(show, fixture), at, now)
    return {
        "number": fixture.number,
        "id": item.id,
        "solutions": [
            {
                "pan_deg": _finite(math.degrees(way.pan)),
                "tilt_deg": _finite(math.degrees(way.tilt)),
                "reaches": way.reaches,
                "missing_deg": _finite(math.degrees(way.missing)),
                "dmx": _dmx(fixture_type, fixture_type.mode(fixture.mode), way) if chain.moves else {},
            }
            for way in found
        ],
        "taken": 0,
    }


def aim(args: argparse.Namespace) -> int:
    """How fixtures turn to a place: all ways within range, the nearest first. Exit status 1 when one cannot reach."""
    desk = Desk(Path(args.file), look=not args.hold)
    try:
        show = desk.show
        pairs, still = aimable(show, [pair for pair in chosen(show, args.fixtures) if pair[1].type in show.types])
        if not pairs:
            raise JobError("None of these gives light that could be aimed: name others.")
        heads = {
            key: (said["pan"], said["tilt"]) for key, said in _shown(show).items() if {"pan", "tilt"} <= said.keys()
        }
        answer = [_aimed(show, item, fixture, args.at, heads) for item, fixture in pairs]
        if args.hold:
            now = {item.id: heads[item.id] for item, _ in pairs if item.id in heads}
            desk.edit("command line", "aim at", {"ids": [item.id for item, _ in pairs], "point": args.at, "now": now})
    finally:
        desk.close()
    if args.json:
        print(json.dumps({"fixtures": answer, "not_aimed": still}))
    else:
        for one in answer:
            print(_line(one))
        print("\n".join(f"{name} gives no light" for name in still), end="\n" if still else "")
    return 0 if all(one["solutions"][0]["reaches"] for one in answer) else 1


def _line(one: dict[str, Any]) -> str:
    way = one["solutions"][0]
    said = f"{one['number'] or one['id']:>6}  pan {way['pan_deg']:8.2f}°  tilt {way['tilt_deg']:8.2f}°"
    if not way["reaches"]:
        return f"{said}  {way['missing_deg']:.2f}° short"
    return f"{said}  {len(one['solutions'])} {'way' if len(one['solutions']) == 1 else 'ways'}"


def _shown(show: Show, hands: bool = True) -> dict[str, dict[str, float]]:
    """What the show plays without a console, by fixture or cell: the look that is played, under hands."""
    values = {key: dict(said) for key, said in played(show).items()}
    if hands:
        _hold(values, hands_of(show))
    return values


def _hold(values: dict[str, dict[str, float]], hands: dict[str, dict[str, float]]) -> None:
    for row, held in hands.items():
        keys = [key for key in values if key == row or key.startswith(f"{row}/")] or [row]
        for key in keys:
            values[key] = {**values.get(key, {}), **held}


def probe(args: argparse.Namespace) -> int:
    """What light falls on a place: lux, colour, and from whom. Haze and bounced light are not in it."""
    desk = Desk(Path(args.file), look=True)
    try:
        show = desk.show
        normal = unit(np.array(args.normal))
        if not normal.any():
            raise JobError("A face that looks nowhere gets no light: type --normal 0,0,1 for one that looks up.")
        answer = _probed(desk, show, np.array(args.at), normal, args)
    finally:
        desk.close()
    if args.json:
        print(json.dumps(answer))
        return 0
    print(f"{answer['lux']:.1f} lx" + (f", x {answer['x']:.4f}, y {answer['y']:.4f}" if answer["x"] else ""))
    for one in answer["from"]:
        blocked = f"  behind {one['blocked_by']}" if one["blocked_by"] else ""
        print(f"{one['number'] or one['id']:>6}  {one['lux']:9.1f} lx  {one['share']:6.1%}{blocked}")
    return 0


def _probed(desk: Desk, show: Show, at: Any, normal: Any, args: argparse.Namespace) -> dict[str, Any]:
    values = _shown(show, args.hands)
    if args.look is not None:
        values = {key: dict(said) for key, said in resolved(show, look_numbered(show, args.look).id).items()}
        if args.hands:
            _hold(values, hands_of(show))
        show = as_in_look(show, look_numbered(show, args.look).id)
    rig = rig_of(show)
    beams = rig.beams(values, *desk.optics.of(rig.table))
    found = who_lights(show, beams, rig.rig, Caster(in_the_way(show, people=True)), at, normal)
    listed = [
        {"number": show.body(one.fixture, Fixture).number, "id": one.fixture, "cell": one.cell,
         "lux": _finite(one.lux, 6), "share": _finite(one.share, 9), "blocked_by": one.blocked_by}
        for one in found.parts
    ]  # fmt: skip
    return {"lux": _finite(found.lux, 6), "x": found.x, "y": found.y, "cct_k": found.cct_k, "from": listed}


def add_commands(commands: Any) -> None:
    """Add `aim` and `probe` to the command line."""
    aiming = commands.add_parser("aim", help="how fixtures turn to a place")
    aiming.set_defaults(run=aim)
    aiming.add_argument("file")
    aiming.add_argument("--fixtures", required=True, help="numbers: 41, 41-46, 41,45,101-108, or all")
    aiming.add_argument("--at", type=place, required=True, metavar="X,Y,Z", help="metres: stage left, upstage, up")
    aiming.add_argument("--hold", action="store_true", help="aim them there in the show")
    aiming.add_argument("--json", action="store_true")
    probing = commands.add_parser("probe", help="what light falls on a place")
    probing.set_defaults(run=probe)
    probing.add_argument("file")
    probing.add_argument("--at", type=place, required=True, metavar="X,Y,Z", help="metres: stage left, upstage, up")
    probing.add_argument(
        "--normal", type=place, default=(0.0, 0.0, 1.0), metavar="X,Y,Z", help="which way its face looks"
    )
    probing.add_argument("--look", help="the number of a look; else what the show plays")
    probing.add_argument("--hands", action="store_true", help="with what is held by hand")
    probing.add_argument("--json", action="store_true")
