"""`mvr export`, `mvr inspect`, `mvr import`: what they say, and what they leave alone."""

from __future__ import annotations

import json

import pytest

from tests.scenes import fixture, layer, matrix, mvr
from zarfwright.cli.commands import main
from zarfwright.demo.build import build_first_part
from zarfwright.web.desk import Desk


def said(capsys, *argv: str) -> tuple[int, dict]:
    capsys.readouterr()
    status = main([*argv, "--json"])
    return status, json.loads(capsys.readouterr().out)


@pytest.fixture(scope="module")
def part(tmp_path_factory):
    path = tmp_path_factory.mktemp("mvr") / "part.zarf"
    build_first_part(path)
    return path


def test_a_show_goes_out_is_looked_into_and_comes_in_elsewhere(part, tmp_path, capsys):
    out = tmp_path / "part.mvr"
    status, told = said(capsys, "mvr", "export", str(part), str(out))
    assert status == 0
    desk = Desk(part, look=True)
    fixtures, trusses = len(desk.show.of_kind("fixture")), len(desk.show.of_kind("truss"))
    types = {f.type for _, f in desk.show.fixtures()}
    desk.close()
    assert (told["fixtures"], told["structures"], told["types"]) == (fixtures, trusses, len(types))
    assert told["others"] > 0
    assert all(one.keys() == {"what", "why"} for one in told["left_out"])
    status, told = said(capsys, "mvr", "inspect", str(out))
    assert status == 0
    assert told["fixtures"] == fixtures
    assert {one["name"] for one in told["types"]} == {one["matched"] for one in told["types"]}
    assert all(one["reason"] for one in told["types"])
    low, high = told["bounds_m"]
    assert all(a < b for a, b in zip(low, high, strict=True))
    assert told["findings"] == []
    other = tmp_path / "other.zarf"
    assert main(["new", str(other)]) == 0
    status, told = said(capsys, "mvr", "import", str(other), str(out), "--dry-run")
    assert (status, told["changed"], told["removed"], told["left_out"]) == (0, 0, 0, 0)
    before = other.read_bytes()
    status, first = said(capsys, "mvr", "import", str(other), str(out))
    assert first["added"] == told["added"] >= fixtures
    assert other.read_bytes() != before
    status, again = said(capsys, "mvr", "import", str(other), str(out))
    assert (again["added"], again["changed"], again["lines"]) == (0, 0, [])
    assert again["same"] > fixtures


def test_only_some_of_it_goes_out(part, tmp_path, capsys):
    out = tmp_path / "few.mvr"
    desk = Desk(part, look=True)
    numbers = [str(f.number) for _, f in desk.show.fixtures() if f.number is not None][:3]
    desk.close()
    _, told = said(capsys, "mvr", "export", str(part), str(out), "--only", ",".join(numbers))
    assert (told["fixtures"], told["structures"], told["others"]) == (3, 0, 0)
    _, told = said(capsys, "mvr", "export", str(part), str(out), "--only", "fixtures")
    assert told["structures"] == 0
    assert told["fixtures"] > 3
    assert main(["mvr", "export", str(part), str(out), "--only", "9999"]) == 2
    assert "There is no fixture “9999”" in capsys.readouterr().err


def test_what_the_file_lacks_stays_unless_it_is_told_to_go(part, tmp_path, capsys):
    show = tmp_path / "show.zarf"
    main(["new", str(show)])
    many, few = tmp_path / "many.mvr", tmp_path / "few.mvr"
    lamps = [fixture(f"F{i}", i + 1, str(1 + i * 20), matrix(i, 0, 4)) for i in range(3)]
    many.write_bytes(mvr(layer(*lamps)))
    few.write_bytes(mvr(layer(lamps[0].replace(">1<", ">1<"))))
    said(capsys, "mvr", "import", str(show), str(many))
    _, told = said(capsys, "mvr", "import", str(show), str(few))
    assert (told["kept"], told["removed"]) == (2, 0)
    _, told = said(capsys, "mvr", "import", str(show), str(few), "--remove", "fixtures")
    assert told["removed"] == 2
    desk = Desk(show, look=True)
    assert [f.number for _, f in desk.show.fixtures()] == [1]
    desk.close()


def test_what_cannot_be_done_is_said_in_one_sentence(tmp_path, capsys):
    bad = tmp_path / "bad.mvr"
    bad.write_bytes(b"rubbish")
    for argv in (["mvr", "inspect", str(bad)], ["mvr", "inspect", str(tmp_path / "none.mvr")]):
        capsys.readouterr()
        assert main(argv) == 2
        said_ = capsys.readouterr().err
        assert said_.startswith("zarfwright: ")
        assert said_.count("\n") == 1
    odd = tmp_path / "odd.mvr"
    odd.write_bytes(mvr(layer(fixture("F", spec="Gone.gdtf"))))
    _, told = said(capsys, "mvr", "inspect", str(odd))
    assert told["types"][0]["matched"] is None
    assert told["findings"] == [
        {
            "where": "Fixture “F”",
            "what": "its GDTF file “Gone.gdtf” is not in the file",
            "done": "another type is looked for",
        }
    ]
    assert main(["mvr", "inspect", str(odd)]) == 0
    text = capsys.readouterr().out
    assert "1 x Gone: a plain body, for nothing here is like Gone" in text


def test_fixtures_as_csv_can_be_taken_in_again(part, capsysbinary):
    assert main(["export", "fixtures", str(part)]) == 0
    lines = capsysbinary.readouterr().out.decode("utf-8-sig").splitlines()
    assert lines[0].startswith("Number,Unit,Type,Maker,Mode,Universe,Address,x,y,z,Turn x,Turn y,Turn z")
    desk = Desk(part, look=True)
    assert len(lines) - 1 == len(desk.show.of_kind("fixture"))
    desk.close()
