"""Looks: what they say and leave alone, how they are kept in part, layered, linked and changed; and what differs."""

import base64
import math
import zlib
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import Workbench
from zarfwright.core.dmx.features import FEATURES
from zarfwright.core.errors import JobError
from zarfwright.core.looks.differences import colour_word, differences
from zarfwright.core.looks.kept import of_some, seen, without
from zarfwright.core.looks.look import Look
from zarfwright.core.looks.said import Said, overlaid, said_of
from zarfwright.core.looks.saying import links_said, looks_with, saying
from zarfwright.core.looks.shown import carriers_of, facts_of, in_order, look_numbered, resolved
from zarfwright.core.looks.stand import prints_of, stand_of
from zarfwright.core.patch import compiled_show
from zarfwright.core.readiness import findings
from zarfwright.core.show import body_from_json, body_to_json

FEATURE = st.sampled_from([feature.name for feature in FEATURES])
KEY = st.sampled_from(["a", "b", "c/1", "c/2", "c"])
VALUES = st.dictionaries(KEY, st.dictionaries(FEATURE, st.integers(-400, 400).map(lambda n: n / 100)), max_size=5)


@pytest.fixture
def rig():
    """Four profile heads on a truss, two wash heads on another, a focus point on the deck."""
    bench = Workbench()
    truss = bench.made("add truss", name="Truss 1", length="8m", start_trim="6m")
    other = bench.made("add truss", name="Truss 2", length="8m", start_trim="6m", y="US 4")
    bench.ids = bench.do("place along rail", structure=truss, type="heron", count="4", first_number="11").select
    bench.wash = bench.do("place along rail", structure=other, type="dunlin", count="2", first_number="21").select
    bench.point = bench.made("add focus point", name="Lectern", point=[0, 2, 1.1])
    return bench


def keep(bench, name, values, **more):
    return bench.made("keep look", name=name, values=values, **more)


# What is said, packed


@given(VALUES)
def test_what_is_said_comes_back_as_it_was_and_what_is_not_said_is_not_there(values):
    said = said_of(values)
    assert said == values
    assert Said(said.text) == values
    assert list(said) == list(values)


@given(VALUES, VALUES, VALUES)
def test_layers_in_any_grouping_come_to_the_same(a, b, c):
    one, two, three = (said_of(each) for each in (a, b, c))
    left, right = overlaid([overlaid([one, two]), three]), overlaid([one, overlaid([two, three])])

    def effective(said, key, feature):
        own = said.get(key, {}).get(feature)
        return own if own is not None else said.get(key.split("/")[0], {}).get(feature)

    every = {*a, *b, *c} - {"c"} | {"c/1", "c/2"}
    for key in every:
        for feature in {name for each in (a, b, c) for row in each.values() for name in row}:
            assert effective(left, key, feature) == effective(right, key, feature)


@given(VALUES, VALUES)
def test_where_the_upper_layer_says_something_that_holds_and_else_the_lower(a, b):
    both = overlaid([said_of(a), said_of(b)])
    for key in ("a", "b"):
        assert both.get(key, {}) == {**a.get(key, {}), **b.get(key, {})}


def test_a_fixture_as_a_whole_over_single_cells_is_all_of_its_cells():
    cells = said_of({"c/1": {"dimmer": 0.2, "red": 1.0}, "c/2": {"dimmer": 0.4}})
    both = overlaid([cells, said_of({"c": {"dimmer": 0.9}})])
    assert both == {"c/1": {"red": 1.0}, "c/2": {}, "c": {"dimmer": 0.9}}


@pytest.mark.parametrize(
    "text",
    [
        "no base64 at all!",
        base64.b64encode(b"no zlib").decode(),
        base64.b64encode(zlib.compress(b"no head")).decode(),
        base64.b64encode(zlib.compress(b'{"keys": 7, "features": []}\n')).decode(),
        base64.b64encode(zlib.compress(b'{"keys": "a", "features": ["dimmer"]}\nabc')).decode(),
        base64.b64encode(zlib.compress(b'{"keys": "a\\na", "features": ["dimmer"]}\n' + bytes(8))).decode(),
        base64.b64encode(zlib.compress(b'{"keys": "a", "features": ["dimmer"]}\n' + b"\0\0\x80\x7f")).decode(),
        base64.b64encode(zlib.compress(bytes(300 * 2**20))).decode(),
    ],
)
def test_what_is_no_packed_look_is_refused_when_the_show_is_opened(text):
    with pytest.raises(JobError, match="look in this show file cannot be read"):
        body_from_json("look", f'{{"name": "A", "number": 1, "values": "{text}"}}')


def test_a_feature_that_this_version_does_not_know_is_left_out():
    head = b'{"keys": "a", "features": ["glitter", "dimmer"]}\n'
    planes = np.array([[7.0], [0.5]], dtype="<f4").view(np.uint8).reshape(2, 1, 4).transpose(0, 2, 1).tobytes()
    text = base64.b64encode(zlib.compress(head + planes)).decode()
    assert body_from_json("look", f'{{"name": "A", "number": 1, "values": "{text}"}}').values == {"a": {"dimmer": 0.5}}


def test_a_look_of_the_first_version_with_its_values_as_plain_numbers_is_read_and_kept_packed():
    old = body_from_json("look", '{"name": "A", "number": 3, "values": {"a": {"dimmer": 0.5}}, "note": "x"}')
    assert old.values == {"a": {"dimmer": 0.5}}
    assert b'"dimmer"' not in body_to_json("look", old)
    assert body_from_json("look", body_to_json("look", old)) == old


def test_a_large_look_is_kept_small(rig):
    """Three thousand heads that differ in where they point and in level, alike in the rest."""
    rng = np.random.default_rng(3)
    names = ("iris", "focus", "gobo slot", "gobo 2 slot", "prism slot", "frost", "cyan", "magenta", "yellow")
    values = {
        f"{i:032x}": {"pan": float(rng.uniform(-4, 4)), "tilt": float(rng.uniform(-2, 2)),
                      "dimmer": float(rng.integers(0, 3)) / 2, "zoom": 16.0, **dict.fromkeys(names, 1.0)}
        for i in range(3000)
    }  # fmt: skip
    text = said_of(values).text
    # 200 of these are 13 MB; as plain numbers they would be 120 MB.
    assert len(text) < 65_000


# Keeping


def test_a_part_keeps_only_what_was_asked_for_and_nothing_of_air_and_carriers(rig):
    values = {key: {"dimmer": 1.0, "cyan": 0.4, "pan": 0.2, "zoom": 20.0} for key in rig.ids}
    part = rig.body(keep(rig, "Colour alone", values, ids=rig.ids[:2], sorts=["colour"]))
    assert part.values == {key: {"cyan": 0.4} for key in rig.ids[:2]}
    assert (part.whole, part.carriers, part.haze_per_m, part.exposure_ev) == (False, {}, None, None)
    whole = rig.body(keep(rig, "All", values))
    assert (whole.whole, whole.haze_per_m) == (True, rig.show.settings.haze_per_m)
    # Only of a whole look it is said that something was hung since.
    said = [f.text for f in findings(rig.show) if f.step == "looks"]
    assert said == ["Look 2, All, says nothing of 2 fixtures hung since: keep it again."]
    with pytest.raises(JobError, match="nothing to keep of these"):
        keep(rig, "None", values, ids=rig.wash)


def test_what_is_held_by_hand_is_kept_with_the_palettes_and_points_that_it_comes_of(rig):
    rig.do("hold values", ids=rig.ids[:2], values={"dimmer": 0.7})
    rig.do("aim at", ids=rig.ids[:2], focus=rig.point)
    rig.do("set colour", ids=rig.ids[:1], x=0.5, y=0.4)
    palette = rig.do("keep palette", ids=rig.ids[:1], sort="colour", name="Amber").changes[0].id
    rig.do("apply palette", id=palette, ids=rig.ids[:1])
    look = rig.made("keep look", name="Held", what="held")
    body = rig.body(look)
    assert set(body.values) == {*rig.ids[:2]}
    assert body.links == {rig.point: (*rig.ids[:2],), palette: (rig.ids[0],)}
    assert {(link.name, link.sort, link.fixtures) for link in links_said(rig.show, look)} == {
        ("Lectern", "position", 2), ("Amber", "colour", 1)
    }  # fmt: skip
    assert [key for key, _ in looks_with(rig.show, rig.point)] == [look]


def test_moving_a_focus_point_moves_it_in_every_look_and_undo_brings_all_back(rig):
    rig.do("hold values", ids=rig.ids, values={"dimmer": 0.7})
    rig.do("aim at", ids=rig.ids, focus=rig.point)
    looks = [rig.made("keep look", name=name, what="held") for name in ("A", "B")]
    rig.do("release", ids=rig.ids)
    before = [resolved(rig.show, look) for look in looks]
    edit = rig.do("move", ids=[rig.point], by=[2.0, 0, 0])
    for look, was in zip(looks, before, strict=True):
        now = resolved(rig.show, look)
        assert all(abs(now[key]["pan"] - was[key]["pan"]) + abs(now[key]["tilt"] - was[key]["tilt"]) > 0.05
                   for key in rig.ids)  # fmt: skip
        # As if they were aimed there by hand.
    rig.do("aim at", ids=rig.ids, focus=rig.point)
    held = {key: rig.body(key).hands for key in rig.ids}
    for key in rig.ids:
        assert resolved(rig.show, looks[0])[key]["tilt"] == pytest.approx(held[key]["tilt"], abs=1e-4)
    rig.show = rig.show.after([change.undone() for change in reversed(edit.changes)])
    assert [resolved(rig.show, look) for look in looks] == before


def test_a_palette_kept_anew_changes_the_looks_that_have_it_and_no_others(rig):
    rig.do("hold values", ids=rig.ids[:2], values={"dimmer": 1.0})
    rig.do("set colour", ids=rig.ids[:2], x=0.5, y=0.4)
    palette = rig.do("keep palette", ids=rig.ids[:1], sort="colour", name="Amber").changes[0].id
    rig.do("apply palette", id=palette, ids=rig.ids[:1])
    look = rig.made("keep look", name="A", what="held")
    before = resolved(rig.show, look)
    rig.do("set colour", ids=rig.ids[3:], x=0.2, y=0.3)
    rig.do("update palette", id=palette, ids=rig.ids[3:])
    after = resolved(rig.show, look)
    assert after[rig.ids[0]] != before[rig.ids[0]]
    assert after[rig.ids[0]]["dimmer"] == 1.0
    assert after[rig.ids[1]] == before[rig.ids[1]]
    # When the palette is removed the look stays as it is.
    rig.do("remove", ids=[palette])
    assert resolved(rig.show, look) == after
    assert rig.body(look).links == {}


def test_update_takes_only_what_changed_and_leaves_the_rest_as_it_was_kept(rig):
    told = {key: {"dimmer": 0.5, "cyan": 0.3} for key in rig.ids[:2]}
    look = keep(rig, "A", told)
    shown = {**told, rig.ids[0]: {"dimmer": 0.8, "cyan": 0.3}, rig.ids[2]: {"dimmer": 0.9}}
    edit = rig.do("update look", id=look, values=shown, changed=True)
    # What it says nothing of is new only where it is held by hand.
    assert rig.body(look).values == {rig.ids[0]: {"dimmer": 0.8, "cyan": 0.3}, rig.ids[1]: told[rig.ids[1]]}
    assert edit.sentence == "Update look 1, A: what changed in fixture 11"
    with pytest.raises(JobError, match="nothing has changed"):
        rig.do("update look", id=look, values=shown, changed=True)
    rig.do("hold values", ids=[rig.ids[2]], values={"dimmer": 0.9})
    rig.do("update look", id=look, values=shown, changed=True)
    assert rig.body(look).values[rig.ids[2]] == {"dimmer": 0.9}


def test_later_changes_of_home_do_not_move_what_was_kept(rig):
    made = compiled_show(rig.show).rig
    names = [feature.name for feature in FEATURES]
    at_home = {key: dict(zip(names, np.nan_to_num(row).tolist(), strict=True))
               for key, row in zip(made.keys, made.home, strict=True)}  # fmt: skip
    said = seen(rig.show, at_home)
    # It stands wholly at home, and is covered all the same: every channel that it has is said.
    assert set(said) == {*rig.ids, *rig.wash}
    assert {"pan", "tilt", "dimmer"} <= set(said[rig.ids[0]])
    # Of what it cannot do nothing is said: it says less than a quarter of all there is.
    assert "red" not in said[rig.ids[0]]


# Parts, numbers, merges


def test_a_look_is_made_of_parts_the_later_over_the_earlier(rig):
    choir = keep(rig, "Choir", {rig.ids[0]: {"dimmer": 0.3, "cyan": 0.1}})
    sky = keep(rig, "Sky", {rig.ids[0]: {"dimmer": 0.9}, rig.ids[1]: {"dimmer": 0.2}})
    both = rig.made("make of parts", parts=[choir, sky], name="Both", number="2.5")
    assert resolved(rig.show, both) == {rig.ids[0]: {"dimmer": 0.9, "cyan": 0.1}, rig.ids[1]: {"dimmer": 0.2}}
    rig.do("set in look", id=choir, values={rig.ids[0]: {"cyan": 0.6}})
    assert resolved(rig.show, both)[rig.ids[0]]["cyan"] == 0.6
    assert [look.name for _, look in in_order(rig.show)] == ["Choir", "Sky", "Both"]
    with pytest.raises(JobError, match="is itself made of"):
        rig.do("set parts", id=choir, parts=[both])
    with pytest.raises(JobError, match="is itself made of"):
        rig.do("set parts", id=both, parts=[both])
    # What it was made of is removed: it stays as it is.
    before = resolved(rig.show, both)
    rig.do("remove", ids=[sky])
    assert resolved(rig.show, both) == before
    assert rig.body(both).parts == ()


def test_merged_looks_are_one_that_hangs_on_none_of_them(rig):
    a = keep(rig, "A", {rig.ids[0]: {"dimmer": 0.3}, rig.ids[1]: {"dimmer": 0.4}})
    b = keep(rig, "B", {rig.ids[0]: {"dimmer": 0.8}})
    merged = rig.made("merge looks", looks=[a, b])
    # Nobody has named it: no number is in its name that is not its own, or is not once it has another.
    assert (rig.body(merged).number, rig.body(merged).name) == (3.0, "Unnamed")
    assert rig.body(merged).values == {rig.ids[0]: {"dimmer": 0.8}, rig.ids[1]: {"dimmer": 0.4}}
    rig.do("remove", ids=[a, b])
    assert resolved(rig.show, merged)[rig.ids[1]] == {"dimmer": 0.4}
    with pytest.raises(JobError, match="at least two"):
        rig.do("merge looks", looks=[merged])


@pytest.mark.parametrize(("typed", "said"), [("four", "no number"), ("0", "above 0"), ("1", "has that number")])
def test_a_number_that_cannot_be_is_refused(rig, typed, said):
    keep(rig, "A", {rig.ids[0]: {"dimmer": 0.3}})
    with pytest.raises(JobError, match=said):
        keep(rig, "B", {rig.ids[0]: {"dimmer": 0.3}}, number=typed)


def test_looks_are_found_by_number_also_between_two_and_renumbered_in_one_step(rig):
    looks = [keep(rig, name, {rig.ids[0]: {"dimmer": 0.3}}) for name in "AB"]
    between = keep(rig, "Between", {rig.ids[0]: {"dimmer": 0.3}}, number="1,5")
    assert look_numbered(rig.show, "1.5").id == between
    assert [look.number for _, look in in_order(rig.show)] == [1.0, 1.5, 2.0]
    rig.do("renumber looks", looks=[looks[0], between, looks[1]], start="10", step=2)
    assert [look.number for _, look in in_order(rig.show)] == [10.0, 12.0, 14.0]
    with pytest.raises(JobError, match="is not among these"):
        rig.do("renumber looks", looks=[between], start="10")
    with pytest.raises(JobError, match="no look 99"):
        look_numbered(rig.show, "99")


def test_something_is_copied_to_other_looks_and_taken_out_of_all(rig):
    a = keep(rig, "A", {rig.ids[0]: {"dimmer": 0.3, "cyan": 0.5}})
    b = keep(rig, "B", {rig.ids[0]: {"dimmer": 0.9}, rig.ids[1]: {"dimmer": 0.9}})
    rig.do("copy parts", id=a, to=[b], ids=[rig.ids[0]], sorts=["colour"])
    assert rig.body(b).values[rig.ids[0]] == {"dimmer": 0.9, "cyan": 0.5}
    rig.do("take out", ids=[rig.ids[0]], sorts=["intensity"])
    assert rig.body(a).values == {rig.ids[0]: {"cyan": 0.5}}
    assert rig.body(b).values == {rig.ids[0]: {"cyan": 0.5}, rig.ids[1]: {"dimmer": 0.9}}
    with pytest.raises(JobError, match="No look says anything"):
        rig.do("take out", ids=[rig.wash[0]])
    with pytest.raises(JobError, match="says nothing of these"):
        rig.do("copy parts", id=a, to=[b], sorts=["beam"])


def test_what_is_copied_of_one_sort_brings_no_links_of_others(rig):
    rig.do("hold values", ids=rig.ids[:1], values={"dimmer": 0.7})
    rig.do("aim at", ids=rig.ids[:1], focus=rig.point)
    linked = rig.made("keep look", name="Held", what="held")
    other = keep(rig, "Other", {rig.ids[0]: {"dimmer": 0.1, "pan": 1.0, "tilt": 1.0}})
    rig.do("copy parts", id=linked, to=[other], sorts=["intensity"])
    assert (rig.body(other).links, rig.body(other).values[rig.ids[0]]["pan"]) == ({}, 1.0)
    rig.do("copy parts", id=linked, to=[other], sorts=["position"])
    assert rig.body(other).links == {rig.point: (rig.ids[0],)}


def test_a_look_is_changed_blind_by_values_by_palettes_and_by_points(rig):
    look = keep(rig, "A", {key: {"dimmer": 0.3} for key in rig.ids})
    rig.do("set in look", id=look, values={rig.ids[0]: {"dimmer": 0.6}})
    edit = rig.do("give in look", id=look, ids=[rig.ids[0]], link=rig.point)
    assert edit.sentence == "Give fixture 11 Lectern in look 1, A"
    # Nothing of the picture, or of what is held by hand, has changed.
    assert rig.body(rig.ids[0]).hands == {}
    rig.do("aim at", ids=[rig.ids[0]], focus=rig.point)
    held = rig.body(rig.ids[0]).hands
    said = resolved(rig.show, look)[rig.ids[0]]
    assert said["dimmer"] == 0.6
    assert said["tilt"] == pytest.approx(held["tilt"], abs=1e-4)
    # Values of its own let go of the point.
    rig.do("set in look", id=look, values={rig.ids[0]: {"pan": 0.1}})
    assert rig.body(look).links == {}
    assert resolved(rig.show, look)[rig.ids[0]]["tilt"] == pytest.approx(said["tilt"], abs=1e-6)
    with pytest.raises(JobError, match="neither a palette nor a focus point"):
        rig.do("give in look", id=look, ids=[rig.ids[0]], link=look)
    with pytest.raises(JobError, match="no cell 7"):
        rig.do("set in look", id=look, values={f"{rig.ids[0]}/7": {"dimmer": 1.0}})
    with pytest.raises(JobError, match="nothing that a fixture does"):
        rig.do("set in look", id=look, values={rig.ids[0]: {"glitter": 1.0}})


def test_some_and_the_rest_make_up_the_whole(rig):
    said = said_of({key: {"dimmer": 0.5, "cyan": 0.1, "pan": 0.3} for key in rig.ids})
    some, rest = of_some(said, {rig.ids[0]}, ["colour"]), without(said, {rig.ids[0]}, ["colour"])
    assert some == {rig.ids[0]: {"cyan": 0.1}}
    assert overlaid([rest, some]) == said
    assert without(said, {"gone"}, []) is said


# Recalling


def test_recalling_brings_haze_and_house_lights_and_a_part_leaves_them(rig):
    rig.do("set show", haze_per_m=0.03, house_light_lx=12.0)
    whole = keep(rig, "All", {rig.ids[0]: {"dimmer": 1.0}})
    rig.do("set show", haze_per_m=0.001, house_light_lx=0.0)
    part = keep(rig, "Part", {rig.ids[0]: {"dimmer": 1.0}}, sorts=["intensity"])
    rig.do("play look", id=part)
    assert rig.show.settings.haze_per_m == 0.001
    rig.do("play look", id=whole)
    assert (rig.show.settings.haze_per_m, rig.show.settings.house_light_lx) == (0.03, 12.0)
    rig.do("play look", id=None)
    assert (rig.show.settings.playing, rig.show.settings.look_first) == (None, False)


def test_carriers_come_of_all_that_a_look_is_made_of(rig):
    box = rig.made("add piece", piece="steps", z="1")
    carrier = rig.made("make carrier", ids=[box], name="Stair")
    low = keep(rig, "Low", {rig.ids[0]: {"dimmer": 1.0}})
    rig.do("set field", ids=[carrier], field="z", text="4m")
    high = keep(rig, "High", {rig.ids[0]: {"dimmer": 1.0}})
    both = rig.made("make of parts", parts=[low, high])
    assert carriers_of(rig.show, both)[carrier][2] == 4.0
    assert carriers_of(rig.show, low)[carrier][2] != 4.0


# What differs, what is said


def test_what_differs_is_told_by_groups_in_words_and_by_fixture_in_numbers(rig):
    base = {key: {"dimmer": 0.8, "pan": 0.0, "tilt": 0.5} for key in rig.ids}
    base |= {key: {"dimmer": 0.5, "red": 1.0, "green": 0.0, "blue": 0.0, "white": 0.0} for key in rig.wash}
    other = {key: {**row, "dimmer": 0.4} for key, row in base.items() if key in rig.ids[:2]}
    other |= {
        rig.ids[2]: {**base[rig.ids[2]], "dimmer": 0.0},
        rig.ids[3]: {**base[rig.ids[3]], "tilt": 0.5 + math.pi / 6},
    }
    other |= {key: {**base[key], "red": 0.0, "blue": 1.0} for key in rig.wash}
    found = differences(rig.show, said_of(base), said_of(other))
    assert [group.text for group in found.groups] == [
        "Truss 1 heads 11, 12: 50 % less",
        "Truss 1 head 13: out",
        "Truss 1 head 14: turned by 30°",
        "Truss 2 heads: blue instead of red",
    ]
    assert found.rows[rig.ids[0]] == {"dimmer": (0.8, 0.4)}
    assert set(found.fixtures) == {*rig.ids, *rig.wash}
    assert differences(rig.show, said_of(base), said_of(base)).groups == ()


def test_warmer_is_told_in_kelvin_and_what_only_one_says_is_a_difference(rig):
    rig.do("set colour", ids=rig.wash, kelvin=5000)
    cold = {key: {**rig.body(key).hands, "dimmer": 1.0} for key in rig.wash}
    rig.do("set colour", ids=rig.wash, kelvin=4200)
    warm = {key: {**rig.body(key).hands, "dimmer": 1.0} for key in rig.wash}
    (group,) = differences(rig.show, said_of(cold), said_of(warm)).groups
    assert "warmer by " in group.text
    kelvin = float(group.text.split("warmer by ")[1].split(" K")[0])
    assert kelvin == pytest.approx(800, abs=60)
    found = differences(rig.show, said_of({}), said_of({rig.wash[0]: {"dimmer": 0.25}}))
    assert found.rows == {rig.wash[0]: {"dimmer": (None, 0.25)}}


@pytest.mark.parametrize(
    ("xy", "word"),
    [((0.64, 0.33), "red"), ((0.3, 0.6), "green"), ((0.15, 0.06), "blue"), ((0.4599, 0.4106), "white of 2700 K"),
     ((0.32, 0.154), "magenta")],
)  # fmt: skip
def test_colours_are_called_what_people_call_them(xy, word):
    assert colour_word(xy) == word


def test_what_a_look_says_and_leaves_alone_is_told_by_groups(rig):
    look = keep(rig, "A", {rig.ids[0]: {"dimmer": 0.4}, rig.ids[1]: {"dimmer": 0.0}}, sorts=["intensity"])
    groups = {one.name: one for one in saying(rig.show, resolved(rig.show, look))}
    heads, washes = groups["Truss 1 heads"], groups["Truss 2 heads"]
    assert heads.text.startswith("1 of 4 at 40 %")
    assert heads.leaves == ("colour", "position", "beam")
    assert (washes.text, len(washes.leaves)) == ("", 4)
    facts = facts_of(resolved(rig.show, look))
    assert (facts.fixtures, facts.lit, facts.sorts["intensity"], facts.sorts["colour"]) == (2, 1, 2, 0)


def test_a_picture_is_stale_when_the_rig_the_look_or_what_it_hangs_on_changes_and_fresh_again_after_undo(rig):
    look = keep(rig, "A", {rig.ids[0]: {"dimmer": 0.4}})
    stand, prints = stand_of(rig.show), prints_of(rig.show, look)
    rig.do("set show", name="Another name")
    assert (stand_of(rig.show), prints_of(rig.show, look)) == (stand, prints)
    # What is held by hand, or numbered otherwise, is not in it.
    rig.do("hold values", ids=rig.ids, values={"dimmer": 0.9})
    rig.do("number", ids=rig.ids, start="51")
    assert (stand_of(rig.show), prints_of(rig.show, look)) == (stand, prints)
    rig.do("set in look", id=look, values={rig.ids[0]: {"dimmer": 0.5}})
    assert (stand_of(rig.show), prints_of(rig.show, look) == prints) == (stand, False)
    rig.do("set field", ids=rig.ids[:1], field="along", text="2m")
    assert stand_of(rig.show) != stand
    stand = stand_of(rig.show)
    before = rig.show
    edit = rig.do("add deck", width="3m")
    assert stand_of(rig.show) != stand
    back = rig.show.after([change.undone() for change in edit.changes])
    assert stand_of(back) == stand_of(before)


def test_a_picture_is_not_stale_because_a_carrier_was_brought_elsewhere(rig):
    box = rig.made("add piece", piece="steps", z="1")
    carrier = rig.made("make carrier", ids=[box], name="Stair")
    stand = stand_of(rig.show)
    rig.do("set field", ids=[carrier], field="z", text="4m")
    assert stand_of(rig.show) == stand
    rig.do("set field", ids=[box], field="height", text="2m")
    assert stand_of(rig.show) != stand


def test_a_damaged_ring_of_parts_is_no_endless_loop(rig):
    look = keep(rig, "A", {rig.ids[0]: {"dimmer": 0.4}})
    item, body = rig.show.thing(look, Look)
    ring = replace(item, body=replace(body, parts=(look,)))
    show = replace(rig.show, items={**rig.show.items, look: ring})
    assert resolved(show, look) == {rig.ids[0]: {"dimmer": 0.4}}


# Readiness


def looks_said(bench):
    return [f.text for f in findings(bench.show) if f.step == "looks"]


def test_readiness_names_dark_looks_twins_what_is_gone_and_what_no_longer_fits(rig):
    all_of = [*rig.ids, *rig.wash]
    one = keep(rig, "One", {key: {"dimmer": 0.5, "pan": 0.1} for key in all_of})
    assert looks_said(rig) == []
    keep(rig, "Twin", {key: {"dimmer": 0.5, "pan": 0.1} for key in all_of})
    assert looks_said(rig) == ["Look 2, Twin, is the same as look 1, One: remove one, or keep it anew."]
    rig.do("remove", ids=[one])
    keep(rig, "Night", {key: {"dimmer": 0.0} for key in all_of}, number="5")
    assert looks_said(rig) == ["Look 5, Night: nothing gives light in it. Is that meant?"]
    keep(rig, "Far", {key: {"dimmer": 0.5, "pan": 9.0 if key == rig.ids[0] else 0.0} for key in all_of}, number="6")
    assert looks_said(rig)[1] == "Look 6, Far: fixture 11 cannot show what it says (pan). Keep it again."
    keep(rig, "Red", {key: {"dimmer": 0.5, "red": 0.7} for key in all_of}, number="7")
    assert looks_said(rig)[2] == "Look 7, Red: 4 fixtures cannot show what it says (red). Keep it again."
    rig.do("set field", ids=[rig.show.of_kind("look")[-1].id], field="number", text="6")
    assert "Number 6 is given to 2 looks: renumber all but one." in looks_said(rig)
    rig.do("remove", ids=[rig.wash[1]])
    gone = [f for f in findings(rig.show) if "gone" in f.text]
    assert next(f.text for f in gone) == "Look 2, Twin, says something of a fixture that is gone."
    assert len(gone) == 4
    for found in gone:
        rig.do(found.repair.kind, **found.repair.args)
    assert not [text for text in looks_said(rig) if "gone" in text]


def test_heads_out_of_reach_since_the_rig_moved_are_named_by_look(rig):
    rig.do("hold values", ids=rig.wash, values={"dimmer": 1.0})
    rig.do("aim at", ids=rig.wash, focus=rig.point)
    rig.made("keep look", name="Held", what="held")
    rig.do("release", ids=rig.wash)
    assert looks_said(rig) == []
    # Up to where no tilt of theirs goes: over their own clamps.
    rig.do("move", ids=[rig.point], by=[0, 2.0, 30.0])
    assert looks_said(rig) == ["Look 1, Held: 2 fixtures cannot reach what they are aimed at."]


def test_an_order_that_goes_past_a_look_or_is_empty_is_named(rig):
    looks = [keep(rig, name, {key: {"dimmer": n / 5} for key in [*rig.ids, *rig.wash]}) for n, name in
             enumerate("ABC", 1)]  # fmt: skip
    order = rig.made("add order", name="Evening", looks=[looks[0], looks[2]])
    step = rig.body(order).steps[0].key
    assert looks_said(rig) == ["Evening goes past look 2. Is that meant?"]
    rig.do("add steps", id=order, looks=[looks[1]])
    assert looks_said(rig) == []
    rig.do("remove steps", id=order, steps=[one.key for one in rig.body(order).steps])
    assert looks_said(rig) == ["Evening is empty: put looks into it, or remove it."]
    with pytest.raises(JobError, match="is empty"):
        rig.do("play order", id=order)
    with pytest.raises(JobError, match="no longer in Evening"):
        rig.do("set step", id=order, steps=[step], fade_in="1")
