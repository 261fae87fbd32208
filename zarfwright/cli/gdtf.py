"""Commands for GDTF files: look into one, decode levels by one, write one back."""

from __future__ import annotations

import argparse
import json
import re
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

from zarfwright.cli.manual import add_arguments, from_manual
from zarfwright.core.types.model import FixtureType, Mode
from zarfwright.core.types.shop.build import build, draft_of, type_id_of
from zarfwright.core.types.trial import beam_words, home_slots, trial
from zarfwright.formats.findings import FormatError, Oddity
from zarfwright.formats.gdtf import read_gdtf, repack, written

_PAIR = re.compile(r"^\s*(?:(\d{1,2})\.)?(\d{1,3})\s*:\s*(\d{1,3})\s*$")


def _read(file: str) -> tuple[FixtureType, list[Oddity]]:
    path = Path(file)
    try:
        data = path.read_bytes()
    except OSError as wrong:
        raise FormatError(f"{file} cannot be read ({wrong.strerror}): check its name.") from wrong
    return read_gdtf(data, path.name)


def described(fixture_type: FixtureType, findings: list[Oddity]) -> dict[str, Any]:
    """A type as plain values: modes with their channels and functions, wheels, what was odd in the file."""

    def functions(channel: Any) -> list[dict[str, Any]]:
        return [
            {
                "name": f.name, "attribute": f.attribute, "dmx": [first, last], "physical": list(f.physical),
                "default": f.default, "wheel": f.wheel, "profile": f.profile, "logical": f.logical,
                "master": None if f.master is None else
                {"channel": f.master.channel, "function": f.master.function, "dmx": [f.master.low, f.master.high]},
                "sets": [{"name": s.name, "from": s.start, "slot": s.slot, "physical": s.physical} for s in f.sets],
            }
            for f, first, last in channel.spans()
        ]  # fmt: skip

    return {
        "name": fixture_type.name,
        "maker": fixture_type.maker,
        "id": fixture_type.type_id,
        "weight_kg": fixture_type.weight_kg,
        "power_w": fixture_type.power_w,
        "modes": [
            {
                "name": mode.name,
                "footprint": sum(mode.footprints.values()),
                "breaks": {str(number): size for number, size in mode.footprints.items()},
                "channels": [
                    {
                        "name": channel.name, "geometry": channel.geometry, "break": channel.dmx_break,
                        "slots": list(channel.slots), "default": channel.home, "highlight": channel.highlight,
                        "functions": functions(channel),
                    }
                    for channel in mode.channels
                ],
                "relations": [
                    {"kind": r.kind, "master": r.master, "follower": r.follower, "function": r.function}
                    for r in mode.relations
                ],
            }
            for mode in fixture_type.modes
        ],
        "wheels": [{"name": w.name, "slots": [s.name for s in w.slots]} for w in fixture_type.wheels],
        "emitters": [{"name": e.name, "xy": [e.colour.x, e.colour.y]} for e in fixture_type.emitters],
        "findings": [{"where": f.where, "what": f.what, "done": f.done} for f in findings],
    }  # fmt: skip


def inspect(args: argparse.Namespace) -> int:
    """What a GDTF file holds."""
    fixture_type, findings = _read(args.file)
    if args.json:
        print(json.dumps(described(fixture_type, findings), indent=1))
        return 0
    print(f"{fixture_type.maker} {fixture_type.name}")
    for mode in fixture_type.modes:
        places = ", ".join(f"{size} slots in break {number}" for number, size in mode.footprints.items())
        print(f"  {mode.name}: {places}")
        for channel in mode.channels:
            where = ",".join(map(str, channel.slots)) or "virtual"
            print(f"    {where:>8}  {channel.name}")
    for found in findings:
        print(f"  {found.where}: {found.what}; {found.done}.")
    return 0


def parse_levels(text: str, mode: Mode, slots: dict[int, bytearray]) -> None:
    """Put `1:255,2:128` (slot within the fixture : byte; `2.1:255` in break 2) on the slots. Raises FormatError."""
    first = next(iter(slots), 1)
    for part in (one for one in text.split(",") if one.strip()):
        match = _PAIR.match(part)
        if match is None:
            raise FormatError(f"“{part.strip()}” is not slot:byte, such as 1:255. Give them parted by commas.")
        number, slot, level = int(match[1]) if match[1] else first, int(match[2]), int(match[3])
        if number not in slots or not 1 <= slot <= len(slots[number]):
            raise FormatError(
                f"{mode.name} has no slot {slot} in break {number}: it has {len(slots.get(number, b''))}."
            )
        if level > 255:
            raise FormatError(f"slot {slot}: {level} is more than a byte holds, 255.")
        slots[number][slot - 1] = level


def decode(args: argparse.Namespace) -> int:
    """What levels come to in a mode."""
    fixture_type, _ = _read(args.file)
    names = [mode.name for mode in fixture_type.modes]
    if args.mode is not None and args.mode not in names:
        raise FormatError(f"{fixture_type.name} has no mode “{args.mode}”: it has {', '.join(names)}.")
    mode = fixture_type.mode(args.mode or names[0])
    slots = home_slots(mode)
    if args.all_zero:
        slots = {number: bytearray(len(bytes_)) for number, bytes_ in slots.items()}
    parse_levels(args.dmx, mode, slots)
    tried = trial(fixture_type, mode.name, slots)
    beams = [beam_words(tried, i) for i in range(len(tried.features))]
    functions: list[dict[str, Any]] = [
        {
            "channel": mode.channels[one.channel].name,
            "slots": list(mode.channels[one.channel].slots),
            "raw": one.raw,
            "function": one.function.name,
            "attribute": one.function.attribute,
            "physical": one.physical,
            "words": one.words,
        }
        for one in tried.doing
    ]
    result = {"type": fixture_type.name, "mode": mode.name, "functions": functions, **beams[0], "beams": beams}
    if args.json:
        print(json.dumps(result, indent=1))
    else:
        for one in functions:
            print(f"{','.join(map(str, one['slots'])) or 'virtual':>8}  {one['raw']:>6}  {one['words']}")
    return 0


def roundtrip(args: argparse.Namespace) -> int:
    """Read a GDTF file and write it back, with nothing lost."""
    source = Path(args.file)
    try:
        data = source.read_bytes()
    except OSError as wrong:
        raise FormatError(f"{args.file} cannot be read ({wrong.strerror}): check its name.") from wrong
    Path(args.out).write_bytes(repack(data, source.name))
    return 0


def copy(args: argparse.Namespace) -> int:
    """Write what Copy in the type shop makes of a GDTF file, and say what it keeps."""
    path = Path(args.file)
    fixture_type, _ = _read(args.file)
    draft = draft_of(fixture_type, {name: name for name in fixture_type.images}, {})
    draft = replace(draft, name=args.name or f"{draft.name} copy", type_id="")
    webs = {name: (data, fixture_type.webs[name]) for name, data in fixture_type.ies.items()}
    made = written(build(draft, fixture_type.images, webs, fixture_type), path.read_bytes())
    Path(args.out).write_bytes(made.data)
    lost = [{"where": one.where, "what": one.what} for one in made.lost]
    if args.json:
        print(json.dumps({"kept": list(made.kept), "lost": lost}, indent=1))
        return 0
    print(f"{args.out}: {draft.name}, id {type_id_of(draft)}. Kept: {', '.join(made.kept)}.")
    for one in lost:
        print(f"  {one['where']}: {one['what']}.")
    return 0


def add_commands(commands: Any) -> None:
    """Add `gdtf inspect`, `decode`, `roundtrip`, `copy` and `from-manual` to the command line."""
    gdtf = commands.add_parser("gdtf", help="look into fixture type files").add_subparsers(dest="what", required=True)

    def add(name: str, run: Any) -> argparse.ArgumentParser:
        command: argparse.ArgumentParser = gdtf.add_parser(name, help=run.__doc__.split("\n")[0])
        command.add_argument("file")
        command.set_defaults(run=lambda args: _told(run, args))
        return command

    add("inspect", inspect).add_argument("--json", action="store_true")
    decoding = add("decode", decode)
    decoding.add_argument("--mode")
    decoding.add_argument("--dmx", default="", help="slot:byte, parted by commas; the rest is at its default")
    decoding.add_argument("--all-zero", action="store_true", help="the rest is at zero")
    decoding.add_argument("--json", action="store_true")
    add("roundtrip", roundtrip).add_argument("out")
    copying = add("copy", copy)
    copying.add_argument("out")
    copying.add_argument("--name", help="of the copy; without it the name of the type and “copy”")
    copying.add_argument("--json", action="store_true")
    add_arguments(add("from-manual", from_manual))


def _told(run: Any, args: argparse.Namespace) -> int:
    try:
        result: int = run(args)
        return result
    except FormatError as wrong:
        print(f"zarfwright: {wrong}", file=sys.stderr)
        return 2
