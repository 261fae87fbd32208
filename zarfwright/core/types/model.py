"""What a fixture type is, in the words of GDTF (DIN SPEC 15800).

Geometry matrices are 4x4 row-major tuples in metres, translation in the last column, relative to the parent.
Physical values are in the attribute's own unit: degrees for Pan, Tilt and Zoom, Hz for strobe, shares 0..1 else.
Geometry references are opened when a file is read (formats/gdtf/references.py): here every part is there by itself.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property
from hashlib import sha256
from typing import Any

Matrix = tuple[tuple[float, float, float, float], ...]
IDENTITY: Matrix = ((1.0, 0.0, 0.0, 0.0), (0.0, 1.0, 0.0, 0.0), (0.0, 0.0, 1.0, 0.0), (0.0, 0.0, 0.0, 1.0))


def shifted(x: float, y: float, z: float) -> Matrix:
    """A geometry matrix that only moves."""
    return ((1.0, 0.0, 0.0, x), (0.0, 1.0, 0.0, y), (0.0, 0.0, 1.0, z), (0.0, 0.0, 0.0, 1.0))


def leaning(x: float, y: float, z: float, degrees: float) -> Matrix:
    """A geometry matrix that turns about X, then moves."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return ((1.0, 0.0, 0.0, x), (0.0, c, -s, y), (0.0, s, c, z), (0.0, 0.0, 0.0, 1.0))


MIRROR_DOWN_DEG = 135.0
"""How a mirror leans before a lying lamp whose light travels along -Z of its body, to send it to the body's +Y."""


@dataclass(frozen=True)
class Chromaticity:
    """CIE 1931 x, y and Y (Y up to 100)."""

    x: float = 0.3127
    y: float = 0.3290
    luminance: float = 100.0


@dataclass(frozen=True)
class Model:
    """The outer size of a part in metres, and the primitive that stands for it."""

    name: str
    length_m: float
    width_m: float
    height_m: float
    primitive: str = "Cube"
    file: str | None = None
    """A mesh of its own in the GDTF archive (models/gltf/<file>.glb), fitted to the size."""


@dataclass(frozen=True)
class LaserSource:
    """What a laser is, in GDTF's terms of its geometry Laser."""

    output_w: float = 1.0
    """Radiant power, all its wavelengths together."""
    wavelength_nm: float = 0.0
    """Of a single one; 0: it mixes, by its emitters."""
    diameter_m: float = 0.004
    """How wide its beam is at the head."""
    divergence_mrad: float = 1.0
    """The full angle by which it grows."""
    scan_across_deg: float = 60.0
    """How far its mirrors sweep, from edge to edge."""
    scan_up_deg: float = 60.0
    scan_kpps: float = 30.0
    """Thousands of points a second that its mirrors are rated at, over 8 degrees."""


@dataclass(frozen=True)
class BeamSource:
    """What leaves a lens: full angles in degrees, flux in lumen, colour temperature in kelvin."""

    kind: str = "Spot"
    lamp: str = "LED"
    flux_lm: float = 10000.0
    colour_temperature_k: float = 6000.0
    beam_angle_deg: float = 15.0
    field_angle_deg: float = 20.0
    lens_radius_m: float = 0.05
    power_w: float = 300.0
    laser: LaserSource | None = None


@dataclass(frozen=True)
class Geometry:
    """One node of the tree: kind is GDTF's word for it (Geometry, Axis, Beam, Laser, Display ...)."""

    name: str
    kind: str = "Geometry"
    model: str | None = None
    matrix: Matrix = IDENTITY
    beam: BeamSource | None = None
    children: tuple[Geometry, ...] = ()

    def walk(self, above: tuple[Geometry, ...] = ()) -> Iterator[tuple[Geometry, tuple[Geometry, ...]]]:
        """Each node with the nodes above it, the outermost first."""
        yield self, above
        for child in self.children:
            yield from child.walk((*above, self))


@dataclass(frozen=True)
class Facet:
    """One copy that a prism makes: shifted in gate radii (1 moves the middle to the rim), then turned."""

    x: float
    y: float
    turn_deg: float = 0.0


@dataclass(frozen=True)
class WheelSlot:
    """One slot: a colour it lets through, an image (a file in the archive), a prism's facets, or open."""

    name: str
    colour: Chromaticity | None = None
    image: str | None = None
    facets: tuple[Facet, ...] = ()
    filter: str | None = None
    """The name of the filter that it is."""


@dataclass(frozen=True)
class Wheel:
    """A wheel; slots are counted from 1, as channel sets refer to them."""

    name: str
    slots: tuple[WheelSlot, ...]


@dataclass(frozen=True)
class Emitter:
    """One colour of light source."""

    name: str
    colour: Chromaticity
    spectrum: tuple[tuple[float, float], ...] = ()
    """Wavelength in nm and relative energy, where its maker measured it."""
    dominant_nm: float = 0.0
    """Its dominant wavelength, where that is said: a laser's own."""


@dataclass(frozen=True)
class Filter:
    """A filter: the colour it lets through, and its transmission (0..1) by wavelength in nm where it was measured."""

    name: str
    colour: Chromaticity
    spectrum: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class ChannelSet:
    """A named part of a function's range. `start` is at the channel's own resolution."""

    name: str
    start: int
    slot: int | None = None
    physical: tuple[float, float] | None = None


@dataclass(frozen=True)
class ModeMaster:
    """What has to hold for a function to be there: a channel (or one of its functions) is within raw values.

    `low` and `high` are at the master channel's own resolution, both included.
    """

    channel: str
    function: str | None
    low: int
    high: int


@dataclass(frozen=True)
class ProfilePoint:
    """From `share` (0..1 of a function's range) on, output = c0 + c1 d + c2 d^2 + c3 d^3, d in shares from there."""

    share: float
    c0: float
    c1: float = 0.0
    c2: float = 0.0
    c3: float = 0.0


@dataclass(frozen=True)
class DmxProfile:
    """A curve from the share of a range to the share of its physical values: a dimmer curve, for instance."""

    name: str
    points: tuple[ProfilePoint, ...]

    def at(self, share: float) -> float:
        """The output at a share of the range; below the first point nothing, clipped to 0..1."""
        found = [point for point in self.points if point.share <= share + 1e-12]
        if not found:
            return 0.0
        p = found[-1]
        d = share - p.share
        return min(max(p.c0 + p.c1 * d + p.c2 * d * d + p.c3 * d**3, 0.0), 1.0)


@dataclass(frozen=True)
class ChannelFunction:
    """What a range of a channel does; it ends where the next function under the same master begins."""

    name: str
    attribute: str
    start: int
    physical: tuple[float, float]
    default: int | None = None
    wheel: str | None = None
    emitter: str | None = None
    filter: str | None = None
    sets: tuple[ChannelSet, ...] = ()
    real_fade_s: float = 0.0
    """The time that the real thing takes over the function's whole range; 0: at once."""
    real_acceleration_s: float = 0.0
    """The time from rest to its full speed."""
    master: ModeMaster | None = None
    profile: str | None = None
    """The name of the curve that it follows; None: a straight line."""
    logical: int = 0
    """Which of the channel's logical channels it belongs to; each does something of its own at the same time."""


@dataclass(frozen=True)
class Channel:
    """One DMX channel: its slots within the fixture (from 1, coarse first) and its functions in order."""

    geometry: str
    slots: tuple[int, ...]
    functions: tuple[ChannelFunction, ...]
    highlight: int | None = None
    dmx_break: int = 1
    key: str = ""
    """What masters and relations call it, where that differs from its name."""

    @property
    def name(self) -> str:
        """GDTF's name for it: its geometry and the attribute of its first logical channel."""
        return self.key or f"{self.geometry}_{self.attribute}"

    @property
    def virtual(self) -> bool:
        """It has no slot: only relations and consoles know it."""
        return not self.slots

    @property
    def top(self) -> int:
        """The greatest raw value: 255, 65535 ... A virtual channel counts as one byte."""
        return int(256 ** max(len(self.slots), 1)) - 1

    @property
    def attribute(self) -> str:
        return self.functions[0].attribute

    @property
    def home(self) -> int:
        """The raw value the channel rests at."""
        given = [function.default for function in self.functions if function.default is not None]
        return given[0] if given else 0

    def lanes(self) -> list[list[tuple[ChannelFunction, int, int]]]:
        """The functions with their first and last raw value, those of one logical channel under one master together.

        Lanes without a master come first: what a master chooses has the last word.
        """
        groups: dict[tuple[int, ModeMaster | None], list[ChannelFunction]] = {}
        for function in sorted(self.functions, key=lambda one: one.start):
            groups.setdefault((function.logical, function.master), []).append(function)
        ordered = sorted(groups.items(), key=lambda group: group[0][1] is not None)
        return [
            [
                (this, this.start, (following.start if following else self.top + 1) - 1)
                for this, following in zip(group, [*group[1:], None], strict=True)
            ]
            for _, group in ordered
        ]

    def spans(self) -> Iterator[tuple[ChannelFunction, int, int]]:
        """Each function with its first and last raw value."""
        for lane in self.lanes():
            yield from lane


@dataclass(frozen=True)
class Relation:
    """A channel that has a say in what another's function does: Multiply or Override, both by name."""

    kind: str
    master: str
    follower: str
    function: str


@dataclass(frozen=True)
class Mode:
    """A layout of channels over one geometry tree."""

    name: str
    geometry: str
    channels: tuple[Channel, ...]
    relations: tuple[Relation, ...] = ()
    description: str = ""

    @cached_property
    def footprints(self) -> dict[int, int]:
        """How many slots it takes in each of its breaks (each break has an address of its own), the first one first."""
        slots: dict[int, int] = {}
        for channel in self.channels:
            if channel.slots:
                slots[channel.dmx_break] = max(slots.get(channel.dmx_break, 0), *channel.slots)
        return dict(sorted(slots.items()))

    @cached_property
    def footprint(self) -> int:
        """How many slots it takes from its first address."""
        return next(iter(self.footprints.values()), 0)

    @cached_property
    def by_name(self) -> dict[str, Channel]:
        """The channels by the name that masters and relations use; of two of one name, the first."""
        return {channel.name: channel for channel in reversed(self.channels)}

    def place_of(self, name: str) -> int:
        """Where among the channels the one of a name stands."""
        return next(i for i, channel in enumerate(self.channels) if channel.name == name)

    def channel(self, attribute: str) -> Channel | None:
        """The channel whose first function has this attribute."""
        return next((channel for channel in self.channels if channel.attribute == attribute), None)


@dataclass(frozen=True)
class WebInfo:
    """A photometric web that a beam shines by: its key, and candela in its brightest direction."""

    key: str
    peak_cd: float
    reach_deg: float
    """Off the axis by this angle it has fallen to a few thousandths of its peak: further out it is not drawn."""


@dataclass(frozen=True)
class FixtureType:
    """A whole type."""

    name: str
    maker: str
    type_id: str
    """A GUID in capitals, as GDTF writes it."""
    geometries: tuple[Geometry, ...]
    modes: tuple[Mode, ...]
    models: tuple[Model, ...] = ()
    wheels: tuple[Wheel, ...] = ()
    emitters: tuple[Emitter, ...] = ()
    profiles: tuple[DmxProfile, ...] = ()
    filters: tuple[Filter, ...] = ()
    description: str = ""
    weight_kg: float = 0.0
    power_w: float = 0.0
    images: dict[str, bytes] = field(default_factory=dict, compare=False)
    """Slot images by their name in wheels/, without the ending."""
    image_keys: dict[str, str] = field(default_factory=dict, compare=False)
    """The start of each image's sha256: what names it on the wire and in caches."""
    ies: dict[str, bytes] = field(default_factory=dict, compare=False)
    """IES photometry by the name of the Beam geometry that it measures (an entry ies/<name>.ies of the archive)."""
    webs: dict[str, WebInfo] = field(default_factory=dict, compare=False)
    """What was read from `ies`."""
    own_meshes: dict[str, Any] = field(default_factory=dict, compare=False)
    """The file's own meshes (core.mesh.Mesh) of models, by the name that Model.file gives; never part of its JSON."""

    def __post_init__(self) -> None:
        if self.images and not self.image_keys:
            keys = {name: sha256(data).hexdigest()[:24] for name, data in self.images.items()}
            object.__setattr__(self, "image_keys", keys)

    def mode(self, name: str) -> Mode:
        """A mode by name; the first one if the name is not there (the check for that is in patch and readiness)."""
        return next((mode for mode in self.modes if mode.name == name), self.modes[0])

    def profile(self, name: str | None) -> DmxProfile | None:
        return next((profile for profile in self.profiles if profile.name == name), None)

    def filter(self, name: str | None) -> Filter | None:
        return next((one for one in self.filters if one.name == name), None)

    def wheel(self, name: str | None) -> Wheel | None:
        return next((wheel for wheel in self.wheels if wheel.name == name), None)

    def root(self, mode: Mode) -> Geometry:
        """The geometry tree of a mode."""
        return next((tree for tree in self.geometries if tree.name == mode.geometry), self.geometries[0])
