"""A show with all that its drivers move where it has been brought: for light, sight lines, landings and lists."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from zarfwright.core.carriers.plan import Plan
from zarfwright.core.carriers.planned import groups_by_item, plan_of
from zarfwright.core.carriers.poses import pose_of
from zarfwright.core.carriers.travel import settled
from zarfwright.core.dmx.features import COUNT
from zarfwright.core.drive import value_rows
from zarfwright.core.patch import compiled_show
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Carrier, Fixture, FocusPoint
from zarfwright.core.show import Item, Show
from zarfwright.core.site import placed
from zarfwright.core.site.things import Crowd, Figure
from zarfwright.core.space import Floats, Pose, vec

Values = Mapping[str, Mapping[str, float]]


def told_rows(show: Show, plan: Plan, values: Values) -> Floats:
    """What the drivers of a plan are told by values of features (m, COUNT); what they do not say is at home."""
    made = compiled_show(show)
    at = {key: row for row, key in enumerate(made.rig.fixtures)}
    said = value_rows(made.rig, values)
    rows = [at[driver.fixture] for group in plan.groups for driver in group.drivers]
    whole = np.where(np.isnan(said), made.rig.home, said)
    return np.asarray(whole[rows]).reshape(-1, COUNT)


def poses_told(show: Show, values: Values) -> dict[str, Pose]:
    """Where drivers have brought their groups once they are there, by the id of each group's thing."""
    plan = plan_of(show)
    if not plan.groups:
        return {}
    return by_id(plan, settled(plan, [*told_rows(show, plan, values)]))


def by_id(plan: Plan, poses: Floats) -> dict[str, Pose]:
    """Poses (g, 8) by the id of each group's thing."""
    return {group.id: pose_of(row) for group, row in zip(plan.groups, poses, strict=True)}


def posed(show: Show, poses: Mapping[str, Pose]) -> Show:
    """The show as it is with its groups brought there; things of it are the very same ones where nothing moves them."""
    plan = plan_of(show)
    moving = {i: poses[group.id] for i, group in enumerate(plan.groups) if group.id in poses and poses[group.id].moves}
    if not moving:
        return show
    items, solid = dict(show.items), dict[str, Pose]()
    by_themselves = {group.id for group in plan.groups}
    for key, group in groups_by_item(show, plan).items():
        if group not in moving:
            continue
        item, pose = show.items[key], moving[group]
        after = _brought(show, item, pose, key in by_themselves)
        if after is not None:
            items[key] = after
        elif item.is_a.solid:
            solid[key] = pose
    return replace(show, items=items, poses=solid, moved=True)


def _brought(show: Show, item: Item, pose: Pose, by_itself: bool) -> Item | None:
    """An item whose body says where it is now; None where that is said of its solids."""
    body = item.body
    if isinstance(body, Fixture):
        if body.hang is not None and body.hang.structure in show.items and not by_itself:
            # Its structure is there already.
            return item
        return replace(item, body=replace(body, hang=None, placement=pose.placed(clamp_placement(show, body))))
    if isinstance(body, Carrier):
        return replace(item, body=replace(body, position=vec(pose.apply(body.position)),
                                          turn_deg=body.turn_deg + pose.heading_deg))  # fmt: skip
    if isinstance(body, FocusPoint):
        return replace(item, body=replace(body, position=vec(pose.apply(body.position))))
    if isinstance(body, Figure | Crowd):
        # People stay upright, whatever they stand on.
        own = np.asarray(body.position if isinstance(body, Figure) else (*body.corners[0][:2], body.z_m))
        turned = placed.turned(body, pose.heading_deg, own)
        return replace(item, body=placed.moved(turned, pose.apply(own) - own))
    return None
