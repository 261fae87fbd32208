"""Causes that lie in the patch: slots shared by accident, and the two bytes of a channel the wrong way round."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.doctor.facts import Cause, Facts
from zarfwright.core.doctor.rig import Patched, few
from zarfwright.core.patch import overlaps
from zarfwright.core.show import Show

FRAMES_LEAST, SMOOTHER = 20, 8.0
FRAME_S = 1 / 40


def shared_slots(show: Show, rig: list[Patched]) -> list[Cause]:
    """Fixtures that share slots, but for those of one type and mode on just the same address: that is meant."""
    by_id = {one.id: one for one in rig}
    found = []
    for clash in overlaps(show):
        if clash.meant:
            continue
        names = [by_id[key].called if key in by_id else show.items[key].name for key in clash.fixtures]
        slots = f"slot {clash.first}" if clash.first == clash.last else f"slots {clash.first} to {clash.last}"
        evidence = f"{few(names).capitalize()} share {slots} of universe {clash.universe}."
        found.append(
            Cause("shared_slots", evidence, "Give one of them another address.", clash.universe, clash.fixtures)
        )
    return found


def fine_swapped(facts: Facts, rig: list[Patched]) -> list[Cause]:
    """Values of two bytes that move evenly only when the fine byte is read first."""
    times = np.arange(0.0, max(facts.seconds, FRAME_S), FRAME_S)
    sampled = {universe: track.sampled(times).astype(np.int64) for universe, track in facts.tracks.items()}
    swapped: list[tuple[Patched, str]] = []
    for one in rig:
        for channel, universe, slots in one.channels:
            if len(slots) < 2 or universe not in sampled:
                continue
            coarse, fine = sampled[universe][:, slots[0] - 1], sampled[universe][:, slots[1] - 1]
            if _smoother_reversed(coarse, fine):
                swapped.append((one, channel.attribute))
    if not swapped:
        return []
    ours = list(dict.fromkeys(one for one, _ in swapped))
    what = ", ".join(sorted({attribute for _, attribute in swapped}))
    evidence = (
        f"{few([one.called for one in ours]).capitalize()}: {what} move evenly only with coarse and fine swapped."
    )
    action = "Swap coarse and fine in the console's patch or in the type: the coarse byte comes first."
    return [Cause("fine_swapped", evidence, action, universe=ours[0].universe, fixtures=tuple(one.id for one in ours))]


def _smoother_reversed(coarse: NDArray[np.int64], fine: NDArray[np.int64]) -> bool:
    """Whether the value moves more evenly by far with its bytes the other way round: by second differences, over the
    frames in which it moves."""
    changes = (np.diff(coarse) != 0) | (np.diff(fine) != 0)
    if changes.sum() < FRAMES_LEAST or np.ptp(coarse) == 0 or np.ptp(fine) == 0:
        return False
    moving = np.concatenate(([True], changes))
    right, wrong = (256 * coarse + fine)[moving], (256 * fine + coarse)[moving]
    uneven = [float(np.abs(np.diff(value, n=2)).sum()) for value in (right, wrong)]
    return uneven[0] > SMOOTHER * max(uneven[1], 1.0)
