"""One show file: opening it, reading it whole, and the one way to write to it."""

from __future__ import annotations

import hashlib
import sqlite3
import uuid
from collections.abc import Iterable, Mapping
from contextlib import contextmanager
from datetime import UTC, datetime
from importlib.resources import files
from pathlib import Path
from typing import Any

import orjson

from zarfwright.core.settings import Settings
from zarfwright.core.show import SHOW_ID, Change, Item, body_from_json, body_to_json

APPLICATION_ID = 0x5A415246  # "ZARF"
SCHEMA_VERSION = 1
JOURNAL_KEPT = 2000
# Version n's entry brings a file of version n to n + 1.
MIGRATIONS: dict[int, str] = {}


class ShowFileError(RuntimeError):
    """A show file that cannot be opened or written; the message says which and what to do."""


def _row(item: Item) -> dict[str, Any]:
    return {
        "id": item.id,
        "kind": item.kind,
        "parent": item.parent,
        "layer": item.layer,
        "ord": item.order,
        "rev": item.rev,
        "body": orjson.Fragment(body_to_json(item.kind, item.body)),
    }


def _item(row: Mapping[str, Any]) -> Item:
    body = row["body"] if isinstance(row["body"], str) else orjson.dumps(row["body"])
    kind = row["kind"]
    return Item(row["id"], kind, body_from_json(kind, body), row["parent"], row["layer"], row["ord"], row["rev"])


def item_json(item: Item) -> bytes:
    """An item as the API and the journal write it."""
    return orjson.dumps(_row(item))


def changes_to_json(changes: Iterable[Change]) -> bytes:
    """Changes as the journal and the event to the browsers write them."""
    return orjson.dumps(
        [
            {
                "before": _row(change.before) if change.before else None,
                "after": _row(change.after) if change.after else None,
            }
            for change in changes
        ]
    )


def changes_from_json(text: str) -> list[Change]:
    """Changes back from the journal."""
    return [
        Change(_item(row["before"]) if row["before"] else None, _item(row["after"]) if row["after"] else None)
        for row in orjson.loads(text)
    ]


class ShowFile:
    """An open show file. Used by one thread at a time: the desk holds a lock around it."""

    def __init__(self, path: Path) -> None:
        self.path = path
        new = not path.exists()
        try:
            self.db = sqlite3.connect(path, isolation_level=None, check_same_thread=False)
            self.db.row_factory = sqlite3.Row
            self.db.execute("PRAGMA busy_timeout = 3000")
            if not new:
                self._require_ours()
            self.db.execute("PRAGMA journal_mode = WAL")
            # A saved gesture survives a crash of the machine, not only of the program.
            self.db.execute("PRAGMA synchronous = FULL")
            if new or self._is_blank():
                self._create()
            self._migrate()
        except sqlite3.DatabaseError as wrong:
            raise ShowFileError(
                f"{path.name} is not a show file that can be read ({wrong}). Open a copy of it."
            ) from wrong

    def _is_blank(self) -> bool:
        return bool(self.db.execute("SELECT count(*) FROM sqlite_master").fetchone()[0] == 0)

    def _require_ours(self) -> None:
        found = self.db.execute("PRAGMA application_id").fetchone()[0]
        if found != APPLICATION_ID and not self._is_blank():
            raise ShowFileError(f"{self.path.name} is a database of another program: choose a .zarf file.")
        version = self.db.execute("PRAGMA user_version").fetchone()[0]
        if version > SCHEMA_VERSION:
            raise ShowFileError(
                f"{self.path.name} was written by a newer Zarfwright (file version {version}, this one reads "
                f"{SCHEMA_VERSION}): open it there."
            )

    def _create(self) -> None:
        schema = files("zarfwright.store").joinpath("schema.sql").read_text(encoding="utf-8")
        show_id = uuid.uuid4().hex
        self.db.executescript(
            f"BEGIN IMMEDIATE; {schema} PRAGMA application_id = {APPLICATION_ID}; "
            f"PRAGMA user_version = {SCHEMA_VERSION}; COMMIT;"
        )
        self.db.execute("INSERT INTO about (id, show_id, rev) VALUES (1, ?, 0)", (show_id,))
        self._apply([Change(None, Item(SHOW_ID, "show", Settings()))])

    def _migrate(self) -> None:
        version = self.db.execute("PRAGMA user_version").fetchone()[0]
        while version < SCHEMA_VERSION:
            self.db.executescript(
                f"BEGIN IMMEDIATE; {MIGRATIONS[version]} PRAGMA user_version = {version + 1}; COMMIT;"
            )
            version += 1

    @contextmanager
    def _transaction(self):  # type: ignore[no-untyped-def]
        self.db.execute("BEGIN IMMEDIATE")
        try:
            yield
        except BaseException:
            self.db.execute("ROLLBACK")
            raise
        self.db.execute("COMMIT")

    @property
    def show_id(self) -> str:
        return str(self.db.execute("SELECT show_id FROM about").fetchone()["show_id"])

    @property
    def rev(self) -> int:
        """Counts every edit, undo and redo."""
        return int(self.db.execute("SELECT rev FROM about").fetchone()["rev"])

    def items(self) -> dict[str, Item]:
        """Everything in the show."""
        rows = self.db.execute("SELECT id, kind, parent, layer, ord, rev, body FROM objects ORDER BY kind, ord")
        return {row["id"]: _item(row) for row in rows}

    def _apply(self, changes: Iterable[Change]) -> None:
        for change in changes:
            if change.after is None:
                self.db.execute("DELETE FROM objects WHERE id = ?", (change.id,))
                continue
            item = change.after
            self.db.execute(
                "INSERT OR REPLACE INTO objects (id, kind, parent, layer, ord, rev, body) VALUES (?, ?, ?, ?, ?, ?, ?)",
                (
                    item.id,
                    item.kind,
                    item.parent,
                    item.layer,
                    item.order,
                    item.rev,
                    body_to_json(item.kind, item.body).decode(),
                ),
            )
        self.db.execute("UPDATE about SET rev = rev + 1")

    def store_edit(self, who: str, kind: str, sentence: str, changes: Iterable[Change]) -> int:
        """Apply an edit and journal it in one transaction; what was undone cannot be redone after it. Gives the rev."""
        made = list(changes)
        with self._transaction():
            self.db.execute("DELETE FROM journal WHERE undone = 1")
            self._apply(made)
            self.db.execute(
                "INSERT INTO journal (rev, at, who, kind, sentence, changes) VALUES (?, ?, ?, ?, ?, ?)",
                (self.rev, datetime.now(UTC).isoformat(), who, kind, sentence, changes_to_json(made).decode()),
            )
            self.db.execute(
                "DELETE FROM journal WHERE seq <= (SELECT max(seq) FROM journal) - ?",
                (JOURNAL_KEPT,),
            )
        return self.rev

    def last_done(self, who: str) -> sqlite3.Row | None:
        """The edit that undo would take back: one's own last; of somebody who has made none, the last of all."""
        columns = "SELECT seq, at, who, kind, sentence, changes FROM journal WHERE undone = 0"
        own = self.db.execute(f"{columns} AND who = ? ORDER BY seq DESC LIMIT 1", (who,)).fetchone()
        if own is None and not self.db.execute("SELECT 1 FROM journal WHERE who = ? LIMIT 1", (who,)).fetchone():
            own = self.db.execute(f"{columns} ORDER BY seq DESC LIMIT 1").fetchone()
        return own  # type: ignore[no-any-return]

    def first_undone(self) -> sqlite3.Row | None:
        """The edit that redo would make again."""
        return self.db.execute(  # type: ignore[no-any-return]
            "SELECT seq, who, sentence, changes FROM journal WHERE undone = 1 ORDER BY seq LIMIT 1"
        ).fetchone()

    def in_the_way(self, seq: int, ids: set[str]) -> str | None:
        """The sentence of a later edit that touched the same things, or None."""
        rows = self.db.execute(
            "SELECT sentence, changes FROM journal WHERE undone = 0 AND seq > ? ORDER BY seq", (seq,)
        )
        for row in rows:
            if ids & {change.id for change in changes_from_json(row["changes"])}:
                return str(row["sentence"])
        return None

    def ids_changed_since(self, rev: int, who: str) -> set[str]:
        """The things that others' edits, undos and redos after a rev have touched."""
        rows = self.db.execute("SELECT changes FROM journal WHERE rev > ? AND who <> ?", (rev, who))
        return {change.id for row in rows for change in changes_from_json(row["changes"])}

    def mark(self, seq: int, undone: bool, changes: Iterable[Change]) -> int:
        """Undo or redo one journal entry by applying these changes, in one transaction. Returns the rev."""
        with self._transaction():
            self._apply(changes)
            self.db.execute("UPDATE journal SET undone = ?, rev = ? WHERE seq = ?", (int(undone), self.rev, seq))
        return self.rev

    def forget_history(self) -> None:
        """Start the journal anew: what is there now is where the show begins."""
        self.db.execute("DELETE FROM journal")

    def history(self, limit: int = 100) -> list[dict[str, Any]]:
        """The latest entries of the journal, newest first."""
        rows = self.db.execute(
            "SELECT seq, at, who, sentence, undone FROM journal ORDER BY seq DESC LIMIT ?", (limit,)
        ).fetchall()
        return [{**dict(row), "undone": bool(row["undone"])} for row in rows]

    def name_point(self, name: str) -> None:
        """Keep the show as it is now under a name."""
        rows = b"[" + b",".join(item_json(item) for item in self.items().values()) + b"]"
        at = datetime.now(UTC).isoformat()
        self.db.execute("INSERT INTO restore_points (at, name, objects) VALUES (?, ?, ?)", (at, name, rows.decode()))

    def points(self) -> list[dict[str, Any]]:
        """The named restore points, newest first."""
        return [dict(row) for row in self.db.execute("SELECT id, name, at FROM restore_points ORDER BY id DESC")]

    def items_at(self, point: int) -> dict[str, Item] | None:
        """Everything that was in the show at a restore point; None where there is no such point."""
        row = self.db.execute("SELECT objects FROM restore_points WHERE id = ?", (point,)).fetchone()
        if row is None:
            return None
        return {item.id: item for item in map(_item, orjson.loads(row["objects"]))}

    def done_since(self, seq: int) -> list[Change] | None:
        """All that was done after an entry of the journal, in order; None where the journal no longer reaches back."""
        first = self.db.execute("SELECT min(seq) FROM journal").fetchone()[0]
        if first is not None and seq < first - 1:
            return None
        rows = self.db.execute("SELECT changes FROM journal WHERE undone = 0 AND seq > ? ORDER BY seq", (seq,))
        return [change for row in rows for change in changes_from_json(row["changes"])]

    def keep_asset(self, name: str, data: bytes) -> str:
        """Keep a file; returns its sha256. The same bytes are kept once."""
        sha = hashlib.sha256(data).hexdigest()
        self.db.execute("INSERT OR IGNORE INTO assets (sha256, name, bytes) VALUES (?, ?, ?)", (sha, name, data))
        return sha

    def asset(self, sha: str) -> tuple[str, bytes] | None:
        """Name and bytes of a kept file."""
        row = self.db.execute("SELECT name, bytes FROM assets WHERE sha256 = ?", (sha,)).fetchone()
        return (row["name"], bytes(row["bytes"])) if row else None

    def copy_to(self, path: Path) -> None:
        """Write the whole show to another file, as it is now."""
        self.db.execute("VACUUM INTO ?", (str(path),))

    def close(self) -> None:
        self.db.close()
