"""Causes that lie in the levels: all zero, everything scaled, and light that something in the fixture keeps in."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.features import EMITTERS, INDEX
from zarfwright.core.doctor.facts import Cause, Facts, counted
from zarfwright.core.doctor.rig import Patched, few, universes_of
from zarfwright.core.patch import compiled_show
from zarfwright.core.show import Show
from zarfwright.core.space import Floats

STEP_S = 0.25
LIT_LEAST = 0.02
IRIS_SHUT = 0.12
"""Irises close to a tenth of their width and less: a hundredth of the light."""
LIT_LEAST_S = 2.0
MOSTLY = 0.95
ZERO_LEAST_S = 3.0
PEAKS_LEAST, PEAK_MOST, PEAK_APART = 5, 245, 2


def all_zero(facts: Facts, rig: list[Patched]) -> list[Cause]:
    """A patched universe is live, and every level of it has been zero all the time."""
    shown, wanted = facts.landing(), universes_of(rig)
    dark: dict[str, set[int]] = {}
    for universe in sorted(wanted & shown.keys()):
        track = facts.tracks.get(universe)
        long = track is not None and len(track.times) and facts.seconds - track.times[0] >= ZERO_LEAST_S
        if track is not None and long and not track.levels.any() and not any(s.waits for s in shown[universe]):
            dark.setdefault(", ".join(sorted({s.name for s in shown[universe]})), set()).add(universe)
    return [
        Cause(
            "all_zero",
            f"{name} sends {counted(universes)}, and all its 512 levels have been 0 for {facts.seconds:g} s.",
            "Look at the grand master and blackout of the console, and whether fixtures are patched there.",
            universe=min(universes),
        )
        for name, universes in dark.items()
    ]


@dataclass(frozen=True, eq=False)
class Decoded:
    """Features of beams over time: (m, n, COUNT), and whose each beam is."""

    values: Floats
    fixtures: tuple[str, ...]
    heard: NDArray[np.bool_]
    """(n,) which beams' universe was heard."""


def decoded(facts: Facts, show: Show) -> Decoded | None:
    """What the patch makes of what was heard, four times a second; None where nothing was heard."""
    rig = compiled_show(show).rig
    if not facts.tracks or not rig.fixtures:
        return None
    times = np.arange(0.0, max(facts.seconds, STEP_S), STEP_S)
    levels = np.zeros((len(times), len(rig.universes), 512), dtype=np.uint8)
    known = np.zeros(len(rig.universes) + 1, dtype=bool)
    for i, universe in enumerate(rig.universes):
        track = facts.tracks.get(universe)
        if track is not None and len(track.times):
            levels[:, i], known[i] = track.sampled(times), True
    decoder = Decoder(rig)
    values = np.stack([decoder.decode(one).copy() for one in levels])
    return Decoded(values, rig.fixtures, known[rig.universe_of_row])


def _column(values: Floats, name: str) -> Floats:
    return np.asarray(values[:, :, INDEX[name]])


def lit_of(seen: Decoded) -> NDArray[np.bool_]:
    """(m, n) which beams have their intensity up by what was heard."""
    return (_column(seen.values, "dimmer") * _column(seen.values, "master dimmer") > LIT_LEAST) & seen.heard


def dark_where(
    seen: Decoded,
    shut: NDArray[np.bool_],
    rig: list[Patched],
    cause: str,
    evidence: Callable[[str], str],
    action: str,
) -> list[Cause]:
    """The fixtures that something keeps dark for most of the time that they are lit; `shut`: (m, n)."""
    lit = lit_of(seen)
    long = lit.sum(axis=0) * STEP_S >= LIT_LEAST_S
    closed = (lit & shut).sum(axis=0) >= MOSTLY * np.maximum(lit.sum(axis=0), 1)
    open_ones = {fixture for fixture, is_open in zip(seen.fixtures, ~closed & long, strict=True) if is_open}
    whose = {f for f, is_shut in zip(seen.fixtures, closed & long, strict=True) if is_shut} - open_ones
    ours = [one for one in rig if one.id in whose]
    if not ours:
        return []
    said = evidence(few([one.called for one in ours]).capitalize())
    return [Cause(cause, said, action, universe=ours[0].universe, fixtures=tuple(one.id for one in ours))]


def dark_shutter(seen: Decoded, rig: list[Patched]) -> list[Cause]:
    """Intensity up, shutter closed."""
    shut = (_column(seen.values, "shutter") < LIT_LEAST) & (_column(seen.values, "strobe") == 0)
    return dark_where(
        seen, shut, rig, "dark_shutter", lambda who: f"{who}: intensity is up and the shutter closed.",
        "Open the shutter on the console; or the type's file and the console differ in what opens it.",
    )  # fmt: skip


def dark_iris(seen: Decoded, rig: list[Patched]) -> list[Cause]:
    """Intensity up, iris shut."""
    shut = _column(seen.values, "iris") < IRIS_SHUT
    return dark_where(
        seen, shut, rig, "dark_iris", lambda who: f"{who}: intensity is up and the iris shut.",
        "Open the iris on the console; or the type's file and the console differ in which end is open.",
    )  # fmt: skip


def dark_colour(seen: Decoded, rig: list[Patched]) -> list[Cause]:
    """Intensity up, and no colour of light at all."""
    adds = np.stack([_column(seen.values, name) for name in EMITTERS]).max(axis=0) < LIT_LEAST
    subs = np.stack([_column(seen.values, name) for name in ("cyan", "magenta", "yellow")]).min(axis=0) > 1 - LIT_LEAST
    emits = _emitting(seen, rig)
    return dark_where(
        seen, (adds & emits) | subs, rig, "dark_colour",
        lambda who: f"{who}: intensity is up and every colour out.",
        "Bring a colour up on the console, or its filters out.",
    )  # fmt: skip


def _emitting(seen: Decoded, rig: list[Patched]) -> NDArray[np.bool_]:
    """(n,) which beams are mixed of emitters."""
    with_emitters = {one.id for one in rig if any(c.attribute.startswith("ColorAdd_") for c, _, _ in one.channels)}
    return np.array([fixture in with_emitters for fixture in seen.fixtures])


def scaled(facts: Facts, rig: list[Patched]) -> list[Cause]:
    """While the console steps through fixtures one by one, all of them peak at one level below full."""
    dimmers = [
        (one, universe, slots[0] - 1)
        for one in rig
        for channel, universe, slots in one.channels
        if channel.attribute == "Dimmer" and universe in facts.tracks
    ]
    times = np.arange(0.0, max(facts.seconds, 0.05), 0.05)
    if len(dimmers) < PEAKS_LEAST or len(times) < 2:
        return []
    sampled = {universe: track.sampled(times) for universe, track in facts.tracks.items()}
    levels = np.stack([sampled[universe][:, slot] for _, universe, slot in dimmers], axis=1)
    alone = (levels > 0) & ((levels > 0).sum(axis=1) == 1)[:, None]
    peaks = np.where(alone, levels, 0).max(axis=0)
    seen = peaks[peaks > 0]
    if len(seen) < PEAKS_LEAST or seen.max() > PEAK_MOST or np.ptp(seen) > PEAK_APART:
        return []
    evidence = f"{len(seen)} fixtures were brought up alone, and each stopped at {seen.max()} of 255."
    action = "Bring the grand master, or the master that they are under, to full."
    ours = [one for (one, _, _), peak in zip(dimmers, peaks, strict=True) if peak]
    return [Cause("scaled", evidence, action, fixtures=tuple(one.id for one in ours))]
