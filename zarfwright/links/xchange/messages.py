"""What stations say to each other, read from untrusted JSON: field by field, in the variants that are about."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from zarfwright.core.linking.handshake import Met
from zarfwright.links.xchange.wire import LinkError, Message

NAME_MOST, COMMENT_MOST, COMMITS_MOST = 60, 300, 32
UUID = re.compile(r"\{?([0-9a-fA-F]{8}-?(?:[0-9a-fA-F]{4}-?){3}[0-9a-fA-F]{12})\}?")


@dataclass(frozen=True)
class Commit:
    """A rig that a station has to give."""

    key: str
    """The UUID of its file."""
    name: str
    comment: str
    size: int


def text(value: object, most: int = NAME_MOST) -> str:
    """Text of another program, as it can be shown: no control signs, no longer than so."""
    return "".join(sign for sign in str(value or "") if sign.isprintable())[:most].strip()


def uuid_text(value: object) -> str:
    """A UUID as it came; empty where it is none."""
    match = UUID.fullmatch(str(value or "").strip())
    return match[1].lower() if match else ""


def _count(value: object, most: int = 2**48) -> int:
    try:
        return min(max(int(str(value)), 0), most)
    except ValueError:
        return 0


def read_met(message: Mapping[str, Any]) -> Met:
    """Who joins, or answers to it. Raises LinkError where it does not say who it is."""
    key = uuid_text(message.get("StationUUID"))
    if not key:
        raise LinkError("The console did not say who it is: it has no StationUUID.")
    raw = message.get("Features")
    features = {text(name, 30): _count(n, 999) for name, n in raw.items()} if isinstance(raw, dict) else {}
    version = _count(message.get("verMajor", 1), 999), _count(message.get("verMinor", 0), 999)
    name = text(message.get("StationName")) or "a console without a name"
    return Met(name, key, text(message.get("Provider")), version, features)


def read_commits(message: Mapping[str, Any]) -> tuple[Commit, ...]:
    """The rigs that a station says it has: `Commits`, in older programs `Files`; the latest last."""
    raw = message.get("Commits", message.get("Files"))
    found = [read_commit(one) for one in raw if isinstance(one, dict)] if isinstance(raw, list) else []
    return tuple(one for one in found if one is not None)[-COMMITS_MOST:]


def read_commit(message: Mapping[str, Any]) -> Commit | None:
    """One rig; None where it cannot be asked for."""
    key = uuid_text(message.get("FileUUID"))
    comment, name = text(message.get("Comment"), COMMENT_MOST), text(message.get("FileName"))
    return Commit(key, name, comment, _count(message.get("FileSize"))) if key else None


def refused(kind: str, why: str) -> Message:
    """An answer that says no."""
    return {"Type": f"{kind}_RET", "OK": False, "Message": why}


def checked(came: Message | bytes, of: str) -> Message:
    """An answer that says yes. Raises LinkError with what the console says instead."""
    if isinstance(came, bytes):
        raise LinkError("The console sent a file where an answer was due.")
    if not came.get("OK"):
        said = text(came.get("Message"), COMMENT_MOST) or "it did not say why"
        raise LinkError(f"The console refused {of}: {said}")
    return came
