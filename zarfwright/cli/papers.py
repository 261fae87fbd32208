"""`sheet` and `schedule`: drawings and lists of the rig, without a browser."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from zarfwright.core.errors import JobError
from zarfwright.core.schedules.lists import SCHEDULES
from zarfwright.core.schedules.table import Table, as_texts
from zarfwright.core.sheet.marks import Drawing
from zarfwright.core.sheet.paper import PAPERS, scale_text
from zarfwright.core.sheet.sheet import LOOKS, Sheet, View
from zarfwright.core.show import Show
from zarfwright.web.desk import Desk


def _found(show: Show, wanted: str) -> list[Sheet]:
    """The sheets of a name, a number, or both; `all` of them; a view by its own name where no sheet is called so.
    Raises JobError."""
    sheets = [sheet for _, sheet in show.bodies(Sheet)]
    plain = wanted.strip().lower()
    if plain == "all" and sheets:
        return sheets
    for sheet in sheets:
        if plain in (sheet.name.lower(), sheet.number.lower(), f"{sheet.number} {sheet.name}".strip().lower()):
            return [sheet]
    look = next((look for look, name in LOOKS.items() if plain in (look, name.lower()) and look != "square"), None)
    if look is not None:
        return [Sheet(LOOKS[look], paper="A1", upright=False, views=(View("v1", look),))]
    known = ", ".join(f"{sheet.number} {sheet.name}".strip() for sheet in sheets) or "no sheet"
    raise JobError(f"There is no sheet “{wanted}”: the show has {known}; plan, section or front are drawn of any show.")


def _written(show: Show, sheets: Sequence[Sheet], args: argparse.Namespace) -> tuple[bytes, list[Drawing]]:
    """The file as its name ends, and what is in it. Raises JobError."""
    from zarfwright.formats.sheet.files import sheet_file

    ending = Path(args.out).suffix.lower()
    return sheet_file(show, sheets, ending.removeprefix("."), args.on or "", args.tiles or "")


def _row(drawing: Drawing, system: str) -> dict[str, Any]:
    return {
        "name": drawing.name,
        "number": drawing.number,
        "paper": drawing.paper,
        "scale": drawing.scale,
        "scale_text": scale_text(drawing.scale, system) if drawing.scale else "",
        "labels_not_placed": drawing.labels_not_placed,
        "fixtures": len({key for view in drawing.views for key in view.fixtures}),
    }


def sheet(args: argparse.Namespace) -> int:
    """List the sheets, or write one, or all of them as PDF."""
    from zarfwright.core.sheet.compose import draw_sheet

    if not args.list and (not args.name or not args.out):
        raise JobError("Name a sheet and say where it goes, --out F.pdf, .svg or .dxf; or list them, --list.")
    desk = Desk(Path(args.show), look=True)
    try:
        show = desk.show
        if args.list:
            drawings = [draw_sheet(show, one) for _, one in show.bodies(Sheet)]
        else:
            data, drawings = _written(show, _found(show, args.name), args)
            Path(args.out).write_bytes(data)
        rows = [_row(drawing, show.settings.system) for drawing in drawings]
    finally:
        desk.close()
    if args.json:
        print(json.dumps({"sheets": rows}))
        return 0
    for row in rows:
        left = f", {row['labels_not_placed']} labels without room" if row["labels_not_placed"] else ""
        print(f"{row['number']:<8}{row['name']:<32}{row['paper']:<8}{row['scale_text']}{left}")
    if not rows:
        print("The show has no sheets.")
    return 0


def schedule(args: argparse.Namespace) -> int:
    """Print a schedule: a table for people, CSV, or JSON; or write it as PDF."""
    from zarfwright.core.sheet.listed import marked_schedule
    from zarfwright.formats.csv import write_csv

    desk = Desk(Path(args.show), look=True)
    try:
        table, since = marked_schedule(desk.show, args.name, None)
        called = desk.show.settings.name
    finally:
        desk.close()
    if args.pdf:
        from zarfwright.formats.sheet.tables import schedule_pdf

        Path(args.pdf).write_bytes(schedule_pdf(table, called, since=since))
    if args.json:
        print(json.dumps({"name": table.name, "columns": table.columns, "rows": table.rows,
                          "totals": dict(table.totals), "changed": table.changed}))  # fmt: skip
    elif args.csv:
        sys.stdout.buffer.write(write_csv(table.columns, [as_texts(row) for row in table.rows]))
    elif not args.pdf:
        _print(table)
    return 0


def labels(args: argparse.Namespace) -> int:
    """Write labels for bodies, or strips for structures, as PDF."""
    from zarfwright.core.schedules.strips import body_labels, strips
    from zarfwright.formats.sheet.strips import labels_pdf, strips_pdf

    desk = Desk(Path(args.show), look=True)
    show = desk.show
    desk.close()
    name, bodies, cut = show.settings.name, body_labels(show), strips(show)
    on_bodies = args.on == "bodies"
    Path(args.out).write_bytes(labels_pdf(name, bodies) if on_bodies else strips_pdf(name, cut))
    count = len(bodies) if on_bodies else len(cut)
    print(json.dumps({"labels": count}) if args.json else f"{count} for {args.on}.")
    return 0


def _print(table: Table) -> None:
    rows = [table.columns, *(as_texts(row) for row in table.rows)]
    widths = [max(len(row[i]) for row in rows) for i in range(len(table.columns))]
    for row in rows:
        print("  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip())
    print(", ".join(f"{what}: {value:.12g}" for what, value in table.totals.items()))
    if table.note:
        print(table.note)


def add_commands(commands: Any) -> None:
    """The commands, for the parser."""
    sheets = commands.add_parser("sheet", help="drawings of the rig: plans, sections, elevations")
    sheets.set_defaults(run=sheet)
    sheets.add_argument("show")
    sheets.add_argument("name", nargs="?", help="its name or number; all; or plan, section, front ... of any show")
    sheets.add_argument("--list", action="store_true")
    sheets.add_argument("--out", metavar="F", help="ending .pdf, .svg or .dxf")
    other = sheets.add_mutually_exclusive_group()
    other.add_argument("--on", choices=PAPERS, metavar="PAPER", help="smaller, to fit on other paper")
    other.add_argument("--tiles", choices=PAPERS, metavar="PAPER", help="at its scale, on several")
    sheets.add_argument("--json", action="store_true")
    lists = commands.add_parser("schedule", help="lists of the rig: by position, channel, address, power, weight ...")
    lists.set_defaults(run=schedule)
    lists.add_argument("show")
    lists.add_argument("name", choices=SCHEDULES)
    how = lists.add_mutually_exclusive_group()
    how.add_argument("--json", action="store_true")
    how.add_argument("--csv", action="store_true")
    lists.add_argument("--pdf", metavar="OUT")
    sticky = commands.add_parser("labels", help="labels for bodies, or strips for structures, to be cut out")
    sticky.set_defaults(run=labels)
    sticky.add_argument("show")
    sticky.add_argument("out", metavar="OUT.pdf")
    sticky.add_argument("--on", choices=("bodies", "structures"), default="bodies")
    sticky.add_argument("--json", action="store_true")
