"""Papers: lists as CSV."""

from __future__ import annotations

import re
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint

from zarfwright.core.papers import HOOKUP_COLUMNS, PATCH_COLUMNS, channel_hookup, patch_list
from zarfwright.formats.csv import write_csv
from zarfwright.web.desk import Desk
from zarfwright.web.models import Problem, ShowPath
from zarfwright.web.shows import require_show


def blueprint(desk: Desk | None, live: Any, link: Any) -> APIBlueprint:
    api = APIBlueprint("papers", __name__, abp_responses={404: Problem})

    def download(open_desk: Desk, what: str, data: bytes) -> Response:
        name = re.sub(r"[^\w\- ']", "", open_desk.show.settings.name) or "show"
        response = Response(data, mimetype="text/csv")
        response.headers.set("Content-Disposition", "attachment", filename=f"{name} - {what}.csv")
        return response

    @api.get("/api/shows/<show>/papers/patch.csv", responses={200: None})
    def patch_csv(path: ShowPath) -> Response:
        """The patch list."""
        open_desk = require_show(desk, path.show)
        return download(open_desk, "patch", write_csv(PATCH_COLUMNS, patch_list(open_desk.show)))

    @api.get("/api/shows/<show>/papers/hookup.csv", responses={200: None})
    def hookup_csv(path: ShowPath) -> Response:
        """The channel hookup: every channel of every patched fixture."""
        open_desk = require_show(desk, path.show)
        return download(open_desk, "channel hookup", write_csv(HOOKUP_COLUMNS, channel_hookup(open_desk.show)))

    return api
