"""Lasers: their zones in the show and what these reach, test patterns, ILDA files in and out, the simulated feed."""

from __future__ import annotations

import re

import numpy as np
from flask import Response, abort
from flask_openapi3.blueprint import APIBlueprint

from zarfwright.core.edits.carrying import as_in_look
from zarfwright.core.errors import JobError
from zarfwright.core.lasers.heads import Head, heads_of
from zarfwright.core.lasers.light import flux_lm, power_w, safe_distance_m
from zarfwright.core.lasers.readiness import said
from zarfwright.core.lasers.safety import AID, crossings, in_the_way
from zarfwright.core.lasers.zone import outline
from zarfwright.core.looks.look import Look
from zarfwright.core.looks.shown import resolved
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.space import Floats
from zarfwright.formats.findings import FormatError
from zarfwright.formats.ild import read_ild
from zarfwright.web.children.laser_feed import FeedStart, require_feeds
from zarfwright.web.here import attachment, desk_of, file_of, json_response, services, uploaded
from zarfwright.web.laser_models import FramesOut, LaserFeedOut, LaserFeedStart, LaserTest, ZoneQuery, ZonesOut
from zarfwright.web.lights import lights_of
from zarfwright.web.models import Problem, ShowPath, ThingPath

api = APIBlueprint("lasers", __name__, abp_responses={400: Problem, 404: Problem})
FAR_M = 60.0
"""So far zones are drawn that leave the venue."""


def _edge(show: Show, head: Head) -> Floats:
    """Where the edge of a head's zone lands (m, 3)."""
    ways = head.toward(outline(head.said.zone) if head.said.draws else np.zeros((1, 2)))
    start = np.asarray(head.place) + ways * 1e-3
    met = in_the_way(show)[0].first(start, ways)
    return np.asarray(start + ways * np.minimum(met.distance, FAR_M)[:, None])


@api.get("/api/shows/<show>/lasers", responses={200: ZonesOut})
def zones(path: ShowPath, query: ZoneQuery) -> Response:
    """The lasers of a show as it stands now and at full power, or as a look has them, and what they may reach: an aid
    to planning and no proof of safety."""
    desk, lights = desk_of(path.show), lights_of(path.show)
    values = None
    if query.look:
        desk.show.body(query.look, Look)
        show, values = as_in_look(desk.show, query.look), resolved(desk.show, query.look)
    else:
        show = lights.now()
    reached: dict[str, list[dict[str, object]]] = {}
    for one in crossings(show, values):
        reached.setdefault(one.head.key, []).append({
            "what": one.what, "where": one.where, "who": one.who, "ids": one.ids, "count": one.count,
            "irradiance_w_m2": one.irradiance_w_m2, "limit_w_m2": one.limit_w_m2, "over": one.over, "text": said(one),
        })  # fmt: skip
    limit = show.settings.laser_limit_w_m2
    told = []
    for head in heads_of(show, values):
        safe = safe_distance_m(head.beam, limit, max(head.share, 1e-9))
        told.append({
            "id": head.id, "number": head.number, "name": head.name, "feed": head.said.feed, "draws": head.said.draws,
            "on": head.zone_on, "place": head.place, "edge": np.round(_edge(show, head), 4).tolist(),
            "power_w": power_w(head.beam), "flux_lm": round(flux_lm(head.beam), 1),
            "safe_m": round(safe, 2) if np.isfinite(safe) else None, "crossings": reached.get(head.key, []),
        })  # fmt: skip
    return json_response({"heads": told, "note": AID})


@api.post("/api/shows/<show>/lasers/test", responses={204: None})
def test(path: ShowPath, body: LaserTest) -> Response:
    """Let lasers draw their test pattern, with the number of each; or one alone. Nothing of it is kept."""
    desk = desk_of(path.show)
    with desk.session.lock:
        desk.feed.test_lasers(body.heads, body.alone)
    return Response(status=204)


@api.post("/api/shows/<show>/lasers/files", responses={200: FramesOut})
def read_frames(path: ShowPath) -> Response:
    """Look into an ILDA file (the `file` of a form), and keep it among the assets."""
    desk = desk_of(path.show)
    data, name = uploaded("an ILDA file")
    try:
        reel, odd = read_ild(data)
    except FormatError as wrong:
        raise FormatError(f"{name} cannot be drawn: {wrong}") from wrong
    points = [len(one) for one in reel.frames]
    asset = desk.around.keep(name, data)
    return json_response({
        "asset": asset, "name": name, "frames": len(points), "formats": sorted({one.format for one in reel.frames}),
        "most_points": max(points), "seconds": round(sum(max(n / 30_000, 1 / 30) for n in points), 2),
        "findings": [vars(one) for one in odd],
    })  # fmt: skip


@api.get("/api/shows/<show>/lasers/<thing>/file", responses={200: None})
def write_frames(path: ThingPath) -> Response:
    """The ILDA file that a head draws, as it came."""
    desk = desk_of(path.show)
    head = desk.show.body(path.thing, Fixture).laser
    if head is None or head.file is None:
        abort(404, "That laser draws no file: drop one on it.")
    name, data = file_of(desk, head.file, "laser")
    return attachment(data, re.sub(r"[^\w .-]", "_", head.file_name or name) or "frames.ild")


@api.post("/api/shows/<show>/laser-feed", responses={200: LaserFeedOut})
def start_feed(path: ShowPath, body: LaserFeedStart) -> Response:
    """Start the simulated laser feed, or shut it down; with no feeds named, those that the show's heads take."""
    desk, serves = desk_of(path.show), services()
    if not body.run:
        serves.laser_feed.end()
        return json_response(serves.laser_feed.report())
    feeds = body.feeds.strip()
    if not feeds:
        taken = sorted({f.laser.feed for _, f in desk.show.lamps() if f.laser is not None and f.laser.feed is not None})
        if not taken:
            raise JobError("No laser takes a feed: number their feeds first, or type which to send.", "feeds")
        feeds = ",".join(f"{one}-{one}" for one in taken)
    serves.laser_feed.start(FeedStart(require_feeds(feeds), body.pattern, body.points, body.still))
    return json_response(serves.laser_feed.report())


@api.get("/api/shows/<show>/laser-feed", responses={200: LaserFeedOut})
def feed_report(path: ShowPath) -> Response:
    """Whether the simulated laser feed runs, and what it sends."""
    desk_of(path.show)
    return json_response(services().laser_feed.report())
