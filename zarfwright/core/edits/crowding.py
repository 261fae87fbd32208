"""Edits of crowds: areas filled, thinned, kept out of what stands there, turned to what they look at."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.edits.base import (
    Arguments,
    Call,
    Edit,
    NewId,
    added,
    changed,
    coordinate,
    free_name,
    length,
    made,
    within,
)
from zarfwright.core.edits.drawing import Outlined, corners_of
from zarfwright.core.errors import JobError
from zarfwright.core.readiness import full_text
from zarfwright.core.scene import crowd_solids, people_of, solids
from zarfwright.core.settings import Viewpoint
from zarfwright.core.show import Change, Item, Show, listed
from zarfwright.core.site.crowd import STAGE, fingerprint
from zarfwright.core.site.footprints import CHEST_M, KNEES_M, footprint
from zarfwright.core.site.outline import Corner, polygon_of
from zarfwright.core.site.things import Crowd
from zarfwright.core.site.visibility import needed, seen_from
from zarfwright.core.units import parse_count


class AddCrowd(Outlined):
    """People in an area."""

    seating: Literal["standing", "rows"] = "standing"
    count: str = ""
    per_m2: str = "1.5"
    pitch: str = "0.55m"
    row: str = "0.9m"
    stagger: bool = False
    rise: str = "0"
    seed: str = "1"
    centre_aisle: str = ""
    """The width of an aisle through the middle, towards what they look at; empty: none."""
    aisles: list[tuple[float, float, float, float, float]] = []
    target: tuple[float, float] | None = None
    sitting_share: str = ""
    """How many in a hundred sit; empty: as the seating asks."""
    raised_share: str = ""
    """How many in a hundred stand with their arms up."""


def _plain(text: str, field: str, least: float, most: float) -> float:
    try:
        return within(float(text.replace(",", ".")), field, least, most)
    except ValueError as wrong:
        raise JobError(f"“{text}” is not a number.", field) from wrong


def _through_the_middle(corners: tuple[Corner, ...], width: float, target: tuple[float, float]) -> tuple[float, ...]:
    """A strip through the middle of an area, towards a place, past its edges at both ends."""
    polygon = polygon_of(corners)
    middle = np.array(polygon.centroid.coords[0])
    way = np.array(target) - middle
    way = way / (np.linalg.norm(way) or 1.0)
    far = float(np.hypot(*(np.array(polygon.bounds[2:]) - np.array(polygon.bounds[:2]))))
    start, end = middle - way * far, middle + way * far
    return (*(round(float(v), 6) for v in (*start, *end)), width)


def add_crowd(show: Show, args: AddCrowd, new_id: NewId) -> Edit:
    corners = corners_of(show, args)
    aisles = [tuple(aisle) for aisle in args.aisles]
    if args.centre_aisle.strip():
        width = length(show, args.centre_aisle, "centre_aisle", 0.1, 20.0)
        aisles.append(_through_the_middle(corners, width, args.target or STAGE))
    mix: dict[str, float] = {}
    if args.sitting_share.strip():
        share = _plain(args.sitting_share, "sitting_share", 0, 100)
        mix = {"sitting": share, "standing": 100 - share}
    if args.raised_share.strip():
        share = _plain(args.raised_share, "raised_share", 0, 100)
        rest = mix or ({"sitting": 100.0} if args.seating == "rows" else {"standing": 100.0})
        mix = {pose: weight * (100 - share) / 100 for pose, weight in rest.items()} | {"arms up": share}
    crowd = Crowd(
        name=free_name(show, "crowd", args.name, "Crowd"),
        corners=corners,
        z_m=coordinate(show, args.z, "z", "z"),
        seating=args.seating,
        count=parse_count(args.count, 0, 20_000) if args.count.strip() else None,
        per_m2=_plain(args.per_m2, "per_m2", 0.01, 8.0),
        pitch_m=length(show, args.pitch, "pitch", 0.4, 5.0),
        row_m=length(show, args.row, "row", 0.5, 10.0),
        stagger=args.stagger,
        rise_m=length(show, args.rise, "rise", 0.0, 2.0),
        target=args.target,
        aisles=tuple(aisles),  # type: ignore[arg-type]
        seed=parse_count(args.seed, 0, 99_999),
        mix=mix,
    )
    crowd = replace(crowd, clear=standing_in(show, crowd))
    items = added(show, "crowd", [crowd], new_id)
    who = people_of(crowd)
    report = (full_text(crowd, who),) if who.count < who.asked else ()
    return Edit((made(items[0]),), f"Add {crowd.name}, {who.count} people", (items[0].id,), report)


def standing_in(show: Show, crowd: Crowd) -> tuple[tuple[Corner, ...], ...]:
    """The plans of what stands in a crowd's area at its people's height: they keep out of it."""
    area, found = polygon_of(crowd.corners), []
    for item in show.items.values():
        print_ = None if show.hidden(item) else footprint(item.body)
        if print_ is None:
            continue
        plan, low, high = print_
        if high <= crowd.z_m + KNEES_M or low >= crowd.z_m + CHEST_M or not plan.intersects(area):
            continue
        parts = plan.geoms if hasattr(plan, "geoms") else [plan]
        for part in parts:
            if part.intersection(area).area > 1e-6:
                found.append(tuple((round(x, 4), round(y, 4), 0.0) for x, y in part.exterior.coords[:-1]))
    return tuple(found)


class KeepClear(Arguments):
    """Let crowds keep out of what stands in their areas now."""

    ids: list[str]


def keep_clear(show: Show, args: KeepClear, _: NewId) -> Edit:
    changes = []
    for item in map(show.item, args.ids):
        if isinstance(item.body, Crowd) and (clear := standing_in(show, item.body)) != item.body.clear:
            changes.append(changed(item, replace(item.body, clear=clear)))
    if not changes:
        raise JobError("They keep out of all that stands there already.", "ids")
    return Edit(tuple(changes), f"Keep {listed(show, args.ids)} out of what stands there", tuple(args.ids))


class FaceCrowd(Arguments):
    """Let crowds look at a place in plan; none: at the middle of the stage."""

    ids: list[str]
    at: tuple[float, float] | None = None


def face_crowd(show: Show, args: FaceCrowd, _: NewId) -> Edit:
    items = [item for item in map(show.item, args.ids) if isinstance(item.body, Crowd)]
    if not items:
        raise JobError("Nobody is selected who could look there: select a crowd.", "ids")
    changes = tuple(changed(item, replace(item.body, target=args.at)) for item in items)  # type: ignore[arg-type]
    where = "the stage" if args.at is None else "another place"
    return Edit(changes, f"Let {listed(show, args.ids)} look at {where}", tuple(args.ids))


class ThinCrowds(Arguments):
    """Leave out who of the crowds is not missed from viewpoints (all of the show's where none are named)."""

    viewpoints: list[str] = []
    all: bool = False
    """Bring everybody back instead."""


def _whole_crowds(show: Show) -> list[tuple[Item, Crowd]]:
    """The crowds with everybody in them. Raises JobError where there is none."""
    found = [(item, replace(crowd, left_out=(), left_for="")) for item, crowd in show.bodies(Crowd)]
    if not found:
        raise JobError("There is no crowd to thin: add one first.")
    return found


def _people(crowds: list[tuple[Item, Crowd]]) -> list[str]:
    """Everybody of some crowds, by their solids' ids."""
    return [solid.id for item, crowd in crowds for solid in crowd_solids(item, crowd)]


def thinning_calls(show: Show, args: ThinCrowds) -> list[Call]:
    """Who is seen how large from each viewpoint, a call for each."""
    whole = _whole_crowds(show)
    if args.all:
        return []
    points = [show.body(one, Viewpoint) for one in args.viewpoints] or [body for _, body in show.bodies(Viewpoint)]
    if not points:
        raise JobError("Thinning needs a viewpoint to judge by: name one in Review first.", "viewpoints")
    full = show.after(Change(item, replace(item, body=crowd)) for item, crowd in whole)
    every = [item for item in full.items.values() if item.kind != "fixture" and not full.hidden(item)]
    drawn, people = solids(full, every), _people(whole)
    return [Call(seen_from, (drawn, people, (point.eye, point.target))) for point in points]


def thin_crowds(show: Show, args: ThinCrowds, _: NewId, counts: list[NDArray[np.int64]]) -> Edit:
    whole = _whole_crowds(show)
    if args.all:
        back = tuple(changed(item, crowd) for item, crowd in whole if crowd != item.body)
        return Edit(back, "Bring everybody of the crowds back")
    people = _people(whole)
    if any(len(one) != len(people) for one in counts):
        raise JobError("The crowds were changed while they were looked at: thin them again.")
    stay = dict(zip(people, needed(np.stack(counts)).tolist(), strict=True))
    changes, left = [], 0
    for item, crowd in whole:
        out = tuple(i for i in range(people_of(crowd).count) if not stay[f"{item.id}/{i + 1}"])
        left += len(out)
        changes.append(changed(item, replace(crowd, left_out=out, left_for=fingerprint(crowd) if out else "")))
    report = (f"{len(people) - left} of {len(people)} people are enough from {len(counts)} viewpoints.",)
    return Edit(tuple(changes), f"Leave {left} of the crowds out", (), report)
