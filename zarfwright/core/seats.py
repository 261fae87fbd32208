"""The places that the show is seen from: every person of the site who is not at work."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.scene import eye_of, people_of
from zarfwright.core.show import Item, Show
from zarfwright.core.site.figures import eye_height_m
from zarfwright.core.site.things import Crowd, Deck, Figure
from zarfwright.core.space import Vec


@dataclass(frozen=True)
class Seat:
    """A place to look from: whose it is, what it is called in its block, where the eyes are and what they look at
    (metres, show)."""

    id: str
    name: str
    group: str
    eye: Vec
    target: Vec


FACES_M = 1.5
"""How high above what people stand on one looks."""


STAGE_MOST_M = 3.0
"""A deck whose top is higher is a gallery or a bridge, and no stage."""


def looked_at(show: Show) -> Vec:
    """What the show is looked at by: faces in the midst of those who stand or play; where nobody does, over the middle
    of the largest deck that may be a stage; without one, under the middle of what hangs."""
    people = [body.position for item, body in show.bodies(Figure) if body.pose != "sitting" and not show.hidden(item)]
    if people:
        x, y, z = np.median(people, axis=0).tolist()
        return (x, y, z + FACES_M)
    decks = [body for item, body in show.bodies(Deck) if not show.hidden(item)]
    stages = [deck for deck in decks if deck.position[2] + deck.height_m <= STAGE_MOST_M]
    if stages:
        stage = max(stages, key=lambda deck: deck.width_m * deck.depth_m)
        x, y, z = stage.position
        return (x, y, z + stage.height_m + FACES_M)
    places = [clamp_placement(show, body).position for item, body in show.lamps() if not show.hidden(item)]
    x, y = np.mean(places, axis=0).tolist()[:2] if places else (0.0, 0.0)
    return (x, y, FACES_M)


def _of_crowd(item: Item, crowd: Crowd, middle: Vec) -> Iterator[Seat]:
    who = people_of(crowd)
    counted: dict[int, int] = {}
    # Whoever was told what to look at looks there.
    at = middle if crowd.target is None else (*crowd.target, middle[2])
    for i in range(who.count):
        row = int(who.rows[i])
        counted[row] = counted.get(row, 0) + 1
        name = f"Row {row}, seat {counted[row]}" if row else f"Standing, {i + 1}"
        x, y, z = who.places[i].tolist()
        eye = (x, y, z + eye_height_m(who.poses[i], float(who.heights_m[i])))
        yield Seat(f"{item.id}/{i + 1}", name, item.name, eye, at)


def seats(show: Show) -> list[Seat]:
    """Every seat: who sits by themselves, and all of each crowd in the order of its rows.

    A place stays in the list when its person is left out of the picture: a seat may be empty and still be sold.
    """
    found: list[Seat] = []
    middle = looked_at(show)
    for item in (*show.of_kind("figure"), *show.of_kind("crowd")):
        body = item.body
        if isinstance(body, Figure) and body.pose == "sitting":
            found.append(Seat(item.id, body.name, body.group, eye_of(body), middle))
        elif isinstance(body, Crowd):
            found.extend(_of_crowd(item, body, middle))
    return found
