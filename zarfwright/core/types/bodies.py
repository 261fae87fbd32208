"""The bodies of fixtures: a mesh for each model of the geometry tree, by what it turns with.

A mesh of the file's own is fitted to Length (x), Width (y) and Height (z); else the part is built from GDTF's primitive
and from what kind of lamp it is.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from zarfwright.core.mesh import Mesh, box, cylinder, ellipsoid, join, moved, round_surface, turned
from zarfwright.core.space import NO_TURN, Floats, about, from_matrix, inverse, unit
from zarfwright.core.types.chain import DARK, Chain, chain_of, chains_of
from zarfwright.core.types.model import FixtureType, Geometry, Model


@dataclass(frozen=True)
class BodyPart:
    """Meshes that move as one. `turns` is 0 for what stays, 1 for what pans, 2 for what pans and tilts."""

    turns: int
    mesh: Mesh


def _yoke(model: Model) -> Mesh:
    """Two arms beside the head and a bridge on top; the origin is on the pan axis, at the bridge."""
    arm, wide, drop = model.length_m * 0.13, model.width_m, model.height_m
    x = (model.length_m - arm) / 2
    made = [
        box((model.length_m, wide, arm * 1.2), (0, 0, -arm * 0.6)),
        cylinder(wide * 0.62, arm * 0.7, (0, 0, arm * 0.2), 20),
    ]
    for side in (-1, 1):
        made.append(box((arm, wide * 0.8, drop * 0.82), (side * x, 0, -drop * 0.41)))
        made.append(_axle(wide * 0.5, arm, (side * x, 0.0, -drop * 0.78)))
    return join(made)


def _axle(radius: float, width: float, at: tuple[float, float, float]) -> Mesh:
    """A short cylinder lying along X."""
    upright = cylinder(radius, width, sides=20)
    lying = upright.vertices[:, [2, 1, 0]] * np.array([1.0, 1.0, -1.0])
    normals = upright.normals[:, [2, 1, 0]] * np.array([1.0, 1.0, -1.0])
    return Mesh((lying + np.asarray(at)).astype(np.float32), normals.astype(np.float32), upright.triangles)


def _head(model: Model) -> Mesh:
    """A housing about the tilt axis: cooling fins behind, a waist, the lens tube and its bezel at -Z."""
    r, h = model.width_m / 2, model.height_m
    profile = [
        (0.0, -h * 0.44), (r * 0.74, -h * 0.44), (r * 0.74, -h * 0.5), (r * 0.86, -h * 0.5), (r * 0.88, -h * 0.36),
        (r, -h * 0.22), (r, h * 0.16), (r * 0.9, h * 0.3), (r * 0.86, h * 0.42), (r * 0.5, h * 0.5), (0.0, h * 0.5),
    ]  # fmt: skip
    fins = [box((r * 1.5, 0.012, h * 0.2), (0, y * r, h * 0.36)) for y in (-0.75, -0.45, -0.15, 0.15, 0.45, 0.75)]
    return join([round_surface(profile, 22), *fins, box((model.length_m * 0.86, r * 0.4, r * 0.4))])


def _base(model: Model) -> Mesh:
    """The clamps on the rail with the base under them."""
    x, y, z = model.length_m, model.width_m, model.height_m
    box_part = box((x, y, z * 0.62), (0, 0, -z * 0.19))
    skirt = box((x * 0.8, y * 0.8, z * 0.12), (0, 0, z * 0.16))
    clamps = []
    for side in (-1, 1):
        clamps.append(box((0.045, 0.05, z * 0.3), (side * x * 0.3, 0, z * 0.32)))
        clamps.append(_axle(0.042, 0.05, (side * x * 0.3, 0.0, z * 0.5)))
    return join([box_part, skirt, *clamps])


def _conventional(model: Model, kind: str) -> Mesh:
    """A lamp that does not move, by what leaves it: a profile's long tube, a Fresnel with doors, a par can."""
    r, h = model.width_m / 2, model.height_m
    if kind in ("Spot", "Rectangle"):
        profile = [(0.0, -h / 2), (r * 0.62, -h / 2), (r * 0.62, -h * 0.08), (r * 0.45, -h * 0.06), (r * 0.9, 0.0),
                   (r, h * 0.2), (r * 0.8, h * 0.46), (0.0, h * 0.5)]  # fmt: skip
        blades = [box((r * 0.08, r * 1.5, 0.006), (0, y * r, -h * 0.03)) for y in (-0.9, 0.9)]
        return join([round_surface(profile, 20), *blades])
    if kind == "Fresnel":
        body = box((model.length_m * 0.8, model.width_m * 0.8, h * 0.7), (0, 0, h * 0.1))
        ring = cylinder(r * 0.78, h * 0.18, (0, 0, -h * 0.32), 22)
        doors = [box((r * 1.3, 0.008, h * 0.34), (0, y * r * 0.95, -h * 0.5)) for y in (-1, 1)]
        doors += [box((0.008, r * 1.3, h * 0.34), (x * r * 0.95, 0, -h * 0.5)) for x in (-1, 1)]
        return join([body, ring, *doors])
    if kind == "PC":
        return _plano_convex(model)
    can = [(r * 0.96, -h / 2), (r, -h * 0.48), (r, h * 0.1), (r * 0.6, h * 0.42), (r * 0.3, h * 0.5), (0.0, h * 0.5)]
    return join([round_surface(can, 22), cylinder(r * 1.06, h * 0.05, (0, 0, -h * 0.46), 22)])


def _hand_yoke(model: Model, drop: float) -> Mesh:
    """The yoke of a conventional: a bridge under the clamp at the origin and two arms down to the pivot, metres."""
    thick = 0.012
    wide = model.length_m - thick
    bridge = box((wide, 0.045, thick), (0, 0, -thick))
    clamp = [box((0.05, 0.05, 0.05), (0, 0, 0.02)), _axle(0.04, 0.05, (0.0, 0.0, 0.0))]
    arms = [box((thick, 0.045, max(drop, 0.05)), (side * wide / 2, 0, -max(drop, 0.05) / 2)) for side in (-1, 1)]
    return join([bridge, *clamp, *arms])


def _plano_convex(model: Model) -> Mesh:
    """A square housing with a round snout, cooling slots on its back and a colour runner."""
    x, y, z = model.length_m, model.width_m, model.height_m
    snout = cylinder(min(x, y) * 0.36, z * 0.34, (0, 0, -z * 0.33), 22)
    runner = box((x * 0.82, y * 0.82, z * 0.03), (0, 0, -z * 0.47))
    slots = [box((x * 0.66, y * 0.04, z * 0.1), (0, side * y * 0.14, z * 0.46)) for side in (-2, -1, 0, 1, 2)]
    return join([box((x * 0.8, y * 0.8, z * 0.56), (0, 0, z * 0.13)), snout, runner, *slots])


def _trough(model: Model) -> Mesh:
    """A flood: an open trough with a lamp tube across it and end plates."""
    x, y, z = model.length_m, model.width_m, model.height_m
    lip = box((x * 0.94, 0.008, z * 0.7), (0, 0, -z * 0.12))
    sides = [moved(turned(lip, about((1.0, 0.0, 0.0), s * 0.42)), (0, s * y * 0.33, 0)) for s in (-1, 1)]
    ends = [box((0.01, y * 0.9, z * 0.8), (side * x * 0.47, 0, -z * 0.05)) for side in (-1, 1)]
    back = box((x * 0.94, y * 0.42, z * 0.16), (0, 0, z * 0.3))
    return join([back, *sides, *ends, _axle(min(y, z) * 0.09, x * 0.8, (0.0, 0.0, z * 0.02))])


def _hood(model: Model) -> Mesh:
    """A cyc light: a housing open to one side, its long reflector hooked over the lamp."""
    x, y, z = model.length_m, model.width_m, model.height_m
    back = box((x * 0.94, y * 0.1, z * 0.95), (0, -y * 0.42, 0))
    top = turned(box((x * 0.94, y * 0.8, z * 0.08)), about((1.0, 0.0, 0.0), -0.5))
    lip = box((x * 0.94, y * 0.06, z * 0.34), (0, y * 0.4, z * 0.02))
    ends = [box((0.01, y * 0.86, z * 0.86), (side * x * 0.47, 0, 0)) for side in (-1, 1)]
    runner = box((x * 0.96, y * 0.9, z * 0.03), (0, 0, -z * 0.45))
    tube = _axle(min(y, z) * 0.09, x * 0.8, (0.0, -y * 0.12, z * 0.05))
    return join([back, moved(top, (0, -y * 0.04, z * 0.32)), lip, *ends, runner, tube])


def _scanner(model: Model) -> Mesh:
    """A long housing, the lens at its end, and two arms beside the mirror that hangs before it."""
    x, y, z = model.length_m, model.width_m, model.height_m
    arms = [box((0.012, y * 0.3, z * 0.3), (side * x * 0.44, 0, -z * 0.42)) for side in (-1, 1)]
    housing = box((x, y, z * 0.8), (0, 0, z * 0.1))
    return join([housing, cylinder(min(x, y) * 0.3, z * 0.1, (0, 0, -z * 0.33), 18), *arms])


def _cells_body(model: Model, cells: int) -> Mesh:
    """A batten or panel: a trough with end plates and fins behind; the lenses are drawn by the stage."""
    x, y, z = model.length_m, model.width_m, model.height_m
    ends = [box((0.02, y * 1.06, z * 1.06), (side * (x / 2 - 0.01), 0, 0)) for side in (-1, 1)]
    fins = [
        box((x / max(cells, 1) * 0.5, y * 0.8, z * 0.25), ((i + 0.5) * x / cells - x / 2, 0, z * 0.5))
        for i in range(cells)
    ]
    return join([box((x, y, z * 0.86)), *ends, *fins])


def _lying(radius: float, length: float) -> Mesh:
    """A cylinder along Y."""
    return turned(cylinder(radius, length, sides=16), about((1.0, 0.0, 0.0), np.pi / 2))


def _laser(model: Model) -> Mesh:
    """A flat housing with a window at -Z and a handle behind."""
    x, y, z = model.length_m, model.width_m, model.height_m
    window = box((x * 0.34, y * 0.28, z * 0.06), (0, 0, -z * 0.47))
    rims = [box((x, y * 0.06, z * 0.08), (0, side * y * 0.45, -z * 0.46)) for side in (-1, 1)]
    fins = [box((x * 0.04, y * 1.04, z * 0.5), (side * x * 0.48, 0, z * 0.1)) for side in (-1, 1)]
    return join(
        [box((x * 0.96, y, z * 0.88)), window, *rims, *fins, box((x * 0.5, y * 0.1, z * 0.06), (0, 0, z * 0.5))]
    )


def _hazer(model: Model) -> Mesh:
    """A box on feet with a nozzle at its front (+Y) and a filling cap."""
    x, y, z = model.length_m, model.width_m, model.height_m
    nozzle = moved(
        turned(cylinder(min(x, z) * 0.16, y * 0.16, sides=18), about((1.0, 0.0, 0.0), np.pi / 2)), (0, y * 0.5, z * 0.1)
    )
    feet = [
        box((x * 0.1, y * 0.1, z * 0.1), (sx * x * 0.4, sy * y * 0.36, -z * 0.46)) for sx in (-1, 1) for sy in (-1, 1)
    ]
    cap = cylinder(min(x, y) * 0.12, z * 0.08, (x * 0.24, -y * 0.2, z * 0.44), 16)
    return join([box((x, y * 0.86, z * 0.8)), nozzle, cap, *feet])


def _mirror(model: Model) -> Mesh:
    """A flat mirror that looks along -Z, and the axle that tilts it, behind it."""
    x, y, z = model.length_m, model.width_m, model.height_m
    glass = min(z, 0.012)
    return join([box((x, y, glass), (0, 0, glass / 2)), _axle(z * 0.3, x * 1.3, (0.0, 0.0, glass))])


def _scroller(model: Model) -> Mesh:
    """A frame with a roll on either side: what changes a conventional's colour."""
    x, y, z = model.length_m, model.width_m, model.height_m
    rails = [box((x, y * 0.12, z), (0, side * y * 0.44, 0)) for side in (-1, 1)]
    rolls = [moved(_lying(z * 0.5, y * 0.9), (side * x * 0.46, 0, 0)) for side in (-1, 1)]
    return join([*rails, *rolls])


PRIMITIVES: dict[str, Callable[[Model], Mesh]] = {"Yoke": _yoke, "Head": _head, "Base": _base, "Scanner": _scanner}
OWN: dict[str, Callable[[Model], Mesh]] = {
    "Laser": _laser, "Hazer": _hazer, "Mirror": _mirror, "Scroller": _scroller,
    "Flood": _trough, "Cyc": _hood,
}  # fmt: skip
"""What GDTF has no primitive for is told by the part's own name, in types of ours."""


def _primitive(model: Model, kind: str, cells: int) -> Mesh:
    """The mesh of a part from GDTF's primitive; `kind` is the BeamType of its lamp, `cells` how many lenses it has."""
    size = (model.length_m, model.width_m, model.height_m)
    name = model.primitive.removesuffix("1_1")
    made = PRIMITIVES.get(name) or (OWN.get(model.name) if name == "Undefined" else None)
    if made is not None:
        return made(model)
    if name == "Conventional":
        return _conventional(model, kind)
    if name == "Cylinder":
        return cylinder(max(size[0], size[1]) / 2, size[2])
    if name == "Sphere":
        return ellipsoid(np.array(size) / 2, sides=16, rings=10)
    return _cells_body(model, cells) if name == "Cube" and cells > 2 else box(size)


def fitted(mesh: Mesh, model: Model) -> Mesh:
    """A mesh of the maker's own, fitted to Length (x), Width (y) and Height (z) about its own origin."""
    low, high = mesh.bounds()
    wanted = np.array([model.length_m, model.width_m, model.height_m])
    scale = np.where(wanted > 1e-6, wanted / np.maximum(high - low, 1e-9), 1.0)
    return Mesh(
        (mesh.vertices * scale).astype(np.float32), unit(mesh.normals / scale).astype(np.float32), mesh.triangles
    )


def _shift(matrix: Floats) -> Floats:
    """What moves of a matrix (4, 4)."""
    only = np.zeros((4, 4))
    only[:3, 3] = matrix[:3, 3]
    return only


def body_parts(fixture_type: FixtureType, mode_name: str) -> list[BodyPart]:
    """The body of a type in a mode: each part in the frame of what it turns with (chain, pan axis, tilt axis)."""
    chain: Chain = chain_of(fixture_type, mode_name)
    models = {model.name: model for model in fixture_type.models}
    meshes: dict[int, list[Mesh]] = {}
    cells = len(chains_of(fixture_type, mode_name))
    by_hand = not chain.moves and chain.beam is not DARK
    back = {0: inverse(chain.mount_turn), 1: about((0.0, 0.0, 1.0), -chain.pan_zero), 2: np.array(NO_TURN)}

    def _part(model: Model) -> Mesh:
        own = fixture_type.own_meshes.get(model.file or "")
        return fitted(own, model) if own is not None else _primitive(model, chain.beam.kind, cells)

    def visit(node: Geometry, turns: int, place: Floats) -> None:
        here = place @ np.asarray(node.matrix)
        if node is root and by_hand:
            # All of it tilts in its yoke, about where its root is.
            turns, here = 2, here - _shift(here)
        if node.name == chain.pan_node:
            turns, here = 1, np.eye(4)
        if node.name == chain.tilt_node:
            turns, here = 2, np.eye(4)
        if node.model in models:
            part = turned(_part(models[str(node.model)]), from_matrix(here[:3, :3]))
            meshes.setdefault(turns, []).append(turned(moved(part, here[:3, 3]), back[turns]))
        for child in node.children:
            visit(child, turns, here)

    root = fixture_type.root(fixture_type.mode(mode_name))
    visit(root, 0, np.eye(4))
    lamp = models.get(root.model or "")
    if by_hand and lamp is not None and lamp.primitive.removesuffix("1_1") == "Conventional":
        meshes.setdefault(1, []).append(_hand_yoke(lamp, -chain.tilt_offset[2]))
    return [BodyPart(turns, join(parts)) for turns, parts in sorted(meshes.items())]


def body_at_home(fixture_type: FixtureType, mode_name: str) -> list[Mesh]:
    """The meshes of a body in its clamp's frame, nothing panned and nothing tilted."""
    chain = chain_of(fixture_type, mode_name)
    pan, tilt = about((0.0, 0.0, 1.0), chain.pan_zero), about((1.0, 0.0, 0.0), chain.tilt_zero)
    meshes = []
    for part in body_parts(fixture_type, mode_name):
        mesh = part.mesh
        if part.turns == 2:
            mesh = moved(turned(mesh, tilt), np.asarray(chain.tilt_offset))
        if part.turns >= 1:
            mesh = moved(turned(mesh, pan), np.asarray(chain.pan_offset))
        meshes.append(turned(mesh, np.asarray(chain.mount_turn)))
    return meshes
