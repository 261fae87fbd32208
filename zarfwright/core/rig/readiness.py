"""What is still wrong with the rig: numbers, places, rails, bodies in each other's way, labels that nobody sees."""

from __future__ import annotations

import math
from collections import defaultdict

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.exchange.standing import is_stand_in
from zarfwright.core.findings import Finding, Repair
from zarfwright.core.memo import Memo
from zarfwright.core.rig.bodies import TOUCH_M, body_box, in_each_other, room
from zarfwright.core.rig.hang import clamp_placement, past_the_end
from zarfwright.core.rig.rails import along_of
from zarfwright.core.rig.things import Carrier, Fixture, Hang, LabelStyle, TypeEntry
from zarfwright.core.show import Item, Show
from zarfwright.core.site.structures import truss_rails
from zarfwright.core.site.things import Deck, Piece, Truss
from zarfwright.core.space import Floats, Placement, rotate, vec
from zarfwright.core.types.bodies import body_parts
from zarfwright.core.types.chain import chain_of
from zarfwright.core.types.model import FixtureType
from zarfwright.core.units import format_length

CHORD_M = 0.025
STAND_M = 0.05
"""A fixture so little over a surface stands on it."""


def _called(item: Item) -> str:
    return item.name.capitalize()


def _surfaces(show: Show) -> list[tuple[float, float, float, float, float]]:
    """Tops of decks and pieces as boxes in plan: least x, y, greatest x, y, height. The datum is everywhere."""
    tops = [(-np.inf, -np.inf, np.inf, np.inf, 0.0)]
    for item in show.items.values():
        body = item.body
        if isinstance(body, Deck | Piece):
            reach = float(np.hypot(body.width_m, body.depth_m)) / 2
            x, y, z = body.position
            tops.append((x - reach, y - reach, x + reach, y + reach, z + body.height_m))
    return tops


def _stands(show: Show, place: Floats, surfaces: list[tuple[float, float, float, float, float]]) -> bool:
    """Whether there is something to stand on right below a place."""
    return any(
        x0 <= place[0] <= x1 and y0 <= place[1] <= y1 and abs(place[2] - top) <= STAND_M
        for x0, y0, x1, y1, top in surfaces
    )


def _reach(fixture_type: FixtureType, mode: str) -> tuple[float, float]:
    """Of a body: how far its head reaches from the tilt axis in any direction, and how far below the clamp that is.
    Metres; nothing of what does not move."""
    chain = chain_of(fixture_type, mode)
    if not chain.moves:
        return 0.0, 0.0
    drop = float(np.linalg.norm(np.add(chain.pan_offset, chain.tilt_offset)))
    head = 0.0
    for part in body_parts(fixture_type, mode):
        vertices = part.mesh.vertices.astype(float)
        if len(vertices) and part.turns == 2:
            head = max(head, float(np.linalg.norm(vertices, axis=1).max()))
    return head, drop


_reach_memo = Memo(_reach, 500)


def _head(fixture_type: FixtureType, mode: str, clamp: Placement) -> tuple[tuple[float, float, float], float]:
    """Where the tilt axis of a moving head is, and how far the head reaches from it: 0 of what does not move."""
    head, drop = _reach_memo(fixture_type, mode)
    if head == 0:
        # What does not move is set by hand so that it is in nobody's way.
        return (0.0, 0.0, 0.0), 0.0
    return vec(np.asarray(clamp.position) + rotate(clamp.rotation, (0.0, 0.0, -drop))), head


_head_memo = Memo(_head)


def _heads(show: Show) -> tuple[list[Item], Floats, Floats]:
    """The moving heads: where their tilt axes are (n, 3) and how far the heads reach (n,)."""
    items, places, reaches = [], [], []
    for item, fixture in show.lamps():
        if fixture.type not in show.types or show.hidden(item):
            continue
        place, reach = _head_memo(show.types[fixture.type], fixture.mode, clamp_placement(show, fixture))
        if reach > 0:
            items.append(item)
            places.append(place)
            reaches.append(reach)
    return items, np.array(places).reshape(-1, 3), np.array(reaches)


def _pairs(places: Floats, within: float) -> NDArray[np.int64]:
    """Those of places (n, 3) that are within a distance of each other, (m, 2) by their numbers."""
    # Half of what this module takes to be imported, and starting does not need it.
    from scipy.spatial import cKDTree

    return np.asarray(cKDTree(places).query_pairs(within, output_type="ndarray"))


def _overlapping(show: Show) -> dict[tuple[str, str], Finding]:
    """Bodies that are in each other, by the ids of the two."""
    there = [
        (item, show.types[fixture.type], fixture.mode, clamp_placement(show, fixture))
        for item, fixture in show.lamps()
        if fixture.type in show.types and not show.hidden(item)
    ]
    if len(there) < 2:
        return {}
    rooms = [room(fixture_type, mode, clamp) for _, fixture_type, mode, clamp in there]
    middles, radii = np.array([middle for middle, _ in rooms]), np.array([radius for _, radius in rooms])
    pairs = _pairs(middles, float(radii.max()) * 2)
    apart = np.linalg.norm(middles[pairs[:, 0]] - middles[pairs[:, 1]], axis=1)
    near = pairs[apart < radii[pairs[:, 0]] + radii[pairs[:, 1]]]
    found = {}
    for i, j in sorted(map(tuple, near.tolist())):
        (a, type_a, mode_a, at_a), (b, type_b, mode_b, at_b) = there[i], there[j]
        away = math.dist(at_a.position, at_b.position)
        # In exactly one place is a finding of its own.
        if away < 1e-3:
            continue
        deep = in_each_other(body_box(type_a, mode_a), at_a, body_box(type_b, mode_b), at_b)
        if deep > TOUCH_M:
            system = show.settings.system
            text = (
                f"{_called(a)} and {b.name} are {format_length(away, system)} apart, and their bodies are in each "
                f"other: move one by {format_length(deep, system)}."
            )
            found[a.id, b.id] = Finding("hang", (a.id, b.id), text, wrong=True, code="bodies_in_each_other")
    return found


def _touching(show: Show, heads: tuple[list[Item], Floats, Floats]) -> list[Finding]:
    """Bodies that are in each other, and heads that touch when both turn towards each other."""
    items, places, reaches = heads
    overlapping = _overlapping(show)
    found: list[Finding] = list(overlapping.values())
    if len(items) < 2:
        return found
    pairs = _pairs(places, float(reaches.max()) * 2)
    for i, j in sorted(map(tuple, pairs.tolist())):
        away = math.dist(places[i], places[j])
        # In exactly one place is a finding of its own.
        a, b = items[i], items[j]
        if 1e-3 < away < reaches[i] + reaches[j] and (a.id, b.id) not in overlapping:
            far = format_length(away, show.settings.system)
            text = f"{_called(a)} and {b.name} are {far} apart: their heads touch when they turn inwards."
            found.append(Finding("hang", (a.id, b.id), text, code="heads_touch"))
    return found


def _hits(hang: Hang, truss: Truss, fixture_type: FixtureType, mode: str, clamp: Placement) -> bool:
    """Whether a head reaches a chord of the structure that it hangs on, other than its own rail."""
    place, reach = _head_memo(fixture_type, mode, clamp)
    for name, rail in truss_rails(truss).items():
        away = math.dist(rail.at(along_of(rail, np.array(place))), place) - CHORD_M
        if name != hang.rail and away < reach - 1e-6:
            return True
    return False


_hits_memo = Memo(_hits)


def _in_structures(show: Show, heads: tuple[list[Item], Floats, Floats]) -> list[Finding]:
    """Heads that reach a chord of the structure they hang on, other than their own rail."""
    found = []
    for item in heads[0]:
        fixture = item.body
        assert isinstance(fixture, Fixture)
        hang = fixture.hang
        structure = show.items.get(hang.structure) if hang is not None else None
        if structure is None or not isinstance(structure.body, Truss):
            continue
        clamp = clamp_placement(show, fixture)
        if _hits_memo(hang, structure.body, show.types[fixture.type], fixture.mode, clamp):
            text = f"The head of {item.name} hits {structure.name} when it turns: hang it lower, or on another side."
            found.append(Finding("hang", (item.id,), text, code="head_hits_structure"))
    return found


def _one(
    show: Show, item: Item, fixture: Fixture, surfaces: list[tuple[float, float, float, float, float]]
) -> Finding | None:
    """What is wrong with where a fixture is."""
    back = Repair("Put it back", "put back", {"ids": [item.id]})
    if fixture.hang is None:
        place = np.array(clamp_placement(show, fixture).position)
        if _stands(show, place, surfaces) or _on_wall(fixture):
            return None
        height = format_length(place[2], show.settings.system)
        text = f"{_called(item)} is in mid-air at {height}: hang it on a rail or put it on the floor."
        return Finding("hang", (item.id,), text, repair=back, code="mid_air")
    if fixture.hang.structure not in show.items:
        text = f"{_called(item)} hangs on a structure that is gone: hang it on another."
        return Finding("hang", (item.id,), text, wrong=True, repair=back, code="structure_gone")
    if (over := past_the_end(show, fixture)) > 1e-6:
        length = format_length(over, show.settings.system)
        text = f"{_called(item)} is {length} past the end of its rail: move it or lengthen the truss."
        return Finding("hang", (item.id,), text, wrong=True, repair=back, code="past_rail")
    structure = show.items[fixture.hang.structure]
    if item.layer != structure.layer and item.layer is not None:
        text = f"{_called(item)} is on another layer than {structure.name}, which it hangs on: put it there too."
        same = Repair("Put it there", "to layer", {"ids": [item.id], "layer": structure.layer})
        return Finding("hang", (item.id, structure.id), text, repair=same, code="other_layer")
    return None


def _on_wall(fixture: Fixture) -> bool:
    """Whether a free fixture is fixed to something upright: its own up axis lies level."""
    return fixture.placement is not None and abs(float(rotate(fixture.placement.rotation, (0.0, 0.0, 1.0))[2])) < 0.2


def _numbers(show: Show) -> list[Finding]:
    """Fixtures without a number, and numbers that are given twice."""
    found: list[Finding] = []
    bare: list[str] = []
    by_number: dict[int, list[str]] = defaultdict(list)
    for item, fixture in show.fixtures():
        (bare if fixture.number is None else by_number[fixture.number]).append(item.id)
    if bare:
        first = max(by_number, default=0) + 1
        what = "A fixture has" if len(bare) == 1 else f"{len(bare)} fixtures have"
        text = f"{what} no number: number them, so that the crew can find them."
        give = Repair(f"Number from {first}", "number", {"ids": bare, "start": str(first), "order": "place"})
        found.append(Finding("hang", tuple(bare), text, repair=give, code="no_number"))
    for number, ids in sorted(by_number.items()):
        if len(ids) > 1:
            text = f"Number {number} is given to {len(ids)} fixtures: renumber all but one."
            found.append(Finding("hang", tuple(ids), text, True, code="number_twice"))
    return [*found, *_carriers_numbered(show)]


def _carriers_numbered(show: Show) -> list[Finding]:
    """Carriers that have one number together."""
    by_number: dict[int, list[Item]] = defaultdict(list)
    for item, carrier in show.bodies(Carrier):
        if carrier.number is not None:
            by_number[carrier.number].append(item)
    found = []
    for number, items in sorted(by_number.items()):
        if len(items) > 1:
            names = " and ".join(item.name for item in items)
            text = f"The carriers {names} have one number, {number}: give one of them another."
            found.append(Finding("hang", tuple(item.id for item in items), text, True, code="carrier_number_twice"))
    return found


def _in_one_place(show: Show) -> list[Finding]:
    by_place: dict[tuple[float, ...], list[str]] = defaultdict(list)
    for item, fixture in show.lamps():
        place = clamp_placement(show, fixture).position
        by_place[tuple(round(value, 3) for value in place)].append(item.id)
    return [
        Finding(
            "hang", tuple(ids), f"{len(ids)} fixtures are in exactly one place: move all but one.", code="one_place"
        )
        for ids in by_place.values()
        if len(ids) > 1
    ]


def _unused(show: Show) -> list[Finding]:
    """Carriers with nothing on them, label styles that no view shows."""
    found = []
    parents = {item.parent for item in show.items.values() if not isinstance(item.body, Fixture)}
    parents |= {item.parent for item, _ in show.lamps()}
    for item, _ in show.bodies(Carrier):
        if item.id not in parents:
            text = f"The carrier {item.name} is empty: put something on it."
            gone = Repair("Remove it", "remove", {"ids": [item.id]})
            found.append(Finding("hang", (item.id,), text, repair=gone, code="carrier_empty"))
    for item, style in show.bodies(LabelStyle):
        if not style.views:
            plan = Repair("Show it in plan", "set label style", {"id": item.id, "views": ["plan"]})
            text = f"The label style {item.name} is shown in no view: choose one, or nobody sees it."
            found.append(Finding("hang", (item.id,), text, repair=plan, code="label_style_unseen"))
    return found


def _same_ids(show: Show) -> list[Finding]:
    """Types that consoles would take for one: they tell types by the id in the file."""
    by_id: dict[str, list[Item]] = defaultdict(list)
    for item, _ in show.bodies(TypeEntry):
        fixture_type = show.types.get(item.id)
        if fixture_type is not None and fixture_type.type_id.strip("0- "):
            by_id[fixture_type.type_id.upper()].append(item)
    found = []
    for items in by_id.values():
        if len(items) > 1:
            names = " and ".join(item.name for item in items[:3])
            text = (
                f"{names} have one and the same type id in their files: a console takes them for one type. Copy one in "
                "the type shop: the copy gets an id of its own."
            )
            found.append(Finding("hang", tuple(item.id for item in items), text, code="type_id_twice"))
    return found


def _stand_ins(show: Show) -> list[Finding]:
    """Fixtures of types that only stand for ones that nobody has."""
    found = []
    for item, _ in show.bodies(TypeEntry):
        fixture_type = show.types.get(item.id)
        if fixture_type is None or not is_stand_in(fixture_type):
            continue
        who = tuple(one.id for one, fixture in show.fixtures() if fixture.type == item.id)
        if who:
            of = f"{len(who)} fixtures are" if len(who) > 1 else f"{show.items[who[0]].name.capitalize()} is"
            text = f"{of} of a {item.name}, a plain body with its slots only: swap the type when there is a file of it."
            found.append(Finding("hang", who, text, code="stand_in_type"))
    return found


def hang_findings(show: Show) -> list[Finding]:
    """Everything to put right on the rig."""
    surfaces = _surfaces(show)
    own = [one for item, fixture in show.lamps() if (one := _one(show, item, fixture, surfaces)) is not None]
    heads = _heads(show)
    return [*own, *_numbers(show), *_in_one_place(show), *_touching(show, heads), *_in_structures(show, heads),
            *_unused(show), *_same_ids(show), *_stand_ins(show)]  # fmt: skip
