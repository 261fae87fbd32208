"""Areas and notes through their edits: what is typed, what is measured and grows old, who says what of a look."""

import numpy as np
import pytest

from zarfwright.core.edits import prepare
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.looks.shown import resolved
from zarfwright.core.optics.photometry import illuminance
from zarfwright.core.raycast import Caster
from zarfwright.core.readiness import counts, findings
from zarfwright.core.review.area import DRIVEN, unpacked
from zarfwright.core.review.grid import grid_of
from zarfwright.core.review.maps import in_the_way
from zarfwright.core.review.notes import Note, standing_of
from zarfwright.core.review.readiness import fresh


@pytest.fixture
def lit(bench):
    """A deck with two heads over it, and a look of the two."""
    bench.deck = bench.made("add deck", name="Main deck", width="6m", depth="4m", height="1m", y="US 2")
    bench.heads = [bench.made("place free", type="heron", mode="Extended", position=[x, -2, 7]) for x in (-2, 2)]
    bench.do("aim at", ids=bench.heads, point=[0, 2, 1])
    values = {key: {**bench.body(key).hands, "dimmer": 1.0} for key in bench.heads}
    bench.look = bench.made("keep look", name="Both", values=values)
    return bench


def test_an_area_of_a_deck_lies_on_it_and_of_faces_stands_above(lit):
    area = lit.body(lit.made("add area", deck=lit.deck, wanted="50 fc"))
    assert (area.name, area.position, area.width_m, area.depth_m) == ("Main deck", (0.0, 2.0, 1.0), 6.0, 4.0)
    assert area.wanted_lx == pytest.approx(538.2)
    eye = lit.made("add viewpoint", eye=[1, -9, 2], target=[0, 0, 1])
    faces = lit.body(lit.made("add area", deck=lit.deck, faces="towards", towards=eye, points="5 x 3"))
    assert faces.name != area.name
    assert faces.position[2] == 2.6
    assert (faces.towards, faces.points) == ((1.0, -9.0, 2.0), (5, 3))
    free = lit.body(lit.made("add area", name="Prow", x="SL 1", y="DS 2", z="0.5m", width="2m", depth="1m", turn="30"))
    assert (free.position, free.turn_deg) == ((1.0, -2.0, 0.5), 30)


@pytest.mark.parametrize(("field", "text", "says"), [
    ("wanted", "much", "no amount of light"), ("wanted", "0", "no amount"), ("points", "500x2", "no number of points"),
    ("points", "many", "no number"), ("tolerance", "x", "no share"), ("width", "0", "cannot be"),
    ("tolerance", "900", "at most"),
])  # fmt: skip
def test_what_cannot_be_an_area_is_refused(lit, field, text, says):
    area = lit.made("add area", deck=lit.deck)
    with pytest.raises(JobError, match=says) as wrong:
        lit.do("set area", id=area, **{field: text})
    assert wrong.value.field == field


def test_what_is_measured_is_kept_with_its_look_and_grows_old(lit):
    area = lit.made("add area", deck=lit.deck, points="6x4")
    done = lit.do("measure light", ids=[area], looks=[lit.look])
    assert done.sentence == "Measure the light on Main deck in look 1, Both"
    kept = lit.body(area).maps[lit.look]
    grid = grid_of(lit.body(area))
    beams = rig_of(lit.show).beams(resolved(lit.show, lit.look), {})
    whole = illuminance(beams, grid.points, grid.normals, Caster(in_the_way(lit.show, people=False)))
    assert unpacked(kept) == pytest.approx(whole, rel=1e-5)
    assert fresh(lit.show, lit.look, kept)
    # What changes nothing of the picture does not age it; what does, does.
    lit.do("write note", text="Fine", about=lit.look)
    lit.do("set field", ids=[lit.heads[0]], field="number", text="7")
    assert fresh(lit.show, lit.look, kept)
    lit.do("move", ids=[lit.heads[0]], by=[0.5, 0, 0])
    assert not fresh(lit.show, lit.look, kept)
    # Measured elsewhere, it is no more of this area.
    lit.do("set area", id=area, name="Deck")
    assert lit.body(area).maps
    lit.do("set area", id=area, width="3m")
    assert not lit.body(area).maps


def test_carriers_and_people_are_where_the_look_and_the_area_have_them(lit):
    lit.do("make carrier", ids=lit.heads, name="Lift")
    carrier = next(item.id for item in lit.show.of_kind("carrier"))
    high = lit.made("keep look", name="High", values={key: dict(lit.body(key).hands) for key in lit.heads})
    lit.do("set field", ids=[carrier], field="z", text="-2m")
    lit.do("set in look", id=high, values={key: {"dimmer": 1.0} for key in lit.heads})
    area = lit.made("add area", deck=lit.deck, points="30x20")
    lit.do("measure light", ids=[area], looks=[high, lit.look])
    maps = lit.body(area).maps
    assert unpacked(maps[high]).max() < unpacked(maps[lit.look]).max()
    lit.do("add figures", pose="standing", x="SR 0.67", y="US 0.67", z="1m")
    lit.do("measure light", ids=[area])
    without = unpacked(lit.body(area).maps[lit.look])
    lit.do("set area", id=area, people=True)
    lit.do("measure light", ids=[area], looks=[lit.look])
    assert unpacked(lit.body(area).maps[lit.look]).mean() < without.mean()


def test_too_little_light_is_a_finding_until_it_is_old(lit):
    area = lit.made("add area", deck=lit.deck, points="6x4", wanted="100000", wanted_in=[lit.look])

    def found():
        return [one.text for one in findings(lit.show) if one.step == "review"]

    assert found() == []
    lit.do("measure light", ids=[area])
    assert len(found()) == 1
    assert found()[0].startswith("Look 1, Both: Main deck gets ")
    assert "less than the 100000 lx wanted" in found()[0]
    mean = float(np.mean(unpacked(lit.body(area).maps[lit.look]) @ [0.2126729, 0.7151522, 0.0721750]))
    lit.do("set area", id=area, wanted=f"{mean * 1.15:.1f}")
    assert found() == []
    lit.do("set area", id=area, tolerance="10")
    assert len(found()) == 1
    lit.do("move", ids=lit.heads, by=[0, 0, 0.5])
    assert found() == []
    with pytest.raises(JobError, match="no look to measure in"):
        lit.do("measure light", ids=[lit.made("add area")])


def test_what_was_changed_while_it_was_measured_is_left_out_and_said(lit):
    areas = [lit.made("add area", deck=lit.deck, points="3x2") for _ in range(2)]
    ready = prepare(lit.show, "measure light", {"ids": areas, "looks": [lit.look]})
    answered = ready.answered([call() for call in ready.calls()])
    lit.do("set area", id=areas[0], points="4x2")
    edit = answered.on(lit.show, lit.new_id)
    assert [change.id for change in edit.changes] == [areas[1]]
    assert edit.report == ("Main deck was changed meanwhile: measure it again.",)


def test_as_driven_is_measured_of_what_is_driven(lit):
    class Driven:
        def optics(self, _):
            return {}, {}

        def values(self):
            return resolved(lit.show, lit.look)

    area = lit.made("add area", deck=lit.deck, points="3x2")
    ready = prepare(lit.show, "measure light", {"ids": [area], "looks": [DRIVEN, lit.look]}, Driven())
    lit.show = lit.show.after(ready.on(lit.show, lit.new_id).changes)
    maps = lit.body(area).maps
    assert unpacked(maps[DRIVEN]) == pytest.approx(unpacked(maps[lit.look]))
    assert unpacked(maps[DRIVEN]).max() > 10


def test_notes_are_written_answered_done_and_counted(lit):
    note = lit.made(
        "write note", text=" Too warm\nover there ", by="Wren", about=lit.heads[0], tags=["#Focus", "focus"]
    )
    assert lit.body(note).name == "Too warm"
    assert lit.body(note).tags == ("focus",)
    lit.do("write note", strokes=[{"kind": "arrow", "places": [[0, 0], [1, 1]]}], look=lit.look, picture="a")
    assert counts(lit.show)["review"] == 2
    lit.do("answer note", id=note, text="Colder by 300 K", by="Teal", at="2026-11-30T10:00:00Z")
    lit.do("set note", ids=[note], done=True)
    assert counts(lit.show)["review"] == 1
    assert lit.body(note).answers[0].who == "Teal"
    for bad in ({"text": "  "}, {"text": "x", "at": "noon"}, {"text": "x", "about": lit.deck, "seat": "other/1"},
                {"verdict": "agreed", "about": lit.deck}, {"text": "x", "about": "gone"}):  # fmt: skip
        with pytest.raises(JobError):
            lit.do("write note", **bad)


def test_each_person_has_one_word_on_a_look_the_last(lit):
    def said():
        return standing_of([note for _, note in lit.show.bodies(Note)], lit.look)

    assert said().verdict == ""
    lit.do("write note", verdict="not yet", by="Wren", about=lit.look, at="2026-11-30T10:00:00Z", text="Too dark")
    lit.do("write note", verdict="agreed", by="Teal", about=lit.look, at="2026-11-30T10:01:00Z")
    assert (said().verdict, said().agreed, said().not_yet) == ("not yet", ("Teal",), ("Wren",))
    lit.do("write note", verdict="agreed", by="Wren", about=lit.look, at="2026-11-30T10:02:00Z")
    assert (said().verdict, said().agreed) == ("agreed", ("Teal", "Wren"))
    assert len(lit.show.of_kind("note")) == 2
    assert counts(lit.show)["review"] == 0


def test_notes_that_were_sent_back_are_taken_once(lit):
    sent = [{"text": "Lovely", "by": "Wren", "at": "2026-11-30T10:00:00Z", "look": lit.look, "about": lit.look},
            {"verdict": "agreed", "by": "Wren", "at": "2026-11-30T10:00:00Z", "about": lit.look}]  # fmt: skip
    assert lit.do("take notes", notes=sent).sentence == "Take in 2 notes"
    again = lit.do("take notes", notes=[*sent, {"text": "More", "by": "Wren"}])
    assert again.report == ("2 were here already.",)
    assert len(lit.show.of_kind("note")) == 3
    with pytest.raises(JobError, match="nothing new"):
        lit.do("take notes", notes=sent)
