"""What every request has to be before a route sees it, and what every answer carries."""

from __future__ import annotations

from typing import Any

import orjson
from flask import Flask, Response, abort, request
from flask.json.provider import JSONProvider

from zarfwright.core.plain import require_plain

JSON_MOST = 8 * 2**20
"""Bytes of a request that is no file."""
POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        # The components' styles are written into the page while it runs.
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        # A sheet has its letters inside.
        "font-src 'self' data:",
        # The live process has a port of its own, and another one after it was started again.
        "connect-src 'self' ws://127.0.0.1:* ws://localhost:*",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
}


class StrictJson(JSONProvider):
    """JSON as the standard has it: no NaN, no infinity, no halves of letters."""

    def dumps(self, obj: Any, **_: Any) -> str:
        return orjson.dumps(obj).decode()

    def loads(self, s: str | bytes, **_: Any) -> Any:
        return orjson.loads(s)


def guard(app: Flask, hosts: set[str] | None) -> None:
    """Let in only requests of our own pages that hold what can be read. `hosts` are the names under which they may
    come: a page of another site cannot reach the desk by a name that it lets point here."""
    app.json = StrictJson(app)

    @app.before_request
    def _our_own_pages() -> None:
        if hosts is not None and request.host.rsplit(":", 1)[0] not in hosts:
            abort(403, "This address is not one of the desk's own: open the printed one.")
        origin = request.headers.get("Origin")
        if request.method != "GET" and origin and origin.split("://", 1)[-1] != request.host:
            abort(403, "Another site's page may not change the show.")

    @app.before_request
    def _readable() -> None:
        if not request.is_json:
            return
        if (request.content_length or 0) > JSON_MOST:
            abort(413, f"That is more than {JSON_MOST // 2**20} MB at once: do it in parts.")
        try:
            value = orjson.loads(request.get_data(cache=True) or b"null")
        except orjson.JSONDecodeError as wrong:
            abort(400, f"The request cannot be read ({wrong}): numbers have to be finite and text whole.")
        require_plain(value)

    @app.after_request
    def _headers(response: Response) -> Response:
        response.headers.update(HEADERS)
        return response
