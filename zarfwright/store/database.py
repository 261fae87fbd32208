"""SQLite as the show file uses it: statements, transactions, and errors in words."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from zarfwright.store.errors import SAVE, ShowFileError, not_opened, not_written


class Database:
    """An open file. Used by one thread at a time. Everything raises ShowFileError where the file fails."""

    def __init__(self, path: Path | None, look: bool = False) -> None:
        """Raises sqlite3.Error. With `look`, nothing can be written; without a path it is in memory."""
        self.path = path or Path("a copy")
        self._words = not_opened
        where = f"{path.resolve().as_uri()}?mode={'ro' if look else 'rwc'}" if path is not None else ":memory:"
        self._db = sqlite3.connect(where, uri=path is not None, isolation_level=None, check_same_thread=False)
        self._db.row_factory = sqlite3.Row
        self._db.execute("PRAGMA busy_timeout = 3000")
        self._file = path.stat() if path is not None else None

    def is_open(self) -> None:
        """From now on errors say what to do with a show that is on the screen."""
        self._words = not_written

    def run(self, sql: str, values: Iterable[Any] = ()) -> None:
        """Do one statement."""
        self.rows(sql, values)

    def rows(self, sql: str, values: Iterable[Any] = ()) -> list[sqlite3.Row]:
        """All rows of a question."""
        try:
            return self._db.execute(sql, tuple(values)).fetchall()
        except sqlite3.Error as wrong:
            raise self._words(self.path, wrong) from wrong

    def row(self, sql: str, values: Iterable[Any] = ()) -> sqlite3.Row | None:
        """The first row of a question; None where there is none."""
        found = self.rows(sql, values)
        return found[0] if found else None

    def value(self, sql: str, values: Iterable[Any] = ()) -> Any:
        """The first value of the first row; None where there is none."""
        found = self.row(sql, values)
        return found[0] if found is not None else None

    def script(self, sql: str) -> None:
        """Several statements. Raises sqlite3.Error: only who opens a file needs it."""
        self._db.executescript(sql)

    @contextmanager
    def transaction(self) -> Iterator[None]:
        """All or nothing of what is done within it."""
        self._require_in_place()
        self.run("BEGIN IMMEDIATE")
        try:
            yield
            self.run("COMMIT")
        except BaseException:
            # Where the disk is full SQLite has rolled back by itself.
            if self._db.in_transaction:
                with suppress(sqlite3.Error):
                    self._db.execute("ROLLBACK")
            raise

    def _require_in_place(self) -> None:
        """SQLite would go on writing into a file that has been removed, and nobody would find it again."""
        if self._file is None:
            return
        try:
            now = self.path.stat()
        except OSError as wrong:
            raise ShowFileError(f"{self.path.name} is no longer where it was. {SAVE}") from wrong
        if (now.st_dev, now.st_ino) != (self._file.st_dev, self._file.st_ino):
            raise ShowFileError(f"{self.path.name} was put in another's place while it was open. {SAVE}")

    def copied(self, without: Iterable[str] = ()) -> bytes:
        """The whole file as it is now, which needs no room on the disk; where it is damaged it raises too. `without`
        are statements that take something out of the copy."""
        copy = sqlite3.connect(":memory:")
        try:
            self._db.backup(copy)
            if copy.execute("PRAGMA quick_check(1)").fetchone()[0] != "ok":
                raise sqlite3.DatabaseError("it is damaged")
            for sql in without:
                copy.execute(sql)
                copy.commit()
            return copy.serialize()
        except sqlite3.Error as wrong:
            raise self._words(self.path, wrong) from wrong
        finally:
            copy.close()

    def close(self) -> None:
        self._db.close()
