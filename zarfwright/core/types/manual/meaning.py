"""What was made of the words of a range."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Meaning:
    """An attribute with its physical values; `slot` is the name of a wheel slot; `known` False: nothing was made of it.

    `doubt` says what of it is not in the words but was assumed.
    """

    attribute: str
    low: float = 0.0
    high: float = 1.0
    slot: str | None = None
    known: bool = True
    doubt: str = ""


NOTHING = Meaning("NoFeature", 0.0, 0.0)
CONTROL = Meaning("Control1", 0.0, 0.0)
