"""What every route needs: the open show and what works beside it, and answers as JSON."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import orjson
from flask import Response, abort, current_app, request

from zarfwright.core.errors import JobError
from zarfwright.store.recent import Recent
from zarfwright.web.children.capture import CaptureLink
from zarfwright.web.children.doctor import DoctorLink
from zarfwright.web.children.laser_feed import LaserFeedLink
from zarfwright.web.children.live import LiveLink
from zarfwright.web.children.simulated import SimulatedConsoles
from zarfwright.web.desk import Desk
from zarfwright.web.desk.checking import LineChecks
from zarfwright.web.desk.consoles import ConsoleLinks
from zarfwright.web.desk.settling import SettledLooks
from zarfwright.web.guests.serving import GuestPort
from zarfwright.web.jobs import Jobs
from zarfwright.web.rays import Lights

NAME = "zarfwright"


@dataclass(frozen=True)
class Services:
    """What an application serves."""

    desk: Desk
    live: LiveLink
    simulated: SimulatedConsoles
    laser_feed: LaserFeedLink
    doctor: DoctorLink
    capture: CaptureLink
    lights: Lights
    recent: Recent
    jobs: Jobs
    consoles: ConsoleLinks
    checks: LineChecks
    settled: SettledLooks
    guests: GuestPort


def services() -> Services:
    """What this application serves. Ends the request where it serves to describe the API only."""
    found: Services | None = current_app.extensions.get(NAME)
    if found is None:
        abort(404, "No show is open here: start the program with one.")
    return found


def desk_of(show: str) -> Desk:
    """The desk, if that show is the open one."""
    found = current_app.extensions.get(NAME)
    if found is None or found.desk.session.show_id != show:
        abort(404, "That show is not open here: load the page again.")
    desk: Desk = found.desk
    return desk


def file_of(desk: Desk, asset: str, what: str) -> tuple[str, bytes]:
    """Name and bytes of the file that a thing of the show has. Ends the request where it is missing."""
    found = desk.session.asset(asset)
    if found is None:
        abort(404, f"The file of this {what} is missing from the show: import it again.")
    return found


def json_response(value: Any) -> Response:
    """Bytes that are JSON already, or anything orjson writes."""
    body = value if isinstance(value, bytes) else orjson.dumps(value)
    return Response(body, mimetype="application/json")


def for_ever(data: bytes, mimetype: str = "application/octet-stream") -> Response:
    """Bytes that never change under their name."""
    made = Response(data, mimetype=mimetype)
    made.headers["Cache-Control"] = "public, max-age=31536000, immutable"
    return made


def attachment(data: bytes, name: str, mimetype: str = "application/octet-stream") -> Response:
    """A file to keep, by its name."""
    made = Response(data, mimetype=mimetype)
    made.headers.set("Content-Disposition", "attachment", filename=name)
    return made


def uploaded(what: str) -> tuple[bytes, str]:
    """The bytes and the name of the file that came with a form. Raises JobError when none did."""
    upload = request.files.get("file")
    if upload is None:
        raise JobError(f"No file came with this: choose {what}.")
    return upload.read(), (upload.filename or "the file")[-120:]
