"""ILDA image data transfer files (.ild), read and written: formats 0, 1, 4 and 5, and palettes (2).

All numbers are big-endian. A section has a header of 32 bytes (`ILDA`, three zeros, the format, name and company of
eight letters each, how many records, the frame's number, how many frames, the projector, a zero) and its records: X, Y
and of format 0 and 4 Z as signed 16-bit, a status (bit 7: the last point, bit 6: dark), then the index of a colour, or
blue, green and red. A section of no records ends the file.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.lasers.frames import DEEP, INDEXED, Bytes, Format, Frame, Palette, Reel
from zarfwright.formats.findings import FormatError, Oddity

HEADER = struct.Struct(">4s3xB8s8sHHHBx")
PALETTE = 2
LAST, DARK = 0x80, 0x40
BYTES_MOST = 64 * 2**20
SECTIONS_MOST = 65_536
POINTS_MOST = 65_535
_XYZ = [("x", ">i2"), ("y", ">i2"), ("z", ">i2")]
_XY = [("x", ">i2"), ("y", ">i2")]
_BY_INDEX = [("status", "u1"), ("index", "u1")]
_BY_COLOUR = [("status", "u1"), ("blue", "u1"), ("green", "u1"), ("red", "u1")]
RECORDS: dict[int, np.dtype[np.void]] = {
    0: np.dtype(_XYZ + _BY_INDEX),
    1: np.dtype(_XY + _BY_INDEX),
    PALETTE: np.dtype([("red", "u1"), ("green", "u1"), ("blue", "u1")]),
    4: np.dtype(_XYZ + _BY_COLOUR),
    5: np.dtype(_XY + _BY_COLOUR),
}


@dataclass(frozen=True)
class _Head:
    format: int
    name: str
    company: str
    records: int
    number: int
    total: int
    projector: int


def _words(raw: bytes) -> str:
    return raw.split(b"\0")[0].decode("ascii", "replace").rstrip()


def _head(data: bytes, at: int) -> _Head | None:
    """The header at a place; None where there is none."""
    if len(data) - at < HEADER.size or data[at : at + 4] != b"ILDA":
        return None
    _, kind, name, company, records, number, total, projector = HEADER.unpack_from(data, at)
    return _Head(kind, _words(name), _words(company), records, number, total, projector)


def read_ild(data: bytes) -> tuple[Reel, list[Oddity]]:
    """The frames and palettes of a file, and what is odd about it. Raises FormatError where it is none, or empty."""
    if len(data) > BYTES_MOST:
        raise FormatError(f"This file has {len(data) / 2**20:.0f} MB: an ILDA file may have {BYTES_MOST // 2**20}.")
    if data[:4] != b"ILDA":
        raise FormatError("This is no ILDA file: it does not begin with the letters ILDA.")
    sections, findings, at, ended = _sections(data)
    reel = Reel(tuple(sections))
    if not reel.frames:
        raise FormatError("There is no frame in this file: it draws nothing.")
    return reel, [*findings, *_odd(data, at, ended)]


def _sections(data: bytes) -> tuple[list[Frame | Palette], list[Oddity], int, bool]:
    """What a file holds, what is odd about it, where reading stopped, and whether at the section that ends it."""
    sections: list[Frame | Palette] = []
    findings: list[Oddity] = []
    at = 0
    while at < len(data):
        head = _head(data, at)
        where = f"byte {at}"
        if head is None:
            findings.append(Oddity(where, "no header where one is due", "the rest of the file is left out"))
            break
        if head.records == 0:
            return sections, findings, at + HEADER.size, True
        if head.format not in RECORDS:
            findings.append(Oddity(where, f"format {head.format}, which nobody uses", "the rest is left out"))
            break
        at += HEADER.size
        size = RECORDS[head.format].itemsize
        there = min(head.records, (len(data) - at) // size)
        if there < head.records:
            said = f"{head.records} records are said, {there} are there"
            findings.append(Oddity(where, said, "those that are there are taken"))
        if there:
            sections.append(_section(head, np.frombuffer(data, RECORDS[head.format], there, at)))
        at += there * size
        if len(sections) > SECTIONS_MOST:
            raise FormatError(f"This file has more than {SECTIONS_MOST} frames: part it.")
    return sections, findings, at, False


def _odd(data: bytes, at: int, ended: bool) -> list[Oddity]:
    found = []
    if not ended:
        found.append(Oddity("the end", "the section that ends a file is missing", "read to its last byte"))
    elif len(data) > at:
        found.append(Oddity(f"byte {at}", f"{len(data) - at} bytes after the end", "left out"))
    return found


def _section(head: _Head, records: NDArray[np.void]) -> Frame | Palette:
    if head.format == PALETTE:
        colours = np.stack([records[name] for name in ("red", "green", "blue")], axis=1)
        return Palette(colours[:256], head.name, head.company, head.number, head.projector)
    z = records["z"] if head.format in DEEP else np.zeros(len(records), dtype=np.int16)
    points = np.stack([records["x"], records["y"], z], axis=1).astype(np.int16)
    kind: Format = head.format  # type: ignore[assignment]
    by_index = kind in INDEXED
    rgb = None if by_index else np.stack([records[name] for name in ("red", "green", "blue")], axis=1)
    return Frame(
        points, (records["status"] & DARK) > 0, kind, rgb, records["index"].copy() if by_index else None,
        head.name, head.company, head.number, head.projector,
    )  # fmt: skip


def _letters(text: str) -> bytes:
    return text.encode("ascii", "replace")[:8].ljust(8, b"\0")


def _records(frame: Frame) -> bytes:
    made = np.zeros(len(frame), dtype=RECORDS[frame.format])
    made["x"], made["y"] = frame.points[:, 0], frame.points[:, 1]
    if frame.format in DEEP:
        made["z"] = frame.points[:, 2]
    made["status"] = np.where(frame.blanked, DARK, 0)
    made["status"][-1] |= LAST
    if frame.format in INDEXED:
        made["index"] = frame.indices
    else:
        rgb: Bytes = frame.rgb if frame.rgb is not None else np.zeros((len(frame), 3), dtype=np.uint8)
        made["red"], made["green"], made["blue"] = rgb.T
    return made.tobytes()


def write_ild(reel: Reel) -> bytes:
    """Frames and palettes as a file, each in its own format. Raises FormatError where they do not fit one."""
    frames, parts = reel.frames, []
    if not frames:
        raise FormatError("There is no frame to write: draw something first.")
    if len(frames) > POINTS_MOST:
        raise FormatError(f"{len(frames)} frames are more than a file may have ({POINTS_MOST}): part them.")
    for one in reel.sections:
        if isinstance(one, Palette):
            head = (PALETTE, len(one.colours), one.number, 0)
            body = one.colours.astype(np.uint8).tobytes()
        else:
            if not 1 <= len(one) <= POINTS_MOST:
                raise FormatError(f"A frame has from 1 to {POINTS_MOST} points, this one {len(one)}: part it.")
            head = (one.format, len(one), one.number, len(frames))
            body = _records(one)
        kind, count, number, total = head
        parts.append(
            HEADER.pack(b"ILDA", kind, _letters(one.name), _letters(one.company), count, number, total, one.projector)
        )
        parts.append(body)
    last = frames[-1]
    ends = HEADER.pack(b"ILDA", last.format, _letters(""), _letters(last.company), 0, 0, 0, last.projector)
    return b"".join([*parts, ends])
