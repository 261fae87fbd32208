"""Notes of a review: on a thing, a place, a look or a seat; drawn on a picture; and what people say of looks."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from zarfwright.core.space import Vec

Verdict = Literal["", "agreed", "not yet"]
SHORT = 48


@dataclass(frozen=True)
class Stroke:
    """A line drawn on a picture: free, an arrow to its last place, or a circle about its first through its last."""

    kind: Literal["free", "arrow", "circle"]
    places: tuple[tuple[float, float], ...]
    """From the picture's top left, as shares of its width and height."""


@dataclass(frozen=True)
class Answer:
    """What somebody said to a note."""

    text: str
    who: str
    at: str


@dataclass(frozen=True)
class Note:
    """What somebody wants to be remembered, or done. `at`: when, ISO 8601 in UTC."""

    text: str
    who: str = ""
    at: str = ""
    about: str | None = None
    """The thing that it is on, be it a look."""
    seat: str = ""
    """Of the crowd that it is about: whose seat (core/seats.py)."""
    place: Vec | None = None
    """Where it is pinned; metres, show."""
    look: str | None = None
    """The look in which it was seen."""
    seen_from: tuple[Vec, Vec] | None = None
    """The eye from which it was seen, and what that looked at."""
    tags: tuple[str, ...] = ()
    done: bool = False
    verdict: Verdict = ""
    """What is said of the look that it is about."""
    answers: tuple[Answer, ...] = ()
    picture: str = ""
    """The asset of the picture that it is drawn on."""
    strokes: tuple[Stroke, ...] = ()

    @property
    def name(self) -> str:
        """How lists call it: the beginning of its text."""
        line = self.text.strip().split("\n", 1)[0] or self.verdict or "A drawn note"
        return line if len(line) <= SHORT else f"{line[: SHORT - 1].rstrip()}…"

    @property
    def open(self) -> bool:
        """Whether something is still to be done about it."""
        return not self.done and self.verdict != "agreed"


@dataclass(frozen=True)
class Standing:
    """What people say of a look."""

    verdict: Verdict
    """Agreed where somebody has agreed and nobody says not yet."""
    agreed: tuple[str, ...]
    not_yet: tuple[str, ...]
    """Who says so."""


def standing_of(notes: list[Note], look: str) -> Standing:
    """What is said of a look, each person by what they said last."""
    last: dict[str, Note] = {}
    for note in sorted((one for one in notes if one.about == look and one.verdict), key=lambda one: one.at):
        last[note.who] = note
    agreed = tuple(who for who, note in last.items() if note.verdict == "agreed")
    not_yet = tuple(who for who, note in last.items() if note.verdict == "not yet")
    return Standing("not yet" if not_yet else "agreed" if agreed else "", agreed, not_yet)


NOTE_COLUMNS = ("Note", "On", "In look", "Who", "When", "Tags", "State", "Answers")


def note_rows(notes: list[Note], names: Mapping[str, str]) -> list[tuple[str, ...]]:
    """A row for each note, open ones first. `names`: what things are called, by id."""
    ordered = sorted(notes, key=lambda note: (not note.open, note.at))
    return [
        (
            note.text or ("drawn" if note.strokes else ""),
            names.get(note.about, "what is gone") if note.about else "",
            names.get(note.look or "", ""),
            note.who,
            note.at[:16].replace("T", " "),
            " ".join(f"#{tag}" for tag in note.tags),
            note.verdict or ("done" if note.done else "open"),
            "; ".join(f"{answer.who}: {answer.text}" if answer.who else answer.text for answer in note.answers),
        )
        for note in ordered
    ]
