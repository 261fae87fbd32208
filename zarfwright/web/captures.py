"""Recordings of what comes in: made, fetched, brought along, sent again."""

from __future__ import annotations

from typing import Literal

from flask import Response
from flask_openapi3.blueprint import APIBlueprint
from pydantic import BaseModel, Field

from zarfwright.core.errors import JobError
from zarfwright.web.here import attachment, desk_of, json_response, services, uploaded
from zarfwright.web.models import Problem, ShowPath


class RecordedSource(BaseModel):
    name: str
    protocol: str
    address: str
    universes: list[int]
    packets: int


class RecordingOut(BaseModel):
    """What a recording holds; `left_out`: how many packets of each kind that is not heard here; `full`: it ended
    because no more is kept."""

    name: str
    seconds: float
    packets: int
    sources: list[RecordedSource]
    left_out: dict[str, int]
    full: bool


class CaptureReport(BaseModel):
    """Whether something is recorded or sent again, for how long and how far, and the recording there is."""

    state: Literal["idle", "recording", "replaying"]
    seconds: float
    at_s: float
    packets: int
    recording: RecordingOut | None
    problem: str


class CaptureEvent(CaptureReport):
    event: Literal["capture"]


class CaptureCommand(BaseModel):
    """Record for so many seconds, keep what has come so far, send the recording again, or stop that."""

    do: Literal["record", "keep", "replay", "stop"]
    seconds: float = Field(10.0, ge=0.5, le=600.0)


api = APIBlueprint("captures", __name__, abp_responses={404: Problem, 409: Problem})


@api.get("/api/shows/<show>/capture", responses={200: CaptureReport})
def capture_report(path: ShowPath) -> Response:
    """What is recorded or sent again, and the recording there is."""
    desk_of(path.show)
    return json_response(services().capture.report())


@api.post("/api/shows/<show>/capture", responses={200: CaptureReport})
def command_capture(path: ShowPath, body: CaptureCommand) -> Response:
    """Record what comes in, or send a recording again; every browser is told how it goes."""
    desk_of(path.show)
    link = services().capture
    if body.do == "record":
        link.record(body.seconds)
    elif body.do == "replay":
        link.replay()
    else:
        (link.end_recording if body.do == "keep" else link.end_replay)()
    return json_response(link.report())


@api.post("/api/shows/<show>/recordings", responses={200: CaptureReport})
def bring_recording(path: ShowPath) -> Response:
    """Bring a recording (pcap or pcapng): what it holds is told before anything is sent."""
    desk_of(path.show)
    services().capture.bring(*uploaded("a recording of network traffic"))
    return json_response(services().capture.report())


@api.get("/api/shows/<show>/recordings")
def fetch_recording(path: ShowPath) -> Response:
    """The recording as a pcap file."""
    desk_of(path.show)
    link = services().capture
    if not link.path.exists():
        raise JobError("There is no recording: record one first.")
    return attachment(link.path.read_bytes(), "recording.pcap", "application/vnd.tcpdump.pcap")
