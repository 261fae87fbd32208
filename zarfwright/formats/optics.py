"""Gobo images and photometric webs of the open show's types, read once each."""

from __future__ import annotations

from collections.abc import Callable

from zarfwright.core.optics.gate import Mask
from zarfwright.core.optics.web import Web
from zarfwright.core.picture import BeamTable
from zarfwright.core.show import Show
from zarfwright.formats.findings import FormatError
from zarfwright.formats.ies import read_ies
from zarfwright.formats.pictures import gobo_mask


class Optics:
    """What stands in gates, and what was measured of lamps, by key. `tried` finds what drafts have that are tried."""

    def __init__(self, show: Callable[[], Show], tried: Callable[[str], bytes | None]) -> None:
        self._show, self._tried = show, tried
        self._masks: dict[str, Mask | None] = {}
        self._webs: dict[str, Web] = {}

    def of(self, table: BeamTable) -> tuple[dict[str, Mask], dict[str, Web]]:
        """All that the beams of a rig have, by key."""
        masks = {key: mask for key in table.gobos if (mask := self.mask(key)) is not None}
        return masks, {key: web for key in table.webs if (web := self.web(key)) is not None}

    def mask(self, key: str) -> Mask | None:
        """A gobo image as a mask, by its key; None where no type of the show has it, or it is no picture."""
        if key not in self._masks and (tried := self._tried(key)) is not None:
            self._masks[key] = gobo_mask(tried, "the image")
        if key not in self._masks:
            for fixture_type in self._show().types.values():
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
        if key not in self._webs and (tried := self._tried(key)) is not None:
            self._webs[key] = read_ies(tried, "the photometry")[0]
        if key not in self._webs:
            for fixture_type in self._show().types.values():
                name = next((name for name, its in fixture_type.webs.items() if its.key == key), None)
                if name is not None:
                    self._webs[key] = read_ies(fixture_type.ies[name], name)[0]
        return self._webs.get(key)
