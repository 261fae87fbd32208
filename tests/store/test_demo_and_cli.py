"""The demo show and the command line, without a browser."""

import argparse
import csv
import io
import json
import math
import subprocess
import sys
from importlib import import_module

import numpy as np
import pytest

from zarfwright.cli import main
from zarfwright.cli.commands import FAMILIES
from zarfwright.core.aiming.solve import direction_in_show
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.schedules.lists import SCHEDULES
from zarfwright.core.space import rotate
from zarfwright.core.types.chain import chain_of
from zarfwright.demo.build import build_first_part
from zarfwright.formats.gdtf import read_gdtf, write_gdtf
from zarfwright.library import heron
from zarfwright.web.desk import Desk


@pytest.fixture(scope="module")
def demo(tmp_path_factory):
    path = tmp_path_factory.mktemp("demo") / "demo.zarf"
    build_first_part(path)
    return path


def test_the_demo_begins_with_an_empty_history(demo):
    desk = Desk(demo)
    assert desk.session.history() == []
    assert desk.session.undoable("anybody") == (None, None)
    desk.close()


def test_every_hung_fixture_of_the_demo_hangs_the_right_way_up(demo):
    desk = Desk(demo)
    for _, fixture in desk.show.fixtures():
        down = rotate(clamp_placement(desk.show, fixture).rotation, (0, 0, -1))
        # What does not move is turned about its rail to where it is wanted.
        turned = abs(fixture.hang.turn_deg) if fixture.hang else 0.0
        assert down[2] == pytest.approx(-math.cos(math.radians(turned)), abs=0.02)
    desk.close()


def test_the_ebb_gathers_the_front_profiles_on_one_place(demo):
    desk = Desk(demo)
    ebb = next(item.body for item in desk.show.of_kind("look") if item.name == "Ebb")
    for item, fixture in desk.show.fixtures():
        fixture_type = desk.show.types[fixture.type]
        if (fixture_type.name, fixture.mode) != ("Heron", "Standard"):
            continue
        values = ebb.values[item.id]
        chain = chain_of(fixture_type, fixture.mode)
        lens, along = direction_in_show(chain, clamp_placement(desk.show, fixture), values["pan"], values["tilt"])
        to = np.array([0.0, 2.2, 2.7]) - lens
        assert np.linalg.norm(to - (to @ along) * along) < 0.001
    desk.close()


def test_the_demo_is_the_same_each_time_it_is_built(demo, tmp_path):
    build_first_part(tmp_path / "again.zarf")
    first, second = Desk(demo), Desk(tmp_path / "again.zarf")
    assert dict(first.show.items) == dict(second.show.items)
    first.close()
    second.close()


def test_check_names_the_faults_and_export_writes_the_list(demo, capsysbinary):
    assert main(["check", str(demo), "--json"]) == 1
    found = json.loads(capsysbinary.readouterr().out)["findings"]
    assert [finding["step"] for finding in found] == ["hang", "hang", "patch"]
    assert [finding["code"] for finding in found] == ["mid_air", "number_twice", "no_address"]
    assert all(finding["text"] and finding["things"] for finding in found)
    assert main(["export", "hookup", str(demo)]) == 0
    rows = list(csv.DictReader(io.StringIO(capsysbinary.readouterr().out.decode("utf-8-sig"))))
    assert {row["Type"] for row in rows} == {"Heron", "Dunlin", "Plover", "Teal", "Bittern"}


def test_sheets_are_listed_and_written_without_a_browser(demo, tmp_path, capsys):
    assert main(["sheet", str(demo), "--list", "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == {"sheets": []}
    for name, start in (("plan.pdf", b"%PDF-"), ("plan.svg", b"<svg "), ("plan.dxf", b"  0\nSECTION")):
        assert main(["sheet", str(demo), "plan", "--out", str(tmp_path / name), "--json"]) == 0
        assert (tmp_path / name).read_bytes().startswith(start)
        (row,) = json.loads(capsys.readouterr().out)["sheets"]
        assert row["name"] == "Plan"
        assert row["paper"] == "A1"
        assert isinstance(row["scale"], int)
        assert row["labels_not_placed"] == 0
    for words, why in ((["nowhere", "--out", "x.pdf"], "There is no sheet"), (["plan"], "say where it goes"),
                       (["plan", "--out", "x.png"], "let its name end so")):  # fmt: skip
        assert main(["sheet", str(demo), *words]) == 2
        assert why in capsys.readouterr().err


@pytest.mark.parametrize("name", SCHEDULES)
def test_every_schedule_is_json_with_finite_numbers(demo, name, capsys):
    assert main(["schedule", str(demo), name, "--json"]) == 0
    told = capsys.readouterr().out
    table = json.loads(told, parse_constant=pytest.fail)
    assert (table["name"], set(table) >= {"columns", "rows", "totals"}) == (name, True)
    assert all(len(row) == len(table["columns"]) for row in table["rows"])


@pytest.mark.parametrize("on", ["bodies", "structures"])
def test_labels_are_written_to_be_cut_out(demo, tmp_path, capsys, on):
    assert main(["labels", str(demo), str(tmp_path / "labels.pdf"), "--on", on, "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["labels"] > 2
    assert (tmp_path / "labels.pdf").read_bytes().startswith(b"%PDF-")


def test_a_schedule_is_written_as_pdf(demo, tmp_path, capsys):
    assert main(["schedule", str(demo), "weights", "--pdf", str(tmp_path / "weights.pdf")]) == 0
    assert (tmp_path / "weights.pdf").read_bytes().startswith(b"%PDF-")
    assert capsys.readouterr().out == ""
    assert main(["schedule", str(demo), "weights"]) == 0
    assert "estimate" in capsys.readouterr().out


def test_the_schedule_of_circuits_is_json_csv_or_a_table_with_totals(demo, capsysbinary):
    assert main(["schedule", str(demo), "circuits", "--json"]) == 0
    told = json.loads(capsysbinary.readouterr().out)
    assert (told["name"], told["columns"][0], len(told["rows"])) == ("circuits", "Dimmer", 12)
    load = told["columns"].index("Load W")
    assert told["totals"]["load_w"] == sum(row[load] for row in told["rows"]) == 4000.0
    assert main(["schedule", str(demo), "circuits", "--csv"]) == 0
    rows = list(csv.DictReader(io.StringIO(capsysbinary.readouterr().out.decode("utf-8-sig"))))
    assert [row["Address"] for row in rows[:2]] == ["3.401", "3.402"]
    assert main(["schedule", str(demo), "circuits"]) == 0
    assert b"load_w: 4000" in capsysbinary.readouterr().out


def test_a_new_show_is_empty_and_never_overwrites(tmp_path, capsys):
    path = tmp_path / "new.zarf"
    assert main(["new", str(path)]) == 0
    assert main(["new", str(path)]) == 2
    assert "is there already" in capsys.readouterr().err
    assert main(["check", str(path)]) == 0
    assert "Everything is in order." in capsys.readouterr().out


@pytest.fixture
def heron_file(tmp_path):
    path = tmp_path / "heron.gdtf"
    path.write_bytes(write_gdtf(heron()))
    return path


def test_a_type_is_inspected_on_the_command_line(heron_file, capsys):
    assert main(["gdtf", "inspect", str(heron_file), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert (said["name"], said["findings"]) == ("Heron", [])
    extended = said["modes"][1]
    assert (extended["name"], extended["footprint"], len(extended["channels"])) == ("Extended", 33, 28)
    shutter = next(c for c in extended["channels"] if c["name"] == "Lens_Shutter1")
    assert [(f["attribute"], f["dmx"]) for f in shutter["functions"]] == [
        ("Shutter1", [0, 19]), ("Shutter1", [20, 63]), ("Shutter1Strobe", [64, 223]), ("Shutter1", [224, 255]),
    ]  # fmt: skip
    assert main(["gdtf", "inspect", str(heron_file)]) == 0
    assert "Extended: 33 slots in break 1" in capsys.readouterr().out


def test_levels_are_decoded_on_the_command_line(heron_file, capsys):
    asked = ["gdtf", "decode", str(heron_file), "--mode", "Extended", "--json"]
    assert main([*asked, "--dmx", "1:255,2:255,5:128,6:0,7:40,11:32,12:70,16:255,17:255"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["pan_deg"] == pytest.approx(270.0)
    assert said["tilt_deg"] == pytest.approx(0.0, abs=0.01)
    assert said["intensity"] == pytest.approx(0x8000 / 0xFFFF)
    assert said["zoom_deg"] == pytest.approx(42.0)
    assert said["gobo_slots"] == [2.0, 1.0]
    # Harbour red lets through x 0.64, y 0.335.
    assert said["colour_xy"] == pytest.approx([0.64, 0.335], abs=0.01)
    assert next(f["words"] for f in said["functions"] if f["slots"] == [12]) == "gobo: Net floats"
    assert main([*asked, "--dmx", "7:100", "--all-zero"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert (said["pan_deg"], said["intensity"]) == (pytest.approx(-270.0), 0.0)
    assert said["strobe_hz"] == pytest.approx(0.5 + (100 - 64) / (223 - 64) * 19.5)


@pytest.mark.parametrize(
    ("more", "says"),
    [
        (["--mode", "Wide"], "no mode “Wide”: it has Standard, Extended"),
        (["--dmx", "99:1"], "no slot 99"),
        (["--dmx", "1:256"], "more than a byte"),
        (["--dmx", "one"], "not slot:byte"),
    ],
)
def test_levels_that_cannot_be_are_refused_with_a_reason(heron_file, capsys, more, says):
    assert main(["gdtf", "decode", str(heron_file), *more]) == 2
    assert says in capsys.readouterr().err


def test_a_type_goes_round_on_the_command_line(heron_file, tmp_path, capsys):
    out = tmp_path / "out.gdtf"
    assert main(["gdtf", "roundtrip", str(heron_file), str(out)]) == 0
    assert out.read_bytes() == heron_file.read_bytes()
    assert main(["gdtf", "inspect", str(tmp_path / "none.gdtf")]) == 2
    assert "cannot be read" in capsys.readouterr().err


def test_a_manual_is_read_and_written_as_a_type(tmp_path, capsys):
    text, made = tmp_path / "bar.txt", tmp_path / "bar.gdtf"
    text.write_text("Mode A\n1 Dimmer\n2 Strobe\n3-5 Pixel 1 (red, green, blue)\n6-8 Pixel 2 (red, green, blue)\n")
    assert main(["gdtf", "from-manual", str(text), "--kind", "LED batten", "--json", "--out", str(made)]) == 0
    read = json.loads(capsys.readouterr().out)
    (mode,) = read["modes"]
    assert mode["name"] == "Mode A"
    assert [(c["slots"], c["attribute"], c["part"]) for c in mode["channels"][2:]] == [
        ([3 + 3 * cell + i], f"ColorAdd_{letter}", f"Cell {cell + 1}")
        for cell in range(2)
        for i, letter in enumerate("RGB")
    ]
    strobe = mode["channels"][1]["ranges"][0]
    assert (strobe["start"], strobe["end"], strobe["line"], strobe["wheel"]) == (0, 255, 3, None)
    assert "not given" in strobe["doubt"]
    assert mode["channels"][0]["ranges"][0]["doubt"] is None
    assert read_gdtf(made.read_bytes(), "bar.gdtf")[0].modes[0].footprint == 8
    assert main(["gdtf", "from-manual", str(text), "--kind", "LED batten"]) == 0
    assert "? line 3: its ranges are not given" in capsys.readouterr().out


def test_a_text_without_a_table_is_refused_in_one_sentence(tmp_path, capsys):
    text = tmp_path / "letter.txt"
    text.write_bytes("\ufeffDear crew,\nthe lamps come on Monday.\n".encode("utf-16"))
    assert main(["gdtf", "from-manual", str(text), "--kind", "par"]) == 2
    assert "No channel was found" in capsys.readouterr().err
    assert main(["gdtf", "from-manual", str(tmp_path / "none.txt"), "--kind", "par"]) == 2


@pytest.mark.parametrize("family", FAMILIES)
def test_each_family_of_commands_has_those_that_it_is_asked_for(family):
    commands = argparse.ArgumentParser().add_subparsers()
    import_module(f"zarfwright.cli.{family}").add_commands(commands)
    assert tuple(commands.choices) == FAMILIES[family]


def test_all_commands_are_told_where_help_is_wanted(capsys):
    with pytest.raises(SystemExit):
        main(["--help"])
    told = capsys.readouterr().out
    assert all(name in told for names in FAMILIES.values() for name in (*names, "serve", "demo", "new", "check"))


def test_a_command_loads_no_more_than_it_needs(tmp_path):
    """Starting waits for what is imported: of a second and a half most is geometry that a new file has no use for."""
    look = "import sys; from zarfwright.cli import main; main(sys.argv[1:]); print('scipy' in sys.modules)"
    words = [sys.executable, "-c", look, "new", str(tmp_path / "new.zarf")]
    assert subprocess.run(words, check=True, capture_output=True, text=True).stdout == "False\n"


def test_serving_loads_nothing_that_only_some_work_needs():
    loads = "from zarfwright.web import app, desk, jobs, rays; from zarfwright.web.children import capture, doctor"
    look = f"import sys; {loads}; print(sorted({{'scipy', 'trimesh', 'ezdxf'}} & {{*sys.modules}}))"
    words = [sys.executable, "-c", look]
    assert subprocess.run(words, check=True, capture_output=True, text=True).stdout == "[]\n"
