"""Mirror images across the centre line: of scenery, people, structures with their lamps, carriers with all on them."""

from __future__ import annotations

import math
import re
from dataclasses import replace
from typing import Any

import numpy as np

from zarfwright.core.edits.base import Arguments, Edit, NewId, changed, free_name, made
from zarfwright.core.edits.copying import all_of, blank, next_numbers
from zarfwright.core.kinds import Body, is_placed
from zarfwright.core.lasers.zone import reflected
from zarfwright.core.looks.look import Look
from zarfwright.core.rig.hang import SIDES_DEG, clamp_placement, hanging_axes, hanging_frame
from zarfwright.core.rig.rails import along_of
from zarfwright.core.rig.things import Aim, Carrier, Fixture, Hang
from zarfwright.core.show import Change, Item, Show, listed
from zarfwright.core.site import placed
from zarfwright.core.site.structures import Rail, truss_rails
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Placement, inverse, multiply, to_matrix
from zarfwright.core.types.chain import chain_of

NEAR_M = 1e-3
"""A place this near to a rail is on it."""
SAME_RAD = 2e-5
STEPS = 10
SIDE = re.compile(r"\b(SL|SR)\b")


class Mirror(Arguments):
    """Mirror images across the centre line, in place of the things or as further ones.

    What hangs on a structure and what is on a carrier is mirrored with it. Further fixtures get the next free numbers,
    and no addresses.
    """

    ids: list[str]
    keep: bool = False


def mirror_placement(placement: Placement) -> Placement:
    """The mirror image of a placement across x = 0: p -> M p, R -> M R M with M = diag(-1, 1, 1), a rotation again."""
    x, y, z = placement.position
    qx, qy, qz, qw = placement.rotation
    return Placement((-x, y, z), (qx, -qy, -qz, qw))


def _attitude(frame: Placement, wanted: Placement, hang: Hang) -> Hang | None:
    """The hang with the turns that bring its frame to a wanted attitude; None where no turn about the rail does.

    `frame` is that of the hang without any turn: attitude = frame . Rx(about the rail) . Rz(about itself).
    """
    m = to_matrix(multiply(inverse(frame.rotation), wanted.rotation))
    if abs(m[0, 2]) > SAME_RAD:
        return None
    turn = math.degrees(math.atan2(-m[1, 2], m[2, 2]))
    spin = math.degrees(math.atan2(-m[0, 1], m[0, 0]))

    def rest(side: str) -> float:
        return (turn - SIDES_DEG[side] + 180.0) % 360.0 - 180.0

    # Of the sides that it could be on: the one that leaves as much of a turn as it had.
    side = min(SIDES_DEG, key=lambda one: (round(abs(abs(rest(one)) - abs(hang.turn_deg)), 4), one != hang.side))
    return replace(hang, side=side, turn_deg=round(rest(side), 6), spin_deg=round(spin, 6))  # type: ignore[arg-type]


def _hang_on(structure: str, rails: dict[str, Rail], hang: Hang, wanted: Placement) -> Hang | None:
    """How something hangs on one of these rails so that its clamp is at a wanted placement; None where it cannot."""
    point = np.asarray(wanted.position)
    for name, rail in rails.items():
        for out in dict.fromkeys((hang.out_m, -hang.out_m)):
            plain = replace(hang, structure=structure, rail=name, out_m=out, side="under", turn_deg=0.0, spin_deg=0.0)
            plain = replace(plain, along_m=along_of(rail, point))
            for _ in range(STEPS):
                # Off the rail by an arm and a pipe, which point elsewhere along a bent one: found step by step.
                _, left, up = hanging_axes(rail, plain)
                plain = replace(plain, along_m=round(along_of(rail, point - out * left + hang.drop_m * up), 6))
            frame = hanging_frame(rail, plain)
            if np.linalg.norm(np.asarray(frame.position) - point) > NEAR_M:
                continue
            turned = _attitude(frame, wanted, replace(plain, side=hang.side, turn_deg=hang.turn_deg))
            if turned is not None:
                return turned
    return None


def _hands(show: Show, fixture: Fixture, held: dict[str, float]) -> dict[str, float]:
    """What is held by hand or set at the lamp, panned to the other side where it can."""
    if "pan" not in held or fixture.type not in show.types:
        return held
    pan = -held["pan"]
    low, high = sorted(chain_of(show.types[fixture.type], fixture.mode).pan_range)
    return {**held, "pan": pan} if low <= pan <= high else held


def _aim(aim: Aim | None) -> Aim | None:
    """What a mirror image looks at: the mirror image of a place; the same focus point, for that stays where it is."""
    if aim is None or aim.point is not None:
        return aim
    x, y, z = aim.place
    return replace(aim, place=(-x, y, z))


def _fixture(show: Show, item: Item, structure: Item | None, same: bool) -> tuple[Fixture, str]:
    """A fixture's mirror image, and what to say of it: hung on `structure`, which is where it was if `same`."""
    fixture = item.body
    assert isinstance(fixture, Fixture)
    image = mirror_placement(clamp_placement(show, fixture))
    hands, fixed = (_hands(show, fixture, held) for held in (fixture.hands, fixture.fixed))
    laser = fixture.laser and replace(fixture.laser, zone=reflected(fixture.laser.zone))
    fixture = replace(fixture, hands=hands, fixed=fixed, aim=_aim(fixture.aim), laser=laser)
    if fixture.hang is None or structure is None:
        return replace(fixture, hang=None, placement=image), ""
    assert isinstance(structure.body, Truss)
    hang = _hang_on(structure.id, dict(truss_rails(structure.body)), fixture.hang, image)
    if hang is not None:
        return replace(fixture, hang=hang), ""
    why = "its rail does not reach there" if same else "no rail is there"
    return replace(
        fixture, hang=None, placement=image
    ), f"{item.name.capitalize()} is free now: {why}. Drag it to a rail."


def _image(body: Body) -> Body:
    if isinstance(body, Carrier):
        x, y, z = body.position
        return replace(body, position=(-x, y, z), turn_deg=-body.turn_deg)
    assert is_placed(body)
    return placed.mirrored(body)


def _renamed(show: Show, body: Any, kind: str, further: bool) -> Any:
    """A body that is called after its side of the stage, called after the other one."""
    name = getattr(body, "name", "")
    other = SIDE.sub(lambda found: "SL" if found[0] == "SR" else "SR", name)
    if other == name:
        return body
    taken = further and any(item.name == other for item in show.of_kind(kind))
    return replace(body, name=free_name(show, kind, "", other) if taken else other)


def mirror(show: Show, args: Mirror, new_id: NewId) -> Edit:
    every = all_of(show, args.ids)
    # A driver is no body with a mirror image: the image of what it moves gets one of its own.
    items = [one for one in every if not isinstance(one.body, Fixture) or one.body.drives is None]
    copies = {key: copy for (_, key), copy in blank(show, items, 1, new_id).items()} if args.keep else {}
    numbers = next_numbers(show)
    images: dict[str, Item] = {}
    report: list[str] = []
    if len(items) < len(every) and args.keep:
        report.append("The image has no driver yet: give it one of its own.")
    # Structures first: what hangs on them has to know where they are then.
    for item in sorted(items, key=lambda one: isinstance(one.body, Fixture)):
        target = copies.get(item.id, item)
        if isinstance(item.body, Fixture):
            on = item.body.hang.structure if item.body.hang is not None else None
            structure = images.get(on) or show.items.get(on) if on is not None else None
            body, said = _fixture(show, item, structure, same=on not in images)
            report += [said] if said else []
            if args.keep:
                number = None if body.number is None else next(numbers)
                body = replace(body, number=number, universe=None, address=None, breaks=(), circuit="", dimmer=None)
            images[item.id] = replace(target, body=body)
        else:
            image = _image(item.body)
            image = replace(image, number=None) if args.keep and isinstance(image, Carrier) else image
            image = _renamed(show, image, item.kind, args.keep)
            images[item.id] = replace(target, body=image)
    sentence = f"Mirror {listed(show, args.ids)} across the centre line"
    chosen = tuple(images[one].id for one in dict.fromkeys(args.ids) if one in images)
    if args.keep:
        parents = {key: show.items[key].parent for key in images}
        new = [
            replace(one, parent=copies[on].id if (on := parents[key]) in copies else on, layer=show.items[key].layer)
            for key, one in images.items()
        ]
        return Edit(tuple(made(one) for one in new), sentence, chosen, tuple(report[-5:]))
    changes = [changed(show.items[key], one.body) for key, one in images.items() if one.body != show.items[key].body]
    return Edit((*changes, *_looks(show, images)), sentence, chosen, tuple(report[-5:]))


def _looks(show: Show, images: dict[str, Item]) -> list[Change]:
    """Looks keep mirrored carriers where the mirror image of their place is."""
    changes = []
    for item, look in show.bodies(Look):
        kept = dict(look.carriers)
        for key in kept.keys() & images.keys():
            x, y, z, turn = kept[key]
            kept[key] = (-x, y, z, -turn)
        if kept != look.carriers:
            changes.append(changed(item, replace(look, carriers=kept)))
    return changes
