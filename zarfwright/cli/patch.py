"""`patch compare`: a console's list beside the show's patch, without a browser."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from zarfwright.core.errors import JobError
from zarfwright.core.patching.compare import Compared, Side, compare
from zarfwright.core.patching.listed import columns_of, read_list
from zarfwright.formats.csv import read_csv
from zarfwright.web.desk import Desk
from zarfwright.web.patches import side_out


def _side(side: Side | None) -> str:
    if side is None:
        return "nothing"
    plugged = f"circuit {side.circuit}" if side.circuit else "", f"dimmer {side.dimmer}" if side.dimmer else ""
    return ", ".join(filter(None, (side.type, side.mode, str(side.place or "no address"), *plugged)))


def _side_told(side: Side | None) -> dict[str, Any] | None:
    """What one side says; circuit and dimmer where it has any."""
    told = side_out(side)
    return told and {key: value for key, value in told.items() if value or key not in ("circuit", "dimmer")}


def _told(compared: Compared) -> dict[str, Any]:
    causes = [
        {
            "cause": one.cause,
            "from": str(one.from_) if one.from_ else None,
            "fixtures": list(one.numbers),
            "text": one.text,
        }
        for one in compared.causes
    ]
    lines = [
        {"number": one.number, "ours": _side_told(one.ours), "theirs": _side_told(one.theirs), "kind": one.kind}
        for one in compared.lines
    ]
    return {"causes": causes, "lines": lines, "same": compared.same}


def run(args: argparse.Namespace) -> int:
    """Say how a console's list differs from the show's patch. Exit status 1 when it does."""
    path = Path(args.list)
    try:
        sheet = read_csv(path.read_bytes(), path.name)
    except OSError as wrong:
        raise JobError(f"{path} cannot be read ({wrong.strerror}): see whether it is there.") from wrong
    read = read_list(sheet.rows, columns_of(sheet.columns))
    desk = Desk(Path(args.show), look=True)
    compared = compare(desk.show, read.rows)
    desk.close()
    if args.json:
        print(json.dumps({**_told(compared), "left_out": read.left_out}))
    else:
        for cause in compared.causes:
            print(cause.text)
        for line in compared.lines:
            print(f"  {line.number} {line.kind}: {_side(line.ours)} here, {_side(line.theirs)} in the list")
        for text in read.left_out:
            print(f"left out: {text}")
        print(f"{compared.same} fixtures are the same.")
    return 1 if compared.lines else 0


def add_commands(commands: Any) -> None:
    """The commands, for the parser."""
    patch = commands.add_parser("patch", help="the patch beside a console's list")
    doing = patch.add_subparsers(dest="doing", required=True)
    comparing = doing.add_parser("compare", help="how a console's list (CSV) differs")
    comparing.set_defaults(run=run)
    comparing.add_argument("show")
    comparing.add_argument("list")
    comparing.add_argument("--json", action="store_true")
