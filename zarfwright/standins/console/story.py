"""The cue list of "The Lamplighter's Tide": fourteen cues in three scenes, for whatever rig the console was given.

The console sorts its fixtures into groups by the channels they have, and spreads a cue's values over a group by each
fixture's place in the rig from stage right to stage left.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from zarfwright.standins.console.cues import Cue, Key
from zarfwright.standins.console.patch import Channel, Fixture

Values = dict[str, float]
Colour = tuple[float, float, float]

SEA: Colour = (0.1, 0.45, 1.0)
MOON: Colour = (0.4, 0.6, 1.0)
EMBER: Colour = (1.0, 0.4, 0.1)
LAMP: Colour = (1.0, 0.62, 0.22)
KELP: Colour = (0.15, 0.9, 0.5)
HEATHER: Colour = (1.0, 0.2, 0.4)


@dataclass(frozen=True)
class State:
    """What a group does in a cue: a level, a colour from stage right to stage left, and angles in degrees; `fan` is
    how far pan spreads over the group and `open` how far tilt does."""

    level: float
    colour: Colour = LAMP
    till: Colour | None = None
    pan: float = 0.0
    fan: float = 0.0
    tilt: float = 0.0
    open: float = 0.0

    def values(self, share: float) -> Values:
        """Physical values by attribute for a place in the group: 0 is furthest stage right, 1 furthest stage left."""
        far = self.till or self.colour
        red, green, blue = (a + share * (b - a) for a, b in zip(self.colour, far, strict=True))
        add = {"ColorAdd_R": red, "ColorAdd_G": green, "ColorAdd_B": blue, "ColorAdd_W": 0.3 * min(red, green, blue)}
        sub = {"ColorSub_C": 1 - red, "ColorSub_M": 1 - green, "ColorSub_Y": 1 - blue}
        turned = {"Pan": self.pan + self.fan * (share - 0.5), "Tilt": self.tilt + self.open * (share - 0.5)}
        return {"Dimmer": self.level, **turned, **add, **sub}


@dataclass(frozen=True)
class Scene:
    """A state for each group that is not dark, a fade time, and a slow movement of the heads."""

    number: int
    name: str
    fade_s: float
    states: Mapping[str, State] = field(default_factory=dict)
    sway_deg: float = 0.0
    sway_s: float = 8.0

    def cue(self, rig: Sequence[Fixture], shares: Mapping[str, float]) -> Cue:
        """The cue that it is for a rig."""
        values: dict[Key, float] = {}
        for fixture in rig:
            goal = self.states.get(group_of(fixture), State(0.0)).values(shares[fixture.key])
            for channel in fixture.mode.channels:
                if channel.attribute in goal:
                    values[fixture.key, channel.name] = goal[channel.attribute]
                elif channel.attribute in MOVES:
                    values[fixture.key, channel.name] = self.moved(fixture, channel)
        return Cue(self.number, self.name, self.fade_s, values=values, sway_deg=self.sway_deg, sway_s=self.sway_s)

    def moved(self, fixture: Fixture, channel: Channel) -> float:
        """Where something that moves is in it: up and turned by the flood, the fly bars out when all lamps are on."""
        high, home = channel.functions[-1].high, channel.functions[-1].physical(channel.default)
        if fixture.type.startswith("Fly"):
            return high if self.name == "Flood: all lamps" else home
        if not self.name.startswith("Flood"):
            return home
        return high if channel.attribute == "XYZ_Z" else min(high, 90.0)


MOVES = ("XYZ_Z", "Rot_Z")
"""What lifts and turns other things."""


def group_of(fixture: Fixture) -> str:
    """ "profile", "wash", "beam", "batten", "moving" or "dimmer", by what it can do."""
    has = {channel.attribute for channel in fixture.mode.channels}
    if any(name.startswith(("XYZ_", "Rot_", "Scale_", "Spin")) for name in has):
        return "moving"
    if "Pan" in has:
        return "profile" if "ColorSub_C" in has else "wash" if "ColorAdd_R" in has else "beam"
    return "batten" if "ColorAdd_R" in has else "dimmer"


def groups_of(rig: Sequence[Fixture]) -> dict[str, list[str]]:
    """The keys of each group, from stage right to stage left."""
    groups: dict[str, list[Fixture]] = {}
    for fixture in rig:
        groups.setdefault(group_of(fixture), []).append(fixture)
    return {name: [one.key for one in sorted(found, key=lambda one: (one.x, one.y))] for name, found in groups.items()}


def shares_of(rig: Sequence[Fixture]) -> dict[str, float]:
    """Where each is in its group: 0 furthest stage right, 1 furthest stage left."""
    return {
        key: place / max(len(keys) - 1, 1) for keys in groups_of(rig).values() for place, key in enumerate(keys)
    }  # fmt: skip


def cue_list(rig: Sequence[Fixture]) -> list[Cue]:
    """The cues in order, named and timed as the demo show's looks are."""
    shares = shares_of(rig)
    return [scene.cue(rig, shares) for scene in scenes()]


_WATER = State(0.35, SEA, MOON, tilt=0.0, open=-44.0)
_DECK = State(1.0, LAMP, KELP, fan=50.0, tilt=28.0)
_WARM = State(0.8, LAMP, HEATHER, fan=40.0, tilt=24.0)
_FLOOD = {"profile": _DECK, "wash": _WARM, "batten": State(0.9, EMBER, SEA), "dimmer": State(0.35)}
_RAYS = State(0.8, fan=90.0, tilt=62.0)
_TELLER = State(0.5, LAMP, fan=-20.0, tilt=-26.0)
_GLOW = State(0.2, EMBER)


def scenes() -> list[Scene]:
    """The scenes in order."""
    return [
        Scene(1, "Slack Water: dark", 1.0, {"profile": State(0.2, SEA, open=-30.0)}),
        Scene(2, "Slack Water: the water moves", 2.0, {"profile": _WATER, "batten": State(0.5, SEA)}, 6.0, 12.0),
        Scene(3, "Slack Water: first lamp", 3.0, {"profile": _TELLER, "batten": State(0.4, SEA)}),
        Scene(4, "Slack Water: the choir is there", 5.0, {"profile": _WATER, "dimmer": State(0.3), "batten": _GLOW}),
        Scene(5, "Slack Water: lantern", 4.0, {"profile": _WATER, "wash": State(0.6, LAMP, tilt=6.0)}, 4.0, 14.0),
        Scene(6, "Flood: the tide turns", 4.0, {**_FLOOD, "profile": State(0.6, SEA, KELP, fan=50.0)}, 14.0),
        Scene(7, "Flood: the whole deck", 2.0, {**_FLOOD, "beam": _RAYS}, 14.0),
        Scene(8, "Flood: brass", 1.0, {**_FLOOD, "profile": State(1.0, LAMP, pan=30.0, fan=10.0, tilt=30.0)}),
        Scene(
            9,
            "Flood: all lamps",
            0.5,
            {**_FLOOD, "beam": State(1.0, fan=140.0, tilt=50.0), "dimmer": State(0.8)},
            24.0,
            6.0,
        ),
        Scene(10, "Flood: the crowd", 3.0, {**_FLOOD, "wash": State(0.8, LAMP, HEATHER, fan=60.0, tilt=-50.0)}, 10.0),
        Scene(
            11,
            "Ebb: it runs out",
            6.0,
            {"profile": State(0.4, SEA, open=30.0), "wash": State(0.3, MOON), "batten": _GLOW},
            4.0,
            14.0,
        ),
        Scene(12, "Ebb: one place", 4.0, {"profile": _TELLER, "batten": _GLOW}),
        Scene(
            13,
            "Ebb: the shingle",
            4.0,
            {"profile": State(0.4, LAMP, tilt=12.0), "dimmer": State(0.15), "batten": _GLOW},
        ),
        Scene(14, "Ebb: last lamp", 6.0, {"wash": State(0.15, LAMP), "batten": State(0.06, SEA)}),
    ]
