"""ILDA files, byte by byte from the standard's tables: read right, written the same, refused where they are none."""

import json
import struct

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zarfwright.cli import main
from zarfwright.core.lasers.frames import DEFAULT, FORMATS, Frame, Palette, Reel, in_format
from zarfwright.formats.findings import FormatError
from zarfwright.formats.ild import read_ild, write_ild

POINTS = [(-32768, 32767, 1000), (0, 0, -1), (32767, -32768, 32767)]
DARK, LAST = 0x40, 0x80


def head(kind, records, number=0, total=1, name=b"Tide", company=b"Halyard", projector=3):
    """A header by hand: ILDA, three zeros, the format, twice eight letters, three numbers, the projector, a zero."""
    letters = name.ljust(8, b"\0") + company.ljust(8, b"\0")
    return b"ILDA\0\0\0" + bytes([kind]) + letters + struct.pack(">HHH", records, number, total) + bytes([projector, 0])


def status(k):
    return (DARK if k == 0 else 0) | (LAST if k == len(POINTS) - 1 else 0)


def by_hand(kind):
    """A file of one frame in a format: the first point dark, the last one marked; colours 7, 24 and 56, or as such."""
    body = b""
    for k, (x, y, z) in enumerate(POINTS):
        body += struct.pack(">hh", x, y)
        body += struct.pack(">h", z) if kind in (0, 4) else b""
        body += bytes([status(k)])
        red, green, blue = (10, 20, 30) if k == 0 else (255, 0, 128) if k == 1 else (1, 2, 3)
        body += bytes([(7, 24, 56)[k]]) if kind in (0, 1) else bytes([blue, green, red])
    return head(kind, len(POINTS)) + body + head(kind, 0, total=0, name=b"")


@pytest.mark.parametrize("kind", FORMATS)
def test_a_frame_of_each_format_comes_in_right_and_goes_out_the_same(kind):
    data = by_hand(kind)
    reel, odd = read_ild(data)
    assert odd == []
    (frame,) = reel.frames
    assert (frame.format, frame.name, frame.company, frame.projector) == (kind, "Tide", "Halyard", 3)
    deep = kind in (0, 4)
    assert frame.points.tolist() == [[x, y, z if deep else 0] for x, y, z in POINTS]
    assert frame.blanked.tolist() == [True, False, False]
    ((_, colours),) = reel.coloured
    expected = (
        [[255, 112, 0], [0, 255, 0], [255, 255, 255]] if kind in (0, 1) else [[10, 20, 30], [255, 0, 128], [1, 2, 3]]
    )
    assert colours.tolist() == expected
    assert write_ild(reel) == data


def test_a_palette_holds_for_the_frames_after_it_and_goes_out_where_it_was():
    frame = head(1, 1) + struct.pack(">hh", 5, 6) + bytes([LAST, 1])
    palette = head(2, 2, total=0, name=b"Two") + bytes([9, 8, 7, 6, 5, 4])
    data = head(1, 1) + struct.pack(">hh", 1, 2) + bytes([LAST, 1]) + palette + frame + head(1, 0, total=0, name=b"")
    data = data.replace(struct.pack(">HHH", 1, 0, 1), struct.pack(">HHH", 1, 0, 2))
    reel, odd = read_ild(data)
    assert odd == []
    assert [one.tolist() for _, one in reel.coloured] == [[[255, 16, 0]], [[6, 5, 4]]]
    assert isinstance(reel.sections[1], Palette)
    assert write_ild(reel) == data


def test_the_default_palette_has_the_64_colours_of_the_standard():
    colours = DEFAULT.colours.tolist()
    assert len(colours) == 64
    known = {0: [255, 0, 0], 1: [255, 16, 0], 16: [255, 255, 0], 24: [0, 255, 0], 28: [0, 255, 146], 31: [0, 255, 255],
             33: [0, 198, 255], 40: [0, 0, 255], 48: [255, 0, 255], 56: [255, 255, 255], 63: [255, 32, 32]}  # fmt: skip
    assert {i: colours[i] for i in known} == known


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "no ILDA file"),
        (b"PK\x03\x04" + bytes(100), "no ILDA file"),
        (head(0, 0), "no frame in this file"),
        (b"ILDA", "no frame in this file"),
    ],
)
def test_what_is_none_is_refused_in_words(data, said):
    with pytest.raises(FormatError, match=said):
        read_ild(data)


def test_a_file_that_was_cut_short_gives_what_is_there_and_says_so():
    reel, odd = read_ild(by_hand(5)[:-32][:-8])
    assert len(reel.frames[0]) == 2
    assert [one.done for one in odd] == ["those that are there are taken", "read to its last byte"]
    reel, odd = read_ild(by_hand(5) + b"more")
    assert odd[0].what == "4 bytes after the end"
    reel, odd = read_ild(by_hand(5)[:-32] + head(3, 1))
    assert odd[0].what.startswith("format 3")
    reel, odd = read_ild(by_hand(5)[:-32] + bytes(40))
    assert odd[0].what == "no header where one is due"
    assert len(reel.frames) == 1


def test_a_file_is_not_read_beyond_what_it_may_have():
    with pytest.raises(FormatError, match="may have 64"):
        read_ild(b"ILDA" + bytes(65 * 2**20))


points = st.lists(st.tuples(*[st.integers(-32768, 32767)] * 3), min_size=1, max_size=40)


@given(points, st.sampled_from(FORMATS), st.integers(0, 63))
def test_whatever_is_written_is_read_the_same(places, kind, index):
    n = len(places)
    flat = np.array(places, dtype=np.int16) * (np.array([1, 1, 1 if kind in (0, 4) else 0], dtype=np.int16))
    indexed = kind in (0, 1)
    frame = Frame(
        flat, np.arange(n) % 3 == 0, kind, None if indexed else np.full((n, 3), index, np.uint8),
        np.full(n, index, np.uint8) if indexed else None, "A", "B", 4, 2,
    )  # fmt: skip
    (back,) = read_ild(write_ild(Reel((frame,))))[0].frames
    assert back.points.tolist() == flat.tolist()
    assert back.blanked.tolist() == frame.blanked.tolist()
    assert back.colours(DEFAULT).tolist() == frame.colours(DEFAULT).tolist()


@given(st.binary(max_size=200), st.sampled_from(FORMATS))
def test_no_file_breaks_the_reader(noise, kind):
    try:
        reel, _ = read_ild(by_hand(kind)[:40] + noise)
    except FormatError:
        return
    assert reel.frames
    write_ild(reel)


def test_another_format_says_what_it_loses():
    reel, _ = read_ild(by_hand(4))
    flat, lost = in_format(reel, 5)
    assert lost == ["1 frames have a depth, which format 5 does not keep."]
    assert flat.frames[0].points[:, 2].tolist() == [0, 0, 0]
    by_index, lost = in_format(flat, 1)
    assert lost == ["1 frames have colours that the default palette does not: the nearest are taken."]
    # 255, 0, 128 lies nearest to 255, 64, 64: the squares of 64 and 64 are less than that of 127.
    assert by_index.frames[0].indices.tolist()[1] == 62
    again, lost = in_format(by_index, 5)
    assert lost == []
    assert read_ild(write_ild(again))[0].coloured[0][1].tolist() == by_index.coloured[0][1].tolist()


def test_the_commands_look_into_a_file_and_copy_it(tmp_path, capsys):
    ours, theirs = tmp_path / "a.ild", tmp_path / "b.ild"
    ours.write_bytes(by_hand(4))
    assert main(["laser", "inspect", str(ours), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert (told["frames"], told["formats"], told["points"], told["lit_share"]) == (1, [4], 3, 0.6667)
    assert main(["laser", "copy", str(ours), str(theirs), "--json"]) == 0
    assert theirs.read_bytes() == ours.read_bytes()
    capsys.readouterr()
    assert main(["laser", "copy", str(ours), str(theirs), "--format", "5", "--json"]) == 1
    assert json.loads(capsys.readouterr().out)["lost"]
    assert main(["laser", "inspect", str(tmp_path / "gone.ild")]) == 2
    assert "cannot be read" in capsys.readouterr().err
