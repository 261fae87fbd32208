"""New fixtures out of a list of rows of text: type, mode, number and place; and such a list of the show's own."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from zarfwright.core.errors import JobError
from zarfwright.core.exchange.matching import Wanted, matches, modes_for, sizes_of
from zarfwright.core.exchange.scene import FoundType
from zarfwright.core.patch import Place, parse_place
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.space import to_matrix
from zarfwright.core.types.model import FixtureType
from zarfwright.core.units import parse_typed

COLUMNS = (
    "Number", "Unit", "Type", "Maker", "Mode", "Universe", "Address", "x", "y", "z", "Turn x", "Turn y", "Turn z",
    "Position", "Purpose", "Note",
)  # fmt: skip
"""Of our own list: metres, and the turns about the fixed axes X, Y and Z in degrees, X first."""
NAMES: dict[str, tuple[str, ...]] = {
    "number": ("number", "no", "nr", "channel", "chan", "fixture", "fixture number", "fixture id", "id", "fid"),
    "unit": ("unit", "unit number", "unit no"),
    "type": ("type", "fixture type", "instrument", "instrument type", "model", "device"),
    "maker": ("maker", "manufacturer", "make", "brand"),
    "mode": ("mode", "dmx mode", "fixture mode", "personality"),
    "place": ("patch", "dmx", "dmx address", "universe.address", "start address"),
    "universe": ("universe", "uni", "univ"),
    "address": ("address", "addr", "slot", "start"),
    "x": ("x", "x m", "pos x", "position x", "x position", "from centre", "from center"),
    "y": ("y", "y m", "pos y", "position y", "y position", "from setting line", "depth"),
    "z": ("z", "z m", "pos z", "position z", "z position", "height", "trim"),
    "rx": ("turn x", "rot x", "rotation x", "x rotation"),
    "ry": ("turn y", "rot y", "rotation y", "y rotation"),
    "rz": ("turn z", "rot z", "rotation z", "z rotation", "turn"),
    "position": ("position", "hanging position", "on", "truss"),
    "purpose": ("purpose", "for", "function", "focus", "use"),
    "note": ("note", "notes", "comment", "remark"),
}  # fmt: skip


@dataclass(frozen=True)
class Row:
    """One new fixture: its type as a choice (`show:ID` or `library:GUID`), and its place in metres."""

    type: str
    mode: str
    number: int | None
    unit: int | None
    position: tuple[float, float, float]
    turn_deg: tuple[float, float, float]
    start: str
    purpose: str
    note: str


@dataclass(frozen=True)
class Listing:
    """What a list holds, which column says what, what its types come to, and the rows that are no fixtures."""

    rows: tuple[Row, ...]
    columns: Mapping[str, int]
    types: tuple[tuple[str, str, str, int], ...]
    """The type in the list, what it comes to, why, and how many rows."""
    left_out: tuple[str, ...]


def columns_of(headings: Sequence[str]) -> dict[str, int]:
    """Which column says what, by the headings; a unit in brackets is passed over."""
    plain = [
        re.sub(r"[\s_\-:#]+", " ", re.sub(r"[\(\[].*?[\)\]]", "", one).strip().casefold()).strip() for one in headings
    ]
    found: dict[str, int] = {}
    for field, names in NAMES.items():
        for name in names:
            at = next((i for i, heading in enumerate(plain) if heading == name and i not in found.values()), None)
            if at is not None:
                found[field] = at
                break
    return found


def read_listing(
    show: Show, headings: Sequence[str], rows: Sequence[Sequence[str]], shipped: Mapping[str, FixtureType]
) -> Listing:
    """What a list says of new fixtures. Raises JobError where no column says their types."""
    columns = columns_of(headings)
    if "type" not in columns:
        raise JobError("No column of this list is called “Type”: without types there is nothing to hang.", "type")
    reader = _Reader(show, columns, shipped)
    read = [made for n, row in enumerate(rows, 1) if any(cell.strip() for cell in row) and (made := reader.row(n, row))]
    types = tuple((name, match[0], match[1], reader.counts[name]) for name, match in reader.said.items())
    return Listing(tuple(read), columns, types, tuple(reader.left))


class _Reader:
    def __init__(self, show: Show, columns: Mapping[str, int], shipped: Mapping[str, FixtureType]) -> None:
        self.show, self.columns, self.shipped = show, columns, shipped
        self.left: list[str] = []
        self.counts: dict[str, int] = {}
        self.said: dict[str, tuple[str, str]] = {}

    def row(self, n: int, row: Sequence[str]) -> Row | None:
        def cell(field: str) -> str:
            at = self.columns.get(field)
            return row[at].strip() if at is not None and at < len(row) else ""

        name = cell("type")
        if not name:
            self.left.append(f"Row {n}: it names no type.")
            return None
        try:
            choice, mode = self.type(cell("maker"), name, cell("mode"))
            number = self.count(cell("number"), "number")
            place = (self.length(cell("x"), "x"), self.length(cell("y"), "y"), self.length(cell("z"), "z"))
            turns = (self.angle(cell("rx")), self.angle(cell("ry")), self.angle(cell("rz")))
            start = self.start(cell("universe"), cell("address"), cell("place"))
            unit = self.count(cell("unit"), "unit")
        except JobError as wrong:
            self.left.append(f"Row {n}: {wrong}")
            return None
        return Row(choice, mode, number, unit, place, turns, start, cell("purpose"), cell("note"))

    def type(self, maker: str, name: str, mode: str) -> tuple[str, str]:
        """The choice of a type, and the mode. Raises JobError where nothing here is like it."""
        wanted = Wanted(FoundType(name, name, maker), (mode,) if mode else (), 1)
        best = next((one for one in matches(self.show, wanted, None, self.shipped) if one.source != "plain"), None)
        if best is None:
            raise JobError(f"nothing in the show or the library is like “{name[:40]}”: add its GDTF first.")
        self.said[name] = (best.name, best.reason)
        self.counts[name] = self.counts.get(name, 0) + 1
        fixture_type = self.show.types[best.key] if best.source == "show" else self.shipped[best.key]
        sizes = sizes_of(fixture_type)
        return best.choice, modes_for(wanted, sizes)[mode] if mode else next(iter(sizes))

    def count(self, text: str, what: str) -> int | None:
        if not text:
            return None
        match = re.fullmatch(r"(\d{1,5})(?:\.0*)?", text)
        if match is None:
            raise JobError(f"“{text[:30]}” is no {what}.")
        return int(match[1]) or None

    def length(self, text: str, axis: str) -> float:
        if not text:
            return 0.0
        return parse_typed("=" + text if text[:1] in "+-" else text, "length", self.show.settings.system, axis).first

    def angle(self, text: str) -> float:
        return parse_typed(f"={text}", "angle").first if text else 0.0

    def start(self, universe: str, address: str, whole: str) -> str:
        if universe and address:
            return str(parse_place(f"{universe}.{address}"))
        text = whole or address
        return str(parse_place(text)) if text and text != "0" else ""


def turns_of(rotation: Sequence[float]) -> tuple[float, float, float]:
    """A turn as angles about the fixed axes, X first, then Y, then Z, in degrees."""
    m = to_matrix(list(rotation))
    y = math.asin(min(max(-m[2, 0], -1.0), 1.0))
    if abs(math.cos(y)) > 1e-9:
        x, z = math.atan2(m[2, 1], m[2, 2]), math.atan2(m[1, 0], m[0, 0])
    else:
        x, z = math.atan2(-m[1, 2], m[1, 1]), 0.0
    return math.degrees(x), math.degrees(y), math.degrees(z)


def listing(show: Show) -> list[tuple[str, ...]]:
    """One row for each fixture, by number, as `read_listing` reads it."""
    rows = []
    fixtures = [(item, f) for item, f in show.fixtures() if f.type in show.types]
    for _, fixture in sorted(fixtures, key=lambda pair: (pair[1].number is None, pair[1].number or 0)):
        clamp, fixture_type = clamp_placement(show, fixture), show.types[fixture.type]
        rows.append(
            (
                _said(fixture.number), _said(fixture.unit), fixture_type.name, fixture_type.maker, fixture.mode,
                _said(fixture.universe), _said(fixture.address),
                *(f"{part:.4f}m" for part in clamp.position), *(f"{turn:.4f}" for turn in turns_of(clamp.rotation)),
                _hangs(show, fixture), fixture.purpose, fixture.note,
            )
        )  # fmt: skip
    return rows


def _said(value: int | None) -> str:
    return "" if value is None else str(value)


def _hangs(show: Show, fixture: Fixture) -> str:
    item = show.items.get(fixture.hang.structure) if fixture.hang is not None else None
    return item.name if item is not None else ""


def place_of_start(text: str) -> Place | None:
    """The address of a row; none where it is empty."""
    return parse_place(text) if text.strip() else None
