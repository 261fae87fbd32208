"""Structures to hang from: straight, upright and curved, of lattice or pipe; their rails, their meshes, their weight.

A structure's axis is a line of stations in its own frame, each with the way along it, to its left and up across it.
Straight: along +X, origin in the middle. Upright: along +Z from its foot, its face (up across it) downstage. Arc: about
the origin in the XY plane, its left is inwards; it begins at +Y and runs anticlockwise.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from zarfwright.core.errors import JobError
from zarfwright.core.mesh import Mesh, cylinder, join, tubes
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Floats, Placement, Vec, about, multiply, quat, rotate, unit, vec

CHORD_RADIUS_M = 0.025
BRACE_RADIUS_M = 0.01
BASE_RADIUS_M = 0.35
ARM_TOP_M = 0.15
"""The highest arm is this far below the top."""
ARC_PANEL_DEG = 7.5
ARC_START_RAD = math.pi / 2
"""An arc begins upstage of its centre."""
UP = np.array([0.0, 0.0, 1.0])

# Rails by name: offset across (to the left, looking from start to end) and up, as shares of the section.
LATTICES: dict[str, dict[str, tuple[float, float]]] = {
    "box": {"lower left": (0.5, 0.0), "lower right": (-0.5, 0.0), "upper left": (0.5, 1.0), "upper right": (-0.5, 1.0)},
    "triangle": {"lower left": (0.5, 0.0), "lower right": (-0.5, 0.0), "upper": (0.0, 0.866)},
    "flat": {"left": (0.5, 0.0), "right": (-0.5, 0.0)},
    "ladder": {"lower": (0.0, 0.0), "upper": (0.0, 1.0)},
    "pipe": {"pipe": (0.0, 0.0)},
}
# Which corners are braced to which, by lattice: the sides of the section.
SIDES: dict[str, tuple[tuple[int, int], ...]] = {
    "box": ((0, 1), (1, 3), (3, 2), (2, 0)), "triangle": ((0, 1), (1, 2), (2, 0)), "flat": ((0, 1),),
    "ladder": ((0, 1),), "pipe": (),
}  # fmt: skip


@dataclass(frozen=True)
class Bend:
    """A rail's circle in the show's frame: centre, the two axes of its plane, radius, and where it begins and ends."""

    centre: Vec
    x: Vec
    y: Vec
    radius_m: float
    start_rad: float
    span_rad: float


@dataclass(frozen=True)
class Rail:
    """A line that fixtures clamp to: ends in metres in the show's frame, and the structure's up across it."""

    name: str
    start: Vec
    end: Vec
    up: Vec
    """Unit vector across the rail, in the upright plane through it; of an arc, the normal of its plane."""
    bend: Bend | None = None

    @property
    def length_m(self) -> float:
        return self.bend.radius_m * self.bend.span_rad if self.bend else math.dist(self.start, self.end)

    @property
    def closed(self) -> bool:
        """Whether it comes round to its start."""
        return self.bend is not None and self.bend.span_rad > 2 * math.pi - 1e-9

    def at(self, along_m: float) -> Floats:
        """The point (3,) at a distance from the start."""
        if self.bend is not None:
            angle = self.bend.start_rad + along_m / self.bend.radius_m
            out = math.cos(angle) * np.asarray(self.bend.x) + math.sin(angle) * np.asarray(self.bend.y)
            return np.asarray(np.asarray(self.bend.centre) + self.bend.radius_m * out)
        share = along_m / self.length_m if self.length_m else 0.0
        start = np.asarray(self.start)
        return np.asarray(start + share * (np.asarray(self.end) - start))

    def direction_at(self, along_m: float) -> Floats:
        """Unit vector (3,) along the rail, from start to end, at a distance from the start."""
        if self.bend is not None:
            angle = self.bend.start_rad + along_m / self.bend.radius_m
            return np.asarray(-math.sin(angle) * np.asarray(self.bend.x) + math.cos(angle) * np.asarray(self.bend.y))
        return unit(np.asarray(self.end) - np.asarray(self.start))

    @property
    def direction(self) -> Floats:
        """Unit vector (3,) along the rail in its middle."""
        return self.direction_at(self.length_m / 2)


def truss_placement(truss: Truss) -> Placement:
    """The truss's own frame in the show: turned in plan, then raised at its end by the rake."""
    turn = about((0.0, 0.0, 1.0), math.radians(truss.turn_deg))
    if truss.form == "upright":
        return Placement(truss.position, quat(turn))
    rake = about((0.0, 1.0, 0.0), -math.radians(truss.rake_deg))
    return Placement(truss.position, quat(multiply(turn, rake)))


def rail_names(truss: Truss) -> list[str]:
    """The names of its rails: those of an arc are inner and outer, not left and right; then the arms of a boom."""
    names = list(LATTICES[truss.lattice])
    if truss.form == "arc":
        names = [name.replace("left", "inner").replace("right", "outer") for name in names]
    arms = truss.arms if truss.form == "upright" else 0
    return [*names, *(f"arm {k + 1}" for k in range(arms))]


def axis_length_m(truss: Truss) -> float:
    """The length of its axis."""
    return math.radians(truss.span_deg) * truss.diameter_m / 2 if truss.form == "arc" else truss.length_m


def weight_kg(truss: Truss) -> float:
    """What it weighs, by its length and its weight per metre; arms count as pipe of the same."""
    arms = truss.arms * truss.arm_m if truss.form == "upright" else 0.0
    return (axis_length_m(truss) + arms) * truss.kg_per_m


def _arm_heights(truss: Truss) -> list[float]:
    return [truss.length_m - ARM_TOP_M - k * truss.arm_pitch_m for k in range(truss.arms)]


@lru_cache(maxsize=2048)
def truss_rails(truss: Truss) -> Mapping[str, Rail]:
    """The rails of a structure by name."""
    placement = truss_placement(truss)
    names, offsets = rail_names(truss), LATTICES[truss.lattice].values()
    rails = {}
    for name, (across, above) in zip(names, offsets, strict=False):
        side, lift = across * truss.section_m, above * truss.section_m
        if truss.form == "arc":
            rails[name] = _arc_rail(truss, placement, name, side, lift)
            continue
        if truss.form == "upright":
            # Left is stage right, up across it is downstage.
            local, up = [(-side, -lift, z) for z in (0.0, truss.length_m)], np.array([0.0, -1.0, 0.0])
        else:
            half = truss.length_m / 2
            local, up = [(x, side, lift) for x in (-half, half)], UP
        start, end = placement.apply(local)
        rails[name] = Rail(name, vec(start), vec(end), vec(rotate(placement.rotation, up)))
    if truss.form == "upright":
        for k, height in enumerate(_arm_heights(truss)):
            start, end = placement.apply([(x, 0.0, height) for x in (-truss.arm_m / 2, truss.arm_m / 2)])
            rails[f"arm {k + 1}"] = Rail(f"arm {k + 1}", vec(start), vec(end), vec(UP))
    return rails


def _arc_rail(truss: Truss, placement: Placement, name: str, inward: float, lift: float) -> Rail:
    radius = max(truss.diameter_m / 2 - inward, 0.05)
    x, y, normal = (rotate(placement.rotation, axis) for axis in np.eye(3))
    centre = placement.apply([(0.0, 0.0, lift)])[0]
    bend = Bend(vec(centre), vec(x), vec(y), radius, ARC_START_RAD, math.radians(truss.span_deg))
    bare = Rail(name, vec(centre), vec(centre), vec(normal), bend)
    return Rail(name, vec(bare.at(0.0)), vec(bare.at(bare.length_m)), vec(normal), bend)


def rail_of(truss: Truss, name: str) -> Rail:
    """One rail of a truss. Raises JobError if it has none of that name."""
    rails = truss_rails(truss)
    if name not in rails:
        raise JobError(f"{truss.name} has no rail “{name}”: choose one of {', '.join(rails)}.", "rail")
    return rails[name]


def raked_length_m(truss: Truss) -> float:
    """The length over which its rake rises: an arc's is its diameter."""
    return truss.diameter_m if truss.form == "arc" else truss.length_m


def end_trims_m(truss: Truss) -> tuple[float, float]:
    """Heights of the lower rails at start and end (of an arc: at its two sides); of an upright one, foot and top."""
    if truss.form == "upright":
        return truss.position[2], truss.position[2] + truss.length_m
    rise = math.sin(math.radians(truss.rake_deg)) * raked_length_m(truss) / 2
    return truss.position[2] - rise, truss.position[2] + rise


def rake_for_trims(length_m: float, start_m: float, end_m: float) -> tuple[float, float]:
    """The middle trim in metres and the rake in degrees of a truss of true length with these end trims."""
    if abs(end_m - start_m) > length_m:
        raise JobError(
            f"A truss of {length_m:.2f} m cannot rise {abs(end_m - start_m):.2f} m: lengthen it or level its ends."
        )
    return (start_m + end_m) / 2, math.degrees(math.asin((end_m - start_m) / length_m))


def _lattice(corners: Floats, sides: tuple[tuple[int, int], ...], closed: bool) -> Mesh:
    """Chords through corners (stations, chords, 3), frames at the ends and diagonals on all sides."""
    chords = tubes(corners[:-1].reshape(-1, 3), corners[1:].reshape(-1, 3), CHORD_RADIUS_M, 8)
    starts, ends = [], []
    for a, b in sides:
        for i in range(len(corners) - 1):
            first, second = (a, b) if i % 2 == 0 else (b, a)
            starts.append(corners[i, first])
            ends.append(corners[i + 1, second])
        for i in () if closed else (0, -1):
            starts.append(corners[i, a])
            ends.append(corners[i, b])
    return join([chords, tubes(starts, ends, BRACE_RADIUS_M, 5)]) if starts else chords


def truss_mesh(length_m: float, section_m: float, lattice: str = "box") -> Mesh:
    """A straight one in its own frame: chords, end frames, and diagonals on all sides."""
    panels = max(1, round(length_m / (section_m * 1.25))) if lattice != "pipe" else 1
    x = np.linspace(-length_m / 2, length_m / 2, panels + 1)
    offsets = np.array(list(LATTICES[lattice].values())) * section_m
    corners = np.stack([[(along, side, lift) for side, lift in offsets] for along in x])
    return _lattice(corners, SIDES[lattice], False)


def arc_mesh(diameter_m: float, span_deg: float, section_m: float, lattice: str) -> Mesh:
    """An arc or ring in its own frame."""
    panels = max(3, round(span_deg / ARC_PANEL_DEG))
    panels += panels % 2
    angle = ARC_START_RAD + np.radians(np.linspace(0.0, span_deg, panels + 1))
    out = np.stack([np.cos(angle), np.sin(angle), np.zeros_like(angle)], axis=-1)
    offsets = np.array(list(LATTICES[lattice].values())) * section_m
    corners = np.stack([out * (diameter_m / 2 - side) + lift * UP for side, lift in offsets], axis=1)
    return _lattice(corners, SIDES[lattice], span_deg >= 360.0 - 1e-9)


def upright_mesh(truss: Truss) -> Mesh:
    """An upright one in its own frame: on a round base, with its arms."""
    offsets = np.array(list(LATTICES[truss.lattice].values())) * truss.section_m
    panels = max(1, round(truss.length_m / (truss.section_m * 1.25))) if truss.lattice != "pipe" else 1
    z = np.linspace(0.0, truss.length_m, panels + 1)
    corners = np.stack([[(-side, -lift, height) for side, lift in offsets] for height in z])
    parts = [_lattice(corners, SIDES[truss.lattice], False), cylinder(BASE_RADIUS_M, 0.05, (0.0, 0.0, 0.025), 20)]
    heights = _arm_heights(truss)
    if heights:
        half = truss.arm_m / 2
        parts.append(tubes([(-half, 0.0, h) for h in heights], [(half, 0.0, h) for h in heights], CHORD_RADIUS_M, 8))
    return join(parts)


def structure_mesh(truss: Truss) -> Mesh:
    """The mesh of any structure in its own frame."""
    if truss.form == "arc":
        return arc_mesh(truss.diameter_m, truss.span_deg, truss.section_m, truss.lattice)
    if truss.form == "upright":
        return upright_mesh(truss)
    return truss_mesh(truss.length_m, truss.section_m, truss.lattice)


def side_of_stage(direction: Floats) -> str:
    """The trade's word for a direction in plan: SL, SR, US or DS, whichever is nearest."""
    x, y = float(direction[0]), float(direction[1])
    if abs(x) >= abs(y):
        return "SL" if x >= 0 else "SR"
    return "US" if y >= 0 else "DS"


def rail_label(truss: Truss, name: str) -> str:
    """A rail as a crew would call it: `lower rail US`, `lower inner rail`, `pipe`, `arm 2`."""
    rail = rail_of(truss, name)
    if truss.form == "arc" and truss.lattice != "pipe":
        return f"{name} rail"
    if not name.endswith(("left", "right")):
        return name if name.startswith(("pipe", "arm")) else f"{name} rail"
    across = np.cross(np.asarray(rail.up), rail.direction) * (1.0 if name.endswith("left") else -1.0)
    stem = name.rpartition(" ")[0]
    return f"{stem} rail {side_of_stage(across)}".strip()


def start_side(truss: Truss) -> str:
    """The side of the stage that the truss starts from: distances along are measured from there."""
    first = truss_rails(truss)[rail_names(truss)[0]]
    if truss.form == "upright":
        return "the foot"
    if first.bend is not None:
        return side_of_stage(first.at(0.0) - np.asarray(first.bend.centre))
    return side_of_stage(-first.direction)
