"""What a console says to a rig that it is offered, line by line, and what of the rig did not arrive."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal, get_args

from zarfwright.core.exchange.offered import LeftOut
from zarfwright.core.exchange.scene import Scene, Tag, Thing

Way = Literal["add", "replace", "clear"]
WAYS: tuple[Way, ...] = get_args(Way)
"""Beside what the console has; in place of what has the same number; in place of everything."""
Word = Literal["taken", "other mode", "number in use", "type unknown", "refused", "no answer"]
WORDS: tuple[Word, ...] = get_args(Word)
TAKEN: frozenset[Word] = frozenset({"taken", "other mode"})
TEXT_MOST = 300
OTHERS: Mapping[str, Tag] = {
    "structures": "Truss",
    "supports": "Support",
    "pieces of scenery": "SceneObject",
    "screens": "VideoScreen",
    "projectors": "Projector",
    "focus points": "FocusPoint",
}


@dataclass(frozen=True)
class Line:
    """What became, or would become, of one fixture that is offered."""

    uuid: str
    number: int | None
    name: str
    answer: Word
    reason: str = ""
    mode: str = ""
    """The mode that it has there."""

    @property
    def taken(self) -> bool:
        return self.answer in TAKEN


@dataclass(frozen=True)
class Answered:
    """What taking a rig in one way comes to, as the console says: its lines in the order of the offer, how many of its
    own fixtures go or are replaced, and what else of the offer does not arrive."""

    lines: tuple[Line, ...]
    gone: int = 0
    replaced: int = 0
    missing: tuple[LeftOut, ...] = ()

    def count(self, word: Word) -> int:
        return sum(line.answer == word for line in self.lines)

    @property
    def taken(self) -> int:
        return sum(line.taken for line in self.lines)


def _text(value: object) -> str:
    return "".join(sign for sign in str(value or "") if sign.isprintable())[:TEXT_MOST]


def count_of(value: object) -> int:
    """A count that a console told; 0 of what is none."""
    return value if isinstance(value, int) and 0 <= value <= 10**6 else 0


def _key(value: object) -> str:
    return str(value or "").replace("-", "").lower()


def read_answer(told: Mapping[str, Any], offered: Scene, there: object = None) -> Answered:
    """What a console told of an offer; `there`: what else of it it says that it has, counted. Whatever it says, there
    is a line for each fixture that is offered, and none besides."""
    raw = told.get("Lines")
    said = {_key(one.get("UUID")): one for one in raw if isinstance(one, dict)} if isinstance(raw, list) else {}
    lines = tuple(_line(thing, said.get(thing.uuid)) for thing in offered.things if thing.said is not None)
    others = there if isinstance(there, dict) else {}
    return Answered(lines, count_of(told.get("Gone")), count_of(told.get("Replaced")), tuple(_missing(offered, others)))


def _line(thing: Thing, said: Mapping[str, Any] | None) -> Line:
    number = thing.said.number if thing.said is not None else None
    if said is None:
        return Line(thing.uuid, number, thing.name, "no answer", "The console said nothing of it.")
    word: Word = next((word for word in WORDS if word == said.get("Answer")), "refused")
    return Line(thing.uuid, number, thing.name, word, _text(said.get("Reason")), _text(said.get("Mode")))


def _missing(offered: Scene, others: Mapping[str, Any]) -> Sequence[LeftOut]:
    """What the offer has besides fixtures that the console counts less of."""
    tags: Counter[str] = Counter(thing.tag for thing in offered.things)
    found = []
    for name, of in OTHERS.items():
        ours, theirs = tags[of], count_of(others.get(name))
        if theirs < ours:
            found.append(LeftOut(f"{ours - theirs} of {ours} {name}", "the console has not taken them"))
    return found
