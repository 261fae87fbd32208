"""Whether a scene lies as scenes do: about the origin, the right way up, in millimetres; and laid otherwise."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from zarfwright.core.exchange.places import place_of, upside_down
from zarfwright.core.exchange.rows import Rows, as_rows, inside
from zarfwright.core.exchange.scene import Scene, Thing
from zarfwright.core.show import Show
from zarfwright.core.space import Floats, Vec, vec

FACTORS = {
    1000.0: "metres", 304.8: "feet", 25.4: "inches", 10.0: "centimetres", 0.001: "thousandths of a millimetre",
    0.3048: "feet, each taken for a metre", 1 / 0.3048: "metres, each taken for a foot",
}  # fmt: skip
"""By what places are too small, and what they then are in where a file should be in millimetres."""
LEAST_M, MOST_M = 1.0, 1500.0
"""A rig is hardly smaller or larger than this."""
FAR_M = 60.0
"""Nor is its edge further than this from the origin."""
PAIRS_LEAST = 3
MOST_OF = 0.8


@dataclass(frozen=True)
class Lay:
    """How a whole scene is laid: its places made larger, turned over, then shifted by metres."""

    factor: float = 1.0
    over: bool = False
    shift: Vec = (0.0, 0.0, 0.0)

    @property
    def as_it_is(self) -> bool:
        return self == Lay()


@dataclass(frozen=True)
class Suspicion:
    """What is odd about how a scene lies, and how it would be put right."""

    what: str
    button: str
    lay: Lay


def laid(scene: Scene, lay: Lay) -> Scene:
    """The scene laid otherwise."""
    return scene if lay.as_it_is else replace(scene, things=tuple(_laid(thing, lay) for thing in scene.things))


def _laid(thing: Thing, lay: Lay) -> Thing:
    rows = np.array(thing.place)
    rows[3] *= lay.factor
    place: Rows = as_rows(rows)
    if lay.over:
        place = inside(upside_down(), place)
    moved = np.array(place)
    moved[3] += lay.shift
    return replace(thing, place=as_rows(moved))


def bounds(scene: Scene) -> tuple[Vec, Vec] | None:
    """How far a scene reaches, metres in the show's frame; None of an empty one."""
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    for thing in scene.things:
        if thing.tag == "GroupObject":
            continue
        points = np.array([thing.place[3]])
        shape = scene.shapes.get(thing.shape)
        if shape is not None:
            corners = np.array(np.meshgrid(*zip(shape.low, shape.high, strict=True))).reshape(3, -1).T
            rows = np.array(thing.place)
            points = corners @ rows[:3] + rows[3]
        low, high = np.minimum(low, points.min(axis=0)), np.maximum(high, points.max(axis=0))
    return (vec(low), vec(high)) if np.all(np.isfinite(low)) else None


def _places(scene: Scene) -> Floats:
    """Where things that stand by themselves are (n, 3)."""
    found = [thing.place[3] for thing in scene.things if thing.tag != "GroupObject"]
    return np.array(found, dtype=float).reshape(-1, 3)


def suspicions(show: Show, scene: Scene, pairs: Mapping[str, str]) -> list[Suspicion]:
    """What is odd about how a scene lies: seen by things that the show has too (`pairs`, UUIDs to ids), else by how far
    it reaches."""
    there = [(thing.place, place_of(show, show.items[pairs[thing.uuid]].body)) for thing in scene.things
             if thing.uuid in pairs and thing.tag != "GroupObject"]  # fmt: skip
    if len(there) >= PAIRS_LEAST:
        found = _against(np.array([a[3] for a, _ in there]), np.array([b[3] for _, b in there]))
        if found is not None:
            return found
    return _by_itself(scene)


def _against(theirs: Floats, ours: Floats) -> list[Suspicion] | None:
    """What is odd about places beside those of the same things here; None where nothing can be said of that."""
    a, b = np.median(theirs, axis=0), np.median(ours, axis=0)
    spread, own = (float(np.median(np.linalg.norm(x - m, axis=1))) for x, m in ((theirs, a), (ours, b)))
    if own < 0.2 or spread <= 0:
        return None
    ratio = own / spread
    factor, unit = min(FACTORS.items(), key=lambda one: abs(np.log(ratio / one[0])))
    if abs(ratio - 1.0) > 0.05 and abs(ratio / factor - 1.0) < 0.03:
        lay = Lay(factor)
        shift = b - a * factor
        if np.linalg.norm(shift) > 0.05 * own:
            lay = replace(lay, shift=vec(np.round(shift, 4)))
        what = (
            f"Its places are {unit} where they should be millimetres: what the show has too lies {ratio:.4g} times as "
            "far apart here."
        )
        return [Suspicion(what, f"Take them as {unit}", lay)]
    if abs(ratio - 1.0) > 0.05:
        return []
    turned = theirs * [1.0, -1.0, -1.0]
    for over, places in ((False, theirs), (True, turned)):
        shift = np.median(ours - places, axis=0)
        off = np.linalg.norm(ours - places - shift, axis=1)
        if np.mean(off < 0.02) < MOST_OF:
            continue
        if over:
            what = "All of it stands on its head: what the show has too is turned over."
            return [Suspicion(what, "Turn it over", Lay(over=True, shift=vec(np.round(shift, 4))))]
        if np.linalg.norm(shift) < 0.02:
            return []
        what = f"All of it lies {np.linalg.norm(shift):.2f} m from where the same things are here."
        return [Suspicion(what, "Bring it where they are", Lay(shift=vec(np.round(shift, 4))))]
    return []


def _by_itself(scene: Scene) -> list[Suspicion]:
    places = _places(scene)
    if len(places) < 2:
        return []
    low, high = np.percentile(places, 2, axis=0), np.percentile(places, 98, axis=0)
    extent = float((high - low)[:2].max())
    if 0 < extent < LEAST_M or extent > MOST_M:
        return _unit(extent)
    if _upside_down(scene):
        after = laid(scene, Lay(over=True))
        floor = float(min(thing.place[3][2] for thing in after.things))
        shift = (0.0, 0.0, round(-floor, 4) if floor < -0.01 else 0.0)
        what = "It stands on its head: it reaches down from zero, and its lamps point up."
        return [Suspicion(what, "Turn it over", Lay(over=True, shift=shift))]
    middle = (low + high) / 2
    if float(np.linalg.norm(middle)) > FAR_M + extent:
        shift = vec(np.round([-middle[0], -middle[1], -low[2] if abs(low[2]) > FAR_M else 0.0], 3))
        what = f"It lies {np.linalg.norm(middle):.0f} m from the origin, and is {extent:.0f} m across."
        return [Suspicion(what, "Bring its middle to the origin", Lay(shift=shift))]
    return []


def _unit(extent: float) -> list[Suspicion]:
    """What a scene may be in that is far too small or too large; the likeliest first."""
    found = []
    for factor, unit in FACTORS.items():
        if 4.0 <= extent * factor <= 250.0 and (factor > 1) == (extent < LEAST_M):
            what = f"It is {extent:.3g} m across: its places seem to be {unit} where they should be millimetres."
            found.append(Suspicion(what, f"Take them as {unit}", Lay(factor)))
    return found


def _upside_down(scene: Scene) -> bool:
    """Whether nearly all lamps are below zero and point up in their zero pose."""
    lamps = [thing.place for thing in scene.things if thing.said is not None]
    if len(lamps) < PAIRS_LEAST:
        return False
    over = np.mean([rows[2][2] < -0.5 for rows in lamps])
    below = np.mean([rows[3][2] < -0.5 for rows in lamps])
    return bool(over > MOST_OF and below > MOST_OF)
