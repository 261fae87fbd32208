"""The rig's light as it is now: from what every beam is told, to beams in the show for photometry."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from zarfwright.core.carriers.kept import kept_aims
from zarfwright.core.compiled import Compiled
from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.drive import value_rows, with_fixed
from zarfwright.core.looks.said import said_of
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.exposure import eye_ev
from zarfwright.core.optics.gate import Mask
from zarfwright.core.optics.photometry import Beams, beams_in_show
from zarfwright.core.optics.web import Web
from zarfwright.core.patch import compiled_show, fixed_of
from zarfwright.core.picture import COLUMN, BeamTable
from zarfwright.core.raycast import Caster
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.scene import solids
from zarfwright.core.show import Item, Show
from zarfwright.core.space import Floats, Placement
from zarfwright.core.types.chain import Chain, chains_of


@dataclass(frozen=True, eq=False)
class Rig:
    """What a show's beams are made of; made once for each state of its fixtures."""

    compiled: Compiled
    chains: tuple[Chain, ...]
    mounts: tuple[Placement, ...]
    fixed: Floats
    """(n, features) what is set at the lamps themselves; NaN: nothing."""

    @property
    def rig(self) -> CompiledRig:
        return self.compiled.rig

    @property
    def table(self) -> BeamTable:
        return self.compiled.beams

    def beams(
        self,
        values: Mapping[str, Mapping[str, float]],
        masks: Mapping[str, Mask],
        webs: Mapping[str, Web] | None = None,
    ) -> Beams:
        """The beams under these values by fixture or cell; what they do not say is at home. Masks and webs by key."""
        said = value_rows(self.rig, values)
        frame = self.table.frame(with_fixed(np.where(np.isnan(said), self.rig.home, said), self.fixed))
        numbered = {i + 1: masks[key] for i, key in enumerate(self.table.gobos) if key in masks}
        known = {i + 1: webs[key] for i, key in enumerate(self.table.webs) if webs and key in webs}
        table = self.table
        return beams_in_show(self.chains, self.mounts, frame, table.peak_cd, numbered, table.prisms, known)


def rig_of(show: Show) -> Rig:
    """The rig of a show: a chain and a mount for each of the frame's rows."""
    chains: list[Chain] = []
    mounts: list[Placement] = []
    for _, fixture in show.fixtures():
        if fixture.type in show.types:
            cells = chains_of(show.types[fixture.type], fixture.mode)
            chains += cells
            mounts += [clamp_placement(show, fixture)] * len(cells)
    made = compiled_show(show)
    return Rig(made, tuple(chains), tuple(mounts), value_rows(made.rig, {**fixed_of(show), **kept_aims(show)}))


def caster_of(show: Show, items: Iterable[Item] | None = None) -> Caster:
    """Rays through everything solid among the items of a show; None: all of it."""
    return Caster(solids(show, show.items.values() if items is None else items))


SAMPLED = 64
MEAN_REFLECTANCE, FURTHEST_M, BRIGHTER_EV = 0.3, 14.0, 0.8
EV_RANGE = (1.0, 13.0)


def fitting_ev(show: Show, values: Mapping[str, Mapping[str, float]]) -> float | None:
    """The eye's EV100 that suits a look: by what its beams lay on a level surface below them, the log mean weighed by
    their light. A few dozen of the lit fixtures tell it. None where nothing is lit."""
    table = said_of(values).table
    lit = {*table.whose(np.nan_to_num(table.column("dimmer")) > 0.01)}
    fixtures = [item for item, _ in show.fixtures() if item.id in lit]
    taken = {item.id for item in fixtures[:: len(fixtures) // SAMPLED + 1]}
    few = replace(show, items={k: i for k, i in show.items.items() if i.kind != "fixture" or k in taken})
    beams = rig_of(few).beams(values, {}) if taken else None
    if beams is None or not len(beams.lit()):
        return None
    rows = beams.lit()
    candela = np.array([float(beams.colour_cd(int(i)) @ LUMINANCE) for i in rows])
    down = -beams.along[rows, 2]
    away = np.clip(beams.lens[rows, 2] / np.maximum(down, 0.05), 1.0, FURTHEST_M)
    luminance = MEAN_REFLECTANCE / np.pi * candela / away**2 * np.maximum(down, 0.3)
    flux = candela * np.tan(np.minimum(beams.frame[rows, COLUMN["field"]] / 2, 1.2)) ** 2
    mean = float(np.exp(np.sum(flux * np.log(np.maximum(luminance, 1e-3))) / np.sum(flux)))
    return round(float(np.clip(eye_ev(mean) - BRIGHTER_EV, *EV_RANGE)), 1)
