"""The guests' own application: it knows these few routes and none of the desk's."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from importlib.resources import files
from typing import Any

import orjson
from flask import Flask, Response, abort, g, redirect, request
from werkzeug.exceptions import HTTPException

from zarfwright.core.errors import JobError
from zarfwright.core.looks.look import Look, number_text
from zarfwright.core.looks.shown import in_order
from zarfwright.core.plain import require_plain
from zarfwright.core.review.book import picture_key
from zarfwright.web.desk import Desk
from zarfwright.web.guests.sharing import Guest, Sharing

COOKIE = "guest"
BODY_MOST = 8 * 1024
TEXT_MOST, NAME_MOST = 2000, 40
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; connect-src 'self'; form-action 'none'; "
    "base-uri 'none'; frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cache-Control": "no-store",
}
OPEN = re.compile(r"/join/[^/]*|/guest\.(?:js|css)")
"""What may be asked for without being let in: to be let in, and what the page looks like."""
PARTS = {"guest.js": "text/javascript", "guest.css": "text/css"}


def _json(value: Any) -> Response:
    return Response(orjson.dumps(value), mimetype="application/json")


def _part(name: str) -> bytes:
    return files("zarfwright.web.guests").joinpath(name).read_bytes()


def _come_from_here(hosts: frozenset[str]) -> None:
    """Ends a request that comes by another name, or from another site's page."""
    # A name that another site lets point here is none of this machine's addresses.
    if request.host not in hosts:
        abort(403, "This address is not one that was shared: open the one that you were given.")
    if request.method == "POST":
        if request.headers.get("Origin") != f"http://{request.host}":
            abort(403, "Another site's page may not say anything here.")
        if not request.is_json:
            abort(415, "What is said has to be JSON.")


def _guard(app: Flask, sharing: Sharing, hosts: frozenset[str]) -> None:
    @app.before_request
    def _known() -> None:
        _come_from_here(hosts)
        if OPEN.fullmatch(request.path):
            return
        try:
            found = sharing.guest(request.cookies.get(COOKIE, ""))
        except PermissionError:
            abort(429, "That is too much at once: wait some seconds.")
        if found is None:
            abort(401, "You are not let in, or the review has ended: open the link that you were given once more.")
        g.guest = found

    @app.after_request
    def _headers(response: Response) -> Response:
        response.headers.update(HEADERS)
        return response

    @app.errorhandler(HTTPException)
    def _said(wrong: HTTPException) -> tuple[Response, int]:
        return _json({"error": wrong.description or "That cannot be had."}), wrong.code or 500


def _told(desk: Desk, sharing: Sharing, guest: Guest) -> dict[str, Any]:
    show, shown = desk.show, sharing.shown
    kept = desk.session.pictures()
    views = [{"id": item.id, "name": item.name} for item in show.of_kind("viewpoint")]
    looks = [
        {"id": key, "number": number_text(look.number), "name": look.name,
         "seen": [view["id"] for view in views if picture_key(key, view["id"]) in kept]}
        for key, look in in_order(show)
    ]  # fmt: skip
    at = show.items.get(shown.look)
    look = f"{number_text(at.body.number)} {at.body.name}" if at is not None and isinstance(at.body, Look) else ""
    return {"version": shown.version, "picture": bool(shown.jpeg), "title": show.settings.name, "look": look,
            "viewpoint": shown.viewpoint, "notes": sharing.notes, "you": guest.name, "looks": looks,
            "views": views}  # fmt: skip


def _text(key: str, most: int) -> str:
    """What is said in a request. Ends one that says nothing that a show can hold."""
    try:
        body = orjson.loads(request.get_data())
        value = body.get(key) if isinstance(body, dict) else None
        require_plain(value, key)
    except (orjson.JSONDecodeError, JobError):
        abort(400, "What was said cannot be read: type plain text.")
    if not isinstance(value, str) or not value.strip() or len(value) > most:
        abort(400, f"Type something, up to {most} letters.")
    return value.strip()


def _let_in(app: Flask, sharing: Sharing) -> None:
    @app.get("/join/<key>")
    def join(key: str) -> Response:
        try:
            token = sharing.let_in(key, request.remote_addr or "")
        except PermissionError:
            abort(429, "That was tried too often: wait a minute.")
        if token is None:
            abort(403, "This link lets nobody in: it has ended, or was copied in part. Ask for the one of now.")
        response: Response = redirect("/")  # type: ignore[assignment]
        response.set_cookie(COOKIE, token, httponly=True, samesite="Strict", path="/")
        return response

    @app.get("/")
    def page() -> Response:
        return Response(_part("guest.html"), mimetype="text/html")

    @app.get("/<any('guest.js', 'guest.css'):name>")
    def part(name: str) -> Response:
        return Response(_part(name), mimetype=PARTS[name])


def _show(app: Flask, desk: Desk, sharing: Sharing) -> None:
    @app.get("/told")
    def told() -> Response:
        return _json(_told(desk, sharing, g.guest))

    @app.get("/picture")
    def picture() -> Response:
        if not sharing.shown.jpeg:
            abort(404, "Nothing is shown yet.")
        return Response(sharing.shown.jpeg, mimetype="image/jpeg")

    @app.get("/seen/<look>/<view>")
    def seen(look: str, view: str) -> Response:
        named = ((look, "look"), (view, "viewpoint"))
        items = desk.show.items
        there = all(key in items and items[key].kind == kind for key, kind in named)
        found = desk.session.picture(picture_key(look, view)) if there else None
        if found is None:
            abort(404, "That look was not drawn from there.")
        return Response(found, mimetype="image/jpeg")


def _hear(app: Flask, desk: Desk, sharing: Sharing) -> None:
    @app.post("/name")
    def name() -> Response:
        g.guest.name = _text("name", NAME_MOST)
        return _json({})

    @app.post("/say")
    def say() -> Response:
        text = _text("text", TEXT_MOST)
        if not sharing.notes:
            abort(403, "Notes are not asked for.")
        if not sharing.may_say(g.guest):
            abort(429, "Wait a moment, then say it again.")
        look = sharing.shown.look if sharing.shown.look in desk.show.items else None
        at = datetime.now(UTC).isoformat(timespec="seconds")
        args = {"text": text, "by": g.guest.name, "at": at, "about": look, "look": look, "tags": ["guest"]}
        try:
            desk.edit("a guest", "write note", args)
        except JobError as wrong:
            abort(400, str(wrong))
        return _json({})


def guest_app(desk: Desk, sharing: Sharing, hosts: frozenset[str]) -> Flask:
    """The application for guests. `hosts`: the addresses, with their port, under which it may be asked."""
    app = Flask(__name__, static_folder=None)
    app.config["MAX_CONTENT_LENGTH"] = BODY_MOST
    _guard(app, sharing, hosts)
    _let_in(app, sharing)
    _show(app, desk, sharing)
    _hear(app, desk, sharing)
    return app
