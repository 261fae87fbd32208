"""The command line: serve a show, the demo, a new file, checks and exports without a browser."""

from __future__ import annotations

import argparse
import json
import logging
import os
import re
import sys
from importlib import import_module
from pathlib import Path
from typing import Any

from zarfwright.cli.serve import ARTNET_PORT, HOST, PORT, SACN_PORT, serve
from zarfwright.core.errors import JobError
from zarfwright.formats.findings import FormatError
from zarfwright.store.errors import ShowFileError
from zarfwright.store.lock import FileLock

FAMILIES = {
    "gdtf": ("gdtf",),
    "aim": ("aim", "probe"),
    "signal": ("listen", "doctor"),
    "patch": ("patch",),
    "papers": ("sheet", "schedule", "labels"),
    "mvr": ("mvr",),
    "look": ("look",),
    "review": ("book", "lux", "sight"),
    "traffic": ("record", "replay", "slot"),
    "laser": ("laser",),
}
"""Modules with the commands that they have. One is imported for a command of it, and all where help is wanted: they
need much of the program, and starting it is not to wait for that."""


def _build_demo(path: Path, first_part: bool) -> None:
    from zarfwright.demo.build import build_first_part
    from zarfwright.demo.tide import build_demo

    # Built beside and moved into place: a build that was cut short leaves no half a show.
    building = path.with_suffix(".building")
    building.unlink(missing_ok=True)
    (build_first_part if first_part else build_demo)(building)
    building.replace(path)
    if not first_part:
        _write_guests(path)


def _write_guests(path: Path) -> None:
    """A scene to try the exchange with, beside the demo show."""
    from zarfwright.core.exchange.offered import Wish
    from zarfwright.demo.guests import guest_scene
    from zarfwright.web.desk import Desk
    from zarfwright.web.desk.outbox import scene_file

    desk = Desk(path, look=True)
    data = scene_file(desk.show, desk.session.asset, Wish()).data
    desk.close()
    path.with_name("guests.mvr").write_bytes(guest_scene(data))


def demo(args: argparse.Namespace) -> int:
    """Serve the demo show, making it first where there is none yet."""
    path = Path(args.file)
    path.parent.mkdir(parents=True, exist_ok=True)
    # Never under the hands of a program that has it open.
    lock = FileLock(path)
    try:
        if args.fresh:
            for name in (path, Path(f"{path}-wal"), Path(f"{path}-shm")):
                name.unlink(missing_ok=True)
        if not path.exists():
            _build_demo(path, args.first_part)
    finally:
        lock.let_go()
    return serve(path, args)


def new(args: argparse.Namespace) -> int:
    """Make an empty show file."""
    from zarfwright.store.showfile import ShowFile

    path = Path(args.file)
    if path.exists():
        print(f"zarfwright: {path} is there already: choose another name.", file=sys.stderr)
        return 2
    ShowFile(path).close()
    return 0


def check(args: argparse.Namespace) -> int:
    """What is still wrong in a show, step by step. Exit status 1 when something is."""
    from zarfwright.core.readiness import findings
    from zarfwright.web.desk import Desk

    desk = Desk(Path(args.file), look=True)
    found = [*findings(desk.show), *_of_sheets(desk.show)]
    if args.json:
        rows = [{"step": f.step, "code": f.code, "text": f.text, "things": f.where, "wrong": f.wrong} for f in found]
        print(json.dumps({"findings": rows}))
    else:
        print("\n".join(f"{f.step}: {f.text}" for f in found) or "Everything is in order.")
    desk.close()
    return 1 if found else 0


def _of_sheets(show: Any) -> list[Any]:
    """What is wrong with sheets as they are drawn, and with totals of lists that do not agree."""
    from zarfwright.core.schedules.cross import at_odds
    from zarfwright.core.sheet.compose import draw_sheet
    from zarfwright.core.sheet.readiness import drawn_findings
    from zarfwright.core.sheet.sheet import Sheet

    drawn = [one for item, sheet in show.bodies(Sheet) for one in drawn_findings(item.id, draw_sheet(show, sheet))]
    return [*drawn, *at_odds(show)]


def export(args: argparse.Namespace) -> int:
    """Write a list as CSV to standard output."""
    from zarfwright.core import papers
    from zarfwright.core.exchange import listing
    from zarfwright.formats.csv import write_csv
    from zarfwright.web.desk import Desk

    desk = Desk(Path(args.file), look=True)
    columns, rows = {
        "patch": (papers.PATCH_COLUMNS, papers.patch_list),
        "hookup": (papers.HOOKUP_COLUMNS, papers.channel_hookup),
        "fixtures": (listing.COLUMNS, listing.listing),
    }[args.what]
    sys.stdout.buffer.write(write_csv(columns, rows(desk.show)))
    desk.close()
    return 0


def openapi(_: argparse.Namespace) -> int:
    """Print the API's OpenAPI document; the front end's types are made from it."""
    from zarfwright.web.app import openapi_document

    print(json.dumps(openapi_document(), indent=1, sort_keys=True))
    return 0


def print_tables(_: argparse.Namespace) -> int:
    """Print the tables that the front end keeps a copy of."""
    from zarfwright.web.tables import tables

    print(json.dumps(tables(), indent=1))
    return 0


PLACES = ("--at", "--normal", "--plane", "--facing")
"""Options that take x,y,z: the parser would take one that begins with a minus for another option."""


def with_places(argv: list[str]) -> list[str]:
    """The arguments with such places joined to their options: `--at -2,1,0` as `--at=-2,1,0`."""
    joined: list[str] = []
    for word in argv:
        if joined and joined[-1] in PLACES and re.match(r"-[\d.]", word):
            joined[-1] = f"{joined[-1]}={word}"
        else:
            joined.append(word)
    return joined


def main(argv: list[str] | None = None) -> int:
    """The command line."""
    parser = argparse.ArgumentParser(prog="zarfwright", description="Previsualization of stage lighting.")
    commands = parser.add_subparsers(dest="command", required=True)

    def add(name: str, run: Any) -> argparse.ArgumentParser:
        command = commands.add_parser(name, help=run.__doc__.split("\n")[0])
        command.set_defaults(run=run)
        return command

    for name, run, file in (
        ("serve", lambda args: serve(Path(args.file), args), None),
        ("demo", demo, "var/demo.zarf"),
    ):
        command = commands.add_parser(name, help="open a show" if name == "serve" else "open the demo show")
        command.set_defaults(run=run)
        if file is None:
            command.add_argument("file")
        else:
            command.add_argument("--file", default=file)
            command.add_argument("--fresh", action="store_true", help="build the demo show anew")
            command.add_argument("--first-part", action="store_true", help="a small part of it, quicker to draw")
        command.add_argument("--port", type=int, default=PORT)
        command.add_argument("--sacn", default=HOST, help="the address of this machine to hear sACN on")
        command.add_argument(
            "--share", action="store_true", help="let guests look on from other devices, and print where"
        )
        command.add_argument("--sacn-port", type=int, default=SACN_PORT)
        command.add_argument("--artnet", default="", help="the same for Art-Net; else as for sACN")
        command.add_argument("--artnet-port", type=int, default=ARTNET_PORT)
        command.add_argument("--jobs", metavar="ADDRESS", help="a Dask scheduler for work that takes long: tcp://...")
    add("new", new).add_argument("file")
    checking = add("check", check)
    checking.add_argument("file")
    checking.add_argument("--json", action="store_true")
    exporting = add("export", export)
    exporting.add_argument("what", choices=["patch", "hookup", "fixtures"])
    exporting.add_argument("file")
    add("openapi", openapi)
    add("tables", print_tables)
    argv = sys.argv[1:] if argv is None else argv
    asked = next((word for word in argv if not word.startswith("-")), "")
    if asked.lower().endswith(".zarf") and asked == argv[0]:
        # A show by its name alone, as a desktop opens a file.
        argv, asked = ["serve", *argv], "serve"
    known = {*commands.choices, *(name for names in FAMILIES.values() for name in names)}
    for family, names in FAMILIES.items():
        if asked in names or asked not in known:
            import_module(f"zarfwright.cli.{family}").add_commands(commands)
    args = parser.parse_args(with_places(argv))
    logging.basicConfig(level=logging.WARNING, format="%(name)s: %(message)s")
    try:
        result: int = args.run(args)
    except (ShowFileError, JobError, FormatError) as wrong:
        print(f"zarfwright: {wrong}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        # Whoever read the answer has seen enough.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    return result
