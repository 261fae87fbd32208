"""Commands for MVR files: write one of a show, look into one, take one in."""

from __future__ import annotations

import argparse
import json
import shutil
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from zarfwright.cli.aim import chosen
from zarfwright.core.exchange.compare import Choices, Comparison, beside_words, compare
from zarfwright.core.exchange.incoming import Odd
from zarfwright.core.exchange.lie import bounds, suspicions
from zarfwright.core.exchange.offered import Wish
from zarfwright.core.exchange.typing import type_choices
from zarfwright.core.settings import Settings
from zarfwright.core.show import SHOW_ID, Item, Show
from zarfwright.formats.findings import FormatError
from zarfwright.web.desk import Desk
from zarfwright.web.desk.inbox import Arrived, Inbox
from zarfwright.web.desk.outbox import scene_file

WHO = "the command line"


def export_mvr(args: argparse.Namespace) -> int:
    """Write a show as an MVR file."""
    desk = Desk(Path(args.file), look=True)
    try:
        wish = _wish(desk.show, args.only, args.people)
        made = scene_file(desk.show, desk.session.asset, wish)
        Path(args.out).write_bytes(made.data)
    except OSError as wrong:
        raise FormatError(f"{args.out} cannot be written ({wrong.strerror}): choose another place.") from wrong
    finally:
        desk.close()
    told = {
        "fixtures": made.fixtures, "types": made.types, "structures": made.structures, "others": made.others,
        "left_out": [{"what": one.what, "why": one.why} for one in made.left_out],
    }  # fmt: skip
    if args.json:
        print(json.dumps(told))
        return 0
    print(
        f"{made.fixtures} fixtures of {made.types} types, {made.structures} structures and {made.others} other things: "
        f"{len(made.data) / 1e6:.1f} MB."
    )
    for one in made.left_out:
        print(f"Left out: {one.what}: {one.why}.")
    return 0


def _wish(show: Show, only: str, people: bool) -> Wish:
    if only in ("", "shown", "fixtures"):
        return Wish(only if only else "all", None, people)  # type: ignore[arg-type]
    return Wish("all", frozenset(item.id for item, _ in chosen(show, only)), people)


def _arrived(inbox: Inbox, file: str) -> tuple[str, Arrived]:
    """A file, read."""
    source = Path(file)
    key, path = inbox.place(source.name)
    try:
        shutil.copyfile(source, path)
    except OSError as wrong:
        raise FormatError(f"{file} cannot be read ({wrong.strerror}): check its name.") from wrong
    arrived = inbox.arrive(key, source.name, path)
    arrived.read_here()
    return key, arrived


def _findings(found: Sequence[Odd]) -> list[dict[str, str]]:
    return [{"where": one.where, "what": one.what, "done": one.done} for one in found]


def inspect_mvr(args: argparse.Namespace) -> int:
    """What an MVR file holds, and what its types would come to."""
    inbox = Inbox()
    try:
        _, arrived = _arrived(inbox, args.file)
        empty = Show({SHOW_ID: Item(SHOW_ID, "show", Settings())})
        scene = arrived.scene
        choices = type_choices(empty, arrived, scene, {})
        reach = bounds(scene) or ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0))
        found = _findings(arrived.findings)
        found += [{"where": "Scene", "what": one.what, "done": "left as it is"}
                  for one in suspicions(empty, scene, {})]  # fmt: skip
    finally:
        inbox.close()
    types = [
        {
            "name": one.wanted.found.name, "matched": one.chosen.name if one.chosen.source != "plain" else None,
            "reason": one.chosen.reason, "fixtures": one.wanted.fixtures, "modes": dict(one.chosen.modes),
        }
        for one in choices
    ]  # fmt: skip
    counts = {tag: sum(1 for thing in scene.things if thing.tag == tag) for tag in {one.tag for one in scene.things}}
    told = {
        "fixtures": counts.get("Fixture", 0), "things": counts, "types": types,
        "bounds_m": [list(end) for end in reach],
        "findings": found,
    }  # fmt: skip
    if args.json:
        print(json.dumps(told))
        return 0
    print(f"{told['fixtures']} fixtures, {len(scene.things) - counts.get('Fixture', 0)} other things")
    for end, name in zip(reach, ("from", "to"), strict=True):
        print(f"  {name} {end[0]:.2f}, {end[1]:.2f}, {end[2]:.2f} m")
    for row in types:
        print(f"  {row['fixtures']} x {row['name']}: {row['matched'] or 'a plain body'}, for {row['reason']}.")
    _print_findings(found)
    return 0


def _print_findings(found: list[dict[str, str]]) -> None:
    for one in found:
        print(f"  {one['where']}: {one['what']}; {one['done']}.")


def import_mvr(args: argparse.Namespace) -> int:
    """Take an MVR file into a show: what it lacks stays there, unless --remove says what goes."""
    desk = Desk(Path(args.show), look=args.dry_run)
    try:
        key, arrived = _arrived(desk.inbox, args.file)
        remove = [name.strip() for name in args.remove.split(",") if name.strip()]
        compared = compare(desk.show, arrived, Choices(remove=frozenset(remove)))
        if not args.dry_run and compared.changes:
            done = desk.edit(WHO, "take scene", {"key": key, "remove": remove})
            sentence = done["sentence"]
        else:
            sentence = "Nothing is changed."
    finally:
        desk.close()
    told = _told(compared)
    told["beside"] = beside_words(desk.show.after(compared.changes), compared)
    if args.json:
        print(json.dumps(told))
        return 0
    for line in told["lines"]:
        if line["change"] != "kept":
            print(f"  {line['change']}: {line['name']}: {line['text']}")
    _print_findings(told["findings"])
    for line in told["beside"]:
        print(f"  {line}: they can be put back on them in the program.")
    print(sentence)
    return 0


def _told(compared: Comparison) -> dict[str, Any]:
    return {
        "added": compared.count("added"),
        "changed": compared.count("changed"),
        "removed": compared.count("removed"),
        "left_out": compared.count("left out"),
        "same": compared.same,
        "kept": compared.count("kept"),
        "lines": [
            {"change": line.change, "kind": line.group, "name": line.name, "text": line.text} for line in compared.lines
        ],
        "findings": [{"where": where, "what": what, "done": done} for where, what, done in compared.findings],
    }


def add_commands(commands: Any) -> None:
    """`mvr export`, `mvr inspect`, `mvr import`."""
    parser = commands.add_parser("mvr", help="scenes as MVR: out, looked into, in")
    parts = parser.add_subparsers(dest="part", required=True)
    out = parts.add_parser("export", help="write a show as an MVR file")
    out.add_argument("file", metavar="SHOW")
    out.add_argument("out", metavar="OUT")
    out.add_argument("--only", default="", help="shown, fixtures, or the numbers of fixtures")
    out.add_argument("--people", action="store_true", help="crowds as figures too")
    out.set_defaults(run=export_mvr)
    look = parts.add_parser("inspect", help="what an MVR file holds")
    look.add_argument("file", metavar="FILE")
    look.set_defaults(run=inspect_mvr)
    into = parts.add_parser("import", help="take an MVR file into a show")
    into.add_argument("show", metavar="SHOW")
    into.add_argument("file", metavar="FILE")
    into.add_argument("--dry-run", action="store_true", help="only say what would become of it")
    into.add_argument("--remove", default="", help="what goes that the file does not have: fixtures, structures ...")
    into.set_defaults(run=import_mvr)
    for command in (out, look, into):
        command.add_argument("--json", action="store_true")
