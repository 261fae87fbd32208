"""What meets what on the way: each channel of each driver is run from end to end with all else at home, and what it
moves is held against everything that it does not.

First by boxes along each thing's own axes (separating axes), then by the edges of either against the faces of the
other. What touches at home already is meant to.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.carriers.plan import NOBODY, Plan
from zarfwright.core.carriers.planned import groups_by_item, plan_of
from zarfwright.core.carriers.poses import VALUES, Poser, back, pose_of, together
from zarfwright.core.carriers.types import Range, ranges_of
from zarfwright.core.memo import Memo
from zarfwright.core.mesh import Mesh
from zarfwright.core.motion import CARRIES
from zarfwright.core.raycast import Caster
from zarfwright.core.rig.things import Fixture
from zarfwright.core.scene import Solid, solids
from zarfwright.core.show import Item, Show
from zarfwright.core.space import Floats, Pose, inverse, rotate, to_matrix

SKIN_M = 0.03
"""Boxes that are in each other by less than this only touch."""
STEP_M, STEP_DEG, STEP_TIMES = 0.06, 3.0, 0.05
STEPS_MOST = 160
LOOKED_AT = 24
"""Of so many places where boxes meet, faces are looked at."""
EDGES_MOST = 4000


@dataclass(frozen=True)
class Meeting:
    """Two things that meet: which driver moves one of them, along what, and where."""

    driver: str
    range: Range
    moved: str
    other: str
    value: float
    """Where they meet first from home on, in the channel's unit."""
    clear: float
    """The last place before it where they do not."""

    @property
    def level(self) -> float:
        """The level of the channel there, 0..1."""
        one = self.range
        if one.axis == "spin":
            return 0.5
        if self.value >= one.home:
            return 0.5 + 0.5 * (self.value - one.home) / max(one.high - one.home, 1e-9)
        return 0.5 * (self.value - one.low) / max(one.home - one.low, 1e-9)


@dataclass(frozen=True, eq=False)
class _Body:
    """A solid at rest, its box along its own axes, and its edges."""

    solid: Solid
    thin: bool = False
    """Drawn in a little: what only touches what stands is not in it."""

    @cached_property
    def _ends(self) -> tuple[Floats, Floats]:
        vertices = (self.solid.far or self.solid.mesh).vertices.astype(float) * self.solid.scale
        return vertices.min(axis=0), vertices.max(axis=0)

    @cached_property
    def middle(self) -> Floats:
        low, high = self._ends
        return np.asarray(self.solid.placement.apply((low + high) / 2))

    @cached_property
    def half(self) -> Floats:
        low, high = self._ends
        return np.asarray(np.maximum((high - low) / 2 - SKIN_M / 2, 1e-3))

    @cached_property
    def axes(self) -> Floats:
        """Its own axes as columns (3, 3)."""
        return to_matrix(self.solid.placement.rotation)

    @cached_property
    def _faces(self) -> Mesh:
        """Its mesh; where it is thin, drawn in towards its middle."""
        mesh = self.solid.far or self.solid.mesh
        if not self.thin:
            return mesh
        vertices = mesh.vertices.astype(float)
        low, high = vertices.min(axis=0), vertices.max(axis=0)
        middle, half = (low + high) / 2, np.maximum((high - low) / 2, 1e-6)
        share = np.maximum(1.0 - SKIN_M / 2 / self.solid.scale / half, 0.3)
        return Mesh((middle + (vertices - middle) * share).astype(np.float32), mesh.normals, mesh.triangles)

    @cached_property
    def caster(self) -> Caster:
        return Caster([replace(self.solid, finish="plain", mesh=self._faces, far=None)])

    @cached_property
    def edges(self) -> tuple[Floats, Floats]:
        """Both ends of its edges (e, 3) in the show's frame; of very many evenly taken ones."""
        mesh = self._faces
        triangles = mesh.triangles.reshape(-1, 3).astype(np.int64)
        pairs = np.sort(np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
        pairs = np.unique(pairs, axis=0)
        pairs = pairs[:: len(pairs) // EDGES_MOST + 1]
        placed = self.solid.placement.apply(mesh.vertices.astype(float) * self.solid.scale)
        return placed[pairs[:, 0]], placed[pairs[:, 1]]


def _crosses(edges: tuple[Floats, Floats], caster: Caster) -> bool:
    """Whether any edge goes through a face."""
    way = edges[1] - edges[0]
    far = np.linalg.norm(way, axis=1)
    long = far > SKIN_M / 2
    if not long.any():
        return False
    met = caster.first(edges[0][long], way[long] / far[long, None])
    return bool(np.any((met.distance > 1e-3) & (met.distance < far[long] - 1e-3)))


def _meet(a: _Body, b: _Body, pose: Pose) -> bool:
    """Whether the faces of `a`, brought along, and of `b` are in each other."""
    start, end = a.edges
    if _crosses((pose.apply(start), pose.apply(end)), b.caster):
        return True
    back = inverse(pose.rotation)
    own = tuple(rotate(back, (ends - np.asarray(pose.position))) / pose.size for ends in b.edges)
    return _crosses((own[0], own[1]), a.caster)


@dataclass(frozen=True, eq=False)
class _Others:
    """The boxes of what stands: middles (n, 3), halves (n, 3), axes (n, 3, 3), and how far they reach (n,)."""

    bodies: Sequence[_Body]
    middle: Floats
    half: Floats
    axes: Floats
    reach: Floats

    def near(self, middles: Floats, reach: float) -> NDArray[np.int64]:
        """Those that a box of some reach comes near on its way (k, 3)."""
        low, high = middles.min(axis=0) - reach, middles.max(axis=0) + reach
        gap = np.maximum(np.maximum(low - self.middle, self.middle - high), 0.0)
        return np.flatnonzero(np.linalg.norm(gap, axis=1) < self.reach)


def _others(bodies: Sequence[_Body]) -> _Others:
    half = np.array([one.half for one in bodies]).reshape(-1, 3)
    return _Others(
        bodies, np.array([one.middle for one in bodies]).reshape(-1, 3), half,
        np.array([one.axes for one in bodies]).reshape(-1, 3, 3), np.linalg.norm(half, axis=1),
    )  # fmt: skip


def boxes_meet(at: Floats, half: Floats, axes: Floats, others: tuple[Floats, Floats, Floats]) -> NDArray[np.bool_]:
    """Whether one box in several places, at (k, 3) with axes (k, 3, 3) and half edges (k, 3), meets others (n): (k, n).

    Two boxes are apart where they are along an axis of either, or across one of each (the separating axes).
    """
    middle, other_half, other_axes = others
    # r[k, n, i, j]: axis i of the one along axis j of the other.
    r = np.einsum("kai,naj->knij", axes, other_axes)
    size = np.abs(r) + 1e-9
    gap = middle[None] - at[:, None]
    t = np.einsum("kna,kai->kni", gap, axes)
    u = np.einsum("kna,naj->knj", gap, other_axes)
    apart = np.any(np.abs(t) > half[:, None] + np.einsum("nj,knij->kni", other_half, size), axis=2)
    apart |= np.any(np.abs(u) > other_half[None] + np.einsum("ki,knij->knj", half, size), axis=2)
    for i in range(3):
        i1, i2 = (i + 1) % 3, (i + 2) % 3
        for j in range(3):
            j1, j2 = (j + 1) % 3, (j + 2) % 3
            ra = half[:, None, i1] * size[:, :, i2, j] + half[:, None, i2] * size[:, :, i1, j]
            rb = other_half[None, :, j1] * size[:, :, i, j2] + other_half[None, :, j2] * size[:, :, i, j1]
            apart |= np.abs(t[:, :, i2] * r[:, :, i1, j] - t[:, :, i1] * r[:, :, i2, j]) > ra + rb
    return np.asarray(~apart)


def _values_of(one: Range) -> list[Floats]:
    """The places that a channel is looked at in: from home to either end."""
    if one.axis == "spin":
        return [np.arange(0.0, 360.0, STEP_DEG)]
    step = STEP_M if one.unit == "m" else STEP_DEG if one.unit == "°" else STEP_TIMES
    ways = []
    for end in (one.high, one.low):
        count = min(int(abs(end - one.home) / step) + 1, STEPS_MOST)
        if abs(end - one.home) > 1e-6:
            ways.append(np.linspace(one.home, end, count + 1))
    return ways


def _row_of(one: Range, value: float) -> tuple[Floats, float]:
    """A driver's values (VALUES,) and how far it has spun, with one channel at a value."""
    row = np.zeros(VALUES)
    row[VALUES - 1] = 1.0
    names = [*CARRIES]
    if one.axis == "spin":
        return row, float(np.radians(value))
    if one.axis == "size":
        row[names.index("size")] = value
    elif one.axis.startswith("turn"):
        row[names.index(one.axis)] = np.radians(value)
    else:
        row[names.index(f"shift {one.axis}")] = value
    return row, 0.0


def _home_rows(show: Show, plan: Plan) -> Floats:
    rows = []
    for group in plan.groups:
        for driver in group.drivers:
            body = show.body(driver.fixture, Fixture)
            row = np.zeros(VALUES)
            row[VALUES - 1] = 1.0
            for one in ranges_of(show.types[body.type], body.mode):
                if one.axis != "spin":
                    row += _row_of(one, one.home)[0] - _row_of(one, 1.0 if one.axis == "size" else 0.0)[0]
            rows.append(row)
    return np.array(rows).reshape(-1, VALUES)


def _rides(plan: Plan, group: int) -> set[int]:
    """A group and all that ride on it."""
    found = {group}
    for i, one in enumerate(plan.groups):
        if one.above in found:
            found.add(i)
    return found


def _poses_on_way(plan: Plan, number: int, own: Floats, driver: int, one: Range, values: Floats,
                  rest: Floats) -> dict[int, Floats]:  # fmt: skip
    """The poses (k, 8) of a group and of all that ride on it, with one channel of one of its drivers at values (k,) and
    all else at home. `own` are the home values of its drivers, `rest` (groups, 8) the poses of all at home."""
    group, m = plan.groups[number], len(own)
    rows, spun = np.tile(own, (len(values), 1)), np.zeros(len(values) * m)
    home, _ = _row_of(one, one.home)
    for k, value in enumerate(values.tolist()):
        row, turned = _row_of(one, value)
        rows[k * m + driver] += row - home
        spun[k * m + driver] = turned
    # One group for each value: all of them in one go.
    ways = Poser(Plan(tuple(replace(group, above=NOBODY) for _ in values))).poses(rows, spun)
    if group.above >= 0:
        ways = together(rest[group.above], ways)
    return {other: together(ways, together(back(rest[number]), rest[other])) for other in _rides(plan, number)}


def _found(show: Show) -> list[Meeting]:
    plan = plan_of(show)
    of = groups_by_item(show, plan)
    items = [item for item in show.items.values() if item.is_a.solid and not show.hidden(item)]
    bodies: dict[str, list[_Body]] = {item.id: [_Body(one) for one in solids(show, [item])] for item in items}
    every = _others([body for own in bodies.values() for body in own])
    whose = np.array([of.get(key, NOBODY) for key, own in bodies.items() for _ in own], dtype=np.int64)
    home = _home_rows(show, plan)
    rest = Poser(plan).poses(home, np.zeros(len(home)))
    found: list[Meeting] = []
    row = 0
    for number, group in enumerate(plan.groups):
        riding = _rides(plan, number)
        moving = [
            (of[key], replace(body, thin=True)) for key, own in bodies.items() if of.get(key) in riding for body in own
        ]
        stands = ~np.isin(whose, [*riding])
        own_rows = home[row : row + len(group.drivers)]
        row += len(group.drivers)
        for k, driver in enumerate(group.drivers):
            fixture = show.body(driver.fixture, Fixture)
            for one in ranges_of(show.types[fixture.type], fixture.mode):
                for values in _values_of(one):
                    ways = _poses_on_way(plan, number, own_rows, k, one, values, rest)
                    found += _on_way(one, driver.fixture, values, ways, moving, (every, stands), rest)
    return _first_of_each(found)


def _on_way(one: Range, driver: str, values: Floats, poses: dict[int, Floats], moving: Sequence[tuple[int, _Body]],
            others: tuple[_Others, NDArray[np.bool_]], rest: Floats) -> Iterator[Meeting]:  # fmt: skip
    """What meets along one way of one channel: the poses (k, 8) of each group on it, and who of the others stands."""
    standing, stands = others
    for group, body in moving:
        ways = poses[group]
        at = ways[:, 7:8] * rotate(ways[:, 3:7], body.middle) + ways[:, :3]
        half = body.half[None] * ways[:, 7:8]
        near = standing.near(at, float(np.linalg.norm(half, axis=1).max()))
        near = near[stands[near]]
        if not len(near):
            continue
        axes = np.array([to_matrix(turn) @ body.axes for turn in ways[:, 3:7]])
        meets = boxes_meet(at, half, axes, (standing.middle[near], standing.half[near], standing.axes[near]))
        for n in np.flatnonzero(meets.any(axis=0)).tolist():
            other = standing.bodies[near[n]]
            where = np.flatnonzero(meets[:, n])
            for k in where[:: len(where) // LOOKED_AT + 1].tolist():
                if k > 0 and _meet(body, other, pose_of(ways[k])):
                    if _meet(body, other, pose_of(rest[group])):
                        break
                    yield Meeting(driver, one, body.solid.id.split("/")[0], other.solid.id.split("/")[0],
                                  float(values[k]), float(values[max(k - 1 - len(where) // LOOKED_AT, 0)]))  # fmt: skip
                    break


def _first_of_each(found: Sequence[Meeting]) -> list[Meeting]:
    """Of what a driver meets, each thing once: where it is met first from home on."""
    nearest: dict[tuple[str, str, str, bool], Meeting] = {}
    for one in found:
        key = (one.driver, one.range.axis, one.other, one.value >= one.range.home)
        known = nearest.get(key)
        if known is None or abs(one.value - one.range.home) < abs(known.value - one.range.home):
            nearest[key] = one
    return [*nearest.values()]


# What is held by hand changes nothing of it.
_bare: Memo[Item] = Memo(
    lambda key, drives, type_id, mode: Item(key, "fixture", Fixture(type_id, mode, drives=drives)), 500
)
_memo: Memo[list[Meeting]] = Memo(
    lambda types, meshes, *items: _found(Show({item.id: item for item in items}, types, meshes)), 8
)


def meetings(show: Show) -> list[Meeting]:
    """All that meets on the way of any driver. What hangs on structures is not looked at: lamps are small."""
    drivers = [
        _bare(item.id, fixture.drives, fixture.type, fixture.mode)
        for item, fixture in show.fixtures()
        if fixture.drives is not None
    ]
    if not drivers:
        return []
    kinds = [item for item in show.items.values() if item.is_a.solid or item.kind in ("carrier", "layer", "type")]
    return _memo(show.types, show.meshes, *kinds, *drivers)
