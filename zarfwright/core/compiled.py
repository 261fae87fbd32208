"""A rig compiled: how it is decoded, what is constant of its beams. Worked out once for live, looks, light, lists.
The live process knows rows, no show: nothing here does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zarfwright.core.dmx.compile import CompiledRig, compile_rig
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.picture import BeamTable, beam_table

KEPT = 6


@dataclass(frozen=True, eq=False)
class Compiled:
    """A rig's fixtures in the order of the frame's rows, and what was made of them."""

    rows: tuple[PatchRow, ...]
    rig: CompiledRig
    beams: BeamTable


_kept: dict[tuple[object, ...], Compiled] = {}


def compiled(rows: Sequence[PatchRow]) -> Compiled:
    """A rig of these fixtures. The latest ones are remembered: types by which they are (what is kept holds them), the
    rest by what it says."""
    key = tuple(
        (
            row.fixture,
            id(row.type),
            row.mode,
            row.universe,
            row.address,
            row.breaks,
            row.gel,
            row.lens_deg,
            row.lamp,
            row.draws,
        )
        for row in rows
    )
    found = _kept.get(key)
    if found is None:
        found = Compiled(tuple(rows), compile_rig(rows), beam_table(rows))
        while len(_kept) >= KEPT:
            _kept.pop(next(iter(_kept), ()), None)
        _kept[key] = found
    return found
