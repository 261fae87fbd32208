"""What a show keeps of its line."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True)
class LineCheck:
    """What a show keeps of its line: who did not answer, and why, by fixture, until it is checked again."""

    name: str = "Line check"
    checked: int = 0
    """How many fixtures were looked at last."""
    failed: dict[str, str] = field(default_factory=dict)
