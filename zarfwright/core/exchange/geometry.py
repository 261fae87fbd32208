"""A whole show as plain geometry: every solid and every body of a fixture in its zero pose, at its place."""

from __future__ import annotations

from collections.abc import Iterator

from zarfwright.core.exchange.rows import Rows, rows_of
from zarfwright.core.memo import Memo
from zarfwright.core.mesh import MeshPart
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.scene import solids_of
from zarfwright.core.show import Show
from zarfwright.core.site.things import Crowd
from zarfwright.core.types.bodies import body_at_home

BODY = (0.03, 0.03, 0.034)
"""The reflectance of lamps."""

_home_of = Memo(body_at_home, 500)
_part_of = Memo(lambda mesh, material, colour: MeshPart(material, colour, mesh))


def geometry(show: Show, people: bool, only_shown: bool) -> Iterator[tuple[str, MeshPart, Rows]]:
    """Names, parts and places; things of one mesh in one colour share their part."""
    for item in show.items.values():
        body = item.body
        if (only_shown and show.hidden(item)) or (isinstance(body, Crowd) and not people):
            continue
        if isinstance(body, Fixture):
            if body.type in show.types:
                for mesh in _home_of(show.types[body.type], body.mode):
                    yield item.name, _part_of(mesh, "body", BODY), rows_of(clamp_placement(show, body))
            continue
        crowd = isinstance(body, Crowd)
        for solid in solids_of(show, item):
            mesh = (solid.least or solid.mesh) if crowd else solid.mesh
            yield item.name, _part_of(mesh, solid.finish, solid.albedo), rows_of(solid.placement, solid.scale)
