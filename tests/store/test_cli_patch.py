"""`patch compare` without a browser: a console's list of two hundred fixtures with one in another mode."""

from __future__ import annotations

import json
from types import SimpleNamespace

from tests.core.test_patching import rig, rows_of
from zarfwright.cli.commands import main
from zarfwright.formats.csv import write_csv


def list_of(path, rows):
    lines = [(str(r.number), r.type, r.mode, str(r.place.universe), str(r.place.address)) for r in reversed(rows)]
    path.write_bytes(write_csv(("Chan", "Fixture type", "Mode", "Univ", "Addr"), lines))


def test_the_cause_is_named_with_all_that_it_shifts(tmp_path, capsys, monkeypatch):
    bench = rig(200)
    path = tmp_path / "console.csv"
    list_of(path, rows_of(bench, {66: "Extended"}))
    desk = SimpleNamespace(show=bench.show, close=lambda: None)
    monkeypatch.setattr("zarfwright.cli.patch.Desk", lambda *_, **__: desk)
    assert main(["patch", "compare", "show.zarf", str(path), "--json"]) == 1
    answer = json.loads(capsys.readouterr().out)
    cause = answer["causes"][0]
    assert (cause["cause"], cause["from"], cause["fixtures"][:2]) == ("other_mode", "3.017", [66, 67])
    assert answer["lines"][0] == {
        "number": 66,
        "kind": "mode",
        "ours": {"type": "Heron", "mode": "Standard", "address": "3.017"},
        "theirs": {"type": "Heron", "mode": "Extended", "address": "3.017"},
    }
    assert answer["same"] == 200 - 31
    list_of(path, rows_of(bench))
    assert main(["patch", "compare", "show.zarf", str(path)]) == 0
    assert "200 fixtures are the same" in capsys.readouterr().out


def test_a_list_without_numbers_and_a_file_that_is_not_there_are_said(tmp_path, capsys):
    path = tmp_path / "console.csv"
    path.write_text("what,ever\n1,2\n")
    assert main(["patch", "compare", "show.zarf", str(path)]) == 2
    assert "No column holds the numbers" in capsys.readouterr().err
    assert main(["patch", "compare", "show.zarf", str(tmp_path / "none.csv")]) == 2
    assert "cannot be read" in capsys.readouterr().err
