"""The show file: every edit is saved as it is made, and undo works across restarts."""

import os
import signal
import sqlite3
import subprocess
import sys
import textwrap

import pytest

from zarfwright.core.errors import JobError
from zarfwright.store import showfile
from zarfwright.store.errors import ShowFileError
from zarfwright.store.showfile import JOURNAL_KEPT, SCHEMA_VERSION, ShowFile
from zarfwright.web.desk import Conflict, Desk


@pytest.fixture
def path(tmp_path):
    return tmp_path / "a.zarf"


def add_deck(desk, who="me", **args):
    return desk.edit(who, "add deck", args)["select"][0]


def test_a_show_opens_again_as_it_was_left(path):
    desk = Desk(path)
    deck = add_deck(desk, width="6m")
    rev = desk.session.rev
    desk.close()
    again = Desk(path)
    assert again.session.rev == rev
    assert again.show.items[deck].body.width_m == 6.0


def test_undo_and_redo_work_after_a_restart(path):
    desk = Desk(path)
    deck = add_deck(desk)
    desk.edit("me", "set field", {"ids": [deck], "field": "width", "text": "5"})
    desk.close()
    again = Desk(path)
    assert "Set width" in again.undo("me")["sentence"]
    assert again.show.items[deck].body.width_m == 2.0
    assert again.undo("me")["sentence"].startswith("Undo: Add Deck 1")
    assert deck not in again.show.items
    again.redo("me")
    again.redo("me")
    assert again.show.items[deck].body.width_m == 5.0
    with pytest.raises(JobError, match="nothing to redo"):
        again.redo("me")


def test_a_new_edit_after_undo_drops_what_could_be_redone(path):
    desk = Desk(path)
    add_deck(desk)
    desk.undo("me")
    add_deck(desk)
    with pytest.raises(JobError, match="nothing to redo"):
        desk.redo("me")


def test_undo_takes_back_ones_own_edit_and_says_when_anothers_hangs_on_it(path):
    desk = Desk(path)
    mine = add_deck(desk, "me")
    other = add_deck(desk, "you")
    desk.undo("me")
    assert mine not in desk.show.items
    assert other in desk.show.items
    mine = add_deck(desk, "me")
    desk.edit("you", "set field", {"ids": [mine], "field": "width", "text": "3"})
    with pytest.raises(Conflict, match="hangs on it"):
        desk.undo("me")


def test_an_edit_on_an_older_show_is_a_conflict_only_where_it_meets(path):
    desk = Desk(path)
    a, b = add_deck(desk), add_deck(desk)
    base = desk.session.rev
    desk.edit("you", "set field", {"ids": [a], "field": "width", "text": "3"}, base)
    desk.edit("me", "set field", {"ids": [b], "field": "width", "text": "4"}, base)
    with pytest.raises(Conflict, match="Somebody changed this"):
        desk.edit("me", "set field", {"ids": [a], "field": "width", "text": "5"}, base)
    assert desk.show.items[a].body.width_m == 3.0


def test_a_preview_stores_nothing(path):
    desk = Desk(path)
    deck = add_deck(desk)
    rev = desk.session.rev
    ghost = desk.preview("me", "move", {"ids": [deck], "by": [1, 0, 0]})["ghost"]
    assert ghost["scene"][0]["position"] == (1.0, 0.0, 0.0)
    assert desk.session.rev == rev
    assert desk.show.items[deck].body.position == (0.0, 0.0, 0.0)


def test_a_refused_edit_changes_nothing(path):
    desk = Desk(path)
    rev = desk.session.rev
    with pytest.raises(JobError):
        desk.edit("me", "add deck", {"width": "wide"})
    assert desk.session.rev == rev
    assert desk.session.history() == []


def test_the_journal_keeps_its_latest_entries(path, monkeypatch):
    monkeypatch.setattr("zarfwright.store.showfile.JOURNAL_KEPT", 5)
    desk = Desk(path)
    for _ in range(8):
        add_deck(desk)
    assert len(desk.session.history()) == 5
    assert JOURNAL_KEPT == 2000


def test_files_of_a_newer_version_of_others_and_rubbish_are_refused_by_name(path, tmp_path):
    ShowFile(path).close()
    db = sqlite3.connect(path)
    db.execute(f"PRAGMA user_version = {SCHEMA_VERSION + 1}")
    db.close()
    with pytest.raises(ShowFileError, match="newer Zarfwright"):
        ShowFile(path)
    other = tmp_path / "other.zarf"
    db = sqlite3.connect(other)
    db.execute("CREATE TABLE recipes (name TEXT)")
    db.commit()
    db.close()
    with pytest.raises(ShowFileError, match="another program"):
        ShowFile(other)
    rubbish = tmp_path / "rubbish.zarf"
    rubbish.write_bytes(b"not a database at all" * 100)
    with pytest.raises(ShowFileError, match=r"rubbish\.zarf"):
        ShowFile(rubbish)


def test_a_gdtf_is_kept_byte_for_byte_and_a_broken_one_not_at_all(path):
    from zarfwright.formats.findings import FormatError
    from zarfwright.formats.gdtf import write_gdtf
    from zarfwright.library import heron
    from zarfwright.web.types import kept_gdtf

    desk = Desk(path)
    data = write_gdtf(heron())
    sha = desk.session.keep("heron.gdtf", data)
    desk.edit("me", "add type", {"name": "Heron", "maker": "Q", "asset": sha})
    desk.close()
    again = Desk(path)
    assert again.session.asset(sha) == ("heron.gdtf", data)
    assert [t.name for t in again.show.types.values()] == ["Heron"]
    with pytest.raises(FormatError):
        kept_gdtf(again, "broken.gdtf", b"nope")
    assert again.session._file.db.value("SELECT count(*) FROM assets") == 1


def test_killed_in_the_middle_of_an_edit_the_file_holds_all_of_it_or_nothing(path):
    program = textwrap.dedent("""
        import os, signal, sys
        from pathlib import Path
        from zarfwright.store import showfile
        from zarfwright.web.desk import Desk
        desk = Desk(Path(sys.argv[1]))
        desk.edit("me", "add deck", {"name": "Kept"})
        real = showfile._apply
        def half(db, changes):
            made = list(changes)
            real(db, made[: len(made) // 2])
            os.kill(os.getpid(), signal.SIGKILL)
        showfile._apply = half
        desk.edit("me", "add figures", {"columns": "10"})
    """)
    ended = subprocess.run([sys.executable, "-c", program, str(path)], env={**os.environ}, check=False)
    assert ended.returncode == -signal.SIGKILL
    desk = Desk(path)
    assert [item.name for item in desk.show.of_kind("deck")] == ["Kept"]
    assert desk.show.of_kind("figure") == []
    desk.undo("me")
    assert desk.show.of_kind("deck") == []


def test_a_file_of_an_older_version_is_brought_forward_and_kept_as_it_was(path, monkeypatch):
    desk = Desk(path)
    add_deck(desk, name="Raft")
    desk.close()
    monkeypatch.setattr(showfile, "SCHEMA_VERSION", SCHEMA_VERSION + 1)
    monkeypatch.setattr(
        showfile, "MIGRATIONS", {SCHEMA_VERSION: "ALTER TABLE notes ADD COLUMN tag TEXT NOT NULL DEFAULT '';"}
    )
    looked = ShowFile(path, look=True)
    assert [item.name for item in looked.items().values() if item.kind == "deck"] == ["Raft"]
    looked.close()
    ShowFile(path).close()
    kept = path.with_name(f"a (version {SCHEMA_VERSION}).zarf")
    versions = [sqlite3.connect(one).execute("PRAGMA user_version").fetchone()[0] for one in (kept, path)]
    assert versions == [SCHEMA_VERSION, SCHEMA_VERSION + 1]
    columns = [row[1] for row in sqlite3.connect(path).execute("PRAGMA table_info(notes)")]
    assert "tag" in columns
    # What was kept is a whole show, for the older program.
    monkeypatch.undo()
    older = Desk(kept)
    assert [item.name for item in older.show.of_kind("deck")] == ["Raft"]
    older.undo("me")
    older.close()
    with pytest.raises(ShowFileError, match="newer Zarfwright"):
        ShowFile(path)


def test_an_older_file_stays_as_it_is_where_it_cannot_be_kept(path, monkeypatch):
    ShowFile(path).close()
    before = path.read_bytes()
    monkeypatch.setattr(showfile, "SCHEMA_VERSION", SCHEMA_VERSION + 1)
    monkeypatch.setattr(showfile, "MIGRATIONS", {SCHEMA_VERSION: ""})

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(type(path), "write_bytes", full)
    with pytest.raises(ShowFileError, match="no room to keep it as it was"):
        ShowFile(path)
    assert path.read_bytes() == before
