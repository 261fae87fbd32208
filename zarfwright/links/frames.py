"""The wire format of beam frames: a 32-byte header and u16 fields, scaled as said once for each patch.

Header, little-endian: sequence u32, kind u8, fields u8, rig u16 (the patch it belongs to, counted), the time when the
packet came in and when the frame left (f64 seconds since the epoch), count u32, changed u32.
kind 1 is a full frame: count x fields u16. kind 2 is a delta: `changed` u32 beam numbers, then changed x fields u16.
kind 3 is a levels message for one universe: count is the universe, then 512 bytes.
kind 5 is what lasers draw, by the event `lasers` whose number stands where a frame has its patch: count heads, each its
place in that event u16 and its number of places u16; then the places of all, 8 bytes each: angles to the right and up
of the head's axis i16 (ANGLE_STEP degrees), the light from there to the next place as red, green, blue u8, 0.
kind 4 is where drivers have brought what they move, in the frame that comes next: count x 8 f32 (position, rotation as
x, y, z, w, size), in the order of the event `carried` whose number stands where a frame has its patch.
"""

from __future__ import annotations

import struct
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.motion import SPIN_STEP
from zarfwright.core.picture import FIELDS

HEADER = struct.Struct("<IBBHddII")
FULL, DELTA, LEVELS, POSES, LASERS = 1, 2, 3, 4, 5
ANGLE_STEP = 1 / 200
PLACE = np.dtype([("a", "<i2"), ("b", "<i2"), ("rgb", "u1", 3), ("zero", "u1")])
TOP = 65535


@dataclass(frozen=True)
class Scaling:
    """value = raw * scale + offset, one pair for each field."""

    scale: tuple[float, ...]
    offset: tuple[float, ...]

    def pack(self, values: NDArray[np.float32]) -> NDArray[np.uint16]:
        """Beams (n, fields) as u16, clamped to what the scale holds."""
        return np.ascontiguousarray(self.packed_fields(values).T)

    def packed_fields(self, values: NDArray[np.float32]) -> NDArray[np.uint16]:
        """The same field by field, (fields, n)."""
        # Field by field: that is how frames lie in memory. Single precision is 256 times finer than what is sent.
        raw = values.T * self._factor
        raw += self._shift
        np.rint(raw, out=raw)
        np.maximum(raw, 0, out=raw)
        np.minimum(raw, TOP, out=raw)
        return raw.astype("<u2")

    @cached_property
    def _factor(self) -> NDArray[np.float32]:
        return np.array([1 / scale for scale in self.scale], dtype=np.float32)[:, None]

    @cached_property
    def _shift(self) -> NDArray[np.float32]:
        pairs = zip(self.offset, self.scale, strict=True)
        return np.array([-offset / scale for offset, scale in pairs], dtype=np.float32)[:, None]

    def unpack(self, raw: NDArray[np.uint16]) -> NDArray[np.float64]:
        """Beams (n, fields) back from u16."""
        return np.asarray(raw * np.array(self.scale) + np.array(self.offset))


def _symmetric(most: float) -> tuple[float, float]:
    # Zero is exactly half of 65536, so that a head at home is at home.
    return 2 * most / 65536, -most


def scaling(pan_most: float = 2 * np.pi, tilt_most: float = 2 * np.pi) -> Scaling:
    """The scaling for a rig whose heads turn no further than this, in radians."""
    pairs = {
        "pan": _symmetric(pan_most * 1.001),
        "tilt": _symmetric(tilt_most * 1.001),
        "field": (np.pi / TOP, 0.0),
        "beam": (np.pi / TOP, 0.0),
        # Colours outside Rec. 709 have a negative part; 0 is exactly raw 16384.
        "red": (1 / 32768, -0.5),
        "green": (1 / 32768, -0.5),
        "blue": (1 / 32768, -0.5),
        # Multiples that come round whole with the stage's clock (core/motion.py).
        "strobe": (1 / 1024, 0.0),
        "sharp_at": (1 / 128, 0.0),
        # Of a web that is weak along its axis the frosted beam is the brighter one.
        "frost_gain": (1 / 8192, 0.0),
        **dict.fromkeys(("gobo", "gobo2", "prism", "web", "strobe_kind"), (1.0, 0.0)),
        **dict.fromkeys(("gobo_turn", "gobo2_turn", "prism_turn", "blades_turn"), _symmetric(4 * np.pi)),
        **dict.fromkeys(("gobo_spin", "gobo2_spin", "prism_spin"), (SPIN_STEP, -32768 * SPIN_STEP)),
        **{f"blade{n}_angle": _symmetric(np.pi) for n in (1, 2, 3, 4)},
    }
    # All others are shares 0..1.
    pairs |= {name: (1 / TOP, 0.0) for name in FIELDS if name not in pairs}
    return Scaling(tuple(float(pairs[f][0]) for f in FIELDS), tuple(float(pairs[f][1]) for f in FIELDS))


def full_frame(raw: NDArray[np.uint16], sequence: int, rig: int, came: float, left: float) -> bytes:
    """All beams."""
    head = HEADER.pack(sequence & 0xFFFFFFFF, FULL, raw.shape[1], rig & 0xFFFF, came, left, len(raw), 0)
    return head + raw.tobytes()


def delta_frame(
    raw: NDArray[np.uint16], changed: NDArray[np.int64], sequence: int, rig: int, came: float, left: float
) -> bytes:
    """Only the beams that changed since the frame before."""
    head = HEADER.pack(sequence & 0xFFFFFFFF, DELTA, raw.shape[1], rig & 0xFFFF, came, left, len(raw), len(changed))
    return head + changed.astype("<u4").tobytes() + raw[changed].tobytes()


def levels_message(universe: int, levels: bytes, sequence: int, now: float) -> bytes:
    """The merged levels of one universe."""
    return HEADER.pack(sequence & 0xFFFFFFFF, LEVELS, 0, 0, now, now, universe, 0) + levels


def poses_message(poses: NDArray[np.float32], sequence: int, plan: int, now: float) -> bytes:
    """Where things that are driven have got to (g, 8), by a plan of that number."""
    head = HEADER.pack(sequence & 0xFFFFFFFF, POSES, 8, plan & 0xFFFF, now, now, len(poses), 0)
    return head + poses.astype("<f4").tobytes()


def lasers_message(
    heads: Sequence[tuple[int, NDArray[np.float64], NDArray[np.float64]]], plan: int, sequence: int, now: float
) -> bytes:
    """What lasers draw, by a plan of that number: of each head its place in the plan, angles (n, 2) in degrees, light
    (n, 3) in 0..1."""
    total = sum(len(angles) for _, angles, _ in heads)
    head = HEADER.pack(sequence & 0xFFFFFFFF, LASERS, 8, plan & 0xFFFF, now, now, len(heads), total)
    table = np.array([(row, len(angles)) for row, angles, _ in heads], dtype="<u2")
    places = np.zeros(total, dtype=PLACE)
    if heads:
        angles = np.rint(np.concatenate([angles for _, angles, _ in heads]) / ANGLE_STEP)
        places["a"], places["b"] = np.clip(angles, -32768, 32767).T
        places["rgb"] = np.rint(np.clip(np.concatenate([light for _, _, light in heads]), 0, 1) * 255)
    return head + table.tobytes() + places.tobytes()
