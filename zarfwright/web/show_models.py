"""The document of a show, edits and what is told of them, as the API and the socket give them."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field, RootModel, create_model

from zarfwright.core.carriers.types import Axis
from zarfwright.core.edits import EDITS
from zarfwright.core.kinds import KINDS
from zarfwright.web.look_models import LookFacts
from zarfwright.web.models import ModeOut, Quat4, RepairOut, Vec3, Who


class MeshPath(BaseModel):
    key: str


class EditRequest(Who):
    """`kind` is a key of EditArgs, `args` its value. With `preview`, nothing is stored; with `live` too, what it would
    hold by hand is in the picture until this person's next edit, or for some seconds: a slider that is dragged."""

    kind: str
    args: dict[str, Any]
    base_rev: int | None = None
    preview: bool = False
    live: bool = False


class Row(BaseModel):
    """One thing in the show; `body` is the value of its kind in Bodies."""

    id: str
    kind: str
    parent: str | None
    layer: str | None
    ord: int
    rev: int
    body: dict[str, Any]


class ChangeOut(BaseModel):
    before: Row | None
    after: Row | None


class GapOut(BaseModel):
    """A door or window in plan."""

    ring: list[tuple[float, float]]
    door: bool


class SolidOut(BaseModel):
    """Something to draw: a mesh by its key, where it is, and its diffuse reflectance."""

    id: str
    kind: str
    mesh: str
    position: Vec3
    rotation: Quat4
    albedo: Vec3
    finish: str
    sheer: tuple[float, float]
    """Shares of light: straight through, and through it scattered (SHEER of core/scene.py)."""
    scale: float
    screens: Literal["", "wall", "mesh", "sheet"]
    """How it may be left out where it stands before the work (core/scene.py)."""
    ring: list[tuple[float, float]]
    gaps: list[GapOut]
    far: str | None
    least: str | None


class MountOut(BaseModel):
    position: Vec3
    rotation: Quat4


class RailOut(BaseModel):
    """A rail of a structure: its name, what a crew calls it, and its points in metres."""

    name: str
    label: str
    length_m: float
    closed: bool
    points: list[Vec3]


class FindingOut(BaseModel):
    step: str
    where: list[str]
    text: str
    wrong: bool
    repair: RepairOut | None


class DriverChannelOut(BaseModel):
    """What a channel of a driver does: metres, degrees, times as large, or degrees a second; its speed a second and its
    acceleration a second squared."""

    axis: Axis
    low: float
    home: float
    high: float
    speed: float
    acceleration: float
    bits: Literal[8, 16]


class DriverOut(BaseModel):
    channels: list[DriverChannelOut]
    returns: bool


class TypeOut(BaseModel):
    name: str
    maker: str
    type_id: str
    weight_kg: float
    sort: str
    """What it is: `LED moving head, wash`."""
    words: str
    """Further words that it is found by."""
    modes: list[ModeOut]
    driver: DriverOut | None = None
    """What it moves, where it is the type of a driver."""


class PartOut(BaseModel):
    """`turns`: 0 stays, 1 pans, 2 pans and tilts."""

    turns: int
    mesh: str


class CellOut(BaseModel):
    """One beam of a body: offsets from mount to pan axis to tilt axis to lens, metres; how its frame is turned against
    the clamp's, the lens against the head's, and what is added to pan and tilt (radians). Of a `mirror` these are the
    mirror's, and the light goes twice as far in tilt."""

    pan: Vec3
    tilt: Vec3
    lens: Vec3
    lens_radius: float
    mount_turn: Quat4
    lens_turn: Quat4
    zero: tuple[float, float]
    mirror: bool


class BladesOut(BaseModel):
    """How far each blade turns either way, and the whole set, in radians; whether its ends are set by themselves."""

    askew: float
    whole: float
    ends: bool


class BodyOut(BaseModel):
    """The body of a type in a mode, and its beams in the order of the frame's rows."""

    type: str
    mode: str
    parts: list[PartOut]
    cells: list[CellOut]
    pan_deg: tuple[float, float]
    tilt_deg: tuple[float, float]
    """How far its head turns, or by hand its yoke."""
    by_hand: bool
    """Whether it is aimed by turning its yoke."""
    apart: bool
    """Whether its cells turn each by itself."""
    blades: BladesOut | None
    """What its blades or barn doors can do."""


class CameraOut(BaseModel):
    """How luminance is shown: EV100, what 1 cd/m2 is shown as, and the white balance (3x3, row by row)."""

    ev100: float
    shown_per_cd: float
    white: list[float]


class Standing(BaseModel):
    counts: dict[str, int]
    findings: list[FindingOut] | None
    """Of a large show they follow an update, in a message of their own."""
    undo: str | None
    redo: str | None
    stand: str
    """Changes when anything changes that is drawn, but for the looks themselves."""


class Document(Standing):
    id: str
    camera: CameraOut
    rev: int
    objects: list[Row]
    scene: list[SolidOut]
    mounts: dict[str, MountOut]
    types: dict[str, TypeOut]
    bodies: list[BodyOut]
    rails: dict[str, list[RailOut]]
    looks: dict[str, LookFacts]
    pictures: dict[str, str]
    """What the pictures of looks are made of, where there are any."""


class Update(Standing):
    """What changed, for every browser."""

    event: Literal["update"]
    rev: int
    who: str
    sentence: str
    changes: list[ChangeOut]
    camera: CameraOut
    scene: list[SolidOut]
    mounts: dict[str, MountOut]
    types: dict[str, TypeOut] | None
    bodies: list[BodyOut] | None
    rails: dict[str, list[RailOut]] | None
    looks: dict[str, LookFacts]
    """Of the looks that changed."""


class Ghost(BaseModel):
    objects: list[Row]
    camera: CameraOut
    scene: list[SolidOut]
    mounts: dict[str, MountOut]
    bodies: list[BodyOut] = []
    """Of fixtures that are not on the rig yet."""


class EditResult(BaseModel):
    rev: int
    sentence: str
    select: list[str] = []
    report: list[str] = []
    update: Update | None = None
    ghost: Ghost | None = None


class ShowEntry(BaseModel):
    id: str
    name: str


class ShowList(RootModel[list[ShowEntry]]):
    pass


class HistoryEntry(BaseModel):
    seq: int
    at: str
    who: str
    sentence: str
    undone: bool


class Point(BaseModel):
    """The show as it was, under a name."""

    id: int
    name: str
    at: str


class Points(RootModel[list[Point]]):
    pass


class NewPoint(BaseModel):
    name: str


class Presence(Who):
    """What somebody has selected, for the others to see."""

    name: str = Field("", max_length=60)
    ids: list[str] = Field(default=[], max_length=5000)


class PresenceEvent(BaseModel):
    event: Literal["presence"]
    who: str
    name: str
    ids: list[str]


class FindingsEvent(BaseModel):
    """What is wrong in the show as of a revision."""

    event: Literal["findings"]
    rev: int
    findings: list[FindingOut]


class OpenedEvent(BaseModel):
    """Another show was opened in place of this one."""

    event: Literal["opened"]
    id: str


class GoBack(Who):
    """To a restore point, or to how it was after an entry of the journal (`seq`; 0: as the history begins)."""

    seq: int | None = None
    point: int | None = None


class Seat(BaseModel):
    id: str
    name: str
    group: str
    eye: Vec3
    target: Vec3


class History(RootModel[list[HistoryEntry]]):
    pass


class Seats(RootModel[list[Seat]]):
    pass


Bodies = create_model(
    "Bodies",
    **{name: (kind.body, ...) for name, kind in KINDS.items()},  # type: ignore[call-overload]
)
EditArgs = create_model("EditArgs", **{name: (kind.model, ...) for name, kind in EDITS.items()})  # type: ignore[call-overload]
