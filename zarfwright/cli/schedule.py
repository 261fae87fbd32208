"""`schedule`: a schedule of the rig, without a browser."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from zarfwright.core.papers import CIRCUIT_COLUMNS, as_text, circuit_schedule, circuit_totals
from zarfwright.formats.csv import write_csv
from zarfwright.web.desk import Desk


def run(args: argparse.Namespace) -> int:
    """Print a schedule: a table for people, CSV, or JSON."""
    desk = Desk(Path(args.show), look=True)
    rows, totals = circuit_schedule(desk.show), circuit_totals(desk.show)
    desk.close()
    if args.json:
        print(json.dumps({"name": args.name, "columns": CIRCUIT_COLUMNS, "rows": rows, "totals": totals}))
    elif args.csv:
        sys.stdout.buffer.write(write_csv(CIRCUIT_COLUMNS, [as_text(row) for row in rows]))
    else:
        table = [CIRCUIT_COLUMNS, *[as_text(row) for row in rows]]
        widths = [max(len(row[i]) for row in table) for i in range(len(CIRCUIT_COLUMNS))]
        for row in table:
            print("  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip())
        print(", ".join(f"{what}: {value:.12g}" for what, value in totals.items()))
    return 0


def add_commands(commands: Any) -> None:
    """The command, for the parser."""
    schedule = commands.add_parser("schedule", help="a schedule of the rig: circuits and dimmers with their loads")
    schedule.set_defaults(run=run)
    schedule.add_argument("show")
    schedule.add_argument("name", choices=["circuits"])
    how = schedule.add_mutually_exclusive_group()
    how.add_argument("--json", action="store_true")
    how.add_argument("--csv", action="store_true")
