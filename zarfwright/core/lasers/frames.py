"""What a laser draws: frames of points, one after the other, each with its colour or dark, as ILDA files have them.

Coordinates are signed 16-bit: from -32768 at the left, the bottom and the back to 32767 at the right, the top and the
front of the field. Colours are 8 bits each of red, green, blue.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]
Format = Literal[0, 1, 4, 5]
FORMATS: tuple[Format, ...] = (0, 1, 4, 5)
INDEXED: tuple[Format, ...] = (0, 1)
DEEP: tuple[Format, ...] = (0, 4)
"""Those whose points have a depth."""


@dataclass(frozen=True, eq=False)
class Palette:
    """Up to 256 colours (n, 3) that indexed frames after it choose from."""

    colours: Bytes
    name: str = ""
    company: str = ""
    number: int = 0
    projector: int = 0


@dataclass(frozen=True, eq=False)
class Frame:
    """One frame: points (n, 3), which of them are reached in the dark (n,), and their colours, either (n, 3) or by a
    palette (n,)."""

    points: NDArray[np.int16]
    blanked: NDArray[np.bool_]
    format: Format = 5
    rgb: Bytes | None = None
    indices: Bytes | None = None
    name: str = ""
    company: str = ""
    number: int = 0
    projector: int = 0

    def __len__(self) -> int:
        return len(self.points)

    def colours(self, palette: Palette) -> Bytes:
        """The colours of its points (n, 3), by a palette where it has no own ones; beyond that the last of it."""
        if self.rgb is not None:
            return self.rgb
        assert self.indices is not None
        return np.asarray(palette.colours[np.minimum(self.indices, len(palette.colours) - 1)])


@dataclass(frozen=True, eq=False)
class Reel:
    """Frames in their order, with the palettes that come between them."""

    sections: tuple[Frame | Palette, ...]

    @cached_property
    def frames(self) -> tuple[Frame, ...]:
        return tuple(one for one in self.sections if isinstance(one, Frame))

    @cached_property
    def coloured(self) -> tuple[tuple[Frame, Bytes], ...]:
        """Each frame with the colours of its points (n, 3)."""
        palette, found = DEFAULT, []
        for one in self.sections:
            if isinstance(one, Palette):
                palette = one
            else:
                found.append((one, one.colours(palette)))
        return tuple(found)


# The 64 colours of the standard's default palette: once round from red by yellow, green, cyan, blue and magenta to
# white, and back to red.
DEFAULT = Palette(
    np.array(
        [(255, 16 * k, 0) for k in range(16)]
        + [(255, 255, 0), *[(256 - 32 * k, 255, 0) for k in range(1, 8)]]
        + [(0, 255, round(255 * k / 7)) for k in range(7)]
        + [(0, green, 255) for green in (255, 227, 198, 170, 142, 113, 85, 56, 28, 0)]
        + [*[(32 * k, 0, 255) for k in range(1, 8)], (255, 0, 255)]
        + [*[(255, 32 * k, 255) for k in range(1, 8)], (255, 255, 255)]
        + [(255, 256 - 32 * k, 256 - 32 * k) for k in range(1, 8)],
        dtype=np.uint8,
    ),
    "Default",
)


def nearest(colours: Bytes, palette: Palette) -> Bytes:
    """The index (n,) of the colour of a palette that is nearest to each (n, 3)."""
    far = colours[:, None].astype(np.int64) - palette.colours[None].astype(np.int64)
    return np.asarray(np.sum(far**2, axis=2).argmin(axis=1).astype(np.uint8))


def in_format(reel: Reel, wanted: Format) -> tuple[Reel, list[str]]:
    """The same frames in one format, and what of them that loses. Indexed ones go by the default palette."""
    lost: list[str] = []
    flat = [one for one in reel.frames if wanted not in DEEP and bool(np.any(one.points[:, 2]))]
    if flat:
        lost.append(f"{len(flat)} frames have a depth, which format {wanted} does not keep.")
    made: list[Frame] = []
    other = 0
    for frame, rgb in reel.coloured:
        points = frame.points if wanted in DEEP else np.concatenate(
            [frame.points[:, :2], np.zeros((len(frame), 1), dtype=np.int16)], axis=1
        )  # fmt: skip
        if wanted in INDEXED:
            indices = nearest(rgb, DEFAULT)
            other += int(np.any(DEFAULT.colours[indices] != rgb))
            made.append(replace(frame, points=points, format=wanted, rgb=None, indices=indices))
        else:
            made.append(replace(frame, points=points, format=wanted, rgb=rgb, indices=None))
    if other:
        lost.append(f"{other} frames have colours that the default palette does not: the nearest are taken.")
    return Reel(tuple(made)), lost
