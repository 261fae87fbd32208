"""The picture against core's photometry: lux read back from the light of the stage, by pixels, in the real browser."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from tests.browser.measured import TRAVEL, Measured
from tests.processes import wait_for
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.lighting import caster_of, rig_of
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.exposure import shown_per_cd, white_balance
from zarfwright.core.optics.photometry import illuminance
from zarfwright.demo.build import Builder
from zarfwright.formats.ies import read_ies
from zarfwright.formats.pictures import gobo_mask
from zarfwright.library import bittern, dunlin, heron, teal, wader

HEIGHT = 8.0
# Within 3 % of core, of what is there or (at edges, where a pixel sees a little of both sides) of the middle.
CLOSE, OF_MIDDLE = 0.03, 0.012
# Columns of the frame that the picture is waited for by.
SEEN = ["pan", "tilt", "field", "iris", "focus", "frost", "gobo", "prism", "gobo2", "blade1"]
"""Fields of the frame that are waited for."""
RIM_CASES = [
    {"zoom": 17.0},
    {"zoom": 34.0, "focus": 0.3},
    {"zoom": 17.0, "gobo slot": 3.0, "sharp at": 2.2},
    {"zoom": 26.0, "iris": 0.5},
    {"zoom": 20.0, "frost": 0.7},
    {"zoom": 26.0, "cyan": 0.6, "yellow": 0.3, "colour slot": 2.0},
    {"zoom": 30.0, "blade 1": 0.6, "blade 1 angle": 0.3, "blade 2": 0.4, "blades turn": 0.4},
    {"zoom": 30.0, "gobo slot": 3.0, "gobo turn": 0.5, "focus": 0.8},
    {"zoom": 30.0, "gobo slot": 2.0, "gobo 2 slot": 2.0, "focus": 0.8},
    {"zoom": 14.0, "prism slot": 2.0, "prism turn": 0.3},
    {"zoom": 17.0, "tilt": 0.7, "pan": 0.5},
]


DOORS = {"blade 1": 0.9, "blade 2": 0.8, "blades turn": 0.3}
DOOR_PLACES = [(0.1, -1.2), (0.8, 1.9), (0.5, 1.9), (0.3, 1.9), (0.5, 3.0), (0.3, -1.0)]
"""Shares of the pool's radius, and the angle on the floor."""


class Bench(Measured):
    """A white floor, and what lamp is asked for above it; a lid lies beside it."""

    scale = 0.5

    def build(self, builder: Builder) -> None:
        do = builder.do
        do("set show", name="Light bench", haze_per_m=0.0, work_light_lx=0.0, exposure_ev=9.0, white_k=6500.0)
        do("add deck", name="Floor", width="16m", depth="16m", height="0.1m", z="-0.1m", finish="cloth")
        self.types = {make: builder.add_type(make()) for make in (heron, dunlin, bittern, teal, wader)}
        self.lid = do("add deck", name="Lid", width="0.6m", depth="0.6m", height="0.05m", x="30", z="4m").select[0]

    def hang(self, make: Any, mode: str) -> Bench:
        """One lamp, over the middle of the floor."""
        self.type = self.types[make]
        made = self.do("place free", type=self.type, mode=mode, position=(0.0, 0.0, HEIGHT), number=1)
        assert made
        self.fixture = made
        kinds = self.show.types[self.type]
        self.masks = {key: gobo_mask(kinds.images[name], name) for name, key in kinds.image_keys.items()}
        self.look_from([3.2, -3.8, 5.4], [0.0, 0.3, 0.0])
        return self

    def hold(self, **values: float) -> dict[str, float]:
        """Hold values by hand; wait until the picture has them, also what travels."""
        said = {"dimmer": 1.0, "pan": 0.0, "tilt": 0.0, **values}
        if self.held():
            self.program.edit("release", ids=[self.fixture])
        self.program.edit("hold values", ids=[self.fixture], values=said)
        wait_for(lambda: self.person.stage("state.rowOf", self.fixture) == 0, "the lamp")
        self.until_it_shows(self.beams(said), SEEN)
        return said

    def held(self) -> bool:
        rows = self.program.document()["objects"]
        return bool(next(row for row in rows if row["id"] == self.fixture)["body"]["hands"])

    def beams(self, said: dict[str, float]) -> Any:
        return rig_of(self.show).beams({self.fixture: said}, self.masks)


MANY = ((-6.0, -8.0), (-2.5, -6.0), (0.4, -8.0), (6.0, -6.0), (-6.0, -1.0), (-2.5, 5.0), (0.4, -1.0), (6.0, 5.0))
"""Places on the floor under many lamps, near and far."""


@pytest.fixture
def bench(measured, request):
    return measured(Bench).hang(*request.param)


def middle_of(beams: Any) -> np.ndarray:
    """Where the axis meets the floor."""
    along = beams.along[0]
    return beams.lens[0] - along * (beams.lens[0, 2] / along[2])


def differences(bench: Bench, said: dict[str, float], shares: list[float]) -> tuple[list[float], float]:
    """How far lux in the picture are from core's, as shares of what is allowed, at places across the pool."""
    beams = bench.beams(said)
    middle = middle_of(beams)
    radius = float(np.linalg.norm(middle - beams.apex[0])) * math.tan(float(beams.frame[0, 2]) / 2)
    peak = illuminance(beams, middle[None], [[0, 0, 1]])[0]
    bright = max(float(peak.max()), float(beams.colour_cd(0).max()) / HEIGHT**2 * 0.3)
    places = []
    for i, share in enumerate(shares):
        angle = 0.4 + i * 2.4
        x, y = middle[0] + share * radius * math.cos(angle), middle[1] + share * radius * math.sin(angle)
        places.append([float(x), float(y), 0.0])
    off = []
    for seen in bench.probes(places):
        wanted = illuminance(beams, [seen["point"]], [seen["normal"]])[0]
        allowed = CLOSE * np.abs(wanted) + OF_MIDDLE * bright
        off.append(float(np.max(np.abs(np.array(seen["lux"]) - wanted) / allowed)))
    return off, bright


@pytest.mark.timeout(400)
@pytest.mark.parametrize("bench", [(heron, "Extended")], indirect=True)
def test_a_profile_lights_the_floor_as_core_says_it_does(bench):
    # Shares of the pool's radius that lie off its rim, where one pixel is all light or none.
    for said in RIM_CASES:
        full = bench.hold(**said)
        off, _ = differences(bench, full, [0.0, 0.2, 0.35, 0.62, 0.8])
        assert max(off) < 1.0, (said, off)
    # Inverse square: the same beam from three heights, exactly at the axis.
    full = bench.hold(zoom=17.0)
    for by in (-2.0, -1.5):
        bench.do("move", ids=[bench.fixture], by=[0.0, 0.0, by])
        lens = wait_for(
            lambda: (
                lens
                if abs((lens := bench.person.beam(bench.fixture)["lens"])[2] - bench.beams(full).lens[0, 2]) < 0.01
                else None
            ),
            "the fixture to move",
        )
        seen = bench.probe([0, 0, 0])
        wanted = illuminance(bench.beams(full), [seen["point"]], [seen["normal"]])[0]
        assert seen["lux"] == pytest.approx(wanted, rel=CLOSE), lens


def radius_at(bench: Bench, share: float, guess: float) -> float:
    """How far from the middle the lux have fallen to a share of the middle's, by the picture, along one line."""
    ends, middle = (0.0, guess * 1.5), None
    for _ in range(2):
        places = np.linspace(*ends, 25)
        seen = bench.probes([[-float(x), 0.0, 0.0] for x in places])
        got = [(float(np.hypot(*one["point"][:2])), float(np.array(one["lux"]) @ LUMINANCE)) for one in seen]
        middle = middle or got[0][1]
        k = next(i for i, (_, lux) in enumerate(got) if lux <= share * middle)
        ends, low, high = (places[k - 1], places[k]), got[k - 1], got[k]
    # Between the last two pixels, straight.
    part = (low[1] - share * middle) / max(low[1] - high[1], 1e-9)
    return low[0] + part * (high[0] - low[0])


@pytest.mark.timeout(400)
@pytest.mark.parametrize("bench", [(dunlin, "Standard")], indirect=True)
def test_a_wash_falls_off_at_the_radii_of_its_angles_and_keeps_its_flux_over_zoom(bench):
    red = {"red": 1.0, "green": 0.2, "blue": 0.6, "white": 0.1}
    for zoom in (20.0, 40.0):
        said = bench.hold(zoom=zoom, **red)
        off, _ = differences(bench, said, [0.0, 0.3, 0.6, 0.9, 1.2])
        assert max(off) < 1.0, (zoom, off)
        beams = bench.beams(said)
        x = np.linspace(0, 6, 4001)
        lux = (
            illuminance(beams, np.stack([-x, 0 * x, 0 * x], axis=1), np.tile([0.0, 0.0, 1.0], (len(x), 1))) @ LUMINANCE
        )
        for share in (0.5, 0.1):
            wanted = float(x[np.argmax(lux < share * lux[0])])
            assert radius_at(bench, share, wanted) == pytest.approx(wanted, rel=CLOSE), (zoom, share)


@pytest.mark.timeout(300)
@pytest.mark.parametrize("bench", [(bittern, "Dimmer")], indirect=True)
def test_a_conventional_lights_by_its_ies_web(bench):
    said = bench.hold()
    web, _ = read_ies(bench.show.types[bench.type].ies["Lens"], "Lens.ies")
    beams = rig_of(bench.show).beams({bench.fixture: said}, {}, {web.key: web})
    assert float(beams.values(0)["web"]) == 1
    wait_for(lambda: bench.probe([0.0, 0.0, 0.0])["lux"][0] > 1, "the web to come")
    for seen in bench.probes([[x, y, 0.0] for x, y in ((0, 0), (-0.8, 0.4), (0.5, 1.4), (-2.4, 0.3), (0.2, 3.4))]):
        wanted = illuminance(beams, [seen["point"]], [seen["normal"]])[0]
        assert np.array(seen["lux"]) == pytest.approx(wanted, rel=CLOSE, abs=1.0), seen
    # Wider across the head than along it, as the file says.
    assert web.toward(0.3, 0.0) > 1.02 * web.toward(0.3, math.pi / 2)


@pytest.mark.timeout(300)
@pytest.mark.parametrize("bench", [(bittern, "Dimmer")], indirect=True)
def test_barn_doors_cut_a_conventional_where_core_has_their_soft_edge(bench):
    web, _ = read_ies(bench.show.types[bench.type].ies["Lens"], "Lens.ies")
    beams = rig_of(bench.show).beams({bench.fixture: bench.hold(**DOORS)}, {}, {web.key: web})
    reach = HEIGHT * math.tan(math.radians(20))
    places = [[share * reach * math.cos(a), share * reach * math.sin(a), 0.0] for share, a in DOOR_PLACES]
    wanted = [illuminance(beams, [place], [[0, 0, 1]])[0] for place in places]
    assert min(lux.max() for lux in wanted) < 0.05 * wanted[0].max(), "something is behind a door"
    wait_for(lambda: bench.probe(places[0])["lux"][0] > 1, "the web to come")
    for seen in bench.probes(places):
        lux = illuminance(beams, [seen["point"]], [seen["normal"]])[0]
        assert np.array(seen["lux"]) == pytest.approx(lux, rel=CLOSE, abs=OF_MIDDLE * float(wanted[0].max())), seen


@pytest.mark.timeout(400)
@pytest.mark.parametrize("bench", [(heron, "Extended")], indirect=True)
def test_what_stands_in_a_beam_cuts_its_pool_and_its_shaft_in_the_same_frame(bench):
    said = bench.hold(zoom=30.0)
    beams = bench.beams(said)
    assert bench.lux([0.6, 0.4, 0.0], "Depth") > 500
    bench.do("move", ids=[bench.lid], by=[-30.0, 0.0, 0.0])
    # Drawn once, as soon as the stage knows of the lid: the first picture has the shadow.
    lit = bench.person.driver.execute_async_script(
        """const done = arguments[0], s = window.zarfwrightStage;
        const look = () => {
          const lid = s.solids.all().find((solid) => solid.position[2] > 3);
          const there = lid && s.solids.bounds(lid.id);
          if (!there || there.min.x > 1) return setTimeout(look, 5);
          done(s.probe("main", [[0.02, 0.02, 0.0], [1.5, 0.0, 0.0]], "Depth"));
        };
        look();"""
    )
    under, beside = lit
    caster = caster_of(bench.show)
    for seen in (under, beside):
        wanted = illuminance(beams, [seen["point"]], [seen["normal"]], caster)[0]
        assert np.array(seen["lux"]) == pytest.approx(wanted, rel=0.05, abs=5.0)
    assert float(np.array(under["lux"]) @ LUMINANCE) < 5
    assert float(np.array(beside["lux"]) @ LUMINANCE) > 300
    # The shaft of a narrow beam: above the lid it is bright, below it there is none.
    bench.hold(zoom=7.5)
    bench.program.edit("set show", haze_per_m=0.05, haze_uneven=0.0)
    bench.wish("Depth")
    bench.look_from([0.0, -9.0, 4.0], [0.0, 0.0, 3.6])

    def air(z: float) -> float:
        at = bench.person.stage("where", "main", [0.0, 0.0, z])
        return float(sum(bench.person.stage("pixels", "main", at["x"], at["y"], 5)))

    wait_for(lambda: air(5.5) > 60, "the shaft")
    assert air(3.0) < 0.3 * air(5.5)


@pytest.mark.timeout(300)
@pytest.mark.parametrize("bench", [(wader, "Fine")], indirect=True)
def test_a_scanner_lights_the_floor_by_way_of_its_mirror(bench):
    for said in ({"pan": 0.4, "tilt": -0.12}, {"pan": -0.3, "tilt": 0.1, "gobo slot": 2.0}):
        full = bench.hold(**said)
        off, _ = differences(bench, full, [0.0, 0.2, 0.35, 0.62, 0.8])
        assert max(off) < 1.0, (said, off)


@pytest.mark.timeout(300)
@pytest.mark.parametrize("bench", [(teal, "Cells")], indirect=True)
def test_a_cell_of_a_batten_lights_where_it_is(bench):
    document = bench.program.document()
    assert len(next(iter(document["bodies"]))["cells"]) == 12
    cells = {f"{bench.fixture}/{n}": dict.fromkeys(("red", "green", "blue", "white"), 0.0) for n in range(1, 13)}
    cells[f"{bench.fixture}/3"] |= {"white": 1.0}
    values = {key: {"dimmer": 1.0, **said} for key, said in cells.items()}
    assert set(values[f"{bench.fixture}/3"]) <= set(INDEX)
    look = bench.program.edit("keep look", name="One cell", values=values)["select"][0]
    bench.program.edit("play look", id=look)
    wait_for(
        lambda: bench.person.driver.execute_script(
            """const s = window.zarfwrightStage.state;
            return s.candelaRow(2, 'live')[1] > 10 && s.candelaRow(7, 'live')[1] < 1;"""
        ),
        "the third cell alone",
    )
    bench.person.settle()
    beams = rig_of(bench.show).beams(values, {})
    for seen in bench.probes([[x, 0.0, 0.0] for x in (-0.28, 0.6, 1.5)]):
        wanted = illuminance(beams, [seen["point"]], [seen["normal"]])[0]
        assert np.array(seen["lux"]) == pytest.approx(wanted, rel=CLOSE, abs=0.3)


@pytest.mark.timeout(300)
@pytest.mark.parametrize("bench", [(heron, "Extended")], indirect=True)
def test_a_strobe_is_on_half_of_its_time_and_a_lost_context_comes_back(bench):
    bench.hold(zoom=20.0, strobe=4.0)
    on = bench.person.driver.execute_script(
        """const s = window.zarfwrightStage, clock = s.drawing.clock;
        const seen = [0.05, 0.1, 0.15, 0.2, 0.3].map((t) => {
          s.drawing.clock = () => t;
          return s.probe("main", [[0, 0, 0]])[0].lux[1] > 1;
        });
        s.drawing.clock = clock;
        return seen;"""
    )
    assert on == [True, True, False, False, True]
    bench.hold(zoom=20.0)
    bright = bench.probe([0, 0, 0])["lux"]
    bench.person.driver.execute_script(
        """const gl = document.querySelector('canvas').getContext('webgl2');
        window.lose = gl.getExtension('WEBGL_lose_context');
        window.lose.loseContext();"""
    )
    bench.person.says("gives no WebGL2 now")
    # Selecting in plan still works: outlines are drawn.
    bench.person.row("Floor")
    bench.person.driver.execute_script("window.lose.restoreContext()")
    wait_for(
        lambda: "gives no WebGL2" not in bench.person.driver.execute_script("return document.body.innerText"),
        "the picture to come back",
    )
    bench.person.settle()
    assert bench.probe([0, 0, 0])["lux"] == pytest.approx(bright, rel=1e-3)


@pytest.mark.timeout(300)
@pytest.mark.parametrize("bench", [(heron, "Extended")], indirect=True)
def test_the_edge_of_a_shadow_lies_where_rays_have_it(bench):
    bench.do("move", ids=[bench.lid], by=[-30.0, 0.0, 0.0])
    said = bench.hold(zoom=30.0, tilt=0.25)
    caster = caster_of(bench.show)
    beams = bench.beams(said)
    wait_for(lambda: bench.lux([0.02, 0.02, 0.0], "Depth") < 5, "the shadow")

    # Outward from under the lid, across each of its edges: all of them, in the picture and by rays, halved at once.
    lines = [lambda s: (s, 0.05), lambda s: (-s, 0.05), lambda s: (0.05, 0.05 + s), lambda s: (0.05, 0.05 - s)]
    low, high = np.zeros((2, 4)), np.full((2, 4), 1.2)
    for _ in range(8):
        middle = (low + high) / 2
        seen = bench.probes(
            [[*map(float, line(middle[k, i])), 0.0] for k in (0, 1) for i, line in enumerate(lines)], "Depth"
        )
        points = [one["point"] for one in seen]
        up = np.tile([0.0, 0.0, 1.0], (len(points), 1))
        wanted = illuminance(beams, points, up) @ LUMINANCE
        drawn = np.array([one["lux"] for one in seen]) @ LUMINANCE
        by_rays = illuminance(beams, points, up, caster) @ LUMINANCE
        lit = np.stack([drawn[:4] > 0.5 * wanted[:4], by_rays[4:] > 0.5 * wanted[4:]])
        low, high = np.where(lit, low, middle), np.where(lit, middle, high)
    assert high[0] == pytest.approx(high[1], abs=0.015)


@pytest.mark.timeout(240)
@pytest.mark.parametrize("bench", [(dunlin, "Standard")], indirect=True)
def test_the_canvas_shows_the_light_that_was_measured_white_balanced_and_bloom_takes_nothing_away(bench):
    bench.hold(zoom=60.0, red=0.8, green=0.7, blue=0.5, white=0.9)
    bench.wish("Depth")
    for kelvin in (6500.0, 4500.0, 3200.0):
        bench.program.edit("set show", white_k=kelvin, exposure_ev=10.0, bloom=1.0, background_high="#000000")
        seen = bench.probe([0.3, 0.2, 0.0])
        luminance = np.array(seen["lux"]) * np.array(seen["albedo"]) / math.pi
        wanted = toned(white_balance(kelvin) @ luminance * shown_per_cd(10.0))
        at = bench.person.stage("where", "main", [0.3, 0.2, 0.0])

        def close(at: Any = at, wanted: Any = wanted) -> bool:
            shown = linear(np.array(bench.person.stage("pixels", "main", at["x"], at["y"], 5)) / 255)
            # The pool has an edge: a little of what blooms is lost to the dark around it.
            return bool(np.all(np.abs(shown / wanted - 1) < 0.025))

        wait_for(close, f"the canvas at {kelvin} K")


def linear(srgb: np.ndarray) -> np.ndarray:
    return np.where(srgb <= 0.04045, srgb / 12.92, ((srgb + 0.055) / 1.055) ** 2.4)


def toned(light: np.ndarray) -> np.ndarray:
    """The tone curve for light that is neither far too bright nor outside of the colours that can be shown."""
    peak = float(light.max())
    squeezed = peak / (1 + peak) * 1.12 / (1.12 - 0.12 * math.exp(-peak))
    return light / peak * squeezed


class Many(Measured):
    """More lamps than a texel of the mask has bits for, of all three kinds of program."""

    def build(self, builder: Builder) -> None:
        do = builder.do
        do("set show", name="Many", haze_per_m=0.0, work_light_lx=0.0, exposure_ev=12.0, white_k=6500.0)
        do("add deck", name="Floor", width="24m", depth="24m", height="0.1m", z="-0.1m", finish="cloth")
        do("add deck", name="Block", width="2m", depth="1m", height="1.5m", x="3", y="2", finish="timber")
        wash, profile = builder.add_type(dunlin()), builder.add_type(heron())
        for k in range(150):
            place = (-9.0 + 1.25 * (k % 15), -9.0 + 2.0 * (k // 15), 6.0)
            head, mode = (profile, "Extended") if k % 5 == 0 else (wash, "Standard")
            lamp = do("place free", type=head, mode=mode, position=place, number=k + 1).select[0]
            said = {"dimmer": 0.4 + 0.004 * k, "zoom": 24.0, "tilt": 0.3 * math.sin(k), "pan": 0.4 * (k % 10) - 2.0}
            more = {"red": 1.0, "green": 0.7, "blue": 0.5} if k % 5 else {"frost": 0.5} if k % 10 else {"blade 1": 0.6}
            do("hold values", ids=[lamp], values={**said, **more})


@pytest.mark.timeout(300)
def test_of_many_lamps_none_is_lost_in_any_tile_of_the_picture(measured):
    many = measured(Many)
    beams = rig_of(many.show).beams({item.id: fixture.hands for item, fixture in many.show.fixtures()}, {})
    wait_for(lambda: many.person.stage("litCount", "live") == 150, "all lamps")
    blades = [f"blade{n}{angle}" for n in (1, 2, 3, 4) for angle in ("", "_angle")]
    many.until_it_shows(beams, TRAVEL + blades)
    many.look_from([3.0, -13.5, 4.2], [0.0, -1.5, 0.0])

    places = [[x, y, 0.0] for x, y in MANY]
    places += [[2.6, 1.6, 1.5], [3.7, 1.8, 1.5], [3.2, 1.5, 0.9]]

    def seen(every: int) -> list[Any]:
        many.person.driver.execute_script(f"window.zarfwrightStage.drawing.light.uniforms.uEvery.value = {every}")
        return many.probes(places)

    for tiled, every in zip(seen(0), seen(1), strict=True):
        # With every beam asked for at every pixel: the same, but for what half floats round off.
        assert tiled["lux"] == pytest.approx(every["lux"], rel=0.0025), tiled
        # And as core has it, where no pixel lies on a hard edge.
        wanted = illuminance(beams, [tiled["point"]], [tiled["normal"]])[0]
        assert tiled["lux"] == pytest.approx(wanted, rel=0.15, abs=20), tiled
