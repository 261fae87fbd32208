"""What a look comes to: the looks it is made of, its links, and the picture of it alone."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.carriers.kept import kept_aims
from zarfwright.core.carriers.posed import posed, poses_told
from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.drive import value_rows, with_fixed
from zarfwright.core.errors import JobError
from zarfwright.core.looks.linked import linked
from zarfwright.core.looks.look import Look
from zarfwright.core.looks.said import NOTHING, Said, Table, Values, overlaid
from zarfwright.core.looks.sorts import LIT, SORT_OF_COLUMN, SORTS, Sort
from zarfwright.core.memo import Memo
from zarfwright.core.patch import compiled_show, fixed_of
from zarfwright.core.show import Item, Show
from zarfwright.core.space import Floats

DEEP_MOST = 8


def layers_of(show: Show, look_id: str, deep: int = 0) -> list[Look]:
    """A look with those that it is made of, the lowest first. One that is gone, or made of itself, is left out."""
    item = show.items.get(look_id)
    if item is None or not isinstance(item.body, Look) or deep > DEEP_MOST:
        return []
    below = [look for part in item.body.parts for look in layers_of(show, part, deep + 1)]
    return [*below, item.body]


def _resolved(show: Show, look_id: str) -> Said:
    layers = layers_of(show, look_id)
    # What is aimed at a point is aimed from where the look's own drivers have brought it.
    stand = posed(show, poses_told(show, overlaid(look.values for look in layers))) if layers else show
    return overlaid(linked(stand, look) for look in layers)


_resolved_memo = Memo(_resolved, 40)


def resolved(show: Show, look_id: str | None) -> Said:
    """What a look says, with all that it is made of and all that it is linked to as these are now; nothing where it is
    gone."""
    return _resolved_memo(show, look_id) if look_id is not None and look_id in show.items else NOTHING


def carriers_of(show: Show, look_id: str) -> dict[str, tuple[float, float, float, float]]:
    """Where a look has carriers, with all that it is made of."""
    return {key: place for look in layers_of(show, look_id) for key, place in look.carriers.items()}


def look_features(rig: CompiledRig, values: Values, fixed: Values | None = None) -> Floats:
    """The features of a look alone, (n, COUNT): what it does not say is at home, what is set at the lamps stays."""
    said = value_rows(rig, values)
    return with_fixed(np.where(np.isnan(said), rig.home, said), value_rows(rig, fixed or {}))


def look_frame(show: Show, look_id: str) -> NDArray[np.float32]:
    """The picture of a look alone, beams of shape (n, fields): what it does not say is at home."""
    made, said = compiled_show(show), resolved(show, look_id)
    fixed = {**fixed_of(show), **kept_aims(posed(show, poses_told(show, said)))}
    return made.beams.frame(look_features(made.rig, said, fixed))


def brightness(table: Table) -> NDArray[np.float32]:
    """How bright each row is as it is told, (n,), 0 to 1; 0 where nothing is said of that."""
    dimmer = np.nan_to_num(table.column("dimmer"), nan=0.0)
    others = (np.nan_to_num(table.column(name), nan=1.0) for name in ("master dimmer", "shutter"))
    return np.asarray(dimmer * np.prod([*others], axis=0), dtype=np.float32)


def lit(said: Said) -> set[str]:
    """The fixtures of which something gives light."""
    table = said.table
    return {*table.whose(brightness(table) > LIT)}


def covered(said: Said) -> set[str]:
    """The fixtures of which anything is said."""
    return {*said.table.fixtures}


def next_number(show: Show) -> float:
    """The number after the last look's: whole."""
    return float(math.floor(max((look.number for _, look in show.bodies(Look)), default=0)) + 1)


def in_order(show: Show) -> list[tuple[str, Look]]:
    """The looks by their numbers."""
    return sorted(((item.id, look) for item, look in show.bodies(Look)), key=lambda one: one[1].number)


def look_numbered(show: Show, number: str) -> Item:
    """The look of a number as it is typed. Raises JobError where there is none."""
    try:
        wanted = round(float(number.strip().replace(",", ".")), 3)
    except ValueError:
        wanted = math.nan
    found = [item for item, look in show.bodies(Look) if look.number == wanted]
    if not found:
        raise JobError(f"There is no look {number} in this show.")
    return found[0]


@dataclass(frozen=True)
class Facts:
    """How many fixtures a look says something of, by sort too, and how many of them give light."""

    fixtures: int
    lit: int
    sorts: dict[Sort, int]


def _facts(said: Said) -> Facts:
    table = said.table
    told = ~np.isnan(table.values)
    own = SORT_OF_COLUMN[table.features]
    sorts = {sort: len(table.whose(np.asarray(told[:, own == i].any(axis=1)))) for i, sort in enumerate(SORTS)}
    return Facts(len(table.fixtures), len(table.whose(brightness(table) > LIT)), sorts)


facts_of = Memo(_facts, 2000)
"""The facts of what is said."""
