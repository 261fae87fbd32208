"""Fixtures one by one, by number, circuit and dimmer, of another type; what is wrong with the rig; label styles."""

import math

import numpy as np
import pytest

from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.features import FEATURES
from zarfwright.core.edits.fields import angles_of
from zarfwright.core.edits.rehanging import on_surface
from zarfwright.core.errors import JobError
from zarfwright.core.patch import patch_rows
from zarfwright.core.readiness import findings
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.rails import all_rails, nearest_rail
from zarfwright.core.rig.things import TypeEntry
from zarfwright.core.show import Show
from zarfwright.core.space import rotate


@pytest.fixture
def truss(bench):
    return bench.made("add truss", length="8m", start_trim="6m", name="Truss 2")


def hang(bench, truss, count, **more):
    return bench.do("place along rail", structure=truss, type="heron", count=str(count), **more).select


def texts(bench):
    return [finding.text for finding in findings(bench.show) if finding.step == "hang"]


def test_one_placed_on_a_rail_says_how_far_its_neighbours_are(bench, truss):
    hang(bench, truss, 2, first_number="61", ends="on")
    edit = bench.do("place one", type="heron", structure=truss, rail="lower right", along_m=3.0, number="63")
    assert edit.sentence == (
        "Place Heron 63 on Truss 2, lower rail DS: 3.00 m from SR, 3.00 m to fixture 61, 5.00 m to fixture 62"
    )
    assert bench.body(edit.select[0]).unit == 3
    past = bench.do("place one", type="heron", structure=truss, rail="lower right", along_m=99.0)
    assert bench.body(past.select[0]).hang.along_m == 8.0


@pytest.mark.parametrize(
    ("normal", "shines", "says"),
    [((0, 0, 1), (0, 0, 1), "standing"), ((0, 0, -1), (0, 0, -1), "hanging"), ((0, -1, 0), (0, -1, 0), "on the wall")],
)
def test_on_a_face_a_fixture_shines_away_from_it(bench, normal, shines, says):
    edit = bench.do("place one", type="dunlin", position=(1, 2, 3), normal=normal)
    clamp = clamp_placement(bench.show, bench.body(edit.select[0]))
    assert clamp.position == (1, 2, 3)
    assert rotate(clamp.rotation, (0, 0, -1)) == pytest.approx(shines, abs=1e-9)
    assert says in edit.sentence
    # Its X lies level on a wall too.
    assert rotate(clamp.rotation, (1, 0, 0))[2] == pytest.approx(0, abs=1e-9)


def test_a_turn_on_a_face_is_about_the_face():
    clamp = on_surface(np.zeros(3), np.array([0.0, 0, 1]), 90.0)
    flat = on_surface(np.zeros(3), np.array([0.0, 0, 1]))
    assert float(rotate(clamp.rotation, (1, 0, 0)) @ rotate(flat.rotation, (1, 0, 0))) == pytest.approx(0, abs=1e-9)


def test_the_nearest_rail_is_found_on_straight_ones_and_rings(bench, truss):
    ring = bench.made("add truss", form="arc", diameter="4m", start_trim="5m", y="DS 9")
    near = nearest_rail(bench.show.of_kind("truss"), np.array([1.5, -0.5, 6.1]))
    assert (near.structure, near.rail) == (truss, "lower right")
    assert near.along_m == pytest.approx(5.5)
    assert near.away_m == pytest.approx(math.hypot(0.3, 0.1))
    near = nearest_rail(bench.show.of_kind("truss"), np.array([-3.0, -9.0, 5.0]))
    assert (near.structure, near.rail) == (ring, "lower outer")
    # A quarter of a turn from upstage by stage right.
    assert near.along_m == pytest.approx(2.2 * math.pi / 2)
    lines = all_rails(bench.show)
    assert {line.name for line in lines[ring]} == {"lower inner", "lower outer", "upper inner", "upper outer"}
    assert len(lines[truss][0].points) == 2
    assert lines[ring][0].points[0] == pytest.approx(lines[ring][0].points[-1])


def test_what_is_in_mid_air_goes_to_the_nearest_rail_or_onto_what_is_below(bench, truss):
    bench.made("add deck", width="4m", depth="4m", height="1m", y="DS 9")
    near = bench.made("place free", type="heron", position=[1, -0.5, 5.5], number=1)
    lost = bench.made("place free", type="heron", position=[0, -9, 2.5], number=2)
    assert len([text for text in texts(bench) if "mid-air" in text]) == 2
    edit = bench.do("put back", ids=[near, lost])
    assert edit.report == ("Fixture 1 to Truss 2, lower rail DS.", "Fixture 2 onto what is below it.")
    assert clamp_placement(bench.show, bench.body(near)).position == pytest.approx((1, -0.2, 6))
    assert clamp_placement(bench.show, bench.body(lost)).position == pytest.approx((0, -9, 1), abs=1e-6)
    assert not [text for text in texts(bench) if "mid-air" in text]
    with pytest.raises(JobError, match="where they belong"):
        bench.do("put back", ids=[near, lost])


def test_an_attitude_is_copied_between_those_that_hang(bench, truss):
    first, *rest = hang(bench, truss, 3)
    bench.do("set field", ids=[first], field="side", text="left")
    bench.do("set field", ids=[first], field="about rail", text="20")
    bench.do("copy attitude", ids=[first, *rest], like=first)
    for one in rest:
        assert (bench.body(one).hang.side, bench.body(one).hang.turn_deg) == ("left", 20)
    free = bench.made("place free", type="heron", position=[0, 0, 0])
    with pytest.raises(JobError, match="alike"):
        bench.do("copy attitude", ids=[free], like=first)


def test_exact_angles_of_a_free_one_are_about_the_axes_of_the_show(bench):
    one = bench.made("place free", type="heron", position=[0, 0, 2])
    for axis, value in (("x", 30), ("z", 90), ("y", -15)):
        bench.do("set field", ids=[one], field=f"turn {axis}", text=str(value))
    assert angles_of(bench.body(one).placement) == pytest.approx((30, -15, 90), abs=1e-6)
    bench.do("set field", ids=[one], field="y", text="US 3")
    assert bench.body(one).placement.position == (0, 3, 2)


def test_numbers_go_on_by_place_by_number_or_backwards_and_circuits_count_their_digits(bench, truss):
    ids = hang(bench, truss, 4, first_number="11")
    bench.do("number", ids=ids[::-1], start="101", step="2", order="place")
    assert [bench.body(one).number for one in ids] == [101, 103, 105, 107]
    bench.do("number", ids=ids, start="1", what="unit", order="number", reverse=True)
    assert [bench.body(one).unit for one in ids] == [4, 3, 2, 1]
    bench.do("number", ids=ids, start="A9", what="circuit", share="2")
    assert [bench.body(one).circuit for one in ids] == ["A9", "A9", "A10", "A10"]
    bench.do("number", ids=ids, start="21", what="dimmer", step="0")
    assert {bench.body(one).dimmer for one in ids} == {21}
    bench.do("set field", ids=ids, field="number", text="61 to 64")
    assert [bench.body(one).number for one in ids] == [61, 62, 63, 64]
    with pytest.raises(JobError, match="61 to 64"):
        bench.do("set field", ids=ids, field="number", text="61 to 66")
    bench.do("set field", ids=ids[:1], field="number", text="")
    assert bench.body(ids[0]).number is None


def test_fixtures_without_a_number_are_numbered_by_one_button(bench, truss):
    ids = hang(bench, truss, 3)
    bench.do("number", ids=ids[:1], start="61")
    finding = next(f for f in findings(bench.show) if "have no number" in f.text)
    assert (finding.repair.label, finding.where) == ("Number from 62", tuple(ids[1:]))
    bench.do(finding.repair.kind, **finding.repair.args)
    assert [bench.body(one).number for one in ids] == [61, 62, 63]


def test_heads_that_would_touch_and_layers_apart_are_told(bench, truss):
    ids = hang(bench, truss, 2, first_number="64", step="0.5m")
    assert "Fixture 64 and fixture 65 are 0.50 m apart: their heads touch when they turn inwards." in texts(bench)
    bench.do("arrange", ids=ids, guide="rail", structure=truss, rail="lower right")
    assert texts(bench) == []
    layer = bench.do("add layer", name="Lamps").changes[0].id
    bench.do("to layer", ids=ids[:1], layer=layer)
    finding = next(f for f in findings(bench.show) if "on another layer than Truss 2" in f.text)
    bench.do(finding.repair.kind, **finding.repair.args)
    assert texts(bench) == []


def test_a_head_inside_a_truss_hits_its_chords(bench, truss):
    bench.do("place along rail", structure=truss, rail="upper left", type="heron", count="1", first_number="1")
    assert any("The head of fixture 1 hits Truss 2" in text for text in texts(bench))


def test_swapped_to_another_type_places_and_numbers_stay_and_the_rest_is_told(bench, truss):
    ids = hang(bench, truss, 3, first_number="61", purpose="Back light")
    bench.do("address", ids=ids, start="1.001")
    bench.do("hold values", ids=ids[:1], values={"dimmer": 1.0, "zoom": 20.0, "gobo slot": 2.0})
    look = bench.made("keep look", name="Dawn", values={one: {"dimmer": 0.5, "cyan": 0.8, "pan": 0.4} for one in ids})
    before = [clamp_placement(bench.show, bench.body(one)) for one in ids]
    edit = bench.do("swap type", ids=ids, type="dunlin")
    for one, place, number in zip(ids, before, (61, 62, 63), strict=True):
        body = bench.body(one)
        assert (body.type, body.number, body.purpose) == ("dunlin", number, "Back light")
        assert clamp_placement(bench.show, body) == place
        assert body.address is not None
    assert bench.body(ids[0]).hands == {"dimmer": 1.0, "zoom": 20.0}
    assert "1 of them lose gobo slot held by hand." in edit.report
    assert "Looks lose what a Dunlin does not have: cyan." in edit.report
    assert bench.body(look).values[ids[0]] == {"dimmer": 0.5, "pan": 0.4}
    # The new rig compiles, and drives what the new type has.
    rig = compile_rig(patch_rows(bench.show))
    assert len(rig.keys) == 3
    assert len(FEATURES) == rig.home.shape[1]


def test_what_no_longer_fits_at_its_address_is_unpatched_and_named(bench, truss):
    ids = bench.do("place along rail", structure=truss, type="dunlin", count="2", first_number="81").select
    bench.do("address", ids=ids, start="1.001")
    edit = bench.do("swap type", ids=ids, type="heron", mode="Extended")
    assert any("fixture 81" in line and "no longer fit" in line for line in edit.report)
    assert bench.body(ids[0]).address is None
    with pytest.raises(JobError, match="Herons already"):
        bench.do("swap type", ids=ids, type="heron")


def test_a_label_style_says_what_where_and_a_style_that_nobody_sees_is_told(bench):
    style = bench.do("add label style", name="Booms").changes[0].id
    bench.do("set label style", id=style, parts=[("unit", "circle"), ("address", "plain")], views=["front", "plan"])
    assert bench.body(style).parts == (("unit", "circle"), ("address", "plain"))
    # In the order of the views, however they were named.
    assert bench.body(style).views == ("plan", "front")
    bench.do("set label style", id=style, views=[])
    finding = next(f for f in findings(bench.show) if "shown in no view" in f.text)
    bench.do(finding.repair.kind, **finding.repair.args)
    assert bench.body(style).views == ("plan",)
    for wrong in ({"parts": []}, {"parts": [("unit", "star")]}, {"views": ["ceiling"]}, {"name": " "}, {"size_mm": 1}):
        with pytest.raises(JobError):
            bench.do("set label style", id=style, **wrong)


def test_a_lost_type_does_not_stop_what_is_found(bench, truss):
    ids = hang(bench, truss, 1, first_number="1")
    bench.show = Show(
        {**bench.show.items, "gone": bench.show.items["heron"].__class__("gone", "type", TypeEntry("Gone", "M", "x"))},
        {"dunlin": bench.show.types["dunlin"]},
    )
    assert ids[0] in bench.show.items
    assert [text.split(" is ")[0] for text in texts(bench)] == [
        "The file of the type Heron",
        "The file of the type Gone",
    ]


def test_cells_pasted_are_one_edit_all_of_them_or_none(bench, truss):
    ids = hang(bench, truss, 3, first_number="1")
    cells = [
        {"id": one, "field": field, "text": f"{text}{i}"}
        for i, one in enumerate(ids)
        for field, text in (("purpose", "Wash "), ("circuit", "B"))
    ]
    edit = bench.do("set cells", cells=cells)
    assert edit.sentence == "Set purpose and circuit of 3 fixtures"
    assert [bench.body(one).circuit for one in ids] == ["B0", "B1", "B2"]
    before = bench.show
    with pytest.raises(JobError, match="Fixture 2, along: "):
        bench.do("set cells", cells=[*cells[:1], {"id": ids[1], "field": "along", "text": "99m"}])
    assert bench.show is before


def test_arm_and_drop_are_read_as_they_are_typed(bench, truss):
    place = {"type": "heron", "structure": truss, "rail": "lower right", "along_m": 2.0}
    lamp = bench.made("place one", **place, out="18in", drop="1ft 6in")
    hang = bench.body(lamp).hang
    assert (hang.out_m, hang.drop_m) == (pytest.approx(0.4572), pytest.approx(0.4572))
    with pytest.raises(JobError, match="is not a length") as wrong:
        bench.do("place one", **place, out="a bit")
    assert wrong.value.field == "out"


def test_a_sentence_says_that_the_order_was_turned_round(bench, truss):
    ids = hang(bench, truss, 3, first_number="1")
    assert bench.do("arrange", ids=ids, guide="line", reverse=True).sentence.endswith(", reversed")
    assert "reversed" not in bench.do("arrange", ids=ids, guide="line").sentence
