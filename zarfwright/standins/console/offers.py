"""A rig that is offered to the console, beside the patch that it has: what becomes of each fixture, line by line."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from zarfwright.standins.console.gdtf import Type
from zarfwright.standins.console.mvr import Said, Scene
from zarfwright.standins.console.patch import Fixture, Mode

WAYS = ("add", "replace", "clear")
"""Beside what is there; in place of what has the same number or is the same fixture; in place of everything."""


@dataclass(frozen=True)
class Rules:
    """What this console can do, and how it is set: universes from 1 that it puts out, other modes that it takes a type
    in, types that it does not know, numbers that it refuses."""

    last_universe: int = 256
    modes: tuple[tuple[str, str], ...] = ()
    unknown: tuple[str, ...] = ()


@dataclass(frozen=True)
class Line:
    """What becomes of one offered fixture."""

    said: Said
    answer: str
    """taken, other mode, number in use, type unknown, or refused."""
    reason: str = ""
    fixture: Fixture | None = None

    def told(self) -> dict[str, Any]:
        mode = self.fixture.mode.name if self.fixture is not None else ""
        return {"UUID": self.said.key, "FixtureID": self.said.number, "Answer": self.answer, "Reason": self.reason,
                "Mode": mode}  # fmt: skip


@dataclass(frozen=True)
class Judged:
    """What taking an offer in one way would come to: the lines, and the patch that would be there then."""

    way: str
    lines: tuple[Line, ...]
    patch: tuple[Fixture, ...]
    gone: int
    replaced: int

    def told(self) -> dict[str, Any]:
        taken = sum(line.fixture is not None for line in self.lines)
        return {
            "Taken": taken, "Refused": len(self.lines) - taken, "Gone": self.gone, "Replaced": self.replaced,
            "Lines": [line.told() for line in self.lines],
        }  # fmt: skip


def judge(scene: Scene, patch: Sequence[Fixture], way: str, rules: Rules) -> Judged:
    """What becomes of each fixture of a scene, in the order of the scene."""
    typed = [_typed(said, scene, rules) for said in scene.fixtures]
    leaving = {"clear": list(patch), "add": [], "replace": _replaced_by(typed, patch)}[way]
    gone = {one.key for one in leaving}
    there = _There(one for one in patch if one.key not in gone)
    lines = [there.take(line) for line in typed]
    back = [one for one in leaving if way == "replace" and there.lacks(one)]
    for one in back:
        there.put(one)
    left = len(leaving) - len(back)
    count = {"gone": left, "replaced": 0} if way == "clear" else {"gone": 0, "replaced": left}
    return Judged(way, tuple(lines), tuple(there.fixtures.values()), **count)


def _replaced_by(typed: Sequence[Line], patch: Sequence[Fixture]) -> list[Fixture]:
    """Who has the number of one that is offered, or is that very fixture."""
    made = [line.fixture for line in typed if line.fixture is not None]
    keys, numbers = {one.key for one in made}, {one.number for one in made if one.number is not None}
    return [one for one in patch if one.key in keys or one.number in numbers]


class _There:
    """A patch that is being put together."""

    def __init__(self, fixtures: Iterable[Fixture]) -> None:
        self.fixtures: dict[str, Fixture] = {}
        self.numbers: dict[int, Fixture] = {}
        self.slots: dict[tuple[int, int], Fixture] = {}
        for one in fixtures:
            self.put(one)

    def put(self, one: Fixture) -> None:
        self.fixtures[one.key] = one
        self.slots |= dict.fromkeys(one.taken(), one)
        if one.number is not None:
            self.numbers[one.number] = one

    def lacks(self, one: Fixture) -> bool:
        return one.key not in self.fixtures and one.number not in self.numbers

    def take(self, line: Line) -> Line:
        """The line as it is with what is there already; what it takes is there then."""
        one = line.fixture
        if one is None:
            return line
        if one.key in self.fixtures:
            return _refused(line.said, "number in use", "This very fixture is in the patch already.")
        if one.number is not None and one.number in self.numbers:
            text = f"Number {one.number} is a {self.numbers[one.number].type} here."
            return _refused(line.said, "number in use", text)
        others = [self.slots[place] for place in sorted(one.taken() & self.slots.keys())]
        # Two lamps on one dimmer, or two heads that are to do the same, share all of their slots on purpose.
        other = next((two for two in others if (two.addresses, two.mode) != (one.addresses, one.mode)), None)
        if other is not None:
            called = f"fixture {other.number}" if other.number is not None else other.name
            universe, slot = min(one.addresses.values())
            text = f"At {universe}.{slot:03d} it would share slots with {called}."
            return _refused(line.said, "refused", text)
        self.put(one)
        return line


def _refused(said: Said, answer: str, reason: str) -> Line:
    return Line(said, answer, reason)


def _typed(said: Said, scene: Scene, rules: Rules) -> Line:
    """The fixture that it would be, by type, mode and addresses alone."""
    kind = scene.types.get(said.file)
    name = kind.name if kind is not None else said.file.removesuffix(".gdtf") or "no type"
    if kind is None or name in rules.unknown:
        why = scene.faults.get(said.file, "this console does not know it")
        return _refused(said, "type unknown", f"{name}: {why}.")
    mode, why = _mode(kind, said.mode, dict(rules.modes).get(kind.name))
    if not said.addresses:
        return _refused(said, "refused", "It has no address.")
    addresses = dict(zip(sorted(mode.footprints), said.addresses, strict=False))
    high = max((universe for universe, _ in addresses.values()), default=1)
    if high > rules.last_universe:
        return _refused(said, "refused", f"Universe {high} is beyond the last of this console, {rules.last_universe}.")
    for brk, (_, slot) in addresses.items():
        if slot + mode.footprints[brk] - 1 > 512:
            return _refused(said, "refused", f"In {mode.name} it reaches beyond the end of its universe.")
    x, y, z = said.place
    made = Fixture(said.key, said.number, said.name, kind.name, mode, addresses, x, y, z, said.file, said.matrix)
    return Line(said, "other mode" if why else "taken", why, made)


def _mode(kind: Type, name: str, forced: str | None) -> tuple[Mode, str]:
    """The mode that a fixture gets, and why it is not the one that was asked for."""
    asked = kind.mode(name)
    if forced is not None and (mode := kind.mode(forced)) is not None and mode is not asked:
        return mode, f"This console has {kind.name} in {mode.name} ({mode.slots} slots), not in {name}."
    if asked is not None:
        return asked, ""
    first = kind.modes[0]
    return first, f"{kind.name} has no mode “{name}”: taken in {first.name} ({first.slots} slots)."
