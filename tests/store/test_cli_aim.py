"""`aim` and `probe` without a browser: their keys, the numbers behind them, and how they end."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest

from zarfwright.cli.commands import main
from zarfwright.core.aiming.solve import direction_in_show
from zarfwright.core.aiming.yokes import chain_for
from zarfwright.core.optics.colour import cct_k, white_xy
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.space import unit
from zarfwright.demo.build import build_first_part
from zarfwright.web.desk import Desk


@pytest.fixture(scope="module")
def show_file(tmp_path_factory):
    path = tmp_path_factory.mktemp("aim") / "part.zarf"
    build_first_part(path)
    return path


def told(capsys, *words):
    status = main([*map(str, words), "--json"])
    return status, json.loads(capsys.readouterr().out)


def test_every_solution_of_the_command_looks_at_the_place_as_bytes_too(show_file, capsys):
    at = (-1.5, 3.0, 1.6)
    status, answer = told(capsys, "aim", show_file, "--fixtures", "all", "--at", "-1.5,3.0,1.6")
    assert status in (0, 1)
    desk = Desk(show_file, look=True)
    assert {one["number"] for one in answer["fixtures"]} <= {body.number for _, body in desk.show.fixtures()}
    seen = 0
    for one in answer["fixtures"]:
        fixture = desk.show.body(one["id"], Fixture)
        chain, mount = chain_for(desk.show, fixture), clamp_placement(desk.show, fixture)
        assert one["taken"] == 0
        for way in one["solutions"]:
            pan, tilt = math.radians(way["pan_deg"]), math.radians(way["tilt_deg"])
            lens, direction = direction_in_show(chain, mount, pan, tilt)
            off = math.degrees(math.acos(min(1.0, float(direction @ unit(np.array(at) - lens)))))
            assert off == pytest.approx(way["missing_deg"], abs=0.01)
            assert way["reaches"] == (way["missing_deg"] == 0)
            for name, low, high in (("Pan", *chain.pan_range), ("Tilt", *chain.tilt_range)):
                if not chain.moves:
                    assert way["dmx"] == {}
                    continue
                data = way["dmx"][name]
                share = int.from_bytes(bytes(data), "big") / (256 ** len(data) - 1)
                heard, meant = low + share * (high - low), pan if name == "Pan" else tilt
                assert abs(heard - meant) <= (high - low) / (256 ** len(data) - 1) / 2 + 1e-6
                seen += 1
        assert fixture.number == one["number"]
    assert seen > 20
    desk.close()


def test_aim_changes_the_show_only_where_it_is_told_to_hold(show_file, capsys):
    desk = Desk(show_file, look=True)
    item, before = next((i, f) for i, f in desk.show.fixtures() if chain_for(desk.show, f).moves)
    desk.close()
    command = ("aim", show_file, "--fixtures", before.number, "--at", "0,2,1.1")
    told(capsys, *command)
    desk = Desk(show_file, look=True)
    assert desk.show.body(item.id, Fixture) == before
    desk.close()
    _, answer = told(capsys, *command, "--hold")
    desk = Desk(show_file, look=True)
    held = desk.show.body(item.id, Fixture)
    desk.close()
    taken = answer["fixtures"][0]["solutions"][0]
    assert math.degrees(held.hands["pan"]) == pytest.approx(taken["pan_deg"], abs=1e-6)
    assert held.aim is not None
    assert held.aim.place == (0.0, 2.0, 1.1)


def test_who_cannot_reach_is_the_answer_no_and_who_is_not_there_is_an_error(show_file, capsys):
    desk = Desk(show_file, look=True)
    number = next(f.number for _, f in desk.show.fixtures() if chain_for(desk.show, f).moves)
    desk.close()
    status, answer = told(capsys, "aim", show_file, "--fixtures", number, "--at", "0,0.5,90")
    assert status == 1
    (way,) = answer["fixtures"][0]["solutions"]
    assert not way["reaches"]
    assert way["missing_deg"] > 1
    assert main(["aim", str(show_file), "--fixtures", "9999", "--at", "0,0,0"]) == 2
    assert "no fixture “9999”" in capsys.readouterr().err
    with pytest.raises(SystemExit) as ended:
        main(["aim", str(show_file), "--fixtures", "all", "--at", "0,nan,0"])
    assert ended.value.code == 2


def test_the_lux_of_a_probe_are_the_sum_of_whom_it_names(show_file, capsys):
    status, answer = told(capsys, "probe", show_file, "--at", "0,2.0,1.1", "--look", "2")
    assert status == 0
    assert answer["lux"] > 1
    assert sum(one["lux"] for one in answer["from"]) == pytest.approx(answer["lux"], rel=1e-6)
    assert sum(one["share"] for one in answer["from"]) == pytest.approx(1.0, abs=1e-6)
    assert 0 < answer["x"] < 0.8
    assert all(one["blocked_by"] is None or one["lux"] >= 0 for one in answer["from"])
    # From below nothing comes through the deck, and who would light it is told with what is in the way.
    status, under = told(capsys, "probe", show_file, "--at", "0,2.0,0.4", "--look", "2")
    assert under["lux"] < answer["lux"] * 0.05
    assert any(one["blocked_by"] for one in under["from"])
    assert main(["probe", str(show_file), "--at", "0,2,1", "--look", "999"]) == 2
    assert main(["probe", str(show_file), "--at", "0,2,1"]) == 0
    assert "lx" in capsys.readouterr().out


@pytest.mark.parametrize("kelvin", [2000, 2700, 3200, 4000, 5600, 6500, 10000])
def test_a_white_has_its_own_colour_temperature(kelvin):
    assert cct_k(*white_xy(kelvin)) == pytest.approx(kelvin, rel=2e-3)


def test_what_is_no_white_has_none():
    assert cct_k(0.17, 0.70) is None
