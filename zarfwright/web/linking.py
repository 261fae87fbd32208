"""Consoles that are linked: rigs offered to them and compared with theirs."""

from __future__ import annotations

from typing import Any

from flask import Response
from flask_openapi3.blueprint import APIBlueprint

from zarfwright.core.errors import JobError
from zarfwright.core.exchange.offered import Wish
from zarfwright.core.exchange.scene import uuid_of
from zarfwright.core.linking.answers import Answered
from zarfwright.core.linking.listed import listed_of
from zarfwright.core.show import Show
from zarfwright.web.desk.consoles import Offer
from zarfwright.web.here import desk_of, json_response, services
from zarfwright.web.linking_models import (
    BesideRequest,
    ConsolesReport,
    LinkPath,
    OfferedRig,
    OfferRequest,
    TakeRequest,
)
from zarfwright.web.models import Problem, ShowPath, Who
from zarfwright.web.patches import PatchCompared, compared_out
from zarfwright.web.show_models import EditResult

api = APIBlueprint("linking", __name__, abp_responses={400: Problem, 404: Problem})


@api.get("/api/shows/<show>/consoles", responses={200: ConsolesReport})
def consoles_report(path: ShowPath) -> Response:
    """Which consoles there are, and how they are linked."""
    desk_of(path.show)
    return json_response(services().consoles.report())


@api.post("/api/shows/<show>/consoles/<key>/offer", responses={200: OfferedRig})
def offer_rig(path: LinkPath, body: OfferRequest) -> Response:
    """Tell a console of the rig, and ask what taking it would come to."""
    desk = desk_of(path.show)
    wish = Wish(body.only, frozenset(body.ids) if body.ids else None)
    return json_response(_offered(desk.show, services().consoles.offer(path.key, wish, body.comment)))


@api.get("/api/shows/<show>/consoles/<key>/offer", responses={200: OfferedRig})
def last_offer(path: LinkPath) -> Response:
    """The rig that a console was told of last, and what came of it."""
    desk = desk_of(path.show)
    return json_response(_offered(desk.show, services().consoles.last_offer(path.key)))


@api.post("/api/shows/<show>/consoles/<key>/take", responses={200: OfferedRig})
def have_taken(path: LinkPath, body: TakeRequest) -> Response:
    """Have a console take the rig that it was told of."""
    desk = desk_of(path.show)
    return json_response(_offered(desk.show, services().consoles.take(path.key, body.way)))


@api.post("/api/shows/<show>/consoles/<key>/compare", responses={200: PatchCompared})
def compare_rig(path: LinkPath) -> Response:
    """A console's rig beside the show's patch."""
    desk = desk_of(path.show)
    key, arrived = services().consoles.fetch(path.key)
    return json_response(compared_out(desk.show, arrived.name, listed_of(arrived.scene), scene=key))


@api.post("/api/shows/<show>/consoles/<key>/palettes", responses={200: EditResult})
def take_palettes(path: LinkPath, body: Who) -> Response:
    """Keep a console's palettes as ours, as one edit."""
    desk, consoles = desk_of(path.show), services().consoles
    told = consoles.hands.palettes(path.key)
    if not told:
        raise JobError("The console has told of no palettes yet.")
    args = {"source": consoles.link(path.key).console.name, "palettes": told}
    return json_response(desk.edit(body.who, "take palettes", args))


@api.post("/api/shows/<show>/consoles/<key>/beside", responses={200: ConsolesReport})
def set_beside(path: LinkPath, body: BesideRequest) -> Response:
    """Whether values go to a console that only runs beside the show, and its selection is outlined."""
    desk_of(path.show)
    services().consoles.set_beside(path.key, body.hand_over, body.outline)
    return json_response(services().consoles.report())


def _offered(show: Show, offer: Offer) -> dict[str, Any]:
    ids = {uuid_of(item.id): item.id for item, _ in show.fixtures()}
    return {
        "key": offer.file.key,
        "fixtures": sum(thing.said is not None for thing in offer.scene.things),
        "bytes": len(offer.file.data),
        "left_out": [vars(one) for one in offer.left_out],
        "there": offer.there,
        "asks": offer.asks,
        "ways": {way: _answered(ids, answered) for way, answered in offer.ways.items()},
        "way": offer.way,
        "result": _answered(ids, offer.result) if offer.result is not None else None,
        "said": offer.said,
    }


def _answered(ids: dict[str, str], answered: Answered) -> dict[str, Any]:
    counts: dict[str, int] = {}
    for line in answered.lines:
        counts[line.answer] = counts.get(line.answer, 0) + 1
    return {
        "taken": answered.taken,
        "gone": answered.gone,
        "replaced": answered.replaced,
        "counts": counts,
        "lines": [
            {
                "id": ids.get(line.uuid), "number": line.number, "name": line.name, "answer": line.answer,
                "reason": line.reason, "mode": line.mode,
            }
            for line in answered.lines
        ],
        "missing": [vars(one) for one in answered.missing],
    }  # fmt: skip
