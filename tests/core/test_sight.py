"""What seats see, against rows worked out by hand: over heads, round edges, through gauze, past one's own body."""

import numpy as np
import pytest

from zarfwright.core.review.sight import by_block, seeing, sight, worst
from zarfwright.core.site.figures import eye_height_m

ROW_M = 0.9
HEAD_TOP_M = 1.33
"""About: the eyes of who sits are at 1.2 m."""


def rows(bench, rise="0"):
    """Three rows of two seats, one behind the other, the first 10 m downstage."""
    corners = [[-0.6, -12.7, 0], [0.6, -12.7, 0], [0.6, -10, 0], [-0.6, -10, 0]]
    more = {"pitch": "0.55m", "row": f"{ROW_M}m", "rise": rise, "target": [0, 0]}
    return bench.made("add crowd", name="Stalls", seating="rows", corners=corners, **more)


def straight(found):
    """What those see who sit straight downstage."""
    return [one for one in found if one.seat.name.endswith("seat 1")]


def passes_at(seat, place, front):
    """How high the line from a place to an eye is above the floor of the seat before it, metres."""
    far, near = (np.hypot(one.eye[0] - place[0], one.eye[1] - place[1]) for one in (seat, front))
    return place[2] + (seat.eye[2] - place[2]) * near / far - (front.eye[2] - 1.2)


@pytest.mark.parametrize("rise", ["0", "0.1m", "0.25m", "0.45m"])
@pytest.mark.parametrize("high", [0.4, 1.2, 2.5, 5.0])
def test_raked_rows_see_over_the_heads_before_them_or_not(bench, rise, high):
    rows(bench, rise)
    place = (-0.275, 0.0, high)
    found = straight(sight(bench.show, place, size_m=0.02))
    assert all(abs(one.seat.eye[0] - place[0]) < 0.01 for one in found)
    assert len(found) == 3
    assert found[0].seen == 1, "nobody sits before the first row"
    for one, front in zip(found[1:], found, strict=False):
        gap = passes_at(one.seat, place, front.seat) - HEAD_TOP_M
        if gap > 0.06:
            assert one.seen == 1
        elif gap < -0.06 and passes_at(one.seat, place, front.seat) > 0.9:
            assert one.seen == 0
            assert f"Stalls, row {found.index(front) + 1}, seat 1" in one.hidden_by


def test_who_stands_up_hides_what_a_rake_had_shown(bench):
    rows(bench, "0.25m")
    place = (0.0, 0.0, 2.5)
    assert seeing(sight(bench.show, place, size_m=0.02)) == 6
    # All stand: eyes and heads go up alike. One performer in the way is a performer still.
    standing = sight(bench.show, place, size_m=0.02, people="standing")
    assert standing[0].seat.eye[2] == pytest.approx(eye_height_m("standing", 1.72), abs=0.2)
    bench.do("add figures", pose="standing", x="0", y="DS 1", z="0")
    low = (0.0, 0.0, 0.9)
    assert seeing(sight(bench.show, low, size_m=0.02)) == 0
    assert seeing(sight(bench.show, low, size_m=0.02, people="left out")) == 0, "performers stay"


def test_half_a_face_is_hidden_by_the_edge_of_a_flat(bench):
    rows(bench)
    # From x = 0 to stage left, close before the place: it hides the half of the disc that is at stage left.
    bench.do("add wall", name="Flat", corners=[[0, -0.2, 0], [3, -0.2, 0]], height="4m")
    front = sight(bench.show, (0.0, 0.0, 1.2), size_m=1.0)[0]
    x = front.seat.eye[0]
    assert abs(x) < 0.3
    assert front.seen == pytest.approx(0.5, abs=0.06)
    assert front.hidden_by == ("Flat",)
    assert front.hiding[0].split("/")[0] in bench.show.items


def test_gauze_hides_nothing_and_a_face_has_a_back(bench):
    rows(bench, "0.45m")
    assert seeing(sight(bench.show, (0.0, 0.0, 2.0), (0, -1, 0), 0.3)) == 6
    behind = sight(bench.show, (0.0, 0.0, 2.0), (0, 1, 0), 0.3)
    assert seeing(behind) == 0
    assert behind[0].hidden_by == ("its own back",)
    bench.do("add panel", corners=[[-3, 0, 0], [3, 0, 0], [3, 6, 0], [-3, 6, 0]], at="DS 2", finish="gauze")
    assert seeing(sight(bench.show, (0.0, 0.0, 2.0), (0, -1, 0), 0.3)) == 6


def test_a_place_on_a_deck_or_in_a_head_is_not_hidden_by_that(bench):
    rows(bench, "0.45m")
    bench.do("add deck", width="4m", depth="4m", height="0.8m")
    # The lower half of the disc is inside of the deck and counts for nothing.
    assert {one.seen for one in sight(bench.show, (0.0, -1.99, 0.8), size_m=0.1)} == {1}
    bench.do("add figures", pose="standing", x="0", y="0", z="UP 0.8")
    assert {one.seen for one in sight(bench.show, (0.0, 0.0, 0.8 + 1.6), size_m=0.1)} == {1}
    # What is inside of something solid is hidden whole.
    inside = sight(bench.show, (0.0, 0.0, 0.4), size_m=0.1)
    assert seeing(inside) == 0


def test_seats_are_counted_by_block_and_the_worst_come_first(bench):
    rows(bench)
    side = [[10, -0.6, 0], [11, -0.6, 0], [11, 0.6, 0], [10, 0.6, 0]]
    bench.do("add crowd", name="Side", seating="rows", corners=side, target=[0, 0])
    bench.do("add wall", name="Flat", corners=[[4, -6, 0], [4, 6, 0]], height="4m")
    found = sight(bench.show, (0.0, 0.0, 5.0), size_m=0.1)
    assert by_block(found) == {"Stalls": (6, 6), "Side": (0, 2)}
    assert [one.seat.group for one in worst(found)] == ["Side", "Side"]
    assert sight(type(bench.show)({}), (0, 0, 1)) == []
