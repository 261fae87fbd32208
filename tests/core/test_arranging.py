"""Arranging the site: copies, mirror images, turns, edges in line, things dropped; scenery and whole venues."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import Workbench
from zarfwright.core.edits.arranging import bounds_of
from zarfwright.core.errors import JobError
from zarfwright.core.readiness import findings
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.scene import people_of, solid_of
from zarfwright.core.site.pieces import MESHES, SIZES
from zarfwright.core.site.starters import USUAL
from zarfwright.core.site.structures import truss_rails
from zarfwright.core.site.things import Crowd, Deck, Truss


def middle(bench, thing):
    low, high = bounds_of(bench.show, bench.show.items[thing])
    return (low + high) / 2


def three(bench):
    """Decks 1, 2 and 3 m wide at x = -4, 0.5 and 5."""
    return [
        bench.made("add deck", width=f"{w}m", depth="1m", height="0.4m", x=x)
        for w, x in ((1, "SR 4"), (2, "SL 0.5"), (3, "SL 5"))
    ]


def test_copies_go_on_by_the_same_shift(bench):
    deck = bench.made("add deck", width="2m", x="SR 4")
    copies = bench.do("duplicate", ids=[deck], count="3", x="2.5m", z="0.2m").select
    assert [bench.body(one).position for one in copies] == [
        pytest.approx((-1.5, 0, 0.2)), pytest.approx((1.0, 0, 0.4)), pytest.approx((3.5, 0, 0.6)),
    ]  # fmt: skip
    with pytest.raises(JobError, match="too many"):
        bench.do("duplicate", ids=[deck, *copies, *three(bench)], count="500")


def test_a_mirror_image_is_a_new_placement_across_the_centre_line(bench):
    deck = bench.made("add outline deck", corners=[[1, 0, 0], [4, 0, 0], [4, 2, 0]])
    raked = bench.made("add truss", length="8m", start_trim="7m", end_trim="5m", x="SL 5", y="DS 2", turn="-90")
    low, high = bounds_of(bench.show, bench.show.items[deck])
    ends = [rail.at(s * rail.length_m) for rail in truss_rails(bench.body(raked)).values() for s in (0, 1)]
    image = bench.do("mirror", ids=[deck, raked], keep=True).select
    new_low, new_high = bounds_of(bench.show, bench.show.items[image[0]])
    assert (new_low[0], new_high[0]) == (pytest.approx(-high[0]), pytest.approx(-low[0]))
    assert (new_low[1:], new_high[1:]) == (pytest.approx(low[1:]), pytest.approx(high[1:]))
    other = [rail.at(s * rail.length_m) for rail in truss_rails(bench.body(image[1])).values() for s in (0, 1)]
    assert {tuple(np.round(e * [-1, 1, 1], 6)) for e in ends} == {tuple(np.round(e, 6)) for e in other}


@settings(max_examples=60, deadline=None)
@given(st.floats(-8, 8), st.floats(-8, 8), st.floats(-180, 180), st.sampled_from(["deck", "piece", "figure", "ring"]))
def test_mirrored_twice_all_is_as_before(x, y, turn, what):
    bench = Workbench()
    place = {
        "x": f"SL {x:.3f}" if x >= 0 else f"SR {-x:.3f}",
        "y": f"US {y:.3f}" if y >= 0 else f"DS {-y:.3f}",
        "turn": f"{turn:.2f}",
    }
    kinds = {
        "deck": ("add deck", {}),
        "piece": ("add piece", {"piece": "steps"}),
        "figure": ("add figures", {}),
        "ring": ("add truss", {"form": "arc"}),
    }
    thing = bench.made(kinds[what][0], **kinds[what][1], **place)
    before = solid_of(bench.show.items[thing])
    for _ in range(2):
        bench.do("mirror", ids=[thing])
    after = solid_of(bench.show.items[thing])
    assert after.placement.position == pytest.approx(before.placement.position, abs=1e-9)
    assert abs(np.dot(after.placement.rotation, before.placement.rotation)) == pytest.approx(1.0)


def test_turning_about_a_common_middle_and_about_their_own(bench):
    a, b = bench.made("add deck", width="1m", x="SR 2"), bench.made("add deck", width="1m", x="SL 2")
    bench.do("rotate", ids=[a, b], degrees="90", about="common")
    assert bench.body(a).position == pytest.approx((0, -2, 0))
    assert bench.body(b).position == pytest.approx((0, 2, 0))
    assert bench.body(a).turn_deg == pytest.approx(90)
    bench.do("rotate", ids=[a, b], degrees="45", about="own")
    assert bench.body(a).position == pytest.approx((0, -2, 0))
    assert bench.body(b).turn_deg == pytest.approx(135)


@pytest.mark.parametrize(
    ("edge", "wanted"), [("low", [-4.5, -4.5, -4.5]), ("high", [6.5, 6.5, 6.5]), ("middle", [1.0, 1.0, 1.0])]
)
def test_edges_are_brought_in_line(bench, edge, wanted):
    ids = three(bench)
    bench.do("align", ids=ids, axis="x", edge=edge)
    got = []
    for one in ids:
        low, high = bounds_of(bench.show, bench.show.items[one])
        got.append({"low": low[0], "high": high[0], "middle": (low[0] + high[0]) / 2}[edge])
    assert got == pytest.approx(wanted)


def test_things_are_spread_by_middles_or_by_gaps(bench):
    ids = three(bench)
    bench.do("spread", ids=ids, axis="x", what="middles")
    assert [middle(bench, one)[0] for one in ids] == pytest.approx([-4, 0.5, 5])
    bench.do("spread", ids=ids, axis="x", what="gaps")
    # From -4.5 to 6.5 is 11 m, of which 6 are decks: gaps of 2.5.
    assert [middle(bench, one)[0] for one in ids] == pytest.approx([-4, 0, 5])
    with pytest.raises(JobError, match="three things"):
        bench.do("spread", ids=ids[:2], axis="x")


def test_things_are_dropped_on_what_is_below_or_put_on_top_of_it(bench):
    deck = bench.made("add deck", width="4m", depth="4m", height="1.1m")
    bench.made("add truss", length="6m", start_trim="3m")
    inside = bench.made("add piece", piece="chair")
    above = bench.made("add piece", piece="table", x="SL 1", z="4")
    beside = bench.made("add piece", piece="column", x="SL 9", z="2")
    bench.do("drop", ids=[inside, above, beside])
    assert [bench.body(one).position[2] for one in (inside, above, beside)] == pytest.approx([1.1, 1.1, 0.0])
    assert bench.body(deck).position[2] == 0
    with pytest.raises(JobError, match="stand on what is below"):
        bench.do("drop", ids=[inside])


@pytest.mark.parametrize("piece", SIZES)
def test_every_piece_is_as_large_as_it_says(bench, piece):
    thing = bench.made("add piece", piece=piece, x="SL 3", y="US 2", z="1")
    width, depth, height = SIZES[piece]
    low, high = bounds_of(bench.show, bench.show.items[thing])
    assert set(MESHES) == set(SIZES)
    assert low[2] >= 1.0 - 1e-6
    size = high - low
    assert size[0] == pytest.approx(width, rel=0.35, abs=0.25)
    top = high[2] - 1.0 - (bench.body(thing).lift_m if piece == "screen" else 0)
    assert top == pytest.approx(height, rel=0.1, abs=0.12)
    assert middle(bench, thing)[0] == pytest.approx(3.0, abs=0.02)
    assert depth > 0


def test_pieces_that_cannot_be_are_refused(bench):
    for args in ({"piece": "throne"}, {"piece": "drape", "fullness": "much"}, {"piece": "steps", "count": "0"}):
        with pytest.raises(JobError):
            bench.do("add piece", **args)


@pytest.mark.parametrize("kind", USUAL)
def test_a_starter_is_a_whole_venue_of_ordinary_things_in_order(bench, kind):
    bench.do("start site", kind=kind)
    bodies = [item.body for item in bench.show.items.values()]
    assert sum(isinstance(body, Truss) for body in bodies) >= 2
    assert any(isinstance(body, Deck) for body in bodies) == (kind != "black box")
    crowds = [body for body in bodies if isinstance(body, Crowd)]
    assert sum(people_of(crowd).count for crowd in crowds) >= 60
    assert [finding.text for finding in findings(bench.show) if finding.step == "site"] == []
    room = next(item for item in bench.show.items.values() if item.kind == "venue")
    low, high = bounds_of(bench.show, room)
    for item in bench.show.items.values():
        if item.kind in ("show", "type", "venue"):
            continue
        own_low, own_high = bounds_of(bench.show, item)
        assert (own_low >= low - 0.25).all(), item.name
        assert (own_high <= high + 0.25).all(), item.name


def test_a_starters_numbers_are_taken_and_checked(bench):
    bench.do(
        "start site",
        kind="black box",
        width="10m",
        depth="12m",
        eave="5m",
        ridge="5m",
        stage_width="6m",
        stage_depth="4m",
    )
    room = next(item.body for item in bench.show.items.values() if item.kind == "venue")
    assert (room.width_m, room.eave_m) == (10.0, 5.0)
    for args in ({"kind": "circus"}, {"kind": "shed", "stage_width": "90m"}, {"kind": "shed", "stage_depth": "45m"}):
        with pytest.raises(JobError):
            bench.do("start site", **args)


def test_a_structure_is_copied_with_what_hangs_on_it_and_the_copies_hang_alike(bench):
    truss = bench.made("add truss", length="10m", start_trim="6m", end_trim="7m", y="US 1", name="First")
    lamps = bench.do("place along rail", structure=truss, rail="lower left", type="heron", count="4", first_number="11")
    bench.do("address", ids=list(lamps.select), start="1.001")
    copied = bench.do("duplicate", ids=[truss], count="2", y="-3m")
    assert len(copied.select) == 2
    assert copied.report == ("8 fixtures are numbered from 15, and have no addresses.",)
    fixtures = {item.body.number: item for item, _ in bench.show.fixtures()}
    assert sorted(fixtures) == list(range(11, 23))
    for number in range(11, 15):
        was = clamp_placement(bench.show, fixtures[number].body)
        for k in (1, 2):
            copy = fixtures[number + 4 * k].body
            assert copy.address is None
            assert copy.hang.structure == copied.select[k - 1]
            now = clamp_placement(bench.show, copy)
            assert np.subtract(now.position, was.position) == pytest.approx([0, -3 * k, 0], abs=1e-9)
            assert now.rotation == pytest.approx(was.rotation)


def test_fixtures_are_copied_along_their_rail_and_free_ones_where_the_shift_takes_them(bench):
    truss = bench.made("add truss", length="10m", start_trim="6m")
    hung = bench.made("place one", type="heron", structure=truss, rail="lower right", along_m=2.0, number="5")
    free = bench.made("place free", type="dunlin", position=[1, 2, 0])
    copies = bench.do("duplicate", ids=[hung, free], count="3", x="1.5m").select
    bodies = [bench.show.items[one].body for one in copies]
    assert [round(body.hang.along_m, 6) for body in bodies if body.hang] == [3.5, 5.0, 6.5]
    assert [body.number for body in bodies if body.hang] == [6, 7, 8]
    assert [body.placement.position for body in bodies if not body.hang] == [(2.5, 2, 0), (4.0, 2, 0), (5.5, 2, 0)]
    # Off the rail it is free, and that is said.
    off = bench.do("duplicate", ids=[hung], z="-1m")
    assert "hangs free" in off.report[0]
    with pytest.raises(JobError, match="cannot be copied"):
        bench.do("duplicate", ids=["show"])


def test_a_carrier_is_copied_and_turned_with_all_that_is_on_it(bench):
    truss = bench.made("add truss", length="4m", start_trim="5m")
    lamp = bench.made("place one", type="heron", structure=truss, rail="lower right", along_m=1.0, number="1")
    carrier = bench.made("make carrier", ids=[truss, lamp], number="301", pivot=[0, 0, 5])
    deck = bench.made("add deck", width="2m", depth="2m", x="SL 6")
    copy = bench.do("duplicate", ids=[carrier], x="5m").select[0]
    inside = {item.kind: item for item in bench.show.items.values() if item.parent == copy}
    assert set(inside) == {"truss", "fixture"}
    assert bench.show.items[copy].body.number is None
    assert inside["fixture"].body.hang.structure == inside["truss"].id
    at = clamp_placement(bench.show, bench.show.items[lamp].body).position
    assert clamp_placement(bench.show, inside["fixture"].body).position == pytest.approx((at[0] + 5, at[1], at[2]))
    # Turned about its pivot: a quarter turn takes what was stage right of it downstage.
    bench.do("rotate", ids=[carrier], degrees="90", about="own")
    turned = clamp_placement(bench.show, bench.show.items[lamp].body).position
    assert turned == pytest.approx((-at[1], at[0], at[2]), abs=1e-9)
    assert bench.show.items[carrier].body.turn_deg == 90

    def apart():
        return np.subtract(bench.show.items[deck].body.position, bench.show.items[carrier].body.position)

    before = apart()
    bench.do("rotate", ids=[carrier, deck], degrees="180", about="common")
    assert apart() == pytest.approx(before * [-1, -1, 1])
