"""What the API gives of looks and running orders."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, RootModel

from zarfwright.core.looks.sorts import Sort
from zarfwright.core.playback.transport import Command
from zarfwright.web.models import RepairOut, Who


class LookFacts(BaseModel):
    """How many fixtures a look says something of, by sort too, and how many of them give light."""

    fixtures: int
    lit: int
    sorts: dict[Sort, int]
    prints: str
    """Changes when the look does, or what it is made of; with the show's `stand`, what a picture of it is made of."""


class LookValues(RootModel[dict[str, dict[str, float]]]):
    """What a look says, by fixture or cell (`id/3`) and feature, in the features' own units (core/dmx/features.py)."""


class GroupSaidOut(BaseModel):
    name: str
    fixtures: list[str]
    lit: int
    text: str
    leaves: list[Sort]


class LinkSaidOut(BaseModel):
    id: str
    name: str
    sort: Sort
    fixtures: int


class LookSays(BaseModel):
    """What a look says and leaves alone, group by group, and what it hangs on."""

    groups: list[GroupSaidOut]
    links: list[LinkSaidOut]


class GroupDiffOut(BaseModel):
    fixtures: list[str]
    text: str


class LookDiff(BaseModel):
    """What of the second look is unlike the first, in words; and all fixtures in which anything is."""

    groups: list[GroupDiffOut]
    fixtures: list[str]


class DiffQuery(BaseModel):
    """The look to compare with; none: what is seen now."""

    to: str = ""


class PictureQuery(BaseModel):
    """What the picture is made of: the show's `stand` and the look's `prints`, as they were when it was drawn."""

    made_of: str


class PictureEvent(BaseModel):
    """Somebody has drawn a look anew."""

    event: Literal["picture"]
    look: str
    made_of: str


class SettlingCommand(Who):
    """Whether a look is to be kept each time the picture settles."""

    on: bool


class SettlingReport(BaseModel):
    """Whether it is, the looks kept since it was turned on, and which of them are as good as the same (the first of
    each group is the one to stay)."""

    on: bool
    kept: list[str]
    doubles: list[list[str]]
    problem: str


class SettlingEvent(SettlingReport):
    event: Literal["settling"]


class TakeQuery(Who):
    """Whether the list is only looked at."""

    preview: bool = True


class LooksTaken(BaseModel):
    """What a list of looks comes to, or has come to, and the rows of it that are left out, in words."""

    sentence: str
    looks: int
    left_out: list[str]
    select: list[str]


class RunCommand(BaseModel):
    """`to` goes to a time in seconds, `step` to where the step of that place has all come, `speed` is a factor."""

    command: Command
    value: float | None = None


class RunEvent(BaseModel):
    """Where the running order that is played stands; no order: none is."""

    event: Literal["run"]
    order: str | None
    at_s: float = 0.0
    step: str | None = None
    playing: bool = False
    waiting: bool = False
    speed: float = 1.0
    total_s: float = 0.0
    haze_per_m: float | None = None
    house_light_lx: float | None = None
    exposure_ev: float | None = None


class MoveSeen(BaseModel):
    """Heads that are seen to travel, in a sentence, and what mends it, the best first."""

    trouble: str
    fixtures: list[str]
    seconds: float
    text: str
    repairs: list[RepairOut]


class StepTimes(BaseModel):
    """A step as it comes: when it begins, until when its look comes, real heads and all, and when the next begins."""

    key: str
    starts_s: float
    comes_s: float
    over_s: float
    ends_s: float
    seen: list[MoveSeen]


class OrderTimes(RootModel[list[StepTimes]]):
    pass
