"""The rig's light as it is now: from what every beam is told, to beams in the show for photometry."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from zarfwright.core.dmx.compile import CompiledRig, compile_rig
from zarfwright.core.drive import value_rows
from zarfwright.core.optics.gate import Mask
from zarfwright.core.optics.photometry import Beams, beams_in_show
from zarfwright.core.optics.web import Web
from zarfwright.core.patch import patch_rows
from zarfwright.core.picture import BeamTable, beam_table
from zarfwright.core.raycast import Caster
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.scene import solids
from zarfwright.core.show import Item, Show
from zarfwright.core.space import Placement
from zarfwright.core.types.chain import Chain, chains_of


@dataclass(frozen=True, eq=False)
class Rig:
    """What a show's beams are made of; made once for each state of its fixtures."""

    rig: CompiledRig
    table: BeamTable
    chains: tuple[Chain, ...]
    mounts: tuple[Placement, ...]

    def beams(
        self,
        values: Mapping[str, Mapping[str, float]],
        masks: Mapping[str, Mask],
        webs: Mapping[str, Web] | None = None,
    ) -> Beams:
        """The beams under these values by fixture or cell; what they do not say is at home. Masks and webs by key."""
        said = value_rows(self.rig, values)
        frame = self.table.frame(np.where(np.isnan(said), self.rig.home, said))
        numbered = {i + 1: masks[key] for i, key in enumerate(self.table.gobos) if key in masks}
        known = {i + 1: webs[key] for i, key in enumerate(self.table.webs) if webs and key in webs}
        table = self.table
        return beams_in_show(self.chains, self.mounts, frame, table.peak_cd, numbered, table.prisms, known)


def rig_of(show: Show) -> Rig:
    """The rig of a show: a chain and a mount for each of the frame's rows."""
    rows = patch_rows(show)
    chains: list[Chain] = []
    mounts: list[Placement] = []
    for _, fixture in show.fixtures():
        if fixture.type in show.types:
            cells = chains_of(show.types[fixture.type], fixture.mode)
            chains += cells
            mounts += [clamp_placement(show, fixture)] * len(cells)
    return Rig(compile_rig(rows), beam_table(rows), tuple(chains), tuple(mounts))


def caster_of(items: list[Item]) -> Caster:
    """Rays through everything solid among the items."""
    return Caster(solids(items))
