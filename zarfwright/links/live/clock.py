"""The one clock of the live path: it reads like the time of day, but never jumps when that is set."""

from __future__ import annotations

import time

_OFFSET = time.time() - time.monotonic()  # noqa: TID251  (the one place)


def now() -> float:
    """Seconds since the epoch as they were counted when this process began, and steadily on from there."""
    return time.monotonic() + _OFFSET
