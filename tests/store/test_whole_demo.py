"""The whole demo show is as it is described, and holds the four faults that the README names and no other."""

import json
from collections import Counter

import numpy as np
import pytest

from tests.core.people import nearest_m
from zarfwright.cli import main
from zarfwright.core.aiming.solve import direction_in_show
from zarfwright.core.carriers.planned import plan_of
from zarfwright.core.edits.carrying import as_in_look, inside_of
from zarfwright.core.looks.look import Look
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Carrier
from zarfwright.core.scene import people_of, solids_of
from zarfwright.core.seats import seats
from zarfwright.core.site.structures import end_trims_m
from zarfwright.core.site.things import Deck, Truss
from zarfwright.core.types.chain import chain_of
from zarfwright.demo.scenes import SCENES, TELLER
from zarfwright.demo.tide import build_demo
from zarfwright.web.desk import Desk


@pytest.fixture(scope="module")
def path(tmp_path_factory):
    path = tmp_path_factory.mktemp("tide") / "tide.zarf"
    build_demo(path)
    return path


@pytest.fixture(scope="module")
def show(path):
    desk = Desk(path, look=True)
    yield desk.show
    desk.close()


def named(show, kind, name):
    return next(item for item in show.of_kind(kind) if item.name == name)


def test_the_audience_is_counted_and_nobody_is_in_anothers_place(show):
    found = {item.name: people_of(item.body) for item in show.of_kind("crowd")}
    counts = {name: people.count for name, people in found.items()}
    assert counts == {
        "House SR": 64,
        "House SL": 64,
        "House front": 112,
        "Standing at the back": 180,
        "Gallery people SR": 30,
        "Gallery people SL": 30,
    }
    assert all(nearest_m(people) > 0.4 for people in found.values())
    rows = [seat for seat in seats(show) if seat.name.startswith("Row ")]
    assert len({(seat.group, seat.name) for seat in rows}) == len(rows) == 240
    # The gallery's people stand on it: eyes at 4.2 m and most of a body's height.
    eyes = [seat.eye[2] for seat in seats(show) if seat.group.startswith("Gallery")]
    assert min(eyes) > 4.2 + 1.2
    assert max(eyes) < 4.2 + 2.1


def test_ninety_six_fixtures_of_nine_types_on_six_universes(show):
    rig = [fixture for _, fixture in show.lamps()]
    assert len(rig) == 96
    assert {show.types[fixture.type].name for fixture in rig} == {
        "Heron", "Dunlin", "Plover", "Teal", "Wader", "Bittern", "Curlew", "Stilt", "Grebe",
    }  # fmt: skip
    assert {fixture.universe for fixture in rig} == {1, 2, 3, 4, 5, 6, None}
    assert [fixture.number for fixture in rig if fixture.universe is None] == [85]


def test_the_structures_hang_as_high_as_they_are_said_to(show):
    trims = {item.name: end_trims_m(item.body) for item in show.of_kind("truss") if isinstance(item.body, Truss)}
    assert trims["Truss 1"] == pytest.approx((7.4, 7.4))
    assert trims["Truss 2"] == pytest.approx((7.9, 7.9))
    for side in ("SL", "SR"):
        assert trims[f"Raked truss {side}"] == pytest.approx((8.2, 6.1))
    ring = named(show, "truss", "Lantern").body
    assert (ring.form, ring.diameter_m, ring.span_deg) == ("arc", 5.0, 360.0)
    deck = named(show, "deck", "Main deck").body
    assert isinstance(deck, Deck)
    assert (deck.width_m, deck.depth_m, deck.height_m) == (11.0, 7.5, 1.1)


def test_the_carriers_carry_what_moves_as_one(show):
    carriers = {item.body.number: (item, item.body) for item in show.of_kind("carrier")}
    assert {number: body.name for number, (_, body) in carriers.items()} == {301: "Lantern", 302: "Bridge", 303: "Sail"}
    lantern, body = carriers[301]
    assert isinstance(body, Carrier)
    inside = ["driver" if "driver" in item.name else item.kind for item in inside_of(show, lantern.id)]
    assert Counter(inside) == {"truss": 1, "fixture": 12, "driver": 1}


def test_each_of_them_has_a_driver_that_a_console_finds_on_universe_six(show):
    drivers = {fixture.number: fixture for _, fixture in show.fixtures() if fixture.drives is not None}
    assert {number: show.items[one.drives.thing].name for number, one in drivers.items()} == {
        901: "Bridge", 902: "Sail", 903: "Lantern",
    }  # fmt: skip
    assert {number: (one.universe, one.address) for number, one in drivers.items()} == {
        901: (6, 451), 902: (6, 453), 903: (6, 455),
    }  # fmt: skip
    assert len(plan_of(show).keepers) == 6


def test_the_only_faults_are_the_four_that_are_named(show, path, capsys):
    assert main(["check", str(path)]) == 1
    said = capsys.readouterr().out
    lines = [line for line in said.splitlines() if line.strip()]
    assert sum("83" in line for line in lines) >= 1
    assert sum("mid-air" in line for line in lines) == 1
    assert sum("address" in line for line in lines) == 1
    assert sum("216 crosses" in line for line in lines) == 1
    assert len([line for line in lines if not line.startswith("Everything")]) == 4


def test_five_of_the_six_lasers_keep_off_people_and_one_does_not(show, path, capsys):
    assert main(["laser", "check", str(path), "--json"]) == 1
    (one,) = json.loads(capsys.readouterr().out)["crossings"]
    assert (one["number"], one["what"], one["over"], one["limit"]) == (216, "people", True, 25.0)
    assert one["who"].startswith("Gallery people SL")
    # On the gallery, at the height of eyes.
    assert 4.2 + 1.2 < one["where"][2] < 4.2 + 2.1
    feeds = {fixture.number: fixture.laser.feed for _, fixture in show.lamps() if fixture.laser is not None}
    assert feeds == {211: 1, 212: 2, 213: 3, 214: 4, 215: 5, 216: 6}
    look = next(i + 1 for i, scene in enumerate(SCENES) if scene.name == "Flood: all lamps")
    assert main(["laser", "check", str(path), "--look", "1"]) == 0
    assert main(["laser", "check", str(path), "--look", str(look)]) == 1


def test_the_looks_are_the_cues_and_one_place_is_met_by_all_front_profiles(show):
    looks = show.of_kind("look")
    assert [item.name for item in looks] == [scene.name for scene in SCENES]
    assert len(looks) == 14
    body = named(show, "look", "Ebb: one place").body
    assert isinstance(body, Look)
    met = 0
    for item, fixture in show.fixtures():
        if fixture.purpose != "Deck specials":
            continue
        values = body.values[item.id]
        chain = chain_of(show.types[fixture.type], fixture.mode)
        lens, along = direction_in_show(chain, clamp_placement(show, fixture), values["pan"], values["tilt"])
        to = np.array(TELLER) - lens
        assert np.linalg.norm(to - (to @ along) * along) < 0.001
        assert to @ along > 0
        met += 1
    assert met == 8
    dark = named(show, "look", "Slack Water: dark").body.values
    assert sum(line.get("dimmer", 0) > 0 for line in dark.values()) < 130


def test_every_seat_looks_at_the_stage_and_not_at_the_roof(show):
    targets = np.array([seat.target for seat in seats(show)])
    assert len(targets) == 480
    assert (np.abs(targets[:, 0]) < 2).all()
    assert (targets[:, 1] > -4).all()
    assert (targets[:, 1] < 7).all()
    # Faces on the deck, which is 1.1 m high.
    assert (np.abs(targets[:, 2] - 2.8) < 0.4).all()


def test_it_is_the_same_each_time_it_is_built(show, tmp_path):
    build_demo(tmp_path / "again.zarf")
    again = Desk(tmp_path / "again.zarf")
    assert dict(again.show.items) == dict(show.items)
    again.close()


def test_the_looks_lift_the_bridge_turn_the_lantern_and_fly_the_sail(show):
    carriers = {item.name: item.id for item in show.of_kind("carrier")}
    rail = named(show, "piece", "Bridge rail DS")
    for scene in SCENES:
        stand = as_in_look(show, named(show, "look", scene.name).id)
        bridge, sail, lantern = (stand.items[carriers[name]].body for name in ("Bridge", "Sail", "Lantern"))
        assert bridge.position[2] == pytest.approx(scene.bridge, abs=1e-5)
        assert sail.position[2] == pytest.approx(scene.sail, abs=1e-5)
        assert lantern.turn_deg == pytest.approx(scene.lantern, abs=1e-4)
        (drawn,) = solids_of(stand, stand.items[rail.id])
        assert drawn.placement.position[2] == pytest.approx(rail.body.position[2] + scene.bridge - 1.2, abs=1e-5)
