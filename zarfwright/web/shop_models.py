"""What the type shop and the library tell browsers, and are asked."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field, RootModel

from zarfwright.web.models import FileFinding, ModeOut, ShowPath, Vec3, Who
from zarfwright.web.show_models import BodyOut, SolidOut


class AttributeOut(BaseModel):
    """An attribute: in our words, its usual physical values and unit, the wheel it turns, and whether it shows."""

    name: str
    words: str
    low: float
    high: float
    unit: str
    feature: str
    wheel: str | None
    shows: bool


class Attributes(RootModel[list[AttributeOut]]):
    pass


class CheckOut(BaseModel):
    kind: str
    mode: int | None
    channel: int | None
    range: int | None
    text: str
    wrong: bool
    button: str
    asks: bool
    """Only a person can say: not put right with all the others."""


class DoingOut(BaseModel):
    """What a function of a channel does now."""

    channel: int
    raw: int
    attribute: str
    physical: float
    words: str


class TrialQuestion(BaseModel):
    """Slots by break (as text, for JSON); none: every channel at home."""

    mode: int = 0
    slots: dict[str, list[int]] | None = None


class ReadingQuestion(BaseModel):
    """A manual's text for a draft: its whole list, or the table of one channel."""

    text: str = Field(max_length=50_000)
    mode: int = 0
    channel: int | None = None
    replacing: bool = False


class LeftLine(BaseModel):
    """A line of a text that nothing was made of."""

    line: int
    text: str
    why: str


class ReadModeOut(BaseModel):
    """A mode of the draft that was read: the source line of each range of each channel."""

    mode: int
    lines: list[list[int]]
    replaced: bool


class ReadingOut(BaseModel):
    """The draft as it would be, where what was read is in it, what was left, and of how many cells the text speaks."""

    draft: dict[str, Any]
    modes: list[ReadModeOut]
    left: list[LeftLine]
    cells: int


class KeptOut(BaseModel):
    """What of the file that a draft was copied from is not in the new one, or not as it was."""

    lost: list[str]


class TrialOut(BaseModel):
    """A draft tried out: everything that the stage needs for one fixture of it, and what is wrong in it.

    `frame` has the fields of the live frames, a row for each beam.
    """

    mode: int
    slots: dict[str, list[int]]
    doing: list[DoingOut]
    frame: list[list[float]]
    fields: list[str]
    peak_cd: list[float]
    gobos: list[str]
    webs: list[str]
    prisms: list[list[Vec3]]
    body: BodyOut
    scene: list[SolidOut]
    checks: list[CheckOut]
    lenses: list[str]
    parts: list[str]
    footprints: dict[str, int]


class DrawGobo(BaseModel):
    """A gobo to draw; see formats/gobos.py."""

    pattern: str
    count: int = Field(7, ge=1, le=400)
    weight: float = Field(0.5, ge=0.05, le=1.0)
    turn_deg: float = Field(0.0, ge=-360, le=360)
    seed: int = 1
    text: str = Field("", max_length=60)


class ImageOut(BaseModel):
    """An image kept among the show's assets, and the key by which the stage and lists get it."""

    asset: str
    key: str


class FinishQuery(Who):
    """With `preview`, what would change is told, and nothing is done."""

    preview: bool = False


class AssetPath(ShowPath):
    asset: str


class LibraryPath(BaseModel):
    type_id: str


class LibraryAddPath(ShowPath):
    type_id: str


class LibraryEntry(BaseModel):
    """A shipped type: how to add it, and what it is at a glance."""

    type_id: str
    name: str
    maker: str
    description: str
    weight_kg: float
    power_w: float
    sort: str
    words: str
    modes: list[ModeOut]


class Library(RootModel[list[LibraryEntry]]):
    pass


class PhotometryOut(BaseModel):
    """An IES file kept among the show's assets, its brightest direction in candela, and what was odd in it."""

    asset: str
    peak_cd: float
    findings: list[FileFinding]
