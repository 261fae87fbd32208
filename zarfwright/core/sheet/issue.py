"""What was issued: a revision of the papers, and what they said of the rig then."""

from __future__ import annotations

from dataclasses import dataclass, field

FIELDS = ("type", "mode", "number", "unit", "address", "position", "rail", "along", "height", "purpose", "colour",
          "circuit", "dimmer", "note", "place")  # fmt: skip
"""What is kept of a fixture, in this order; `place` is x, y and z in millimetres. Of a structure: its name under
`position`, its length under `along`, its trims under `height`, and its place."""


@dataclass(frozen=True)
class Issue:
    """A revision of the whole set. Only the last one keeps what was said: it is what the rig is held against."""

    number: str
    date: str = ""
    """ISO 8601."""
    note: str = ""
    by: str = ""
    rig: dict[str, tuple[str, ...]] = field(default_factory=dict)
    """What was said of each fixture and structure (FIELDS)."""
    sheets: dict[str, str] = field(default_factory=dict)
    """The fingerprint of each sheet as it was issued."""

    @property
    def name(self) -> str:
        return f"revision {self.number}"
