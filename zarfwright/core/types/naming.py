"""Names that nothing else has."""

from __future__ import annotations

from collections.abc import Container


def unlike(wanted: str, taken: Container[str]) -> str:
    """A name that is not taken: as it is wanted, else with the first number from 2 on that is free."""
    name, n = wanted, 2
    while name in taken:
        name, n = f"{wanted} {n}", n + 1
    return name
