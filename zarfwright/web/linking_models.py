"""Models of consoles that are linked, as the API gives and takes them."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from zarfwright.core.linking.answers import Way
from zarfwright.web.models import ShowPath
from zarfwright.web.scenes import LeftOutOut


class MisfitOut(BaseModel):
    """What does not fit, what still works, and what is stopped by it."""

    what: str
    still: str
    stops: list[str]


class RigTold(BaseModel):
    key: str
    name: str
    comment: str
    size: int


class FoundOut(BaseModel):
    """A station that was found by name and is not linked."""

    key: str
    name: str
    host: str
    port: int


class PaletteOut(BaseModel):
    """A palette that a console says it has."""

    number: int
    sort: str
    name: str


class LinkOut(BaseModel):
    """A console. `kept`: with the show, by this id; else it runs beside it. `asked_for`: it has fetched the rig that it
    is offered; `waits`: its person has to say yes; `done`: it has answered."""

    key: str
    name: str
    kept: bool
    said: str
    linked: bool
    station: str
    provider: str
    version: str
    features: list[str]
    misfits: list[MisfitOut]
    rigs: list[RigTold]
    asked_for: bool
    offer: str
    waits: bool
    done: bool
    offer_said: str
    hand_over: bool
    outline: bool
    values_port: int
    values_sent: int
    selected: int
    palettes: list[PaletteOut]


class ConsolesReport(BaseModel):
    """`looking_on`: the address on which consoles are looked for; empty: nowhere. `port`: where this program
    listens."""

    consoles: list[LinkOut]
    found: list[FoundOut]
    looking_on: str
    port: int
    problems: list[str]


class ConsolesEvent(ConsolesReport):
    event: Literal["consoles"]


class AnswerLine(BaseModel):
    """What becomes of one fixture; `id`: of the show, none where it is gone by now."""

    id: str | None
    number: int | None
    name: str
    answer: str
    reason: str
    mode: str


class AnsweredOut(BaseModel):
    taken: int
    gone: int
    replaced: int
    counts: dict[str, int]
    lines: list[AnswerLine]
    missing: list[LeftOutOut]


class OfferedRig(BaseModel):
    """A rig that a console was told of. `there`: fixtures that the console has; `ways`: what taking it would come to;
    `result`: what came of it."""

    key: str
    fixtures: int
    bytes: int
    left_out: list[LeftOutOut]
    there: int
    asks: bool
    ways: dict[str, AnsweredOut]
    way: str | None
    result: AnsweredOut | None
    said: str


class OfferRequest(BaseModel):
    """Which rig: `only` these things by id, parted by commas."""

    only: Literal["all", "shown", "fixtures"] = "all"
    ids: list[str] = []
    comment: str = Field("", max_length=200)


class TakeRequest(BaseModel):
    way: Way


class BesideRequest(BaseModel):
    """How a console is used that only runs beside the show; what is left out stays."""

    hand_over: bool | None = None
    outline: bool | None = None


class LinkPath(ShowPath):
    key: str
