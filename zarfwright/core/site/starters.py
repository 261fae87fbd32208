"""Complete simple venues in one step, of ordinary things: everything stays editable, nothing is special about them."""

from __future__ import annotations

from zarfwright.core.kinds import Body
from zarfwright.core.site.outline import rectangle
from zarfwright.core.site.things import Crowd, Deck, Piece, Truss, Venue, Wall

KINDS = ("proscenium", "thrust", "black box", "shed", "arena floor")
# Width and depth of the room, its eave and ridge; width, depth and height of the stage; metres.
USUAL: dict[str, tuple[float, float, float, float, float, float, float]] = {
    "proscenium": (22.0, 34.0, 14.0, 14.0, 12.0, 10.0, 1.0), "thrust": (24.0, 26.0, 10.0, 10.0, 9.0, 8.0, 0.8),
    "black box": (14.0, 18.0, 6.0, 6.0, 8.0, 5.0, 0.0), "shed": (20.0, 50.0, 8.0, 11.0, 11.0, 7.5, 1.1),
    "arena floor": (50.0, 80.0, 18.0, 22.0, 18.0, 14.0, 1.5),
}  # fmt: skip


def _trusses(width: float, first_m: float, depth: float, trim: float) -> list[Body]:
    return [
        Truss("Truss downstage", (0.0, first_m, trim), width),
        Truss("Truss upstage", (0.0, depth - 1.0, trim), width),
    ]


def _house(width: float, from_m: float, depth: float, rise: float, aisle: float) -> Crowd:
    area = rectangle(width, depth, 0.0, -from_m - depth / 2)
    strips = ((0.0, -from_m - depth - 1.0, 0.0, 0.0, aisle),) if aisle > 0 else ()
    return Crowd("House", area, seating="rows", rise_m=rise, aisles=strips, pitch_m=0.55, row_m=0.95)


def starter(kind: str, room: tuple[float, float, float, float], stage: tuple[float, float, float]) -> list[Body]:
    """The things of a venue. `room`: width, depth, eave and ridge; `stage`: width, depth, height; metres.

    The setting line is the stage's downstage edge on the centre line.
    """
    width, depth, eave, ridge = room
    wide, deep, high = stage
    upstage = deep + max(2.0, depth * 0.06)
    house_m = depth - upstage
    made: list[Body] = [Venue("Room", width, upstage, house_m, eave, ridge)]
    if high > 0.01:
        made.append(Deck("Stage", (0.0, deep / 2, 0.0), wide, deep, high))
    trim = min(eave - 0.8, 7.5 if kind != "arena floor" else 12.0)
    if kind == "proscenium":
        opening = min(wide * 0.92, width - 3.0)
        head = min(eave - 1.0, opening * 0.62 + high)
        wall = Wall("Proscenium wall", ((-width / 2, 0.6, 0.0), (width / 2, 0.6, 0.0)), height_m=eave, thickness_m=0.4)
        cut = (width / 2, opening, high, head)
        made.append(Wall(wall.name, wall.corners, wall.position, False, eave, 0.4, (cut,)))
        made.append(
            Piece("Cyc", "cyc", (0.0, deep - 0.3, high), 0.0, wide, 0.6, min(eave - high - 1.0, 7.0), finish="cloth")
        )
        legs = [
            Piece(
                f"Leg {side} {i + 1}",
                "drape",
                (s * (opening / 2 + 0.4), 1.8 + 2.2 * i, high),
                0.0,
                1.8,
                0.2,
                head - high,
            )
            for i in range(max(1, int((deep - 2.5) / 2.2)))
            for side, s in (("SL", 1), ("SR", -1))
        ]
        made += legs
    if kind == "thrust":
        made.append(Deck("Tongue", (0.0, -2.5, 0.0), wide * 0.4, 5.0, high))
        side = wide * 0.2 + 1.2
        for name, s in (("House SL", 1), ("House SR", -1)):
            area = rectangle(4.0, 5.0, s * (side + 2.0), -2.8)
            made.append(Crowd(name, area, seating="rows", target=(0.0, -2.5), row_m=0.95))
    if kind == "shed":
        made += [
            Truss("Truss SL", (wide / 2 + 0.8, -4.0, trim), 10.0, 90.0, -8.0),
            Truss("Truss SR", (-wide / 2 - 0.8, -4.0, trim), 10.0, 90.0, -8.0),
        ]
    made += _trusses(min(wide + 4.0, width - 1.0), 1.5 if kind == "proscenium" else 0.5, deep, trim)
    start = 6.2 if kind == "thrust" else 2.0
    rows_m = max(min(house_m - start - 1.5, 18.0), 2.0)
    if kind == "arena floor":
        area = rectangle(min(width - 4.0, 34.0), min(house_m - 4.0, 30.0), 0.0, -2.0 - min(house_m - 4.0, 30.0) / 2)
        made.append(Crowd("Floor", area, seating="standing", per_m2=1.0, target=(0.0, 2.0)))
    else:
        made.append(_house(min(width - 3.0, 16.0), start, rows_m, 0.12 if kind == "proscenium" else 0.0, 1.2))
    return made
