"""Triangles: made once here, shared by the stage, ray casting and exports.

A part is built about its own origin in metres; faces wind counter-clockwise seen from outside. Normals are flat: each
triangle has vertices of its own, except where `round_surface` makes smooth ones.
"""

from __future__ import annotations

import hashlib
import struct
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zarfwright.core.space import Floats, rotate, unit

MAGIC = b"ZMSH"
VERSION = 2
OWN, SKIN, HAIR, DARKER = range(4)
INWARD, OUTWARD, REVEAL = 4, 5, 6
"""What a vertex is coloured by: the thing's own colour, a skin tone, a hair colour, or a darker shade of its own. Faces
of walls have their own colour too, and say where they look: into the room (or from an open wall), out of it, or along
the wall, where a share from 6 on says which way the wall itself faces there (`reveal`)."""


def reveal(heading: float) -> float:
    """The part of the side of an opening in a wall that faces `heading`, radians in plan."""
    return REVEAL + heading / (2 * np.pi) % 1.0


@dataclass(frozen=True, eq=False)
class Mesh:
    """Vertices (n, 3) and normals (n, 3) as float32, and triangles (m, 3) as uint32."""

    vertices: NDArray[np.float32]
    normals: NDArray[np.float32]
    triangles: NDArray[np.uint32]
    parts: NDArray[np.float32] | None = None
    """(n,) which of OWN, SKIN, HAIR, DARKER, or of a wall's faces, a vertex belongs to; None: all of it is OWN."""

    @cached_property
    def packed(self) -> bytes:
        """The bytes served to the stage: magic, version, vertex and index counts (u32, little-endian), then the arrays
        (positions, normals, parts as f32, indices as u32)."""
        head = MAGIC + struct.pack("<III", VERSION, len(self.vertices), self.triangles.size)
        parts = np.zeros(len(self.vertices)) if self.parts is None else self.parts
        arrays = (
            self.vertices.astype("<f4"), self.normals.astype("<f4"), parts.astype("<f4"), self.triangles.astype("<u4")
        )  # fmt: skip
        return head + b"".join(array.tobytes() for array in arrays)

    @cached_property
    def key(self) -> str:
        """The name of the mesh: sha256 of its bytes, so that it can be cached for ever."""
        return hashlib.sha256(self.packed).hexdigest()[:32]

    def bounds(self) -> tuple[Floats, Floats]:
        """The least and greatest corner, each of shape (3,)."""
        return self.vertices.min(axis=0).astype(float), self.vertices.max(axis=0).astype(float)


@dataclass(frozen=True, eq=False)
class MeshPart:
    """What of a file is of one material: its name, and its linear diffuse reflectance where the file gives a colour."""

    material: str
    colour: tuple[float, float, float] | None
    mesh: Mesh


@dataclass(frozen=True, eq=False)
class MeshFile:
    """A mesh out of a file, material by material."""

    parts: tuple[MeshPart, ...]

    @cached_property
    def whole(self) -> Mesh:
        """All of it as one."""
        return join([part.mesh for part in self.parts])


def join(parts: list[Mesh]) -> Mesh:
    """One mesh out of several, in order."""
    coloured = any(part.parts is not None for part in parts)
    colours = [np.zeros(len(p.vertices), np.float32) if p.parts is None else p.parts for p in parts]
    starts = np.cumsum([0] + [len(part.vertices) for part in parts[:-1]])
    return Mesh(
        np.concatenate([part.vertices for part in parts]),
        np.concatenate([part.normals for part in parts]),
        np.concatenate([part.triangles + start for part, start in zip(parts, starts, strict=True)]).astype(np.uint32),
        np.concatenate(colours) if coloured else None,
    )


def mapped(mesh: Mesh, axes: ArrayLike) -> Mesh:
    """The mesh with its X, Y and Z brought to the rows of `axes` (3, 3): turned, stretched, sheared or mirrored."""
    to = np.asarray(axes, dtype=float)
    normals = unit(mesh.normals @ np.linalg.inv(to).T)
    triangles = mesh.triangles if np.linalg.det(to) > 0 else mesh.triangles[:, ::-1]
    return replace(
        mesh, vertices=(mesh.vertices @ to).astype(np.float32), normals=normals.astype(np.float32), triangles=triangles
    )


def coloured(mesh: Mesh, part: int) -> Mesh:
    """The mesh with all its vertices in one of OWN, SKIN, HAIR, DARKER."""
    return replace(mesh, parts=np.full(len(mesh.vertices), part, dtype=np.float32))


def flat(polygons: ArrayLike) -> Mesh:
    """Flat quadrilaterals from corners of shape (n, 4, 3), counter-clockwise from outside."""
    corners = np.asarray(polygons, dtype=float)
    normals = unit(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]))
    first = np.arange(len(corners))[:, None] * 4
    triangles = np.concatenate([first + [0, 1, 2], first + [0, 2, 3]], axis=1).reshape(-1, 3)
    return Mesh(
        corners.reshape(-1, 3).astype(np.float32),
        np.repeat(normals, 4, axis=0).astype(np.float32),
        triangles.astype(np.uint32),
    )


def box(size: ArrayLike, centre: ArrayLike = (0.0, 0.0, 0.0)) -> Mesh:
    """A box with edges `size` (3,) about `centre`."""
    signs = np.array([[x, y, z] for z in (-1, 1) for y in (-1, 1) for x in (-1, 1)], dtype=float) / 2
    c = signs * np.asarray(size, dtype=float) + np.asarray(centre, dtype=float)
    faces = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)]
    return flat(c[np.array(faces)])


def round_surface(profile: ArrayLike, sides: int = 12, centre: ArrayLike = (0.0, 0.0, 0.0)) -> Mesh:
    """A surface turned about +Z from a profile of (radius, height) pairs of shape (n, 2), from low to high."""
    line = np.asarray(profile, dtype=float)
    angles = np.linspace(0.0, 2 * np.pi, sides + 1)
    ring = np.stack([np.cos(angles), np.sin(angles), np.zeros_like(angles)], axis=1)
    points = line[:, None, :1] * ring[None] + line[:, None, 1:] * np.array([0.0, 0.0, 1.0])
    slope = np.gradient(line, axis=0)
    normals = unit(slope[:, None, 1:] * ring[None] - slope[:, None, :1] * np.array([0.0, 0.0, 1.0]))
    low = (np.arange(len(line) - 1)[:, None] * (sides + 1) + np.arange(sides)[None]).reshape(-1, 1)
    high = low + sides + 1
    quads = np.concatenate([low, low + 1, high + 1, low, high + 1, high], axis=1).reshape(-1, 3)
    return Mesh(
        (points.reshape(-1, 3) + np.asarray(centre, dtype=float)).astype(np.float32),
        normals.reshape(-1, 3).astype(np.float32),
        quads.astype(np.uint32),
    )


def cylinder(radius: float, height: float, centre: ArrayLike = (0.0, 0.0, 0.0), sides: int = 16) -> Mesh:
    """An upright closed cylinder about `centre`."""
    h = height / 2
    wall = round_surface([(radius, -h), (radius, h)], sides, centre)
    caps = [
        round_surface([(0.0, -h), (radius, -h)], sides, centre),
        round_surface([(radius, h), (0.0, h)], sides, centre),
    ]
    return join([wall, *caps])


def ellipsoid(radii: ArrayLike, centre: ArrayLike = (0.0, 0.0, 0.0), sides: int = 10, rings: int = 6) -> Mesh:
    """An ellipsoid with half axes `radii` (3,) about `centre`."""
    r = np.asarray(radii, dtype=float)
    around = np.linspace(-np.pi / 2, np.pi / 2, rings + 1)
    ball = round_surface(np.stack([np.cos(around), np.sin(around)], axis=1), sides)
    return Mesh(
        (ball.vertices * r + np.asarray(centre, dtype=float)).astype(np.float32),
        unit(ball.vertices / r).astype(np.float32),
        ball.triangles,
    )


def tubes(starts: ArrayLike, ends: ArrayLike, radius: float, sides: int = 6) -> Mesh:
    """Straight tubes from starts (n, 3) to ends (n, 3), open at both ends: truss chords and braces."""
    a, b = np.asarray(starts, dtype=float), np.asarray(ends, dtype=float)
    along = unit(b - a)
    helper = np.where(np.abs(along[:, 2:]) < 0.9, [[0.0, 0.0, 1.0]], [[1.0, 0.0, 0.0]])
    side = unit(np.cross(along, helper))
    other = np.cross(along, side)
    angle = np.arange(sides + 1) * (2 * np.pi / sides)
    out = side[:, None] * np.cos(angle)[None, :, None] + other[:, None] * np.sin(angle)[None, :, None]
    points = np.stack([a[:, None] + radius * out, b[:, None] + radius * out], axis=1)
    normals = np.stack([out, out], axis=1)
    first = np.arange(len(a))[:, None] * 2 * (sides + 1) + np.arange(sides)[None]
    low, high = first.reshape(-1, 1), first.reshape(-1, 1) + sides + 1
    quads = np.concatenate([low, low + 1, high + 1, low, high + 1, high], axis=1).reshape(-1, 3)
    return Mesh(
        points.reshape(-1, 3).astype(np.float32), normals.reshape(-1, 3).astype(np.float32), quads.astype(np.uint32)
    )


def moved(mesh: Mesh, by: ArrayLike) -> Mesh:
    """The mesh shifted by `by` (3,)."""
    shift = np.asarray(by, dtype=float)
    return replace(mesh, vertices=(mesh.vertices + shift).astype(np.float32))


def turned(mesh: Mesh, by: ArrayLike) -> Mesh:
    """The mesh turned by a unit quaternion (4,) about its origin."""
    return replace(
        mesh,
        vertices=rotate(by, mesh.vertices).astype(np.float32),
        normals=rotate(by, mesh.normals).astype(np.float32),
    )
