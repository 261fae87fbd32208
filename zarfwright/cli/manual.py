"""`gdtf from-manual`: a manual's text to a fixture type."""

from __future__ import annotations

import argparse
import json
from dataclasses import replace
from pathlib import Path
from typing import Any, get_args

from zarfwright.core.types.shop.bodies import grid
from zarfwright.core.types.shop.build import build
from zarfwright.core.types.shop.draft import Draft, DraftChannel, DraftMode, Kind
from zarfwright.core.types.shop.pasted import Pasted, cells_of, paste_channels
from zarfwright.core.types.shop.starters import starter
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf import write_gdtf

TEXT_MOST = 1_000_000
"""Bytes of a text: more than any manual's tables."""
KINDS = tuple(kind for kind in get_args(Kind) if kind != "as it came")


def text_of(file: str) -> str:
    """A text file's words, whatever it was written in. Raises FormatError where it cannot be read or is too long."""
    try:
        data = Path(file).read_bytes()
    except OSError as wrong:
        raise FormatError(f"{file} cannot be read ({wrong.strerror}): check its name.") from wrong
    if len(data) > TEXT_MOST:
        raise FormatError(f"{file} has more than {TEXT_MOST} bytes: take the pages with the tables only.")
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", "replace")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


def read_manual(text: str, kind: Kind, name: str, cells: int | None = None) -> Pasted:
    """A draft of a kind with all that a text says. `cells`: lenses of the body; None: as many as the text speaks of."""
    draft = replace(starter(kind, name), modes=(DraftMode("Mode 1"),), emitters=())
    count = cells or (cells_of(text) if kind != "hazer" else 1)
    if kind != "hazer":
        draft = replace(draft, body=replace(draft.body, cells=grid(1, count, 0.1)))
    return paste_channels(draft, 0, text)


def _ranges(draft: Draft, channel: DraftChannel, lines: tuple[int, ...]) -> list[dict[str, Any]]:
    wheels = {wheel.name: wheel for wheel in draft.wheels}
    return [
        {
            "start": one.start, "end": one.end, "name": one.name, "attribute": one.attribute,
            "physical": [one.low, one.high], "wheel": one.wheel,
            "slot": wheels[one.wheel].slots[one.slot - 1].name if one.wheel in wheels and one.slot else None,
            "doubt": one.doubt or None, "line": line,
        }
        for one, line in zip(channel.ranges, lines, strict=True)
    ]  # fmt: skip


def as_json(pasted: Pasted) -> dict[str, Any]:
    """What was read, with the source line of everything."""
    draft = pasted.draft
    modes = [(draft.modes[read.mode], read.lines, read.attributes) for read in pasted.modes]
    return {
        "modes": [
            {
                "name": mode.name,
                "channels": [
                    {
                        "slots": list(channel.slots), "attribute": attribute, "part": channel.part,
                        "home": channel.home, "ranges": _ranges(draft, channel, own),
                    }
                    for channel, own, attribute in zip(mode.channels, lines, attributes, strict=True)
                ],
            }
            for mode, lines, attributes in modes
        ],
        "left_over": [{"line": line, "text": words, "why": why} for line, words, why in pasted.left],
    }  # fmt: skip


def _table(pasted: Pasted) -> None:
    for mode in as_json(pasted)["modes"]:
        print(mode["name"])
        for channel in mode["channels"]:
            print(f"  {'+'.join(map(str, channel['slots'])):>7}  {channel['attribute']}  {channel['part']}")
            for one in channel["ranges"]:
                doubt = f"   ? line {one['line']}: {one['doubt']}" if one["doubt"] else ""
                print(f"           {one['start']:>6}-{one['end']:<6} {one['attribute']}  {one['name']}{doubt}")
    for line, words, why in pasted.left:
        print(f"line {line}, “{words}”: {why}.")


def from_manual(args: argparse.Namespace) -> int:
    """Read a manual's tables out of a text file."""
    pasted = read_manual(text_of(args.file), args.kind, args.name or Path(args.file).stem, args.cells)
    if not pasted.modes:
        raise FormatError(
            f"No channel was found in {args.file}: each needs its number and what it does, such as 1 Pan."
        )
    if args.out:
        Path(args.out).write_bytes(write_gdtf(build(pasted.draft)))
    if args.json:
        print(json.dumps(as_json(pasted), indent=1))
    else:
        _table(pasted)
    return 0


def add_arguments(command: argparse.ArgumentParser) -> None:
    """The options of `gdtf from-manual`."""
    command.add_argument("--kind", choices=KINDS, default="moving head")
    command.add_argument("--cells", type=_cells, help="lenses of the body; without it as many as the text speaks of")
    command.add_argument("--name", help="of the type; without it the file's")
    command.add_argument("--out", help="write it as GDTF")
    command.add_argument("--json", action="store_true")


def _cells(text: str) -> int:
    if not text.isdigit() or not 1 <= int(text) <= 1024:
        raise argparse.ArgumentTypeError("type a whole number from 1 to 1024")
    return int(text)
