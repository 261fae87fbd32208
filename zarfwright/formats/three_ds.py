"""Meshes from 3DS files: the few chunks that hold vertices and faces. Only their shape is used, never materials."""

from __future__ import annotations

import struct
from collections.abc import Iterator

import numpy as np

from zarfwright.core.mesh import Mesh
from zarfwright.formats.findings import FormatError

MAIN, EDITOR, OBJECT, TRIANGLES, VERTICES, FACES = 0x4D4D, 0x3D3D, 0x4000, 0x4100, 0x4110, 0x4120
TRIANGLES_MAX = 500_000


def _chunks(data: bytes, start: int, end: int) -> Iterator[tuple[int, int, int]]:
    """Kind, first byte and end of each chunk between two places; one that passes its parent's end is an error."""
    place = start
    while place + 6 <= end:
        kind, size = struct.unpack_from("<HI", data, place)
        if size < 6 or place + size > end:
            raise FormatError(f"a chunk at byte {place} claims {size} bytes, which are not there")
        yield kind, place + 6, place + size
        place += size


def _trimeshes(data: bytes) -> Iterator[tuple[int, int]]:
    for kind, start, end in _chunks(data, 0, len(data)):
        if kind != MAIN:
            continue
        for editor, first, last in _chunks(data, start, end):
            if editor != EDITOR:
                continue
            for thing, begin, stop in _chunks(data, first, last):
                if thing != OBJECT:
                    continue
                name_end = data.index(b"\0", begin, stop) + 1
                for part, a, b in _chunks(data, name_end, stop):
                    if part == TRIANGLES:
                        yield a, b


def _array(
    data: bytes, start: int, end: int, kind: str, width: int
) -> np.ndarray[tuple[int, ...], np.dtype[np.generic]]:
    (count,) = struct.unpack_from("<H", data, start)
    size = np.dtype(kind).itemsize * width
    if start + 2 + count * size > end:
        raise FormatError(f"a list at byte {start} claims {count} rows, which are not there")
    return np.frombuffer(data, dtype=kind, count=count * width, offset=start + 2).reshape(-1, width)


def read_3ds(data: bytes, file_name: str) -> Mesh:
    """One mesh out of a 3DS file, flat shaded, in the file's own frame (z up). Raises FormatError."""
    corners = []
    try:
        for start, end in _trimeshes(data):
            lists = {kind: (a, b) for kind, a, b in _chunks(data, start, end) if kind in (VERTICES, FACES)}
            if len(lists) < 2:
                continue
            vertices = _array(data, *lists[VERTICES], "<f4", 3).astype(np.float64)
            faces = _array(data, *lists[FACES], "<u2", 4)[:, :3].astype(np.int64)
            if len(faces) and int(faces.max()) >= len(vertices):
                raise FormatError("a face names a corner that is not there")
            corners.append(vertices[faces])
    except FormatError as wrong:
        raise FormatError(f"{file_name} is no 3DS file that can be read: {wrong}.") from wrong
    except (struct.error, ValueError) as wrong:
        raise FormatError(f"{file_name} is no 3DS file that can be read: it ends in the middle of a list.") from wrong
    found = np.concatenate(corners) if corners else np.zeros((0, 3, 3))
    if not len(found) or not np.isfinite(found).all():
        raise FormatError(f"{file_name} holds no triangles.")
    if len(found) > TRIANGLES_MAX:
        raise FormatError(f"{file_name} has more than {TRIANGLES_MAX} triangles: simplify it.")
    across = np.cross(found[:, 1] - found[:, 0], found[:, 2] - found[:, 0])
    normals = across / np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-12)
    triangles = np.arange(3 * len(found), dtype=np.uint32).reshape(-1, 3)
    return Mesh(found.reshape(-1, 3).astype(np.float32), np.repeat(normals, 3, axis=0).astype(np.float32), triangles)
