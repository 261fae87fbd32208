"""The line checked fixture by fixture: what is expected of each, what came, and what to make of it.

Three things are looked at, of what consoles send alone: intensity (it has been dark, and bright), colour (it has moved
in CIE 1931 x, y), position (pan or tilt has moved). Nothing here knows where levels come from, or what time it is.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal, get_args

import numpy as np

from zarfwright.core.aiming.colour import xy_of_rgb
from zarfwright.core.aiming.coloured import driven
from zarfwright.core.compiled import compiled
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.features import EMITTERS, INDEX
from zarfwright.core.dmx.rows import SLOTS, PatchRow, fixture_of
from zarfwright.core.doctor.facts import Cause
from zarfwright.core.patch import patch_rows
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.space import Floats

Function = Literal["intensity", "colour", "position"]
FUNCTIONS: tuple[Function, ...] = get_args(Function)
State = Literal["waits", "answered", "silent", "skipped"]
DARK, BRIGHT, COLOURED, TURNED_DEG = 0.15, 0.7, 0.03, 8.0
"""How much is enough: shares of full, a distance in x, y, degrees."""
BRIGHTNESS = ("dimmer", "master dimmer", "shutter")
COLOURS = ("cyan", "magenta", "yellow", *EMITTERS, "colour slot")
Held = Mapping[str, float]


@dataclass(frozen=True)
class Step:
    """One thing to see of one fixture."""

    fixture: str
    number: int
    function: Function

    @property
    def expects(self) -> str:
        what = {
            "intensity": "take it dark, then to full",
            "colour": "give it one colour, then another",
            "position": "pan or tilt it by a good piece",
        }[self.function]
        return f"Fixture {self.number}: {what}."


def steps_of(show: Show, ids: Iterable[str] = ()) -> list[Step]:
    """What is to be seen of these fixtures, or of all, in the order of their numbers: of those that have a number and
    an address, as far as their mode can do it."""
    wanted = set(ids)
    found = []
    for item, fixture in show.lamps():
        kind = show.types.get(fixture.type)
        if kind is None or fixture.number is None or fixture.address is None or (wanted and item.id not in wanted):
            continue
        can = driven(kind, fixture.mode)
        found += [Step(item.id, fixture.number, one) for one in FUNCTIONS if _can(one, can)]
    return sorted(found, key=lambda step: (step.number, step.fixture, FUNCTIONS.index(step.function)))


def _can(function: Function, can: frozenset[str] | set[str]) -> bool:
    if function == "position":
        return bool({"pan", "tilt"} & can)
    if function == "colour":
        return bool(set(COLOURS) & can)
    return bool({"dimmer", "master dimmer", *EMITTERS} & can)


@dataclass(frozen=True)
class Seen:
    """What a fixture does by levels: a share of full, x and y of its colour, pan and tilt in degrees."""

    level: float
    x: float
    y: float
    pan_deg: float
    tilt_deg: float


class Line:
    """The rig as it is driven by levels alone. Working arrays are kept: one thread at a time."""

    def __init__(self, rows: Sequence[PatchRow]) -> None:
        made = compiled(rows)
        self.rig, self.beams = made.rig, made.beams
        self._decoder = Decoder(made.rig)
        self._first: dict[str, int] = {}
        for row, key in enumerate(made.rig.keys):
            self._first.setdefault(fixture_of(key), row)
        self.coloured = {row.fixture for row in rows if set(EMITTERS) & driven(row.type, row.mode)}

    def look(self, levels: Mapping[int, bytes]) -> dict[str, Seen]:
        """What every fixture does, by its id; of several cells the first. Universes that are not there are at 0."""
        slots = np.zeros((max(len(self.rig.universes), 1), SLOTS), dtype=np.uint8)
        for n, universe in enumerate(self.rig.universes):
            held = levels.get(int(universe))
            if held:
                slots[n, : len(held)] = np.frombuffer(held, dtype=np.uint8)[:SLOTS]
        features = self._decoder.decode(slots)
        rgb = self.beams.colour(features)
        return {fixture: self._seen(fixture, features[row], rgb[row]) for fixture, row in self._first.items()}

    def _seen(self, fixture: str, row: Floats, rgb: Floats) -> Seen:
        level = float(np.prod([row[INDEX[name]] for name in BRIGHTNESS]))
        if fixture in self.coloured:
            # Its light is its colours: without them it is dark, wherever its dimmer is.
            level *= float(min(max(row[INDEX[name]] for name in EMITTERS), 1.0))
        lit = float(np.abs(rgb).sum()) > 1e-9
        x, y = xy_of_rgb(np.asarray(rgb, dtype=float)) if lit else (0.0, 0.0)
        pan, tilt = (float(np.degrees(row[INDEX[name]])) for name in ("pan", "tilt"))
        return Seen(min(max(level, 0.0), 1.0), float(x), float(y), pan, tilt)


def line_of(show: Show) -> Line:
    """The line of a show's rig."""
    return Line(patch_rows(show))


@dataclass(frozen=True)
class Watch:
    """What has been seen of a fixture since it was looked at."""

    dark: bool = False
    bright: bool = False
    first: Seen | None = None
    last: Seen | None = None
    coloured: float = 0.0
    turned_deg: float = 0.0

    def seeing(self, seen: Seen) -> Watch:
        """With one more look. A colour that is not lit is none."""
        first = self.first or seen
        if first.x == first.y == 0.0:
            first = replace(first, x=seen.x, y=seen.y)
        coloured = float(np.hypot(seen.x - first.x, seen.y - first.y)) if seen.x or seen.y else 0.0
        turned = max(abs(seen.pan_deg - first.pan_deg), abs(seen.tilt_deg - first.tilt_deg))
        return Watch(
            self.dark or seen.level <= DARK, self.bright or seen.level >= BRIGHT, first, seen,
            max(self.coloured, coloured), max(self.turned_deg, turned),
        )  # fmt: skip

    def answers(self, function: Function) -> bool:
        """Whether it has done what was asked for."""
        if function == "intensity":
            return self.dark and self.bright
        if function == "colour":
            return self.coloured >= COLOURED
        return self.turned_deg >= TURNED_DEG

    def came(self, function: Function) -> str:
        """What came so far, in words."""
        if self.last is None:
            return "nothing yet"
        now = self.last
        if function == "intensity":
            was = "it has been dark" if self.dark else "it has not been dark yet"
            return f"at {now.level * 100:.0f} %; {was}"
        if function == "colour":
            return f"x {now.x:.3f}, y {now.y:.3f}; moved by {self.coloured:.3f}"
        return f"pan {now.pan_deg:.1f}°, tilt {now.tilt_deg:.1f}°; moved by {self.turned_deg:.1f}°"


@dataclass(frozen=True)
class Told:
    """How one step ended."""

    step: Step
    state: State = "waits"
    came: str = ""
    cause: str = ""


@dataclass(frozen=True)
class Check:
    """A check under way: its steps with how each ended, and where it is."""

    told: tuple[Told, ...] = ()
    at: int = 0
    watches: Mapping[str, Watch] = field(default_factory=dict)
    """Since this step began; in a check of all at once, since that began."""

    @property
    def step(self) -> Step | None:
        """The step that it is at; None: it is through."""
        return self.told[self.at].step if self.at < len(self.told) else None

    def seeing(self, seen: Mapping[str, Seen]) -> Check:
        """With one more look at the line."""
        watches = {key: self.watches.get(key, Watch()).seeing(one) for key, one in seen.items()}
        return replace(self, watches=watches)

    def ended(self, state: State, cause: str = "") -> Check:
        """The step that it is at is over, and the next one begins."""
        step = self.step
        if step is None:
            return self
        watch = self.watches.get(step.fixture, Watch())
        over = Told(step, state, watch.came(step.function), cause)
        told = (*self.told[: self.at], over, *self.told[self.at + 1 :])
        return replace(self, told=told, at=self.at + 1, watches={})

    def answered(self) -> bool:
        """Whether the step that it is at has come."""
        step = self.step
        return step is not None and self.watches.get(step.fixture, Watch()).answers(step.function)

    def all_that_came(self) -> Check:
        """In a check of all at once: every step that has come is over."""
        told = tuple(
            replace(one, state="answered", came=watch.came(one.step.function))
            if one.state == "waits"
            and (watch := self.watches.get(one.step.fixture)) is not None
            and watch.answers(one.step.function)
            else one
            for one in self.told
        )
        return replace(self, told=told)

    def rest_silent(self, why: Callable[[Check], str]) -> Check:
        """In a check of all at once: whoever has not answered by now does not. `why` gives the cause of the step that a
        check is at."""
        told = []
        for at, one in enumerate(self.told):
            if one.state == "waits":
                here = replace(self, at=at)
                told.append(here.ended("silent", why(here)).told[at])
            else:
                told.append(one)
        return replace(self, told=tuple(told), at=len(told))

    def instead(self) -> tuple[str, ...]:
        """Who else did what this step asks for: the ids of other fixtures."""
        step = self.step
        if step is None:
            return ()
        return tuple(k for k, one in self.watches.items() if k != step.fixture and one.answers(step.function))

    def count(self, state: State) -> int:
        return sum(one.state == state for one in self.told)


def cause_of(show: Show, check: Check, live: Iterable[int], moved: bool, together: bool = False) -> str:
    """Why the step that a check is at has not come, as far as that can be told from levels. `live`: the universes that
    are heard; `moved`: whether any of its fixture's slots has; `together`: others are to answer at the same time."""
    step = check.step
    if step is None:
        return ""
    fixture = show.body(step.fixture, Fixture)
    universe, address = fixture.universe, fixture.address
    if universe not in set(live):
        return f"Nothing is heard on universe {universe}: is it put out, and does a connection land it there?"
    others = [show.body(key, Fixture).number for key in check.instead()] if not together else []
    named = [str(number) for number in others if number is not None]
    if 0 < len(named) <= 3:
        who = " and ".join(named)
        return f"Fixture {who} did it instead: they are patched or numbered otherwise on the console."
    if not moved:
        return (
            f"Its slots from {universe}.{address:03d} on have not moved: on the console it is parked, held by a "
            "master, or patched elsewhere."
        )
    return "Its slots moved, but it did not do that: see whether the console has it in the same mode."


def with_causes(show: Show, check: Check, causes: Sequence[Cause]) -> Check:
    """The check with what the doctor found: of a fixture itself, else of its universe."""

    def told(one: Told) -> Told:
        item = show.items.get(one.step.fixture)
        if one.state != "silent" or item is None or not isinstance(item.body, Fixture):
            return one
        own = [cause for cause in causes if one.step.fixture in cause.fixtures]
        near = [c for c in causes if not c.fixtures and c.universe is not None and c.universe == item.body.universe]
        found = next(iter(own + near), None)
        return replace(one, cause=f"{one.cause} The doctor: {found.evidence} {found.action}") if found else one

    return replace(check, told=tuple(told(one) for one in check.told))


def asked_values(can: frozenset[str] | set[str], function: Function) -> tuple[Held, Held]:
    """What to send for a step: first this, then that, by feature."""
    if function == "position":
        return {"pan": 0.0, "tilt": 0.0}, {"pan": np.radians(25.0), "tilt": np.radians(25.0)}
    if function == "colour":
        return _colours(can)
    lights = [name for name in EMITTERS if name in can]
    dimmers = [name for name in ("dimmer",) if name in can]
    full = {**dict.fromkeys(lights, 1.0), **dict.fromkeys(dimmers, 1.0)}
    if "shutter" in can:
        full["shutter"] = 1.0
    dark = dict.fromkeys(dimmers or lights, 0.0)
    return dark, full


def _colours(can: frozenset[str] | set[str]) -> tuple[Held, Held]:
    lights = [name for name in EMITTERS if name in can]
    if len(lights) > 1:
        none = dict.fromkeys(lights, 0.0)
        return {**none, lights[0]: 1.0}, {**none, lights[1]: 1.0}
    mixing = [name for name in ("cyan", "magenta", "yellow") if name in can]
    if mixing:
        none = dict.fromkeys(mixing, 0.0)
        return none, {**none, mixing[-1]: 1.0}
    return {"colour slot": 1.0}, {"colour slot": 2.0}


def failures(check: Check) -> dict[str, str]:
    """Who has not answered, in words, by fixture."""
    found: dict[str, list[Told]] = {}
    for one in check.told:
        if one.state == "silent":
            found.setdefault(one.step.fixture, []).append(one)
    return {
        key: f"{', '.join(one.step.function for one in several)}. {several[0].cause}".strip()
        for key, several in found.items()
    }
