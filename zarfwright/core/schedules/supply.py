"""Distribution points: where cables begin."""

from __future__ import annotations

from dataclasses import dataclass

from zarfwright.core.space import Vec


@dataclass(frozen=True)
class Supply:
    """A distribution point."""

    name: str
    position: Vec = (0.0, 0.0, 0.0)
