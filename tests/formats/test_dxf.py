"""DXF written by another library comes in at its right size; rubbish gets a clear word."""

import contextlib
import io

import ezdxf
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zarfwright.core.edits.underlay import from_plan, to_plan
from zarfwright.core.site.things import Drawing
from zarfwright.formats.dxf import read_dxf
from zarfwright.formats.findings import FormatError


def written(units=4, draw=None):
    document = ezdxf.new()
    document.header["$INSUNITS"] = units
    space = document.modelspace()
    if draw is None:
        space.add_lwpolyline([(0, 0), (6000, 0), (6000, 4000), (0, 4000)], close=True, dxfattribs={"layer": "WALLS"})
        space.add_circle((3000, 2000), 500, dxfattribs={"layer": "COLUMNS"})
        space.add_text("not drawn")
        block = document.blocks.new("CHAIR")
        block.add_lwpolyline([(0, 0), (450, 0), (450, 450)], dxfattribs={"layer": "SEATS"})
        space.add_blockref("CHAIR", (1000, 1000))
        space.add_blockref("CHAIR", (2000, 1000), dxfattribs={"rotation": 90})
    else:
        draw(space)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def test_a_plan_comes_in_by_layers_with_blocks_opened_at_its_size():
    plan, findings = read_dxf(written(), "plan.dxf")
    assert {layer: len(lines) for layer, lines in plan.lines.items()} == {"WALLS": 1, "COLUMNS": 1, "SEATS": 2}
    assert (plan.unit, plan.metres) == ("mm", 0.001)
    assert (plan.low, plan.high) == ((0, 0), (6000, 4000))
    assert [finding.what for finding in findings] == ["1 of TEXT"]
    circle = np.array(plan.lines["COLUMNS"][0])
    assert np.linalg.norm(circle - [3000, 2000], axis=1) == pytest.approx(500, abs=0.8)
    turned = np.array(plan.lines["SEATS"][1])
    assert turned[1] == pytest.approx([2000, 1450])


@pytest.mark.parametrize(
    ("units", "name", "metres"), [(1, "in", 0.0254), (2, "ft", 0.3048), (6, "m", 1.0), (0, None, None)]
)
def test_the_unit_is_the_headers(units, name, metres):
    plan, _ = read_dxf(written(units), "plan.dxf")
    assert (plan.unit, plan.metres) == (name, metres)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "holds nothing that is drawn"),
        (b"rubbish", "no DXF file"),
        (b"\0\1\2" * 500, "is no DXF file"),
        (b"0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n", "holds nothing that is drawn"),
        (written(draw=lambda space: space.add_text("only words")), "holds nothing that is drawn"),
        (b"x" * 100_000_001, "larger than 100 MB"),
    ],
)
def test_files_that_cannot_be_used_say_so(data, says):
    with pytest.raises(FormatError, match=says) as wrong:
        read_dxf(data, "plan.dxf")
    assert "plan.dxf" in str(wrong.value)


def test_more_points_than_there_may_be_are_left_out_with_a_word(monkeypatch):
    monkeypatch.setattr("zarfwright.formats.dxf.POINTS_MAX", 4000)

    def many(space):
        for i in range(21):
            space.add_lwpolyline([(k, (k * 7 + i) % 50) for k in range(200)])

    plan, findings = read_dxf(written(draw=many), "plan.dxf")
    assert 3000 < plan.points <= 4000
    assert "more than 4000 points" in findings[0].what


@settings(max_examples=40, deadline=None)
@given(st.binary(max_size=400), st.integers(0, 5000))
def test_no_damage_does_more_than_a_finding_or_a_refusal(noise, at):
    whole = written()
    with contextlib.suppress(FormatError):
        read_dxf(whole[:at] + noise + whole[at + len(noise) :], "plan.dxf")


@settings(max_examples=50, deadline=None)
@given(st.floats(-1e4, 1e4), st.floats(-1e4, 1e4), st.floats(1e-3, 10), st.floats(-180, 180))
def test_to_the_plan_and_back(x, y, metres, turn):
    drawing = Drawing("D", "a", ("0",), metres, (x, y), turn)
    points = np.array([[0.0, 0.0], [x + 1, y - 2], [7.0, -3.0]])
    assert from_plan(drawing, to_plan(drawing, points)) == pytest.approx(points, abs=1e-6)
    assert to_plan(drawing, np.array([[x, y]]))[0] == pytest.approx([0, 0])


def test_a_place_that_is_clicked_becomes_the_origin(bench):
    drawing = bench.made("add drawing", name="Plan", asset="a", layers=["WALLS"], metres=0.001)
    bench.do("set drawing", id=drawing, turn="90")
    corner = np.array([[6000.0, 4000.0]])
    place = to_plan(bench.body(drawing), corner)[0]
    bench.do("set drawing", id=drawing, at=place.tolist())
    assert bench.body(drawing).origin == pytest.approx((6000, 4000))
    assert to_plan(bench.body(drawing), corner)[0] == pytest.approx([0, 0])
    # A quarter turn: what lay to the right lies upstage.
    assert to_plan(bench.body(drawing), np.array([[7000.0, 4000.0]]))[0] == pytest.approx([0, 1.0])


def test_what_stands_on_layer_0_of_a_block_is_on_the_layer_it_is_inserted_on():
    def draw(space):
        block = space.doc.blocks.new("DOOR")
        block.add_line((0, 0), (900, 0))
        block.add_line((0, 0), (0, 900), dxfattribs={"layer": "SWING"})
        outer = space.doc.blocks.new("BAY")
        outer.add_blockref("DOOR", (0, 0))
        space.add_blockref("DOOR", (0, 0), dxfattribs={"layer": "DOORS"})
        space.add_blockref("BAY", (2000, 0), dxfattribs={"layer": "BAYS"})

    plan, _ = read_dxf(written(draw=draw), "plan.dxf")
    assert {layer: len(lines) for layer, lines in plan.lines.items()} == {"DOORS": 1, "SWING": 2, "BAYS": 1}
