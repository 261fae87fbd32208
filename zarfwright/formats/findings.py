"""What readers have in common."""

from __future__ import annotations

from dataclasses import dataclass


class FormatError(ValueError):
    """A file that cannot be used at all; the message says which, why, and what to do."""


@dataclass(frozen=True)
class Oddity:
    """Something odd in a file that could be used: where it stands, what is wrong, what was done about it."""

    where: str
    what: str
    done: str
