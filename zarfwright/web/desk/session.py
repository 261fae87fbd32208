"""The open show in memory, and the one way in which it changes: work out, store, apply, say so."""

from __future__ import annotations

import threading
import uuid
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path
from typing import Any

from zarfwright.core.edits import Around, Edit, Prepared, prepare
from zarfwright.core.errors import JobError
from zarfwright.core.show import Change, Item, Show
from zarfwright.store.errors import ShowFileError
from zarfwright.store.showfile import ShowFile, changes_from_json
from zarfwright.web.desk.reading import Reading, names_files


class Conflict(Exception):
    """An edit was made on an older show than there is, or stands in the way of an undo."""


def new_id() -> str:
    return uuid.uuid4().hex


@dataclass(frozen=True)
class Applied:
    """Changes that are stored: the show after them, who made them, and the edit that they come of (None: an undo)."""

    show: Show
    rev: int
    who: str
    sentence: str
    changes: tuple[Change, ...]
    edit: Edit | None = None
    update: dict[str, Any] | None = None
    """What every browser was told of it."""

    @cached_property
    def touched(self) -> set[str]:
        return {change.id for change in self.changes}

    @cached_property
    def kinds(self) -> set[str]:
        return {item.kind for change in self.changes for item in (change.before, change.after) if item is not None}

    @property
    def items(self) -> list[Item]:
        """The items that were made or changed, as they are now."""
        return [change.after for change in self.changes if change.after is not None]


class Session:
    """The open show and its file. Every public method may be called from any thread; edits are done one by one.

    `applied` tells everybody of what is stored, and gives what it told. It is called with the lock in hand, so that all
    is told in order: it may not wait for anything.
    """

    def __init__(
        self, path: Path, applied: Callable[[Applied], dict[str, Any] | None] = lambda _: None, look: bool = False
    ) -> None:
        """Open a show file; with `look` only to read it. Raises ShowFileError."""
        self.lock = threading.RLock()
        self.applied = applied
        self._take(ShowFile(path, look))

    def _take(self, file: ShowFile) -> None:
        """Let this file be the open show."""
        self._file = file
        self.show_id, self.rev, self.path = file.show_id, file.rev, file.path
        self.reading = Reading(self.asset)
        items, damage = file.read()
        self.show = self.reading.with_files(Show(items, damage=damage))

    def open(self, path: Path) -> bool:
        """Open another show file in place of this one; False where it is open already. Raises ShowFileError, and then
        keeps the one that is open."""
        with self.lock:
            if path.resolve() == self.path.resolve():
                return False
            before, opened = self._file, ShowFile(path)
            try:
                self._take(opened)
            except Exception as wrong:
                opened.close()
                self._take(before)
                raise ShowFileError(f"{path.name} cannot be opened: {wrong}") from wrong
            before.close()
            return True

    def now(self) -> tuple[Show, int]:
        """The show and its revision, of the same moment."""
        with self.lock:
            return self.show, self.rev

    # Edits

    def see(self, kind: str, args: dict[str, Any], around: Around) -> tuple[Show, int, Edit]:
        """What an edit would come to: the show that it was worked out on, its revision, the edit. Raises JobError."""
        show, rev = self.now()
        prepared = prepare(show, kind, args, around)
        return self.see_prepared(prepared.answered([call() for call in prepared.calls()]), rev)

    def see_prepared(self, prepared: Prepared, rev: int) -> tuple[Show, int, Edit]:
        """What an edit that has all it needs would come to on the show of that revision. As `see` does."""
        return prepared.show, rev, prepared.on(prepared.show, new_id)

    def edit(self, who: str, kind: str, args: dict[str, Any], around: Around, base_rev: int | None = None) -> Applied:
        """Do an edit. Raises JobError, or Conflict when somebody changed the same things since `base_rev`."""
        prepared = prepare(self.show, kind, args, around)
        # What takes long is done here, with nothing locked; a job has done it already.
        return self.edit_prepared(who, kind, prepared.answered([call() for call in prepared.calls()]), base_rev)

    def edit_prepared(self, who: str, kind: str, prepared: Prepared, base_rev: int | None = None) -> Applied:
        """Do an edit that has all it needs. Raises as `edit` does."""
        with self.lock:
            edit = prepared.on(self.show, new_id)
            self._require_base(edit, who, base_rev)
            if not edit.changes:
                return Applied(self.show, self.rev, who, edit.sentence, (), edit)
            self.rev = self._file.store_edit(who, kind, edit.sentence, edit.changes)
            return self._apply(who, edit.sentence, edit.changes, edit, prepared.files_into(self.show))

    def _require_base(self, edit: Edit, who: str, base_rev: int | None) -> None:
        if base_rev is None or base_rev >= self.rev:
            return
        changed_since = self._file.ids_changed_since(base_rev, who)
        if changed_since & {change.id for change in edit.changes}:
            raise Conflict("Somebody changed this in the meantime: look at it as it is now and do it again.")

    def _apply(
        self, who: str, sentence: str, changes: Iterable[Change], edit: Edit | None = None, known: Show | None = None
    ) -> Applied:
        """Bring memory up to date with stored changes, and say so. What `known` has of files is not read again."""
        made = tuple(changes)
        show = self.show.after(made)
        if names_files(item for change in made for item in (change.before, change.after) if item is not None):
            show = self.reading.with_files(show, known or self.show)
        self.show = show
        done = Applied(show, self.rev, who, sentence, made, edit)
        return replace(done, update=self.applied(done))

    def undo(self, who: str) -> Applied:
        """Take back one's own last edit. Raises JobError when there is none, Conflict when a later edit hangs on it."""
        with self.lock:
            entry = self._file.last_done(who)
            if entry is None:
                raise JobError("There is nothing to undo.")
            changes = [change.undone() for change in reversed(changes_from_json(entry["changes"]))]
            later = self._file.in_the_way(entry["seq"], {change.id for change in changes})
            if later:
                raise Conflict(f"“{entry['sentence']}” cannot be undone: “{later}” hangs on it. Undo that first.")
            self.rev = self._file.mark(entry["seq"], True, changes)
            return self._apply(who, f"Undo: {entry['sentence']}", changes)

    def redo(self, who: str) -> Applied:
        """Make again what was undone last. Raises JobError when there is nothing."""
        with self.lock:
            entry = self._file.first_undone()
            if entry is None:
                raise JobError("There is nothing to redo.")
            changes = changes_from_json(entry["changes"])
            self.rev = self._file.mark(entry["seq"], False, changes)
            return self._apply(who, f"Redo: {entry['sentence']}", changes)

    def go_back(self, who: str, seq: int | None, point: int | None) -> Applied:
        """Bring the show back to a restore point, or to how it was after an entry of the journal, as one edit that can
        be undone. Raises JobError when nothing is different, or the history no longer reaches back."""
        with self.lock:
            then = self._as_at_point(point) if point is not None else self._as_after(seq or 0)
            changes = [
                Change(now, replace(was, rev=now.rev + 1) if was is not None and now is not None else was)
                for key, was in then.items()
                if not _alike(now := self.show.items.get(key), was)
            ]
            if not changes:
                raise JobError("The show is as it was then.")
            sentence = f"Go back: {len(changes)} things as they were"
            self.rev = self._file.store_edit(who, "go back", sentence, changes)
            return self._apply(who, sentence, changes, Edit(tuple(changes), sentence))

    def _as_at_point(self, point: int) -> dict[str, Item | None]:
        items = self._file.items_at(point)
        if items is None:
            raise JobError("That restore point is no longer there: choose another.")
        return {key: items.get(key) for key in {*items, *self.show.items}}

    def _as_after(self, seq: int) -> dict[str, Item | None]:
        since = self._file.done_since(seq)
        if since is None:
            raise JobError("The history no longer reaches back to there: choose a later point.")
        then: dict[str, Item | None] = {}
        for change in since:
            then.setdefault(change.id, change.before)
        return then

    # History

    def undoable(self, who: str) -> tuple[str | None, str | None]:
        """The sentences of the edits that undo would take back and redo would make again."""
        with self.lock:
            last, undone = self._file.last_done(who), self._file.first_undone()
        return (last["sentence"] if last else None), (undone["sentence"] if undone else None)

    def history(self) -> list[dict[str, Any]]:
        """The latest edits, newest first."""
        with self.lock:
            return self._file.history()

    def points(self) -> list[dict[str, Any]]:
        """The named restore points, newest first."""
        with self.lock:
            return self._file.points()

    def show_at(self, point: int) -> Show | None:
        """The whole show as it was at a restore point, with what its items name; None where there is no such point."""
        with self.lock:
            items = self._file.items_at(point)
            return self.reading.with_files(Show(items), self.show) if items is not None else None

    def name_point(self, name: str) -> None:
        """Keep the show as it is now under a name."""
        with self.lock:
            self._file.name_point(name)

    # The file

    def keep(self, name: str, data: bytes) -> str:
        """Keep a file among the assets; gives its asset."""
        with self.lock:
            return self._file.keep_asset(name, data)

    def asset(self, asset: str) -> tuple[str, bytes] | None:
        """Name and bytes of a file among the assets."""
        with self.lock:
            return self._file.asset(asset)

    def keep_picture(self, look: str, made_of: str, jpeg: bytes) -> None:
        """Keep what a look looks like, of a state of the show."""
        with self.lock:
            self._file.keep_picture(look, made_of, jpeg)

    def pictures(self) -> dict[str, str]:
        """Of which state of the show the picture of each look is, that has one."""
        with self.lock:
            return self._file.pictures()

    def picture(self, look: str) -> bytes | None:
        """What a look looks like, as JPEG; None where nobody has drawn it."""
        with self.lock:
            return self._file.picture(look)

    def copied(self, history: bool = True) -> bytes:
        """The whole show as another file, as it is now. Where its own can no longer be read: what is in memory, with
        the files of it that can be had, without its history."""
        with self.lock:
            try:
                return self._file.copied(history)
            except ShowFileError:
                return self._file.made_anew(self.show_id, self.show.items.values())

    def close(self) -> None:
        """Close the file; every edit is in it already."""
        with self.lock:
            self._file.close()


def _alike(now: Item | None, was: Item | None) -> bool:
    """Whether two states of an item are the same but for their count of changes."""
    if now is None or was is None:
        return now is was
    return replace(now, rev=0) == replace(was, rev=0)
