"""`record`, `replay` and `slot`: traffic kept and sent again, and what a slot means, without a browser."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

from zarfwright.cli.signal import HOME, all_of, ears, hearing_of, stretch
from zarfwright.core.errors import JobError
from zarfwright.core.meaning import meanings
from zarfwright.core.patch import parse_place
from zarfwright.links.capture import Tap
from zarfwright.links.live.hearing import PORTS
from zarfwright.links.pcap import Captured, read_capture, sources_of, write_capture
from zarfwright.links.replay import Replay
from zarfwright.web.desk import Desk


def record(args: argparse.Namespace) -> int:
    """Keep what arrives at this machine in a pcap file. Exit status 1 when nothing does; then there is no file."""
    with hearing_of(all_of(args), args, ()) as (_, hearing):
        tap = hearing.receiver.tap = Tap()
        tap.over.wait(args.seconds)
        tap.over.set()
    if not tap.kept:
        print(json.dumps({"packets": 0}) if args.json else f"Nothing arrived in {args.seconds:g} s.")
        return 1
    try:
        with Path(args.file).open("wb") as file:
            count = write_capture(tap.kept, file)
    except OSError as wrong:
        raise JobError(f"{args.file} cannot be written ({wrong.strerror}): choose another place.") from wrong
    if args.json:
        print(json.dumps({"packets": count, "full": tap.full}))
    else:
        print(f"{count} packets in {args.file}{'; more are not kept' if tap.full else ''}.")
    return 0


def _read(path: Path) -> Captured:
    try:
        return read_capture(path.read_bytes(), path.name)
    except OSError as wrong:
        raise JobError(f"{path} cannot be read ({wrong.strerror}): see whether it is there.") from wrong


def replay(args: argparse.Namespace) -> int:
    """Send a recording again, or with --look only say what it holds."""
    captured = _read(Path(args.file))
    holds = {
        "seconds": round(captured.seconds, 3),
        "packets": len(captured.datagrams),
        "sources": [asdict(one) for one in sources_of(captured)],
        "left_out": captured.left_out,
    }
    sent = 0
    if not args.look:
        targets = {"sACN": args.sacn or (HOME, PORTS["sACN"]), "Art-Net": args.artnet or (HOME, PORTS["Art-Net"])}
        player = Replay({name: address for name, (address, _) in targets.items()})
        player.ports = {name: port for name, (_, port) in targets.items()}
        player.play(captured, args.speed)
        player.close()
        sent = player.sent
    if args.json:
        print(json.dumps({**holds, "sent": sent}))
    else:
        print(f"{holds['packets']} packets in {holds['seconds']:g} s, {sent} sent.")
        for one in sources_of(captured):
            print(f"  {one.name}, {one.protocol} from {one.address}: universes {', '.join(map(str, one.universes))}")
        for what, count in captured.left_out.items():
            print(f"left out: {count} {what}")
    return 0


def slot(args: argparse.Namespace) -> int:
    """Say whose a slot is, and what it does at a level. Exit status 1 when nobody has it."""
    place = parse_place(args.slot)
    levels: dict[int, bytes] = {}
    if args.level is not None:
        levels[place.universe] = bytes([args.level]) * 512
    desk = Desk(Path(args.show), look=True)
    try:
        found = meanings(desk.show, place.universe, place.address, levels)
    finally:
        desk.close()
    if args.json:
        print(json.dumps({"slot": str(place), "means": [asdict(one) for one in found]}))
    else:
        for one in found:
            byte = f" ({one.byte})" if one.byte else ""
            print(f"{place}: fixture {one.number}, {one.channel}{byte}: {', '.join(one.words)}")
        if not found:
            print(f"No fixture has {place}.")
    return 0 if found else 1


def level(text: str) -> int:
    """Read a level of a slot. Raises ArgumentTypeError."""
    if text.isdigit() and int(text) <= 255:
        return int(text)
    raise argparse.ArgumentTypeError(f"“{text}” is no level: type 0 to 255.")


def speed(text: str) -> float:
    """Read how fast a recording is sent again. Raises ArgumentTypeError."""
    try:
        found = float(text)
    except ValueError:
        found = 0.0
    if not 0.01 <= found <= 100:
        raise argparse.ArgumentTypeError(f"“{text}” is no speed: type 0.01 to 100, 1 as it was.")
    return found


def add_commands(commands: Any) -> None:
    """The commands, for the parser."""
    for name, run in (("record", record), ("replay", replay)):
        command = commands.add_parser(name, help=run.__doc__.split("\n")[0] if run.__doc__ else "")
        command.set_defaults(run=run)
        command.add_argument("file", help="a pcap file")
        command.add_argument("--sacn", type=ears("sACN"), metavar="ADDRESS[:PORT]")
        command.add_argument("--artnet", type=ears("Art-Net"), metavar="ADDRESS[:PORT]")
        command.add_argument("--json", action="store_true")
        if name == "record":
            command.add_argument("--seconds", type=stretch, default=10.0, help="how long to listen")
        else:
            command.add_argument("--speed", type=speed, default=1.0)
            command.add_argument("--look", action="store_true", help="send nothing, say what is in it")
    command = commands.add_parser("slot", help="Say whose a slot is, and what it does at a level.")
    command.set_defaults(run=slot)
    command.add_argument("show")
    command.add_argument("slot", help="universe and slot, such as 2.117")
    command.add_argument("--level", type=level, help="all slots of the universe at this; else defaults")
    command.add_argument("--json", action="store_true")
