"""Tables of values that stand behind a list of channels, each under a channel's name."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from zarfwright.core.types.manual.blocks import Block
from zarfwright.core.types.manual.numbers import cleaned

_NAME = re.compile(r"^\W*([A-Za-z][A-Za-z /.-]{2,30}?(?: [1-4])?)\s*:?\s*$")
_ROW = re.compile(r"^[\s|•*-]*\d{1,3}\s*(?:-|to|\.\.+)\s*\d{1,3}\b[\s:=|]*[A-Za-z0-9]")
_LISTED = 3
"""Channels that a list has at least, before a table behind it is looked for."""


@dataclass(frozen=True)
class Appended:
    """A table behind the list: the name above it with its line, and its rows with theirs."""

    name: str
    line: int
    rows: tuple[tuple[int, str], ...]


def _is_listed(name: str, before: Sequence[str]) -> bool:
    """Whether a line has this name and a slot beside it."""
    return any(re.search(rf"(?i)(?<![A-Za-z]){re.escape(name)}(?![A-Za-z])", line) and re.search(r"\d", line)
               for line in before)  # fmt: skip


def taken_apart(text: str) -> tuple[str, list[Appended]]:
    """A text without the tables behind its list (their lines are empty, so that the others keep their numbers), and these."""
    lines = text.splitlines()
    found: list[Appended] = []
    k = 0
    while k < len(lines):
        named = _NAME.match(lines[k]) if len(lines[k]) < 60 else None
        rows: list[tuple[int, str]] = []
        if named and k >= _LISTED and _is_listed(named[1], lines[:k]):
            j = k + 1
            while j < len(lines) and (_ROW.match(cleaned(lines[j])) or (not lines[j].strip() and not rows)):
                rows += [(j + 1, lines[j])] if lines[j].strip() else []
                j += 1
        if named and len(rows) >= 2:
            found.append(Appended(named[1], k + 1, tuple(rows)))
            k = rows[-1][0]
        else:
            k += 1
    gone = {number for one in found for number, _ in one.rows} | {one.line for one in found}
    return "\n".join("" if n in gone else line for n, line in enumerate(lines, 1)), found


def given_back(blocks: Sequence[Block], found: Sequence[Appended]) -> list[tuple[int, str, str]]:
    """Gives each table to the channels of its name that have none; what nobody took, with why."""
    left = []
    for one in found:
        name = one.name.casefold()
        takers = [b for b in blocks if not b.rows and not b.lines and b.name.casefold().strip(" :") == name]
        takers = takers or [b for b in blocks if not b.rows and not b.lines and b.name.casefold().startswith(name)]
        for block in takers:
            block.lines += one.rows
        if not takers:
            left += [(n, row.strip(), f"no channel called “{one.name}” waits for it") for n, row in one.rows]
    return left
