"""What may be in a show: finite numbers, whole text of sensible length, nothing nested without end."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import fields, is_dataclass
from functools import cache
from typing import Any

from pydantic_core import ErrorDetails

from zarfwright.core.errors import JobError

NAME_MOST = 200
"""Letters of a name, and of anything else that is typed into one line."""
TEXT_MOST = 200_000
"""Letters of a whole text, such as a page of a manual."""
DEEP_MOST = 40
Path = tuple[str | int, ...]


def _parts(value: Any) -> Iterator[tuple[str | int, Any]]:
    if isinstance(value, Mapping):
        return ((str(key), part) for key, part in value.items())
    return enumerate(value)


@cache
def _names(of: type) -> tuple[str, ...]:
    return tuple(field.name for field in fields(of))


def no_number(value: Any, before: Any = None) -> Path | None:
    """Where in a body, or in JSON, there is a number that is none (NaN, infinity); None: nowhere. What is the very same
    in the body that it was made of has been looked at."""
    if isinstance(value, float):
        return None if math.isfinite(value) else ()
    if value is None or isinstance(value, str | int):
        return None
    if is_dataclass(value) and not isinstance(value, type):
        names = _names(type(value))
        if type(before) is type(value):
            names = tuple(name for name in names if getattr(value, name) is not getattr(before, name))
        parts: Iterator[tuple[str | int, Any]] = ((name, getattr(value, name)) for name in names)
    elif isinstance(value, dict | list | tuple):
        parts = _parts(value)
    else:
        # What a look says holds numbers alone: that is seen to where it is packed.
        return None
    for key, part in parts:
        # Nearly all of a show is none of these.
        if type(part) is float:
            if not math.isfinite(part):
                return (key,)
        elif part is not None and type(part) not in (str, int, bool) and (found := no_number(part)) is not None:
            return (key, *found)
    return None


def require_plain(value: Any, field: str = "", depth: int = 0) -> None:
    """Raises JobError where JSON that has no model of its own is nothing that a show can hold."""
    if depth > DEEP_MOST:
        raise JobError(f"“{field}” is nested more than {DEEP_MOST} deep: nothing of a show is.", field or None)
    if isinstance(value, float):
        if not math.isfinite(value):
            raise JobError(f"“{field}” is not a finite number: type another.", field or None)
    elif isinstance(value, str):
        require_text(value, field, NAME_MOST if field.rsplit(".", 1)[-1] == "name" else TEXT_MOST)
    elif isinstance(value, Mapping | list | tuple):
        if isinstance(value, Mapping):
            for key in value:
                require_text(str(key), field, NAME_MOST)
        for key, part in _parts(value):
            require_plain(part, f"{field}.{key}" if field else str(key), depth + 1)


def require_text(text: str, field: str, most: int = NAME_MOST) -> str:
    """The text. Raises JobError where it is too long, or holds halves of letters that cannot be written."""
    if len(text) > most:
        raise JobError(f"“{field}” has {len(text)} letters: {most} at most.", field or None)
    try:
        text.encode()
    except UnicodeEncodeError as wrong:
        raise JobError(f"“{field}” holds a letter that is cut in half: type it again.", field or None) from wrong
    return text


def said_of(wrong: ErrorDetails) -> tuple[str, str]:
    """What to say of an argument that its model refuses, and its field."""
    field = ".".join(str(part) for part in wrong["loc"])
    kind, about = wrong["type"], wrong.get("ctx", {})
    if kind == "finite_number":
        return f"“{field}” is not a finite number: type another.", field
    if kind == "string_too_long":
        return f"“{field}” has {len(wrong['input'])} letters: {about['max_length']} at most.", field
    if kind == "string_unicode":
        return f"“{field}” holds a letter that is cut in half: type it again.", field
    return f"“{field}” cannot be used: {wrong['msg']}.", field
