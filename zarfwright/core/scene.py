"""What the stage is given: solids with a mesh and a placement, and the rig's mounts and bodies."""

from __future__ import annotations

import math
import zlib
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, Literal

from zarfwright.core.memo import Memo
from zarfwright.core.mesh import Mesh, MeshFile, mapped, turned
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.show import Item, Show
from zarfwright.core.site.crowd import People, kept_places, people
from zarfwright.core.site.figures import (
    HEIGHT_M,
    VARIANTS,
    eye_height_m,
    far_figure_mesh,
    figure_mesh,
    least_figure_mesh,
)
from zarfwright.core.site.outline import (
    legged_deck,
    outline_deck,
    panel_mesh,
    polygon_of,
    rectangle,
    rise_mesh,
    sampled,
    slab,
)
from zarfwright.core.site.pieces import piece_mesh
from zarfwright.core.site.rigging import rigging_mesh
from zarfwright.core.site.simplify import with_triangles
from zarfwright.core.site.solids import FASCIA_IN_M, PLATFORM_M, deck_mesh, venue_mesh
from zarfwright.core.site.structures import structure_mesh, truss_placement
from zarfwright.core.site.things import Crowd, Deck, Figure, MeshPiece, Panel, Piece, Truss, Venue, Wall
from zarfwright.core.site.walls import Gap, gaps_of, wall_mesh
from zarfwright.core.space import ORIGIN, Placement, Pose, Quat, Vec, about, quat, vec
from zarfwright.core.types.bodies import BodyPart, body_parts
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.model import FixtureType

# Diffuse reflectances: brick, aluminium seen dull, what decks are faced with, clothes of several shades.
BRICK, ALUMINIUM = (0.32, 0.25, 0.21), (0.35, 0.36, 0.37)
FINISHES: dict[str, Vec] = {
    "black": (0.16, 0.15, 0.14),
    "gloss": (0.05, 0.05, 0.055),
    "timber": (0.42, 0.30, 0.19),
    "cloth": (0.72, 0.70, 0.66),
    "brick": BRICK,
    "steel": (0.32, 0.33, 0.34),
    "gauze": (0.24, 0.24, 0.23),
    "black gauze": (0.016, 0.016, 0.017),
    "translucent": (0.42, 0.42, 0.41),
}
SHEER = {"gauze": (0.6, 0.07), "black gauze": (0.62, 0.002), "translucent": (0.0, 0.32)}
"""What goes through of light that falls on it square: straight on between its threads, and scattered to all sides."""
CLOTH = (
    (0.22, 0.19, 0.18), (0.09, 0.11, 0.19), (0.30, 0.24, 0.17), (0.12, 0.17, 0.13), (0.27, 0.10, 0.10),
    (0.05, 0.05, 0.06), (0.36, 0.34, 0.31), (0.13, 0.18, 0.22),
)  # fmt: skip


Screens = Literal["", "wall", "mesh", "sheet"]
SHEETS = ("flat", "drape", "cyc", "screen")
"""Pieces that are flat and stand before others."""


@dataclass(frozen=True, eq=False)
class Solid:
    """One thing to draw. `albedo` is linear diffuse reflectance."""

    id: str
    kind: str
    mesh: Mesh
    placement: Placement
    albedo: Vec
    """On the whole; texture varies about it."""
    scale: float = 1.0
    far: Mesh | None = None
    """A simpler mesh for further away and for rays."""
    least: Mesh | None = None
    """The simplest, for far away and for shadows in the picture."""
    finish: str = "plain"
    """What it is faced with, for how it shines and its texture: FINISHES, `people`, or plain."""
    screens: Screens = ""
    """How it may be left out of a picture where it stands before the work: face by face as walls are (`Mesh.parts`) or
    as what comes out of files, or as a whole, being flat."""
    ring: tuple[tuple[float, float], ...] = ()
    """The plan of what it encloses, in the show's frame; empty where it is no closed wall."""
    gaps: tuple[Gap, ...] = ()
    """The doors and windows of a wall as they are drawn in plan."""

    @property
    def sheer(self) -> tuple[float, float]:
        """The shares of light that go straight through it, square on, and that come through it scattered (SHEER)."""
        return SHEER.get(self.finish, (0.0, 0.0))


@lru_cache(maxsize=256)
def _venue(venue: Venue) -> Mesh:
    return venue_mesh(venue)


@lru_cache(maxsize=512)
def _deck(deck: Deck) -> Mesh:
    """The mesh of a deck at the origin, for a body without name, place and finish."""
    corners = deck.corners or rectangle(deck.width_m, deck.depth_m)
    if deck.made == "riser":
        return slab(polygon_of(corners), 0.0, deck.height_m)
    if deck.made in ("steps", "ramp"):
        return rise_mesh(corners, deck.height_m, deck.rise_deg, deck.count if deck.made == "steps" else 0)
    if not deck.fascia:
        return legged_deck(corners, deck.height_m, PLATFORM_M)
    if deck.corners:
        return outline_deck(corners, deck.height_m, PLATFORM_M, FASCIA_IN_M)
    return deck_mesh(deck.width_m, deck.depth_m, deck.height_m)


_panel = lru_cache(maxsize=256)(panel_mesh)
_wall = lru_cache(maxsize=256)(wall_mesh)
_piece = lru_cache(maxsize=512)(piece_mesh)
_people = lru_cache(maxsize=64)(lambda key: people(key.crowd))
_structure = lru_cache(maxsize=512)(structure_mesh)
_rigging = lru_cache(maxsize=512)(rigging_mesh)


def _upright(file: MeshFile) -> tuple[Mesh, ...]:
    """The materials' meshes of a file that has Y up, with Z up."""
    return tuple(turned(part.mesh, about((1.0, 0.0, 0.0), math.pi / 2)) for part in file.parts)


_upright_of = Memo(_upright, 64)
_mapped_of = Memo(mapped, 256)
# Where nobody has made it beforehand; an edit has it made in another process.
_fewer_of = Memo(lambda file, triangles: with_triangles(file, int(triangles)), 16)


def _coloured(body: MeshPiece, material: str, colour: tuple[float, float, float] | None) -> Vec:
    """The reflectance of a material: as told, in the hue that the file gives it."""
    if colour is None:
        return (body.reflectances.get(material, body.reflectance),) * 3
    told = body.reflectances.get(material)
    if told is None:
        return colour
    # By the luminance of Rec. 709.
    now = 0.2126 * colour[0] + 0.7152 * colour[1] + 0.0722 * colour[2]
    if now < 1e-4:
        return (told,) * 3
    r, g, b = (min(part * told / now, 0.95) for part in colour)
    return (r, g, b)


def mesh_solids(show: Show, item: Item, body: MeshPiece) -> list[Solid]:
    """A mesh out of a file: one solid for each of its materials, `id/1`, `id/2` ...; none where it was not read."""
    file = show.meshes.get(body.drawn)
    if file is None and body.asset in show.meshes:
        file = _fewer_of(show.meshes[body.asset], str(body.triangles))
    if file is None:
        return []
    meshes = _upright_of(file) if body.up == "y" else tuple(part.mesh for part in file.parts)
    if body.axes is not None:
        meshes = tuple(_mapped_of(mesh, body.axes) for mesh in meshes)
    place = upright(body.position, body.turn_deg)
    return [
        Solid(
            f"{item.id}/{i + 1}",
            item.kind,
            mesh,
            place,
            _coloured(body, part.material, part.colour),
            body.scale,
            screens="mesh",
        )
        for i, (part, mesh) in enumerate(zip(file.parts, meshes, strict=True))
    ]


def _faced(finish: str) -> tuple[Vec, float, None, None, str]:
    """The last of a solid's values for what is faced so: colour, scale, no simpler meshes, finish."""
    return FINISHES[finish], 1.0, None, None, finish


def upright(position: Vec, turn_deg: float) -> Placement:
    """A placement turned about the upright axis."""
    return Placement(position, quat(about((0.0, 0.0, 1.0), math.radians(turn_deg))))


def _venue_solid(item: Item, body: Venue) -> Solid:
    return Solid(item.id, item.kind, _venue(body), Placement(), BRICK, finish="brick")


def _deck_solid(item: Item, body: Deck) -> Solid:
    mesh = _deck(replace(body, name="", position=ORIGIN, turn_deg=0.0, finish="black"))
    return Solid(item.id, item.kind, mesh, upright(body.position, body.turn_deg), *_faced(body.finish))


def _piece_solid(item: Item, body: Piece) -> Solid:
    mesh = _piece(replace(body, name="", position=ORIGIN, turn_deg=0.0, finish="black"))
    screens: Screens = "sheet" if body.piece in SHEETS else ""
    return Solid(item.id, item.kind, mesh, upright(body.position, body.turn_deg), *_faced(body.finish), screens)


def _panel_solid(item: Item, body: Panel) -> Solid:
    mesh = _panel(body.corners, body.thickness_m)
    return Solid(item.id, item.kind, mesh, upright(body.position, body.turn_deg), *_faced(body.finish), "sheet")


def _wall_solid(item: Item, body: Wall) -> Solid:
    mesh = _wall(body.corners, body.closed, body.height_m, body.thickness_m, body.openings)
    x, y, _ = body.position
    ring = tuple((x + px, y + py) for px, py in sampled(body.corners, True).tolist()) if body.closed else ()
    return Solid(
        item.id, item.kind, mesh, upright(body.position, 0.0), *_faced(body.finish), "wall", ring, gaps_of(body)
    )


def _truss_solid(item: Item, body: Truss) -> Solid:
    plain = replace(body, name="", position=ORIGIN, turn_deg=0.0, rake_deg=0.0, kg_per_m=0.0, hoists=0, bridle_m=0.0,
                    steel_m=0.0)  # fmt: skip
    return Solid(item.id, item.kind, _structure(plain), truss_placement(body), ALUMINIUM, finish="steel")


def _figure_solid(item: Item, body: Figure) -> Solid:
    return _person(item.id, item.kind, body.pose, upright(body.position, body.turn_deg), body.height_m)


SHAPES: dict[type, Callable[[Item, Any], Solid]] = {
    Venue: _venue_solid,
    Deck: _deck_solid,
    Piece: _piece_solid,
    Panel: _panel_solid,
    Wall: _wall_solid,
    Truss: _truss_solid,
    Figure: _figure_solid,
}
"""How kinds look that are one solid."""


def solid_of(item: Item) -> Solid | None:
    """What an item looks like; None for kinds that are no solid. Meshes hang on sizes only, so moves keep them."""
    shape = SHAPES.get(type(item.body))
    return shape(item, item.body) if shape is not None else None


def _person(key: str, kind: str, pose: str, placement: Placement, height_m: float) -> Solid:
    """One person; the same one always looks the same, the neighbour another way."""
    seed = zlib.crc32(key.encode())
    cloth = CLOTH[seed % len(CLOTH)]
    shade = 0.6 + 0.7 * ((seed >> 8) % 64) / 64
    r, g, b = (min(part * shade, 0.8) for part in cloth)
    variant = (seed >> 16) % VARIANTS
    mesh, far, least = (make(pose, variant) for make in (figure_mesh, far_figure_mesh, least_figure_mesh))
    return Solid(key, kind, mesh, placement, (r, g, b), height_m / HEIGHT_M, far, least, "people")


def people_of(crowd: Crowd) -> People:
    """The people of a crowd, worked out once for the same values."""
    return _people(CrowdKey(crowd))


class CrowdKey:
    """A crowd as a key: bodies hold dicts and cannot be keys themselves."""

    def __init__(self, crowd: Crowd) -> None:
        self.crowd = crowd
        self._text = repr(crowd)

    def __hash__(self) -> int:
        return hash(self._text)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, CrowdKey) and other._text == self._text


def crowd_solids(item: Item, crowd: Crowd) -> list[Solid]:
    """The people of a crowd as solids: `id/1`, `id/2` ..."""
    who = people_of(crowd)
    return [
        _person(
            f"{item.id}/{i + 1}",
            item.kind,
            who.poses[i],
            upright(vec(who.places[i]), float(who.turns_deg[i])),
            float(who.heights_m[i]),
        )
        for i in kept_places(crowd, who.count).tolist()
    ]


def brought(solid: Solid, pose: Pose) -> Solid:
    """A solid where a pose has brought it."""
    corners = [pose.apply((*corner, 0.0)).tolist() for corner in solid.ring]
    ring = tuple((x, y) for x, y, _ in corners)
    return replace(solid, placement=pose.placed(solid.placement), scale=solid.scale * pose.size, ring=ring)


def solids_of(show: Show, item: Item) -> list[Solid]:
    """All that an item looks like: the people of a crowd, the materials of a mesh, a structure and what lifts it."""
    pose = show.poses.get(item.id)
    made = _solids_at_rest(show, item)
    return made if pose is None else [brought(solid, pose) for solid in made]


def _solids_at_rest(show: Show, item: Item) -> list[Solid]:
    body = item.body
    if isinstance(body, Crowd):
        return crowd_solids(item, body)
    if isinstance(body, MeshPiece):
        return mesh_solids(show, item, body)
    made = [solid for solid in (solid_of(item),) if solid is not None]
    if isinstance(body, Truss) and body.hoists:
        rigging = _rigging(replace(body, name="", kg_per_m=0.0))
        if rigging is not None:
            made.append(Solid(f"{item.id}/rig", item.kind, rigging, Placement(), ALUMINIUM, finish="steel"))
    return made


def solids(show: Show, items: Iterable[Item]) -> list[Solid]:
    """The solids among items, which may be others than the show has; meshes out of files are the show's."""
    return [solid for item in items for solid in solids_of(show, item)]


def eye_of(figure: Figure) -> Vec:
    """Where the eyes of a figure are."""
    x, y, z = figure.position
    return (x, y, z + eye_height_m(figure.pose, figure.height_m))


@dataclass(frozen=True)
class Mount:
    """Where the clamp of a fixture is."""

    fixture: str
    placement: Placement


def mounts(show: Show, only: set[str] | None = None) -> list[Mount]:
    """The mounts of all fixtures, in the order of the frame's rows; or of some, or of all on some structures."""
    return [
        Mount(item.id, clamp_placement(show, fixture))
        for item, fixture in show.lamps()
        if fixture.type in show.types
        and (only is None or item.id in only or (fixture.hang is not None and fixture.hang.structure in only))
    ]


_body_parts = Memo(body_parts, 500)


def bodies(show: Show) -> dict[tuple[str, str], list[BodyPart]]:
    """The body of each (type, mode) in use."""
    used = {(fixture.type, fixture.mode) for _, fixture in show.fixtures() if fixture.type in show.types}
    return {key: _body_parts(show.types[key[0]], key[1]) for key in sorted(used)}


@dataclass(frozen=True)
class CellOffsets:
    """Where a beam sits in its body, metres: mount to pan axis, pan axis to tilt axis, tilt axis to lens."""

    pan: Vec
    tilt: Vec
    lens: Vec
    lens_radius_m: float
    mount_turn: Quat
    """What turns the chain's frame against the clamp's."""
    lens_turn: Quat
    pan_zero: float
    tilt_zero: float
    """Radians added to pan and tilt."""
    mirror: bool
    """Pan and tilt are those of a mirror, and the lens is where light meets it (core/types/chain.py)."""


def cell_offsets(fixture_type: FixtureType, mode: str) -> list[CellOffsets]:
    """The offsets of each beam of a type in a mode, in the order of the frame's rows."""
    return [
        CellOffsets(
            chain.pan_offset,
            chain.tilt_offset,
            chain.lens_offset,
            chain.beam.lens_radius_m,
            chain.mount_turn,
            chain.lens_turn,
            chain.pan_zero,
            chain.tilt_zero,
            chain.mirror,
        )
        for chain in chains_of(fixture_type, mode)
    ]
