"""What several resources of the API take and give; each one's own models stand beside its routes."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field

Vec3 = tuple[float, float, float]
Quat4 = tuple[float, float, float, float]


class ShowPath(BaseModel):
    show: str


class ThingPath(BaseModel):
    show: str
    thing: str


class KeyPath(BaseModel):
    key: str


class Who(BaseModel):
    """Who asks: a name that a browser keeps."""

    who: str = Field("somebody", max_length=80)


class Problem(BaseModel):
    """What is wrong and what to do; `field` names the argument at fault."""

    error: str
    field: str | None = None


class RepairOut(BaseModel):
    """The edit that puts something right: `kind` is a key of EditArgs, `args` its value."""

    label: str
    kind: str
    args: dict[str, Any]


class FileFinding(BaseModel):
    where: str
    what: str
    done: str


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
