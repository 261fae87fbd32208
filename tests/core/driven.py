"""Drivers on small shows: what tests of them share."""

from __future__ import annotations

from typing import Any

import numpy as np

from tests.conftest import Workbench
from zarfwright.core.carriers.planned import plan_of
from zarfwright.core.carriers.posed import by_id
from zarfwright.core.carriers.travel import Carrying, settled
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.edits import prepare
from zarfwright.core.patch import compiled_show, patch_rows
from zarfwright.core.space import Floats, Pose
from zarfwright.core.types.model import FixtureType


class Kept:
    """Keeps the types of drivers, and knows where things have been brought."""

    def __init__(self, poses: dict[str, Pose] | None = None) -> None:
        self._poses = poses or {}

    def keep_type(self, fixture_type: FixtureType) -> str:
        return f"asset of {fixture_type.name}"

    def poses(self) -> dict[str, Pose]:
        return self._poses

    def values(self) -> dict[str, dict[str, float]]:
        return {}


def do(bench: Workbench, kind: str, around: Any = None, /, **args: Any) -> str:
    """An edit with its type kept; gives what is selected after it."""
    made = prepare(bench.show, kind, args, around or Kept())
    edit = made.on(bench.show, bench.new_id)
    show = made.files_into(bench.show)
    bench.show = show.after(edit.changes)
    return edit.select[0]


def channel(
    axis: str, low: str, home: str, high: str, speed: str = "1", quick: str = "1", bits: int = 16
) -> dict[str, Any]:
    return {"axis": axis, "low": low, "home": home, "high": high, "speed": speed, "acceleration": quick, "bits": bits}


def told(bench: Workbench, levels: dict[int, int]) -> Floats:
    """What the show's only universe of levels (slot: level) tells the rows of its rig (n, COUNT)."""
    made = compiled_show(bench.show)
    content = np.zeros((len(made.rig.universes), 512), dtype=np.uint8)
    for slot, level in levels.items():
        content[0, slot - 1] = level
    return Decoder(made.rig).decode(content)


def rows_of(bench: Workbench, rows: Floats) -> list[Floats]:
    """Those of its drivers, in the order of its plan."""
    at = {key: row for row, key in enumerate(compiled_show(bench.show).rig.fixtures)}
    return [rows[at[driver.fixture]] for group in plan_of(bench.show).groups for driver in group.drivers]


def poses(bench: Workbench, levels: dict[int, int]) -> dict[str, Pose]:
    """Where drivers bring everything under some levels, once it is there."""
    plan = plan_of(bench.show)
    return by_id(plan, settled(plan, rows_of(bench, told(bench, levels))))


def carrying(bench: Workbench) -> Carrying:
    """The drivers of a show, at rest."""
    rows = {row.fixture: row for row in patch_rows(bench.show)}
    made = compiled_show(bench.show)
    home = {key: made.rig.home[row] for row, key in enumerate(made.rig.fixtures)}
    return Carrying(plan_of(bench.show), rows, home)


def home_rows(bench: Workbench) -> Floats:
    """What drivers rest at (m, COUNT)."""
    return np.array(rows_of(bench, compiled_show(bench.show).rig.home))


def with_feature(rows: Floats, name: str, value: float) -> Floats:
    """The same rows with one feature of all."""
    rows = rows.copy()
    rows[:, INDEX[name]] = value
    return rows


def small(bench: Workbench) -> tuple[str, str]:
    """A deck on a carrier whose pivot is at (2, 3, 1): the ids of the two."""
    deck = bench.made("add deck", width="2m", depth="2m", height="1m", x="SL 2", y="US 3")
    return bench.made("make carrier", ids=[deck], name="Bridge", pivot=[2, 3, 1]), deck
