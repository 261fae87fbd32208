"""GDTF: a type is written and read back whole; hostile and broken files are refused with a reason."""

import io
import tempfile
import zipfile
from pathlib import Path

import pygdtf
import pytest

from zarfwright.formats.archive import open_archive, write_archive
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf import read_gdtf, write_gdtf
from zarfwright.formats.gdtf.values import read_dmx
from zarfwright.formats.gdtf.write import description_xml
from zarfwright.library import bittern, dunlin, heron, plover, teal


def gdtf(xml, **more):
    return write_archive({"description.xml": xml, **more})


@pytest.mark.parametrize("make", [heron, dunlin, plover, teal, bittern])
def test_a_type_comes_back_as_it_was_written(make):
    fixture_type = make()
    read, findings = read_gdtf(write_gdtf(fixture_type), "a.gdtf")
    assert findings == []
    assert read == fixture_type
    assert read.images == fixture_type.images


@pytest.mark.parametrize("make", [heron, dunlin, plover, teal, bittern])
def test_another_reader_sees_the_same_modes_footprints_and_attributes(make):
    fixture_type = make()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "type.gdtf"
        path.write_bytes(write_gdtf(fixture_type))
        with pygdtf.FixtureType(str(path)) as other:
            assert (other.name, other.manufacturer) == (fixture_type.name, fixture_type.maker)
            assert {mode.name: mode.dmx_channels_count for mode in other.dmx_modes} == {
                mode.name: mode.footprint for mode in fixture_type.modes
            }
            for mode in fixture_type.modes:
                theirs = next(one for one in other.dmx_modes if one.name == mode.name)
                got = [str(c.logical_channels[0].attribute) for c in theirs._dmx_channels]
                assert got == [channel.attribute for channel in mode.channels]


def test_the_same_type_gives_the_same_bytes():
    assert write_gdtf(heron()) == write_gdtf(heron())


@pytest.mark.parametrize(
    ("text", "size", "raw"),
    [
        ("128/1", 1, 128),
        ("128/1", 2, 0x8080),
        ("128/1s", 2, 0x8000),
        ("32768/2", 2, 32768),
        ("32768/2", 1, 128),
        ("7", 2, 7),
    ],
)
def test_dmx_values_take_their_byte_suffix(text, size, raw):
    assert read_dmx(text, size) == raw


@pytest.mark.parametrize("text", ["256/1", "x", "-1", "1/5", "70000", ""])
def test_dmx_values_that_do_not_fit_are_findings(text):
    with pytest.raises(ValueError):
        read_dmx(text, 2)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"this is no zip", "is not a zip archive"),
        (b"", "is not a zip archive"),
        (write_archive({"readme.txt": b"hello"}), "without description.xml"),
        (gdtf(b"<GDTF><Fixture"), "is not XML that can be read"),
        (gdtf(b"<GDTF/>"), "describes no fixture type"),
        (gdtf(b"<GDTF><FixtureType Name='A'/></GDTF>"), "no geometry"),
        (gdtf(b"<!DOCTYPE x [<!ENTITY a 'b'>]><GDTF>&a;</GDTF>"), "is not XML that can be read"),
        (write_gdtf(heron())[:-400], "is not a zip archive"),
    ],
)
def test_a_file_that_cannot_be_used_is_refused_with_a_reason(data, says):
    with pytest.raises(FormatError) as wrong:
        read_gdtf(data, "lamp.gdtf")
    assert says in str(wrong.value)
    assert "lamp.gdtf" in str(wrong.value)


def test_odd_values_become_findings_and_the_type_is_still_read():
    xml = description_xml(heron())
    xml = xml.replace(b'BeamAngle="14.000000"', b'BeamAngle="nan"', 1).replace(b'DMXFrom="64/1"', b'DMXFrom="900/1"', 1)
    xml = xml.replace(b'FieldAngle="17.000000"', b'FieldAngle="5"', 1)
    read, findings = read_gdtf(gdtf(xml), "a.gdtf")
    assert read.name == "Heron"
    said = " ".join(f"{f.where} {f.what} {f.done}" for f in findings)
    assert "BeamAngle" in said
    assert "“900/1” is more than 1 bytes hold" in said
    assert "wheels/net_floats.png is missing" in said


def test_a_zip_bomb_is_refused_while_it_unpacks():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("description.xml", bytes(200 * 2**20))
    assert len(out.getvalue()) < 400_000
    with pytest.raises(FormatError, match="unpacks to more than"):
        read_gdtf(out.getvalue(), "bomb.gdtf")


@pytest.mark.parametrize("name", ["../evil.txt", "/etc/evil", "a/../../b", "C:/evil"])
def test_names_that_lead_out_of_the_archive_are_refused(name):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr(name, b"x")
    with pytest.raises(FormatError, match="points outside"):
        open_archive(out.getvalue(), "a.gdtf")


def test_entries_are_found_whatever_their_case():
    archive = open_archive(write_archive({"Description.XML": b"x"}), "a")
    assert archive.find("description.xml") == b"x"
