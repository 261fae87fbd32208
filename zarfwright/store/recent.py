"""Which show files were opened on this machine, newest first."""

from __future__ import annotations

import os
import sqlite3
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

KEPT = 20
SCHEMA = """
CREATE TABLE IF NOT EXISTS opened (
    path TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    at TEXT NOT NULL
) WITHOUT ROWID
"""


def state_folder() -> Path:
    """Where this program keeps what belongs to the machine and not to a show."""
    return Path(os.environ.get("XDG_STATE_HOME") or Path.home() / ".local" / "state") / "zarfwright"


class Recent:
    """The list, in a small database of its own. One that cannot be written is done without."""

    def __init__(self, folder: Path | None = None) -> None:
        self.file = (folder or state_folder()) / "recent.sqlite"

    def _open(self) -> sqlite3.Connection:
        self.file.parent.mkdir(parents=True, exist_ok=True)
        db = sqlite3.connect(self.file)
        db.row_factory = sqlite3.Row
        db.execute(SCHEMA)
        return db

    def note(self, path: Path, name: str) -> None:
        """A show was opened."""
        try:
            with self._open() as db:
                db.execute(
                    "INSERT INTO opened (path, name, at) VALUES (?, ?, ?) "
                    "ON CONFLICT (path) DO UPDATE SET name = excluded.name, at = excluded.at",
                    (str(path.resolve()), name, datetime.now(UTC).isoformat()),
                )
                db.execute(
                    "DELETE FROM opened WHERE path NOT IN (SELECT path FROM opened ORDER BY at DESC LIMIT ?)", (KEPT,)
                )
            db.close()
        except (OSError, sqlite3.Error):
            return

    def shows(self) -> list[dict[str, Any]]:
        """Path, name, time of the shows that are still there."""
        try:
            db = self._open()
            rows = db.execute("SELECT path, name, at FROM opened ORDER BY at DESC").fetchall()
            db.close()
        except (OSError, sqlite3.Error):
            return []
        return [dict(row) for row in rows if Path(row["path"]).is_file()]
