"""Causes that lie with who sends: priorities, sources at odds, streams that end, stutter or come apart."""

from __future__ import annotations

from itertools import combinations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d, minimum_filter1d

from zarfwright.core.doctor.facts import Cause, Facts, SourceSeen, Track, counted
from zarfwright.core.doctor.rig import Patched, universes_of

STEP_S = 1 / 20
LAG_S = 0.5
"""A backup may be so far behind."""
AT_ODDS_S = 2.0
SLOTS_AT_ODDS = 3
FLAPS = 3
SLOW_HZ = 12.0
IDLE_HZ = 1.5
"""What does not change is repeated about once a second: that is not slow."""
SILENT_MOST_S = 1.3
MISSED_MOST = 0.05
CROSSED_LEAST, CROSSED_SHARE = 20, 0.25
"""Packets that cannot follow the one before: of two that send by turns about half of all."""


def _named(source: SourceSeen) -> str:
    return f"{source.name} ({source.address}, priority {source.priority})"


def _times(facts: Facts) -> NDArray[np.float64]:
    return np.arange(0.0, max(facts.seconds, STEP_S), STEP_S)


def _differ(one: Track, other: Track, times: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Where two tracks differ beyond a lag, (m, 512): what each says is beside all that the other comes through within
    half a second."""
    a, b = one.sampled(times), other.sampled(times)
    span = 2 * round(LAG_S / STEP_S) + 1
    differ = (a < minimum_filter1d(b, span, axis=0)) | (a > maximum_filter1d(b, span, axis=0))
    differ &= (b < minimum_filter1d(a, span, axis=0)) | (b > maximum_filter1d(a, span, axis=0))
    both = times >= max(one.times[0], other.times[0])
    return np.asarray(differ & both[:, None])


def _contests(facts: Facts, of_one_priority: bool) -> list[tuple[int, SourceSeen, Track, SourceSeen, Track]]:
    return [
        (universe, *first, *second)
        for universe, sources in facts.by_source.items()
        for first, second in combinations(sources, 2)
        if not (first[0].by_slot or second[0].by_slot) and (first[0].priority == second[0].priority) is of_one_priority
    ]


def _long(differ: NDArray[np.bool_]) -> int:
    """How many slots differ for long enough."""
    return int((differ.sum(axis=0) * STEP_S >= AT_ODDS_S).sum())


def priority_fight(facts: Facts, _: list[Patched]) -> list[Cause]:
    """One source is outvoted by another's priority, and says something else."""
    times, found = _times(facts), []
    for universe, one, first, other, second in _contests(facts, of_one_priority=False):
        (high, winner), (low, loser) = sorted(((one, first), (other, second)), key=lambda pair: -pair[0].priority)
        louder = loser.sampled(times) > winner.sampled(times)
        slots = _long(_differ(winner, loser, times) & louder)
        if slots:
            evidence = (
                f"{_named(high)} outvotes {_named(low)} on universe {universe}: {slots} slots that the second lifts "
                "are not shown."
            )
            action = f"Give both one priority, or stop {high.name}."
            found.append(Cause("priority_fight", evidence, action, universe=universe))
    return found


def sources_at_odds(facts: Facts, _: list[Patched]) -> list[Cause]:
    """Two sources of one priority say different things of the same slots."""
    times, found = _times(facts), []
    for universe, one, first, other, second in _contests(facts, of_one_priority=True):
        both = (first.sampled(times) > 0) & (second.sampled(times) > 0)
        slots = _long(_differ(first, second, times) & both)
        if slots >= SLOTS_AT_ODDS:
            evidence = (
                f"{_named(one)} and {_named(other)} both send universe {universe} and differ on {slots} slots: the "
                "higher level of each is shown."
            )
            action = f"Stop one of them on universe {universe}, or give the one that leads a higher priority."
            found.append(Cause("sources_at_odds", evidence, action, universe=universe))
    return found + _under_one_name(facts)


def _under_one_name(facts: Facts) -> list[Cause]:
    """Two programs send as one and the same source: they cannot be merged, and the picture goes to and fro."""
    found: dict[tuple[str, str, str], list[SourceSeen]] = {}
    for source in facts.sources:
        if source.lands and source.crossed > max(CROSSED_LEAST, CROSSED_SHARE * source.packets):
            found.setdefault((source.name, source.address, source.protocol), []).append(source)
    causes = []
    for (name, address, protocol), sources in found.items():
        universes = {universe for source in sources for universe in source.lands}
        crossed, packets = sum(one.crossed for one in sources), sum(one.packets for one in sources)
        evidence = (
            f"Two programs seem to send {counted(universes)} as {name} ({address}): {crossed} of {packets} packets "
            "cannot follow the one before, and the picture goes to and fro."
        )
        own = "a component id" if protocol == "sACN" else "an address"
        action = f"Stop one of them (a recording that is sent again, a copy of a show), or give it {own} of its own."
        causes.append(Cause("sources_at_odds", evidence, action, universe=min(universes)))
    return causes


def source_ended(facts: Facts, rig: list[Patched]) -> list[Cause]:
    """The last source of a patched universe went: its levels are held."""
    shown, wanted, flapping = facts.landing(), universes_of(rig), _flapping(facts)
    by_source: dict[tuple[str, str], set[int]] = {}
    for gone in facts.gone:
        if gone.universe in wanted and gone.universe not in shown and gone.universe not in flapping:
            by_source.setdefault((gone.name, gone.why), set()).add(gone.universe)
    found = []
    for (name, why), universes in by_source.items():
        how = "said that it ends" if why == "ended" else "fell silent without a word"
        ago = min(gone.ago_s for gone in facts.gone if gone.universe in universes)
        evidence = f"{name} {how} on {counted(universes)}, {ago:.0f} s ago. The last levels are held."
        action = f"Start {name} again." if why == "ended" else f"Look at the network of {name}: its cable, its switch."
        found.append(Cause("source_ended", evidence, action, universe=min(universes)))
    return found


def _flapping(facts: Facts) -> set[int]:
    return {universe for universe, begins in facts.begins.items() if begins >= FLAPS}


def source_flapping(facts: Facts, _: list[Patched]) -> list[Cause]:
    """A source comes and goes."""
    found = []
    for universe in sorted(_flapping(facts)):
        names = {source.name for source in facts.landing().get(universe, [])}
        names |= {gone.name for gone in facts.gone if gone.universe == universe}
        who = ", ".join(sorted(names)) or "A source"
        evidence = f"{who} began {facts.begins[universe]} times on universe {universe} in {facts.seconds:g} s."
        action = "Look for a loose cable or a switch that restarts; on wireless, send by wire."
        found.append(Cause("source_flapping", evidence, action, universe=universe))
    return found


def _fades(track: Track | None) -> bool:
    """Whether levels run one way through several changes: something fades."""
    if track is None or len(track.times) < 6:
        return False
    levels = track.levels.astype(np.int16)
    steps = levels[1:] - levels[:-1]
    soon = np.diff(track.times) < 1.0
    runs = (steps[:-2] * steps[1:-1] > 0) & (steps[1:-1] * steps[2:] > 0)
    return int((runs.any(axis=1) & soon[2:]).sum()) >= 3


def slow(facts: Facts, _: list[Patched]) -> list[Cause]:
    """A stream too slow for what it shows, that stutters, or loses packets."""
    found: dict[str, tuple[str, set[int]]] = {}
    for universe, sources in facts.landing().items():
        for source in sources:
            regular = source.jitter_s * source.rate_hz < 0.3
            steady = IDLE_HZ < source.rate_hz < SLOW_HZ and regular and source.packets > 5
            fading = 0 < source.rate_hz < SLOW_HZ and _fades(_track_of(facts, universe, source))
            missed = source.missed > max(MISSED_MOST * source.packets, 3)
            if steady or fading:
                said = f"{source.rate_hz:.1f} packets a second, where consoles send 25 to 44"
            elif missed:
                said = f"{source.missed} of {source.missed + source.packets} packets never came"
            elif source.longest_s > SILENT_MOST_S and source.rate_hz > 0:
                said = f"a gap of {source.longest_s:.1f} s between packets"
            else:
                continue
            found.setdefault(source.name, (said, set()))[1].add(universe)
    action = "Raise its rate, take its stream off wireless, or look for a network that is overfull."
    return [
        Cause("slow", f"{name} on {counted(universes)}: {said}.", action, universe=min(universes))
        for name, (said, universes) in found.items()
    ]


def _track_of(facts: Facts, universe: int, source: SourceSeen) -> Track | None:
    for one, track in facts.by_source.get(universe, ()):
        if one == source:
            return track
    return facts.tracks.get(universe)


def kernel_drops(facts: Facts, _: list[Patched]) -> list[Cause]:
    """This machine was too busy to read packets."""
    if not facts.kernel_drops:
        return []
    evidence = f"{facts.kernel_drops} packets were lost in this machine before they could be read."
    return [Cause("kernel_drops", evidence, "Close what else keeps this machine busy, or hear fewer universes.")]
