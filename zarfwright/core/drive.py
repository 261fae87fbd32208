"""What drives a fixture: hands, else the live console, else the look being played, else home (numbers.md, DMX);
with the look before the console where the show says so."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.dmx.features import COUNT, INDEX
from zarfwright.core.looks.said import DIGITS, Said, Table
from zarfwright.core.space import Floats

HOME, LOOK, CONSOLE, HANDS = range(4)
TOLD_BY = ("home", "look", "console", "hands")


def value_rows(rig: CompiledRig, values: Mapping[str, Mapping[str, float]]) -> Floats:
    """Values by fixture (or by one of its cells, `id/3`) and feature as (n, COUNT); NaN where nothing is said."""
    rows = np.full((len(rig.keys), COUNT), np.nan)
    if not values:
        return rows
    if isinstance(values, Said):
        return _of_table(rig, values.table, rows)
    for r, (key, fixture) in enumerate(zip(rig.keys, rig.fixtures, strict=True)):
        for said in (values.get(fixture, {}), values.get(key, {}) if key != fixture else {}):
            for name, value in said.items():
                if name in INDEX:
                    rows[r, INDEX[name]] = value
    return rows


def _of_table(rig: CompiledRig, table: Table, rows: Floats) -> Floats:
    """The rows of a table, where the rig has them; what is said of a cell holds over what is said of its fixture."""
    at = {key: row for row, key in enumerate(table.keys)}
    whole = table.whole()
    for names in (rig.fixtures, rig.keys):
        found = np.array([at.get(name, -1) for name in names], dtype=np.int64)
        told = whole[found[found >= 0]]
        rows[found >= 0] = np.where(np.isnan(told), rows[found >= 0], told)
    return np.asarray(np.round(rows, DIGITS))


def with_fixed(shown: Floats, fixed: Floats) -> Floats:
    """Features (n, COUNT) with what is set at the lamps themselves; NaN of that: nothing."""
    return np.asarray(np.where(np.isnan(fixed), shown, fixed))


def settle(
    home: Floats,
    look: Floats,
    decoded: Floats,
    console: NDArray[np.bool_],
    hands: Floats | None = None,
    fixed: Floats | None = None,
    look_first: bool = False,
) -> tuple[Floats, NDArray[np.int64]]:
    """The features shown, (n, COUNT), and who drives each row (HOME, LOOK, CONSOLE, HANDS), (n,).

    `look`, `hands` and `fixed` are NaN where they say nothing (None: nowhere); `console` says for which rows the
    console is listened to; with `look_first` it is listened to only in what the look does not say. What is fixed at
    the lamp itself holds whoever drives it, but for hands that are just setting it.
    """
    # A rig that the console drives whole is the common case, and the one that has to be quick.
    if look_first:
        silent = np.isnan(look)
        shown = np.asarray(np.where(silent, np.where(console[:, None], decoded, home), look))
        said = ~silent.all(axis=1)
        driver = np.asarray(np.where(said, LOOK, np.where(console, CONSOLE, HOME)), dtype=np.int64)
    elif console.all():
        shown, driver = decoded, np.full(len(console), CONSOLE, dtype=np.int64)
    else:
        silent = np.isnan(look)
        shown = np.asarray(np.where(console[:, None], decoded, np.where(silent, home, look)))
        driver = np.asarray(np.where(console, CONSOLE, np.where(silent.all(axis=1), HOME, LOOK)), dtype=np.int64)
    if fixed is not None:
        shown = with_fixed(shown, fixed)
    if hands is not None:
        held = ~np.isnan(hands)
        shown = np.asarray(np.where(held, hands, shown))
        driver = np.asarray(np.where(held.any(axis=1), HANDS, driver), dtype=np.int64)
    return shown, driver
