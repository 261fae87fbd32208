"""What drivers move of a rig as it is played: the poses that go out with frames, and the heads that keep their aim."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.carriers.keeping import Keeping
from zarfwright.core.carriers.plan import Group, Plan
from zarfwright.core.carriers.travel import Carrying
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.drive import LOOK
from zarfwright.core.picture import COLUMN
from zarfwright.core.space import Floats
from zarfwright.links.live.playing import Drive, LiveRig, Picture

PAN, TILT = COLUMN["pan"], COLUMN["tilt"]
TOLD = [INDEX["pan"], INDEX["tilt"]]


class Moving:
    """A plan over a rig. Drivers that the rig does not have move nothing."""

    def __init__(self, plan: Plan, playing: LiveRig, number: int = 0) -> None:
        self.asked, self.number = plan, number
        rows = {row.fixture: row for row in playing.rows}
        first: dict[str, int] = {}
        every: dict[str, list[int]] = {}
        for at, fixture in enumerate(playing.rig.fixtures):
            first.setdefault(fixture, at)
            every.setdefault(fixture, []).append(at)
        plan = Plan(tuple(_there(group, first) for group in plan.groups), plan.keepers)
        home = playing.rig.home
        self.carrying = Carrying(plan, rows, {key: home[at] for key, at in first.items()})
        self._drivers = np.array([first[key] for key in self.carrying.fixtures], dtype=np.int64)
        self._keeping = Keeping(plan, rows)
        # Each keeper with all of its beams.
        self._heads = np.array([at for key in self._keeping.fixtures for at in every[key]], dtype=np.int64)
        counts = [len(every[key]) for key in self._keeping.fixtures]
        self._whose = np.repeat(np.arange(len(counts)), counts)
        self._one = np.array([first[key] for key in self._keeping.fixtures], dtype=np.int64)
        self._angles: Floats | None = None
        self.fresh = True
        """Whether its poses have not been told yet."""

    def continue_from(self, before: Moving) -> None:
        """Take over where an older plan had got to."""
        self.carrying.continue_from(before.carrying)

    @property
    def moves(self) -> bool:
        """Whether anything is still on its way."""
        return self.carrying.moves

    def step(self, picture: Picture, drive: Drive, elapsed_s: float) -> list[slice]:
        """Go on from the picture as it is told, and turn its keepers: the rows of it that are others now."""
        if not len(self._drivers) and not len(self._one):
            return []
        told = np.asarray(picture.told[self._drivers], dtype=float)
        at_once = picture.driver[self._drivers] == LOOK if drive.travelled else None
        elsewhere = self.carrying.step(told, elapsed_s, at_once)
        self.fresh = self.fresh or elsewhere
        return self._keep(picture, elsewhere)

    def _keep(self, picture: Picture, elsewhere: bool) -> list[slice]:
        if not len(self._one):
            return []
        if self._angles is None or elsewhere:
            now = picture.frame[self._one][:, [PAN, TILT]] if self._angles is None else self._angles
            self._angles = self._keeping.angles(self.carrying.poses, np.asarray(now, dtype=float))
        wanted = self._angles[self._whose].astype(np.float32)
        others = np.any(picture.frame[self._heads][:, [PAN, TILT]] != wanted, axis=1)
        rows: NDArray[np.int64] = self._heads[others]
        picture.frame[self._heads, PAN], picture.frame[self._heads, TILT] = wanted[:, 0], wanted[:, 1]
        if 8 * len(rows) > len(picture.frame):
            return [picture.playing.whole.rows]
        return [slice(row, row + 1) for row in rows.tolist()]

    def kept_in(self, told: Floats) -> Floats:
        """What beams are told (n, COUNT), with keepers as they have turned."""
        if self._angles is None:
            return told
        told = told.copy()
        told[self._heads[:, None], TOLD] = self._angles[self._whose]
        return told


def _there(group: Group, known: dict[str, int]) -> Group:
    return replace(group, drivers=tuple(one for one in group.drivers if one.fixture in known))
