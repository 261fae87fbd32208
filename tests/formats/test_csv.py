"""Lists as spreadsheets and people read them."""

import csv
import io
from contextlib import suppress

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zarfwright.formats.csv import read_csv, write_csv
from zarfwright.formats.findings import FormatError


def test_a_list_reads_back_with_commas_quotes_and_accents():
    rows = [("1", 'Truss "A", left', "Ägir")]
    data = write_csv(("No", "On", "For"), rows)
    assert data.startswith(b"\xef\xbb\xbf")
    assert list(csv.reader(io.StringIO(data.decode("utf-8-sig")))) == [["No", "On", "For"], list(rows[0])]


def test_no_cell_is_run_as_a_formula_and_numbers_stay_numbers():
    data = write_csv(("a",), [("=1+1",), ("@x",), ("-2.5",), ("+cmd",)]).decode("utf-8-sig")
    assert data.splitlines()[1:] == ["'=1+1", "'@x", "-2.5", "'+cmd"]


def written(text, encoding="utf-8"):
    return read_csv(text.encode(encoding), "list.csv")


@pytest.mark.parametrize("mark", [",", ";", "\t"])
def test_lists_are_read_whatever_parts_their_columns(mark):
    sheet = written(f'No{mark}Name\n7{mark}"Wash, left; rear"\n\n8{mark}Spot\n')
    assert (sheet.columns, sheet.rows) == (("No", "Name"), (("7", "Wash, left; rear"), ("8", "Spot")))


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "cp1252", "utf-16"])
def test_lists_are_read_in_the_encodings_that_spreadsheets_write(encoding):
    assert written("No,Name\n7,Bühne\n", encoding).rows == (("7", "Bühne"),)


def test_what_we_write_is_read_back_with_its_formulas_still_harmless():
    data = write_csv(("No", "Name"), [("-5", "=1+1"), ("7", "'quoted'")])
    assert b"'=1+1" in data
    assert read_csv(data).rows == (("-5", "=1+1"), ("7", "'quoted'"))


@pytest.mark.parametrize("data", [b"", b"\n\n", b"PK\x03\x04\0\0\0", b"a," * 300 + b"\n"])
def test_what_is_no_list_is_refused_in_words(data):
    with pytest.raises(FormatError, match=r"x\.csv"):
        read_csv(data, "x.csv")


@given(st.binary(max_size=400))
def test_no_bytes_at_all_raise_anything_else(data):
    with suppress(FormatError):
        read_csv(data)
