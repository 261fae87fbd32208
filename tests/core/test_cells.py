"""Several beams in one body: rows of the frame, which channels drive which cell, looks and hands by cell."""

import numpy as np
import pytest

from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.features import COUNT, INDEX
from zarfwright.core.dmx.mode import driven_beams
from zarfwright.core.dmx.rows import PatchRow, beam_keys, fixture_of
from zarfwright.core.drive import HANDS, LOOK, settle, value_rows
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.picture import COLUMN, beam_table
from zarfwright.core.readiness import findings
from zarfwright.core.types.chain import chain_of, chains_of
from zarfwright.library import dunlin, heron, teal

TEAL = teal()


def rig(address=1):
    return compile_rig([PatchRow("head", dunlin(), "Standard", 1, 400), PatchRow("bar", TEAL, "Cells", 1, address)])


def test_a_fixture_with_cells_has_a_row_for_each_and_others_keep_their_own_name():
    made = rig()
    assert made.keys[:3] == ("head", "bar/1", "bar/2")
    assert made.keys[-1] == "bar/12"
    assert made.fixtures == ("head", *["bar"] * 12)
    assert beam_keys("x", 1) == ["x"]
    assert [fixture_of(key) for key in made.keys[:2]] == ["head", "bar"]


def test_the_chains_of_cells_lie_side_by_side_in_their_order():
    chains = chains_of(TEAL, "Cells")
    places = np.array([np.add(np.add(c.pan_offset, c.tilt_offset), c.lens_offset) for c in chains])
    assert np.all(np.diff(places[:, 0]) > 0)
    assert np.ptp(places[:, 0]) == pytest.approx(0.88)
    assert chain_of(TEAL, "Cells") == chains_of(TEAL, "Cells")[0]
    assert not chain_of(TEAL, "Cells").moves


def test_a_channel_drives_the_beams_at_or_below_its_geometry():
    chains = chains_of(TEAL, "Cells")
    dimmer, _, red, *_ = TEAL.mode("Cells").channels
    assert driven_beams(dimmer, chains) == list(range(12))
    assert driven_beams(red, chains) == [0]


def test_each_cell_decodes_from_its_own_slots_and_the_dimmer_reaches_all():
    made = rig()
    levels = np.zeros((1, 512), dtype=np.uint8)
    levels[0, 0:2] = (128, 32)
    levels[0, 2 + 4 * 4 + 1] = 255  # cell 5, green
    got = Decoder(made).decode(levels)
    rows = made.row_of
    assert got[rows["bar/5"], INDEX["green"]] == 1
    assert got[rows["bar/4"], INDEX["green"]] == 0
    assert got[[rows[f"bar/{n}"] for n in range(1, 13)], INDEX["dimmer"]] == pytest.approx([128 / 255] * 12)
    assert got[rows["head"], INDEX["dimmer"]] == 0


def test_values_may_name_a_fixture_or_one_of_its_cells_and_the_cell_wins():
    made = rig()
    said = value_rows(made, {"bar": {"dimmer": 1.0, "red": 0.5}, "bar/3": {"red": 1.0}, "head": {"tilt": 0.2}})
    rows = made.row_of
    assert said[rows["bar/2"], INDEX["red"]] == 0.5
    assert said[rows["bar/3"], INDEX["red"]] == 1.0
    assert said[rows["bar/3"], INDEX["dimmer"]] == 1.0
    assert said[rows["head"], INDEX["tilt"]] == 0.2
    assert np.isnan(said[rows["head"], INDEX["dimmer"]])


def test_hands_on_one_cell_leave_the_others_to_the_look():
    made = rig()
    look, hands = value_rows(made, {"bar": {"dimmer": 0.4}}), value_rows(made, {"bar/1": {"dimmer": 0.9}})
    shown, driver = settle(made.home, look, np.zeros((13, COUNT)), np.zeros(13, dtype=bool), hands)
    rows = made.row_of
    assert shown[rows["bar/1"], INDEX["dimmer"]] == 0.9
    assert shown[rows["bar/2"], INDEX["dimmer"]] == 0.4
    assert (driver[rows["bar/1"]], driver[rows["bar/2"]]) == (HANDS, LOOK)


def test_cells_have_the_colour_of_their_own_emitters():
    rows = [PatchRow("bar", TEAL, "Cells", None, None)]
    features = compile_rig(rows).home.copy()
    features[:, INDEX["dimmer"]] = 1.0
    features[3, INDEX["blue"]] = 1.0
    frame = beam_table(rows).frame(features)
    assert frame[3, COLUMN["blue"]] > 0.01
    assert np.all(frame[[0, 1, 2, 4], COLUMN["blue"]] == 0)


def test_a_look_keeps_cells_and_says_when_a_batten_is_missing_from_it(bench):
    from dataclasses import replace

    from zarfwright.core.rig.things import TypeEntry
    from zarfwright.core.show import Item

    items = {**bench.show.items, "teal": Item("teal", "type", TypeEntry("Teal", "Ember & Thole", "teal"), order=9)}
    bench.show = replace(bench.show, items=items, types={**bench.show.types, "teal": TEAL})
    bar = bench.made("place free", type="teal", mode="Cells", position=(0, 0, 4), number=1)
    look = bench.made("keep look", name="A", values={f"{bar}/2": {"red": 1.0}, "gone/1": {"red": 1.0}})
    assert list(bench.body(look).values) == [f"{bar}/2"]
    assert not [finding for finding in findings(bench.show) if finding.step == "looks"]
    bench.do("place free", type="teal", mode="Cells", position=(2, 0, 4), number=2)
    assert ["1 fixture" in finding.text for finding in findings(bench.show) if finding.step == "looks"] == [True]
    with pytest.raises(JobError, match="nothing that a fixture does"):
        bench.do("keep look", name="B", values={f"{bar}/2": {"loudness": 1.0}})


def test_the_rig_for_photometry_has_a_chain_and_a_mount_for_each_row(bench):
    from dataclasses import replace

    bench.show = replace(bench.show, types={**bench.show.types, "teal": TEAL, "heron": heron()})
    bench.made("place free", type="heron", mode="Standard", position=(0, 0, 6), number=3)
    made = rig_of(bench.show)
    assert len(made.chains) == len(made.mounts) == len(made.rig.keys) == 1
    beams = made.beams({made.rig.keys[0]: {"dimmer": 1.0}}, {})
    assert beams.lit().tolist() == [0]
    assert beams.along[0] == pytest.approx([0, 0, -1], abs=1e-3)
