"""A draft of a fixture type: plain values that a person fills in. It is an item of the show, so it is saved and undone.

Lengths in metres, angles in degrees, ranges in raw values with both ends included.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from zarfwright.core.types.model import (
    BeamSource,
    DmxProfile,
    Emitter,
    Filter,
    Geometry,
    Model,
    ModeMaster,
    Relation,
    Wheel,
)

Kind = Literal[
    "moving head", "mirror scanner", "barrel mirror", "profile", "Fresnel", "PC", "par", "flood", "cyc",
    "LED batten", "LED panel", "laser", "hazer", "effect", "as it came",
]  # fmt: skip
"""What sort of lamp it is: it decides the body and the edge of the beam. As it came: geometry kept from a file."""
MOVING: tuple[Kind, ...] = ("moving head", "mirror scanner", "barrel mirror")
CONVENTIONAL: tuple[Kind, ...] = ("profile", "Fresnel", "PC", "par", "flood", "cyc")


@dataclass(frozen=True)
class DraftRange:
    """What a channel does between two raw values, both included."""

    start: int
    end: int
    attribute: str
    low: float = 0.0
    high: float = 1.0
    name: str = ""
    slot: int | None = None
    wheel: str | None = None
    emitter: str | None = None
    filter: str | None = None
    profile: str | None = None
    master: ModeMaster | None = None
    logical: int = 0
    fade_s: float = 0.0
    start_s: float = 0.0
    doubt: str = ""
    """What a person still has to look at."""
    function: str = ""
    """The function that it is a part of in the file it was copied from, by its name there."""


@dataclass(frozen=True)
class DraftChannel:
    """A channel: the part that it drives (`all` or a part's name), its slots coarse first, its ranges."""

    part: str
    slots: tuple[int, ...]
    ranges: tuple[DraftRange, ...]
    home: int = 0
    highlight: int | None = None
    dmx_break: int = 1
    key: str = ""
    """What masters and relations of this mode call it; empty: by what it drives and does."""

    @property
    def called(self) -> str:
        """What masters and relations of this mode call it."""
        return self.key or f"{self.part}_{self.attribute}"

    @property
    def top(self) -> int:
        return int(256 ** max(len(self.slots), 1)) - 1

    @property
    def attribute(self) -> str:
        return self.ranges[0].attribute if self.ranges else "NoFeature"


@dataclass(frozen=True)
class DraftMode:
    name: str
    channels: tuple[DraftChannel, ...] = ()
    relations: tuple[Relation, ...] = ()
    description: str = ""
    geometry: str = ""
    """The tree that it is over, where the body is kept as it came; empty: the first."""
    was: str = ""
    """The mode that it was copied from, by its name there."""


@dataclass(frozen=True)
class DraftBody:
    """The body: its size, and where its lenses are (x along its length, y across, in the order of their numbers)."""

    length_m: float = 0.36
    width_m: float = 0.30
    height_m: float = 0.60
    cells: tuple[tuple[float, float], ...] = ((0.0, 0.0),)
    scroller: bool = False
    """A colour changer hangs before it, with an address of its own."""


@dataclass(frozen=True)
class Draft:
    """A type while it is made."""

    name: str
    maker: str
    kind: Kind = "moving head"
    body: DraftBody = field(default_factory=DraftBody)
    beam: BeamSource = field(default_factory=BeamSource)
    modes: tuple[DraftMode, ...] = ()
    wheels: tuple[Wheel, ...] = ()
    emitters: tuple[Emitter, ...] = ()
    filters: tuple[Filter, ...] = ()
    profiles: tuple[DmxProfile, ...] = ()
    images: dict[str, str] = field(default_factory=dict)
    """The asset (sha256) of each slot image, by the image's name."""
    webs: dict[str, str] = field(default_factory=dict)
    """The asset of an IES file, by the name of the lens that it measures."""
    geometries: tuple[Geometry, ...] = ()
    """Kept from the file that it was copied from, where `kind` is "as it came"."""
    models: tuple[Model, ...] = ()
    description: str = ""
    weight_kg: float = 0.0
    power_w: float = 0.0
    type_id: str = ""
    of_type: str | None = None
    """The type of this show that it changes; None: a new one."""
    older: str | None = None
    """The asset of the GDTF file that it was copied from."""

    @property
    def lenses(self) -> tuple[str, ...]:
        """The names of its lenses, in order."""
        if self.kind == "as it came":
            return tuple(node.name for tree in self.geometries[:1] for node, _ in tree.walk() if node.beam is not None)
        if self.kind == "hazer":
            return ()
        if len(self.body.cells) == 1:
            return ("Lens",)
        return tuple(f"Cell {i + 1}" for i in range(len(self.body.cells)))

    @property
    def parts(self) -> tuple[str, ...]:
        """What a channel may drive: the whole of it, what turns, and each lens."""
        if self.kind == "as it came":
            return tuple(dict.fromkeys(node.name for tree in self.geometries for node, _ in tree.walk()))
        turning = ("Yoke", "Head") if self.kind in MOVING else ()
        return ("Body", *turning, *self.lenses, *(("Scroller",) if self.body.scroller else ()))
