"""Battens cell by cell: held, coloured and turned each by itself."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.conftest import Workbench
from zarfwright.core.aiming.solve import direction_in_show
from zarfwright.core.drive import settle, value_rows
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.held import rows_held
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.model import BeamSource, Channel, ChannelFunction, FixtureType, Geometry, Mode, shifted
from zarfwright.library import teal

SPOT = BeamSource("Spot", "LED", 1000.0, 6000.0, 8.0, 10.0, 0.03, 40.0)


def tilting_bar(count: int = 4) -> FixtureType:
    """A bar of heads 0.3 m apart, one behind the other, each tilting by itself."""

    def head(k: int) -> Geometry:
        lens = Geometry(f"Lens {k}", "Beam", None, shifted(0, 0, -0.1), SPOT)
        return Geometry(f"Head {k}", "Axis", None, shifted(0, -0.3 * k, -0.1), children=(lens,))

    def channels(k: int) -> tuple[Channel, ...]:
        tilt = Channel(f"Head {k}", (2 * k + 1,), (ChannelFunction("Tilt", "Tilt", 0, (-110.0, 110.0), 128),))
        return tilt, Channel(f"Lens {k}", (2 * k + 2,), (ChannelFunction("Dimmer", "Dimmer", 0, (0.0, 1.0), 0),))

    mode = Mode("All", "Bar", tuple(channel for k in range(count) for channel in channels(k)))
    return FixtureType("Tilting bar", "Nobody", "5B6E1F0A-7C1D-4E0B-9A55-0E3B6E0C1AFE",
                       (Geometry("Bar", children=tuple(head(k) for k in range(count))),), (mode,))  # fmt: skip


def hung(kind: FixtureType, mode: str) -> tuple[Workbench, str]:
    bench = Workbench()
    entry = bench.show.items["dunlin"]
    bench.show = replace(
        bench.show,
        items={**bench.show.items, "bar": replace(entry, id="bar")},
        types={**bench.show.types, "bar": kind},
    )
    return bench, bench.made("place free", type="bar", mode=mode, position=[0.0, 0.0, 5.0])


def test_a_cell_is_held_over_what_all_are_and_what_all_are_held_at_takes_it_back():
    bench, bar = hung(teal(), "Cells")
    bench.do("hold values", ids=[bar], values={"dimmer": 0.5, "red": 1.0})
    bench.do("hold values", ids=[bar], values={"dimmer": 1.0}, cells=[3, 4])
    body = bench.body(bar)
    rig = rig_of(bench.show).rig
    held = value_rows(rig, rows_held(bar, body))
    shown, driver = settle(rig.home, np.full_like(held, np.nan), rig.home, np.zeros(12, dtype=bool), held)
    dimmers = shown[:, rig_column("dimmer")]
    assert dimmers.tolist() == [0.5, 0.5, 1.0, 1.0, *[0.5] * 8]
    assert driver.tolist() == [3] * 12
    bench.do("hold values", ids=[bar], values={"dimmer": 0.2})
    assert bench.body(bar).cells == {}
    bench.do("hold values", ids=[bar], values={"blue": 1.0}, cells=[1])
    bench.do("release", ids=[bar], features=["blue"])
    assert bench.body(bar).cells == {}
    assert bench.body(bar).hands["red"] == 1.0


def rig_column(name: str) -> int:
    from zarfwright.core.dmx.features import INDEX

    return INDEX[name]


def test_single_cells_are_coloured_by_their_own_emitters():
    bench, bar = hung(teal(), "Cells")
    bench.do("set colour", ids=[bar], x=0.45, y=0.41)
    whole = bench.body(bar).hands
    bench.do("set colour", ids=[bar], x=0.2, y=0.2, cells=[2])
    body = bench.body(bar)
    assert body.hands == whole
    assert set(body.cells) == {"2"}
    assert body.cells["2"]["blue"] > body.cells["2"]["red"]
    for wrong in (0, 13):
        with pytest.raises(JobError, match="no such cell"):
            bench.do("set colour", ids=[bar], x=0.2, y=0.2, cells=[wrong])


def test_cells_that_tilt_are_fanned_and_limited_each_by_itself():
    bench, bar = hung(tilting_bar(), "All")
    bench.do("turn heads", ids=[bar], feature="tilt", text="-30 to 30", cells=[1, 2, 3, 4])
    tilts = [math.degrees(bench.body(bar).cells[str(n)]["tilt"]) for n in (1, 2, 3, 4)]
    assert tilts == pytest.approx([-30, -10, 10, 30])
    done = bench.do("turn heads", ids=[bar], feature="tilt", text="+=95", cells=[4])
    assert math.degrees(bench.body(bar).cells["4"]["tilt"]) == pytest.approx(110)
    assert "stops at 110°" in done.report[0]
    # As a whole they go together again.
    bench.do("turn heads", ids=[bar], feature="tilt", text="15")
    assert bench.body(bar).cells == {}
    other, batten = hung(teal(), "Cells")
    with pytest.raises(JobError, match="turn by themselves"):
        other.do("turn heads", ids=[batten], feature="tilt", text="10", cells=[1])


def looks_at(bench: Workbench, bar: str) -> list[np.ndarray]:
    """Where each cell's axis meets the plane y = 3, metres."""
    body, mount = bench.body(bar), clamp_placement(bench.show, bench.body(bar))
    found = []
    for i, chain in enumerate(chains_of(bench.show.types["bar"], "All")):
        held = {**body.hands, **body.cells.get(str(i + 1), {})}
        place, way = direction_in_show(chain, mount, held.get("pan", 0.0), held["tilt"])
        found.append(place + way * (3.0 - place[1]) / way[1])
    return found


def test_an_aim_turns_each_cell_and_keeps_it_there_when_the_bar_or_the_point_moves():
    bench, bar = hung(tilting_bar(), "All")
    point = bench.made("add focus point", name="Face", point=[0.0, 3.0, 1.6])
    bench.do("aim at", ids=[bar], focus=point)
    assert [round(float(at[2]), 4) for at in looks_at(bench, bar)] == [1.6] * 4
    bench.do("move", ids=[point], by=[0.0, 0.0, -0.6])
    assert [round(float(at[2]), 4) for at in looks_at(bench, bar)] == [1.0] * 4
    # Each from its own place, so each at another tilt; the bar carried off, all are turned anew.
    before = {held["tilt"] for held in bench.body(bar).cells.values()}
    assert len(before) == 3
    bench.do("move", ids=[bar], by=[0.0, 1.0, 0.5])
    assert [round(float(at[2]), 4) for at in looks_at(bench, bar)] == [1.0] * 4
    assert before.isdisjoint(held["tilt"] for held in bench.body(bar).cells.values())
    # One of them turned by hand: the bar is aimed at nothing any more.
    bench.do("turn heads", ids=[bar], feature="tilt", text="5", cells=[2])
    assert bench.body(bar).aim is None


def test_what_another_type_has_not_is_left_behind():
    bench, bar = hung(teal(), "Cells")
    bench.do("hold values", ids=[bar], values={"red": 1.0, "dimmer": 1.0}, cells=[1, 12])
    bench.do("swap type", ids=[bar], type="heron", mode="Standard")
    assert bench.body(bar).cells == {}


def test_what_has_one_lens_is_left_as_it_is_where_cells_are_meant():
    bench, bar = hung(teal(), "Cells")
    head = bench.made("place free", type="heron", position=[2.0, 0.0, 5.0])
    bench.do("hold values", ids=[bar, head], values={"dimmer": 1.0}, cells=[1, 2])
    bench.do("set colour", ids=[bar, head], x=0.4, y=0.4, cells=[1])
    assert (bench.body(head).hands, bench.body(head).cells) == ({}, {})
    assert set(bench.body(bar).cells) == {"1", "2"}
