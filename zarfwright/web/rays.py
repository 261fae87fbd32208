"""The open show's light as numbers: its rig, its rays, its gobo images and webs, kept until they change."""

from __future__ import annotations

from typing import Any

from zarfwright.core.lighting import Rig, caster_of, rig_of
from zarfwright.core.optics.gate import Mask
from zarfwright.core.optics.photometry import Beams
from zarfwright.core.optics.web import Web
from zarfwright.core.raycast import Caster
from zarfwright.formats.findings import FormatError
from zarfwright.formats.ies import read_ies
from zarfwright.formats.pictures import gobo_mask
from zarfwright.web.desk import Desk


class Lights:
    """The open show's rig and rays, kept until what they are made of changes."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self._rig: tuple[Any, Rig] | None = None
        self._caster: tuple[Any, Caster] | None = None
        self._masks: dict[str, Mask | None] = {}
        self._webs: dict[str, Web] = {}

    def mask(self, key: str) -> Mask | None:
        """A gobo image as a mask, by its key; None where no type of the show has it, or it is no picture."""
        if key not in self._masks and (tried := self.desk.tried.get(key)) is not None:
            self._masks[key] = gobo_mask(tried, "the image")
        if key not in self._masks:
            for fixture_type in self.desk.show.types.values():
                name = next((name for name, its in fixture_type.image_keys.items() if its == key), None)
                if name is not None:
                    try:
                        self._masks[key] = gobo_mask(fixture_type.images[name], name)
                    except FormatError:
                        self._masks[key] = None
                    break
        return self._masks.get(key)

    def web(self, key: str) -> Web | None:
        """A photometric web by its key; None where no type of the show has it."""
        if key not in self._webs and (tried := self.desk.tried.get(key)) is not None:
            self._webs[key] = read_ies(tried, "the photometry")[0]
        if key not in self._webs:
            for fixture_type in self.desk.show.types.values():
                name = next((name for name, its in fixture_type.webs.items() if its.key == key), None)
                if name is not None:
                    self._webs[key] = read_ies(fixture_type.ies[name], name)[0]
        return self._webs.get(key)

    def rig(self) -> Rig:
        """The rig as it hangs now."""
        show = self.desk.show
        made_of = tuple(
            (item.id, item.rev) for item in show.items.values() if item.kind in ("fixture", "type", "truss")
        )
        if self._rig is None or self._rig[0] != made_of:
            self._rig = (made_of, rig_of(show))
        return self._rig[1]

    def caster(self) -> Caster:
        """Rays through the site as it stands now."""
        show = self.desk.show
        # What is hidden is no more in the way of light than it is in the picture.
        items = [item for item in show.items.values() if item.is_a.solid and not show.hidden(item)]
        made_of = tuple((item.id, item.rev) for item in items)
        if self._caster is None or self._caster[0] != made_of:
            self._caster = (made_of, caster_of(show, items))
        return self._caster[1]

    def beams(self) -> tuple[Beams, Rig]:
        """The beams as they are driven now. Waits for the live process: not to be called with a lock in hand."""
        rig = self.rig()
        values = self.desk.feed.values()
        masks = {key: mask for key in rig.table.gobos if (mask := self.mask(key)) is not None}
        webs = {key: web for key in rig.table.webs if (web := self.web(key)) is not None}
        return rig.beams(values, masks, webs), rig
