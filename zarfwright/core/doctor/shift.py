"""A patch that another mode, or an offset, has shifted against the console's: found from traffic alone.

How well the slots at a place suit the channels of a fixture is scored (`traits.py`); what the patch says is weighed
against fixtures in other modes and runs that lie elsewhere, with all that follows shifted along. Only what contradicts
the patch, by much and in both halves of the stretch, is said (findings.md, Doctor).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.rows import SLOTS
from zarfwright.core.doctor.facts import Cause, Facts, Levels
from zarfwright.core.doctor.rig import Patched, few
from zarfwright.core.doctor.traits import ROLES, still_frames, traits_of
from zarfwright.core.patch import Place
from zarfwright.core.show import Show
from zarfwright.core.types.model import Channel, Mode

FRAME_S = 1 / 40
LEAST_S = 8.0
SLOTS_LEAST = 8
SILENT, WORST = -6.0, -25.0
MODE_COST, TYPE_COST, OFFSET_COST = 9.0, 7.0, 10.5
GAIN_LEAST, HALF_LEAST = 14.0, 4.0
ALIKE = 0.2
OFFSETS = range(-64, 65)
FAULTS_MOST = 3
CHECK = "Check the mode on the console; or take it into the patch here."
COMPARE = "Compare the patch with the console's list; or take the shift into the patch here."
_ROLE_OF = {
    "Dimmer": "dimmer", "Shutter": "shutter", "Strobe": "shutter", "Pan": "position", "Tilt": "position",
    "Color": "colour", "CTO": "colour", "CTB": "colour", "CTC": "colour", "Gobo": "wheel", "Prism": "wheel",
    "Zoom": "beam", "Iris": "beam", "Focus": "beam", "Frost": "beam", "Blade": "beam", "Shaper": "beam",
}  # fmt: skip


def _roles(channel: Channel) -> list[int]:
    """The role of each of its bytes, by its place in ROLES."""
    if len(channel.slots) > 1:
        first = "dimmer coarse" if channel.attribute == "Dimmer" else "coarse"
        return [ROLES.index(first), *[ROLES.index("fine")] * (len(channel.slots) - 1)]
    wheel = channel.attribute in ("Color1", "Color2")
    role = next((role for start, role in _ROLE_OF.items() if channel.attribute.startswith(start)), "control")
    return [ROLES.index("wheel" if wheel else role)]


@dataclass(frozen=True, eq=False)
class _Form:
    """A mode as it is scored: the slots of its first break, from 0, with the role of each."""

    slots: NDArray[np.int64]
    roles: NDArray[np.int64]
    footprint: int


Forms = dict[tuple[str, str], _Form]
"""By type and mode."""


def _form(mode: Mode) -> _Form:
    first = next(iter(mode.footprints), 1)
    pairs = [
        (slot - 1, role)
        for channel in mode.channels
        if not channel.virtual and channel.dmx_break == first
        for slot, role in zip(channel.slots, _roles(channel), strict=True)
    ]
    slots, roles = zip(*pairs, strict=True) if pairs else ((), ())
    size = mode.footprints.get(first, 0)
    return _Form(np.array(slots, dtype=np.int64), np.array(roles, dtype=np.int64), size)


@dataclass(frozen=True)
class _Lies:
    """A fixture as it is thought to lie."""

    fixture: Patched
    mode: str
    address: int


Rig = tuple[_Lies, ...]


@dataclass(frozen=True)
class _Claim:
    """How fixtures lie if something is so: what it is, what it costs to say it, and whom it names."""

    cost: float
    lies: Rig
    named: tuple[str, ...]
    mode: str = ""
    by: int = 0
    """Where no mode is named: by how many slots they are shifted."""


@dataclass
class _Scorer:
    """Scores of fixtures at places over one stretch."""

    scores: dict[int, NDArray[np.float64]]
    """(512, roles) by universe."""
    lit: dict[int, NDArray[np.bool_]]
    forms: Forms
    _known: dict[tuple[str, str, int, int], float] = field(default_factory=dict)

    def of(self, one: _Lies) -> float:
        key = (one.fixture.type, one.mode, one.fixture.universe, one.address)
        if key not in self._known:
            self._known[key] = self._worked_out(one)
        return self._known[key]

    def _worked_out(self, one: _Lies) -> float:
        form = self.forms[one.fixture.type, one.mode]
        slots = form.slots + one.address - 1
        if not len(slots) or slots.min() < 0 or slots.max() >= SLOTS:
            return WORST
        if not self.lit[one.fixture.universe][slots].any():
            return SILENT
        return max(float(self.scores[one.fixture.universe][slots, form.roles].sum()), WORST)

    def gain(self, before: Rig, after: Rig) -> float:
        """How much better the second suits; like fixtures are not independent."""
        by_type: dict[str, list[float]] = {}
        for a, b in zip(before, after, strict=True):
            gain = self.of(b) - self.of(a) if a is not b else 0.0
            # One that is silent either way says nothing, nor does it make others less sure.
            if gain:
                by_type.setdefault(a.fixture.type, []).append(gain)
        return sum(sum(gains) / (1 + ALIKE * (len(gains) - 1)) for gains in by_type.values())


def _scorer(sampled: Mapping[int, Levels], forms: Forms) -> _Scorer:
    still = still_frames(sampled)
    scores = {universe: traits_of(levels, still).scores() for universe, levels in sampled.items()}
    lit = {universe: levels.max(axis=0) > 0 for universe, levels in sampled.items()}
    return _Scorer(scores, lit, forms)


def _moved(lies: Rig, start: int, by: int) -> Rig:
    """From the `start`-th fixture on, its universe is so many slots later."""
    universe = lies[start].fixture.universe
    return tuple(
        replace(one, address=one.address + by) if i >= start and one.fixture.universe == universe else one
        for i, one in enumerate(lies)
    )


def _in_mode(lies: Rig, forms: Forms, whom: set[str], mode: str, flow: bool) -> Rig:
    """Some are in another mode; with `flow` what follows on a universe makes room."""
    made, universe, by = [], 0, 0
    for one in lies:
        if one.fixture.universe != universe:
            universe, by = one.fixture.universe, 0
        after = replace(one, address=one.address + by) if by else one
        if one.fixture.id in whom:
            grows = forms[one.fixture.type, mode].footprint - forms[one.fixture.type, one.mode].footprint
            after, by = replace(after, mode=mode), by + (grows if flow else 0)
        made.append(after)
    return tuple(made)


def _claims(lies: Rig, forms: Forms, modes: Mapping[str, list[str]]) -> Iterator[_Claim]:
    """All that is weighed: types and single fixtures in other modes, runs that lie elsewhere."""
    for kind in dict.fromkeys(one.fixture.type for one in lies):
        for mode in modes[kind]:
            whom = [one.fixture.id for one in lies if one.fixture.type == kind and one.mode != mode]
            for flow in (True, False):
                if len(whom) > 1:
                    yield _Claim(TYPE_COST, _in_mode(lies, forms, set(whom), mode, flow), tuple(whom), mode)
                for key in whom:
                    yield _Claim(MODE_COST, _in_mode(lies, forms, {key}, mode, flow), (key,), mode)
    for i, one in enumerate(lies):
        if i and (lies[i - 1].fixture.universe, lies[i - 1].address) == (one.fixture.universe, one.address):
            continue
        for by in OFFSETS:
            if by:
                moved = _moved(lies, i, by)
                named = tuple(a.fixture.id for a, b in zip(lies, moved, strict=True) if a is not b)
                yield _Claim(OFFSET_COST, moved, named, by=by)


def _collisions(lies: Rig, forms: Forms) -> int:
    """How often fixtures lie over each other that are not on one address: no console patches so."""
    count, universe, start, end = 0, 0, 0, 0
    for one in lies:
        if one.fixture.universe != universe:
            universe, start, end = one.fixture.universe, 0, 0
        count += one.address < end and one.address != start
        start, end = one.address, max(end, one.address + forms[one.fixture.type, one.mode].footprint)
    return count


def _best(lies: Rig, whole: _Scorer, halves: list[_Scorer], claims: Iterator[_Claim]) -> _Claim | None:
    """The claim that explains most, if by enough and in both halves."""
    found, most = None, GAIN_LEAST
    collide = _collisions(lies, whole.forms)
    for claim in claims:
        gain = whole.gain(lies, claim.lies) - claim.cost
        if gain <= most or _collisions(claim.lies, whole.forms) > collide:
            continue
        if all(half.gain(lies, claim.lies) > HALF_LEAST for half in halves):
            found, most = claim, gain
    return found


def _against(lies: Rig, claim: _Claim, whole: _Scorer) -> list[_Lies]:
    """The fixtures that lie better as it is claimed."""
    return [a for a, b in zip(lies, claim.lies, strict=True) if a is not b and whole.of(b) > whole.of(a) + 1.0]


def _sampled(facts: Facts, universes: set[int]) -> dict[int, Levels]:
    times = np.arange(0.0, facts.seconds, FRAME_S)
    return {universe: facts.tracks[universe].sampled(times) for universe in universes}


def mode_shift(facts: Facts, show: Show, rig: list[Patched]) -> list[Cause]:
    """Fixtures that the console has in another mode, or elsewhere, than the patch."""
    here = [one for one in rig if one.universe in facts.tracks and len(facts.tracks[one.universe].times)]
    if facts.seconds < LEAST_S or not here:
        return []
    sampled = _sampled(facts, {one.universe for one in here})
    if sum(int((levels.max(axis=0) > levels.min(axis=0)).sum()) for levels in sampled.values()) < SLOTS_LEAST:
        return []
    modes = {one.type: [mode.name for mode in show.types[one.type].modes] for one in here}
    forms = {(kind, name): _form(show.types[kind].mode(name)) for kind, names in modes.items() for name in names}
    middle = round(facts.seconds / FRAME_S) // 2
    whole = _scorer(sampled, forms)
    halves = [
        _scorer({universe: levels[half] for universe, levels in sampled.items()}, forms)
        for half in (slice(None, middle), slice(middle, None))
    ]
    lies = tuple(_Lies(one, one.mode, one.address) for one in here)
    causes: list[Cause] = []
    while len(causes) < FAULTS_MOST:
        claim = _best(lies, whole, halves, _claims(lies, forms, modes))
        against = _against(lies, claim, whole) if claim is not None else []
        if claim is None or (not claim.mode and len(against) < 2):
            break
        causes.append(_cause(lies, claim, against, whole))
        lies = claim.lies
    return causes


def _taken(before: _Lies, after: _Lies) -> dict[str, object]:
    """What the edit `take patch` is told of one."""
    mode = {"mode": after.mode} if after.mode != before.mode else {}
    return {"id": after.fixture.id, "start": f"{after.fixture.universe}.{after.address}", **mode}


def _cause(lies: Rig, claim: _Claim, against: list[_Lies], whole: _Scorer) -> Cause:
    named = [one for one in lies if one.fixture.id in set(claim.named)]
    first = named[0]
    place = Place(first.fixture.universe, first.address)
    silent = sum(whole.of(one) == SILENT for one in lies)
    quiet = f"; {silent} silent" if silent else ""
    several = "one fixture" if len(against) == 1 else f"{len(against)} fixtures"
    seen = f"Seen on {several}, in both halves of the time{quiet}."
    if claim.mode:
        theirs = whole.forms[first.fixture.type, claim.mode].footprint
        ours = whole.forms[first.fixture.type, first.mode].footprint
        who = few([one.fixture.called for one in named]).capitalize()
        look = "looks" if len(named) == 1 else "look"
        evidence = f"{who} {look} like mode {claim.mode} ({theirs} slots), patched as {first.mode} ({ours})"
        evidence = f"{evidence}, from {place} on. {seen}"
    else:
        way = f"{abs(claim.by)} slots {'later' if claim.by > 0 else 'earlier'}"
        evidence = f"From {place} on everything arrives {way} than it is patched. {seen}"
    moved = [_taken(a, b) for a, b in zip(lies, claim.lies, strict=True) if a is not b]
    fits = all(whole.of(one) > WORST for one in claim.lies)
    return Cause(
        "mode_shift",
        evidence,
        CHECK if claim.mode else COMPARE,
        place.universe,
        tuple(one.fixture.id for one in named),
        f"Patch {len(moved)} fixtures so" if fits else "",
        "take patch" if fits else "",
        {"lines": moved} if fits else {},
    )
