"""Lasers as they go out: zones and what they reach, files, the simulated feed."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from zarfwright.web.models import FileFinding, Vec3


class ZoneQuery(BaseModel):
    look: str = ""


class CrossingOut(BaseModel):
    """What a head may reach; `over`: more than the limit."""

    what: Literal["people", "reflective", "open"]
    where: Vec3
    who: str
    ids: list[str]
    count: int
    irradiance_w_m2: float
    limit_w_m2: float
    over: bool
    text: str


class HeadOut(BaseModel):
    """A laser in the show: where its light leaves it, where the edge of its zone lands (of a still beam one place), how
    much light it has, from how far on a resting beam is below the limit (none: nowhere), what it reaches."""

    id: str
    number: int | None
    name: str
    feed: int | None
    draws: bool
    on: bool
    place: Vec3
    edge: list[Vec3]
    power_w: float
    flux_lm: float
    safe_m: float | None
    crossings: list[CrossingOut]


class ZonesOut(BaseModel):
    heads: list[HeadOut]
    note: str


class LaserTest(BaseModel):
    """Which heads draw their test pattern, and which one alone while all others are dark."""

    heads: list[str] = Field(default=[], max_length=100_000)
    alone: str | None = None


class LaserHeadTold(BaseModel):
    """A head in the order of the messages of lasers: its row of the frame by key, its light in lumen (3 by 3: of red,
    green and blue at full in linear Rec. 709), how wide its beam is and grows."""

    key: str
    number: int | None
    lm: list[float]
    diameter_m: float
    divergence_mrad: float


class LasersEvent(BaseModel):
    event: Literal["lasers"]
    plan: int
    heads: list[LaserHeadTold]
    testing: list[str]
    alone: str | None


class FramesOut(BaseModel):
    """What an ILDA file holds; `seconds`: how long it is at 30 frames a second and 30,000 points a second."""

    asset: str
    name: str
    frames: int
    formats: list[int]
    most_points: int
    seconds: float
    findings: list[FileFinding]


class LaserFeedStart(BaseModel):
    feeds: str = Field("", max_length=200)
    pattern: Literal["mixed", "circle", "sheet", "waves", "fingers", "star"] = "mixed"
    points: int = Field(600, ge=8, le=2000)
    still: bool = False
    run: bool = True
    """Else it is shut down."""


class LaserFeedOut(BaseModel):
    running: bool
    feeds: str
    pattern: str
    rate_hz: float
    problem: str


class LaserFeedEvent(LaserFeedOut):
    event: Literal["laser feed"]
