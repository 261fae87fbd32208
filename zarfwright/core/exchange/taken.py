"""What the things of a scene come to in a show: ordinary bodies, by what this program wrote of them, by the thing that
the show has already, else by what the standard says of them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from zarfwright.core.errors import JobError
from zarfwright.core.exchange.offered import KINDS_OUT, tag_of
from zarfwright.core.exchange.places import brought, with_axes
from zarfwright.core.exchange.rows import Rows, as_rows, level_turn_deg, rigid, turn_and_rest
from zarfwright.core.exchange.scene import Own, Scene, Shape, Thing
from zarfwright.core.kinds import OF_BODY, Body
from zarfwright.core.rig.things import Carrier, Fixture, FocusPoint
from zarfwright.core.show import body_from_json
from zarfwright.core.site.things import MeshPiece, Truss
from zarfwright.core.space import Floats, unit

CHORD_M = 0.025
"""Half the thickness of a structure's chords."""
PIPE_M = 0.12
"""What is no thicker than this is a pipe."""
SECTION_MOST_M = 1.6
"""And what is thicker than this, or than a third of its length, is no straight structure."""


@dataclass(frozen=True)
class Taken:
    """A body, and what has to be said of how it came about."""

    body: Body
    said: str = ""


def own_body(own: Own | None, thing: Thing) -> tuple[Body | None, str]:
    """The body that this program wrote of a thing, and what is wrong with it where it is not to be had."""
    if own is None or own.kind not in KINDS_OUT:
        return None, ""
    try:
        body = body_from_json(own.kind, own.text)
    except JobError:
        return None, "what this program wrote of it is damaged; taken by what the standard says of it"
    if tag_of(body) != thing.tag:
        return None, "it is another sort of thing now than this program wrote; taken as it is in the file"
    return body, ""


def named(body: Body, name: str) -> Body:
    """The body under the name that the file has."""
    changes: dict[str, Any] = {"name": name}
    if not name or isinstance(body, Fixture) or getattr(body, "name", name) == name:
        return body
    return replace(body, **changes)


def _of_the_file(piece: MeshPiece, shape: Shape, own: bool, known: Body | None) -> MeshPiece | None:
    """A mesh with the file's shape where that is another one than it is known with; None where only that is left: what
    was shown simplified or in other reflectances goes out as a mesh of its own."""
    if shape.asset == piece.asset:
        return piece
    if piece.triangles is None and piece.up == "z" and not piece.reflectances:
        return replace(piece, asset=shape.asset)
    # What it was made of is here already, and the file shows what was made of it.
    here = not own or (isinstance(known, MeshPiece) and known.asset == piece.asset)
    return piece if here else None


def taken(thing: Thing, scene: Scene, known: Body | None) -> Taken | None:
    """What a thing that is no fixture comes to; None where nothing of it can be shown here. `known` is what it is in
    the show already."""
    own, wrong = own_body(thing.own, thing)
    base = own if own is not None else known
    shape = scene.shapes.get(thing.shape)
    if isinstance(base, MeshPiece) and shape is not None and shape.asset:
        base = _of_the_file(base, shape, own is not None, known)
    if base is not None:
        there = brought(base, thing.place)
        if there is not None:
            return Taken(named(there, thing.name), wrong)  # type: ignore[arg-type]
        wrong = f"a {OF_BODY[type(base)]} cannot lie like that; shown as a mesh"
    if thing.tag == "GroupObject":
        place, rest = turn_and_rest(thing.place)
        turn = level_turn_deg(place.rotation)
        said = "" if turn is not None and rigid(rest) else "it is tilted or sized; what is on it lies as in the file"
        return Taken(Carrier(thing.name or "Group", None, thing.place[3], round(turn or 0.0, 7)), said)
    if thing.tag == "FocusPoint":
        return Taken(FocusPoint(thing.name or "Focus point", thing.place[3]), wrong)
    if shape is None or not shape.asset:
        return None
    if thing.tag == "Truss":
        truss = as_structure(thing, shape)
        if truss is not None:
            return Taken(truss)
        wrong = wrong or "its mesh is no straight structure, so nothing can be hung on it; shown as a mesh"
    return Taken(with_axes(MeshPiece(thing.name or "Object", shape.asset), thing.place), wrong)


def as_structure(thing: Thing, shape: Shape) -> Truss | None:
    """The structure that a truss of another program most likely is, by how far its mesh reaches; None of one that is
    bent, stretched or rolled."""
    _place, rest = turn_and_rest(thing.place)
    size = float(np.linalg.norm(rest[0]))
    if not np.allclose(rest, size * np.eye(3), atol=1e-4 * size) or size <= 0:
        return None
    low, high = np.array(shape.low) * size, np.array(shape.high) * size
    reach = high - low
    order = np.argsort(reach)
    thin, wide, long = (float(reach[i]) for i in order)
    if wide > min(SECTION_MOST_M, long / 3) or long < 0.2:
        return None
    axes = np.array([unit(np.array(row)) for row in thing.place[:3]])
    middle = (low + high) / 2 @ axes + np.array(thing.place[3])
    along = axes[order[2]]
    if abs(along[2]) > 0.985:
        return _upright_one(thing, middle, axes, reach, order)
    across = [axes[order[0]], axes[order[1]]]
    up_first = abs(across[0][2]) > abs(across[1][2])
    up = across[0] if up_first else across[1]
    tall, deep = (thin, wide) if up_first else (wide, thin)
    up = up if up[2] > 0 else -up
    lattice, section = _lattice(tall, deep)
    bottom = middle - up * (0.0 if lattice in ("pipe", "flat") else section / 2)
    to = as_rows(np.vstack([along, np.cross(up, along), up, bottom]))
    truss = Truss(
        thing.name or "Structure", length_m=round(long, 4), section_m=round(section, 4), lattice=lattice,  # type: ignore[arg-type]
        kg_per_m=2.5 if lattice == "pipe" else 9.5,
    )  # fmt: skip
    return _if_so(truss, to)


def _if_so(truss: Truss, to: Rows) -> Truss | None:
    made = brought(truss, to)
    return made if isinstance(made, Truss) else None


def _lattice(tall: float, deep: float) -> tuple[str, float]:
    """What a cross-section is most likely of, and how far its chords are apart."""
    if max(tall, deep) <= PIPE_M:
        return "pipe", 0.05
    if deep < 0.4 * tall:
        return "ladder", tall - 2 * CHORD_M
    if tall < 0.4 * deep:
        return "flat", deep - 2 * CHORD_M
    if tall < 0.93 * deep:
        return "triangle", deep - 2 * CHORD_M
    return "box", deep - 2 * CHORD_M


def _upright_one(thing: Thing, middle: Floats, axes: Floats, reach: Floats, order: Any) -> Truss | None:
    """A tower or boom, by its foot."""
    thin, wide, long = (float(reach[i]) for i in order)
    lattice, section = ("pipe", 0.05) if wide <= PIPE_M else ("box", wide - 2 * CHORD_M)
    if lattice == "box" and thin < 0.4 * wide:
        lattice = "flat"
    face = axes[order[1]] * [1.0, 1.0, 0.0]
    across = unit(face) if np.linalg.norm(face) > 1e-6 else np.array([1.0, 0.0, 0.0])
    up = np.array([0.0, 0.0, 1.0])
    # Its rails lie about the middle of its left and right, and from its foot's line downstage.
    y = np.cross(up, across)
    foot = middle - up * long / 2 + y * (section / 2 if lattice == "box" else 0.0)
    truss = Truss(
        thing.name or "Tower", length_m=round(long, 4), section_m=round(section, 4), form="upright", lattice=lattice,  # type: ignore[arg-type]
        kg_per_m=2.5 if lattice == "pipe" else 9.5,
    )  # fmt: skip
    return _if_so(truss, as_rows(np.vstack([across, y, up, foot])))
