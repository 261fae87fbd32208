"""Reading what a show file holds although a part of it is damaged: as much as can be, and what was left out."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from zarfwright.core.errors import JobError
from zarfwright.core.kinds import KINDS, Body
from zarfwright.core.plain import DEEP_MOST, Path, no_number
from zarfwright.core.show import Damage, adapter, body_from_json

TRIES = 200
"""Parts that are left out of one thing; one with more is not read."""


def read_body(item_id: str, kind: str, text: str) -> tuple[Body | None, Damage | None]:
    """The body of a thing, without what of it is no value that can be; None where the rest is not enough for one."""
    if kind not in KINDS:
        return None, Damage(item_id, kind, "this version does not know such a thing", False)
    try:
        body = body_from_json(kind, text)
        where = no_number(body)
        if where is None:
            return body, None
    except JobError:
        pass
    try:
        value = json.loads(text)
    except (ValueError, RecursionError):
        return None, Damage(item_id, kind, "what is kept of it is no JSON", False)
    left_out: list[str] = []
    while len(left_out) < TRIES:
        where = no_number(value)
        try:
            if where is None:
                body = adapter(kind).validate_json(json.dumps(value))
                return body, Damage(item_id, kind, _listed(left_out), True)
        except ValidationError as wrong:
            where = wrong.errors()[0]["loc"]
        gone = _without(value, where)
        if gone is None:
            break
        left_out.append(gone)
    return None, Damage(item_id, kind, _listed(left_out) or "a part of it is missing", False)


def _listed(left_out: list[str]) -> str:
    return ", ".join(left_out[:3]) + (f" and {len(left_out) - 3} more" if len(left_out) > 3 else "")


def _without(value: Any, where: Path) -> str | None:
    """Take the part of that place out of JSON, with the list it is in; its name, or None where there is none."""
    at, last = value, None
    for depth, key in enumerate(where[:DEEP_MOST]):
        if not isinstance(at, dict) or key not in at:
            break
        last = (at, key, ".".join(str(part) for part in where[: depth + 1]))
        at = at[key]
    if last is None:
        return None
    del last[0][last[1]]
    return last[2]
