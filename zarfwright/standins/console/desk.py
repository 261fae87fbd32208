"""The console itself: its patch and how it came by it, what it plays and keeps, what it sends."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from zarfwright.standins.console.cues import Cue, Key
from zarfwright.standins.console.gdtf import Type
from zarfwright.standins.console.hookup import RigError
from zarfwright.standins.console.mvr import Scene, files_of, write_mvr
from zarfwright.standins.console.offers import Judged, Rules, judge
from zarfwright.standins.console.output import Faults, Sent
from zarfwright.standins.console.patch import Fixture
from zarfwright.standins.console.playback import Master, Playback
from zarfwright.standins.console.story import cue_list, groups_of

KINDS: Mapping[str, tuple[str, ...]] = {
    "position": ("Pan", "Tilt"),
    "colour": ("ColorAdd_", "ColorSub_", "Color", "CTO", "CTB", "CTC", "HSB_", "CIE_"),
    "beam": ("Zoom", "Iris", "Focus", "Frost", "Gobo", "Prism", "Blade", "ShaperRot"),
    "intensity": ("Dimmer",),
}
"""Palettes hold the functions whose attribute begins so."""


@dataclass(frozen=True)
class Palette:
    """Values of some kind under a name; `values`: physical, by fixture and function."""

    number: int
    kind: str
    name: str
    values: Mapping[Key, float]


@dataclass
class Desk:
    """One console. Its name and what it sends are its owner's to change."""

    sent: Sent
    rules: Rules = field(default_factory=Rules)
    patch: list[Fixture] = field(default_factory=list)
    types: dict[str, Type] = field(default_factory=dict)
    files: dict[str, bytes] = field(default_factory=dict)
    others: dict[str, int] = field(default_factory=dict)
    """What else came with the rig: structures, scenery ..., counted."""
    faults: Faults = field(default_factory=Faults)
    shift: int = 0
    groups: dict[str, list[str]] = field(default_factory=dict)
    palettes: list[Palette] = field(default_factory=list)
    selected: list[str] = field(default_factory=list)
    patched: int = 0
    """Counts how often the patch has changed."""

    def __post_init__(self) -> None:
        self.playback = Playback(self.patch)

    # The patch

    def fixture(self, number: int) -> Fixture:
        """The fixture of a number. Raises RigError."""
        found = next((one for one in self.patch if one.number == number), None)
        if found is None:
            raise RigError(f"The console has no fixture {number} in its patch: send it the rig again.")
        return found

    def take_patch(self, patch: Sequence[Fixture]) -> None:
        """From now on this is the patch; what was kept of fixtures that are gone goes."""
        self.patch = list(patch)
        there = {one.key for one in patch}
        groups = {name: [key for key in keys if key in there] for name, keys in self.groups.items()}
        self.groups = {name: keys for name, keys in groups.items() if keys} | groups_of(patch)
        self.selected = [key for key in self.selected if key in there]
        playback = self.playback
        playback.hands = {key: value for key, value in playback.hands.items() if key[0] in there}
        self._compile()
        self.patched += 1

    def _compile(self) -> None:
        self.playback.patch(self.patch, self.shift)

    def look_at(self, scene: Scene) -> dict[str, Judged]:
        """What taking a scene would come to, in each way."""
        return {way: judge(scene, self.patch, way, self.rules) for way in ("add", "replace", "clear")}

    def take(self, scene: Scene, way: str) -> Judged:
        """Take a scene in; says what became of each fixture."""
        judged = judge(scene, self.patch, way, self.rules)
        files = {line.fixture.file for line in judged.lines if line.fixture is not None}
        if way == "clear":
            self.types, self.files, self.others = {}, {}, {}
            self.playback.cues, self.groups, self.palettes = [], {}, []
        self.types |= {name: kind for name, kind in scene.types.items() if name in files}
        self.files |= files_of(scene.data, files)
        self.others |= scene.others
        self.take_patch(judged.patch)
        return judged

    def rig_file(self, provider: str) -> bytes:
        """Its own rig as MVR."""
        return write_mvr(self.patch, self.files, provider)

    def set_mode(self, kind: str, mode: str) -> None:
        """Have all fixtures of a type in another mode, and take more of them so. Raises RigError."""
        found = next((one for one in self.types.values() if one.name == kind), None)
        chosen = found.mode(mode) if found is not None else None
        if chosen is None:
            raise RigError(f"The console knows no mode “{mode}” of “{kind}”: only types that came as GDTF have some.")
        self.rules = replace(self.rules, modes=tuple({**dict(self.rules.modes), kind: mode}.items()))
        self.take_patch([replace(one, mode=chosen) if one.type == kind else one for one in self.patch])

    def set_shift(self, shift: int) -> None:
        """Send everything so many slots later."""
        self.shift = shift
        self._compile()

    # What it plays and keeps

    def make_cues(self) -> None:
        """A cue list for the rig that is there, whatever it is."""
        self.playback.cues = cue_list(self.patch)
        self.playback.run = None

    def keep_cue(self, cue: Cue, take: bool) -> Cue:
        """Keep a cue under its number; `take`: with what is in the editor. Raises RigError."""
        if take:
            if not self.playback.hands:
                raise RigError("There is nothing in the editor: set something first.")
            cue = replace(cue, values=dict(self.playback.hands))
        cues = [one for one in self.playback.cues if one.number != cue.number]
        self.playback.cues = sorted([*cues, cue], key=lambda one: one.number)
        return cue

    def cue(self, number: float) -> Cue:
        """A cue. Raises RigError."""
        found = next((one for one in self.playback.cues if one.number == number), None)
        if found is None:
            raise RigError(f"The console has no cue {number:g}.")
        return found

    def keep_palette(self, kind: str, name: str) -> Palette:
        """Keep what is in the editor of one kind as a palette. Raises RigError."""
        begins = KINDS.get(kind)
        if begins is None:
            raise RigError(f"There are no palettes of “{kind}”: {', '.join(KINDS)}.")
        values = {key: value for key, value in self.playback.hands.items() if key[1].startswith(begins)}
        if not values:
            raise RigError(f"There is no {kind} in the editor: set some first.")
        made = Palette(max((one.number for one in self.palettes), default=0) + 1, kind, name[:60] or kind, values)
        self.palettes.append(made)
        return made

    def apply_palette(self, number: int) -> None:
        """Put a palette into the editor. Raises RigError."""
        found = next((one for one in self.palettes if one.number == number), None)
        if found is None:
            raise RigError(f"The console has no palette {number}.")
        self.playback.hands |= found.values

    def keep_master(self, name: str, keys: Iterable[str]) -> None:
        """A sub-master over a group."""
        masters = [one for one in self.playback.masters if one.name != name]
        self.playback.masters = [*masters, Master(name, tuple(keys))]

    def set_level(self, fixture: Fixture, level: float | None) -> None:
        """How bright a fixture is by hand; None lets it go."""
        for name in fixture.intensities:
            key = fixture.key, name
            if level is None:
                self.playback.hands.pop(key, None)
            else:
                function = fixture.channels[name].functions[0]
                self.playback.hands[key] = function.low + level * (function.high - function.low)

    def set_value(self, fixture: Fixture, function: str, value: float) -> None:
        """A physical value by hand. Raises RigError where the fixture has no such function."""
        cells = [name for key, name in self.playback.lanes.at if key == fixture.key and name.split("/")[0] == function]
        names = [function] if (fixture.key, function) in self.playback.lanes.at else cells
        if not names:
            raise RigError(f"Fixture {fixture.number} has no {function} here.")
        for name in names:
            self.playback.hands[fixture.key, name] = value

    # What its screen shows

    def state(self) -> dict[str, Any]:
        """All but the patch and the levels."""
        playback = self.playback
        shown = playback.identified
        numbers = {one.key: one.number for one in self.patch}
        return {
            "name": self.sent.name,
            "sacn": self.sent.sacn.text,
            "artnet": self.sent.artnet.text,
            "priority": self.sent.priority,
            "playing": playback.playing,
            "cue": playback.cue.number if playback.cue else None,
            "cues": [cue.told() for cue in playback.cues],
            "master": playback.grand,
            "masters": [
                {"name": one.name, "level": one.level, "fixtures": len(one.fixtures)} for one in playback.masters
            ],
            "groups": {name: len(keys) for name, keys in self.groups.items()},
            "palettes": [
                {"number": one.number, "kind": one.kind, "name": one.name, "fixtures": len({k for k, _ in one.values})}
                for one in self.palettes
            ],
            "editor": [
                {"number": numbers.get(key), "function": name, "value": round(value, 4)}
                for (key, name), value in [*playback.hands.items()][:500]
            ],
            "functions": self._functions(),
            "selected": [numbers[key] for key in self.selected if numbers.get(key) is not None],
            "sweep_s": playback.drill.sweep_s,
            "identify_s": playback.drill.identify_s,
            "identified": self.patch[shown].number if shown is not None else None,
            "fixtures": len(self.patch),
            "universes": playback.lanes.universes,
            "others": self.others,
            "patched": self.patched,
            "modes": {one.name: [mode.name for mode in one.modes] for one in self.types.values()},
            "faults": {
                "shift": self.shift,
                "modes": dict(self.rules.modes),
                "silent": [numbers[key] for key in sorted(playback.silent) if key in numbers],
                "unknown": list(self.rules.unknown),
                "universe": self.faults.universe, "drop": self.faults.drop, "preview": self.faults.preview,
                "dead": self.faults.dead,
            },
        }  # fmt: skip

    def _functions(self) -> list[dict[str, Any]]:
        """What each function of the first selected fixture is at: physical values, without masters."""
        if not self.selected:
            return []
        found = self.playback.values_of(self.selected[:1])
        return [{"function": name, "value": round(value, 4)} for (_, name), value in found.items()]

    def rows(self) -> list[dict[str, Any]]:
        """The patch, a row for each fixture."""
        return [
            {
                "number": one.number, "name": one.name, "type": one.type, "mode": one.mode.name,
                "places": [f"{u}.{slot:03d}" for u, slot in one.addresses.values()] if one.file else self._first(one),
            }
            for one in sorted(self.patch, key=lambda one: (one.number is None, one.number or 0))
        ]  # fmt: skip

    @staticmethod
    def _first(one: Fixture) -> list[str]:
        """Where a fixture of a list begins: there each universe is a break of its own."""
        begins = {c.brk: min(c.offsets) for c in sorted(one.mode.channels, key=lambda c: c.offsets, reverse=True)}
        return [f"{universe}.{slot:03d}" for universe, slot in begins.items()]
