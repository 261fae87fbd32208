"""What the API takes and gives, for the OpenAPI document and from it the front end's types."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field, RootModel, create_model

from zarfwright.core.edits import EDITS
from zarfwright.core.show import KINDS

Vec3 = tuple[float, float, float]
Quat4 = tuple[float, float, float, float]


class ShowPath(BaseModel):
    show: str


class ThingPath(BaseModel):
    show: str
    thing: str


class MeshPath(BaseModel):
    key: str


class KeyPath(BaseModel):
    key: str


class LuxQuestion(BaseModel):
    """A place in the show's frame, metres, and which way its face looks."""

    point: Vec3
    normal: Vec3


class LuxAnswer(BaseModel):
    lux: float
    rgb: Vec3


class LandingOut(BaseModel):
    """Where a beam's axis lands: on what, how far from the lens, how wide the field is there, and lux of it alone."""

    key: str
    fixture: str
    point: Vec3
    thing: str
    away_m: float
    across_m: float
    lux: float


class Landings(RootModel[list[LandingOut]]):
    pass


class Who(BaseModel):
    """Who asks: a name that a browser keeps."""

    who: str = Field("somebody", max_length=80)


class EditRequest(Who):
    """`kind` is a key of EditArgs, `args` its value. With `preview`, nothing is stored."""

    kind: str
    args: dict[str, Any]
    base_rev: int | None = None
    preview: bool = False


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
    far: str | None
    least: str | None


class MountOut(BaseModel):
    position: Vec3
    rotation: Quat4


class RepairOut(BaseModel):
    """The edit that puts something right: `kind` is a key of EditArgs, `args` its value."""

    label: str
    kind: str
    args: dict[str, Any]


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


class ChannelOut(BaseModel):
    attribute: str
    slots: list[int]
    dmx_break: int


class BreakOut(BaseModel):
    """A run of slots with an address of its own."""

    number: int
    slots: int


class ModeOut(BaseModel):
    name: str
    footprint: int
    breaks: list[BreakOut]
    channels: list[ChannelOut]


class TypeOut(BaseModel):
    name: str
    maker: str
    type_id: str
    weight_kg: float
    modes: list[ModeOut]


class PartOut(BaseModel):
    """`turns`: 0 stays, 1 pans, 2 pans and tilts."""

    turns: int
    mesh: str


class CellOut(BaseModel):
    """One beam of a body: offsets from mount to pan axis to tilt axis to lens, metres; how its frame is turned against
    the clamp's, the lens against the head's, and what is added to pan and tilt (radians)."""

    pan: Vec3
    tilt: Vec3
    lens: Vec3
    lens_radius: float
    mount_turn: Quat4
    lens_turn: Quat4
    zero: tuple[float, float]


class BodyOut(BaseModel):
    """The body of a type in a mode, and its beams in the order of the frame's rows."""

    type: str
    mode: str
    parts: list[PartOut]
    cells: list[CellOut]


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


class Ghost(BaseModel):
    objects: list[Row]
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


class Problem(BaseModel):
    """What is wrong and what to do; `field` names the argument at fault."""

    error: str
    field: str | None = None


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


class History(RootModel[list[HistoryEntry]]):
    pass


class Seats(RootModel[list[Seat]]):
    pass


class Ticket(BaseModel):
    """Where the live socket is, and what opens it for a minute."""

    url: str
    ticket: str


class SourceOut(BaseModel):
    name: str
    address: str
    protocol: str
    priority: int
    rate_hz: float


class UniverseOut(BaseModel):
    universe: int
    state: Literal["live", "held"]
    lit_slots: int
    last_source: str
    sources: list[SourceOut]


class SignalEvent(BaseModel):
    """What comes in, told twice a second."""

    event: Literal["signal"]
    universes: list[UniverseOut]
    dropped: dict[str, int]
    drivers: dict[str, str]
    latency_ms: dict[str, float]
    kernel_drops: int
    problem: str
    listening: str
    viewers: int
    follow: bool


class PatchEvent(BaseModel):
    """The rows of the frames to come (a fixture's id once for each of its beams), value = raw * scale + offset for each
    field, gobo images and photometric webs by key, and the facets of prisms (x, y in gate radii, turn in degrees)."""

    event: Literal["patch"]
    rig: int
    fixtures: list[str]
    fields: list[str]
    scale: list[float]
    offset: list[float]
    peak_cd: list[float]
    gobos: list[str]
    webs: list[str]
    prisms: list[list[Vec3]]


class CueOut(BaseModel):
    number: int
    name: str
    fade_s: float


class ConsoleState(BaseModel):
    playing: bool
    cue: int | None
    cues: list[CueOut]
    master: float
    levels: dict[str, float]
    fixtures: int
    universes: list[int]


class ConsoleReport(BaseModel):
    running: bool
    problem: str
    state: ConsoleState | None


class ConsoleEvent(ConsoleReport):
    event: Literal["console"]


class ConsoleCommand(BaseModel):
    """start and end the program; play, stop, next, master (level), level (number, level or none to let go)."""

    do: Literal["start", "end", "play", "stop", "next", "master", "level"]
    level: float | None = None
    number: int | None = None


class FileFinding(BaseModel):
    where: str
    what: str
    done: str


class TypePreview(BaseModel):
    name: str
    maker: str
    modes: list[ModeOut]
    findings: list[FileFinding]
    added: bool


class TypeQuery(Who):
    """With `preview`, the file is read and described, and nothing is added."""

    preview: bool = False


Bodies = create_model(
    "Bodies",
    **{name: (cls, ...) for name, cls in KINDS.items()},  # type: ignore[call-overload]
)
EditArgs = create_model("EditArgs", **{name: (model, ...) for name, (model, _) in EDITS.items()})  # type: ignore[call-overload]
# Models that are told over the socket or named by kind: in the document although no route returns them.
SOCKET_MODELS = (
    Bodies,
    EditArgs,
    SignalEvent,
    PatchEvent,
    ConsoleEvent,
    Update,
    PresenceEvent,
    OpenedEvent,
    FindingsEvent,
)
