"""What a laser draws, in the picture against closed forms: a line on a floor, and what stands in its way."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests.browser.measured import Measured
from tests.processes import wait_for
from zarfwright.core.lasers.frames import Frame, Reel
from zarfwright.core.lasers.heads import heads_of
from zarfwright.core.lasers.light import LM_PER_W, matching_at
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.demo.build import Builder
from zarfwright.formats.ild import write_ild
from zarfwright.library import stilt

HEIGHT = 6.0
POINTS = 500
SWEEP_DEG = 20.0


def line() -> bytes:
    """An ILDA file: a green line across, there and back at an even speed."""
    points = np.zeros((POINTS, 3), dtype=np.int16)
    points[:, 0] = np.rint(32767 * (1 - 2 * np.abs(2 * np.arange(POINTS) / POINTS - 1)))
    rgb = np.tile(np.array([0, 255, 0], dtype=np.uint8), (POINTS, 1))
    return write_ild(Reel((Frame(points, np.zeros(POINTS, dtype=bool), 5, rgb, name="Line"),)))


class Line(Measured):
    """A white floor with a laser over it that draws a line along X; a lid lies beside it."""

    scale = 0.5

    def build(self, builder: Builder) -> None:
        do = builder.do
        do("set show", name="Laser bench", haze_per_m=0.0, work_light_lx=0.0, exposure_ev=9.0, white_k=6500.0)
        do("add deck", name="Floor", width="12m", depth="12m", height="0.1m", z="-0.1m", finish="cloth")
        kind = builder.add_type(stilt())
        asset = builder.file.keep_asset("Line.ild", line())
        self.lid = do("add deck", name="Lid", width="0.6m", depth="0.6m", height="0.05m", x="30", z="2m").select[0]
        self.head = do("place free", type=kind, mode="Simple", position=(0.0, 0.0, HEIGHT), number=1).select[0]
        do("set field", ids=[self.head], field="zone width", text=f"{SWEEP_DEG:g}")
        do("draw file", ids=[self.head], asset=asset, name="Line.ild")
        do("hold values", ids=[self.head], values={"dimmer": 1.0, "red": 1.0, "green": 1.0, "blue": 1.0})

    def across(self, x: float) -> float:
        """The light of the line at a place, lux over its width: added up over the pixels across it."""
        self.look_from([x, -1.1, 0.9], [x, 0.0, 0.0])
        found = self.probes([[x, y, 0.0] for y in np.arange(-0.12, 0.12, 0.003)], "Depth")
        lux = {round(one["point"][1], 6): float(np.array(one["seen"]) @ LUMINANCE) for one in found}
        whole = math.pi / float(np.array(found[0]["albedo"]) @ LUMINANCE)
        places = sorted(lux)
        return whole * float(np.trapezoid([lux[y] for y in places], places))


def is_drawn(page: Line) -> bool:
    return bool(page.person.driver.execute_script("return window.zarfwrightStage.state.lasers.count > 0"))


@pytest.mark.timeout(300)
def test_a_line_on_the_floor_has_the_lumens_of_its_green_over_the_angle_that_is_swept(measured):
    page = measured(Line)
    wait_for(lambda: is_drawn(page), "the line")
    (head,) = heads_of(page.show)
    green = next(one for one in head.beam.lines if one.nm == 520.0)
    flux = LM_PER_W * green.watts * float(matching_at(520.0)[1])
    high = head.place[2]
    for x in (0.0, 0.6):
        # There and back goes over every angle twice in two sweeps: lm per radian, and radians per metre of floor.
        wanted = flux / math.radians(SWEEP_DEG) * (high / (high**2 + x**2))
        assert page.across(x) == pytest.approx(wanted, rel=0.08)
    # Half as bright where it is told half, dark beyond its zone and behind a lid.
    page.do("hold values", ids=[page.head], values={"dimmer": 0.5})
    wanted = flux / 2 / math.radians(SWEEP_DEG) / high
    wait_for(lambda: page.across(0.0) == pytest.approx(wanted, rel=0.08), "half of it")
    assert page.across(1.4) == pytest.approx(0, abs=wanted / 100)
    page.do("set field", ids=[page.lid], field="x", text="0.6")
    page.person.settle()
    assert page.across(0.6) < wanted / 20
    assert page.across(-0.6) > wanted * 0.8
