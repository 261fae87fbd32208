"""Looks as a list: a row for each function of each fixture, out and in again; and running orders as a list."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from zarfwright.core.dmx.features import FEATURES, INDEX
from zarfwright.core.dmx.rows import beam_keys
from zarfwright.core.errors import JobError
from zarfwright.core.looks.look import Look, number_text
from zarfwright.core.looks.shown import facts_of, in_order, resolved
from zarfwright.core.playback.order import Order, starts_of
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.types.chain import chains_of

LOOK_COLUMNS = ("Look", "Name", "Note", "Fixture", "Cell", "Function", "Level", "Unit")
ORDER_COLUMNS = (
    "Order", "Step", "Look", "Name", "Begins", "Fade in", "Fade out", "Delay", "Hold", "Then", "Own times", "Lit",
    "Note",
)  # fmt: skip
TOLD_MOST = 20
UNITS = {"rad": ("°", 180 / math.pi), "rad/s": ("°/s", 180 / math.pi), "deg": ("°", 1.0), "share": ("", 1.0)}


def _unit(feature: str) -> tuple[str, float]:
    """The unit that a feature is listed in, and the factor to it."""
    own = FEATURES[INDEX[feature]].unit
    return UNITS.get(own, (own, 1.0))


def look_rows(show: Show, looks: Sequence[str] = ()) -> Iterator[tuple[str, ...]]:
    """What looks say, with all that they are made of; of some, or of all by their numbers."""
    numbers = {item.id: fixture.number for item, fixture in show.fixtures()}
    doubled = {number for number, times in Counter(numbers.values()).items() if times > 1}
    for key, look in in_order(show):
        if looks and key not in looks:
            continue
        for row, said in resolved(show, key).items():
            fixture, _, cell = row.partition("/")
            number = numbers.get(fixture)
            name = str(number) if number is not None and number not in doubled else fixture
            for feature, value in said.items():
                unit, factor = _unit(feature)
                level = f"{value * factor:.6g}"
                yield number_text(look.number), look.name, look.note, name, cell, feature, level, unit


def order_rows(show: Show, order: Order) -> list[tuple[str | float | int, ...]]:
    """A running order step by step; times in seconds."""
    starts = starts_of(order.steps)
    rows: list[tuple[str | float | int, ...]] = []
    for i, step in enumerate(order.steps):
        item = show.items.get(step.look)
        look = item.body if item is not None and isinstance(item.body, Look) else None
        out = step.fade_in_s if step.fade_out_s is None else step.fade_out_s
        own = ", ".join(f"{sort} {fade:g} after {delay:g}" for sort, (delay, fade) in step.times.items())
        rows.append((
            order.name, i + 1, number_text(look.number) if look else "", look.name if look else "gone",
            round(float(starts[i]), 2), step.fade_in_s, out, step.delay_s, step.hold_s,
            "follows" if step.follows else "waits", own, facts_of(resolved(show, step.look)).lit, step.note,
        ))  # fmt: skip
    return rows


@dataclass(frozen=True)
class ListedLook:
    """A look as a list tells it: values by fixture or cell and feature; name and note empty where it tells none."""

    number: float
    name: str
    note: str
    values: dict[str, dict[str, float]]


@dataclass(frozen=True)
class ListedLooks:
    """The looks of a list, and what of it is none, in words."""

    looks: tuple[ListedLook, ...]
    left_out: tuple[str, ...]


def read_looks(show: Show, headings: Sequence[str], rows: Sequence[Sequence[str]]) -> ListedLooks:
    """Read a list of looks back. Raises JobError where it is none, or holds none."""
    places = {name: i for i, name in enumerate(headings)}
    lacking = [name for name in ("Look", "Fixture", "Function", "Level") if name not in places]
    if lacking:
        raise JobError(f"This is no list of looks: the column {lacking[0]} is missing. Save looks to see how one is.")
    reader = _Reader(show, places)
    for n, row in enumerate(rows, 2):
        reader.read(n, row)
    if not reader.looks:
        first = f" {reader.left[0]}" if reader.left else ""
        raise JobError(f"No look of this list can be taken.{first}")
    left = reader.left
    if len(left) > TOLD_MOST:
        left = [*left[:TOLD_MOST], f"The same goes for {len(left) - TOLD_MOST} more rows."]
    return ListedLooks(tuple(reader.looks[number] for number in sorted(reader.looks)), tuple(left))


class _Reader:
    """Row by row, what belongs together by the look's number."""

    def __init__(self, show: Show, places: Mapping[str, int]) -> None:
        self.places = places
        self.looks: dict[float, ListedLook] = {}
        self.left: list[str] = []
        self._fixtures: dict[str, tuple[str, Fixture]] = {}
        for item, fixture in show.fixtures():
            self._fixtures[item.id] = (item.id, fixture)
            if fixture.number is not None:
                self._fixtures.setdefault(str(fixture.number), (item.id, fixture))
        self._show = show

    def _cell(self, row: Sequence[str], column: str) -> str:
        place = self.places.get(column)
        return row[place].strip() if place is not None and place < len(row) else ""

    def read(self, n: int, row: Sequence[str]) -> None:
        """Take a row in, or say why not."""
        try:
            number = round(float(self._cell(row, "Look").replace(",", ".")), 3)
            level = float(self._cell(row, "Level").replace(",", "."))
        except ValueError:
            self.left.append(f"Row {n}: “{self._cell(row, 'Look')}” or “{self._cell(row, 'Level')}” is no number.")
            return
        feature = self._cell(row, "Function")
        known = self._fixtures.get(self._cell(row, "Fixture"))
        if known is None:
            self.left.append(f"Row {n}: there is no fixture {self._cell(row, 'Fixture')} in this show.")
        elif feature not in INDEX:
            self.left.append(f"Row {n}: “{feature}” is nothing that a fixture does.")
        elif not math.isfinite(level) or not 0 < number < 100_000:
            self.left.append(f"Row {n}: its number or level cannot be.")
        else:
            self._keep(n, number, row, known, feature, level / _unit(feature)[1])

    def _keep(
        self, n: int, number: float, row: Sequence[str], known: tuple[str, Fixture], feature: str, value: float
    ) -> None:
        key, fixture = known
        count = len(chains_of(self._show.type_of(fixture), fixture.mode)) if fixture.type in self._show.types else 1
        keys, cell = beam_keys(key, count), self._cell(row, "Cell")
        if cell:
            keys = [one for one in keys if one == f"{key}/{cell}"]
        if not keys:
            self.left.append(f"Row {n}: fixture {self._cell(row, 'Fixture')} has no cell {cell}.")
            return
        look = self.looks.get(number)
        if look is None:
            name = self._cell(row, "Name")[:200]
            look = self.looks[number] = ListedLook(number, name, self._cell(row, "Note"), {})
        for one in keys:
            look.values.setdefault(one, {})[feature] = round(value, 6)
