"""Whole lists as manuals have them, one to a file in `manuals/`: the text, a rule, and what it should come to.

mode NAME
SLOTS ATTRIBUTE[@cell]: START-END ATTRIBUTE[=FROM..TO]["slot"]; ...
"""

import re
from pathlib import Path

import pytest

from zarfwright.core.types.manual.channels import ManualChannel, read_channels
from zarfwright.core.types.manual.missed import missed
from zarfwright.core.types.shop.usual import USUAL

FOLDER = Path(__file__).parent / "manuals"
_RANGE = re.compile(r'(\d+)-(\d+) (\w+)\??(?:=([-\d.]+)\.\.([-\d.]+))?(?: "(.*)")?$')


def _wanted(text: str) -> list[tuple[str, list[tuple[str, list[str]]]]]:
    modes: list[tuple[str, list[tuple[str, list[str]]]]] = []
    for line in text.strip().splitlines():
        if line.startswith("mode"):
            modes.append((line.removeprefix("mode").strip(), []))
            continue
        head, ranges = line.split(": ", 1)
        modes[-1][1].append((head, ranges.split("; ")))
    return modes


def _head(channel: ManualChannel) -> str:
    cell = f"@{channel.named.cell}" if channel.named.cell else ""
    return f"{','.join(map(str, channel.slots))} {channel.named.attribute}{cell}"


def _same(channel: ManualChannel, wanted: str) -> bool:
    found = _RANGE.match(wanted)
    assert found is not None, wanted
    start, end, attribute, low, high, slot = found.groups()
    for one in channel.table.ranges:
        meaning = one.meaning
        if (one.start, one.end, meaning.attribute) != (int(start), int(end), attribute):
            continue
        valued = low is None or (meaning.low, meaning.high) == pytest.approx((float(low), float(high)), abs=1e-3)
        if valued and (slot is None or meaning.slot == slot):
            return True
    return False


@pytest.mark.parametrize("name", sorted(path.stem for path in FOLDER.glob("*.txt")))
def test_a_list_is_read_by_its_columns(name):
    text, _, wanted = (FOLDER / f"{name}.txt").read_text(encoding="utf-8").partition("=====\n")
    read = read_channels(text, USUAL)
    modes = _wanted(wanted)
    assert [mode.name for mode in read.modes] == [name for name, _ in modes]
    for mode, (_, channels) in zip(read.modes, modes, strict=True):
        assert [_head(channel) for channel in mode.channels] == [head for head, _ in channels]
        for channel, (_, ranges) in zip(mode.channels, channels, strict=True):
            for one in ranges:
                assert _same(channel, one), (one, channel.table.ranges)
    lines = text.splitlines()
    for mode in read.modes:
        for channel in mode.channels:
            # Each range points to a line that its words stand in.
            for one in channel.table.ranges:
                # Behind what stands above the row, and without what was counted anew.
                first = re.findall(r"\b(?!to\b)[A-Za-z]\w+", one.words.rpartition(": ")[2])[:1]
                said = " ".join(lines[max(one.line - 2, 0) : one.line + 4])
                assert not first or first[0] in said or first[0] in said.replace(",", "")


def test_a_line_that_nothing_is_made_of_is_never_dropped():
    text = (FOLDER / "one_column_of_words.txt").read_text(encoding="utf-8").partition("=====\n")[0]
    assert read_channels(text, USUAL).left == ((13, "1 see page 12", "nothing stands beside it"),)


def test_a_mode_that_speaks_of_more_channels_than_were_found_is_told():
    text = (FOLDER / "numbers_in_cells.txt").read_text(encoding="utf-8").partition("=====\n")[0]
    said = [why for _, words, why in read_channels(text, USUAL).left if words == "36CH"]
    assert said == ["it speaks of 36 channels, and the last that was found is 6"]


def test_a_condition_is_no_range_of_values():
    read = read_channels("1 Dimmer 0-255\n2 Effect speed (when channel 1 is 81-200)\n", USUAL)
    channel = read.modes[0].channels[1]
    assert channel.doubt == "it holds when channel 1 is 81-200: say so under “only while” in the shop"
    assert [(one.start, one.end) for one in channel.table.ranges] == [(0, 255)]


@pytest.mark.parametrize("name", sorted(path.stem for path in FOLDER.glob("*.txt")))
def test_no_range_of_a_list_that_is_read_right_is_told_as_missed(name):
    text, _, _ = (FOLDER / f"{name}.txt").read_text(encoding="utf-8").partition("=====\n")
    assert [entry for entry in read_channels(text, USUAL).left if "no table" in entry[2]] == []


def test_ranges_that_came_into_no_table_are_told_with_their_line():
    """Whatever the way a text was read in: here the tables are taken out of what was read."""
    text = "1 Strobe 0-7 open 8-15 closed 16-255 1-25 Hz\n2 Dimmer 0-255\n   10-99 half and half"
    taken = {(0.0, 7.0), (0.0, 255.0)}
    slots = [range(1, 3)]
    assert missed(text, taken, slots, set()) == [
        (1, "1 Strobe 0-7 open 8-15 closed 16-255 1-25 Hz", "8-15 and 16-255 in it came into no table"),
        (3, "10-99 half and half", "10-99 in it came into no table"),
    ]
    assert missed(text, taken | {(8.0, 15.0), (16.0, 255.0), (10.0, 99.0)}, slots, set()) == []
    assert missed(text, taken, slots, {1, 3}) == []


def test_a_hole_in_a_table_is_told():
    read = read_channels("1 Colour wheel\n 0-9 open\n 10-19 red\n 40-255 blue\n2 Dimmer 0-255\n", USUAL)
    doubts = [one.doubt for one in read.modes[0].channels[0].table.ranges]
    assert doubts == ["", "", "nothing is said of 20-39 before it"]
    ended = read_channels("1 Strobe\n 0-7 off\n 8-99 1-20 Hz\n2 Dimmer 0-255\n", USUAL)
    doubts = [one.doubt for one in ended.modes[0].channels[0].table.ranges]
    assert doubts == ["", "nothing is said of 100-255 after it"]


def test_a_table_behind_the_list_that_no_channel_waits_for_is_told():
    text = (
        "1 Dimmer 0-255\n2 Strobe\n3 Strobe speed 0-255\n\nStrobe\n0-9 open\n10-255 1-20 Hz\n"
        "Speed\n0-99 slow to fast\n100-255 stop\n"
    )
    read = read_channels(text, USUAL)
    strobe = read.modes[0].channels[1]
    assert [(one.start, one.end, one.line) for one in strobe.table.ranges] == [(0, 9, 6), (10, 255, 7)]
    assert [entry[0] for entry in read.left if "it is not clear which" in entry[2]] == [9, 10]


def test_a_table_behind_the_list_is_of_no_channel_where_two_begin_with_its_name():
    text = (
        "1 Gobo wheel\n2 Gobo turn\n3 Shutter\n4 Dimmer\n"
        "Shutter\n0-9 closed\n10-255 open\nGobo\n0-9 open\n10-255 bark\n"
    )
    read = read_channels(text, USUAL)
    assert [(len(one.table.ranges), one.doubt) for one in read.modes[0].channels[2:3]] == [(2, "")]
    assert [entry[0] for entry in read.left if "it is not clear which" in entry[2]] == [9, 10]


def test_a_mark_of_two_footnotes_is_of_neither():
    read = read_channels("1 Strobe*\n2 Zoom*\n3 Dimmer\n* 0-9 off, 10-255 1-20 Hz\n* 0-255 8-40 deg\n", USUAL)
    strobe, zoom = read.modes[0].channels[:2]
    assert strobe.table.ranges[0].doubt
    assert zoom.table.ranges[0].doubt
    assert [entry[0] for entry in read.left] == [4, 5]


def test_a_colour_of_a_lamp_that_mixes_is_in_doubt():
    read = read_channels("1 Red\n2 Green\n3 Blue\n4 Colour\n 0-9 off\n 10-99 pink\n 100-255 teal\n", USUAL)
    colour = read.modes[0].channels[3]
    assert (colour.named.attribute, colour.doubt) == (
        "ColorMacro1",
        "“Colour” was taken as built-in colours: the lamp mixes its own",
    )
