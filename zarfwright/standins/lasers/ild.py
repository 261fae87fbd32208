"""The simulated feed's own reader of ILDA files (formats 0, 1, 4, 5), by the standard's tables."""

from __future__ import annotations

import struct

import numpy as np

from zarfwright.standins.lasers.patterns import Rows, hue

HEAD = struct.Struct(">4s3xB8s8sHHHBx")
SIZES = {0: 8, 1: 6, 2: 3, 4: 10, 5: 8}
LAST, BLANKED = 0x80, 0x40


class FileError(ValueError):
    """It is no such file, or a damaged one."""


def _frame(kind: int, body: np.ndarray, palette: Rows) -> Rows:
    xy = body[:, :4].copy().view(">i2").astype(float) / 32767
    deep = kind in (0, 4)
    status = body[:, 6 if deep else 4]
    if kind in (0, 1):
        rgb = palette[np.minimum(body[:, 7 if deep else 5], len(palette) - 1)]
    else:
        first = 7 if deep else 5
        rgb = body[:, first : first + 3][:, ::-1] / 255
    return np.column_stack([xy, rgb, (status & BLANKED) == 0])


def read(data: bytes) -> list[Rows]:
    """The frames of a file, each as patterns.py gives figures. Raises FileError."""
    frames: list[Rows] = []
    # Near enough to the standard's default palette: once round the colours, then white.
    palette = np.concatenate([hue(np.arange(56) / 56), np.ones((8, 3))])
    at = 0
    while at + HEAD.size <= len(data):
        magic, kind, _, _, count, _, _, _ = HEAD.unpack_from(data, at)
        if magic != b"ILDA" or kind not in SIZES:
            raise FileError(f"There is no section of an ILDA file at byte {at}.")
        at += HEAD.size
        if count == 0:
            break
        if at + count * SIZES[kind] > len(data):
            raise FileError(f"The section at byte {at - HEAD.size} is cut short.")
        body = np.frombuffer(data, np.uint8, count * SIZES[kind], at).reshape(count, SIZES[kind])
        at += count * SIZES[kind]
        if kind == 2:
            palette = body / 255
        else:
            frames.append(_frame(kind, body, palette))
    if not frames:
        raise FileError("The file has no frames.")
    return frames
