"""Mirror images of the rig: clamps, attitudes, carriers and numbers, each against the mirror image itself."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import Workbench
from zarfwright.core.edits.mirroring import mirror_placement
from zarfwright.core.errors import JobError
from zarfwright.core.rig.hang import SIDES_DEG, clamp_placement
from zarfwright.core.site.structures import truss_rails
from zarfwright.core.space import rotate, to_matrix

STRUCTURES = {
    "level": {"length": "8m", "x": "SL 3", "turn": "20"},
    "raked": {"length": "8m", "start_trim": "7m", "end_trim": "5m", "x": "SL 5", "y": "DS 2", "turn": "-70"},
    "triangle": {"length": "6m", "lattice": "triangle", "x": "SR 4"},
    "pipe": {"length": "6m", "lattice": "pipe", "x": "SR 2", "y": "US 3"},
    "arc": {"form": "arc", "diameter": "6m", "span": "120", "x": "SL 4", "turn": "35"},
    "ring": {"form": "arc", "diameter": "5m", "x": "SL 1", "start_trim": "6m", "end_trim": "5m"},
    "boom": {"form": "upright", "length": "4m", "arms": "3", "x": "SR 5", "turn": "15"},
}


def images(a, b):
    """How far apart two placements are: metres, and radians between their axes."""
    apart = float(np.linalg.norm(np.subtract(a.position, b.position)))
    return apart, float(np.abs(to_matrix(a.rotation) - to_matrix(b.rotation)).max())


def hung(bench, structure, rail, **more):
    fixture = bench.made("place one", type="heron", structure=structure, rail=rail, along_m=1.0)
    for field, text in more.items():
        bench.do("set field", ids=[fixture], field=field.replace("_", " "), text=text)
    return fixture


def test_a_mirror_image_of_a_placement_is_a_rotation_that_shines_to_the_other_side():
    from zarfwright.core.space import Placement, about

    turned = Placement((2.0, 1.0, 5.0), tuple(about((0.6, 0.0, 0.8), 0.7)))
    image = mirror_placement(turned)
    assert np.linalg.det(to_matrix(image.rotation)) == pytest.approx(1.0)
    down, other = rotate(turned.rotation, (0, 0, -1)), rotate(image.rotation, (0, 0, -1))
    assert other == pytest.approx(down * [-1, 1, 1])
    # Its own right is on its other side: a body is not turned inside out.
    assert rotate(image.rotation, (1, 0, 0)) == pytest.approx(rotate(turned.rotation, (1, 0, 0)) * [1, -1, -1])


@settings(max_examples=120, deadline=None)
@given(
    st.sampled_from(sorted(STRUCTURES)), st.integers(0, 40), st.floats(0.05, 0.95), st.sampled_from(sorted(SIDES_DEG)),
    st.sampled_from([0.0, 30.0, -75.5]), st.sampled_from([0.0, 90.0, -20.0]), st.sampled_from(["0", "0.4m", "-0.3m"]),
    st.sampled_from(["0", "0.5m"]), st.sampled_from(["follow", "plumb"]),
)  # fmt: skip
def test_what_hangs_is_where_its_mirror_image_is_and_still_hangs(
    which, pick, share, side, turn, spin, out, drop, slopes
):
    bench = Workbench()
    structure = bench.made("add truss", name="S", **STRUCTURES[which])
    rails = truss_rails(bench.body(structure))
    rail = sorted(rails)[pick % len(rails)]
    fixture = hung(
        bench, structure, rail, along=f"{share * rails[rail].length_m:.4f}m", side=side, about_rail=f"={turn}",
        spin=f"={spin}", out=out, drop=drop, on_slopes=slopes,
    )  # fmt: skip
    before = clamp_placement(bench.show, bench.body(fixture))
    bench.do("mirror", ids=[structure])
    after = bench.body(fixture)
    assert after.hang is not None
    assert images(clamp_placement(bench.show, after), mirror_placement(before)) == (
        pytest.approx(0, abs=2e-3), pytest.approx(0, abs=1e-3),
    )  # fmt: skip
    bench.do("mirror", ids=[structure])
    assert images(clamp_placement(bench.show, bench.body(fixture)), before) == (
        pytest.approx(0, abs=4e-3), pytest.approx(0, abs=2e-3),
    )  # fmt: skip


def test_a_mirrored_copy_has_its_own_lamps_numbers_and_no_addresses(bench):
    bench.do("add layer", name="Rig")
    layer = bench.show.of_kind("layer")[-1].id
    truss = bench.made("add truss", name="Side SL", length="6m", x="SL 5", turn="90")
    bench.do("to layer", ids=[truss], layer=layer)
    lamps = bench.do("place along rail", type="heron", structure=truss, rail="lower left", count="3", first_number="61")
    bench.do("address", ids=list(lamps.select), start="1.1")
    bench.do("hold values", ids=[lamps.select[0]], values={"pan": 0.5, "tilt": 0.2})
    edit = bench.do("mirror", ids=[truss], keep=True)
    copy = edit.select[0]
    assert bench.body(copy).position[0] == pytest.approx(-5.0)
    assert (bench.body(truss).name, bench.body(copy).name) == ("Side SL", "Side SR")
    assert bench.show.items[copy].layer == bench.show.items[truss].layer is not None
    again = bench.do("mirror", ids=[truss], keep=True).select[0]
    assert bench.body(again).name == "Side SR 1"
    bench.do("remove", ids=[again])
    new = [
        (key, one)
        for key, one in ((i.id, f) for i, f in bench.show.fixtures())
        if one.hang is not None and one.hang.structure == copy
    ]
    assert sorted(one.number for _, one in new) == [64, 65, 66]
    assert all(one.universe is None and one.address is None for _, one in new)
    old = [bench.body(one) for one in lamps.select]
    assert [one.number for one in old] == [61, 62, 63]
    assert all(one.hang.structure == truss and one.address is not None for one in old)
    held = next(one for _, one in new if one.hands)
    assert held.hands == {"pan": -0.5, "tilt": 0.2}
    wanted = {tuple(np.round(np.multiply(clamp_placement(bench.show, one).position, (-1, 1, 1)), 3)) for one in old}
    assert {tuple(np.round(clamp_placement(bench.show, one).position, 3)) for _, one in new} == wanted


def test_a_lamp_alone_goes_along_its_rail_or_is_free_where_that_does_not_reach(bench):
    across = bench.made("add truss", name="Across", length="8m", y="US 2")
    aside = bench.made("add truss", name="Aside", length="4m", x="SL 5", turn="90")
    first, second = hung(bench, across, "lower right", along="1m"), hung(bench, aside, "lower left", along="1m")
    bench.do("mirror", ids=[first])
    assert bench.body(first).hang.along_m == pytest.approx(7.0)
    assert bench.body(first).hang.structure == across
    edit = bench.do("mirror", ids=[second])
    assert bench.body(second).hang is None
    assert "is free now: its rail does not reach there" in edit.report[0]


def test_carriers_are_mirrored_with_all_on_them_and_looks_keep_them_there(bench):
    lamp = bench.do("place free", type="heron", mode="Standard", position=(4.0, 1.0, 0.0), number=9).select[0]
    deck = bench.made("add deck", name="Raft", width="2m", depth="1m", x="SL 4")
    carrier = bench.made("make carrier", ids=[lamp, deck], name="Float", number="901")
    bench.do("set field", ids=[carrier], field="turn", text="=30")
    look = bench.made("keep look", name="Ebb", values={lamp: {"dimmer": 1.0}})
    x, y, z = bench.body(carrier).position
    bench.do("mirror", ids=[carrier])
    assert bench.body(carrier).position == pytest.approx((-x, y, z))
    assert bench.body(carrier).turn_deg == pytest.approx(-30.0)
    assert bench.body(look).carriers[carrier] == pytest.approx((-x, y, z, -30.0))
    copy = bench.do("mirror", ids=[carrier], keep=True).select[0]
    assert bench.body(copy).position == pytest.approx((x, y, z))
    assert bench.body(copy).number is None
    inside = [item for item in bench.show.items.values() if item.parent == copy]
    assert sorted(item.kind for item in inside) == ["deck", "fixture"]
    assert next(item.body for item in inside if item.kind == "fixture").number == 10
    assert math.isclose(bench.body(deck).position[0], -next(i.body for i in inside if i.kind == "deck").position[0])


def test_an_arc_lies_on_the_other_side_and_a_tilted_one_says_that_it_cannot(bench):
    arc = bench.made("add truss", name="Bow", form="arc", diameter="6m", span="120", x="SL 4", turn="35")
    ends = [rail.at(s * rail.length_m) for rail in truss_rails(bench.body(arc)).values() for s in (0.0, 0.5, 1.0)]
    bench.do("mirror", ids=[arc])
    other = [rail.at(s * rail.length_m) for rail in truss_rails(bench.body(arc)).values() for s in (0.0, 0.5, 1.0)]
    assert {tuple(np.round(e * [-1, 1, 1], 6) + 0.0) for e in ends} == {tuple(np.round(e, 6) + 0.0) for e in other}
    bench.do("set field", ids=[arc], field="end trim", text="7m")
    with pytest.raises(JobError, match="Bow is a tilted arc"):
        bench.do("mirror", ids=[arc])
