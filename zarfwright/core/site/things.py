"""The bodies of what stands on the site. Lengths in metres, angles in degrees where the name ends in `_deg`."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from zarfwright.core.space import ORIGIN, Vec

Finish = Literal["black", "gloss", "timber", "cloth", "brick", "steel", "gauze", "black gauze", "translucent"]
"""What a thing is faced with: matt black paint, a gloss floor, bare timber, light cloth, brick, bare steel; gauze of
light or black thread, seen through where what is behind is brighter; cloth or screen that shows light from behind."""


@dataclass(frozen=True)
class Venue:
    """A room: floor, four walls and a gable roof. The setting line is y = 0, the centre line x = 0."""

    name: str
    width_m: float
    upstage_m: float
    """From the setting line to the upstage wall."""
    downstage_m: float
    """From the setting line to the wall behind the house."""
    eave_m: float
    ridge_m: float
    centre_m: float = 0.0
    """How far stage left of the centre line the middle of the room is."""


@dataclass(frozen=True)
class Drawing:
    """A base drawing under the work: lines of a file among the assets, dimmed, snapped to, never lit."""

    name: str
    asset: str
    layers: tuple[str, ...]
    """Which of the file's layers are shown."""
    metres: float = 1.0
    """What a unit of the file is."""
    origin: tuple[float, float] = (0.0, 0.0)
    """The place in the file's own units that is centre line x setting line."""
    turn_deg: float = 0.0
    shown: bool = True


@dataclass(frozen=True)
class Deck:
    """What is walked on. `position` is the middle of its plan, at the height of what it stands on."""

    name: str
    position: Vec = ORIGIN
    width_m: float = 2.0
    depth_m: float = 1.0
    height_m: float = 0.4
    turn_deg: float = 0.0
    finish: Finish = "black"
    """What it is faced with: it matters for how much light it gives back."""
    corners: tuple[tuple[float, float, float], ...] = ()
    """Its outline about `position` (x, y, bulge: core/site/outline.py); empty: a rectangle of width and depth."""
    made: Literal["deck", "riser", "steps", "ramp"] = "deck"
    """A platform on legs, a solid block, or a rise over the whole of its outline."""
    fascia: bool = True
    """Whether the legs of a platform are hidden all round."""
    count: int = 4
    """Of steps."""
    rise_deg: float = 90.0
    """Which way steps and ramps rise, in its own plan: 0 towards stage left, 90 upstage."""


@dataclass(frozen=True)
class Wall:
    """A wall along an outline. `position` is the origin of its corners, at the height of what it stands on."""

    name: str
    corners: tuple[tuple[float, float, float], ...]
    position: Vec = ORIGIN
    closed: bool = False
    height_m: float = 3.0
    thickness_m: float = 0.1
    openings: tuple[tuple[float, float, float, float], ...] = ()
    """Doors and windows: how far along its middle begins, how wide, and from which height to which."""
    finish: Finish = "cloth"


@dataclass(frozen=True)
class Panel:
    """A flat thing of any outline that stands upright: a cut-out, a gable, a cloth. Its corners are across (to its own
    right, seen from its face) and up from `position`; it faces downstage until it is turned."""

    name: str
    corners: tuple[tuple[float, float, float], ...]
    position: Vec = ORIGIN
    turn_deg: float = 0.0
    thickness_m: float = 0.04
    finish: Finish = "cloth"


@dataclass(frozen=True)
class Piece:
    """A piece of scenery. `position` is the middle of its plan, at the height of what it stands on."""

    name: str
    piece: Literal[
        "flat", "platform", "rostrum", "steps", "ramp", "drape", "cyc", "screen", "table", "chair", "music stand",
        "piano", "barrier", "column", "balustrade",
    ]  # fmt: skip
    position: Vec = ORIGIN
    turn_deg: float = 0.0
    width_m: float = 1.0
    depth_m: float = 1.0
    height_m: float = 1.0
    count: int = 3
    """Of steps or barriers."""
    fullness: float = 0.5
    """Of a drape: how much more cloth there is than it hangs wide."""
    lift_m: float = 1.2
    """Of a screen: its lower edge above what it stands on."""
    finish: Finish = "black"


@dataclass(frozen=True)
class MeshPiece:
    """A mesh out of a file among the assets, as a set piece or a room. `position` is its own origin."""

    name: str
    asset: str
    position: Vec = ORIGIN
    turn_deg: float = 0.0
    scale: float = 1.0
    """Metres in a unit of the file."""
    up: Literal["y", "z"] = "z"
    """Which of the file's axes points up."""
    reflectance: float = 0.4
    """How much light it gives back, diffusely, where its file names no material: it matters for lux."""
    reflectances: dict[str, float] = field(default_factory=dict)
    """The same by the name of a material, where it is not what the file's colour gives."""
    triangles: int | None = None
    """Simplified to about so many; None: as in the file."""
    axes: tuple[Vec, Vec, Vec] | None = None
    """Where the file's X, Y and Z lie before it is turned and sized: tilted, stretched, mirrored; None: as they are."""

    @property
    def drawn(self) -> str:
        """The name of the mesh that is drawn, among a show's: that of its asset, or of one with fewer triangles."""
        return self.asset if self.triangles is None else f"{self.asset} {self.triangles}"


@dataclass(frozen=True)
class Truss:
    """A structure to hang from. `position` is the middle of its lower rails (its z is the trim there); the foot of an
    upright one; the centre of an arc or ring."""

    name: str
    position: Vec = (0.0, 0.0, 6.0)
    length_m: float = 8.0
    """True length along its axis, raked or not; an upright one's height. An arc has its own from diameter and span."""
    turn_deg: float = 0.0
    """Direction from start to end in plan: 0 towards stage left, 90 upstage."""
    rake_deg: float = 0.0
    """How far its end is raised above level."""
    section_m: float = 0.4
    kg_per_m: float = 9.5
    form: Literal["straight", "upright", "arc"] = "straight"
    lattice: Literal["box", "triangle", "flat", "ladder", "pipe"] = "box"
    diameter_m: float = 5.0
    """Of an arc or ring, to its axis."""
    span_deg: float = 360.0
    """How much of a ring an arc is; 360 is all of it. It begins upstage and runs by stage right."""
    arms: int = 0
    """Of an upright pipe: level arms from the top down, each a rail of its own."""
    arm_m: float = 1.0
    arm_pitch_m: float = 0.6
    hoists: int = 0
    """Points that it is lifted at, evenly along it; drawn with their chains up to the steel."""
    bridle_m: float = 0.0
    """How far apart the two legs of each point's bridle are at the steel; 0: straight up."""
    steel_m: float = 0.0
    """The height of the steel that the points go to; 0: two metres over its highest point."""


@dataclass(frozen=True)
class Figure:
    """One person. `position` is on the surface they stand on, or that their chair stands on."""

    name: str
    position: Vec = ORIGIN
    pose: Literal["standing", "sitting", "playing", "arms up"] = "standing"
    height_m: float = 1.72
    turn_deg: float = 0.0
    """Which way they face: 0 upstage, 90 stage right (anticlockwise in plan)."""
    group: str = ""
    path: tuple[Vec, ...] = ()
    """Where they walk, from place to place; empty: nowhere."""


@dataclass(frozen=True)
class Crowd:
    """People in an area. The area itself is not drawn; the same values give the same people (core/site/crowd.py)."""

    name: str
    corners: tuple[tuple[float, float, float], ...]
    """The closed outline of the area in plan: x, y, bulge (core/site/outline.py)."""
    z_m: float = 0.0
    """The height of what they stand on, in the front row."""
    seating: Literal["standing", "rows"] = "standing"
    count: int | None = None
    """How many; None: by `per_m2`, or every seat of the rows."""
    per_m2: float = 1.5
    pitch_m: float = 0.55
    """From seat to seat in a row."""
    row_m: float = 0.9
    """From row to row."""
    stagger: bool = False
    rise_m: float = 0.0
    """By how much each row is higher than the one before it."""
    target: tuple[float, float] | None = None
    """What they look at, in plan; None: the middle of the stage."""
    aisles: tuple[tuple[float, float, float, float, float], ...] = ()
    """Strips that stay free: from x, y to x, y, and how wide."""
    clear: tuple[tuple[tuple[float, float, float], ...], ...] = ()
    """Outlines in plan that stay free: what stands in the area."""
    seed: int = 1
    mix: dict[str, float] = field(default_factory=dict)
    """Poses by weight; empty: all alike, as the seating asks."""
    body_radius_m: float = 0.25
    height_m: float = 1.72
    height_spread_m: float = 0.08
    left_out: tuple[int, ...] = ()
    """Who is not needed, by number from 0, for nobody would miss them from the chosen viewpoints."""
    left_for: str = ""
    """For which values of the others that was worked out: with other values all are there again."""
