"""A copy of a type does what the type does at every raw value: masters, relations, sets, references, breaks."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from tests.formats.test_gdtf import gdtf
from tests.formats.test_gdtf_modes import batten, channel, described, reference
from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.types.model import FixtureType
from zarfwright.core.types.shop.build import build, draft_of
from zarfwright.core.types.shop.checks import checks, repaired
from zarfwright.core.types.shop.draft import Draft, DraftRange
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf import read_gdtf, write_gdtf

DRAFT: TypeAdapter[Draft] = TypeAdapter(Draft)
COUNT = 256
WHEEL = '<Wheels><Wheel Name="W"><Slot Name="Open"/><Slot Name="Red"/><Slot Name="Blue"/></Wheel></Wheels>'


def sweep(fixture_type: FixtureType, mode: str, seed: int) -> np.ndarray:
    """What every beam does while each slot goes through all of its values, the others standing anywhere."""
    found = fixture_type.mode(mode)
    breaks = list(found.footprints)
    rows = [
        PatchRow(f"f{n}", fixture_type, mode, 1 + n * len(breaks), 1,
                 tuple((number, 1 + n * len(breaks) + i, 1) for i, number in enumerate(breaks)))
        for n in range(COUNT)
    ]  # fmt: skip
    rig = compile_rig(rows)
    decoder, dice = Decoder(rig), np.random.default_rng(seed)
    at = {universe: i for i, universe in enumerate(rig.universes)}
    seen = []
    for i, number in enumerate(breaks):
        for slot in range(found.footprints[number]):
            levels = np.zeros((len(rig.universes), 512), dtype=np.uint8)
            for k, other in enumerate(breaks):
                stand = dice.integers(0, 256, found.footprints[other], dtype=np.uint8)
                for n in range(COUNT):
                    levels[at[1 + n * len(breaks) + k], : len(stand)] = stand
            for n in range(COUNT):
                levels[at[1 + n * len(breaks) + i], slot] = n
            seen.append(decoder.decode(levels).copy())
    return np.stack(seen)


def written(draft: Draft, copied: FixtureType | None, older: bytes | None = None) -> FixtureType:
    """A draft as it comes back out of the file, after it has been in a show."""
    kept = DRAFT.validate_json(DRAFT.dump_json(draft))
    made, findings = read_gdtf(write_gdtf(build(kept, copied=copied), older), "copy.gdtf")
    assert not [one for one in findings if "no function" in one.what or "no channel" in one.what]
    return made


def names(fixture_type: FixtureType) -> list[list[str]]:
    return [[f.name for f in c.functions] for mode in fixture_type.modes for c in mode.channels]


# Descriptions made by dice

ATTRIBUTES = (
    "Dimmer",
    "Iris",
    "Zoom",
    "Frost1",
    "Shutter1",
    "Shutter1Strobe",
    "ColorAdd_R",
    "Gobo1",
    "Gobo1Pos",
    "NoFeature",
)
NUMBERS = st.floats(-300, 300, allow_nan=False).map(lambda value: round(value, 3))


@st.composite
def functions(draw, size, count, masters, first_name=0):
    """The functions of one logical channel, with sets and masters."""
    top = 256**size - 1
    starts = sorted(draw(st.sets(st.integers(0, 255), min_size=count, max_size=count)))
    made = []
    for n, start in enumerate(starts, first_name):
        attribute = draw(st.sampled_from(ATTRIBUTES))
        first = start * (256 ** (size - 1))
        low, high = draw(NUMBERS), draw(NUMBERS)
        sets = []
        for k in sorted(draw(st.sets(st.integers(0, 60), max_size=3))):
            at = min(first + k * 256 ** (size - 1), top)
            what = draw(st.sampled_from(("name", "physical", "slot")))
            more = {"name": "", "slot": f'WheelSlotIndex="{draw(st.integers(1, 3))}"',
                    "physical": f'PhysicalFrom="{draw(NUMBERS)}" PhysicalTo="{draw(NUMBERS)}"'}[what]  # fmt: skip
            sets.append(f'<ChannelSet Name="s{k}" DMXFrom="{at}/{size}" {more}/>')
        wheel = 'Wheel="W"' if attribute == "Gobo1" else ""
        master = draw(st.sampled_from(masters)) if masters and draw(st.booleans()) else None
        if master is not None:
            a, b = sorted((draw(st.integers(0, 255)), draw(st.integers(0, 255))))
            wheel += f' ModeMaster="{master}" ModeFrom="{a}/1" ModeTo="{b}/1"'
        made.append(
            f'<ChannelFunction Name="{draw(st.sampled_from(("Odd", "Own", "Dimmer", "Open")))} {n}" '
            f'Attribute="{attribute}" DMXFrom="{first}/{size}" Default="{draw(st.integers(0, top))}/{size}" '
            f'PhysicalFrom="{low}" PhysicalTo="{high}" {wheel}>{"".join(sets)}</ChannelFunction>'
        )
    return made


@st.composite
def descriptions(draw):
    pixels = draw(st.integers(1, 3))
    tree = batten(*(reference(f"Pixel {i}", "Cell", (1, 10 + 6 * i), (2, 1 + 5 * i)) for i in range(pixels)))
    # Two channels that the others' masters and relations name: as a whole, or by a function.
    choosers = ["Body_Frost1", "Body_Frost1.Frost1.Own 0", "Cell_ColorAdd_R"]
    named = [("Body", "Frost1", 1, "1"), ("Cell", "ColorAdd_R", 1, "1")]
    channels, followers = [], []
    for geometry, attribute, number, offset in named:
        inside = f'<ChannelFunction Name="Own 0" Attribute="{attribute}" DMXFrom="0/1" Default="0/1"/>'
        if draw(st.booleans()):
            inside += f'<ChannelFunction Name="Own 1" Attribute="NoFeature" DMXFrom="{draw(st.integers(1, 255))}/1"/>'
        channels.append(channel(geometry, attribute, offset, number, inside))
    for n in range(draw(st.integers(1, 4))):
        geometry, number = draw(st.sampled_from((("Body", 1), ("Cell", 1), ("Cell", 2), ("Lens", 2))))
        size = draw(st.integers(1, 2))
        attribute = ("Dimmer", "Iris", "Zoom", "Shutter1")[n]
        first = (2 + 2 * n if geometry == "Body" else 2 + n) if number == 1 else 1 + n
        offset = ",".join(str(first + k) for k in range(size if geometry == "Body" else 1))
        size = offset.count(",") + 1
        inside = draw(functions(size, draw(st.integers(1, 4)), choosers))
        logical = f'<LogicalChannel Attribute="{attribute}">{"".join(inside)}</LogicalChannel>'
        if draw(st.booleans()):
            more = draw(functions(size, draw(st.integers(1, 2)), choosers, 10))
            logical += f'<LogicalChannel Attribute="Focus1">{"".join(more)}</LogicalChannel>'
        channels.append(
            f'<DMXChannel Geometry="{geometry}" Offset="{offset}" DMXBreak="{number}">{logical}</DMXChannel>'
        )
        name = inside[0].split('Name="')[1].split('"')[0]
        followers.append(f"{geometry}_{attribute}.{attribute}.{name}")
    relations = "".join(
        f'<Relation Name="R{n}" Master="{draw(st.sampled_from(("Body_Frost1", "Cell_ColorAdd_R")))}" '
        f'Follower="{follower}" Type="{draw(st.sampled_from(("Multiply", "Override")))}"/>'
        for n, follower in enumerate(followers)
        if draw(st.booleans())
    )
    return described(tree, "".join(channels), WHEEL, f"<Relations>{relations}</Relations>")


@settings(max_examples=40)
@given(xml=descriptions(), seed=st.integers(0, 2**20))
def test_what_was_copied_and_written_does_the_same_at_every_raw_value(xml, seed):
    data = gdtf(xml)
    before, _ = read_gdtf(data, "t.gdtf")
    expected = sweep(before, "M", seed)
    draft = draft_of(before, {}, {})
    assert not [check.text for check in checks(draft) if check.kind in ("dangling", "no relation", "no part")]
    copy = written(draft, before, data)
    assert names(copy) == names(before)
    assert copy.modes[0].relations == before.modes[0].relations
    np.testing.assert_array_equal(sweep(copy, "M", seed), expected)


STROBE = """<ChannelFunction Name="Fast" Attribute="Shutter1Strobe" DMXFrom="0/1" PhysicalFrom="1" PhysicalTo="10"
  ModeMaster="Body_Control1.Control1.Fast pulse" ModeFrom="128/1" ModeTo="255/1"/>
  <ChannelFunction Name="Slow" Attribute="Shutter1Strobe" DMXFrom="0/1" PhysicalFrom="0.5" PhysicalTo="5"
  ModeMaster="Body_Control1.Control1.Slow pulse" ModeFrom="0/1" ModeTo="127/1"/>"""
CONTROL = """<ChannelFunction Name="Slow pulse" Attribute="Control1" DMXFrom="0/1"/>
  <ChannelFunction Name="Fast pulse" Attribute="Control1" DMXFrom="128/1"/>"""
TURN = """<ChannelFunction Name="Place" Attribute="Gobo1Pos" DMXFrom="0/1" PhysicalTo="360"/>
  <ChannelFunction Name="Turn it" Attribute="Gobo1PosRotate" DMXFrom="128/1" PhysicalFrom="-90" PhysicalTo="90"/>"""
SPEED = """<Relations><Relation Name="R" Master="Body_Control1" Follower="Body_Gobo1Pos.Gobo1Pos.Turn it"
  Type="Multiply"/></Relations>"""


@pytest.fixture
def lamp():
    channels = (
        channel("Body", "Control1", 1, inside=CONTROL)
        + channel("Body", "Shutter1Strobe", 2, inside=STROBE)
        + channel("Body", "Gobo1Pos", 3, inside=TURN)
        + channel("Body", "Dimmer", 4)
    )
    tree = '<Geometry Name="Body"><Beam Name="Lens" LuminousFlux="100"/></Geometry>'
    return read_gdtf(gdtf(described(tree, channels, WHEEL, SPEED)), "t.gdtf")[0]


def with_range(draft: Draft, c: int, r: int, **more) -> Draft:
    one = draft.modes[0].channels[c]
    ranges = tuple(replace(old, **more) if i == r else old for i, old in enumerate(one.ranges))
    return with_channel(draft, c, replace(one, ranges=ranges))


def with_channel(draft: Draft, c: int, channel) -> Draft:
    channels = tuple(channel if i == c else old for i, old in enumerate(draft.modes[0].channels))
    return replace(draft, modes=(replace(draft.modes[0], channels=channels),))


def test_masters_and_relations_follow_what_they_name_whatever_becomes_of_it(lamp):
    draft = draft_of(lamp, {}, {})
    expected = sweep(lamp, "M", 1)
    # What it is called changes with what it drives and with what its first range does.
    for other in (
        with_channel(draft, 0, replace(draft.modes[0].channels[0], part="Lens")),
        with_range(draft, 0, 0, attribute="NoFeature"),
        with_range(draft, 0, 0, name="Gently"),
    ):
        copy = written(other, lamp)
        np.testing.assert_array_equal(sweep(copy, "M", 1), expected)
        assert [c.name for c in copy.modes[0].channels] == [c.name for c in build(other, copied=lamp).modes[0].channels]
    # A function that is taken apart keeps its name for its first part.
    whole = draft.modes[0].channels[2].ranges[1]
    parted = (draft.modes[0].channels[2].ranges[0], replace(whole, end=199), DraftRange(200, 255, "NoFeature"))
    copy = written(with_channel(draft, 2, replace(draft.modes[0].channels[2], ranges=parted)), lamp)
    assert [f.name for f in copy.modes[0].channels[2].functions] == ["Place", "Turn it", "NoFeature 1"]
    assert [r.function for r in copy.modes[0].relations] == ["Turn it"]


def test_what_leads_nowhere_is_found_blocks_writing_and_is_put_right(lamp):
    draft = draft_of(lamp, {}, {})
    gone = replace(draft, modes=(replace(draft.modes[0], channels=draft.modes[0].channels[1:]),))
    found = [check for check in checks(gone) if check.kind in ("dangling", "no relation")]
    assert [check.kind for check in found] == ["dangling", "dangling", "no relation"]
    assert "“Fast” is there while Fast pulse says so, and that is not there" in found[0].text
    assert all(check.wrong for check in found)
    with pytest.raises(FormatError, match=r"M cannot be written: Fast hangs on “Body_Control1”"):
        write_gdtf(build(gone, copied=lamp))
    for kind in ("dangling", "dangling", "no relation"):
        gone = repaired(gone, next(check for check in checks(gone) if check.kind == kind))
    assert not [check for check in checks(gone) if check.kind in ("dangling", "no relation")]
    # What could never show is gone, and the rest does as before.
    after = written(gone, lamp)
    assert [c.attribute for c in after.modes[0].channels] == ["NoFeature", "Gobo1Pos", "Dimmer"]


def test_a_master_asks_for_the_same_when_its_channel_gets_a_fine_byte(lamp):
    draft = draft_of(lamp, {}, {})
    channels = draft.modes[0].channels
    fine = replace(channels[3], slots=(5,), ranges=(DraftRange(0, 255, "Control1", name="Control fine"),), key="")
    twice = replace(draft, modes=(replace(draft.modes[0], channels=(*channels, replace(fine, part="Body"))),))
    joined = repaired(twice, next(check for check in checks(twice) if check.kind == "twice"))
    assert joined.modes[0].channels[0].slots == (1, 5)
    assert [(r.master.low, r.master.high) for r in joined.modes[0].channels[1].ranges] == [(32768, 65535), (0, 32767)]


def test_modes_over_trees_of_their_own_stay_over_them():
    trees = '<Geometry Name="Body"><Beam Name="Lens"/></Geometry>'
    trees += '<Geometry Name="Twin"><Beam Name="A"/><Beam Name="B"/></Geometry>'
    xml = described(trees, channel("Body", "Dimmer", 1)).decode()
    second = (
        f'<DMXMode Name="N" Geometry="Twin"><DMXChannels>{channel("B", "Dimmer", 1)}</DMXChannels></DMXMode></DMXModes>'
    )
    before, _ = read_gdtf(gdtf(xml.replace("</DMXModes>", second).encode()), "t.gdtf")
    draft = draft_of(before, {}, {})
    assert not [check for check in checks(draft) if check.wrong]
    copy = written(draft, before)
    assert [mode.geometry for mode in copy.modes] == ["Body", "Twin"]
    np.testing.assert_array_equal(sweep(copy, "N", 1), sweep(before, "N", 1))
