"""`lux`, `sight` and `book`: light on a plane as numbers, what each seat sees of a place, and the look book, without a
browser."""

from __future__ import annotations

import argparse
import json
import math
import re
import sys
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np

from zarfwright.cli.aim import place
from zarfwright.core.edits.carrying import as_in_look
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.looks.shown import in_order, look_numbered, resolved
from zarfwright.core.optics.photometry import illuminance
from zarfwright.core.playback.of_show import played
from zarfwright.core.raycast import Caster
from zarfwright.core.review.area import POINTS_MOST, Area
from zarfwright.core.review.book import BEFORE, sheets_of
from zarfwright.core.review.grid import Grid, grid_of
from zarfwright.core.review.maps import figures_of, in_the_way, kelvin_of, lux_of
from zarfwright.core.review.sight import SIZE_M, by_block, seeing, sight
from zarfwright.core.settings import Viewpoint
from zarfwright.core.show import Show
from zarfwright.core.space import unit
from zarfwright.formats.light_map import map_csv, map_png
from zarfwright.formats.pictures import small_jpeg
from zarfwright.web.desk import Desk
from zarfwright.web.desk.reviews import book_now, said_day

DIRECTION_WITHIN = 1e-3


def plane(text: str) -> tuple[float, float, float, float, float]:
    """Read `x0,y0,x1,y1,z` in metres. Raises ArgumentTypeError."""
    try:
        x0, y0, x1, y1, z = (float(part) for part in text.split(","))
    except ValueError:
        problem = f"“{text}” is no plane: type x0,y0,x1,y1,z in metres, such as -5,0,5,7,1.1."
        raise argparse.ArgumentTypeError(problem) from None
    if not all(math.isfinite(part) for part in (x0, y0, x1, y1, z)) or x0 == x1 or y0 == y1:
        raise argparse.ArgumentTypeError(f"“{text}” is no plane: its numbers have to be finite, its corners apart.")
    return min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1), z


def points(text: str) -> tuple[int, int]:
    """Read `50x40`. Raises ArgumentTypeError."""
    found = re.fullmatch(r"(\d{1,4})\s*[x×]\s*(\d{1,4})", text.strip())
    nx, ny = (int(found[1]), int(found[2])) if found else (0, 0)
    if not (0 < nx <= POINTS_MOST * 10 and 0 < ny <= POINTS_MOST * 10):
        raise argparse.ArgumentTypeError(f"“{text}” is no number of points: type two, such as 50x40.")
    return nx, ny


def _grid(args: argparse.Namespace) -> tuple[Grid, tuple[float, float]]:
    x0, y0, x1, y1, z = args.plane
    area = Area("", ((x0 + x1) / 2, (y0 + y1) / 2, z), x1 - x0, y1 - y0, points=args.points)
    if args.facing is not None:
        facing = np.array(args.facing)
        far = float(np.linalg.norm(facing))
        if far < 1e-9:
            raise JobError("Faces that look nowhere get no light: type a direction, or a place to look at.")
        if abs(far - 1) > DIRECTION_WITHIN:
            area = Area("", area.position, area.width_m, area.depth_m, faces="towards", towards=args.facing,
                        points=args.points)  # fmt: skip
        else:
            level = grid_of(area)
            towards = np.tile(unit(facing), (len(level.points), 1))
            return Grid(level.points, towards, level.shape), (area.width_m, area.depth_m)
    return grid_of(area), (area.width_m, area.depth_m)


def lux(args: argparse.Namespace) -> int:
    """Light at the points of a plane: haze and bounced light are not in it."""
    desk = Desk(Path(args.file), look=True)
    try:
        show = desk.show
        if args.look is None:
            values = played(show)
        else:
            look = look_numbered(show, args.look).id
            values, show = resolved(show, look), as_in_look(show, look)
        grid, size = _grid(args)
        rig = rig_of(show)
        beams = rig.beams(values, *desk.optics.of(rig.table))
        rgb = illuminance(beams, grid.points, grid.normals, Caster(in_the_way(show, not args.empty)))
    finally:
        desk.close()
    levels = lux_of(rgb)
    if args.png:
        Path(args.png).write_bytes(map_png(levels, grid.shape, size))
    figures = figures_of(levels)
    nx, ny = grid.shape
    if args.csv:
        sys.stdout.buffer.write(map_csv(grid, levels, kelvin_of(rgb)))
    elif args.json:
        table = np.round(levels.reshape(ny, nx), 6).tolist()
        print(json.dumps({"points": [nx, ny], "lux": table, "mean": figures.mean, "min": figures.least,
                          "max": figures.most, "evenness": figures.evenness}))  # fmt: skip
    else:
        print(f"{nx} x {ny} points: mean {figures.mean:.1f} lx, least {figures.least:.1f}, most {figures.most:.1f}, "
              f"evenness {figures.evenness:.3f}")  # fmt: skip
    return 0


def see(args: argparse.Namespace) -> int:
    """How much of a place each seat sees, and what hides it. Exit status 1 where nobody sees it."""
    desk = Desk(Path(args.file), look=True)
    try:
        found = sight(desk.show, args.at, args.normal, args.size, args.people)
    finally:
        desk.close()
    if not found:
        raise JobError("There is no seat in this show: add people who sit, or a crowd, in Site.")
    count = seeing(found)
    if args.json:
        listed = [{"seat": one.seat.name, "block": one.seat.group, "id": one.seat.id, "seen": round(one.seen, 6),
                   "hidden_by": [*one.hidden_by]} for one in found]  # fmt: skip
        print(json.dumps({"seats": listed, "seeing": count, "of": len(found)}))
    else:
        for one in sorted(found, key=lambda one: one.seen):
            if one.seen < 1:
                by = f"  hidden by {', '.join(one.hidden_by)}" if one.hidden_by else ""
                print(f"{one.seen * 100:5.0f} %  {one.seat.group}: {one.seat.name}{by}")
        print("\n".join(f"{name}: {sees} of {of} see it" for name, (sees, of) in by_block(found).items()))
        print(f"{count} of {len(found)} see it")
    return 0 if count else 1


NAMED = re.compile(r"(\d+(?:\.\d+)?)(?:\s*[,_ ]\s*(.*))?", re.DOTALL)
PICTURE_PX = (1920, 1080)


def _pictures_in(show: Show, folder: Path) -> tuple[dict[tuple[str, str], bytes], list[str]]:
    """Pictures by look and viewpoint from files such as `4.5, Gallery SL.png`, and the names of those that fit
    nothing. One that names no viewpoint is from the first."""
    views = {body.name.casefold(): item.id for item, body in show.bodies(Viewpoint)}
    looks = {look.number: key for key, look in in_order(show)}
    found, left = {}, []
    if not folder.is_dir():
        raise JobError(f"{folder} is no folder: name the one that the pictures are in.")
    for file in sorted(folder.iterdir()):
        if file.suffix.lower() not in (".png", ".jpg", ".jpeg"):
            continue
        named = NAMED.fullmatch(file.stem)
        look = looks.get(float(named[1])) if named else None
        view = views.get((named[2] or "").strip().casefold(), "") if named else ""
        if named and not named[2]:
            view = next(iter(views.values()), "")
        if look is None or not view:
            left.append(file.name)
            continue
        found[look, view] = small_jpeg(file.read_bytes(), file.name, PICTURE_PX)
    return found, left


def make_book(args: argparse.Namespace) -> int:
    """The look book as a file, HTML or PDF by its ending, with the pictures of a folder or those that are kept."""
    out = Path(args.out)
    if out.suffix.lower() not in (".html", ".pdf"):
        raise JobError(f"{out.name} is neither: let the name end in .html or .pdf.")
    desk = Desk(Path(args.file), look=True)
    try:
        views = [item.id for item in desk.show.of_kind("viewpoint")]
        book, pictures = book_now(desk.session, [], views, said_day(datetime.now()))
        left: list[str] = []
        if args.pictures:
            given, left = _pictures_in(desk.show, Path(args.pictures))
            pictures = {pair: jpeg for pair, jpeg in pictures.items() if pair[1] == BEFORE} | given
    finally:
        desk.close()
    seen = {view for _, view in pictures}
    book = replace(book, views=tuple(view for view in book.views if view.id in seen) or book.views[:1])
    if out.suffix.lower() == ".pdf":
        from zarfwright.formats.book.pdf import book_pdf

        data = book_pdf(book, pictures)
    else:
        from zarfwright.formats.book.page import book_page

        data = book_page(book, pictures)
    out.write_bytes(data)
    answer = {"pages": sheets_of(book), "bytes": len(data), "pictures": len(pictures), "left_out": left}
    if args.json:
        print(json.dumps(answer))
    else:
        print(f"{out.name}: {answer['pages']} pages, {len(pictures)} pictures, {len(data) / 1e6:.1f} MB")
        print(
            "\n".join(f"left out: {name} (no look or viewpoint is called so)" for name in left),
            end="\n" if left else "",
        )
    return 0


def add_commands(commands: Any) -> None:
    """Add `lux`, `sight` and `book` to the command line."""
    booking = commands.add_parser("book", help="the look book as one HTML file, or as PDF")
    booking.set_defaults(run=make_book)
    booking.add_argument("file")
    booking.add_argument("out", metavar="OUT.html", help="ending in .html or .pdf")
    booking.add_argument(
        "--pictures", metavar="DIR", help="pictures named such as `4.5, Gallery SL.png`; else kept ones"
    )
    booking.add_argument("--json", action="store_true")
    mapping = commands.add_parser("lux", help="light on a plane as numbers")
    mapping.set_defaults(run=lux)
    mapping.add_argument("file")
    mapping.add_argument("--plane", type=plane, required=True, metavar="X0,Y0,X1,Y1,Z", help="metres")
    mapping.add_argument("--points", type=points, default=(50, 40), metavar="50x40")
    facing = "where the faces look: a direction of length 1, or a place that upright faces are turned to; else up"
    mapping.add_argument("--facing", type=place, metavar="X,Y,Z", help=facing)
    mapping.add_argument("--look", help="the number of a look; else what the show plays")
    mapping.add_argument("--empty", action="store_true", help="as if there were nobody in the way")
    mapping.add_argument("--png", metavar="OUT", help="a picture in false colour")
    how = mapping.add_mutually_exclusive_group()
    how.add_argument("--json", action="store_true")
    how.add_argument("--csv", action="store_true")
    seeing_it = commands.add_parser("sight", help="which seats see a place, and what hides it from the others")
    seeing_it.set_defaults(run=see)
    seeing_it.add_argument("file")
    seeing_it.add_argument("--at", type=place, required=True, metavar="X,Y,Z", help="metres: stage left, upstage, up")
    seeing_it.add_argument("--normal", type=place, metavar="X,Y,Z", help="which way its face looks, where it has one")
    seeing_it.add_argument("--size", type=size, default=SIZE_M, metavar="M", help="how large it is")
    seeing_it.add_argument("--people", choices=["as they are", "standing", "left out"], default="as they are")
    seeing_it.add_argument("--json", action="store_true")


def size(text: str) -> float:
    """Read a size in metres. Raises ArgumentTypeError."""
    try:
        metres = float(text)
    except ValueError:
        metres = math.nan
    if not 0 < metres <= 50:
        raise argparse.ArgumentTypeError(f"“{text}” is no size: type metres, up to 50.")
    return metres
