"""Tables of values that stand behind a list of channels, each under a channel's name."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from zarfwright.core.types.manual.blocks import Block
from zarfwright.core.types.manual.numbers import LINE_MOST, cleaned

_NAME = re.compile(r"^\W*([A-Za-z][A-Za-z /.-]{2,30}?(?: [1-4])?)\s*:?\s*$")
_ROW = re.compile(r"^[\s|•*-]*\d{1,3}\s*(?:-|to|\.\.+)\s*\d{1,3}\b[\s:=|]*[A-Za-z0-9]")
_NAME_MOST = 60
"""Letters of a line that is a name."""


@dataclass(frozen=True)
class Appended:
    """A table behind the list: the name above it with its line, and its rows with theirs."""

    name: str
    line: int
    rows: tuple[tuple[int, str], ...]


class _Listed:
    """The lines that have a number, in which a name is looked for."""

    def __init__(self, lines: Sequence[str]) -> None:
        said = [line.lower() if re.search(r"\d", line) else "" for line in lines]
        self._text = "\n".join(said)
        self._starts = [0]
        for line in said:
            self._starts.append(self._starts[-1] + len(line) + 1)

    def before(self, line: int, name: str) -> bool:
        """Whether a line before that one (from 0) has this name, whole."""
        sought, end = name.lower(), self._starts[line]
        at = self._text.find(sought, 0, end)
        while at >= 0:
            around = self._text[max(at - 1, 0) : at] + self._text[at + len(sought) : at + len(sought) + 1]
            if not re.search("[a-z]", around):
                return True
            at = self._text.find(sought, at + 1, end)
        return False


def _rows_from(lines: Sequence[str], start: int) -> list[tuple[int, str]]:
    """The rows of a table that begins at a line (from 0), blank lines before it left out; with their numbers."""
    rows: list[tuple[int, str]] = []
    for number, line in enumerate(lines[start:], start + 1):
        if not line.strip() and not rows:
            continue
        if len(line) > LINE_MOST or not _ROW.match(cleaned(line)):
            break
        rows.append((number, line))
    return rows


def taken_apart(text: str) -> tuple[str, list[Appended]]:
    """A text without the tables behind its list (their lines are empty, so that the others keep their numbers), and these."""
    lines = text.splitlines()
    listed = _Listed(lines)
    found: list[Appended] = []
    k = 0
    while k < len(lines):
        named = _NAME.match(lines[k]) if len(lines[k]) < _NAME_MOST else None
        rows = _rows_from(lines, k + 1) if named and listed.before(k, named[1]) else []
        if named and len(rows) >= 2:
            found.append(Appended(named[1], k + 1, tuple(rows)))
            k = rows[-1][0]
        else:
            k += 1
    gone = {number for one in found for number, _ in one.rows} | {one.line for one in found}
    return "\n".join("" if n in gone else line for n, line in enumerate(lines, 1)), found


def _takers(blocks: Sequence[Block], name: str) -> list[Block]:
    """The channels without a table that a name means: those called so, or begun so where that is one (in each mode)."""
    waiting = [block for block in blocks if not block.rows and not block.lines]
    called = [block for block in waiting if block.name.casefold().strip(" :") == name]
    begun = [block for block in waiting if block.name.casefold().startswith(name)]
    return called or (begun if len({block.name.casefold() for block in begun}) == 1 else [])


def given_back(blocks: Sequence[Block], found: Sequence[Appended]) -> list[tuple[int, str, str]]:
    """Gives each table to the channels of its name that have none; what nobody took, with why."""
    left = []
    for one in found:
        takers = _takers(blocks, one.name.casefold())
        for block in takers:
            block.lines += one.rows
        if not takers:
            left += [(n, row.strip(), f"it is not clear which channel “{one.name}” is") for n, row in one.rows]
    return left
