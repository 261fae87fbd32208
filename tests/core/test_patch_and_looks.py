"""Addresses in sequence, conflicts, readiness, looks, papers."""

import pytest

from zarfwright.core.errors import JobError
from zarfwright.core.looks.shown import look_frame
from zarfwright.core.papers import HOOKUP_COLUMNS, PATCH_COLUMNS, channel_hookup, patch_list
from zarfwright.core.patch import Place, in_sequence, overlaps, parse_place
from zarfwright.core.picture import FIELDS
from zarfwright.core.readiness import counts, findings


@pytest.fixture
def hung(bench):
    truss = bench.made("add truss", name="Truss 1", length="8m", start_trim="6m")
    bench.ids = list(bench.do("place along rail", structure=truss, type="heron", count="4", first_number="11").select)
    return bench


def test_addresses_follow_each_other_and_never_cross_a_universe():
    assert in_sequence([16, 16], Place(2, 1)) == [Place(2, 1), Place(2, 17)]
    assert in_sequence([16, 16, 16], Place(1, 490)) == [Place(1, 490), Place(2, 1), Place(2, 17)]
    assert in_sequence([256, 256, 1], Place(1, 1)) == [Place(1, 1), Place(1, 257), Place(2, 1)]
    assert in_sequence([10, 10], Place(1, 1), gap=6) == [Place(1, 1), Place(1, 17)]


@pytest.mark.parametrize("text", ["", "x", "0.5", "1.513", "64000.1", "1.2.3", "1.-4", "99999999.1"])
def test_an_address_that_does_not_exist_is_refused(text):
    with pytest.raises(JobError):
        parse_place(text)


def test_addresses_read_as_written():
    assert [parse_place(text) for text in ("2.001", "2/1", "7")] == [Place(2, 1), Place(2, 1), Place(1, 7)]
    assert str(Place(3, 41)) == "3.041"


def test_two_fixtures_on_one_slot_are_a_conflict(hung):
    hung.do("address", ids=hung.ids, start="1.001")
    assert overlaps(hung.show) == []
    hung.do("address", ids=[hung.ids[3]], start="1.040")
    found = overlaps(hung.show)
    assert [(c.universe, c.first, c.last) for c in found] == [(1, 40, 48)]
    assert set(found[0].fixtures) == {hung.ids[2], hung.ids[3]}
    text = [f.text for f in findings(hung.show) if f.step == "patch"]
    assert text == ["Fixture 13 and fixture 14 share slots 40 to 48 of universe 1: move one of them."]


def test_readiness_names_what_is_missing_and_double(hung):
    hung.do("number", ids=[hung.ids[1]], start="11")
    hung.do("place free", type="dunlin", position=[0, 0, 3], number=90)
    said = [f.text for f in findings(hung.show)]
    assert "Number 11 is given to 2 fixtures: renumber all but one." in said
    assert "Fixture 90 is in mid-air at 3.00 m: hang it on a rail or put it on the floor." in said
    assert sum("has no address" in text for text in said) == 5
    assert counts(hung.show)["hang"] == 5


def test_a_fixture_past_the_end_of_a_shortened_truss_is_named(hung):
    truss = hung.show.of_kind("truss")[0].id
    hung.do("set field", ids=[truss], field="length", text="6m")
    said = [f.text for f in findings(hung.show) if f.step == "hang"]
    assert said == ["Fixture 14 is 1.00 m past the end of its rail: move it or lengthen the truss."]


def test_numbers_run_in_the_order_given_and_doubles_are_reported(hung):
    edit = hung.do("number", ids=[hung.ids[2], hung.ids[0]], start="12", step="2")
    assert [hung.body(i).number for i in hung.ids] == [14, 12, 12, 14]
    assert len(edit.report) == 2


def test_a_look_shows_what_was_kept_and_home_for_what_it_does_not_say(hung):
    values = {hung.ids[0]: {"dimmer": 1.0, "pan": 0.5}}
    look = hung.made("keep look", name="Dawn", values=values)
    frame = look_frame(hung.show, look)
    assert frame[0, FIELDS.index("pan")] == pytest.approx(0.5)
    assert frame[0, FIELDS.index("green")] > 0
    assert frame[1, FIELDS.index("green")] == 0
    assert [f.text for f in findings(hung.show) if f.step == "looks"] == [
        "Look 1, Dawn, says nothing of 3 fixtures hung since: keep it again."
    ]


def test_a_look_that_is_played_is_over_the_console_and_a_removed_one_stops_playing(hung):
    look = hung.made("keep look", values={hung.ids[0]: {"dimmer": 1.0}})
    hung.do("play look", id=look)
    settings = hung.show.settings
    assert (settings.playing, settings.look_first, settings.follow_console) == (look, True, True)
    hung.do("remove", ids=[look])
    assert hung.show.settings.playing is None


def test_looks_and_hands_refuse_what_no_fixture_does(hung):
    with pytest.raises(JobError, match="nothing that a fixture does"):
        hung.do("keep look", values={hung.ids[0]: {"glitter": 1.0}})
    with pytest.raises(JobError, match="nothing that a fixture does"):
        hung.do("hold values", ids=hung.ids, values={"glitter": 1.0})
    with pytest.raises(JobError):
        hung.do("hold values", ids=hung.ids, values={"dimmer": float("nan")})


def test_the_patch_list_reads_as_a_crew_reads_it(hung):
    hung.do("address", ids=hung.ids, start="2.001")
    row = dict(zip(PATCH_COLUMNS, patch_list(hung.show)[1], strict=True))
    assert (row["Number"], row["Universe"], row["Address"], row["Last"]) == ("12", "2", "17", "32")
    assert row["On"] == "Truss 1, lower rail DS"
    assert row["Along"] == "3.00 m from SR"
    assert row["Height"] == "6.00 m"


def test_the_hookup_names_absolute_slots_for_patched_fixtures_only(hung):
    hung.do("address", ids=[hung.ids[0]], start="1.101")
    rows = [dict(zip(HOOKUP_COLUMNS, row, strict=True)) for row in channel_hookup(hung.show)]
    assert {row["Number"] for row in rows} == {"11"}
    assert rows[0] | {"Slots": "101+102", "Attribute": "Pan", "From": "-270", "To": "270"} == rows[0]


def test_an_unknown_edit_or_argument_is_refused(bench):
    with pytest.raises(JobError, match="no edit called"):
        bench.do("paint it black")
    with pytest.raises(JobError) as wrong:
        bench.do("add deck", colour="black")
    assert wrong.value.field == "colour"
    with pytest.raises(JobError, match="somebody removed it"):
        bench.do("move", ids=["gone"], by=[1, 0, 0])
