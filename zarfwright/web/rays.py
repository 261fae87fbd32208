"""The open show's light as numbers: its rig and its rays, kept until they change."""

from __future__ import annotations

from typing import Any

from zarfwright.core.carriers.posed import posed
from zarfwright.core.edits.carrying import as_in_look
from zarfwright.core.lighting import Rig, caster_of, rig_of
from zarfwright.core.looks.shown import resolved
from zarfwright.core.optics.photometry import Beams
from zarfwright.core.raycast import Caster
from zarfwright.core.review.sight import PeopleAs, as_people, hiding_solids
from zarfwright.core.show import Item, Show
from zarfwright.core.space import Pose
from zarfwright.web.desk import Desk


def shown_solids(show: Show) -> list[Item]:
    """What is in the way of light."""
    return [item for item in show.items.values() if item.is_a.solid and not show.hidden(item)]


class Lights:
    """The open show's rig and rays as all of it stands now, kept until what they are made of changes."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self._stands: tuple[Show, dict[str, Pose], Show] | None = None
        self._rig: tuple[Any, Rig] | None = None
        self._caster: tuple[Any, Caster] | None = None
        self._sight: tuple[Any, Caster] | None = None

    def now(self) -> Show:
        """The show with what drivers move where that is just now. Waits for the live process."""
        show, poses = self.desk.show, self.desk.feed.poses()
        known = self._stands
        if known is None or known[0] is not show or known[1] != poses:
            known = self._stands = (show, poses, posed(show, poses))
        return known[2]

    @property
    def poses(self) -> dict[str, Pose]:
        """Where drivers had brought things when that was asked last."""
        return self._stands[1] if self._stands is not None else {}

    def rig(self) -> Rig:
        """The rig as it hangs now."""
        show = self.now()
        kinds = ("fixture", "type", "truss")
        made_of = (self.poses, *((item.id, item.rev) for item in show.items.values() if item.kind in kinds))
        if self._rig is None or self._rig[0] != made_of:
            self._rig = (made_of, rig_of(show))
        return self._rig[1]

    def caster(self) -> Caster:
        """Rays through the site as it stands now."""
        show = self.now()
        # What is hidden is no more in the way of light than it is in the picture.
        items = shown_solids(show)
        made_of = (self.poses, *((item.id, item.rev) for item in items))
        if self._caster is None or self._caster[0] != made_of:
            self._caster = (made_of, caster_of(show, items))
        return self._caster[1]

    def sight_caster(self, people: PeopleAs) -> Caster:
        """Rays through what may be in the way of sight."""
        if people == "as they are":
            return self.caster()
        show = self.now()
        made_of = (
            people,
            self.poses,
            *((item.id, item.rev) for item in show.items.values() if item.is_a.solid or item.kind == "layer"),
        )
        if self._sight is None or self._sight[0] != made_of:
            self._sight = (made_of, hiding_solids(as_people(show, people), people))
        return self._sight[1]

    def in_look(self, look: str) -> tuple[Show, Beams, Rig, Caster]:
        """The show as a look has it, its beams and its rays; with no look: as it is driven now."""
        show = self.desk.show
        stand = as_in_look(show, look) if look else self.now()
        if stand is not self.now():
            rig, caster = rig_of(stand), caster_of(stand, shown_solids(stand))
        else:
            rig, caster = self.rig(), self.caster()
        values = resolved(show, look) if look else self.desk.feed.values()
        return stand, rig.beams(values, *self.desk.optics.of(rig.table)), rig, caster

    def beams(self) -> tuple[Beams, Rig]:
        """The beams as they are driven now. Waits for the live process: not to be called with a lock in hand."""
        rig = self.rig()
        return rig.beams(self.desk.feed.values(), *self.desk.optics.of(rig.table)), rig
