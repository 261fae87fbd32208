"""What each column of a table holds: told by its head, where there is one, and by what is in it."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from dataclasses import dataclass

from zarfwright.core.types.manual.cells import Line, blank
from zarfwright.core.types.manual.columns import in_columns
from zarfwright.core.types.manual.heads import (
    CELL,
    COUNTED,
    HEX,
    HEX_CELL,
    HIGH,
    HOME,
    INT_CELL,
    LOW,
    MODE,
    MODE_HEAD,
    NAME,
    OTHER,
    PERCENT,
    PERCENT_CELL,
    RANGE_CELL,
    SLOT,
    VALUE,
    WORDS,
    head_role,
    is_head,
    only_modes,
    slots_in,
)


@dataclass(frozen=True)
class Grid:
    """Lines whose cells stand in columns, what each column holds, and what the columns of slots are called (modes)."""

    rows: tuple[tuple[Line, tuple[str, ...]], ...]
    roles: tuple[str, ...]
    heads: tuple[str, ...]

    def places(self, role: str) -> list[int]:
        return [i for i, one in enumerate(self.roles) if one == role]


def _slot_score(cells: Sequence[str]) -> float:
    """How much a column's cells are slots in order: the share of steps by one (or to 1 again), from 1 on."""
    found = [(slots_in(cell) if not blank(cell) else None) for cell in cells]
    said = [cell for cell in cells if not blank(cell)]
    slots = [one for one in found if one]
    if (
        not slots
        or len(slots) < 0.8 * len(said)
        or slots[0][0] > 40
        or any(one[0] < 1 or one[-1] > 512 for one in slots)
    ):
        return 0.0
    steps = [b[0] - a[-1] for a, b in itertools.pairwise(slots)]
    if not steps:
        return 0.6 if slots[0][0] == 1 else 0.3
    good = sum(step == 1 or (b[0] == 1 and step < 0) for step, b in zip(steps, slots[1:], strict=True))
    rising = sum(0 < step < 40 for step in steps)
    same = sum(step == 0 for step in steps)
    # Rows that say their slot again: a column of two numbers may as well say which arm, or which half.
    again = 0.6 if len({one[0] for one in slots}) > 2 else 0.4
    return (good + 0.5 * (rising - sum(step == 1 for step in steps)) + again * same) / len(steps)


def _share(cells: Sequence[str], pattern: re.Pattern[str]) -> float:
    said = [cell for cell in cells if not blank(cell)]
    return sum(pattern.match(cell) is not None for cell in said) / len(said) if said else 0.0


def _is_percent(cells: Sequence[str], told: str | None) -> bool:
    """Whether a column is the ranges in percent: not a description that says `0-100 %` again and again."""
    if told != PERCENT and any(RANGE_CELL.match(cell) for cell in cells):
        return False
    if told not in (PERCENT, VALUE, HEX, LOW, HIGH, None) or _share(cells, PERCENT_CELL) < 0.6:
        return False
    return told is not None or len({cell.replace(" ", "") for cell in cells if PERCENT_CELL.match(cell)}) > 2


def _values(cells: Sequence[str]) -> list[int | None]:
    return [int(cell) if INT_CELL.match(cell) else None for cell in cells]


Columns = Sequence[Sequence[str]]


def _told(columns: Columns, told: Sequence[str | None], roles: list[str]) -> None:
    """Columns whose head says what they hold, where the cells agree; and those in percent."""
    for i, cells in enumerate(columns):
        if told[i] in (HOME, OTHER):
            roles[i] = str(told[i])
        elif told[i] == MODE and _slot_score(cells) < 0.6 and len(set(cells)) <= 0.5 * len(cells) + 1:
            roles[i] = MODE
        elif told[i] == HEX and _share(cells, HEX_CELL) > 0.5:
            roles[i] = HEX
        elif _is_percent(cells, told[i]) or (told[i] == PERCENT and not re.search("[A-Za-z]{3}", "".join(cells))):
            roles[i] = PERCENT


def _pairs(columns: Columns, told: Sequence[str | None], roles: list[str]) -> None:
    """Two columns of numbers beside each other, the first never more than the second, one of them at 0 somewhere."""
    for i in range(len(columns) - 1):
        if roles[i] or roles[i + 1]:
            continue
        both = list(zip(_values(columns[i]), _values(columns[i + 1]), strict=True))
        pairs = [(a, b) for a, b in both if a is not None and b is not None]
        alone = sum((a is None) != (b is None) for a, b in both)
        said = told[i] == LOW and told[i + 1] == HIGH
        if len(pairs) < 2 or alone > 0.2 * len(pairs) or not all(a <= b for a, b in pairs):
            continue
        if said or (any(a == 0 for a, _ in pairs) and any(b in (255, 65535) for _, b in pairs)):
            roles[i], roles[i + 1] = LOW, HIGH


def _held(cells: Sequence[str], told: str | None) -> str:
    """What one column holds, by its cells."""
    score = _slot_score(cells)
    # A whole range is said in percent here and there.
    plain = [cell for cell in cells if not PERCENT_CELL.match(cell)]
    if _share(plain, RANGE_CELL) >= 0.5 and score < 0.9:
        return VALUE
    if score >= (0.4 if told == SLOT else 0.6) and told not in (VALUE, LOW, HIGH):
        return SLOT
    if (
        _share(cells, HEX_CELL) >= 0.8
        and told in (HEX, None)
        and re.search("[A-Fa-fx$]", "".join(cells))
        and (told == HEX or all(len(cell) > 1 for cell in cells if not blank(cell)))
    ):
        return HEX
    if told in (VALUE, LOW) or (_share(cells, INT_CELL) > 0.6 and told is None):
        numbers = [one for one in _values(cells) if one is not None]
        return VALUE if numbers and (told or numbers[0] == 0) else ""
    return ""


def _by_content(columns: Columns, told: Sequence[str | None]) -> list[str]:
    """What columns hold, by their heads where these say it and the cells agree, else by the cells."""
    roles: list[str] = [""] * len(columns)
    _told(columns, told, roles)
    _pairs(columns, told, roles)
    return [role or _held(cells, head) for role, cells, head in zip(roles, columns, told, strict=True)]


def _words(roles: list[str], columns: Sequence[Sequence[str]], told: Sequence[str | None]) -> None:
    """Names and words for the columns that hold text."""
    texts = [i for i, role in enumerate(roles) if not role and any(re.search("[A-Za-z]", c) for c in columns[i])]
    slots = [i for i, role in enumerate(roles) if role == SLOT]
    begins = [k for k in range(len(columns[0]))
              if any(not blank(columns[i][k]) for i in slots)] if columns and slots else []  # fmt: skip
    for i in texts:
        roles[i] = WORDS
    if not texts:
        return
    # A column of words under `Channel` names channels.
    named = [i for i in texts if told[i] in (NAME, SLOT)]
    if named and (len(texts) > 1 or len(named) == 1):
        first = _beside_slots(columns, texts, begins, named[0])
    else:
        # A name stands beside a slot, and less often than what ranges do.
        first = next((i for i in texts if begins and sum(not blank(columns[i][k]) for k in begins) >= 0.7 * len(begins)),
                     texts[0])  # fmt: skip
    if len(texts) == 1 and not any(role in (SLOT,) for role in roles):
        return
    roles[first] = NAME


def _beside_slots(columns: Columns, texts: Sequence[int], begins: Sequence[int], named: int) -> int:
    """The column of names: the one whose head says so, but for one before it without a head that has words beside the
    slots alone, where `Function` stands above what the values do."""
    others = [k for k in range(len(columns[0])) if k not in begins]
    if not begins or not others:
        return named

    def filled(i: int, rows: Sequence[int]) -> float:
        return sum(not blank(columns[i][k]) for k in rows) / len(rows)

    before = (i for i in texts if i < named and filled(i, begins) >= 0.7 and filled(i, others) <= 0.2)
    return next(before, named) if filled(named, others) >= 0.8 else named


def _in_order(first: list[str], above: Sequence[Sequence[str]], slots: Sequence[int]) -> list[str]:
    """What columns are called, where a line names as many modes as there are columns of slots but stands beside them, as
    behind `Mode:`: in their order."""
    for cells in above:
        label = next((i for i, cell in enumerate(cells) if re.fullmatch(r"(?i)modes?\s*:?", cell)), None)
        named = [cell for i, cell in enumerate(cells) if i != label and not blank(cell) and MODE_HEAD.search(cell)]
        if label is not None and len(named) == len(slots) > 1:
            return [named[slots.index(i)] if i in slots else one for i, one in enumerate(first)]
    return first


_WAYS = {
    "proportional",
    "step",
    "steps",
    "linear",
    "snap",
    "fade",
    "continuous",
    "stepped",
    "htp",
    "ltp",
    "crossfade",
    "jump",
}
"""Words that only say in which way a channel is driven."""


def _axes(placed: list[tuple[Line, tuple[str, ...]]]) -> list[tuple[Line, tuple[str, ...]]]:
    """Rows in which an X is no mark, where the same column has a Y."""
    both = [i for i in range(len(placed[0][1])) if {"X", "Y"} <= {cells[i] for _, cells in placed}]
    return [
        (line, tuple(f"{cell} axis" if i in both and cell in ("X", "Y") else cell for i, cell in enumerate(cells)))
        for line, cells in placed
    ]


def grid_of(lines: Sequence[Line]) -> Grid | None:
    """Lines in columns with what each holds. None: they stand in no columns, or none of them holds slots or values."""
    placed = in_columns(lines)
    if placed is None:
        return None
    heads = [k for k, (_, cells) in enumerate(placed) if is_head(cells)]
    begin = next((k for k, (_, cells) in enumerate(placed) if any(INT_CELL.match(cell) for cell in cells)), 0)
    heads += [k for k in range(begin) if k not in heads and only_modes(placed[k][1])]
    placed = _axes(placed)
    width = len(placed[0][1])
    said = [(k, cells, sum(not blank(c) for c in cells)) for k, (_, cells) in enumerate(placed) if k not in heads]
    # Words alone in a line are a title or a note, and tell nothing of columns.
    body = [cells for _, cells, n in said if n > 1 or (n == 1 and not re.search("[A-Za-z]{3}", cells[0]))]
    if not body:
        return None
    columns = [[cells[i] for cells in body] for i in range(width)]
    above = [placed[k][1] for k in sorted(heads) if k <= begin]
    # `Standard mode` over two columns says nothing of what is in them.
    saying = [cells for cells in above if not only_modes(cells)] or above
    told = [next((role for cells in saying if (role := head_role(cells[i]))), None) for i in range(width)]
    # What a column is called: by a mode's name rather than by a word that many tables have.
    first = [
        next(
            (c[i] for c in above if not blank(c[i]) and head_role(c[i]) is None),
            next((c[i] for c in above if c[i]), ""),
        )
        for i in range(width)
    ]
    roles = _by_content(columns, told)
    for i, cells in enumerate(columns):
        ways = {cell.strip(" .").lower() for cell in cells if not blank(cell)}
        if ways and ways <= _WAYS:
            roles[i] = OTHER
    for i, called in enumerate(first):
        if COUNTED.match(called) and roles[i] != SLOT and _share(columns[i], INT_CELL) >= 0.5:
            roles[i] = CELL
    first = _in_order(first, above, [i for i, role in enumerate(roles) if role == SLOT])
    slots = [i for i, role in enumerate(roles) if role == SLOT]
    if len(slots) == 1 and told[slots[0]] == SLOT and not MODE_HEAD.search(first[slots[0]]):
        # `DMX` above `CH` is a head of two lines.
        first[slots[0]] = ""
    _words(roles, columns, told)
    roles = [role or OTHER for role in roles]
    if not any(role in (SLOT, LOW, VALUE, HEX, PERCENT) for role in roles):
        return None
    if not any(role in (NAME, WORDS) for role in roles):
        return None
    rows = tuple((line, cells) for k, (line, cells) in enumerate(placed) if k not in heads)
    return Grid(rows, tuple(roles), tuple(first))


def _names_of_modes(grid: Grid, slots: Sequence[int]) -> list[Grid]:
    """A column of slots with a column of names for each mode: a table for each; the one grid where it is none."""
    texts = [i for i, role in enumerate(grid.roles) if role in (NAME, WORDS)]
    named = [i for i in texts if MODE_HEAD.search(grid.heads[i]) and head_role(grid.heads[i]) is None]
    if not slots or len(named) < 2:
        return [grid]
    made = []
    for i in named:
        kept = [k for k in range(len(grid.roles)) if k == i or k not in named]
        roles = tuple(NAME if k == i else WORDS if grid.roles[k] == NAME else grid.roles[k] for k in kept)
        rows, there = [], False
        for line, cells in grid.rows:
            # A row without a slot goes on with the channel before it, where this mode has that.
            there = not blank(cells[i]) if not blank(cells[slots[0]]) else there
            if there:
                rows.append((line, tuple(cells[k] for k in kept)))
        head = tuple(grid.heads[i] if grid.roles[k] == SLOT else "" for k in kept)
        made.append(Grid(tuple(rows), roles, head))
    return made


def side_by_side(grid: Grid) -> list[Grid]:
    """Tables that stand beside each other, each with slots and words of its own; the one grid where they do not."""
    slots = grid.places(SLOT)
    if len(slots) < 2:
        return _names_of_modes(grid, slots)
    edges = [*slots[1:], len(grid.roles)]
    groups = [range(a, b) for a, b in zip(slots, edges, strict=True)]
    texts = [[i for i in group if grid.roles[i] in (NAME, WORDS)] for group in groups]
    if not all(texts) or min(slots) != 0:
        return [grid]
    made = []
    for group, own in zip(groups, texts, strict=True):
        rows = tuple((line, tuple(cells[i] for i in group)) for line, cells in grid.rows)
        rows = tuple((line, cells) for line, cells in rows if any(not blank(cell) for cell in cells))
        roles = tuple(NAME if i == own[0] else WORDS if i in own else grid.roles[i] for i in group)
        head = " ".join(grid.heads[i] for i in group if grid.heads and head_role(grid.heads[i]) is None)
        made.append(Grid(rows, roles, (head, *("" for _ in roles[1:]))))
    return made
