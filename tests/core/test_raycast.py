"""Rays through solids: distances, faces and who is met, against hand values; and the bench's large show."""

import numpy as np
import pytest

from zarfwright.core.mesh import box
from zarfwright.core.raycast import Caster
from zarfwright.core.readiness import findings
from zarfwright.core.scene import FINISHES, SHEER, Solid, solid_of
from zarfwright.core.show import Item
from zarfwright.core.site.solids import deck_mesh
from zarfwright.core.site.things import Deck, Figure, Panel, Piece
from zarfwright.core.space import Placement, about, quat
from zarfwright.demo.large import build_large
from zarfwright.web.desk import Desk


def slab(name, size, centre, turn_deg=0.0, scale=1.0):
    turn = quat(about((0.0, 0.0, 1.0), np.radians(turn_deg)))
    return Solid(name, "deck", box(size), Placement(centre, turn), (0.2, 0.3, 0.4), scale)


def test_a_ray_meets_the_nearest_thing_and_its_face_looks_back():
    caster = Caster([slab("far", (4, 4, 1), (0, 0, 0)), slab("near", (1, 1, 1), (0, 0, 3))])
    met = caster.first([(0, 0, 9), (1.5, 0, 9), (9, 9, 9)], np.tile([0.0, 0.0, -1.0], (3, 1)))
    assert met.distance[:2] == pytest.approx([5.5, 8.5])
    assert np.isinf(met.distance[2])
    assert [caster.names[i] for i in met.thing[:2]] == ["near", "far"]
    assert met.thing[2] == -1
    assert met.normal[0] == pytest.approx([0, 0, 1])
    # From inside, the face looks inwards.
    inside = caster.first([(0, 0, 0)], [(1.0, 0.0, 0.0)])
    assert inside.normal[0] == pytest.approx([-1, 0, 0])
    assert caster.albedo[met.thing[0]] == pytest.approx([0.2, 0.3, 0.4])


def test_things_are_met_where_they_are_turned_and_as_large_as_they_are():
    caster = Caster(
        [slab("turned", (2, 0.2, 2), (0, 5, 0), turn_deg=90), slab("scaled", (1, 1, 1), (0, -5, 0), scale=2.0)]
    )
    met = caster.first([(0, 0, 0), (0.5, 0, 0), (0.95, 0, 0)], [(0, 1, 0), (0, 1, 0), (0, -1, 0)])
    assert met.distance[0] == pytest.approx(4.0)
    assert np.isinf(met.distance[1])
    assert met.distance[2] == pytest.approx(4.0)


def test_what_is_seen_is_what_nothing_stands_before():
    caster = Caster([slab("wall", (0.1, 4, 4), (2, 0, 0))])
    seen = caster.sees([(0, 0, 0)] * 4, [(1.9, 0, 0), (1.95, 0, 0), (4, 0, 0), (4, 9, 0)])
    assert seen.tolist() == [True, True, False, True]
    assert Caster([]).sees([(0, 0, 0)], [(1, 0, 0)]).tolist() == [True]


def test_people_stand_in_their_simple_meshes():
    person = solid_of(Item("a", "figure", Figure("A", (0.0, 0.0, 0.0))))
    assert person.far is not None
    met = Caster([person]).first([(0, -3, 1.2)], [(0.0, 1.0, 0.0)])
    assert met.distance[0] == pytest.approx(2.91, abs=0.05)


def test_a_cloth_is_a_plain_sheet_and_gives_back_more_light_than_a_black_deck():
    assert len(deck_mesh(9, 0.06, 4.6).triangles) == 12
    assert len(deck_mesh(9, 2.0, 1.1).triangles) == 24
    cloth = solid_of(Item("c", "deck", Deck("Cloth", finish="cloth")))
    black = solid_of(Item("b", "deck", Deck("Deck")))
    assert cloth.albedo == FINISHES["cloth"]
    assert min(cloth.albedo) > 3 * max(black.albedo)


def test_the_large_show_has_as_many_lamps_as_asked_all_lit_and_none_at_odds(tmp_path):
    build_large(tmp_path / "large.zarf", 70, 80)
    desk = Desk(tmp_path / "large.zarf")
    kinds = [item.kind for item in desk.show.items.values()]
    assert (kinds.count("fixture"), kinds.count("figure"), kinds.count("truss")) == (70, 80, 3)
    look = desk.show.items[desk.show.settings.playing].body
    assert all(said["dimmer"] == 0.8 for said in look.values.values())
    assert [finding for finding in findings(desk.show) if finding.wrong] == []
    desk.close()


def test_light_passes_through_gauze_in_part_and_rays_meet_what_is_behind():
    corners = ((-2.0, 0.0, 0.0), (2.0, 0.0, 0.0), (2.0, 4.0, 0.0), (-2.0, 4.0, 0.0))
    gauze = solid_of(Item("g", "panel", Panel("Gauze", corners, (0.0, 2.0, 0.0), finish="gauze")))
    second = solid_of(Item("h", "panel", Panel("Second", corners, (0.0, 5.0, 0.0), finish="black gauze")))
    cyc = solid_of(Item("c", "piece", Piece("Drop", "cyc", (0.0, 3.0, 0.0), 0.0, 4.0, 0.0, 4.0, finish="gauze")))
    wall = slab("wall", (4, 0.2, 4), (0, 8, 2))
    open_, black = SHEER["gauze"][0], SHEER["black gauze"][0]
    caster = Caster([gauze, wall])
    assert caster.first([(0, 0, 1)], [(0.0, 1.0, 0.0)]).distance[0] == pytest.approx(7.9)
    assert caster.names[caster.first([(0, 0, 1)], [(0.0, 1.0, 0.0)]).thing[0]] == "wall"
    share = caster.share([(0, 0, 1)] * 4, [(0, 7.9, 1), (0, 1.9, 1), (0, 9, 1), (0, 1.9, 6)])
    assert share == pytest.approx([open_, 1.0, 0.0, 1.0])
    # Slantwise, at 60 degrees to its face, it has twice the thread.
    slant = caster.share([(-1.7, 1.0, 1.0)], [(-1.7 + 2 * np.sqrt(3), 3.0, 1.0)])
    assert slant[0] == pytest.approx(open_**2, rel=1e-4)
    # Each sheet takes its own share once: a panel with two faces, a cloth whose faces coincide.
    both = Caster([gauze, cyc, second])
    assert both.share([(0, 0, 1)], [(0, 7, 1)])[0] == pytest.approx(open_ * open_ * black)
    assert both.share([(0, 2.5, 1)], [(0, 4, 1)])[0] == pytest.approx(open_)
