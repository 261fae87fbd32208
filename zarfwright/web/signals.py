"""Signal: the ticket for the live socket, and what comes in."""

from __future__ import annotations

from typing import Any

from flask import Response, abort, request
from flask_openapi3 import APIBlueprint

from zarfwright.web.desk import Desk
from zarfwright.web.live_link import LiveLink
from zarfwright.web.models import Problem, ShowPath, SignalEvent, Ticket
from zarfwright.web.shows import json_response, require_show


def blueprint(desk: Desk | None, live: LiveLink | None, link: Any) -> APIBlueprint:
    api = APIBlueprint("signals", __name__, abp_responses={404: Problem, 503: Problem})

    @api.get("/api/shows/<show>/ticket", responses={200: Ticket})
    def ticket(path: ShowPath) -> Response:
        """Where the live socket is now, and a ticket that opens it."""
        require_show(desk, path.show)
        if live is None or not live.wait_ready():
            abort(503, "The picture is being restarted: try again in a moment.")
        host = request.host.rsplit(":", 1)[0]
        return json_response({"url": f"ws://{host}:{live.port}/", "ticket": live.ticket()})

    @api.get("/api/shows/<show>/signal", responses={200: SignalEvent})
    def signal(path: ShowPath) -> Response:
        """What comes in, as it was told last."""
        require_show(desk, path.show)
        status = dict(live.status) if live is not None else {}
        return json_response({"event": "signal", **status})

    return api
