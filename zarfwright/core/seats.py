"""The places that the show is seen from: every person of the site who is not at work."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from zarfwright.core.scene import eye_of, people_of
from zarfwright.core.show import Item, Show
from zarfwright.core.site.figures import eye_height_m
from zarfwright.core.site.things import Crowd, Figure
from zarfwright.core.space import Vec


@dataclass(frozen=True)
class Seat:
    """A place to look from: whose it is, what it is called in its block, and where the eyes are (metres, show)."""

    id: str
    name: str
    group: str
    eye: Vec


def _of_crowd(item: Item, crowd: Crowd) -> Iterator[Seat]:
    who = people_of(crowd)
    counted: dict[int, int] = {}
    for i in range(who.count):
        row = int(who.rows[i])
        counted[row] = counted.get(row, 0) + 1
        name = f"Row {row}, seat {counted[row]}" if row else f"Standing, {i + 1}"
        x, y, z = who.places[i].tolist()
        eye = (x, y, z + eye_height_m(who.poses[i], float(who.heights_m[i])))
        yield Seat(f"{item.id}/{i + 1}", name, item.name, eye)


def seats(show: Show) -> list[Seat]:
    """Every seat: who sits by themselves, and all of each crowd in the order of its rows.

    A place stays in the list when its person is left out of the picture: a seat may be empty and still be sold.
    """
    found: list[Seat] = []
    for item in (*show.of_kind("figure"), *show.of_kind("crowd")):
        body = item.body
        if isinstance(body, Figure) and body.pose == "sitting":
            found.append(Seat(item.id, body.name, body.group, eye_of(body)))
        elif isinstance(body, Crowd):
            found.extend(_of_crowd(item, body))
    return found
