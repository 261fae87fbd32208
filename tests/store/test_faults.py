"""A show file that fails, is damaged, is none, or is open already: said in words; the show in memory stays whole."""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest

from tests.processes import PATIENCE_S, wait_for
from zarfwright.cli import main
from zarfwright.core.looks.look import Look
from zarfwright.core.settings import Settings
from zarfwright.demo.build import build_first_part
from zarfwright.store.errors import ShowFileError
from zarfwright.store.showfile import ShowFile
from zarfwright.web.desk import Desk


@pytest.fixture
def path(tmp_path):
    return tmp_path / "a.zarf"


@pytest.fixture
def desk(path):
    made = Desk(path)
    made.edit("me", "add deck", {"name": "Kept"})
    yield made
    made.close()


@pytest.fixture(scope="module")
def demo(tmp_path_factory):
    made = tmp_path_factory.mktemp("demo") / "demo.zarf"
    build_first_part(made)
    return made


def names(data: bytes, folder: Path) -> set[str]:
    """What decks a copy holds."""
    copy = folder / "copy.zarf"
    copy.write_bytes(data)
    file = ShowFile(copy)
    found = {item.name for item in file.items().values() if item.kind == "deck"}
    file.close()
    return found


def fill_disk(desk: Desk) -> None:
    """As many pages as there are and no more: SQLite says the same as of a full disk."""
    database = desk.session._file.db
    database.run(f"PRAGMA max_page_count = {database.value('PRAGMA page_count')}")


def test_a_full_disk_is_said_loses_nothing_and_is_got_over(desk, tmp_path):
    fill_disk(desk)
    rev, before = desk.session.rev, dict(desk.show.items)
    for edit in (
        lambda: desk.edit("me", "add figures", {"columns": "40", "rows": "40"}),
        lambda: desk.session.keep("large.bin", os.urandom(2**20)),
    ):
        with pytest.raises(ShowFileError, match=r"a\.zarf .*the disk is full. Make room"):
            edit()
    assert (desk.session.rev, dict(desk.show.items)) == (rev, before)
    assert names(desk.session.copied(), tmp_path) == {"Kept"}
    desk.session._file.db.run("PRAGMA max_page_count = 1000000")
    desk.edit("me", "add deck", {"name": "Later"})
    desk.undo("me")
    assert {item.name for item in desk.show.of_kind("deck")} == {"Kept"}


def test_a_file_that_became_read_only_is_said_and_can_be_saved_elsewhere(desk, tmp_path):
    desk.session._file.db.run("PRAGMA query_only = ON")
    with pytest.raises(ShowFileError, match=r"can only be read.*Save a copy"):
        desk.edit("me", "add deck", {"name": "Lost"})
    assert names(desk.session.copied(), tmp_path) == {"Kept"}


@pytest.mark.parametrize("how", ["removed", "replaced"])
def test_a_file_that_is_gone_is_not_written_to_unseen(desk, path, tmp_path, how):
    if how == "removed":
        path.unlink()
    else:
        os.replace(shutil.copy(path, tmp_path / "other"), path)
    with pytest.raises(ShowFileError, match="Save a copy elsewhere"):
        desk.edit("me", "add deck", {"name": "Lost"})
    assert names(desk.session.copied(), tmp_path) == {"Kept"}


def test_what_is_damaged_while_it_is_open_is_saved_from_memory(desk, path, tmp_path):
    desk.session.keep("a.bin", b"x" * 50_000)
    desk.session._file.db.run("PRAGMA wal_checkpoint(TRUNCATE)")
    with path.open("r+b") as file:
        file.seek(8192)
        file.write(os.urandom(path.stat().st_size - 8192))
    # What the program has read already stays with it: let it forget.
    desk.session._file.db.run("PRAGMA shrink_memory")
    assert names(desk.session.copied(), tmp_path) == {"Kept"}


def without_tables(path: Path) -> None:
    db = sqlite3.connect(path)
    db.execute("DROP TABLE journal")
    db.close()


def version_zero(path: Path) -> None:
    db = sqlite3.connect(path)
    db.execute("PRAGMA user_version = 0")
    db.close()


@pytest.mark.parametrize(
    ("harm", "says"),
    [
        (lambda path: path.write_bytes(b""), "is an empty file"),
        (lambda path: path.write_text("Dear all,\n" * 300), "is not a show file"),
        (version_zero, "is not whole"),
        (without_tables, "is not whole"),
        (lambda path: path.write_bytes(path.read_bytes()[:5000]), "a.zarf"),
        (lambda path: (path.unlink(), path.mkdir()), "a.zarf"),
    ],
)
def test_what_is_no_show_file_is_refused_in_a_sentence_by_every_command(path, harm, says, capsys):
    ShowFile(path).close()
    harm(path)
    for command in (["check", str(path)], ["serve", str(path), "--port", "0"], ["export", "patch", str(path)]):
        assert main(command) == 2
        said = capsys.readouterr().err
        assert says in said
        assert said.startswith("zarfwright: ")
        assert "Traceback" not in said
    assert not Path(f"{path}-lock").exists()


def damaged(demo: Path, path: Path, kind: str, body: str) -> str:
    """A copy of the demo with one thing of a kind damaged; its id."""
    shutil.copy(demo, path)
    db = sqlite3.connect(path)
    db.execute("PRAGMA ignore_check_constraints = ON")
    (item,) = db.execute("SELECT id FROM objects WHERE kind = ? ORDER BY ord LIMIT 1", (kind,)).fetchone()
    db.execute("UPDATE objects SET body = ? WHERE id = ?", (body, item))
    db.commit()
    db.close()
    return str(item)


@pytest.mark.parametrize("kind", ["show", "venue", "deck", "truss", "figure", "type", "fixture", "look"])
@pytest.mark.parametrize("body", ['{"number": "thing", "name": 7}', '["none"]', '{"name": {"name": 1}}'])
def test_a_show_with_a_damaged_row_opens_and_says_so(demo, path, kind, body):
    item = damaged(demo, path, kind, body)
    desk = Desk(path)
    said = [finding["text"] for finding in json.loads(desk.document("me"))["findings"] or ()]
    assert any(f"A {kind} in the file cannot be read" in text or "was damaged in the file" in text for text in said)
    # And it is worked on like any other, and saved as a whole.
    desk.edit("me", "add deck", {"name": "After"})
    lamps = [one.id for one in desk.show.of_kind("fixture")][:2]
    desk.edit("me", "hold values", {"ids": lamps, "values": {"dimmer": 0.5}})
    desk.session.copied()
    desk.close()
    # What could not be read is still there, for whoever can.
    db = sqlite3.connect(path)
    assert db.execute("SELECT count(*) FROM objects WHERE id = ?", (item,)).fetchone() == (1,)
    db.close()


def test_numbers_that_are_none_are_left_out_of_a_look_and_of_the_settings(demo, path):
    look = damaged(demo, path, "look", "{}")
    db = sqlite3.connect(path)
    db.execute("PRAGMA ignore_check_constraints = ON")
    values = '{"a": {"pan": NaN, "dimmer": 0.5}, "b": {"dimmer": 1e999}, "c": {"tilt": null}}'
    db.execute(
        "UPDATE objects SET body = ? WHERE id = ?", (f'{{"name": "Ebb", "number": 7, "values": {values}}}', look)
    )
    body = json.loads(db.execute("SELECT body FROM objects WHERE kind = 'show'").fetchone()[0])
    text = json.dumps({**body, "haze_per_m": float("nan"), "exposure_ev": None})
    db.execute("UPDATE objects SET body = ? WHERE kind = 'show'", (text,))
    db.commit()
    db.close()
    desk = Desk(path)
    kept = desk.show.body(look, Look)
    assert kept.values == {"a": {"dimmer": 0.5}, "b": {}, "c": {}}
    plain = Settings()
    assert (desk.show.settings.haze_per_m, desk.show.settings.exposure_ev) == (plain.haze_per_m, plain.exposure_ev)
    assert desk.show.settings.name == body["name"]
    said = [finding["text"] for finding in desk.finder.all(desk.show)]
    assert any("Ebb was damaged in the file: values.a.pan, values.b.dimmer, values.c.tilt" in text for text in said)
    # Once it is changed it is whole again, also in the file.
    desk.edit("me", "update look", {"id": look, "values": {desk.show.of_kind("fixture")[0].id: {"dimmer": 1}}})
    assert not any("Ebb was damaged" in finding["text"] for finding in desk.finder.all(desk.show))
    desk.close()


def test_a_show_whose_files_are_damaged_opens_without_them(demo, path):
    shutil.copy(demo, path)
    db = sqlite3.connect(path)
    db.execute("UPDATE assets SET bytes = x'00'")
    db.commit()
    db.close()
    desk = Desk(path)
    document = json.loads(desk.document("me"))
    assert document["types"] == {}
    said = " ".join(finding["text"] for finding in desk.finder.all(desk.show))
    assert "The file of the type Heron is missing or damaged" in said
    desk.edit("me", "add deck", {"name": "After"})
    desk.close()


def test_two_programs_never_have_one_show_open(desk, path, capsys):
    with pytest.raises(ShowFileError, match=rf"open in another Zarfwright already \(process {os.getpid()}\)"):
        ShowFile(path)
    assert main(["serve", str(path), "--port", "0"]) == 2
    assert "is open in another Zarfwright already" in capsys.readouterr().err
    # Nor is it built anew under its hands.
    assert main(["demo", "--file", str(path), "--fresh", "--port", "0"]) == 2
    assert path.exists()
    assert "is open in another Zarfwright already" in capsys.readouterr().err
    # Lists and checks read it all the same, and nothing can be written that way.
    assert main(["check", str(path)]) == 0
    looking = Desk(path, look=True)
    with pytest.raises(ShowFileError, match="can only be read"):
        looking.edit("you", "add deck", {})
    looking.close()
    desk.edit("me", "add deck", {"name": "Still mine"})


def test_a_lock_goes_with_its_process(path):
    program = "import sys, time; from pathlib import Path; from zarfwright.web.desk import Desk\n"
    program += (
        "Desk(Path(sys.argv[1])).edit('me', 'add deck', {'name': 'Theirs'})\nprint('open', flush=True)\ntime.sleep(60)"
    )
    other = subprocess.Popen([sys.executable, "-c", program, str(path)], stdout=subprocess.PIPE)
    assert other.stdout.readline() == b"open\n"
    with pytest.raises(ShowFileError, match=f"process {other.pid}"):
        Desk(path)
    other.kill()
    other.wait(PATIENCE_S)
    desk = wait_for(lambda: Desk(path), "the show to open")
    assert [item.name for item in desk.show.of_kind("deck")] == ["Theirs"]
    desk.close()
    assert not Path(f"{path}-lock").exists()
