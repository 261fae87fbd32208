"""What a scene file says, in plain values: things with their places in the show's frame, layers, types, shapes."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from zarfwright.core.exchange.rows import STRAIGHT, Rows
from zarfwright.core.space import Vec

Tag = Literal["Fixture", "Truss", "Support", "SceneObject", "VideoScreen", "Projector", "FocusPoint", "GroupObject"]
TAGS: tuple[Tag, ...] = (
    "Fixture", "Truss", "Support", "SceneObject", "VideoScreen", "Projector", "FocusPoint", "GroupObject",
)  # fmt: skip
OURS = uuid.UUID("5d9f3f3c-6f0a-5a41-9a6e-0b1f5a5a4652")
"""Names that are no UUIDs become some in this space."""


def uuid_of(name: str) -> str:
    """The UUID of an item by its id: that itself where it is one, in 32 hexadecimal digits; else one made of it."""
    try:
        return uuid.UUID(name).hex
    except ValueError:
        return uuid.uuid5(OURS, name).hex


def dashed(key: str) -> str:
    """A UUID as files write it."""
    return f"{key[:8]}-{key[8:12]}-{key[12:16]}-{key[16:20]}-{key[20:]}".upper()


@dataclass(frozen=True)
class Own:
    """What this program itself wrote of a thing: its kind and body as the show file has them, with UUIDs where the body
    names other things; its layer, and the one that it lies on in the file for its group's sake."""

    kind: str
    text: str
    layer: str | None = None
    inside: str | None = None


@dataclass(frozen=True)
class FixtureSaid:
    """What a scene says of a fixture besides its place."""

    spec: str
    """The name of its GDTF file."""
    mode: str
    addresses: tuple[tuple[int, int, int], ...] = ()
    """Break (counted as GDTF does, from 1), universe, slot."""
    number: int | None = None
    unit: int | None = None
    focus: str | None = None
    """The focus point that it is aimed at."""
    colour: Vec | None = None
    """The gel: CIE 1931 x, y, and Y up to 100."""
    purpose: str | None = None
    """None: the file does not say."""


@dataclass(frozen=True)
class Thing:
    """One object. UUIDs are 32 hexadecimal digits."""

    uuid: str
    tag: Tag
    name: str
    place: Rows = STRAIGHT
    """In the show's frame."""
    layer: str | None = None
    group: str | None = None
    """The group that it lies in, nearest first."""
    said: FixtureSaid | None = None
    shape: str = ""
    """What it looks like: a key of the scene's shapes; empty: nothing to be seen."""
    own: Own | None = None
    position: str = ""
    """The name of the hanging position."""
    of: str = ""
    """The thing that it only belongs to: a support, to its structure."""
    length_m: float = 0.0
    """Of a support: its chain."""

    @property
    def called(self) -> str:
        """As a finding or a line names it."""
        words = {"SceneObject": "object", "GroupObject": "group", "FocusPoint": "focus point", "VideoScreen": "screen"}
        if self.said is not None and self.said.number is not None:
            return f"fixture {self.said.number}"
        return f"{words.get(self.tag, self.tag.lower())} “{self.name or self.uuid[:8]}”"


@dataclass(frozen=True)
class Shape:
    """What a thing of a file looks like: how far it reaches in its own frame, metres, and the file that shows it."""

    low: Vec
    high: Vec
    asset: str = ""
    """sha256 of the mesh file; empty where that is still to be put together."""
    name: str = ""
    """What the file is called, where it is one as it is."""


@dataclass(frozen=True)
class FoundType:
    """A fixture type that a scene names: what its GDTF says, where there is one that can be read."""

    spec: str
    name: str
    maker: str
    asset: str = ""
    """sha256 of the GDTF; empty: there is none, or it cannot be read."""
    type_id: str = ""
    footprints: Mapping[str, int] = field(default_factory=dict)
    """Slots by mode; without a GDTF as many as there is room for between addresses."""
    why: str = ""
    """What is the matter with it."""


@dataclass(frozen=True)
class Scene:
    """A whole scene."""

    things: tuple[Thing, ...]
    layers: tuple[tuple[str, str], ...] = ()
    """UUID and name, in order."""
    types: Mapping[str, FoundType] = field(default_factory=dict)
    shapes: Mapping[str, Shape] = field(default_factory=dict)
    provider: str = ""
    own: bool = False
    """This program wrote it, whoever has changed it since."""
