"""A view before it has a scale: its frame, what is in it, and what of its plane is shown."""

from __future__ import annotations

from dataclasses import dataclass

from zarfwright.core.sheet.frames import Frame, frame_of
from zarfwright.core.sheet.hidden import Faces
from zarfwright.core.sheet.scope import Hung, Region, Scope, faces_of, region_of, scope_of
from zarfwright.core.sheet.sheet import View
from zarfwright.core.show import Item, Show


@dataclass(frozen=True, eq=False)
class Prepared:
    """What a view shows before it has a scale: its frame, what is in it, and what of its plane is shown."""

    view: View
    frame: Frame
    scope: Scope
    faces: Faces
    items: list[Item]
    region: Region

    @property
    def inside(self) -> list[Hung]:
        """The fixtures of which the clamps are in what is shown."""
        left, low, right, high = self.region
        return [one for one in self.scope.fixtures if left <= one.at[0] <= right and low <= one.at[1] <= high]

    @property
    def size_m(self) -> tuple[float, float]:
        return self.region[2] - self.region[0], self.region[3] - self.region[1]


def prepared(show: Show, view: View) -> Prepared:
    """A view before it is drawn."""
    frame = frame_of(show, view)
    scope = scope_of(show, view, frame)
    faces, items = faces_of(show, scope.site, frame)
    return Prepared(view, frame, scope, faces, items, region_of(show, view, frame, scope, faces, items))
