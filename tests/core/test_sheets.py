"""Sheets: sizes and scales, what is seen and what is cut, where labels lie, and what stands on a drawn one."""

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from zarfwright.core.errors import JobError
from zarfwright.core.mesh import box, moved
from zarfwright.core.sheet.clouds import cloud, together
from zarfwright.core.sheet.compose import draw_sheet, paper_of
from zarfwright.core.sheet.cuts import cut_faces, hatching
from zarfwright.core.sheet.dimensions import spread
from zarfwright.core.sheet.hidden import Faces, Hider, edges_of, merged
from zarfwright.core.sheet.labels import Wanted, place_labels
from zarfwright.core.sheet.marks import Box, Circle, Line, Words
from zarfwright.core.sheet.paper import fitting, parse_scale, scale_text, size_of
from zarfwright.core.sheet.sheet import LOOKS, Sheet, View

NONE = np.zeros((0, 2, 2))


def faces(*meshes) -> Faces:
    """Triangles of meshes, each of an owner of its own."""
    corners = [mesh.vertices.astype(float)[mesh.triangles.reshape(-1, 3)] for mesh in meshes]
    return Faces(np.concatenate(corners), np.repeat(np.arange(len(corners)), [len(one) for one in corners]))


def seen_mm(found: Faces, mm_per_m=20.0, cut=None) -> float:
    """How many millimetres of line are seen, each once."""
    edges = edges_of(found)
    pieces, _ = Hider(found).visible(edges.ends, mm_per_m, cut)
    return sum(shapely.LineString(line).length for line in merged(pieces * mm_per_m))


# Paper and scales


def test_sheets_have_the_sizes_of_their_standards():
    assert size_of("A1") == (841, 594)
    assert size_of("A3", upright=True) == (297, 420)
    assert size_of("ARCH D") == pytest.approx((36 * 25.4, 24 * 25.4))
    assert size_of("ANSI B") == pytest.approx((17 * 25.4, 11 * 25.4))
    with pytest.raises(JobError, match="no size of paper"):
        size_of("B5")


def test_the_largest_standard_scale_that_fits_is_taken():
    # 16 m across are 320 mm at 1:50, and 640 mm at 1:25.
    assert fitting(16, 6, (330, 300)) == 50
    assert fitting(16, 6, (319, 300)) == 75
    assert fitting(0.1, 0.1, (300, 300)) == 1
    # A quarter of an inch to the foot: 40 feet are ten inches.
    assert fitting(40 * 0.3048, 3, (254.1, 200), "imperial") == 48


@pytest.mark.parametrize(("text", "scale"), [("50", 50), ("1:50", 50), (" 1 : 20 ", 20), ("", 0), ("fit", 0)])
def test_a_scale_is_read_as_it_is_typed(text, scale):
    assert parse_scale(text) == scale


def test_imperial_scales_are_read_and_written_in_inches_to_the_foot():
    assert parse_scale("1/4\" = 1'", "imperial") == 48
    assert parse_scale('1/2"', "imperial") == 24
    assert scale_text(96, "imperial") == "1/8\" = 1'"
    assert scale_text(50, "imperial") == "1:50"
    for text in ("1:0", "big", "1:99999"):
        with pytest.raises(JobError, match="no scale"):
            parse_scale(text)


# Hidden lines and cut faces


def test_of_a_box_from_above_its_four_edges_are_seen():
    # 2 m by 3 m at 1:50: 2 * (40 + 60) mm; the lower edges lie under the upper ones and are drawn once.
    assert seen_mm(faces(box((2, 3, 1)))) == pytest.approx(200, abs=0.2)


def test_what_lies_under_another_thing_is_not_drawn_and_comes_out_beside_it():
    low, high = box((4, 1, 0.5)), moved(box((1, 3, 0.5)), (0, 0, 2))
    # The upper one whole: 2 * (20 + 60); the lower one's long sides without the metre under it, and its short sides.
    assert seen_mm(faces(low, high)) == pytest.approx(160 + 2 * (80 - 20) + 2 * 20, abs=0.4)


def test_things_that_lie_flush_hide_none_of_each_others_edges():
    left, right = moved(box((1, 1, 1)), (-0.5, 0, 0)), moved(box((1, 1, 1)), (0.5, 0, 0))
    # Around both, and the line where they meet.
    assert seen_mm(faces(left, right)) == pytest.approx(2 * (40 + 20) + 20, abs=0.4)


def test_what_is_before_the_cut_hides_nothing():
    low, high = box((4, 1, 0.5)), moved(box((1, 3, 0.5)), (0, 0, 2))
    both = faces(low, high)
    edges = edges_of(both.chosen(both.owner == 0))
    pieces, _ = Hider(both).visible(edges.ends, 20.0, cut=1.0)
    assert sum(shapely.LineString(line).length for line in merged(pieces * 20.0)) == pytest.approx(200, abs=0.2)


def test_visible_lines_are_those_of_an_item_buffer():
    """Held against boxes by themselves: what is inside of one in plan, and under its top, is not drawn."""
    dice = np.random.default_rng(5)
    meshes = [moved(box(dice.uniform(0.4, 2.0, 3)), dice.uniform((-3, -3, 0), (3, 3, 3))) for _ in range(14)]
    found = faces(*meshes)
    edges = edges_of(found)
    pieces, whose = Hider(found).visible(edges.ends, 20.0)
    tops = np.array([mesh.vertices.max(axis=0) for mesh in meshes])
    lows = np.array([mesh.vertices.min(axis=0) for mesh in meshes])
    wrong = total = 0
    for ends, (k,) in zip(pieces, whose[:, None], strict=True):
        share = np.linspace(0.02, 0.98, max(2, int(np.linalg.norm(ends[1] - ends[0]) * 80)))[:, None]
        at = ends[0] + (ends[1] - ends[0]) * share
        line = edges.ends[k]
        far = np.linalg.norm(line[1, :2] - line[0, :2])
        along = np.linalg.norm(at - line[0, :2], axis=1) / far
        height = line[0, 2] + (line[1, 2] - line[0, 2]) * along
        # Hidden: more than a hair inside of a box in plan, and under its top.
        inside = np.all((at[:, None] > lows[None, :, :2] + 2e-3) & (at[:, None] < tops[None, :, :2] - 2e-3), axis=2)
        hidden = (inside & (tops[None, :, 2] > height[:, None] + 2e-3)).any(axis=1)
        wrong, total = wrong + int(hidden.sum()), total + len(at)
    assert total > 1000
    assert wrong / total < 0.005


def test_a_cut_box_is_a_face_and_a_hollow_one_is_a_ring():
    area, loose = cut_faces(faces(box((2, 1, 1))), 0.1)
    assert area.area == pytest.approx(2.0)
    assert loose == []
    # Two boxes of one thing that lie in each other are one face, not one with a hole.
    both = box((2, 1, 1)), moved(box((2, 1, 1)), (1, 0, 0))
    one = faces(*both)
    area, _ = cut_faces(replace(one, owner=np.zeros(len(one.owner), dtype=np.int64)), 0.1)
    assert area.area == pytest.approx(3.0)


def test_what_does_not_close_is_a_line_without_hatching():
    wall = Faces(np.array([[[0, 0, 0], [3, 0, 0], [3, 0, 2]], [[0, 0, 0], [3, 0, 2], [0, 0, 2]]], dtype=float),
                 np.zeros(2, dtype=np.int64))  # fmt: skip
    area, loose = cut_faces(wall, 1.0)
    assert area.area == 0
    assert sum(shapely.LineString(line).length for line in loose) == pytest.approx(3.0)


def test_hatching_lies_in_the_same_places_of_the_paper_whatever_is_hatched():
    def lines(x):
        return {round(float(line[0][0] - line[0][1]), 6) for line in hatching(shapely.box(x, 0, x + 20, 20))}

    apart = sorted(lines(0.0) | lines(3.3))
    assert min(b - a for a, b in pairwise(apart)) == pytest.approx(1.6 * math.sqrt(2))


# Labels

spots = st.lists(st.tuples(st.integers(0, 60), st.integers(0, 60)), min_size=2, max_size=24, unique=True)


def wanted(places, pitch=9.0):
    return [Wanted(f"f{k:02d}", 6.0, 5.0, (x * pitch, y * pitch), 2.5) for k, (x, y) in enumerate(places)]


def laid(labels, room=None):
    room = room or Box(-100, -100, 800, 800)
    symbols = [Box(one.at[0] - 2, one.at[1] - 2, one.at[0] + 2, one.at[1] + 2) for one in labels]
    return place_labels(labels, symbols, NONE, room), symbols


@given(spots)
@settings(max_examples=40, deadline=None)
def test_labels_lie_over_neither_one_another_nor_a_symbol(places):
    found, symbols = laid(wanted(places))
    boxes = [one.box for one in found.values() if one is not None]
    for k, a in enumerate(boxes):
        assert not any(a.meets(b) for b in boxes[:k])
        assert not any(a.meets(symbol) for symbol in symbols)


@given(spots, st.integers(0, 23), st.tuples(st.integers(0, 60), st.integers(0, 60)))
@settings(max_examples=40, deadline=None)
def test_moving_one_fixture_moves_no_label_that_is_far_from_it(places, which, to):
    which %= len(places)
    if to in places:
        return
    before = wanted(places)
    after = list(before)
    after[which] = replace(before[which], at=(to[0] * 9.0, to[1] * 9.0))
    was, _ = laid(before)
    now, _ = laid(after)
    # Whoever may come near whom: half a label, its furthest gap and its symbol, of both.
    reach = 2 * (2.5 + 15.0 + 6.0 + 0.35) * math.sqrt(2)
    near = {after[which].id}
    for labels in (before, after):
        grown = True
        group = {after[which].id}
        while grown:
            more = {a.id for a in labels for b in labels if b.id in group and math.dist(a.at, b.at) < reach} - group
            grown = bool(more)
            group |= more
        near |= group
    for one in before:
        if one.id not in near:
            assert now[one.id] == was[one.id]


def test_where_there_is_no_room_a_label_is_not_placed_and_is_counted():
    crowded = [Wanted(f"f{k:02d}", 8.0, 5.0, (k % 6 * 3.0, k // 6 * 3.0), 1.2) for k in range(36)]
    symbols = [Box(one.at[0] - 1, one.at[1] - 1, one.at[0] + 1, one.at[1] + 1) for one in crowded]
    found = place_labels(crowded, symbols, NONE, Box(-12, -12, 28, 28))
    assert sum(one is None for one in found.values()) > 8
    assert any(one is not None for one in found.values())


def test_a_label_stands_on_the_side_that_it_likes_and_takes_a_leader_where_that_is_taken():
    alone, _ = laid([Wanted("a", 6, 5, (0, 0), 2.5, math.pi / 2)])
    assert alone["a"].box.y0 > 2.5
    assert alone["a"].leader is None
    walls = [Box(-14, -14, 14, -2.2), Box(-14, 2.2, 14, 14), Box(-14, -2.2, -2.2, 2.2), Box(2.2, -2.2, 14, 2.2)]
    far = place_labels([Wanted("a", 6, 4, (0, 0), 2.0)], walls, NONE, Box(-50, -50, 50, 50))["a"]
    assert far.leader is not None


@given(st.lists(st.floats(0, 50), min_size=1, max_size=12))
def test_texts_of_dimensions_are_spread_no_nearer_than_they_are_high(places):
    places = sorted(places)
    moved_ = spread(places, 2.0)
    assert all(b - a >= 2.0 - 1e-6 for a, b in pairwise(moved_))
    if len(places) < 2 or min(b - a for a, b in pairwise(places)) >= 2.0:
        assert moved_ == pytest.approx(places)


# Whole sheets


def rig(bench, **sheet):
    """A deck 10 m wide, a truss over it with four heads, and a sheet of them."""
    bench.do("add deck", width="10m", depth="6m", height="1m", y="US 3")
    truss = bench.made("add truss", length="8m", start_trim="6m", y="US 3", name="Truss 1")
    heads = bench.do("place along rail", structure=truss, type="heron", count="4", first_number="11").select
    return truss, heads, bench.made("add sheet", **{"look": "plan", **sheet})


def drawn(bench, sheet):
    return draw_sheet(bench.show, bench.body(sheet))


def lines(drawing, pen):
    return [mark for mark in drawing.marks if isinstance(mark, Line) and mark.pen == pen]


def texts(drawing, part=""):
    return [mark.text for mark in drawing.marks if isinstance(mark, Words) and mark.part.startswith(part)]


def test_a_deck_of_10_m_is_200_mm_wide_at_1_to_50(bench):
    _, _, sheet = rig(bench)
    bench.do("set view", id=sheet, view="v1", scale="1:50")
    along = [abs(a[0] - b[0]) for mark in lines(drawn(bench, sheet), "silhouette")
             for a, b in pairwise(mark.points) if abs(a[1] - b[1]) < 1e-6]  # fmt: skip
    # It may be drawn in pieces where heads lie over it.
    every = [x for mark in lines(drawn(bench, sheet), "silhouette") for x, _ in mark.points]
    assert max(every) - min(every) == pytest.approx(200, abs=0.05)
    assert along


def test_every_fixture_of_a_view_is_named_once(bench):
    _, heads, sheet = rig(bench)
    drawing = drawn(bench, sheet)
    assert drawing.views[0].fixtures == tuple(sorted(heads, key=list(heads).index))
    named = [
        mark.of for mark in drawing.marks if isinstance(mark, Words) and mark.of in heads and mark.text.isdecimal()
    ]
    numbers = [mark.text for mark in drawing.marks if isinstance(mark, Words) and mark.text in ("11", "12", "13", "14")]
    assert sorted(numbers) == ["11", "12", "13", "14"]
    assert set(named) == set(heads)


def test_what_hangs_in_line_shares_one_list(bench):
    truss, _, sheet = rig(bench)
    bench.do("place along rail", structure=truss, rail="upper left", type="dunlin", count="4", first_number="31")
    drawing = drawn(bench, sheet)
    listed = {mark.part for mark in drawing.marks if isinstance(mark, Words) and mark.text.startswith(("11", "31"))}
    assert len({part for part in listed if part.startswith("label/")}) in (1, 2)
    assert drawing.labels_not_placed == 0


def test_a_label_put_by_hand_stays_where_it_was_put(bench):
    _, heads, sheet = rig(bench)
    bench.do("put label", id=sheet, view="v1", fixture=heads[0], at=[40, 30])
    view = drawn(bench, sheet).views[0]
    middle = view.labels[heads[0]].middle
    symbol = view.middles[heads[0]]
    assert (middle[0] - symbol[0], middle[1] - symbol[1]) == pytest.approx((40, 30))
    bench.do("move", ids=[heads[0]], by=[0.2, 0, 0])
    again = drawn(bench, sheet).views[0]
    assert again.labels[heads[0]].middle[1] - again.middles[heads[0]][1] == pytest.approx(30)


def test_a_view_is_where_it_was_put_and_views_share_the_largest_scale_that_fits(bench):
    truss, _, sheet = rig(bench, paper="A3")
    bench.do("add view", id=sheet, look="front")
    one, two = drawn(bench, sheet).views
    assert one.scale == two.scale
    assert not one.box.meets(two.box)
    bench.do("set view", id=sheet, view="v2", at=[150, 120])
    assert drawn(bench, sheet).views[1].at == (150, 120)
    assert not any(view.outside for view in (one, two))
    bench.do("set view", id=sheet, view="v2", scale="1:5")
    first, second = drawn(bench, sheet).views
    assert second.outside
    assert first.scale <= one.scale, "one that is too large does not make the other small"
    assert truss


def test_symbols_are_at_true_size_and_turn_with_their_fixtures(bench):
    _, _, sheet = rig(bench)
    bench.do("set view", id=sheet, view="v1", scale="1:20")
    head = lines(drawn(bench, sheet), "head")[0]
    wide = max(x for x, _ in head.points) - min(x for x, _ in head.points)
    bench.do("set view", id=sheet, view="v1", scale="1:40")
    half = lines(drawn(bench, sheet), "head")[0]
    assert max(x for x, _ in half.points) - min(x for x, _ in half.points) == pytest.approx(wide / 2, rel=1e-6)
    assert 5 < wide < 40


def test_a_section_shows_what_is_behind_it_and_hatches_what_it_cuts(bench):
    _, _, sheet = rig(bench, look="section")
    drawing = drawn(bench, sheet)
    assert lines(drawing, "hatch")
    cut = [point for mark in lines(drawing, "cut") for point in mark.points]
    # The deck is 6 m deep.
    scale = drawing.scale
    assert max(x for x, _ in cut) - min(x for x, _ in cut) == pytest.approx(6000 / scale, abs=0.05)
    # The view looks towards SR: of four heads the two on that side are in it.
    assert len(drawing.views[0].fixtures) == 2


def test_what_is_above_a_plans_cut_is_dashed(bench):
    _, _, sheet = rig(bench)
    bench.do("add deck", width="3m", depth="1m", height="0.2m", y="US 1", z="5m")
    assert lines(drawn(bench, sheet), "overhead")
    bench.do("set view", id=sheet, view="v1", cut="8m")
    assert not lines(drawn(bench, sheet), "overhead")


def test_a_structure_alone_is_seen_square_with_its_running_distances(bench):
    truss, heads, _ = rig(bench)
    bench.do("set field", ids=[truss], field="turn", text="90")
    sheet = bench.made("add sheet", of=[truss])
    bench.do("add dimension", id=sheet, view="v1", sort="rail", structures=[truss])
    bench.do("add dimension", id=sheet, view="v1", sort="trim", structures=[truss])
    drawing = drawn(bench, sheet)
    assert drawing.views[0].fixtures == tuple(sorted(heads))
    said = texts(drawing, "dimension/v1")
    along = [f"{bench.body(head).hang.along_m:.2f}" for head in heads]
    assert [text for text in said if text in along] == along
    assert "6.00" in said
    assert not lines(drawing, "silhouette"), "the set is not in it"
    chord = lines(drawing, "chord")
    reach = [x for mark in chord for x, _ in mark.points]
    assert max(reach) - min(reach) == pytest.approx(8000 / drawing.scale, abs=0.1)


def test_distances_from_the_centre_line_and_between_two_places(bench):
    truss, _, sheet = rig(bench)
    bench.do("add dimension", id=sheet, view="v1", sort="centre", structures=[truss])
    bench.do("add dimension", id=sheet, view="v1", sort="free", start=[-3, 0, 1], end=[1, 3, 1])
    said = texts(drawn(bench, sheet), "dimension/v1")
    assert said.count("4.00") == 2
    assert "5.00" in said


def test_the_legend_counts_what_is_on_the_sheet_and_the_strip_says_what_it_is(bench):
    bench.do("set show", name="Tide", venue="Shed")
    _, _, sheet = rig(bench, number="L1", drawn_by="Wren")
    drawing = drawn(bench, sheet)
    assert "4 ×" in texts(drawing, "legend")
    for words in ("Tide", "Shed", "L1", "Wren", "Plan", "not issued"):
        assert words in texts(drawing, "title"), words
    bench.do("set sheet", ids=[sheet], legend=False)
    assert texts(drawn(bench, sheet), "legend") == []


def test_a_legend_of_very_many_types_stays_on_its_paper(bench):
    entry, heron = bench.show.items["heron"], bench.show.types["heron"]
    many = [f"t{k}" for k in range(40)]
    bench.show = replace(
        bench.show,
        items={**bench.show.items, **{key: replace(entry, id=key) for key in many}},
        types={**bench.show.types, **dict.fromkeys(many, heron)},
    )
    for k in range(40):
        bench.do("place free", type=f"t{k}", position=[k % 8, k // 8, 5])
    sheet = bench.made("add sheet", look="plan", paper="A4")
    drawing = drawn(bench, sheet)
    assert texts(drawing, "legend").count("1 ×") == 40
    border = paper_of(bench.body(sheet)).border
    tops = [mark.at[1] for mark in drawing.marks if isinstance(mark, Words) and mark.part == "legend"]
    assert border.y0 < min(tops)
    assert max(tops) < border.y1


def test_no_helper_of_the_screen_is_on_a_sheet(bench):
    truss, heads, sheet = rig(bench)
    bench.do("add figures", pose="standing", y="US 2")
    plain = drawn(bench, sheet)
    bench.do("add focus point", name="Here", point=[0, 1, 1])
    bench.do("add viewpoint", eye=[0, -5, 2], target=[0, 0, 1])
    bench.do("hold values", ids=list(heads), values={"dimmer": 1.0})
    assert drawn(bench, sheet).marks == plain.marks
    assert any(isinstance(mark, Circle) and mark.pen == "crowd" for mark in plain.marks)
    assert truss


@pytest.mark.parametrize("look", LOOKS)
def test_an_empty_show_gives_an_empty_sheet_from_every_side(bench, look):
    drawing = draw_sheet(bench.show, Sheet("Nothing", views=(View("v1", look),)))
    assert drawing.views[0].fixtures == ()
    assert paper_of(Sheet("Nothing")).border.holds(drawing.views[0].box)


def test_what_is_gone_from_the_show_leaves_its_views_without_it(bench):
    truss, heads, sheet = rig(bench)
    alone = bench.made("add sheet", of=[truss])
    bench.do("put label", id=alone, view="v1", fixture=heads[0], at=[9, 9])
    bench.do("add dimension", id=alone, view="v1", structures=[truss])
    bench.do("remove", ids=[truss, *heads])
    assert drawn(bench, alone).views[0].fixtures == ()
    assert drawn(bench, sheet).views[0].fixtures == ()


# Revisions


def test_what_changed_since_the_papers_were_issued_has_a_cloud(bench):
    _, heads, sheet = rig(bench)
    bench.do("issue papers", date="2026-11-30", note="Load-in")
    assert not lines(drawn(bench, sheet), "cloud")
    bench.do("move", ids=[heads[1]], by=[0.3, 0, 0])
    drawing = drawn(bench, sheet)
    (made,) = lines(drawing, "cloud")
    x0, y0, x1, y1 = shapely.Polygon(made.points).bounds
    at = drawing.views[0].middles[heads[1]]
    assert x0 < at[0] < x1
    assert y0 < at[1] < y1
    assert "since A" in texts(drawing)
    bench.do("remove", ids=[heads[3]])
    assert len(lines(drawn(bench, sheet), "cloud")) == 2, "what is gone has one where it was"
    bench.do("issue papers")
    assert not lines(drawn(bench, sheet), "cloud")
    assert {"A", "B", "Load-in"} <= set(texts(drawn(bench, sheet), "revisions"))


def test_a_cloud_goes_all_round_and_neighbours_share_one():
    ring = shapely.Polygon(cloud(Box(0, 0, 30, 10)))
    assert ring.contains(shapely.box(0.5, 0.5, 29.5, 9.5))
    assert len(together([Box(0, 0, 5, 5), Box(7, 0, 12, 5), Box(40, 40, 45, 45)])) == 2
