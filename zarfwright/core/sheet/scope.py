"""What is in a view: its structures, its fixtures with their clamps, what stands about them; and what of the plane is
shown."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.scene import solids
from zarfwright.core.sheet.frames import Frame
from zarfwright.core.sheet.hidden import Faces
from zarfwright.core.sheet.sheet import View
from zarfwright.core.sheet.structures import silhouette
from zarfwright.core.show import Item, Show
from zarfwright.core.site.things import Figure, Truss
from zarfwright.core.space import Floats, Placement, rotate

AROUND_M, CLOSE_M = 1.2, 0.7
"""What is shown beyond the rig, where nobody says how much; of structures alone."""
DECK_BEYOND_M = 4.0
"""A deck under the rig is shown whole where it goes on no further beyond it."""
BEFORE_CUT_M = 0.3
"""What of the rig is before a section's cut by more is not in it."""
Region = tuple[float, float, float, float]


@dataclass(frozen=True, eq=False)
class Hung:
    """A fixture of a view."""

    id: str
    fixture: Fixture
    clamp: Placement
    at: Floats
    """Its clamp in the view's frame (3,)."""


@dataclass(frozen=True)
class Scope:
    """All that is in a view."""

    structures: tuple[tuple[str, Truss], ...]
    fixtures: tuple[Hung, ...]
    site: tuple[Item, ...]
    figures: tuple[Figure, ...]
    crowds: tuple[Item, ...]


def with_all_on_it(show: Show, keys: tuple[str, ...]) -> set[str]:
    """Things with all that is carried by them, and hangs on those."""
    found = {key for key in keys if key in show.items}
    grown = True
    while grown:
        more = {item.id for item in show.items.values() if item.parent in found} - found
        grown = bool(more)
        found |= more
    hung = {item.id for item, fixture in show.fixtures() if fixture.hang and fixture.hang.structure in found}
    return found | hung


def scope_of(show: Show, view: View, frame: Frame) -> Scope:
    """What is in a view: what is on hidden layers is not, nor what of the rig is before a section's cut."""
    only = with_all_on_it(show, view.of) if view.of else None
    shown = [item for item in show.items.values() if not show.hidden(item) and (only is None or item.id in only)]

    def before(depth: float) -> bool:
        return not frame.flat and frame.cut is not None and depth > frame.cut + BEFORE_CUT_M

    structures = [
        (item.id, item.body)
        for item in shown
        if isinstance(item.body, Truss) and view.rig and not before(float(silhouette(item.body, frame)[:, 2].min()))
    ]
    hung = []
    for item in shown if view.rig else ():
        if isinstance(item.body, Fixture) and item.body.type in show.types and item.body.drives is None:
            clamp = clamp_placement(show, item.body)
            at = frame.of(np.asarray(clamp.position))
            if not before(float(at[2])):
                hung.append(Hung(item.id, item.body, clamp, at))
    site = [item for item in shown if item.is_a.solid and item.kind not in ("truss", "figure", "crowd")]
    people = [item for item in shown if view.people]
    return Scope(
        tuple(structures),
        tuple(sorted(hung, key=lambda one: one.id)),
        tuple(site) if view.site else (),
        tuple(item.body for item in people if isinstance(item.body, Figure)),
        tuple(item for item in people if item.kind == "crowd"),
    )


def faces_of(show: Show, items: tuple[Item, ...], frame: Frame) -> tuple[Faces, list[Item]]:
    """The triangles of things in a view's frame, and the item of each owner. Of a room that one is inside of, the faces
    that look away are left out: one looks in over them."""
    corners, owner = [], []
    items_of: list[Item] = []
    for item in items:
        for solid in solids(show, [item]):
            points = rotate(solid.placement.rotation, solid.mesh.vertices.astype(float) * solid.scale)
            placed = frame.of(points + np.asarray(solid.placement.position))[solid.mesh.triangles.reshape(-1, 3)]
            faces = Faces(placed, np.full(len(placed), len(items_of)))
            if item.is_a.around:
                faces = faces.chosen(faces.normals[:, 2] > 1e-6)
            corners.append(faces.corners)
            owner.append(faces.owner)
            items_of.append(item)
    if not corners:
        return Faces(np.zeros((0, 3, 3)), np.zeros(0, dtype=np.int64)), []
    return Faces(np.concatenate(corners), np.concatenate(owner).astype(np.int64)), items_of


def region_of(show: Show, view: View, frame: Frame, scope: Scope, faces: Faces, items: list[Item]) -> Region:
    """What of the view's plane is shown: as told, else the rig and what is played on, with a little about them."""
    if view.region is not None:
        return view.region
    points = [silhouette(body, frame) for _, body in scope.structures] + [one.at[None] for one in scope.fixtures]
    if not points:
        points = [faces.corners.reshape(-1, 3)]
    elif not view.of:
        low, high = _bounds(points)
        for k, item in enumerate(items):
            deck = faces.corners[faces.owner == k].reshape(-1, 3) if item.kind == "deck" else faces.corners[:0, 0]
            if len(deck) and _under(deck[:, : 2 if frame.flat else 1], low, high):
                points.append(deck)
    if not sum(len(part) for part in points):
        return (-5.0, -5.0, 5.0, 5.0)
    low, high = _bounds(points)
    to_floor = not view.of or any(one.kind == "trim" for one in view.dimensions)
    floor = 0.0 if not frame.flat and to_floor else low[1]
    around = CLOSE_M if view.of else AROUND_M
    left, right, top = (float(edge) for edge in (low[0] - around, high[0] + around, high[1] + around))
    return (left, float(min(low[1], floor)) - around / 2, right, top)


def _under(deck: Floats, low: Floats, high: Floats) -> bool:
    """Whether a deck (n, 2 or 1: in plan, or across) is under the rig, and does not go on far beyond it."""
    least, most, axes = deck.min(axis=0), deck.max(axis=0), deck.shape[1]
    overlaps = np.all((least < high[:axes]) & (most > low[:axes]))
    return bool(overlaps and max(float((low[:axes] - least).max()), float((most - high[:axes]).max())) < DECK_BEYOND_M)


def _bounds(points: list[Floats]) -> tuple[Floats, Floats]:
    every = np.concatenate([part for part in points if len(part)])[:, :2]
    return every.min(axis=0), every.max(axis=0)
