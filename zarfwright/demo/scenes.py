"""The fourteen looks of "The Lamplighter's Tide": three scenes, each group of lamps with level, colour and where it
points."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from zarfwright.core.aiming.solve import aim
from zarfwright.core.carriers.posed import posed, poses_told
from zarfwright.core.dmx.features import FEATURES
from zarfwright.core.dmx.rows import beam_keys
from zarfwright.core.edits.rehanging import features_of
from zarfwright.core.patch import compiled_show
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.types.chain import chains_of
from zarfwright.demo.moving import BRIDGE_HOME_M, SAIL_HOME_M

Colour = tuple[float, float, float]
Values = dict[str, float]
SEA, MOON, EMBER, ROSE, GREEN, LAMP = (
    (0.0, 0.35, 1.0),
    (0.35, 0.5, 1.0),
    (1.0, 0.3, 0.06),
    (1.0, 0.12, 0.3),
    (0.05, 0.8, 0.35),
    (1.0, 0.62, 0.25),
)
WHEEL: Mapping[Colour, float] = {SEA: 5.0, MOON: 8.0, EMBER: 3.0, ROSE: 6.0, GREEN: 4.0}
"""The slot of the makers' colour wheels that is nearest to it."""


@dataclass(frozen=True)
class Part:
    """What a group does: level, colour, and a place (metres) or a row of them from the first to the last."""

    level: float
    colour: Colour = LAMP
    to: tuple[float, float, float] | None = None
    till: tuple[float, float, float] | None = None
    more: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Scene:
    """A look: what each group does, and where the carriers are: the bridge's and the sail's height in metres, the
    lantern's turn in degrees."""

    name: str
    note: str
    parts: Mapping[str, Part]
    bridge: float = 1.2
    sail: float = 7.1
    lantern: float = 0.0

    @property
    def fade_s(self) -> float:
        """How long it takes to come: as its note says, which the console's cue goes by as well."""
        return float(self.note.split(",")[1].split()[0])


DECK, DECK_END = (-4.5, 3.0, 1.1), (4.5, 3.0, 1.1)
TONGUE, TONGUE_END = (0.0, -0.5, 1.1), (0.0, -6.5, 1.1)
CHOIR, CHOIR_END = (-3.0, 5.5, 2.6), (3.0, 5.5, 2.6)
TELLER = (-0.4, -3.2, 2.4)
HOUSE, HOUSE_END = (-8.0, -12.0, 2.0), (8.0, -12.0, 2.0)
HIGH, HIGH_END = (-9.0, -20.0, 8.5), (9.0, -20.0, 8.5)
WATER = {"gobo 2 slot": 3.0, "gobo 2 spin": 0.18, "focus": 0.8, "zoom": 30.0}
RAYS = {"gobo 2 slot": 2.0, "gobo 2 spin": 0.25, "zoom": 22.0}
NARROW = {"zoom": 9.0}

_SLACK = {
    "patterns": Part(0.5, MOON, (-4.0, 1.5, 1.1), (4.0, 1.5, 1.1), WATER),
    "sail": Part(0.5, SEA),
    "lantern wash": Part(0.12, MOON, TONGUE, TONGUE_END),
}
_FLOOD = {
    "specials": Part(1.0, EMBER, DECK, DECK_END, {"zoom": 14.0}),
    "patterns": Part(0.9, SEA, HOUSE, HOUSE_END, RAYS),
    "wash": Part(0.9, ROSE, (3.0, 2.0, 1.1), (-3.0, 4.0, 1.1)),
    "sail": Part(0.9, EMBER),
    "choir": Part(0.35),
    "lantern wash": Part(0.7, LAMP, TONGUE, TONGUE_END),
}
_EBB = {"sail": Part(0.22, EMBER), "specials": Part(0.4, LAMP, TELLER, TELLER, NARROW)}

_LIT: tuple[Scene, ...] = (
    Scene(
        "Slack Water: dark",
        "Cue 1, 1 s. Before the lamps are lit.",
        {**_SLACK, "patterns": Part(0.25, MOON, (-4.0, 1.5, 1.1), (4.0, 1.5, 1.1), WATER)},
    ),
    Scene("Slack Water: the water moves", "Cue 2, 2 s. Moonlight on the deck.", _SLACK),
    Scene(
        "Slack Water: first lamp",
        "Cue 3, 3 s. One place on the tongue.",
        {**_SLACK, "specials": Part(0.6, LAMP, TELLER, TELLER, NARROW)},
    ),
    Scene(
        "Slack Water: the choir is there",
        "Cue 4, 5 s.",
        {**_SLACK, "choir": Part(0.3), "wash": Part(0.25, MOON, CHOIR, CHOIR_END)},
    ),
    Scene(
        "Slack Water: lantern",
        "Cue 5, 4 s. It is lit from inside.",
        {
            **_SLACK,
            "lantern wash": Part(0.6, LAMP, TONGUE, TONGUE_END),
            "lantern rays": Part(0.5, LAMP, (-4, -3.5, 0), (4, -3.5, 0)),
        },
    ),
    Scene(
        "Flood: the tide turns",
        "Cue 6, 4 s.",
        {**_FLOOD, "rays": Part(0.0), "patterns": Part(0.6, SEA, (-5.0, 1.0, 1.1), (5.0, 1.0, 1.1), WATER)},
    ),
    Scene(
        "Flood: the whole deck",
        "Cue 7, 2 s. Warm against green, rays over the house.",
        {
            **_FLOOD,
            "rays": Part(0.8, GREEN, HIGH, HIGH_END),
            "footlights": Part(0.7, GREEN, (-7, -6, 7), (7, -6, 7)),
        },
    ),
    Scene(
        "Flood: brass",
        "Cue 8, 1 s. Stage left alone.",
        {
            **_FLOOD,
            "specials": Part(1.0, LAMP, (3.2, 2.4, 1.6), (5.0, 3.6, 1.6), {"zoom": 12.0}),
            "rays": Part(0.5, EMBER, HOUSE, HOUSE_END),
        },
    ),
    Scene(
        "Flood: all lamps",
        "Cue 9, 0.5 s. As much as there is.",
        {
            **_FLOOD,
            "fronts": Part(0.7),
            "cross": Part(0.8),
            "rays": Part(1.0, LAMP, HIGH, HIGH_END),
            "footlights": Part(1.0, EMBER, (-8, -9, 8), (8, -9, 8)),
            "lantern rays": Part(0.9, GREEN, (-9, -9, 3), (9, -9, 3)),
            "mirrors": Part(0.8, SEA, DECK, DECK_END, {"gobo slot": 3.0}),
            "lasers": Part(0.5, GREEN),
        },
    ),
    Scene(
        "Flood: the crowd",
        "Cue 10, 3 s. Light on those who came.",
        {
            **_FLOOD,
            "wash": Part(0.8, LAMP, (5.0, -5.0, 1.0), (-5.0, -5.0, 1.0)),
            "rays": Part(0.7, ROSE, HOUSE, HOUSE_END),
        },
    ),
    Scene(
        "Ebb: it runs out",
        "Cue 11, 6 s.",
        {
            **_EBB,
            "patterns": Part(0.4, SEA, (-3.0, -1.0, 1.1), (3.0, -1.0, 1.1), WATER),
            "wash": Part(0.3, MOON, CHOIR, CHOIR_END),
        },
    ),
    Scene("Ebb: one place", "Cue 12, 4 s. The storyteller.", _EBB),
    Scene(
        "Ebb: the shingle",
        "Cue 13, 4 s.",
        {**_EBB, "mirrors": Part(0.6, LAMP, DECK, DECK_END, {"gobo slot": 4.0}), "choir": Part(0.15)},
    ),
    Scene(
        "Ebb: last lamp",
        "Cue 14, 6 s. The lantern, and out.",
        {"lantern wash": Part(0.15, LAMP, TONGUE, TONGUE_END), "sail": Part(0.06, SEA)},
    ),
)


def _staged(scene: Scene) -> Scene:
    """The flood lifts the bridge and turns the lantern; when all lamps are on, the sail is out of the way."""
    flood, lantern = scene.name.startswith("Flood"), scene.name == "Slack Water: lantern"
    return replace(
        scene,
        bridge=4.8 if flood else 1.2,
        lantern=90.0 if flood else 45.0 if lantern else 0.0,
        sail=9.6 if scene.name == "Flood: all lamps" else 7.1,
    )


SCENES: tuple[Scene, ...] = tuple(map(_staged, _LIT))


def _coloured(colour: Colour) -> Values:
    """A colour by whatever a lamp mixes with: emitters, or flags that take away."""
    red, green, blue = colour
    return {
        "red": red,
        "green": green,
        "blue": blue,
        "white": min(colour) * 0.4,
        "cyan": 1 - red,
        "magenta": 1 - green,
        "yellow": 1 - blue,
    }


def moved_values(drivers: Mapping[str, str], scene: Scene) -> dict[str, Values]:
    """What the drivers do in a scene, by fixture."""
    return {
        drivers["bridge"]: {"shift z": round(scene.bridge - BRIDGE_HOME_M, 6)},
        drivers["sail"]: {"shift z": round(scene.sail - SAIL_HOME_M, 6)},
        drivers["lantern"]: {"turn z": round(math.radians(scene.lantern), 6)},
    }


def look_values(
    show: Show, rig: Mapping[str, tuple[str, ...]], drivers: Mapping[str, str], scene: Scene
) -> dict[str, Values]:
    """The values of a scene, by fixture or cell: all else dark, heads at home. They are aimed from where drivers have
    brought them by then."""
    moved = moved_values(drivers, scene)
    show = posed(show, poses_told(show, moved))
    compiled = compiled_show(show).rig
    names = [feature.name for feature in FEATURES]
    home = dict(
        zip(compiled.keys, (dict(zip(names, line.tolist(), strict=True)) for line in compiled.home), strict=True)
    )
    values: dict[str, Values] = {}
    for item, lamp in show.fixtures():
        # A look says what its fixtures can do, and nothing else.
        drives = features_of(show.types[lamp.type], lamp.mode)
        for key in beam_keys(item.id, len(chains_of(show.types[lamp.type], lamp.mode))):
            own = {name: value for name, value in home[key].items() if name in drives}
            values[key] = {**own, "dimmer": 0.0} if "dimmer" in drives else own
    for group, ids in rig.items():
        part = scene.parts.get(group, Part(0.0))
        for i, fixture_id in enumerate(ids):
            fixture = show.items[fixture_id].body
            assert isinstance(fixture, Fixture)
            fixture_type = show.types[fixture.type]
            chains = chains_of(fixture_type, fixture.mode)
            drives = features_of(fixture_type, fixture.mode)
            said = {"dimmer": part.level, **_coloured(part.colour), **part.more}
            if not drives & {"red", "cyan"}:
                said["colour slot"] = WHEEL.get(part.colour, 1.0)
            share = i / max(len(ids) - 1, 1)
            for cell, key in enumerate(beam_keys(fixture_id, len(chains))):
                values[key] |= {name: value for name, value in said.items() if name in drives}
                if len(chains) > 1:
                    # A batten runs from its colour to a darker shade of it.
                    fade = 1.0 - 0.7 * cell / (len(chains) - 1)
                    values[key]["dimmer"] = part.level * fade
                if part.to is not None and chains[cell].moves:
                    to = np.array(part.to) + share * (np.array(part.till or part.to) - np.array(part.to))
                    aimed = aim([chains[cell]], [clamp_placement(show, fixture)], tuple(to.tolist()), [[0.0, 0.0]])
                    values[key] |= {"pan": round(float(aimed.pan[0]), 6), "tilt": round(float(aimed.tilt[0]), 6)}
    for key, told in moved.items():
        values[key] |= told
    return values
