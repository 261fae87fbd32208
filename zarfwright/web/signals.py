"""Signal: the ticket for the live socket, and what comes in."""

from __future__ import annotations

import base64
from dataclasses import asdict
from typing import Any, Literal

from flask import Response, abort, request
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, Field, RootModel

from zarfwright.core.meaning import meanings
from zarfwright.web.here import desk_of, json_response, services
from zarfwright.web.models import Problem, ShowPath, Vec3


class Ticket(BaseModel):
    """Where the live socket is, and what opens it for a minute."""

    url: str
    ticket: str


class SourceOut(BaseModel):
    """Who is heard, as which universe of its protocol, and how steadily; `by_slot`: with a priority for each slot;
    `waits`: for a packet that synchronizes it; `on`: the address of this machine, where it lands nowhere;
    `connections`: the ids of those by which it comes to the universe that it stands under."""

    name: str
    address: str
    protocol: str
    heard_as: int
    priority: int
    by_slot: bool
    rate_hz: float
    jitter_ms: float
    longest_ms: int
    late: int
    missed: int
    preview: bool
    waits: bool
    connections: list[str] = []
    on: str = ""


class UniverseOut(BaseModel):
    universe: int
    state: Literal["live", "held"]
    lit_slots: int
    last_source: str
    ended: str
    sources: list[SourceOut]


class InterfaceOut(BaseModel):
    name: str
    address: str
    prefix: int
    up: bool
    loopback: bool = False


class ConnectionOut(BaseModel):
    """How a connection is now: where it is heard, and what is to be said of that."""

    id: str
    protocol: str
    state: Literal["live", "silent", "silenced", "wrong"]
    interface: str
    address: str
    said: str
    nearest: InterfaceOut | None
    universes: int
    rate_hz: float


class ElsewhereOut(BaseModel):
    """What was sent to an address of this machine that no connection listens on."""

    protocol: str
    address: str
    packets: int
    sender: str
    universes: list[int]


class OfferedOut(BaseModel):
    """What a source says that it sends by sACN, whether that is heard or not: universes as (first, last)."""

    name: str
    address: str
    on: str
    universes: list[tuple[int, int]]


class PaceOut(BaseModel):
    """How far apart pictures are, the most of the graphics processor's time that browsers should take, whether room is
    left for a console on this machine, and why it goes slower than it could."""

    apart_ms: int
    share: float
    spare: bool
    said: str


class LaserFeedIn(BaseModel):
    """A laser feed that is or was heard: points of its last frame, frames a second, who sends it."""

    feed: int
    points: int
    rate_hz: float
    sender: str
    heard: bool


class LaserFeedsOut(BaseModel):
    """Where laser feeds are heard, and which are; datagrams that were none, by why."""

    address: str
    port: int
    problem: str
    feeds: list[LaserFeedIn]
    dropped: dict[str, int]


class SignalEvent(BaseModel):
    """What comes in, told twice a second."""

    event: Literal["signal"]
    universes: list[UniverseOut]
    untold: int
    nowhere: list[SourceOut]
    offered: list[OfferedOut]
    connections: list[ConnectionOut]
    interfaces: list[InterfaceOut]
    elsewhere: list[ElsewhereOut]
    dropped: dict[str, int]
    drivers: dict[str, str]
    latency_ms: dict[str, float]
    kernel_drops: int
    problem: str
    listening: str
    viewers: int
    follow: bool
    pace: PaceOut
    lasers: LaserFeedsOut


class WinningOut(BaseModel):
    name: str
    address: str
    protocol: str
    priority: int
    by_slot: bool


class MonitorEvent(BaseModel):
    """What moves, and who wins, told to those who watch. `strips`: in base64, for each of `universes` 64 bins of eight
    slots, the highest level in the upper seven bits, in the lowest whether any moved in the last second. `moved`:
    universe, slot, how long ago (s), lowest and highest level lately; not those that moved anyway (`usual` says how
    many), which is seen first (`settling`); `began`: when it was last begun anew, by the live process' clock.
    `winners`: the last slot of each stretch and the place of its source, -1 for none."""

    event: Literal["monitor"]
    universes: list[int]
    strips: str
    moved: list[tuple[int, int, float, int, int]]
    usual: int
    settling: bool
    began: float
    universe: int | None
    sources: list[WinningOut]
    winners: list[tuple[int, int]]


class MeaningOut(BaseModel):
    """What a slot is to one fixture: the channel in words, which byte of it, its whole value, and what it does at the
    levels that are there."""

    fixture: str
    number: str
    type: str
    mode: str
    channel: str
    byte: str
    raw: int
    top: int
    words: list[str]


class Meanings(RootModel[list[MeaningOut]]):
    """None: no fixture has the slot."""


class SlotPath(ShowPath):
    universe: int = Field(ge=1, le=63999)
    slot: int = Field(ge=1, le=512)


class TroubleEvent(BaseModel):
    """Something that the picture could not do; it goes on as it was."""

    event: Literal["trouble"]
    text: str


class CarriedEvent(BaseModel):
    """What drivers move together, by the id of its thing, in the order of the poses that are sent by this plan."""

    event: Literal["carried"]
    plan: int
    groups: list[str]


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


class CauseOut(BaseModel):
    """Something that is wrong, with what was seen, what to do, and the edit that does it (`edit`, `args`), if any."""

    cause: str
    evidence: str
    action: str
    universe: int | None
    fixtures: list[str]
    label: str
    edit: str
    args: dict[str, Any]


class DoctorReport(BaseModel):
    """Whether the doctor listens, for how long; and what it found last, none where it was not asked yet."""

    listening: bool
    seconds: float
    causes: list[CauseOut] | None
    problem: str


class DoctorEvent(DoctorReport):
    event: Literal["doctor"]


class Stretch(BaseModel):
    seconds: float = Field(6.0, ge=0.5, le=120.0)


api = APIBlueprint("signals", __name__, abp_responses={404: Problem, 503: Problem})


@api.get("/api/shows/<show>/ticket", responses={200: Ticket})
def ticket(path: ShowPath) -> Response:
    """Where the live socket is now, and a ticket that opens it."""
    desk_of(path.show)
    live = services().live
    if not live.wait_ready():
        abort(503, "The picture is being restarted: try again in a moment.")
    host = request.host.rsplit(":", 1)[0]
    return json_response({"url": f"ws://{host}:{live.port}/", "ticket": live.ticket()})


@api.get("/api/shows/<show>/signal", responses={200: SignalEvent})
def signal(path: ShowPath) -> Response:
    """What comes in, as it was told last."""
    desk_of(path.show)
    return json_response({"event": "signal", **services().live.status})


@api.get("/api/shows/<show>/slots/<int:universe>/<int:slot>", responses={200: Meanings})
def slot_means(path: SlotPath) -> Response:
    """What a slot means to each fixture that has it, at the levels that are there."""
    desk = desk_of(path.show)
    held = {int(universe): base64.b64decode(levels) for universe, levels in [*services().live.levels.items()]}
    return json_response([asdict(one) for one in meanings(desk.show, path.universe, path.slot, held)])


@api.get("/api/shows/<show>/doctor", responses={200: DoctorReport})
def doctor_report(path: ShowPath) -> Response:
    """What the doctor found last."""
    desk_of(path.show)
    return json_response(services().doctor.report())


@api.post("/api/shows/<show>/doctor", responses={200: DoctorReport})
def ask_doctor(path: ShowPath, body: Stretch) -> Response:
    """Let the doctor listen for a while; what it finds is told to every browser."""
    desk_of(path.show)
    services().doctor.ask(body.seconds)
    return json_response(services().doctor.report())
