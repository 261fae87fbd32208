"""How what is typed into one field of a thing is read, and where it goes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any


@dataclass(frozen=True)
class Field:
    """How one field is read: a length in metres, an angle in degrees, a count, one of some words, or plain text."""

    quantity: str
    get: Callable[[Any], Any]
    put: Callable[[Any, Any], Any]
    least: float | None = None
    most: float | None = None
    axis: str | None = None
    choices: tuple[str, ...] = ()
    empty: bool = False
    """Nothing typed means none."""


def plain(name: str, quantity: str, least: float | None = None, most: float | None = None) -> Field:
    return Field(
        quantity, lambda body: getattr(body, name), lambda body, value: replace(body, **{name: value}), least, most
    )
