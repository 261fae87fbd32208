"""What the things of a scene look like: meshes of the archive, put together where there are several or symbols."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from xml.etree.ElementTree import Element

import numpy as np

from zarfwright.core.exchange.rows import STRAIGHT, Rows, flat, inside
from zarfwright.core.exchange.scene import Shape
from zarfwright.core.mesh import MeshFile, MeshPart
from zarfwright.core.space import Floats, vec
from zarfwright.formats.archive import Limits, Zip
from zarfwright.formats.findings import FormatError
from zarfwright.formats.mesh import read_mesh, write_glb_scene
from zarfwright.formats.mvr.entries import MESH_ENDS
from zarfwright.formats.mvr.reading import Reading
from zarfwright.formats.mvr.values import read_uuid
from zarfwright.formats.three_ds import read_3ds

PIECES_MAX = 2000
SYMBOLS_DEEP = 16
MM = ((0.001, 0.0, 0.0), (0.0, 0.001, 0.0), (0.0, 0.0, 0.001), (0.0, 0.0, 0.0))
"""Meshes of 3DS are in millimetres, those of glTF in metres."""


@dataclass(frozen=True)
class Piece:
    """An entry of the archive at its place."""

    entry: str
    rows: Rows


class Shapes:
    """The shapes of one file: found for each thing, kept by what they are made of."""

    def __init__(self, reading: Reading, symdefs: Mapping[str, Element]) -> None:
        self.reading, self.symdefs = reading, symdefs
        self.found: dict[str, Shape] = {}
        self.pieces: dict[str, tuple[Piece, ...]] = {}
        self._bounds: dict[str, tuple[Floats, Floats] | None] = {}

    def of(self, node: Element, where: str) -> str:
        """The key of what a thing looks like; empty where nothing of it can be shown."""
        geometries = node.find("Geometries")
        if geometries is None:
            return ""
        pieces: list[Piece] = []
        self._collect(geometries, STRAIGHT, where, (), pieces)
        pieces = [piece for piece in pieces if self._bounds_of(piece.entry, where) is not None]
        if not pieces:
            return ""
        key = self._key(pieces)
        if key not in self.found:
            low, high = self._reach(pieces)
            plain = _as_it_is(pieces)
            self.found[key] = Shape(low, high, key if plain else "", pieces[0].entry if plain else "")
            self.pieces[key] = tuple(pieces)
        return key

    def _collect(self, parent: Element, above: Rows, where: str, path: tuple[str, ...], into: list[Piece]) -> None:
        for node in parent:
            if node.tag == "ChildList":
                self._collect(node, above, where, path, into)
                continue
            if node.tag not in ("Geometry3D", "Symbol"):
                continue
            if len(into) >= PIECES_MAX:
                self.reading.found(where, f"it is made of more than {PIECES_MAX} meshes", "shown by the first ones")
                return
            rows = inside(above, self.reading.matrix(node, where))
            if flat(rows):
                self.reading.found(where, "the matrix of a mesh makes it flat", "left out of what is shown")
            elif node.tag == "Geometry3D":
                self._mesh(node, rows, where, into)
            else:
                self._symbol(node, rows, where, path, into)

    def _mesh(self, node: Element, rows: Rows, where: str, into: list[Piece]) -> None:
        name = node.get("fileName", "")
        entry = self.reading.entry(name, where, "mesh", *MESH_ENDS)
        if entry is not None and not entry.lower().endswith(MESH_ENDS):
            self.reading.found(where, f"its mesh “{name}” is neither GLB nor 3DS", "not shown, but kept")
        elif entry is not None:
            into.append(Piece(entry, inside(rows, MM) if entry.lower().endswith(".3ds") else rows))

    def _symbol(self, node: Element, rows: Rows, where: str, path: tuple[str, ...], into: list[Piece]) -> None:
        key = read_uuid(node.get("symdef", ""))[0]
        if key in path or len(path) >= SYMBOLS_DEEP:
            self.reading.found(where, "its symbols are made of each other in a circle", "shown without that")
        elif key not in self.symdefs:
            self.reading.found(where, "it is shown by a symbol that the file does not have", "shown without that")
        else:
            self._collect(self.symdefs[key], rows, where, (*path, key), into)

    def _bounds_of(self, entry: str, where: str) -> tuple[Floats, Floats] | None:
        if entry not in self._bounds:
            facts = self.reading.entries.facts(entry)
            if facts.bounds is None:
                self.reading.found(where, f"its mesh “{entry}” cannot be read: {facts.problem}", "not shown, but kept")
            self._bounds[entry] = facts.bounds
        return self._bounds[entry]

    def _reach(self, pieces: list[Piece]) -> tuple[tuple[float, float, float], tuple[float, float, float]]:
        low, high = np.full(3, np.inf), np.full(3, -np.inf)
        for piece in pieces:
            bounds = self._bounds[piece.entry]
            assert bounds is not None
            corners = np.array(np.meshgrid(*zip(*bounds, strict=True))).reshape(3, -1).T
            to = np.array(piece.rows)
            there = corners @ to[:3] + to[3]
            low, high = np.minimum(low, there.min(axis=0)), np.maximum(high, there.max(axis=0))
        return vec(low), vec(high)

    def _key(self, pieces: list[Piece]) -> str:
        assets = [self.reading.entries.facts(piece.entry).asset for piece in pieces]
        if _as_it_is(pieces):
            return assets[0]
        said = sha256()
        for asset, piece in zip(assets, pieces, strict=True):
            said.update(f"{asset} {np.round(np.array(piece.rows), 7).tolist()} ".encode())
        return said.hexdigest()


def _as_it_is(pieces: list[Piece]) -> bool:
    """Whether a shape is one mesh of the archive, as it is."""
    return len(pieces) == 1 and pieces[0].rows == STRAIGHT and pieces[0].entry.lower().endswith(".glb")


def put_together(archive: Zip, pieces: tuple[Piece, ...]) -> bytes:
    """Several meshes as one GLB. Raises FormatError where one of them cannot be read."""
    read: dict[str, list[MeshPart]] = {}
    placed: list[tuple[str, MeshPart, Rows]] = []
    for piece in pieces:
        if piece.entry not in read:
            read[piece.entry] = _parts_of(archive.read(piece.entry), piece.entry)
        placed += [(part.material or "part", part, piece.rows) for part in read[piece.entry]]
    return write_glb_scene(placed)


def _parts_of(data: bytes, name: str) -> list[MeshPart]:
    if name.lower().endswith(".3ds"):
        return [MeshPart("", None, read_3ds(data, name))]
    return list(read_mesh(data, name)[0].parts)


def composed(
    source: bytes | Path, file_name: str, limits: Limits, made_of: Mapping[str, tuple[Piece, ...]]
) -> dict[str, bytes | str]:
    """The shapes that are made of several meshes as GLBs, or why one cannot be made: a call that may be made in another
    process."""
    archive = Zip(source, file_name, limits)
    found: dict[str, bytes | str] = {}
    for key, pieces in made_of.items():
        try:
            found[key] = put_together(archive, pieces)
        except FormatError as wrong:
            found[key] = str(wrong)
    return found


def mesh_in(source: bytes | Path, file_name: str, limits: Limits, entry: str) -> MeshFile | str:
    """The mesh of an entry, or why it cannot be read: a call that may be made in another process."""
    try:
        return read_mesh(Zip(source, file_name, limits).read(entry), entry)[0]
    except FormatError as wrong:
        return str(wrong)
