"""The type shop: a draft comes to the type it says, a copy to the same type, checks find faults and put them right."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zarfwright.core.errors import JobError
from zarfwright.core.rig.readiness import hang_findings
from zarfwright.core.rig.things import TypeEntry
from zarfwright.core.show import Item, Show
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.model import ModeMaster, Wheel, WheelSlot
from zarfwright.core.types.shop.bodies import grid
from zarfwright.core.types.shop.build import build, draft_of
from zarfwright.core.types.shop.checks import checks, repaired
from zarfwright.core.types.shop.draft import Draft, DraftBody, DraftChannel, DraftMode, DraftRange
from zarfwright.core.types.shop.functions import functions_of
from zarfwright.core.types.shop.pasted import ReadMode, paste_channels, paste_ranges
from zarfwright.core.types.shop.starters import starter
from zarfwright.core.types.shop.wheels import facets_of, named_colour
from zarfwright.core.types.trial import beam_words, home_slots, trial
from zarfwright.library import dunlin, heron, shipped

TYPES = list(shipped().values())


def one_mode(*channels, kind="moving head", **more):
    return Draft("T", "Made up", kind, modes=(DraftMode("M", tuple(channels)),), **more)


def dimmer(slot=1, **more):
    return DraftChannel("Lens", (slot,), (DraftRange(0, 255, "Dimmer"),), **more)


def kinds(draft):
    return [check.kind for check in checks(draft)]


@pytest.mark.parametrize("fixture_type", TYPES, ids=[f"{one.maker} {one.name}" for one in TYPES])
def test_a_copy_of_a_type_does_what_the_type_does(fixture_type):
    copy = build(draft_of(fixture_type, {}, {}), fixture_type.images)
    dice = np.random.default_rng(7)
    for mode in fixture_type.modes:
        slots = home_slots(mode)
        for _ in range(20):
            a, b = trial(fixture_type, mode.name, slots), trial(copy, mode.name, slots)
            np.testing.assert_array_equal(a.features, b.features)
            assert [one.words for one in a.doing] == [one.words for one in b.doing]
            slots = {number: dice.bytes(len(levels)) for number, levels in slots.items()}


@pytest.mark.parametrize("fixture_type", TYPES, ids=[f"{one.maker} {one.name}" for one in TYPES])
def test_shipped_types_have_nothing_wrong(fixture_type):
    assert checks(draft_of(fixture_type, {}, {})) == []


@pytest.mark.parametrize(
    "kind", ["moving head", "mirror scanner", "barrel mirror", "profile", "Fresnel", "PC", "par", "flood", "cyc",
             "LED batten", "LED panel", "laser", "hazer", "effect"],
)  # fmt: skip
def test_a_new_draft_of_each_kind_is_in_order_and_shines_down(kind):
    draft = starter(kind)
    assert checks(draft) == []
    made = build(draft)
    chains = chains_of(made, made.modes[0].name)
    assert len(chains) == max(len(draft.lenses), 1)
    assert all(chain.moves == (kind in ("moving head", "mirror scanner", "barrel mirror")) for chain in chains)
    # All of its own size below the clamp.
    assert all(-1.2 < chain.pan_offset[2] + chain.tilt_offset[2] + chain.lens_offset[2] < 0 for chain in chains)


def test_slots_of_one_wheel_become_the_sets_of_one_function():
    ranges = (
        DraftRange(0, 9, "Color1", slot=1, wheel="W", name="Open"),
        DraftRange(10, 19, "Color1", slot=2, wheel="W", name="Red"),
        DraftRange(20, 99, "Color1WheelSpin", 4, 240, "Spin"),
        DraftRange(110, 255, "Color1", slot=1, wheel="W", name="Open"),
    )
    functions = functions_of(DraftChannel("Lens", (1,), ranges, home=10)).functions
    assert [(f.attribute, f.start, len(f.sets)) for f in functions] == [
        ("Color1", 0, 2), ("Color1WheelSpin", 20, 1), ("NoFeature", 100, 0), ("Color1", 110, 1),
    ]  # fmt: skip
    assert [f.default for f in functions] == [10, None, None, None]
    assert len({f.name for f in functions}) == 4


def test_a_dimmer_above_cells_and_their_flux():
    draft = replace(starter("LED panel"), body=DraftBody(0.5, 0.5, 0.1, grid(2, 3, 0.1)))
    made = build(draft)
    chains = chains_of(made, made.modes[0].name)
    places = [np.add(np.add(c.pan_offset, c.tilt_offset), c.lens_offset) for c in chains]
    assert [tuple(np.round(place[:2], 6)) for place in places] == list(grid(2, 3, 0.1))
    assert sum(c.beam.flux_lm for c in chains) == pytest.approx(draft.beam.flux_lm)


@pytest.mark.parametrize(
    ("ranges", "kind", "after"),
    [
        ([(0, 99), (120, 255)], "missing", [(0, 119), (120, 255)]),
        ([(0, 120), (100, 255)], "overlap", [(0, 99), (100, 255)]),
        ([(9, 255)], "missing", [(0, 255)]),
        ([(0, 99)], "missing end", [(0, 255)]),
        ([(0, 99), (100, 300)], "past top", [(0, 99), (100, 255)]),
        ([(0, 99), (255, 100)], "upside down", [(0, 99), (100, 255)]),
    ],
)
def test_ranges_that_miss_or_overlap_are_found_and_put_right(ranges, kind, after):
    draft = one_mode(DraftChannel("Lens", (1,), tuple(DraftRange(a, b, "Dimmer") for a, b in ranges)))
    found = next(check for check in checks(draft) if check.kind == kind)
    assert found.button
    done = repaired(draft, found)
    assert [(r.start, r.end) for r in done.modes[0].channels[0].ranges] == after
    assert kind not in kinds(done)


def test_slots_used_twice_or_by_nobody():
    twice = one_mode(dimmer(1), DraftChannel("Lens", (1, 2), (DraftRange(0, 65535, "Zoom", 8, 40),)))
    assert "slot twice" in kinds(twice)
    done = repaired(twice, next(c for c in checks(twice) if c.kind == "slot twice"))
    assert [c.slots for c in done.modes[0].channels] == [(1,), (2, 3)]
    gap = one_mode(dimmer(3))
    assert kinds(gap) == ["slot gap"]
    done = repaired(gap, checks(gap)[0])
    assert [(c.slots, c.attribute) for c in done.modes[0].channels] == [
        ((1,), "NoFeature"), ((2,), "NoFeature"), ((3,), "Dimmer"),
    ]  # fmt: skip
    assert kinds(done) == []


def test_a_fine_byte_that_stands_apart_is_joined():
    pan = DraftChannel("Yoke", (1,), (DraftRange(0, 255, "Pan", -270, 270),), 128)
    fine = DraftChannel("Body", (2,), (DraftRange(0, 255, "NoFeature", 0, 0, "Pan fine"),))
    draft = one_mode(pan, fine, dimmer(3))
    found = next(c for c in checks(draft) if c.kind == "fine apart")
    done = repaired(draft, found)
    assert [(c.slots, c.ranges[0].end) for c in done.modes[0].channels] == [((1, 2), 65535), ((3,), 255)]
    again = one_mode(pan, replace(pan, slots=(2,)), dimmer(3))
    assert "twice" in kinds(again)
    assert "twice" not in kinds(repaired(again, next(c for c in checks(again) if c.kind == "twice")))


def test_a_mode_without_a_dimmer_an_angle_and_a_name():
    draft = one_mode(DraftChannel("Lens", (1,), (DraftRange(0, 255, "Zoom", 8, 40),)))
    done = repaired(draft, next(c for c in checks(draft) if c.kind == "no dimmer"))
    assert done.modes[0].channels[-1].attribute == "Dimmer"
    assert done.modes[0].channels[-1].slots == (2,)
    narrow = replace(draft, beam=replace(draft.beam, beam_angle_deg=20.0, field_angle_deg=20.0), name=" ")
    assert {"field", "no name"} <= set(kinds(narrow))
    done = repaired(narrow, next(c for c in checks(narrow) if c.kind == "field"))
    assert done.beam.field_angle_deg == pytest.approx(22.0)
    both = replace(draft, modes=(draft.modes[0], draft.modes[0]))
    done = repaired(both, next(c for c in checks(both) if c.kind == "mode twice"))
    assert [mode.name for mode in done.modes] == ["M", "M 2"]


def test_parts_slots_and_turns_that_are_not_there():
    lost = one_mode(
        replace(dimmer(), part="Cell 9"),
        DraftChannel("Lens", (2,), (DraftRange(0, 255, "Gobo1", slot=9, wheel="W"),)),
        DraftChannel("Body", (3,), (DraftRange(0, 255, "Pan", -9, 9),)),
        kind="par",
    )
    assert {"no part", "no slot", "cannot turn"} <= set(kinds(lost))
    done = repaired(lost, next(c for c in checks(lost) if c.kind == "no part"))
    assert done.modes[0].channels[0].part == "Body"


@st.composite
def broken(draw):
    """A mode with whatever may be wrong in it."""
    channels = []
    for _ in range(draw(st.integers(1, 4))):
        cuts = draw(st.lists(st.tuples(st.integers(0, 270), st.integers(0, 270)), min_size=1, max_size=4))
        attribute = draw(st.sampled_from(["Dimmer", "Zoom", "NoFeature"]))
        ranges = tuple(DraftRange(a, b, attribute, name=draw(st.sampled_from(["", "fine"]))) for a, b in cuts)
        channels.append(DraftChannel(draw(st.sampled_from(["Lens", "Nowhere"])), (draw(st.integers(1, 6)),), ranges))
    return one_mode(*channels)


@settings(max_examples=120, deadline=None)
@given(broken())
def test_repairs_come_to_an_end_with_a_type_that_can_be_built(draft):
    for _ in range(200):
        able = [check for check in checks(draft) if check.button]
        if not able:
            break
        after = repaired(draft, able[0])
        assert after != draft
        draft = after
    assert not [check for check in checks(draft) if check.button]
    made = build(draft)
    trial(made, "M", home_slots(made.modes[0]))


def test_a_pasted_list_gives_channels_wheels_and_emitters():
    text = """1 Pan
    2 Pan fine
    3 Red
    4 Colour wheel 0-99 Open
    100-199 Deep blue
    200-255 Red + green
    5 Gobo wheel 0-127 Open
    128-255 Leaves
    6 Prism 0-9 no prism
    10-255 5-facet linear prism"""
    pasted = paste_channels(starter("moving head"), 0, text, replacing=True)
    draft = pasted.draft
    assert pasted.left == ()
    assert [r.doubt for c in draft.modes[0].channels for r in c.ranges if r.doubt] == [
        "its angle is not given: -270 to 270° was assumed",
    ]
    assert pasted.modes == (
        ReadMode(0, ((1,), (3,), (4, 5, 6), (7, 8), (9, 10)), ("Pan", "ColorAdd_R", "Color1", "Gobo1", "Prism1"), True),
    )
    assert [(c.part, c.attribute, c.slots) for c in draft.modes[0].channels] == [
        ("Yoke", "Pan", (1, 2)), ("Lens", "ColorAdd_R", (3,)), ("Lens", "Color1", (4,)), ("Lens", "Gobo1", (5,)),
        ("Lens", "Prism1", (6,)),
    ]  # fmt: skip
    assert [[slot.name for slot in wheel.slots] for wheel in draft.wheels] == [
        ["Open", "Deep blue", "Red + green"], ["Open", "Leaves"], ["None", "5-facet linear prism"],
    ]  # fmt: skip
    assert len(draft.wheels[2].slots[1].facets) == 5
    assert [emitter.name for emitter in draft.emitters] == ["Red"]
    made = build(draft)
    slots = home_slots(made.modes[0])
    slots[1][4], slots[1][3] = 200, 120
    words = beam_words(trial(made, made.modes[0].name, slots), 0)
    assert words["gobo_slots"] == [2.0, 1.0]
    assert words["pan_deg"] == pytest.approx(0, abs=0.01)


def test_a_table_of_sixteen_bits_gives_its_channel_a_fine_byte():
    draft = one_mode(DraftChannel("Lens", (1,), (DraftRange(0, 255, "Gobo1Pos", 0, 360),)), dimmer(2))
    pasted = paste_ranges(draft, 0, 0, "0-32767 index 0-360°\n32768-65535 clockwise slow to fast")
    assert [c.slots for c in pasted.draft.modes[0].channels] == [(1, 2), (3,)]
    assert [r.end for r in pasted.draft.modes[0].channels[0].ranges] == [32767, 65535]


def test_colours_and_prisms_by_their_names():
    assert named_colour("Deep red").x > 0.6
    assert named_colour("no such thing") is None
    red, green, both = (named_colour(name) for name in ("red", "green", "red + green"))
    assert min(red.x, green.x) < both.x < max(red.x, green.x)
    assert named_colour("pale blue").y > named_colour("blue").y
    assert (len(facets_of("3-facet prism")), len(facets_of("no prism"))) == (3, 0)


def test_a_scroller_has_an_address_of_its_own():
    made = next(one for one in TYPES if one.name == "Par with scroller")
    assert made.modes[0].footprints == {1: 1, 2: 1}
    slots = home_slots(made.modes[0])
    open_rgb = beam_words(trial(made, made.modes[0].name, slots), 0)["colour_rgb"]
    slots[2][0] = 40
    red_rgb = beam_words(trial(made, made.modes[0].name, slots), 0)["colour_rgb"]
    assert red_rgb[1] < 0.2 * open_rgb[1]


def test_values_in_words():
    tried = trial(heron(), "Extended", {1: bytes([128, 0, 128, 0, 255, 255, 100, 255, 0, 0, 32, 70, *[0] * 21])})
    words = [one.words for one in tried.doing]
    assert words[3] == "strobe, 4.9 Hz"
    assert words[4] == "cyan 100 %"
    assert words[7] == "colour: Harbour red"
    assert words[8] == "gobo: Net floats"


def test_masters_choose_what_is_said():
    master = ModeMaster("Lens_Gobo1", None, 0, 9)
    other = ModeMaster("Lens_Gobo1", None, 10, 255)
    channels = (
        DraftChannel("Lens", (1,), (DraftRange(0, 255, "Gobo1", slot=1),)),
        DraftChannel(
            "Lens", (2,),
            (DraftRange(0, 255, "Iris", 1, 0.1, master=master), DraftRange(0, 255, "Zoom", 8, 40, master=other)),
        ),
    )  # fmt: skip
    made = build(one_mode(*channels))
    assert [d.function.attribute for d in trial(made, "M", {1: bytes([0, 255])}).doing] == ["Gobo1", "Iris"]
    assert [d.function.attribute for d in trial(made, "M", {1: bytes([99, 255])}).doing] == ["Gobo1", "Zoom"]


def test_emitters_of_a_copy_stay(bench):
    draft_id = bench.made("start draft", of_type="dunlin")
    draft = bench.body(draft_id)
    assert draft.name == "Dunlin copy"
    assert draft.emitters == dunlin().emitters
    assert draft.of_type is None


def test_a_replaced_type_says_what_changes_for_the_fixtures(bench):
    truss = bench.made("add truss", length="8m")
    bench.do("place along rail", structure=truss, type="dunlin", mode="Small", count="2")
    before = bench.show.types["dunlin"]
    after = replace(before, modes=(replace(before.modes[0], channels=before.modes[0].channels[:-1]),))
    bench.show = replace(bench.show, types={**bench.show.types, "asset:new": after})
    edit = bench.do("replace type", id="dunlin", name="Dunlin", maker="Q", asset="new")
    assert edit.report == ("Standard: 11 slots before, 10 after", "Small is no more: 2 fixtures go to Standard")
    assert {fixture.mode for _, fixture in bench.show.fixtures()} == {"Standard"}


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"kind": "balloon"}, "kind"),
        ({"body": {"cells": []}}, "1 to 1024 lenses"),
        ({"beam": {"flux_lm": -5}}, "flux cannot be"),
        ({"modes": [{"name": "M", "channels": [{"part": "L", "slots": [1, 2, 3, 4, 5], "ranges": []}]}]}, "four slots"),
        ({"modes": [{"name": "M", "channels": [{"part": "Lens", "slots": [0], "ranges": []}]}]}, "slots from 1"),
        ({"modes": [{"name": "M", "channels": [{"part": "L", "slots": [1], "ranges": [], "home": 999}]}]}, "home lies"),
    ],
)  # fmt: skip
def test_drafts_that_cannot_be_are_refused(bench, change, says):
    draft_id = bench.made("start draft", kind="par")
    before = bench.show
    with pytest.raises(JobError, match=says):
        bench.do("change draft", id=draft_id, draft={"name": "T", "maker": "M", **change})
    assert bench.show is before


def test_a_gel_colours_what_no_channel_colours():
    gel = Wheel("Gel", (WheelSlot("Gel", named_colour("amber")),))
    channels = (dimmer(), DraftChannel("Lens", (), (DraftRange(0, 255, "Color2", slot=1, wheel="Gel"),)))
    plain, coloured = (build(one_mode(*channels[:n], kind="profile", wheels=(gel,))) for n in (1, 2))
    assert checks(one_mode(*channels, kind="profile", wheels=(gel,))) == []
    rgb = [beam_words(trial(made, "M", {1: bytes([255])}), 0)["colour_rgb"] for made in (plain, coloured)]
    assert rgb[1][2] < 0.3 * rgb[0][2]
    assert rgb[1][0] > 0.5 * rgb[0][0]


def test_two_types_with_one_id_are_said():
    items = {
        name: Item(name, "type", TypeEntry(name, "Made up", f"asset of {name}")) for name in ("One", "Two", "Three")
    }
    types = {"One": build(replace(starter("par"), type_id="A-1")), "Two": build(replace(starter("par"), type_id="a-1"))}
    types["Three"] = build(replace(starter("par"), type_id="B-1"))
    found = [one for one in hang_findings(Show(items, types)) if "type id" in one.text]
    assert [one.where for one in found] == [("One", "Two")]
    assert found[0].text.startswith("One and Two have one and the same type id")


def test_what_was_understood_is_kept_when_its_doubt_is_settled():
    text = "1 Strobe\n 0-7 open\n 8-99 1-20 Hz\n2 Colour wheel\n 0-9 open\n 10-255 zzz turning > qqq"
    draft = paste_channels(starter("moving head"), 0, text, replacing=True).draft
    found = checks(draft)
    # What the shop finds by itself is told once, and is put right with all that can be.
    ends = [one for one in found if "8-99" in one.text or "100-255" in one.text]
    assert [(one.kind, one.button, one.asks) for one in ends] == [("missing end", "Let the last go on to 255", False)]
    doubts = [one for one in found if one.kind == "doubt"]
    assert [(one.channel, one.range, one.button, one.asks) for one in doubts] == [(1, 1, "It is so", True)]
    settled = repaired(draft, doubts[0]).modes[0].channels[1].ranges[1]
    assert settled == replace(draft.modes[0].channels[1].ranges[1], doubt="")
    assert settled.attribute != "NoFeature"
