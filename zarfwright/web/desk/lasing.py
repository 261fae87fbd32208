"""What the live process is told of lasers: what they are, and the frames of the files that they draw."""

from __future__ import annotations

import base64
from collections.abc import Callable
from typing import Any, Protocol

from zarfwright.core.lasers.figure import figures_of
from zarfwright.core.lasers.plan import Planned, sent
from zarfwright.core.lasers.planned import files_of, plan_of
from zarfwright.core.show import Show
from zarfwright.formats.findings import FormatError
from zarfwright.formats.ild import read_ild


class LiveLasers(Protocol):
    """What this needs of the live process."""

    def set_lasers(self, heads: list[dict[str, Any]], number: int) -> None: ...
    def set_laser_files(self, files: dict[str, list[str]], wanted: list[str]) -> None: ...
    def test_lasers(self, heads: list[str], alone: str | None) -> None: ...


class Lasing:
    """Keeps the live process at the lasers of the show. Used with the session's lock in hand."""

    def __init__(self) -> None:
        self.asset_of: Callable[[str], bytes | None] = lambda asset: None
        self._plan: tuple[Planned, ...] = ()
        self._number = 0
        self._files: set[str] = set()

    def tell(self, live: LiveLasers, show: Show, anew: bool = False) -> None:
        """Tell what is other than it knows; all of it where it has just started."""
        if anew:
            # It may have been at another show.
            self._files = set()
            live.test_lasers([], None)
        files = files_of(show)
        if files != self._files or anew:
            news = {asset: self._frames(asset) for asset in sorted(files - self._files)}
            live.set_laser_files(news, sorted(files))
            self._files = files
        plan = plan_of(show)
        if plan != self._plan or anew:
            self._plan = plan
            self._number += 1
            live.set_lasers(sent(plan), self._number)

    def _frames(self, asset: str) -> list[str]:
        data = self.asset_of(asset)
        if data is None:
            return []
        try:
            reel, _ = read_ild(data)
        except FormatError:
            return []
        return [base64.b64encode(one.tobytes()).decode() for one in figures_of(reel)]
