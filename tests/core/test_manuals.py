"""Tables as manuals have them: what is made of each, and that nothing is taken wrongly without a word."""

import time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from zarfwright.core.types.manual.channels import read_channels
from zarfwright.core.types.manual.meanings import meaning_of
from zarfwright.core.types.manual.names import attribute_of
from zarfwright.core.types.manual.ranges import read_ranges

STROBE, OPEN, CLOSED = "Shutter1Strobe", ("Shutter1", 1.0, 1.0), ("Shutter1", 0.0, 0.0)
SLOW = (0.5, 20.0)
TABLES = {
    "one line with slashes": (
        "Shutter1",
        "0-15 open / 16-95 random strobe slow to fast / 96-200 ramp 0.5 to 8 Hz / 201-239 lightning / 240-255 closed",
        [(0, 15, *OPEN), (16, 95, "Shutter1StrobeRandom", *SLOW), (96, 200, "Shutter1StrobePulseOpen", 0.5, 8.0),
         (201, 239, "Shutter1StrobeEffect", *SLOW), (240, 255, *CLOSED)],
    ),
    "columns swapped, en dashes": (
        "Shutter1",
        """Function            DMX
        Closed              000 – 007
        Open                008 – 015
        Strobe, slow → fast 016 – 131
        Pulse open, 1–10 Hz 132 – 181
        Open                182 – 255""",
        [(0, 7, *CLOSED), (8, 15, *OPEN), (16, 131, STROBE, *SLOW), (132, 181, "Shutter1StrobePulseOpen", 1.0, 10.0),
         (182, 255, *OPEN)],
    ),
    "hex with h": (
        "Shutter1", "00h-0Fh\tClosed\n10h-EFh\tStrobe 2-18 Hz\nF0h-FFh\tOpen",
        [(0, 15, *CLOSED), (16, 239, STROBE, 2.0, 18.0), (240, 255, *OPEN)],
    ),
    "hex with 0x": (
        "Shutter1", "0x00..0x1F closed\n0x20..0xDF strobe\n0xE0..0xFF open",
        [(0, 31, *CLOSED), (32, 223, STROBE, *SLOW), (224, 255, *OPEN)],
    ),
    "bare hex": (
        "Gobo1Pos",
        "00-7F Indexing 0-360°\n80-BE Rotation CW, fast to slow\nBF-C0 Stop\nC1-FF Rotation CCW, slow to fast",
        [(0, 127, "Gobo1Pos", 0.0, 360.0), (128, 190, "Gobo1PosRotate", 240.0, 4.0), (191, 192, "Gobo1PosRotate", 0, 0),
         (193, 255, "Gobo1PosRotate", -4.0, -240.0)],
    ),
    "percent that leaves one out": (
        "Shutter1", "0% - 5%    Closed\n6% - 50%   Strobe 1 Hz to 20 Hz\n51% - 100% Open",
        [(0, 14, *CLOSED), (15, 129, STROBE, 1.0, 20.0), (130, 255, *OPEN)],
    ),
    "percent that meets": (
        "Iris", "0-75 % open to closed\n75-100 % closed",
        [(0, 190, "Iris", 1.0, 0.1), (191, 255, "Iris", 0.1, 0.1)],
    ),
    "decimal, hex and percent beside each other": (
        "Shutter1",
        "Decimal | Hex | Percent | Function\n0-9 | 00-09 | 0-4% | Closed*\n10-246 | 0A-F6 | 4-96% | Strobe slow-fast\n"
        "247-255 | F7-FF | 97-100% | Open\n* lamp stays on",
        [(0, 9, *CLOSED), (10, 246, STROBE, *SLOW), (247, 255, *OPEN)],
    ),
    "sixteen bits": (
        "Gobo1Pos",
        "0 - 32767 Index 0-360°\n32768 - 48895 CW fast to slow\n"
        "48896 - 49151 Stop\n49152 - 65535 CCW slow to fast",
        [(0, 32767, "Gobo1Pos", 0.0, 360.0), (32768, 48895, "Gobo1PosRotate", 240.0, 4.0),
         (48896, 49151, "Gobo1PosRotate", 0, 0), (49152, 65535, "Gobo1PosRotate", -4.0, -240.0)],
    ),
    "one range with its angles": ("Zoom", "0–255 narrow to wide, 6° to 48°", [(0, 255, "Zoom", 6.0, 48.0)]),
    "wide first": ("Zoom", "000-255 wide > narrow", [(0, 255, "Zoom", 48.0, 8.0)]),
    "a head's speed": ("PositionMSpeed", "0-255 fast to slow", [(0, 255, "PositionMSpeed", 1.0, 0.1)]),
    "the other way round": ("PositionMSpeed", "0-255 slow to fast", [(0, 255, "PositionMSpeed", 0.1, 1.0)]),
    "a whole angle": ("Pan", "0-255 540°", [(0, 255, "Pan", -270.0, 270.0)]),
    "from end to end": ("Pan", "0-255 -270° to +270°", [(0, 255, "Pan", -270.0, 270.0)]),
    "either way": ("Tilt", "0-255 +/-135°", [(0, 255, "Tilt", -135.0, 135.0)]),
    "either way in one sign": ("Tilt", "0-255 ± 120 deg", [(0, 255, "Tilt", -120.0, 120.0)]),
    "more one way": ("Pan", "0-255 | -180° ... +360°", [(0, 255, "Pan", -180.0, 360.0)]),
    "the other way about": ("Pan", "0 - 255 +270° to -270°", [(0, 255, "Pan", 270.0, -270.0)]),
    "a whole angle from nought": ("Tilt", "0-255 0 to 270 degrees", [(0, 255, "Tilt", -135.0, 135.0)]),
    "a whole angle backwards": ("Tilt", "0-255 270° to 0°", [(0, 255, "Tilt", 135.0, -135.0)]),
    "pulses of an iris": (
        "Iris", "0 to 191 open to closed\n192-223 pulse closing slow-fast\n224-255 pulse opening fast-slow",
        [(0, 191, "Iris", 1.0, 0.1), (192, 223, "IrisPulseClose", *SLOW), (224, 255, "IrisPulseOpen", 20.0, 0.5)],
    ),
    "a control channel": (
        "Control1", "0-9 No function\n10-14 Reset all\n15-19 Fan auto\n20-255 Reserved",
        [(0, 9, "NoFeature", 0, 0), (10, 14, "Control1", 0, 0), (15, 19, "Control1", 0, 0),
         (20, 255, "NoFeature", 0, 0)],
    ),
    "dark while moving": (
        "Control1", "0-9 No function\n10-19 Blackout while pan/tilt moving\n20-255 Disable blackout while moving",
        [(0, 9, "NoFeature", 0, 0), (10, 19, "BlackoutMode", 1, 1), (20, 255, "BlackoutMode", 0, 0)],
    ),
    "beats a minute": (
        "Shutter1", "0-9 open\n10-255 strobe 60 to 600 bpm", [(0, 9, *OPEN), (10, 255, STROBE, 1.0, 10.0)],
    ),
    "turns a minute": (
        "Prism1Pos", "0-9 stop\n10-255 rotation clockwise 1 - 30 rpm",
        [(0, 9, "Prism1PosRotate", 0, 0), (10, 255, "Prism1PosRotate", 6.0, 180.0)],
    ),
    "bullets and dots": (
        "Frost1", "• 0..9: no frost\n• 10..255: 0-100 % frost", [(0, 9, "Frost1", 0, 0), (10, 255, "Frost1", 0.0, 1.0)],
    ),
    "a heading above": (
        "Shutter1", "Strobe effects:\n0-9 closed\n10-100 slow to fast\n101-255 open",
        [(0, 9, *CLOSED), (10, 100, STROBE, *SLOW), (101, 255, *OPEN)],
    ),
    "words on the next line": (
        "Shutter1", "0-49 closed\n50-200 strobe from\nslow to fast\n201-255\nopen",
        [(0, 49, *CLOSED), (50, 200, STROBE, *SLOW), (201, 255, *OPEN)],
    ),
    "single values": (
        "Shutter1", "0 closed\n1-254 strobe 1-25 Hz\n255 open",
        [(0, 0, *CLOSED), (1, 254, STROBE, 1.0, 25.0), (255, 255, *OPEN)],
    ),
    "colour temperature": ("CTO", "0-255 8000 K to 2700 K", [(0, 255, "CTO", 8000.0, 2700.0)]),
    "a dimmer with strobe": (
        "Dimmer", "0-7 closed\n8-134 dimmer 0-100 %\n135-239 strobe slow to fast\n240-255 open",
        [(0, 7, "Dimmer", 0, 0), (8, 134, "Dimmer", 0.0, 1.0), (135, 239, STROBE, *SLOW), (240, 255, "Dimmer", 1, 1)],
    ),
}  # fmt: skip
USUAL = {"Zoom": (8.0, 48.0), "Pan": (-270.0, 270.0), "PositionMSpeed": (1.0, 0.1)}


@pytest.mark.parametrize("name", TABLES)
def test_a_table_is_read(name):
    attribute, text, wanted = TABLES[name]
    table = read_ranges(text, attribute, 1, USUAL.get(attribute, (0.0, 1.0)))
    got = [(r.start, r.end, r.meaning.attribute, r.meaning.low, r.meaning.high) for r in table.ranges]
    assert got == [tuple(row) for row in wanted]
    assert all(not r.doubt or "was assumed" in r.doubt or "which way" in r.doubt for r in table.ranges)
    assert all(why == "a footnote" for _, _, why in table.left)


def test_a_wheel_gives_its_slots_its_shakes_and_its_spin():
    text = """0-9 Open white
    10-19 Gobo 1
    20-29 Leaf breakup
    30-49 Leaf breakup, shake slow to fast
    50-59 Gobo 1 shaking 1-6 Hz
    60-157 Wheel rotation clockwise fast to slow
    158-159 Stop
    160-255 Wheel rotation counter-clockwise slow to fast"""
    got = [(r.meaning.attribute, r.meaning.slot) for r in read_ranges(text, "Gobo1").ranges]
    assert got == [
        ("Gobo1", "Open white"), ("Gobo1", "Gobo 1"), ("Gobo1", "Leaf breakup"), ("Gobo1SelectShake", "Leaf breakup"),
        ("Gobo1SelectShake", "Gobo 1"), ("Gobo1WheelSpin", None), ("Gobo1WheelSpin", None), ("Gobo1WheelSpin", None),
    ]  # fmt: skip
    spins = [(r.meaning.low, r.meaning.high) for r in read_ranges(text, "Gobo1").ranges[-3:]]
    assert spins == [(240, 4), (0, 0), (-4, -240)]


@pytest.mark.parametrize(
    ("attribute", "text", "doubt"),
    [
        ("Shutter1", "0-99 closed\n100-199 wobbles mysteriously\n200-255 open", "these words were not understood"),
        ("Shutter1", "0-99 closed\n100-199\n200-255 open", "nothing is said of this range"),
        ("Shutter1", "0-99 closed\n90-199 open\n200-255 closed", "it overlaps 0-99"),
        ("Zoom", "0-99 narrow to wide\n100-255 macro 7", "these words were not understood"),
        ("Gobo1", "0-99 open\n100-255 linear indexing of the wheel", "these words were not understood"),
    ],
)
def test_what_is_not_understood_is_marked_and_keeps_its_words(attribute, text, doubt):
    assert doubt in [r.doubt for r in read_ranges(text, attribute).ranges]


def test_lines_without_a_range_are_told_and_not_lost():
    table = read_ranges("See also the display menu\nThe lamp needs cooling\n0-99 closed\n100-255 open", "Shutter1")
    assert [(line, why) for line, _, why in table.left] == [(1, "a footnote"), (2, "no range of values stands with it")]
    assert read_ranges("no numbers here", "Shutter1").ranges == ()


def test_a_table_of_bytes_is_spread_on_a_channel_of_two():
    assert [(r.start, r.end) for r in read_ranges("0-127 closed\n128-255 open", "Shutter1", 2).ranges] == [
        (0, 0x7FFF), (0x8000, 0xFFFF),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("words", "attribute", "fine", "cell"),
    [
        ("Pan", "Pan", 0, None), ("Pan fine", "Pan", 1, None), ("Tilt (LSB)", "Tilt", 1, None),
        ("Pan/Tilt speed", "PositionMSpeed", 0, None), ("Intensity", "Dimmer", 0, None),
        ("Strobe / Shutter", "Shutter1", 0, None), ("Colour wheel 2", "Color2", 0, None),
        ("Rotating gobo wheel 2", "Gobo2", 0, None), ("Gobo rotation", "Gobo1Pos", 0, None),
        ("Prism rotation", "Prism1Pos", 0, None), ("Warm white", "ColorAdd_WW", 0, None),
        ("Blade 3 rotation", "Blade3Rot", 0, None), ("Shutter blade top", "", 0, None), ("CTO", "CTO", 0, None),
        ("Pixel 4 green", "ColorAdd_G", 0, 4), ("Red 12", "ColorAdd_R", 0, 12), ("Frobnicator", "NoFeature", 0, None),
    ],
)  # fmt: skip
def test_names_of_channels(words, attribute, fine, cell):
    named = attribute_of(words)
    if attribute:
        assert (named.attribute, named.fine, named.cell) == (attribute, fine, cell)
    assert named.known == (attribute != "NoFeature")


def test_a_list_of_channels_joins_fine_bytes_and_takes_the_ranges_of_each():
    read = read_channels(
        """No. Function      Value     Description
        1   Pan           0-255     540°
        2   Tilt          0-255     270°
        3   Pan fine
        4   Tilt fine
        5   Shutter       0-19      Closed
                          20-255    Open
        6+7 Dimmer 16 bit
        8   Mystery"""
    )
    assert [(c.named.attribute, c.slots) for c in read.channels] == [
        ("Pan", (1, 3)), ("Tilt", (2, 4)), ("Shutter1", (5,)), ("Dimmer", (6, 7)), ("NoFeature", (8,)),
    ]  # fmt: skip
    assert [(r.start, r.end) for r in read.channels[0].table.ranges] == [(0, 65535)]
    assert [(r.start, r.end) for r in read.channels[2].table.ranges] == [(0, 19), (20, 255)]
    assert "not understood" in read.channels[4].doubt
    assert read.left == ()


def test_a_list_of_cells():
    names = ("Red", "Green", "Blue")
    text = "\n".join(f"{3 * cell + i + 1} | {name} {cell + 1}" for cell in range(16) for i, name in enumerate(names))
    read = read_channels(text)
    assert len(read.channels) == 48
    assert [(c.named.attribute, c.named.cell) for c in read.channels[45:]] == [
        ("ColorAdd_R", 16), ("ColorAdd_G", 16), ("ColorAdd_B", 16),
    ]  # fmt: skip


@settings(max_examples=150, deadline=None)
@given(st.text(max_size=300), st.sampled_from(["Shutter1", "Gobo1", "Zoom", "NoFeature"]))
def test_any_text_is_read_or_left_without_harm(text, attribute):
    for one in read_ranges(text, attribute).ranges:
        assert 0 <= one.start <= one.end or one.doubt
    read_channels(text)


cuts = st.lists(st.integers(1, 255), min_size=1, max_size=9, unique=True).map(sorted)


@settings(max_examples=150, deadline=None)
@given(cuts, st.sampled_from(["-", " – ", " to ", "..", " - "]), st.booleans(), st.sampled_from(["\n", " / ", ";\n"]))
def test_any_cuts_in_any_usual_writing_come_out_the_same(cuts, dash, swapped, between):
    starts, ends = [0, *cuts], [*[cut - 1 for cut in cuts], 255]
    said = ["closed", "open"] * len(starts)
    ranges = [f"{a}{dash}{b}" for a, b in zip(starts, ends, strict=True)]
    rows = [f"{w} {r}" if swapped and between == "\n" else f"{r} {w}" for r, w in zip(ranges, said, strict=False)]
    got = [(r.start, r.end, r.meaning.low) for r in read_ranges(between.join(rows), "Shutter1").ranges]
    assert got == [(a, b, float(i % 2)) for i, (a, b) in enumerate(zip(starts, ends, strict=True))]


@pytest.mark.parametrize("words", ["no function", "Reserved", "not used"])
def test_what_is_idle_does_nothing(words):
    for attribute in ("Shutter1", "Gobo1", "Color1", "Zoom", "Control1"):
        assert meaning_of(words, attribute).attribute == "NoFeature"
        assert meaning_of(words, attribute).known


@pytest.mark.parametrize(
    ("text", "channels"),
    [
        ("1-3 Pixel 1 (red, green, blue)\n4-6 Pixel 2 (red, green, blue)",
         [("ColorAdd_R", (1,), 1), ("ColorAdd_G", (2,), 1), ("ColorAdd_B", (3,), 1),
          ("ColorAdd_R", (4,), 2), ("ColorAdd_G", (5,), 2), ("ColorAdd_B", (6,), 2)]),
        ("1-3 RGB\n4 Dimmer", [("ColorAdd_R", (1,), None), ("ColorAdd_G", (2,), None), ("ColorAdd_B", (3,), None),
                               ("Dimmer", (4,), None)]),
        ("1-2 Pan, Tilt\n3-4 Dimmer 16 bit", [("Pan", (1,), None), ("Tilt", (2,), None), ("Dimmer", (3, 4), None)]),
        ("1-2 Pan/Tilt speed", [("PositionMSpeed", (1, 2), None)]),
    ],
)  # fmt: skip
def test_cells_that_hold_several_channels_are_taken_apart(text, channels):
    read = read_channels(text)
    assert [(c.named.attribute, c.slots, c.named.cell) for c in read.channels] == channels
    assert [c.doubt for c in read.channels] == [""] * len(channels)


def test_three_slots_without_a_word_of_bits_are_in_doubt():
    read = read_channels("1-3 Dimmer\n4-6 Zoom 24 bit")
    assert [c.doubt for c in read.channels] == ["it takes 3 slots, and was taken as one of 24 bits", ""]


HOSTILE = {
    "numbers": " ".join(str(n) for n in range(800)),
    "noughts and dashes": "0-" * 20_000,
    "pairs": "0-0 " * 10_000,
    "hex": "0x1 " * 10_000,
    "hex in rows": ("0x1 " * 20 + "\n") * 600,
    "percent": "1% " * 12_000,
    "rows of many": ("1-2 " * 12 + "\n") * 1500,
    "heads of columns": ("ch" * 40 + " hex" * 40 + " zzz\n") * 200,
    "one word": "hex" * 600 + " zzz",
    "blanks": (" " * 1900 + "x\n") * 50,
    "brackets": "(" * 40_000,
    "to and fro": ("slow to fast > " * 100 + "\n") * 60,
    "dots": "." * 40_000,
    "signs": ("+/-" * 600 + "\n") * 50,
    "columns": ("a  " * 500 + "\n") * 30,
    "tables behind a list": "1 aaa\n2 aab\n"
    + "".join(
        f"a{a}{b}\n0-1 a\n2-3 b\n" for a in "abcdefghijklmnopqrstuvwxyz" for b in "abcdefghijklmnopqrstuvwxyz" * 4
    ),
    "footnotes": "".join(f"{mark} 0-9 off\n" for mark in "¹²³†") + "a¹\nb²\n" * 5000,
    "channels in a line": (" ".join(f"{k} a" for k in range(1, 300)) + "\n") * 25,
    "a number further on": "1 dimmer\n" + "50 dimmer 1-2\n" * 3000,
    "a manual": "\n".join(
        f"{c} Shutter\n" + "\n".join(f"{n}-{n + 3} thing {c} {n}" for n in range(0, 250, 4)) for c in range(1, 60)
    ),
}


READINGS = {
    "shutter": lambda text: read_ranges(text, "Shutter1"),
    "pan": lambda text: read_ranges(text, "Pan"),
    "channels": read_channels,
}


def worked(read, text):
    """Processor seconds of a reading."""
    began = time.process_time()
    read(text)
    return time.process_time() - began


@pytest.mark.parametrize("name", HOSTILE)
def test_what_is_pasted_takes_no_more_than_its_length_tells(name):
    text = HOSTILE[name][:50_000]
    for kind, read in READINGS.items():
        quarter = worked(read, text[: len(text) // 4])
        # Four times the text is four times the work, not sixteen, however slow the machine is.
        assert any(worked(read, text) < 10 * quarter + 1 for _ in range(3)), kind
    # What was too much for a row is told.
    if name in ("numbers", "pairs", "brackets"):
        assert "break it into rows" in read_ranges(text, "Shutter1").left[0][2]


PIECES = ["0-9", "10", "0x1F", "5%", "ch", "hex", "fast", "slow", " to ", ">", "-", "(", "°", "±", "\t", "|", "\n",
          "red", "Pan", "rotation", ";", ",", "12h", "$1"]  # fmt: skip


@settings(max_examples=60)
@given(st.lists(st.sampled_from(PIECES), max_size=400).map("".join))
def test_no_text_takes_long_or_raises(text):
    # Some milliseconds, where no pattern goes back and forth for ever.
    assert worked(lambda text: read_ranges(text, "Gobo1"), text) + worked(read_channels, text) < 10
