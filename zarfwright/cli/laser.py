"""`laser`: ILDA files looked into and copied to another format, and what lasers may reach, without a browser."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from zarfwright.core.edits.carrying import as_in_look
from zarfwright.core.errors import JobError
from zarfwright.core.lasers.frames import FORMATS, Palette, Reel, in_format
from zarfwright.core.lasers.readiness import said
from zarfwright.core.lasers.safety import AID, crossings
from zarfwright.core.looks.shown import look_numbered, resolved
from zarfwright.formats.findings import Oddity
from zarfwright.formats.ild import read_ild, write_ild
from zarfwright.web.desk import Desk

USUAL_PPS = 30_000
"""Points a second that such files are usually drawn at."""


def _read(path: str) -> tuple[Reel, list[Oddity]]:
    try:
        return read_ild(Path(path).read_bytes())
    except OSError as wrong:
        raise JobError(f"{path} cannot be read ({wrong.strerror}): see whether it is there.") from wrong


def _formats(reel: Reel) -> list[int]:
    return sorted({one.format for one in reel.frames})


def inspect(args: argparse.Namespace) -> int:
    """What an ILDA file holds, and what is odd about it."""
    reel, odd = _read(args.file)
    points = [len(one) for one in reel.frames]
    lit = sum(int((~one.blanked).sum()) for one in reel.frames)
    told = {
        "frames": len(points),
        "formats": _formats(reel),
        "palettes": sum(isinstance(one, Palette) for one in reel.sections),
        "points": sum(points),
        "most_points": max(points),
        "lit_share": round(lit / max(sum(points), 1), 4),
        "slowest_hz": round(USUAL_PPS / max(points), 2),
        "name": reel.frames[0].name,
        "findings": [vars(one) for one in odd],
    }
    if args.json:
        print(json.dumps(told))
        return 0
    of = ", ".join(str(one) for one in _formats(reel))
    slowest = f"{USUAL_PPS / max(points):.2f} Hz at {USUAL_PPS} points a second"
    print(f"{len(points)} frames of format {of}, {sum(points)} points; the largest has {max(points)}: {slowest}.")
    for one in odd:
        print(f"  {one.where}: {one.what}; {one.done}.")
    return 0


def copy(args: argparse.Namespace) -> int:
    """An ILDA file written anew, in one format where that is asked for. Exit status 1 where that loses anything."""
    reel, odd = _read(args.file)
    made, lost = in_format(reel, args.format) if args.format is not None else (reel, [])
    data = write_ild(made)
    try:
        Path(args.out).write_bytes(data)
    except OSError as wrong:
        raise JobError(f"{args.out} cannot be written ({wrong.strerror}): choose another place.") from wrong
    told = {"frames": len(made.frames), "bytes": len(data), "lost": lost, "findings": [vars(one) for one in odd]}
    if args.json:
        print(json.dumps(told))
    else:
        print("\n".join([f"{len(made.frames)} frames in {args.out}.", *lost, *(one.what for one in odd)]))
    return 1 if lost else 0


def check(args: argparse.Namespace) -> int:
    """What lasers may reach that they should not: people, what reflects, the open. Exit status 1 where it is over the
    limit."""
    desk = Desk(Path(args.file), look=True)
    try:
        show, values = desk.show, None
        if args.look is not None:
            look = look_numbered(show, args.look).id
            values, show = resolved(show, look), as_in_look(show, look)
        found = crossings(show, values)
        lines = [said(one) for one in found if one.over]
    finally:
        desk.close()
    if args.json:
        told = [
            {
                "number": one.head.number,
                "id": one.head.id,
                "zone": one.head.said.zone.name if one.head.said.draws else "still beam",
                "what": one.what,
                "where": [round(part, 4) for part in one.where],
                "who": one.who,
                "count": one.count,
                "irradiance_w_m2": round(one.irradiance_w_m2, 4),
                "limit": one.limit_w_m2,
                "over": one.over,
            }
            for one in found
        ]
        print(json.dumps({"crossings": told, "note": AID}))
    else:
        print("\n".join([*(lines or ["No laser reaches anything that it should not."]), AID]))
    return 1 if lines else 0


def add_commands(commands: Any) -> None:
    """The lasers' commands."""
    parts = commands.add_parser(
        "laser", help="ILDA files looked into and copied; what lasers may reach"
    ).add_subparsers(dest="what", required=True)
    looked = parts.add_parser("inspect", help="what an ILDA file holds, and what is odd about it")
    looked.add_argument("file")
    looked.set_defaults(run=inspect)
    copied = parts.add_parser("copy", help="an ILDA file written anew, in another format")
    copied.add_argument("file")
    copied.add_argument("out")
    copied.add_argument("--format", type=int, choices=FORMATS, help="0: 3D by palette, 1: 2D, 4: 3D in colour, 5: 2D")
    copied.set_defaults(run=copy)
    checked = parts.add_parser("check", help="where lasers may reach people, what reflects, or the open")
    checked.add_argument("file")
    checked.add_argument("--look", help="the number of a look; else at full power")
    checked.set_defaults(run=check)
    for part in (looked, copied, checked):
        part.add_argument("--json", action="store_true")
