"""What goes out of a show to other programs: its scene as MVR or GLB."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from zarfwright.core.exchange.geometry import geometry
from zarfwright.core.exchange.offered import LeftOut, Wish, offer
from zarfwright.core.exchange.received import Received, kept_shapes
from zarfwright.core.exchange.scene import Scene
from zarfwright.core.show import Show
from zarfwright.formats.findings import FormatError
from zarfwright.formats.mesh import write_glb_scene
from zarfwright.formats.mvr import OlderFile, write_mvr

AssetOf = Callable[[str], tuple[str, bytes] | None]


def geometry_file(show: Show, wish: Wish) -> bytes:
    """The geometry of a show as GLB. Raises FormatError where there is none."""
    placed = list(geometry(show, wish.people, wish.only == "shown"))
    if not placed:
        raise FormatError("There is nothing to write: this show has no geometry yet.")
    return write_glb_scene(placed)


@dataclass(frozen=True)
class SceneFile:
    """A scene as a file, and what is in it."""

    data: bytes
    scene: Scene
    fixtures: int
    types: int
    structures: int
    others: int
    left_out: tuple[LeftOut, ...]


def scene_file(show: Show, asset_of: AssetOf, wish: Wish) -> SceneFile:
    """The scene of a show as MVR, with what is kept of the files that came in. Raises FormatError."""

    def name_of(asset: str) -> str:
        found = asset_of(asset)
        return found[0].replace("\\", "/").rsplit("/", 1)[-1] if found is not None else ""

    made = offer(show, wish, name_of)
    older = []
    for _, body in show.bodies(Received):
        found = asset_of(body.scene)
        if found is not None:
            older.append(OlderFile(found[1], body.files))
    data = write_mvr(made, asset_of, older, kept_shapes(show))
    tags = [thing.tag for thing in made.scene.things]
    fixtures, structures, groups = (tags.count(tag) for tag in ("Fixture", "Truss", "GroupObject"))
    others = len(tags) - fixtures - structures - groups
    return SceneFile(data, made.scene, fixtures, len(made.scene.types), structures, others, made.left_out)
