"""Drawn sheets, kept for as long as nothing that is on them has changed."""

from __future__ import annotations

import secrets
import threading
from collections.abc import Callable

from zarfwright.core.sheet.compose import draw_sheet
from zarfwright.core.sheet.marks import Drawing
from zarfwright.core.sheet.sheet import Sheet
from zarfwright.core.show import Item, Show

MOST = 40


def on_paper(show: Show, sheet: Item) -> tuple[Item, ...]:
    """All that a sheet is drawn of: itself, and what may be on one. Things are never changed in place, so that the same
    things make the same sheet."""
    return (sheet, *(item for item in show.items.values() if item.is_a.printed))


class Sheets:
    """The sheets of the open show as they are drawn. One is drawn at a time: the others wait."""

    def __init__(self, now: Callable[[], tuple[Show, int]]) -> None:
        self._now = now
        self._lock = threading.Lock()
        self._kept: dict[str, tuple[tuple[Item, ...], Drawing, int]] = {}
        # Of another run of the program a number says nothing: a page may have been open all the while.
        self._count = secrets.randbelow(2**40)

    def drawn(self, key: str) -> Drawing:
        """A sheet as it is now. Raises JobError where it is gone."""
        return self.numbered(key)[0]

    def numbered(self, key: str) -> tuple[Drawing, int]:
        """The same with a number that is another one each time that it is drawn anew."""
        with self._lock:
            show = self._now()[0]
            item, sheet = show.thing(key, Sheet)
            made_of = on_paper(show, item)
            kept = self._kept.get(key)
            if kept is not None and len(kept[0]) == len(made_of) and all(map(_same, kept[0], made_of)):
                return kept[1], kept[2]
            drawing = draw_sheet(show, sheet)
            self._kept.pop(key, None)
            while len(self._kept) >= MOST:
                self._kept.pop(next(iter(self._kept)))
            self._count += 1
            self._kept[key] = (made_of, drawing, self._count)
            return drawing, self._count


def _same(a: Item, b: Item) -> bool:
    return a is b
