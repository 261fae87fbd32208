"""One show file: opening it, reading it whole, and the one way to write to it."""

from __future__ import annotations

import hashlib
import sqlite3
import uuid
from collections.abc import Iterable, Mapping
from contextlib import suppress
from datetime import UTC, datetime
from importlib.resources import files
from pathlib import Path
from typing import Any

import orjson

from zarfwright.core.mending import read_body
from zarfwright.core.settings import Settings
from zarfwright.core.show import SHOW_ID, Change, Damage, Item, body_from_json, body_to_json
from zarfwright.store.database import Database
from zarfwright.store.errors import ShowFileError, not_opened
from zarfwright.store.lock import FileLock

APPLICATION_ID = 0x5A415246  # "ZARF"
SCHEMA_VERSION = 2
JOURNAL_KEPT = 2000
# Version n's entry brings a file of version n to n + 1.
MIGRATIONS: dict[int, str] = {
    1: "CREATE TABLE pictures (look TEXT PRIMARY KEY, made_of TEXT NOT NULL, jpeg BLOB NOT NULL) WITHOUT ROWID;",
}


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


def _ids(changes: str) -> set[str]:
    """The things that a journal's entry has touched."""
    return {(change["after"] or change["before"])["id"] for change in orjson.loads(changes)}


FORGET = (
    "DELETE FROM journal",
    "DELETE FROM restore_points",
    "DELETE FROM pictures WHERE NOT EXISTS (SELECT 1 FROM objects WHERE objects.id = pictures.look)",
    "DELETE FROM assets WHERE NOT EXISTS (SELECT 1 FROM objects WHERE instr(objects.body, assets.sha256))",
    "VACUUM",
)


def _version(db: Database, pragma: str) -> int:
    return int(db.value(f"PRAGMA {pragma}"))


def _create(db: Database, show_id: str) -> None:
    schema = files("zarfwright.store").joinpath("schema.sql").read_text(encoding="utf-8")
    body = body_to_json("show", Settings()).decode().replace("'", "''")
    # In one transaction: what was cut short is no show, and is not taken for one.
    db.script(
        f"BEGIN IMMEDIATE; {schema} PRAGMA application_id = {APPLICATION_ID}; "
        f"INSERT INTO about (id, show_id, rev) VALUES (1, '{show_id}', 1); "
        f"INSERT INTO objects (id, kind, body) VALUES ('{SHOW_ID}', 'show', '{body}'); "
        f"PRAGMA user_version = {SCHEMA_VERSION}; COMMIT;"
    )


def _apply(db: Database, changes: Iterable[Change]) -> None:
    for change in changes:
        if change.after is None:
            db.run("DELETE FROM objects WHERE id = ?", (change.id,))
            continue
        item = change.after
        body = body_to_json(item.kind, item.body).decode()
        db.run(
            "INSERT OR REPLACE INTO objects (id, kind, parent, layer, ord, rev, body) VALUES (?, ?, ?, ?, ?, ?, ?)",
            (item.id, item.kind, item.parent, item.layer, item.order, item.rev, body),
        )
    db.run("UPDATE about SET rev = rev + 1")


class ShowFile:
    """An open show file. Used by one thread at a time: the desk holds a lock around it."""

    def __init__(self, path: Path, look: bool = False) -> None:
        """Open it, or make it where there is none. With `look` nothing can be written, and another program may have it
        open. Raises ShowFileError."""
        self.path = path
        if path.exists() and path.stat().st_size == 0:
            raise ShowFileError(f"{path.name} is an empty file and no show: choose another, or remove it.")
        self._lock = None if look else FileLock(path)
        try:
            self.db = self._opened(look)
        except sqlite3.Error as wrong:
            self._let_go()
            raise not_opened(path, wrong) from wrong
        except BaseException:
            self._let_go()
            raise

    def _opened(self, look: bool) -> Database:
        new = not self.path.exists()
        db = Database(self.path, look)
        try:
            if new:
                _create(db, uuid.uuid4().hex)
            self._require_ours(db)
            if not look:
                # A saved gesture survives a crash of the machine, not only of the program.
                db.script("PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;")
                self._migrate(db)
        except BaseException:
            db.close()
            raise
        db.is_open()
        return db

    def _let_go(self) -> None:
        if self._lock is not None:
            self._lock.let_go()

    def _require_ours(self, db: Database) -> None:
        if _version(db, "application_id") != APPLICATION_ID:
            raise ShowFileError(f"{self.path.name} is a database of another program: choose a .zarf file.")
        version = _version(db, "user_version")
        if version > SCHEMA_VERSION:
            raise ShowFileError(
                f"{self.path.name} was written by a newer Zarfwright (file version {version}, this one reads "
                f"{SCHEMA_VERSION}): open it there."
            )
        tables = {row["name"] for row in db.rows("SELECT name FROM sqlite_master WHERE type = 'table'")}
        about = db.value("SELECT show_id FROM about WHERE id = 1") if "about" in tables else None
        if version < 1 or about is None or not tables >= {"objects", "journal", "restore_points", "assets"}:
            raise ShowFileError(
                f"{self.path.name} is not whole: parts of a show file are missing. Open the latest copy of it."
            )

    def _migrate(self, db: Database) -> None:
        version = _version(db, "user_version")
        if version < SCHEMA_VERSION:
            self._keep_older(db, version)
        while version < SCHEMA_VERSION:
            db.script(f"BEGIN IMMEDIATE; {MIGRATIONS[version]} PRAGMA user_version = {version + 1}; COMMIT;")
            version += 1

    def _keep_older(self, db: Database, version: int) -> None:
        """Keep the file as it was before it is brought to this version: older programs can open that."""
        kept = self.path.with_name(f"{self.path.stem} (version {version}).zarf")
        if kept.exists():
            return
        try:
            kept.write_bytes(db.copied())
        except OSError as wrong:
            raise ShowFileError(
                f"{self.path.name} is of an older version, and there is no room to keep it as it was beside the newer "
                f"one ({wrong.strerror}): make room there."
            ) from wrong

    @property
    def show_id(self) -> str:
        return str(self.db.value("SELECT show_id FROM about"))

    @property
    def rev(self) -> int:
        """Counts every edit, undo and redo."""
        return int(self.db.value("SELECT rev FROM about"))

    def items(self) -> dict[str, Item]:
        """Everything in the show that can be read."""
        return self.read()[0]

    def read(self) -> tuple[dict[str, Item], tuple[Damage, ...]]:
        """Everything in the show that can be read, and what of it is damaged. What is left out stays in the file."""
        items = {SHOW_ID: Item(SHOW_ID, "show", Settings())}
        damage: list[Damage] = []
        for row in self.db.rows("SELECT id, kind, parent, layer, ord, rev, body FROM objects ORDER BY kind, ord"):
            body, damaged = read_body(row["id"], row["kind"], row["body"])
            if body is not None:
                at = (row["parent"], row["layer"], row["ord"], row["rev"])
                items[row["id"]] = Item(row["id"], row["kind"], body, *at)
            if damaged is not None:
                damage.append(damaged)
        return items, tuple(damage)

    def store_edit(self, who: str, kind: str, sentence: str, changes: Iterable[Change]) -> int:
        """Apply an edit and journal it in one transaction; what was undone cannot be redone after it. Gives the rev."""
        made = list(changes)
        with self.db.transaction():
            self.db.run("DELETE FROM journal WHERE undone = 1")
            _apply(self.db, made)
            self.db.run(
                "INSERT INTO journal (rev, at, who, kind, sentence, changes) VALUES (?, ?, ?, ?, ?, ?)",
                (self.rev, datetime.now(UTC).isoformat(), who, kind, sentence, changes_to_json(made).decode()),
            )
            self.db.run(
                "DELETE FROM journal WHERE seq <= (SELECT max(seq) FROM journal) - ?",
                (JOURNAL_KEPT,),
            )
            return self.rev

    def last_done(self, who: str) -> sqlite3.Row | None:
        """The edit that undo would take back: one's own last; of somebody who has made none, the last of all."""
        columns = "SELECT seq, at, who, kind, sentence, changes FROM journal WHERE undone = 0"
        own = self.db.row(f"{columns} AND who = ? ORDER BY seq DESC LIMIT 1", (who,))
        if own is None and not self.db.row("SELECT 1 FROM journal WHERE who = ? LIMIT 1", (who,)):
            own = self.db.row(f"{columns} ORDER BY seq DESC LIMIT 1")
        return own

    def first_undone(self) -> sqlite3.Row | None:
        """The edit that redo would make again."""
        return self.db.row("SELECT seq, who, sentence, changes FROM journal WHERE undone = 1 ORDER BY seq LIMIT 1")

    def in_the_way(self, seq: int, ids: set[str]) -> str | None:
        """The sentence of a later edit that touched the same things, or None."""
        rows = self.db.rows("SELECT sentence, changes FROM journal WHERE undone = 0 AND seq > ? ORDER BY seq", (seq,))
        for row in rows:
            if ids & _ids(row["changes"]):
                return str(row["sentence"])
        return None

    def ids_changed_since(self, rev: int, who: str) -> set[str]:
        """The things that others' edits, undos and redos after a rev have touched."""
        rows = self.db.rows("SELECT changes FROM journal WHERE rev > ? AND who <> ?", (rev, who))
        return {changed for row in rows for changed in _ids(row["changes"])}

    def mark(self, seq: int, undone: bool, changes: Iterable[Change]) -> int:
        """Undo or redo one journal entry by applying these changes, in one transaction. Returns the rev."""
        with self.db.transaction():
            _apply(self.db, changes)
            self.db.run("UPDATE journal SET undone = ?, rev = ? WHERE seq = ?", (int(undone), self.rev, seq))
            return self.rev

    def forget_history(self) -> None:
        """Start the journal anew: what is there now is where the show begins."""
        self.db.run("DELETE FROM journal")

    def history(self, limit: int = 100) -> list[dict[str, Any]]:
        """The latest entries of the journal, newest first."""
        rows = self.db.rows("SELECT seq, at, who, sentence, undone FROM journal ORDER BY seq DESC LIMIT ?", (limit,))
        return [{**dict(row), "undone": bool(row["undone"])} for row in rows]

    def name_point(self, name: str) -> None:
        """Keep the show as it is now under a name."""
        rows = b"[" + b",".join(item_json(item) for item in self.items().values()) + b"]"
        at = datetime.now(UTC).isoformat()
        self.db.run("INSERT INTO restore_points (at, name, objects) VALUES (?, ?, ?)", (at, name, rows.decode()))

    def points(self) -> list[dict[str, Any]]:
        """The named restore points, newest first."""
        return [dict(row) for row in self.db.rows("SELECT id, name, at FROM restore_points ORDER BY id DESC")]

    def items_at(self, point: int) -> dict[str, Item] | None:
        """Everything that was in the show at a restore point; None where there is no such point."""
        row = self.db.row("SELECT objects FROM restore_points WHERE id = ?", (point,))
        if row is None:
            return None
        return {item.id: item for item in map(_item, orjson.loads(row["objects"]))}

    def done_since(self, seq: int) -> list[Change] | None:
        """All that was done after an entry of the journal, in order; None where the journal no longer reaches back."""
        first = self.db.value("SELECT min(seq) FROM journal")
        if first is not None and seq < first - 1:
            return None
        rows = self.db.rows("SELECT changes FROM journal WHERE undone = 0 AND seq > ? ORDER BY seq", (seq,))
        return [change for row in rows for change in changes_from_json(row["changes"])]

    def keep_asset(self, name: str, data: bytes) -> str:
        """Keep a file; returns its sha256. The same bytes are kept once."""
        sha = hashlib.sha256(data).hexdigest()
        self.db.run("INSERT OR IGNORE INTO assets (sha256, name, bytes) VALUES (?, ?, ?)", (sha, name, data))
        return sha

    def asset(self, sha: str) -> tuple[str, bytes] | None:
        """Name and bytes of a kept file."""
        row = self.db.row("SELECT name, bytes FROM assets WHERE sha256 = ?", (sha,))
        return (row["name"], bytes(row["bytes"])) if row else None

    def keep_picture(self, look: str, made_of: str, jpeg: bytes) -> None:
        """Keep what a look looks like, in place of what it looked like before."""
        self.db.run("INSERT OR REPLACE INTO pictures (look, made_of, jpeg) VALUES (?, ?, ?)", (look, made_of, jpeg))

    def pictures(self) -> dict[str, str]:
        """Of which state of the show the picture of each look is, that has one."""
        return {row["look"]: row["made_of"] for row in self.db.rows("SELECT look, made_of FROM pictures")}

    def picture(self, look: str) -> bytes | None:
        """What a look looks like, as JPEG; None where nobody has drawn it."""
        row = self.db.row("SELECT jpeg FROM pictures WHERE look = ?", (look,))
        return bytes(row["jpeg"]) if row else None

    def copied(self, history: bool = True) -> bytes:
        """The whole show as another file, as it is now. Without its history it has no restore points either, and none
        of the kept files that nothing of the show names any more."""
        return self.db.copied(() if history else FORGET)

    def made_anew(self, show_id: str, items: Iterable[Item]) -> bytes:
        """Another show file, of these items and of the kept files that can still be read. It has no history."""
        new = Database(None)
        try:
            _create(new, show_id)
            _apply(new, [Change(None, item) for item in items])
            with suppress(ShowFileError):
                for row in self.db.rows("SELECT sha256 FROM assets"):
                    with suppress(ShowFileError):
                        name, data = self.asset(row["sha256"]) or ("", b"")
                        new.run("INSERT INTO assets VALUES (?, ?, ?)", (row["sha256"], name, data))
            return new.copied()
        finally:
            new.close()

    def close(self) -> None:
        self.db.close()
        self._let_go()
