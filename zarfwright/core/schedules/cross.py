"""Totals of lists held against each other: what two of them say of the same must be the same."""

from __future__ import annotations

import math

from zarfwright.core.findings import Finding
from zarfwright.core.schedules.lists import SCHEDULES
from zarfwright.core.schedules.table import Table
from zarfwright.core.show import Show

CLOSE = 1e-6
# Two lists with what each says of the same.
PAIRS = (
    ("instruments", "fixtures", "hookup", "fixtures"),
    ("instruments", "fixtures", "focus", "fixtures"),
    ("instruments", "fixtures", "power", "fixtures"),
    ("instruments", "power_w", "power", "power_w"),
)
# What the rows of a list add up to, and the total that says so.
SUMS = (
    ("instruments", "Weight kg", "weight_kg"),
    ("instruments", "Power W", "power_w"),
    ("power", "Power W", "power_w"),
    ("weights", "Fixtures", "fixtures"),
    ("colours", "To cut", "to_cut"),
)
ROUNDED = {"weights": 0.05}
"""By how much rows may be apart from totals: those of points are rounded."""


def _sum(table: Table, title: str) -> float:
    at = table.columns.index(title)
    return math.fsum(cell for row in table.rows for cell in (row[at],) if isinstance(cell, int | float))


def at_odds(show: Show) -> list[Finding]:
    """Where two lists, or the rows and the total of one, say different things of the same."""
    tables = {
        name: SCHEDULES[name](show) for name in {one for a, _, b, _ in PAIRS for one in (a, b)} | {s[0] for s in SUMS}
    }
    found = []
    for a, of_a, b, of_b in PAIRS:
        one, other = tables[a].totals[of_a], tables[b].totals[of_b]
        if abs(one - other) > CLOSE:
            text = f"{tables[a].title} says {one:.12g} {of_a}, {tables[b].title} {other:.12g}: this is a fault of ours."
            found.append(Finding("papers", (), text, wrong=True, code="totals_at_odds"))
    for name, title, total in SUMS:
        rows, said = _sum(tables[name], title), tables[name].totals[total]
        if abs(rows - said) > ROUNDED.get(name, CLOSE):
            text = f"The rows of {tables[name].title} come to {rows:.12g} {title}, its total says {said:.12g}."
            found.append(Finding("papers", (), text, wrong=True, code="totals_at_odds"))
    return found
