"""What the files among a show's assets hold: fixture types and meshes, each read once."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from typing import TypeVar

from zarfwright.core.mesh import MeshFile
from zarfwright.core.rig.things import TypeEntry
from zarfwright.core.show import Item, Show
from zarfwright.core.site.things import MeshPiece
from zarfwright.core.types.model import FixtureType
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf import read_gdtf
from zarfwright.formats.mesh import read_mesh
from zarfwright.store.errors import ShowFileError

log = logging.getLogger(__name__)
T = TypeVar("T")
LATELY_MOST = 4

AssetOf = Callable[[str], tuple[str, bytes] | None]
"""Name and bytes of an asset; None where there is none."""


class Reading:
    """Reads what a show's items name, and keeps what is read as long as an item names it."""

    def __init__(self, asset_of: AssetOf) -> None:
        self._asset_of = asset_of
        self._from: dict[str, str] = {}
        """The assets that the types of a show were read from."""
        self._lately: dict[str, FixtureType | None] = {}

    def with_files(self, show: Show, was: Show | None = None) -> Show:
        """The show with what its items name; what `was` had already is not read again. What cannot be read is missing:
        readiness says so."""
        before = was or Show({})
        return replace(show, types=self._types(show, before.types), meshes=self._meshes(show, before.meshes))

    def type_in(self, asset: str) -> FixtureType | None:
        """The type that a GDTF file among the assets holds. Raises FormatError."""
        found = self._asset_of(asset)
        return read_gdtf(found[1], found[0])[0] if found is not None else None

    def lately(self, asset: str) -> FixtureType | None:
        """The same, and None where it cannot be read: for what asks again and again."""
        if asset not in self._lately:
            while len(self._lately) >= LATELY_MOST:
                del self._lately[next(iter(self._lately))]
            self._lately[asset] = _if_readable(self.type_in, asset)
        return self._lately[asset]

    def mesh_in(self, asset: str) -> MeshFile | None:
        """What a mesh file among the assets holds. Raises FormatError."""
        found = self._asset_of(asset)
        return read_mesh(found[1], found[0])[0] if found is not None else None

    def _types(self, show: Show, known: Mapping[str, FixtureType]) -> dict[str, FixtureType]:
        types: dict[str, FixtureType] = {}
        for entry, body in show.bodies(TypeEntry):
            read: FixtureType | None = known.get(entry.id) if self._from.get(entry.id) == body.asset else None
            read = read or known.get(f"asset:{body.asset}") or _if_readable(self.type_in, body.asset)
            if read is not None:
                types[entry.id] = read
                self._from[entry.id] = body.asset
        return types

    def _meshes(self, show: Show, known: Mapping[str, MeshFile]) -> dict[str, MeshFile]:
        meshes: dict[str, MeshFile] = {}
        for _, body in show.bodies(MeshPiece):
            read = meshes.get(body.asset) or known.get(body.asset) or _if_readable(self.mesh_in, body.asset)
            if read is not None:
                meshes[body.asset] = read
            if body.drawn in known:
                meshes[body.drawn] = known[body.drawn]
        return meshes


def _if_readable(read: Callable[[str], T | None], asset: str) -> T | None:
    try:
        return read(asset)
    except (FormatError, ShowFileError) as wrong:
        log.warning("%s", wrong)
        return None


def names_files(items: Iterable[Item]) -> bool:
    """Whether any of these items names a file among the assets that is read."""
    return any(item.kind in ("type", "mesh") for item in items)
