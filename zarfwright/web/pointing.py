"""A selection pointed, as it would be: where each beam would go, who cannot, and what would let them."""

from __future__ import annotations

import math
from typing import Any

from flask import Response
from flask_openapi3.blueprint import APIBlueprint

from zarfwright.core.aiming.coloured import driven, kinds_of, means, mixes, shown_xy
from zarfwright.core.aiming.pointing import Landing, Pair, aimable, landings, point_at
from zarfwright.core.aiming.repairs import repairs
from zarfwright.core.edits.aiming import AimAt, chosen_fixtures, wish_of
from zarfwright.core.edits.cutting import edge_at
from zarfwright.core.picture.constants import wheel_behind
from zarfwright.core.show import Show
from zarfwright.core.space import vec
from zarfwright.web.here import desk_of, json_response, services
from zarfwright.web.models import Problem, ShowPath
from zarfwright.web.pointing_models import (
    Chosen,
    ColoursOut,
    EdgeOut,
    EdgeQuestion,
    PointingOut,
    Reaches,
    Wheels,
)

api = APIBlueprint("pointing", __name__, abp_responses={400: Problem, 404: Problem})
OFFERED = 8
"""To how many of those who cannot reach repairs are offered."""


def _pointed(show: Show, body: AimAt) -> tuple[list[Pair], list[str], Any]:
    pairs, still = aimable(show, chosen_fixtures(show, body.ids))
    return pairs, still, point_at(show, pairs, wish_of(show, body), body.now)


@api.post("/api/shows/<show>/pointing", responses={200: PointingOut})
def pointing(path: ShowPath, body: AimAt) -> Response:
    """Where fixtures would look, while the pointer is held over a place; nothing is changed."""
    desk_of(path.show)
    show = services().lights.now()
    pairs, still, pointed = _pointed(show, body)
    if not pairs:
        return json_response({"heads": [], "still": still})
    ends = landings(pointed, services().lights.caster())
    heads = [_out(show, pair, end) for pair, end in zip(pairs, ends, strict=True)]
    return json_response({"heads": heads, "still": still})


def _name(show: Show, thing: str | None) -> str | None:
    item = show.items.get(thing.split("/")[0]) if thing else None
    return item.name if item is not None else None


def _out(show: Show, pair: Pair, end: Landing) -> dict[str, Any]:
    return {
        "id": pair[0].id,
        "lens": end.lens,
        "at": end.at,
        "target": end.target,
        "thing": _name(show, end.thing),
        "blocked_by": _name(show, end.blocked_by),
        "missing_deg": round(math.degrees(end.missing), 3),
        "half_field": end.half_field,
    }


@api.post("/api/shows/<show>/reach", responses={200: Reaches})
def reach(path: ShowPath, body: AimAt) -> Response:
    """Who of fixtures cannot look where they are told to, and what would let them."""
    desk_of(path.show)
    show = services().lights.now()
    pairs, _still, pointed = _pointed(show, body)
    found: list[dict[str, Any]] = []
    for i, (item, fixture) in enumerate(pairs):
        if pointed.aimed.reaches[i]:
            continue
        offered = repairs(show, item, fixture, vec(pointed.targets[i])) if len(found) < OFFERED else []
        missing = round(math.degrees(pointed.aimed.missing[i]), 2)
        found.append({"id": item.id, "missing_deg": missing, "repairs": [vars(one) for one in offered]})
    return json_response(found)


@api.post("/api/shows/<show>/edge", responses={200: EdgeOut})
def edge(path: ShowPath, body: EdgeQuestion) -> Response:
    """The edge of the set that a click there would cut to."""
    return json_response({"ends": edge_at(desk_of(path.show).show, body.thing, body.point)})


@api.post("/api/shows/<show>/colours", responses={200: ColoursOut})
def colours(path: ShowPath, body: Chosen) -> Response:
    """What fixtures can mix, kind by kind, and what the first of them shows now."""
    desk = desk_of(path.show)
    show = desk.show
    pairs = chosen_fixtures(show, body.ids)
    kinds = []
    for kind in kinds_of(show, pairs):
        outline, slots = mixes(show, kind)
        made_by = means(show, kind)
        fixture_type = show.types[kind.type]
        wheel = wheel_behind(fixture_type, kind.mode, "colour slot")
        named = [slot.name for slot in wheel.slots] if wheel is not None else []
        found = [
            {"slot": n + 1, "name": named[n] if n < len(named) else str(n + 1), "xy": xy} for n, xy in enumerate(slots)
        ]
        kinds.append({"ids": kind.ids, "type": fixture_type.name, "outline": outline, "slots": found,
                      "emitters": made_by.emitters, "flags": made_by.flags, "spectra": made_by.spectra})  # fmt: skip
    return json_response({"kinds": kinds, "now": shown_xy(show, body.ids[0], desk.feed.values())})


WHEELS = ("gobo", "gobo 2", "prism")


@api.post("/api/shows/<show>/wheels", responses={200: Wheels})
def wheels(path: ShowPath, body: Chosen) -> Response:
    """The gobos and prisms that a selection can choose from, wheel by wheel."""
    show = desk_of(path.show).show
    found = []
    for kind in kinds_of(show, chosen_fixtures(show, body.ids)):
        fixture_type, able = show.types[kind.type], driven(show.types[kind.type], kind.mode)
        for name in WHEELS:
            wheel = wheel_behind(fixture_type, kind.mode, f"{name} slot")
            if wheel is None or len(wheel.slots) < 2:
                continue
            slots = [
                {"slot": n, "name": slot.name, "image": fixture_type.image_keys.get(slot.image or "")}
                for n, slot in enumerate(wheel.slots, start=1)
            ]
            turns = {part: f"{name} {part}" if f"{name} {part}" in able else None for part in ("turn", "spin")}
            found.append(
                {"feature": f"{name} slot", "ids": kind.ids, "type": fixture_type.name, "slots": slots, **turns}
            )
    return json_response(found)
