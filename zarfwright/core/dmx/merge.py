"""What several sources of one universe come to: highest priority wins, equal priority the highest level (HTP)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def merge(levels: NDArray[np.uint8], priorities: NDArray[np.int16], out: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Merge sources of shape (universes, sources, 512), with priorities (universes, sources), into (universes, 512).

    A priority of -1 means no source there. A universe without any keeps what `out` holds (hold). Returns (universes,)
    booleans: which had a source.
    """
    top = priorities.max(axis=1)
    alive: NDArray[np.bool_] = top >= 0
    speaks = (priorities == top[:, None]) & alive[:, None]
    merged = np.max(levels * speaks[:, :, None], axis=1)
    out[alive] = merged[alive]
    return alive
