"""The Flask application: the API's resources, the front end's files, and errors as the user reads them."""

from __future__ import annotations

from pathlib import Path

from flask import Flask, Response, abort, jsonify, send_from_directory
from flask_openapi3.models.info import Info
from flask_openapi3.openapi import OpenAPI
from pydantic import ValidationError
from pydantic.json_schema import models_json_schema
from werkzeug.exceptions import HTTPException

from zarfwright import __version__
from zarfwright.core.errors import JobError
from zarfwright.core.plain import said_of
from zarfwright.formats.findings import FormatError
from zarfwright.store.errors import ShowFileError
from zarfwright.web import (
    books,
    captures,
    checks,
    dimmers,
    drawings,
    files,
    lasers,
    lights,
    linking,
    lists,
    looks,
    papers,
    patches,
    pointing,
    review,
    scenes,
    shares,
    sheets,
    shop,
    shows,
    signals,
    simulated,
    types,
    walls,
    work,
)
from zarfwright.web.desk import Conflict
from zarfwright.web.door import guard
from zarfwright.web.here import NAME, Services
from zarfwright.web.laser_models import LaserFeedEvent, LasersEvent
from zarfwright.web.linking_models import ConsolesEvent
from zarfwright.web.look_models import PictureEvent, RunEvent, SettlingEvent
from zarfwright.web.show_models import Bodies, EditArgs, FindingsEvent, OpenedEvent, PresenceEvent, Update

FRONT_END = Path(__file__).resolve().parents[2] / "frontend" / "dist"
UPLOAD_MAX = 64 * 2**20
RESOURCES = (
    shows,
    looks,
    types,
    signals,
    simulated,
    lasers,
    linking,
    checks,
    papers,
    lights,
    review,
    books,
    shares,
    sheets,
    pointing,
    shop,
    drawings,
    walls,
    files,
    patches,
    dimmers,
    captures,
    work,
    scenes,
    lists,
)
TOLD = (
    Bodies,
    EditArgs,
    signals.SignalEvent,
    signals.PatchEvent,
    signals.CarriedEvent,
    signals.TroubleEvent,
    signals.DoctorEvent,
    signals.MonitorEvent,
    captures.CaptureEvent,
    simulated.SimulatedEvent,
    simulated.SimulatedLevels,
    LasersEvent,
    LaserFeedEvent,
    ConsolesEvent,
    checks.CheckEvent,
    RunEvent,
    PictureEvent,
    SettlingEvent,
    Update,
    PresenceEvent,
    OpenedEvent,
    FindingsEvent,
    work.JobsEvent,
)
"""Models that are told over the socket or named by kind: in the API's document although no route returns them."""


def _wrong_arguments(wrong: ValidationError) -> Response:
    said, field = said_of(wrong.errors()[0])
    response = jsonify(error=said, field=field)
    response.status_code = 422
    return response


def _errors(app: Flask) -> None:
    @app.errorhandler(JobError)
    def _job(wrong: JobError) -> tuple[Response, int]:
        return jsonify(error=str(wrong), field=wrong.field), 400

    @app.errorhandler(FormatError)
    def _format(wrong: FormatError) -> tuple[Response, int]:
        return jsonify(error=str(wrong), field=None), 400

    @app.errorhandler(ShowFileError)
    def _file(wrong: ShowFileError) -> tuple[Response, int]:
        # Nothing of what was asked for has been done: 507, it could not be stored.
        return jsonify(error=str(wrong), field=None), 507

    @app.errorhandler(Conflict)
    def _conflict(wrong: Conflict) -> tuple[Response, int]:
        return jsonify(error=str(wrong), field=None), 409

    @app.errorhandler(HTTPException)
    def _http(wrong: HTTPException) -> tuple[Response, int]:
        return jsonify(error=wrong.description or "That cannot be done.", field=None), wrong.code or 500


def create_app(serves: Services | None, hosts: set[str] | None = None) -> OpenAPI:
    """The application over an open show; without one (None) it only describes the API. `hosts`: see `guard`."""
    app = OpenAPI(
        __name__,
        info=Info(title="Zarfwright", version=__version__),
        validation_error_callback=_wrong_arguments,
        static_folder=None,
    )
    app.config["MAX_CONTENT_LENGTH"] = UPLOAD_MAX
    guard(app, hosts)
    _errors(app)
    if serves is not None:
        app.extensions[NAME] = serves
    for resource in RESOURCES:
        app.register_api(resource.api)

    def index() -> Response:
        if not (FRONT_END / "index.html").exists():
            abort(404, "The front end is not built yet: run bin/demo, or npm run build in frontend.")
        response = send_from_directory(FRONT_END, "index.html")
        response.headers["Cache-Control"] = "no-cache"
        return response

    def front_end_file(name: str) -> Response:
        # Vite names these by their content: they may be kept for ever.
        return send_from_directory(FRONT_END / "assets", name, max_age=31_536_000)

    # Plain routes of Flask: pages and files are no part of the described API.
    app.add_url_rule("/", view_func=index)
    app.add_url_rule("/assets/<path:name>", view_func=front_end_file)
    return app


def openapi_document() -> dict[str, object]:
    """The API as OpenAPI, with the models that are told over the socket."""
    app = create_app(None)
    with app.app_context():
        document: dict[str, object] = dict(app.api_doc)
    _, extra = models_json_schema(
        # What is told always has every field; of an edit's arguments, those with a default may be left out.
        [(model, "validation" if model is EditArgs else "serialization") for model in TOLD],
        ref_template="#/components/schemas/{model}",
    )
    components = document.setdefault("components", {})
    assert isinstance(components, dict)
    components.setdefault("schemas", {}).update(extra["$defs"])
    return document
