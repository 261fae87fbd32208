"""What readers of a look book send back: a small JSON file with what they say of looks."""

from __future__ import annotations

from typing import Any

import orjson

from zarfwright.core.plain import NAME_MOST
from zarfwright.formats.findings import FormatError

FORMAT = "look book notes"
SENT_MOST = 2 * 2**20
NOTES_MOST = 2000


def read_sent(data: bytes, name: str, show: str) -> list[dict[str, Any]]:
    """The notes of a file, as arguments of `write note`. Raises FormatError where it is none, or is of another show."""
    problem = f"{name} holds no notes on a look book: choose the file that its reader saved."
    if len(data) > SENT_MOST:
        raise FormatError(f"{name} is larger than {SENT_MOST // 2**20} MB: notes on a look book are a small file.")
    try:
        told = orjson.loads(data)
    except orjson.JSONDecodeError as wrong:
        raise FormatError(problem) from wrong
    if not isinstance(told, dict) or told.get("format") != FORMAT or not isinstance(told.get("notes"), list):
        raise FormatError(problem)
    if told.get("version") != 1:
        raise FormatError(f"{name} is of a newer kind than this program reads: save it with an older book, or update.")
    if told.get("show") != show:
        title = str(told.get("title", ""))[:NAME_MOST]
        raise FormatError(
            f"{name} is on the book of another show{f' ({title})' if title else ''}: open that one first."
        )
    return [_note(one, problem) for one in told["notes"][:NOTES_MOST]]


def _note(one: Any, problem: str) -> dict[str, Any]:
    if not isinstance(one, dict):
        raise FormatError(problem)
    texts = {key: one.get(key, "") for key in ("text", "by", "at", "about", "look", "verdict")}
    if not all(isinstance(value, str) for value in texts.values()):
        raise FormatError(problem)
    return {key: value for key, value in texts.items() if value}
