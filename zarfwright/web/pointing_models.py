"""What pointing, colours and wheels are told as."""

from __future__ import annotations

from pydantic import BaseModel, RootModel

from zarfwright.web.models import RepairOut, Vec3


class PointedOut(BaseModel):
    """One fixture pointed: where its lens is and its axis ends (metres, show), what it lands on, what is in the way
    before its place, the angle that is missing (degrees; 0: it gets there) and half of its field (radians)."""

    id: str
    lens: Vec3
    at: Vec3
    target: Vec3
    thing: str | None
    blocked_by: str | None
    missing_deg: float
    half_field: float


class PointingOut(BaseModel):
    """Where each of a selection would look. `still` names what gives no light."""

    heads: list[PointedOut]
    still: list[str]


class ReachOut(BaseModel):
    """Who cannot reach, and the edits that would let them."""

    id: str
    missing_deg: float
    repairs: list[RepairOut]


class Reaches(RootModel[list[ReachOut]]):
    pass


class ColourSlot(BaseModel):
    """A slot of a colour wheel: its number, its name, and its colour in CIE 1931 x, y."""

    slot: int
    name: str
    xy: tuple[float, float]


class ColourKind(BaseModel):
    """Fixtures that make colour alike: the outline of what they mix in x, y, the slots of their wheel, and the features
    of their emitters or flags."""

    ids: list[str]
    type: str
    outline: list[tuple[float, float]]
    slots: list[ColourSlot]
    emitters: list[str]
    spectra: bool
    """Whether the spectra of all emitters are known."""
    flags: list[str]


class ColoursOut(BaseModel):
    """What a selection makes colour with, and what its first shows now in x, y."""

    kinds: list[ColourKind]
    now: tuple[float, float] | None


class EdgeQuestion(BaseModel):
    """A place (metres, show) on a solid."""

    point: Vec3
    thing: str


class EdgeOut(BaseModel):
    """Both ends of the edge that is nearest to a place, metres."""

    ends: tuple[Vec3, Vec3]


class Chosen(BaseModel):
    ids: list[str]


class WheelSlotOut(BaseModel):
    """A slot of a wheel in the gate: its number, its name, and the key of its image where it has one."""

    slot: int
    name: str
    image: str | None


class WheelOut(BaseModel):
    """A wheel of gobos or prisms that some fixtures have: the feature that chooses its slots, and those that turn it
    where their modes have channels for that."""

    feature: str
    ids: list[str]
    type: str
    slots: list[WheelSlotOut]
    turn: str | None
    spin: str | None


class Wheels(RootModel[list[WheelOut]]):
    pass
