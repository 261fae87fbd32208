"""The simulated consoles' screens."""

from __future__ import annotations

from typing import Literal

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, Field

from zarfwright.web.children.simulated import Start
from zarfwright.web.here import desk_of, json_response, services
from zarfwright.web.models import Problem, ShowPath


class CueOut(BaseModel):
    number: float
    name: str
    fade_s: float
    delay_s: float
    follow_s: float | None
    fixtures: int


class MasterOut(BaseModel):
    name: str
    level: float
    fixtures: int


class ConsolePalette(BaseModel):
    number: int
    kind: str
    name: str
    fixtures: int


class EditorValue(BaseModel):
    """A physical value in the console's editor."""

    number: int | None
    function: str
    value: float


class FunctionValue(BaseModel):
    function: str
    value: float


class ConsoleOffer(BaseModel):
    """A rig that the console was told of; `way`: it is asked to take it so; `fixtures`: once it has looked."""

    key: str
    name: str
    comment: str
    by: str
    way: str
    fixtures: int | None


class StationOut(BaseModel):
    port: int
    version: str
    features: dict[str, int]
    asks: bool
    peers: list[str]
    offers: list[ConsoleOffer]


class FaultsOut(BaseModel):
    shift: int
    modes: dict[str, str]
    silent: list[int]
    unknown: list[str]
    universe: int
    drop: float
    preview: bool
    dead: bool


class OscHeard(BaseModel):
    port: int
    came: int
    problem: str


class ConsoleState(BaseModel):
    """What a console's screen shows, but for its patch and levels."""

    name: str
    sacn: str
    artnet: str
    priority: int
    playing: bool
    cue: float | None
    cues: list[CueOut]
    master: float
    masters: list[MasterOut]
    groups: dict[str, int]
    palettes: list[ConsolePalette]
    editor: list[EditorValue]
    functions: list[FunctionValue]
    """Of the first fixture that is selected."""
    selected: list[int]
    sweep_s: float | None
    identify_s: float | None
    identified: int | None
    fixtures: int
    universes: list[int]
    others: dict[str, int]
    patched: int
    modes: dict[str, list[str]]
    faults: FaultsOut
    station: StationOut
    osc: OscHeard
    announced: bool


class SimulatedConsole(BaseModel):
    key: str
    name: str
    problem: str
    state: ConsoleState | None


class SimulatedReport(BaseModel):
    """Those that run; `problem`: why one does no longer."""

    consoles: list[SimulatedConsole]
    problem: str


class SimulatedEvent(SimulatedReport):
    event: Literal["simulated"]


class SimulatedLevels(BaseModel):
    """How bright a console sends its fixtures, 0 to 1, in the order of its patch."""

    event: Literal["simulated levels"]
    key: str
    levels: list[float]


class PatchedRow(BaseModel):
    number: int | None
    name: str
    type: str
    mode: str
    places: list[str]


class ConsolePatch(BaseModel):
    rows: list[PatchedRow]
    levels: list[float]


class ConsoleStart(BaseModel):
    """`patch`: with the show's patch as a channel hookup list; else empty."""

    name: str = Field("", max_length=60)
    patch: bool = True
    sacn: str = Field("all", max_length=200)
    artnet: str = Field("", max_length=200)
    priority: int = Field(100, ge=0, le=200)
    version: str = Field("1.6", pattern=r"^\d{1,2}\.\d{1,2}$")


class ConsoleStarted(BaseModel):
    key: str


class ConsolePath(ShowPath):
    key: str


class ConsoleCommand(BaseModel):
    """What is pressed, and what with (standins/console/commands.py)."""

    do: Literal[
        "play", "stop", "next", "make cues", "keep cue", "set cue", "remove cue", "master", "keep master", "level",
        "value", "clear", "select", "keep group", "keep palette", "apply palette", "drill", "send", "fault", "answer",
        "show rig", "manners", "announce", "end",
    ]  # fmt: skip
    number: float | None = None
    numbers: list[int] | None = None
    level: float | None = None
    function: str | None = None
    value: float | None = None
    name: str | None = None
    kind: str | None = None
    fade_s: float | None = None
    delay_s: float | None = None
    follow_s: float | None = None
    sweep_s: float | None = None
    identify_s: float | None = None
    sacn: str | None = None
    artnet: str | None = None
    priority: int | None = None
    universe: int | None = None
    drop: float | None = None
    preview: bool | None = None
    dead: bool | None = None
    shift: int | None = None
    silent: list[int] | None = None
    unknown: list[str] | None = None
    mode: str | None = None
    key: str | None = None
    yes: bool | None = None
    asks: bool | None = None
    version: str | None = None
    features: list[str] | None = None


api = APIBlueprint("simulated", __name__, abp_responses={400: Problem, 404: Problem})


@api.get("/api/shows/<show>/simulated", responses={200: SimulatedReport})
def simulated_report(path: ShowPath) -> Response:
    """Which simulated consoles run, and what their screens show."""
    desk_of(path.show)
    return json_response(services().simulated.report())


@api.post("/api/shows/<show>/simulated", responses={200: ConsoleStarted})
def start_console(path: ShowPath, body: ConsoleStart) -> Response:
    """Start one."""
    desk_of(path.show)
    return json_response({"key": services().simulated.start(Start(**body.model_dump()))})


@api.get("/api/shows/<show>/simulated/<key>", responses={200: ConsolePatch})
def console_patch(path: ConsolePath) -> Response:
    """A console's patch, and how bright it sends each fixture."""
    desk_of(path.show)
    found = services().simulated.running(path.key)
    return json_response({"rows": found.patch, "levels": found.levels})


@api.post("/api/shows/<show>/simulated/<key>", responses={200: SimulatedReport})
def press_on_console(path: ConsolePath, body: ConsoleCommand) -> Response:
    """Press something on one, or shut it down."""
    desk_of(path.show)
    simulated = services().simulated
    if body.do == "end":
        simulated.end(path.key)
    else:
        simulated.command(path.key, body.model_dump(exclude_none=True))
    return json_response(simulated.report())
