"""What a show is: items with an id, a kind and a body, and the fixture types that its fixtures use.

Bodies are frozen dataclasses whose fields are the show file's JSON. Lengths in metres, angles in degrees where the
name ends in `_deg` (what people typed), else radians. Adding a kind: a body here, its meshes in `site/` or `types/`,
its fields in `edits/fields.py`.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from typing import Any, Literal

from pydantic import TypeAdapter, ValidationError

from zarfwright.core.errors import JobError
from zarfwright.core.memo import Memo
from zarfwright.core.rig.things import Carrier, Fixture, Hang, LabelStyle, Side, TypeEntry
from zarfwright.core.site.things import (
    Crowd,
    Deck,
    Drawing,
    Figure,
    MeshPiece,
    Panel,
    Piece,
    Truss,
    Venue,
    Wall,
)
from zarfwright.core.space import Vec
from zarfwright.core.types.model import FixtureType
from zarfwright.core.types.shop.draft import Draft

SHOW_ID = "show"


@dataclass(frozen=True)
class Settings:
    """What belongs to the show as a whole."""

    name: str = "Untitled show"
    venue: str = ""
    system: Literal["metric", "imperial"] = "metric"
    playing: str | None = None
    """The id of the look that drives what no console drives."""
    active_layer: str | None = None
    """The layer that new things land on; None: none."""
    follow_console: bool = True
    haze_per_m: float = 0.015
    haze_uneven: float = 0.3
    """How much the haze drifts in clouds: 0 even, 1 from nothing to twice."""
    exposure_kind: Literal["eye", "camera"] = "eye"
    exposure_ev: float = 8.0
    """The eye's EV100, where it does not adapt by itself."""
    eye_adapts: bool = False
    exposure_locked: bool = False
    """Whether the eye's exposure stays when looks are recalled; else each brings the one that suits it."""
    iso: float = 800.0
    shutter_s: float = 0.02
    aperture: float = 2.8
    white_k: float = 4500.0
    """The colour temperature that is seen as white."""
    bloom: float = 1.0
    work_light_lx: float = 40.0
    """Even light to build by; no part of the show."""
    house_light_lx: float = 0.0
    """The house lights: warm, from above, over the audience as over the stage."""
    background_low: str = "#0b0d10"
    background_high: str = "#030406"
    """What is behind everything, at the horizon and above: sRGB of the shown picture."""
    shaft_gain: float = 1.0
    pool_gain: float = 1.0
    body_gain: float = 1.0
    """Shafts, pools and lenses against their true strength; other than 1 the picture is off scale."""

    @property
    def off_scale(self) -> bool:
        """Whether the picture is not true."""
        return any(gain != 1.0 for gain in (self.shaft_gain, self.pool_gain, self.body_gain))


@dataclass(frozen=True)
class Layer:
    """A layer: what is on it can be hidden, locked and taken all at once."""

    name: str
    colour: str = "#8ca2a4"
    """sRGB, of its mark in lists and of its lines in plans."""
    shown: bool = True
    locked: bool = False
    """What is on a locked layer is not taken by a click or a box."""


@dataclass(frozen=True)
class Look:
    """Physical values of features by fixture, as they were seen."""

    name: str
    number: int
    values: dict[str, dict[str, float]]
    note: str = ""
    carriers: dict[str, tuple[float, float, float, float]] = field(default_factory=dict)
    """Where carriers are: their pivots in metres, and their turns in degrees."""
    exposure_ev: float | None = None
    """The eye's exposure that suits it; None: unknown."""


@dataclass(frozen=True)
class Viewpoint:
    """A named place to look from."""

    name: str
    eye: Vec
    target: Vec


Body = (
    Settings
    | Layer
    | Venue
    | Drawing
    | Deck
    | Wall
    | Panel
    | Piece
    | MeshPiece
    | Truss
    | Figure
    | Crowd
    | Fixture
    | Carrier
    | LabelStyle
    | TypeEntry
    | Draft
    | Look
    | Viewpoint
)
KINDS: dict[str, type[Body]] = {
    "show": Settings,
    "layer": Layer,
    "venue": Venue,
    "drawing": Drawing,
    "deck": Deck,
    "wall": Wall,
    "panel": Panel,
    "piece": Piece,
    "mesh": MeshPiece,
    "truss": Truss,
    "figure": Figure,
    "crowd": Crowd,
    "fixture": Fixture,
    "carrier": Carrier,
    "label style": LabelStyle,
    "type": TypeEntry,
    "draft": Draft,
    "look": Look,
    "viewpoint": Viewpoint,
}


@cache
def _adapter(kind: str) -> TypeAdapter[Any]:
    if kind not in KINDS:
        raise JobError(f"This show holds a thing of the kind “{kind}”, which this version does not know.")
    return TypeAdapter(KINDS[kind])


def body_to_json(kind: str, body: Body) -> bytes:
    """The body as the JSON text that the show file keeps."""
    text: bytes = _adapter(kind).dump_json(body)
    return text


def body_to_dict(kind: str, body: Body) -> dict[str, Any]:
    """The body as plain JSON values."""
    values: dict[str, Any] = _adapter(kind).dump_python(body, mode="json")
    return values


def body_from_json(kind: str, text: bytes | str) -> Body:
    """Read a body back. Raises JobError where the text is not one."""
    try:
        body: Body = _adapter(kind).validate_json(text)
    except ValidationError as wrong:
        raise JobError(f"A {kind} in this show file cannot be read: {wrong.errors()[0]['msg']}.") from wrong
    return body


@dataclass(frozen=True)
class Item:
    """One row of the show."""

    id: str
    kind: str
    body: Body
    parent: str | None = None
    layer: str | None = None
    order: int = 0
    rev: int = 0

    @property
    def name(self) -> str:
        """What people call it."""
        if isinstance(self.body, Fixture):
            return f"fixture {self.body.number}" if self.body.number is not None else "an unnumbered fixture"
        return self.body.name


@dataclass(frozen=True)
class Change:
    """What an edit does to one item: `before` is None when it is made, `after` when it is removed."""

    before: Item | None
    after: Item | None

    @property
    def id(self) -> str:
        item = self.after or self.before
        assert item is not None
        return item.id

    def undone(self) -> Change:
        return Change(self.after, self.before)


def _by_kind(items: Mapping[str, Item]) -> dict[str, list[Item]]:
    found: dict[str, list[Item]] = {}
    for item in items.values():
        found.setdefault(item.kind, []).append(item)
    for of_kind in found.values():
        of_kind.sort(key=lambda item: item.order)
    return found


# The items of a show are never changed in place: a show after an edit has a mapping of its own.
_by_kind_memo = Memo(_by_kind, 12)


@dataclass(frozen=True)
class Show:
    """All items by id, and the fixture types by the id of their entry."""

    items: Mapping[str, Item]
    types: Mapping[str, FixtureType]

    def of_kind(self, kind: str) -> list[Item]:
        """The items of one kind, in their order."""
        return list(_by_kind_memo(self.items).get(kind, ()))

    def item(self, item_id: str, kind: str | None = None) -> Item:
        """One item. Raises JobError if it is not there, or is of another kind than asked."""
        item = self.items.get(item_id)
        if item is None:
            raise JobError("That is no longer in the show: somebody removed it. Select again.")
        if kind is not None and item.kind != kind:
            raise JobError(f"{item.name} is a {item.kind}, not a {kind}: select a {kind}.")
        return item

    @property
    def settings(self) -> Settings:
        body = self.items[SHOW_ID].body if SHOW_ID in self.items else Settings()
        assert isinstance(body, Settings)
        return body

    def hidden(self, item: Item) -> bool:
        """Whether an item is on a layer that is not shown."""
        layer = self.items.get(item.layer) if item.layer else None
        return layer is not None and isinstance(layer.body, Layer) and not layer.body.shown

    def fixtures(self) -> Iterator[tuple[Item, Fixture]]:
        """The fixtures in their order: the order of their rows in every frame."""
        for item in _by_kind_memo(self.items).get("fixture", ()):
            assert isinstance(item.body, Fixture)
            yield item, item.body

    def type_of(self, fixture: Fixture) -> FixtureType:
        """The type of a fixture. Raises JobError when the show has lost it."""
        if fixture.type not in self.types:
            raise JobError("The type of this fixture is not in the show: add its GDTF again.")
        return self.types[fixture.type]

    def after(self, changes: Iterable[Change]) -> Show:
        """The show with the changes applied."""
        items = dict(self.items)
        for change in changes:
            if change.after is None:
                items.pop(change.id, None)
            else:
                items[change.id] = change.after
        return replace(self, items=items)


__all__ = [
    "KINDS",
    "SHOW_ID",
    "Body",
    "Carrier",
    "Change",
    "Crowd",
    "Deck",
    "Drawing",
    "Figure",
    "Fixture",
    "Hang",
    "Item",
    "LabelStyle",
    "Layer",
    "Look",
    "MeshPiece",
    "Panel",
    "Piece",
    "Settings",
    "Show",
    "Side",
    "Truss",
    "TypeEntry",
    "Venue",
    "Viewpoint",
    "Wall",
    "body_from_json",
    "body_to_dict",
    "body_to_json",
]
