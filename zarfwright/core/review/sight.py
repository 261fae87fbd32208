"""How much of a place each seat sees, and what hides it: rays from the place to the eyes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.raycast import SHORT_M, Caster
from zarfwright.core.review.lit import name_of
from zarfwright.core.scene import solids
from zarfwright.core.seats import Seat, seats
from zarfwright.core.show import Item, Show
from zarfwright.core.site.things import Crowd, Figure
from zarfwright.core.space import Floats, Vec, unit

SAMPLES = 50
SIZE_M = 0.25
"""How large what is looked at is where nobody says: a face."""
EYE_CLEAR_M = 0.2
"""What is nearer to an eye than this is its own head."""
BODY_M = 0.3
"""Whoever has the place looked at within their body is what is looked at, and hides nothing of it."""
SEES = 0.5
"""Who sees at least so much of it is said to see it."""
PeopleAs = Literal["as they are", "standing", "left out"]


@dataclass(frozen=True)
class Sight:
    """What one seat sees of a place."""

    seat: Seat
    seen: float
    """The share of it that is seen, 0..1."""
    hidden_by: tuple[str, ...]
    """The names of what hides the rest: what hides most of it first."""
    hiding: tuple[str, ...]
    """The same as keys: an item, or one of a crowd (`id/3`)."""


def as_people(show: Show, people: PeopleAs) -> Show:
    """The show with all of its audience standing; performers stay as they are."""
    if people != "standing":
        return show
    items = dict(show.items)
    for key, item in show.items.items():
        if isinstance(item.body, Crowd):
            items[key] = replace(item, body=replace(item.body, mix={"standing": 1.0}))
        elif isinstance(item.body, Figure) and item.body.pose == "sitting":
            items[key] = replace(item, body=replace(item.body, pose="standing"))
    return replace(show, items=items)


def hiding_solids(show: Show, people: PeopleAs) -> Caster:
    """Rays through what may be in the way of sight. Of performers all are, whatever the audience does."""
    items = [item for item in show.items.values() if item.is_a.solid and not show.hidden(item)]
    return Caster(solids(show, [item for item in items if people != "left out" or not _audience(item)]))


def _audience(item: Item) -> bool:
    return isinstance(item.body, Crowd) or (isinstance(item.body, Figure) and item.body.pose == "sitting")


def samples_of(place: Vec, normal: Vec | None, eyes: Floats, size_m: float) -> Floats:
    """Places to look at (eyes, SAMPLES, 3): evenly over a disc, across the way of each eye, or on the face."""
    middle = np.asarray(place, dtype=float)
    way = unit(eyes - middle) if normal is None else np.tile(unit(np.asarray(normal, dtype=float)), (len(eyes), 1))
    helper = np.where(np.abs(way[:, 2:]) < 0.95, [[0.0, 0.0, 1.0]], [[0.0, 1.0, 0.0]])
    across = unit(np.cross(helper, way))
    up = np.cross(way, across)
    # A sunflower's seeds: even over the disc, and the same every time.
    number = np.arange(SAMPLES)
    radius = size_m / 2 * np.sqrt((number + 0.5) / SAMPLES)
    turn = number * np.pi * (3 - np.sqrt(5))
    u, v = radius * np.cos(turn), radius * np.sin(turn)
    return np.asarray(middle + u[None, :, None] * across[:, None] + v[None, :, None] * up[:, None])


def _whose_body(show: Show, caster: Caster, place: Vec) -> NDArray[np.int64]:
    """The solids of the people within whom a place lies."""
    x, y, z = place
    own = {
        item.id
        for item, body in show.bodies(Figure)
        if np.hypot(body.position[0] - x, body.position[1] - y) < BODY_M
        and -0.05 < z - body.position[2] < body.height_m + 0.1
    }
    return np.array([i for i, name in enumerate(caster.names) if name in own], dtype=np.int64)


THROUGH = 6
PAST_M = 1e-3


def _first(caster: Caster, start: Floats, way: Floats, through: NDArray[np.int64]) -> tuple[Floats, NDArray[np.int64]]:
    """How far rays (m, 3) go and what they meet, (m,) each; they pass through some solids."""
    met = caster.first(start, way)
    far, thing = met.distance.copy(), met.thing.copy()
    for _ in range(THROUGH):
        again = np.flatnonzero(np.isin(thing, through) & np.isfinite(far))
        if not len(again):
            break
        past = far[again] + PAST_M
        met = caster.first(start[again] + way[again] * past[:, None], way[again])
        far[again], thing[again] = met.distance + past, met.thing
    return far, thing


def sight(
    show: Show,
    place: Vec,
    normal: Vec | None = None,
    size_m: float = SIZE_M,
    people: PeopleAs = "as they are",
    caster: Caster | None = None,
) -> list[Sight]:
    """What each seat sees of a disc of `size_m` at a place (metres, show), in the order of the seats. With a normal it
    is on a face that looks there, and who is behind sees nothing. `caster`: what `hiding_solids` gave for it.

    Parts of the disc that are inside of things count for nothing: of a face in a corner, what sticks out of the walls.
    """
    stand = as_people(show, people)
    found = seats(stand)
    if not found:
        return []
    caster = caster or hiding_solids(stand, people)
    own = _whose_body(stand, caster, place)
    eyes = np.array([seat.eye for seat in found])
    at, middle = samples_of(place, normal, eyes, size_m), np.asarray(place, dtype=float)
    face = unit(np.asarray(normal, dtype=float)) if normal is not None else np.zeros(3)
    at, middle = at + face * SHORT_M, middle + face * SHORT_M
    real = _outside(caster, middle, at, eyes, own)
    start, end = at.reshape(-1, 3), np.repeat(eyes, SAMPLES, axis=0)
    way = end - start
    far = np.linalg.norm(way, axis=1)
    way /= np.maximum(far, 1e-9)[:, None]
    away, thing = _first(caster, start + way * SHORT_M, way, own)
    mine = np.repeat(_own_rows(caster, found), SAMPLES)
    hidden = (away < far - EYE_CLEAR_M - SHORT_M) & (thing != mine)
    thing[~hidden] = -1
    # What one sees in its place is what is nearest to the eye.
    lost = np.flatnonzero(hidden)
    _, nearest = _first(caster, end[lost] - way[lost] * EYE_CLEAR_M, -way[lost], own)
    thing[lost] = np.where((nearest >= 0) & (nearest != mine[lost]), nearest, thing[lost])
    if normal is not None:
        hidden |= way @ face <= 0
    return _counted(stand, caster, found, hidden.reshape(-1, SAMPLES), thing.reshape(-1, SAMPLES), real)


def _own_rows(caster: Caster, found: Sequence[Seat]) -> NDArray[np.int64]:
    """The solids that the seats' own people are, (seats,); -2 where none is drawn."""
    rows = {name: i for i, name in enumerate(caster.names)}
    return np.array([rows.get(seat.id, -2) for seat in found])


def _outside(caster: Caster, middle: Floats, at: Floats, eyes: Floats, own: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which samples (eyes, SAMPLES) can be reached from the middle of the disc, drawn a little towards each eye: what
    cannot is inside of something."""
    start = np.repeat(middle + unit(eyes - middle) * SHORT_M, SAMPLES, axis=0)
    way = at.reshape(-1, 3) - start
    far = np.linalg.norm(way, axis=1)
    reached, _ = _first(caster, start, way / np.maximum(far, 1e-9)[:, None], own)
    real: NDArray[np.bool_] = np.asarray(reached >= far - SHORT_M).reshape(-1, SAMPLES)
    # A place that is itself inside of something is hidden whole, not nowhere.
    real[~real.any(axis=1)] = True
    return real


BACK = "its own back"


def _counted(
    show: Show,
    caster: Caster,
    found: Sequence[Seat],
    hidden: NDArray[np.bool_],
    thing: NDArray[np.int64],
    real: NDArray[np.bool_],
) -> list[Sight]:
    """What each seat sees, of which samples (seats, SAMPLES) are hidden to it, and by which solid; -1: by none."""
    who = {seat.id: seat_text(seat) for seat in found}
    made = []
    for i, seat in enumerate(found):
        lost = hidden[i] & real[i]
        hiding = [(caster.names[row] if row >= 0 else "") for row, _ in Counter(thing[i][lost].tolist()).most_common()]
        names = dict.fromkeys((who.get(key) or name_of(show, key)) if key else BACK for key in hiding)
        seen = 1 - int(lost.sum()) / int(real[i].sum())
        made.append(Sight(seat, seen, tuple(names), tuple(key for key in hiding if key)))
    return made


def seat_text(seat: Seat) -> str:
    """A seat as sentences name it: its block first."""
    return f"{seat.group}, {seat.name[0].lower()}{seat.name[1:]}" if seat.group and seat.name else seat.name


def seeing(found: Sequence[Sight]) -> int:
    """How many of the seats see it."""
    return sum(one.seen >= SEES for one in found)


def by_block(found: Sequence[Sight]) -> dict[str, tuple[int, int]]:
    """Of each block how many seats see it, and of how many."""
    blocks: dict[str, list[Sight]] = {}
    for one in found:
        blocks.setdefault(one.seat.group, []).append(one)
    return {name: (seeing(those), len(those)) for name, those in blocks.items()}


def worst(found: Sequence[Sight]) -> list[Sight]:
    """The seats that do not see all of it, the worst first."""
    return sorted((one for one in found if one.seen < 1), key=lambda one: one.seen)
