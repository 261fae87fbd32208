"""What is still to put right in a show: where, in a sentence, and the edit that does it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

TOLD = 5


def first_few(lines: list[str]) -> list[str]:
    """What is to be said of many things: the first few, and of how many more."""
    return lines if len(lines) <= TOLD else [*lines[:TOLD], f"The same goes for {len(lines) - TOLD} more."]


@dataclass(frozen=True)
class Repair:
    """The edit that puts a finding right, and what its button says."""

    label: str
    kind: str
    args: dict[str, Any]


@dataclass(frozen=True)
class Finding:
    """One thing to put right: which step, the ids concerned, and the sentence. Wrong is worse than attention."""

    step: str
    where: tuple[str, ...]
    text: str
    wrong: bool = False
    repair: Repair | None = None
    code: str = ""
    """What sort of thing it is, in a word that stays the same: for programs that read findings."""
