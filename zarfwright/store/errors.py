"""What can go wrong with a show file, in words."""

from __future__ import annotations

import sqlite3
from pathlib import Path


class ShowFileError(RuntimeError):
    """A show file that cannot be opened, read or written; the message says which and what to do."""


SAVE = "Save a copy elsewhere (the show's name, Save a copy): what is on the screen is whole."
WRITING = {
    sqlite3.SQLITE_FULL: "the disk is full. Make room on it and do it again, or save a copy elsewhere.",
    sqlite3.SQLITE_READONLY: f"it can only be read, or was moved or removed. {SAVE}",
    sqlite3.SQLITE_PERM: f"it may not be written to. {SAVE}",
    sqlite3.SQLITE_CANTOPEN: f"it, or a file beside it, cannot be opened any more. {SAVE}",
    sqlite3.SQLITE_BUSY: "another program is writing to it. Close that one and do it again.",
    sqlite3.SQLITE_LOCKED: "another program is writing to it. Close that one and do it again.",
    sqlite3.SQLITE_IOERR: f"the disk does not answer as it should. {SAVE}",
    sqlite3.SQLITE_CORRUPT: f"it is damaged. {SAVE}",
    sqlite3.SQLITE_NOTADB: f"it is damaged. {SAVE}",
    sqlite3.SQLITE_TOOBIG: "what was asked for is too large for one thing of a show: make it smaller.",
}
OPENING = {
    sqlite3.SQLITE_NOTADB: "is not a show file: choose a .zarf file.",
    sqlite3.SQLITE_CORRUPT: "is damaged: open the latest copy of it.",
    sqlite3.SQLITE_CANTOPEN: "cannot be opened: see that it is a file, and that its folder can be written to.",
    sqlite3.SQLITE_READONLY: "can only be read: open a copy of it in a folder that can be written to.",
    sqlite3.SQLITE_BUSY: "is being written to by another program: close that one first.",
    sqlite3.SQLITE_FULL: "cannot be opened, because the disk is full: make room on it.",
}


def _code(wrong: sqlite3.Error) -> int:
    # The first byte is the kind, what is above it says more.
    return getattr(wrong, "sqlite_errorcode", 0) & 0xFF


def not_written(path: Path, wrong: sqlite3.Error) -> ShowFileError:
    """What to say when an open show file can no longer be read or written."""
    why = WRITING.get(_code(wrong), f"{wrong}. {SAVE}")
    return ShowFileError(f"{path.name} could not be read or written: {why}")


def not_opened(path: Path, wrong: sqlite3.Error) -> ShowFileError:
    """What to say of a file that cannot be opened."""
    why = OPENING.get(_code(wrong), f"is not a show file that can be read ({wrong}): open the latest copy of it.")
    return ShowFileError(f"{path.name} {why}")
