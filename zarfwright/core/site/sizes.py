"""Whether a set piece can be as large as its file says, and in which unit it more likely is."""

from __future__ import annotations

METRES = {"mm": 0.001, "cm": 0.01, "in": 0.0254, "ft": 0.3048, "m": 1.0}
"""Units that set pieces are drawn in, the most usual first."""
LEAST_M, MOST_M = 0.05, 150.0
"""The greatest side of what stands on a stage: a prop, and the largest hall."""


def likely_unit(greatest: float, metres: float = 1.0) -> str | None:
    """The unit that a file is more likely in, where its greatest side (in its own units) cannot be at `metres` a unit;
    None where it can be. Of several units the first one that makes a usual set piece of it (0.5 to 60 m)."""
    if greatest <= 0 or LEAST_M <= greatest * metres <= MOST_M:
        return None
    usual = [name for name, factor in METRES.items() if 0.5 <= greatest * factor <= 60.0]
    able = [name for name, factor in METRES.items() if LEAST_M <= greatest * factor <= MOST_M]
    return next(iter(usual or able), None)
