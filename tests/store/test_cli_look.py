"""Looks without a browser: listed, shown, compared, and what a running order shows at a time."""

import json
import shutil

import pytest

from tests.conftest import Workbench
from zarfwright.cli import main
from zarfwright.demo.build import build_first_part
from zarfwright.web.desk import Desk


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    path = tmp_path_factory.mktemp("looks") / "first.zarf"
    build_first_part(path)
    return path


@pytest.fixture
def show_file(made, tmp_path):
    path = tmp_path / "copy.zarf"
    shutil.copy(made, path)
    return path


def told(capsys, *words):
    status = main([str(word) for word in words] + ["--json"])
    return status, json.loads(capsys.readouterr().out)


def test_looks_are_listed_by_their_numbers_with_who_is_lit(show_file, capsys):
    status, answer = told(capsys, "look", "list", show_file)
    assert status == 0
    assert [(one["number"], one["name"]) for one in answer["looks"]] == [(1, "Slack Water"), (2, "Flood"), (3, "Ebb")]
    assert all(one["fixtures"] == 29 and 0 < one["lit"] <= 29 for one in answer["looks"])
    assert main(["look", "list", str(show_file)]) == 0
    assert "Flood" in capsys.readouterr().out


def test_a_look_is_shown_by_fixture_in_degrees_with_its_carriers(show_file, capsys):
    status, answer = told(capsys, "look", "show", show_file, "3")
    assert status == 0
    said = answer["fixtures"]["61"]
    assert said["dimmer"] == 0.4
    assert -540 <= said["pan_deg"] <= 540
    # Who shares a number with another is named by id: nobody is lost.
    assert len(answer["fixtures"]) == 29
    assert main(["look", "show", str(show_file), "77"]) == 2


def test_two_looks_are_compared_in_words_and_numbers(show_file, capsys):
    status, answer = told(capsys, "look", "diff", show_file, "1", "3")
    assert status == 1
    assert answer["groups"]
    assert all(group["fixtures"] and group["text"] for group in answer["groups"])
    before, after = answer["fixtures"]["61"]["dimmer"]
    assert after == 0.4
    assert before != after
    status, same = told(capsys, "look", "diff", show_file, "2", "2")
    assert (status, same) == (0, {"groups": [], "fixtures": {}})
    assert main(["look", "diff", str(show_file), "2", "2"]) == 0
    assert "the same" in capsys.readouterr().out


def test_a_running_order_is_asked_for_any_time(show_file, capsys):
    desk = Desk(show_file)
    order = desk.edit("me", "add order", {"name": "Evening"})["select"][0]
    steps = desk.show.items[order].body.steps
    desk.edit("me", "set step", {"id": order, "steps": [step.key for step in steps], "fade_in": "2", "hold": "4"})
    desk.close()
    status, start = told(capsys, "look", "at", show_file, "--order", "evening", "--time", "0")
    assert (status, start["total_s"]) == (0, 18.0)
    _, ebb = told(capsys, "look", "show", show_file, "3")
    _, end = told(capsys, "look", "at", show_file, "--order", "Evening", "--time", "18")
    assert end["fixtures"]["61"]["dimmer"] == ebb["fixtures"]["61"]["dimmer"]
    _, half = told(capsys, "look", "at", show_file, "--order", "Evening", "--time", "13")
    _, flood = told(capsys, "look", "show", show_file, "2")
    middle = (flood["fixtures"]["61"]["dimmer"] + 0.4) / 2
    assert half["fixtures"]["61"]["dimmer"] == pytest.approx(middle, abs=1e-3)
    assert main(["look", "at", str(show_file), "--order", "Matinee", "--time", "1"]) == 2
    assert "there is: Evening" in capsys.readouterr().err


def test_the_cells_of_a_batten_that_differ_are_listed(tmp_path, capsys):
    from zarfwright.cli.look import said_out
    from zarfwright.core.looks.said import said_of

    bench = Workbench()
    truss = bench.made("add truss", length="8m", start_trim="6m")
    (one,) = bench.do("place along rail", structure=truss, type="heron", count="1", first_number="7").select
    said = said_of({f"{one}/1": {"dimmer": 0.2, "red": 1.0}, f"{one}/2": {"dimmer": 0.4, "red": 1.0}})
    assert said_out(bench.show, said) == {"7": {"dimmer": [0.2, 0.4], "red": 1.0}}
