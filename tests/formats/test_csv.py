"""Lists as spreadsheets and people read them."""

import csv
import io

from zarfwright.formats.csv import write_csv


def test_a_list_reads_back_with_commas_quotes_and_accents():
    rows = [("1", 'Truss "A", left', "Ägir")]
    data = write_csv(("No", "On", "For"), rows)
    assert data.startswith(b"\xef\xbb\xbf")
    assert list(csv.reader(io.StringIO(data.decode("utf-8-sig")))) == [["No", "On", "For"], list(rows[0])]


def test_no_cell_is_run_as_a_formula_and_numbers_stay_numbers():
    data = write_csv(("a",), [("=1+1",), ("@x",), ("-2.5",), ("+cmd",)]).decode("utf-8-sig")
    assert data.splitlines()[1:] == ["'=1+1", "'@x", "-2.5", "'+cmd"]
