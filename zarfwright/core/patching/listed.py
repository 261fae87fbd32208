"""A patch list of rows of text: which column says what, and what each row says."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from zarfwright.core.errors import JobError
from zarfwright.core.patch import Place, parse_place
from zarfwright.core.patching.racks import DIMMER_MOST

FIELDS = ("number", "type", "mode", "place", "universe", "address", "footprint", "circuit", "dimmer")
"""What a column can say; `place` is universe and slot in one, such as 2.058."""
NAMES: dict[str, tuple[str, ...]] = {
    "number": (
        "number", "no", "nr", "num", "channel", "chan", "chn", "ch", "fixture", "fixture number", "fixture no",
        "fixture id", "fixtureid", "fid", "id", "unit number", "user number",
    ),
    "type": ("type", "fixture type", "fixturetype", "instrument", "instrument type", "model", "personality", "device"),
    "mode": ("mode", "dmx mode", "fixture mode", "profile", "mode name"),
    "place": (
        "place", "patch", "dmx", "dmx patch", "dmx address", "universe.address", "u.a", "start address", "full address",
    ),
    "universe": ("universe", "univ", "uni", "u", "dmx universe", "port", "stream"),
    "address": ("address", "addr", "start", "start channel", "slot", "dmx start", "dmx channel", "a"),
    "circuit": ("circuit", "circuit number", "circuit no", "circ", "ckt"),
    "dimmer": ("dimmer", "dimmer number", "dimmer no", "dim"),
    "footprint": ("footprint", "slots", "channels", "channel count", "dmx channels", "size", "width", "count"),
}  # fmt: skip

NONE = ("", "-", "–", "0", "none")
"""What stands in a cell that says nothing."""


@dataclass(frozen=True)
class Listed:
    """What a list says of one fixture; `row` is counted from 1 below the heading. `placed`: whether the list says where
    fixtures are; no place then says that one is nowhere."""

    row: int
    number: int
    type: str
    mode: str
    place: Place | None
    footprint: int | None = None
    circuit: str = ""
    dimmer: int | None = None
    placed: bool = True


@dataclass(frozen=True)
class ListRead:
    """What could be read of a list, and the rows that could not, in words."""

    rows: tuple[Listed, ...]
    left_out: tuple[str, ...]


def _plain(heading: str) -> str:
    return re.sub(r"[\s_\-:#]+", " ", heading.strip().casefold()).strip()


def columns_of(headings: Sequence[str]) -> dict[str, int]:
    """Which column says what, guessed by the headings: the first that is called so. A column says one thing."""
    found: dict[str, int] = {}
    plain = [_plain(heading) for heading in headings]
    for field in FIELDS:
        for name in NAMES[field]:
            at = next((i for i, heading in enumerate(plain) if heading == name and i not in found.values()), None)
            if at is not None:
                found[field] = at
                break
    # An address beside a universe is a slot of it, whatever it is called.
    if "universe" in found and "address" not in found and "place" in found:
        found["address"] = found.pop("place")
    return found


def _count(text: str) -> int | None:
    match = re.fullmatch(r"\s*(\d{1,6})(?:\.0*)?\s*", text)
    return int(match[1]) if match else None


def _place(row: Sequence[str], columns: Mapping[str, int]) -> Place | None:
    """Where a row says that it is; None where it says nothing. Raises JobError for what is no address."""

    def cell(field: str) -> str:
        at = columns.get(field)
        return row[at].strip() if at is not None and at < len(row) else ""

    if cell("universe") and cell("address"):
        return parse_place(
            f"{_count(cell('universe')) or cell('universe')}.{_count(cell('address')) or cell('address')}"
        )
    whole = cell("place") or cell("address")
    if whole in NONE:
        return None
    spoken = re.sub(r"[:\-\s]+", ".", whole.strip())
    flat = _count(spoken) if "." not in spoken else None
    if flat is not None and flat > 512:
        # One number for all universes: 513 is the first slot of the second.
        return Place((flat - 1) // 512 + 1, (flat - 1) % 512 + 1)
    return parse_place(spoken)


def read_list(rows: Sequence[Sequence[str]], columns: Mapping[str, int]) -> ListRead:
    """What rows of text say. Raises JobError where no column says the numbers, or none says where fixtures are or
    what they are plugged to."""
    if "number" not in columns:
        raise JobError("No column holds the numbers of fixtures: say which one does.", "number")
    placed = bool({"place", "address"} & columns.keys())
    if not placed and not {"circuit", "dimmer"} & columns.keys():
        raise JobError("No column holds addresses: say which one does.", "address")
    read, left = [], []
    for n, row in enumerate(rows, 1):
        text = row[columns["number"]] if columns["number"] < len(row) else ""
        number = _count(text)
        if not any(cell.strip() for cell in row):
            continue
        if number is None:
            left.append(f"Row {n}: “{text[:30]}” is not a number of a fixture.")
            continue
        try:
            place = _place(row, columns)
        except JobError as wrong:
            left.append(f"Row {n}, fixture {number}: {wrong}")
            continue

        def said(field: str, row: Sequence[str] = row) -> str:
            at = columns.get(field)
            return row[at].strip() if at is not None and at < len(row) else ""

        dimmer = _count(said("dimmer")) or None
        dimmer = dimmer if dimmer is not None and dimmer <= DIMMER_MOST else None
        if dimmer is None and said("dimmer") not in NONE:
            left.append(f"Row {n}, fixture {number}: “{said('dimmer')[:30]}” is not a number of a dimmer.")
        size, circuit = _count(said("footprint")), said("circuit")
        read.append(Listed(n, number, said("type"), said("mode"), place, size, circuit, dimmer, placed))
    return ListRead(tuple(read), tuple(left))
