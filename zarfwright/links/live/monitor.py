"""What is told to those who watch the levels: all universes as strips, what moved lately, and who wins each slot of
the universe that is watched. Worked out only while somebody watches."""

from __future__ import annotations

import base64
from collections.abc import Iterable
from typing import Any

import numpy as np
import orjson

from zarfwright.core.dmx.merge import SILENT
from zarfwright.core.dmx.moved import USUAL_S, Moves
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.inputs import merged
from zarfwright.links.sources import SLOTS, Source


class Monitor:
    """Looks for all who watch together: what moved before any of them began, or began anew, is usual."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self._moves: Moves | None = None

    def begin_anew(self) -> None:
        """Look again for what moves, from now on."""
        self._moves = None

    def look(self, watched: Iterable[int | None], now: float) -> dict[int | None, str]:
        """What is to be told now, by the universe that is watched (None: none)."""
        self.engine.take_in()
        with self.engine.lock:
            levels = dict(self.engine.levels)
            heard = {one: self.engine.inputs.sources(one) for one in watched if one is not None}
            won = {one: (sources, _winners(sources, levels.get(one))) for one, sources in heard.items()}
        if self._moves is None:
            self._moves = Moves(now)
        moves = self._moves
        moves.take({one: np.frombuffer(held, dtype=np.uint8) for one, held in levels.items()}, now)
        universes, strips = moves.strips(now)
        common = {
            "event": "monitor",
            "universes": universes,
            "strips": base64.b64encode(strips.tobytes()).decode(),
            "moved": [[one.universe, one.slot, round(one.ago_s, 2), one.low, one.high] for one in moves.lately(now)],
            "usual": moves.usual(),
            "settling": now - moves.began < USUAL_S,
            "began": moves.began,
        }
        nobody: tuple[list[Source], list[tuple[int, int]]] = ([], [])
        return {
            one: orjson.dumps({**common, "universe": one, **_told(*(won[one] if one else nobody))}).decode()
            for one in watched
        }


def _winners(heard: list[Source], levels: bytes | None) -> list[tuple[int, int]]:
    """Who wins, stretch by stretch: (last slot, place among the sources or SILENT)."""
    if not heard:
        return [(SLOTS, SILENT)]
    if len(heard) == 1 and not heard[0].priorities:
        return [(SLOTS, 0)]
    _, winner = merged(heard, levels)
    ends = [*(np.flatnonzero(np.diff(winner)) + 1).tolist(), SLOTS]
    return [(end, int(winner[end - 1])) for end in ends]


def _told(heard: list[Source], winners: list[tuple[int, int]]) -> dict[str, Any]:
    return {
        "sources": [
            {
                "name": one.name, "address": one.address, "protocol": one.protocol, "priority": one.priority,
                "by_slot": bool(one.priorities),
            }
            for one in heard
        ],
        "winners": winners,
    }  # fmt: skip
