"""The bodies of what hangs on the rig, and of the types it is made of."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from zarfwright.core.lasers.zone import LaserHead
from zarfwright.core.rig.gels import Gel
from zarfwright.core.rig.lamps import Lamp
from zarfwright.core.space import ORIGIN, Placement, Vec

Side = Literal["under", "upper", "left", "right"]


@dataclass(frozen=True)
class Hang:
    """How a fixture holds on to a rail of a structure."""

    structure: str
    rail: str
    along_m: float
    side: Side = "under"
    turn_deg: float = 0.0
    """Turned further about the rail, from what `side` gives."""
    spin_deg: float = 0.0
    """Turned about its own upright axis."""
    on_slopes: Literal["follow", "plumb"] = "follow"
    out_m: float = 0.0
    """On an out-rigger arm, so far to the left of the rail, seen from its start; negative: to the right."""
    drop_m: float = 0.0
    """On a drop pipe, so far below the rail; negative: on a stand above it."""
    clamps: int = 1
    """By how many clamps it holds on."""


@dataclass(frozen=True)
class Aim:
    """What a head or a yoke is pointed at: it is turned there anew whenever that or its own mount moves."""

    place: Vec
    """Where in the show's frame; of a focus point, where that was last, offset and all."""
    point: str | None = None
    """The focus point that it is aimed at; None: at the place alone."""
    offset: Vec = ORIGIN
    """How far beside the focus point, metres in the show's frame."""
    kept: bool = False
    """It looks there while a driver carries it or its point, whoever drives its pan and tilt."""


@dataclass(frozen=True)
class FocusPoint:
    """A named place that heads are aimed at. What it rides on takes it along."""

    name: str
    position: Vec = ORIGIN
    number: int | None = None
    rides: str | None = None
    """The figure or carrier that it rides on."""
    offset: Vec = ORIGIN
    """Where it is in the frame of what it rides on, metres."""


PaletteSort = Literal["position", "colour", "beam"]


@dataclass(frozen=True)
class Palette:
    """A position, a colour or a beam under a name, to be given to any selection."""

    name: str
    number: int | None = None
    sort: PaletteSort = "colour"
    focus: str | None = None
    """Of a position: the focus point that everybody is aimed at."""
    aims: dict[str, Aim] = field(default_factory=dict)
    """Of a position: what each is aimed at, by fixture."""
    angles: dict[str, tuple[float, float]] = field(default_factory=dict)
    """Of a position: pan and tilt in radians of who is aimed at nothing, by fixture."""
    xy: tuple[float, float] | None = None
    """Of a colour: CIE 1931 x, y, mixed anew by each type."""
    values: dict[str, float] = field(default_factory=dict)
    """Of a beam: features, given to whoever has them."""


@dataclass(frozen=True)
class Drives:
    """What a driver moves, about which pivot and along which axes (core/carriers). What its channels do, and how fast,
    is in its type."""

    thing: str
    """The carrier, or the one thing."""
    pivot: Vec = ORIGIN
    """What it turns and grows about, metres from the thing's own place, in the thing's own frame in plan."""
    turned_deg: float = 0.0
    """How far its axes are turned about the upright axis, against the thing's."""
    raked_deg: float = 0.0
    """How far its X axis is then raked up."""


@dataclass(frozen=True)
class Fixture:
    """One fixture. It hangs (`hang`) or is placed freely (`placement`), never both."""

    type: str
    mode: str
    hang: Hang | None = None
    placement: Placement | None = None
    number: int | None = None
    unit: int | None = None
    universe: int | None = None
    address: int | None = None
    breaks: tuple[tuple[int, int, int], ...] = ()
    """Where further breaks of its mode are, as (break, universe, slot); one not named follows the one before it."""
    purpose: str = ""
    note: str = ""
    """Anything else, for labels and lists."""
    circuit: str = ""
    dimmer: int | None = None
    """Where it is plugged, and the dimmer behind that; several fixtures may share either."""
    gel: Gel | None = None
    """The colour in its frame, before all of its beams; none: its own light."""
    hands: dict[str, float] = field(default_factory=dict)
    """Values held by hand, by feature (core/dmx/features.py): they win over console and look."""
    cells: dict[str, dict[str, float]] = field(default_factory=dict)
    """What single cells are held at, by the number of the cell (from 1) and feature, over what all of them are."""
    fixed: dict[str, float] = field(default_factory=dict)
    """What is set at the lamp itself and stays, by feature: how its yoke is turned (`pan`, `tilt`), blades, focus. It
    belongs to the hang: neither console nor look changes it."""
    lamp: Lamp | None = None
    """The lamp in it; None: the one of its type."""
    lens_deg: float | None = None
    """The field angle of the lens tube in it; None: the one of its type."""
    aim: Aim | None = None
    """What it was pointed at; None: it was turned by angles, or not at all."""
    palettes: dict[str, str] = field(default_factory=dict)
    """The palette that what is held comes of, by its sort; taken away by whatever else sets that."""
    drives: Drives | None = None
    """What it moves, where it is no lamp but a driver."""
    laser: LaserHead | None = None
    """What it draws and where, where it is a laser; None: it takes no feed, and its zone is the usual one."""


@dataclass(frozen=True)
class Carrier:
    """A handle that other things hang on (those whose parent it is): they move and turn with it. `position` is its
    pivot."""

    name: str
    number: int | None = None
    position: Vec = ORIGIN
    turn_deg: float = 0.0


LABEL_FIELDS = (
    "number",
    "unit",
    "address",
    "type",
    "purpose",
    "note",
    "circuit",
    "dimmer",
    "mode",
    "position",
    "colour",
)
LABEL_SHAPES = ("plain", "box", "circle", "hexagon", "lozenge", "bar")
LABEL_VIEWS = ("plan", "front", "back", "left", "right", "section", "free")


@dataclass(frozen=True)
class LabelStyle:
    """How fixtures are labelled: which fields in which shapes, in this order, in which views."""

    name: str
    parts: tuple[tuple[str, str], ...] = (("number", "circle"),)
    """Fields (LABEL_FIELDS) and their shapes (LABEL_SHAPES)."""
    views: tuple[str, ...] = ("plan",)
    size_mm: float = 180.0
    """The height of its text in plans and elevations, in the show's own millimetres."""
    size_px: float = 11.0
    """The same in the free picture, in pixels."""
    leader: bool = True
    """Whether a line goes to the clamp where the label stands aside of it."""
    types: tuple[str, ...] = ()
    """For fixtures of these types only; empty: of all."""


@dataclass(frozen=True)
class TypeEntry:
    """A fixture type that the show keeps a copy of."""

    name: str
    maker: str
    asset: str
    """sha256 of the GDTF file among the show's assets."""
