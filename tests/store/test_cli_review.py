"""`lux` and `sight` without a browser: their keys, and that they agree with `probe` and with each other."""

from __future__ import annotations

import json

import numpy as np
import pytest
from PIL import Image

from zarfwright.cli.commands import main
from zarfwright.core.seats import seats
from zarfwright.demo.build import build_first_part
from zarfwright.web.desk import Desk


@pytest.fixture(scope="module")
def show_file(tmp_path_factory):
    path = tmp_path_factory.mktemp("review") / "part.zarf"
    build_first_part(path)
    return path


def told(capsys, *words):
    status = main([*map(str, words), "--json"])
    return status, json.loads(capsys.readouterr().out)


def test_every_point_of_a_map_is_what_probe_says_there(show_file, capsys, tmp_path):
    status, answer = told(capsys, "lux", show_file, "--look", "1", "--plane", "-3,0,3,4,1.1", "--points", "3x2")
    assert status == 0
    assert answer["points"] == [3, 2]
    lux = np.array(answer["lux"])
    assert lux.shape == (2, 3)
    for row, y in enumerate((1, 3)):
        for column, x in enumerate((-2, 0, 2)):
            _, there = told(capsys, "probe", show_file, "--look", "1", "--at", f"{x},{y},1.1")
            assert lux[row, column] == pytest.approx(there["lux"], rel=1e-5, abs=1e-6)
    assert answer["mean"] == pytest.approx(lux.mean(), rel=1e-6)
    assert answer["max"] == pytest.approx(lux.max())
    assert answer["evenness"] == pytest.approx(lux.min() / lux.mean(), abs=1e-6)
    out = tmp_path / "map.png"
    words = ["lux", show_file, "--look", "1", "--plane", "3,4,-3,0,1.1", "--points", "6x4", "--csv", "--png", out]
    assert main([*map(str, words)]) == 0
    lines = capsys.readouterr().out.lstrip("\ufeff").splitlines()
    assert lines[0] == "x_m,y_m,z_m,lux,cct_k"
    assert len(lines) == 25
    assert lines[1].startswith("-2.5000,0.5000,1.1000,")
    with Image.open(out) as image:
        assert image.size[0] == 960


def test_faces_are_turned_to_a_place_or_look_in_a_direction(show_file, capsys):
    plane = ["lux", show_file, "--look", "1", "--plane", "-1,1,1,3,1.6", "--points", "1x1"]
    _, towards = told(capsys, *plane, "--facing", "0,-12,9")
    _, straight = told(capsys, *plane, "--facing", "0,-1,0")
    _, probed = told(capsys, "probe", show_file, "--look", "1", "--at", "0,2,1.6", "--normal", "0,-1,0")
    assert towards["lux"] == straight["lux"]
    assert straight["mean"] == pytest.approx(probed["lux"], rel=1e-5)


def test_every_seat_is_asked_what_it_sees(show_file, capsys):
    status, answer = told(capsys, "sight", show_file, "--at", "0,2,9")
    desk = Desk(show_file, look=True)
    every = seats(desk.show)
    desk.close()
    assert status == 0
    assert [one["seat"] for one in answer["seats"]] == [seat.name for seat in every]
    assert answer["of"] == len(every)
    assert answer["seeing"] == sum(one["seen"] >= 0.5 for one in answer["seats"])
    assert all((one["seen"] < 1) == bool(one["hidden_by"]) for one in answer["seats"])
    # What lies under the stage nobody sees.
    status, answer = told(capsys, "sight", show_file, "--at", "0,2,0.3")
    assert (status, answer["seeing"]) == (1, 0)
    assert main(["sight", str(show_file), "--at", "0,2,9"]) == 0
    assert f"of {len(every)} see it" in capsys.readouterr().out


@pytest.mark.parametrize("words", [
    ["lux", "--plane", "1,2,3"], ["lux", "--plane", "0,0,0,4,1"], ["lux", "--plane", "0,0,4,4,nan"],
    ["lux", "--plane", "0,0,4,4,1", "--points", "0x4"], ["lux", "--plane", "0,0,4,4,1", "--look", "99"],
    ["lux", "--plane", "0,0,4,4,1", "--facing", "0,0,0"], ["sight", "--at", "1,2"],
    ["sight", "--at", "0,0,1", "--size", "-1"],
])  # fmt: skip
def test_what_is_no_question_is_refused_with_a_sentence(show_file, capsys, words):
    try:
        status = main([words[0], str(show_file), *words[1:]])
    except SystemExit as ended:
        status = ended.code
    assert status == 2
    assert capsys.readouterr().err.strip()
