"""What several sources of one universe come to, slot by slot: highest priority, then highest level (numbers.md)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

SILENT = -1
"""The priority of a source that does not speak for a slot."""


def merge(
    levels: NDArray[np.uint8], priorities: NDArray[np.int16], held: NDArray[np.uint8]
) -> tuple[NDArray[np.uint8], NDArray[np.int16]]:
    """Merge sources: their levels (sources, 512) with a priority for each slot (sources, 512), SILENT for none.

    A slot that nobody speaks for keeps what is `held`, (512,). Returns the levels (512,), and which source wins each
    slot, (512,): the first of those that agree, SILENT for none.
    """
    top = priorities.max(axis=0)
    # Those that are outvoted go below every level; then the first of the highest wins.
    raised = np.where((priorities == top) & (top > SILENT), levels.astype(np.int16), SILENT)
    winner = raised.argmax(axis=0).astype(np.int16)
    merged = raised[winner, np.arange(levels.shape[1])]
    spoken = merged > SILENT
    return np.where(spoken, merged, held).astype(np.uint8), np.where(spoken, winner, SILENT).astype(np.int16)
