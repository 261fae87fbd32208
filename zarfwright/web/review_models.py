"""What the API gives of light as numbers and of what seats see."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from zarfwright.web.models import Vec3


class MapQuery(BaseModel):
    look: str = Field("", max_length=80)


class ContourOut(BaseModel):
    """Lines along which the light is the same; places in the show, metres."""

    lux: float
    lines: list[list[Vec3]]


class MapOut(BaseModel):
    """What was measured on an area: points row after row from downstage up, each from stage right to stage left."""

    points: tuple[int, int]
    places: list[Vec3]
    """The corners of the cells, (nx + 1) * (ny + 1) of them in the same order."""
    lux: list[float]
    cct_k: list[float | None]
    mean: float
    least: float
    most: float
    evenness: float
    contours: list[ContourOut]
    colours: list[str]
    """False colours at even shares of the scale from 0 to `most`."""
    fresh: bool
    """Whether it is of the show as it is now."""


class PictureKept(BaseModel):
    """A picture that is kept with the show, by its asset."""

    asset: str


class LitQuestion(BaseModel):
    """A face: a place, which way it looks, and in which look (empty: as it is driven now)."""

    point: Vec3
    normal: Vec3
    look: str = ""


class LitPart(BaseModel):
    fixture: str
    cell: int
    lux: float
    share: float
    clear: float
    """Lux that it would give with nothing in its way."""
    direction: Vec3
    """The way its light goes."""
    blocked_by: str | None


class LitAnswer(BaseModel):
    lux: float
    x: float | None
    y: float | None
    cct_k: float | None
    parts: list[LitPart]


class SightQuestion(BaseModel):
    """A place, which way its face looks where it has one, and how large it is, metres."""

    point: Vec3
    normal: Vec3 | None = None
    size_m: float = Field(0.25, gt=0, le=50)
    people: Literal["as they are", "standing", "left out"] = "as they are"


class SightOfSeat(BaseModel):
    id: str
    seen: float
    hidden_by: list[str]
    hiding: list[str]
    """The same as ids: of things, or of one of a crowd (`id/3`)."""


class BlockOut(BaseModel):
    name: str
    seeing: int
    of: int


class SightAnswer(BaseModel):
    seats: list[SightOfSeat]
    blocks: list[BlockOut]
    seeing: int
    of: int
