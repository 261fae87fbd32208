"""Lux against closed forms: inverse square, cosine law, flux, stops in the gate, shadows, and one bounce."""

import math

import numpy as np
import pytest

from tests.conftest import Workbench
from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.lighting import caster_of, rig_of
from zarfwright.core.mesh import box
from zarfwright.core.optics.beam import RIM_SHARP, hot_spot, peak_candela
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.gate import blades, gobo
from zarfwright.core.optics.photometry import beams_in_show, bounced, contribution, illuminance, landing, overlapping
from zarfwright.core.picture import beam_table
from zarfwright.core.raycast import Caster
from zarfwright.core.scene import Solid
from zarfwright.core.space import Placement
from zarfwright.core.types.chain import chains_of
from zarfwright.formats.ies import read_ies
from zarfwright.library import bittern, dunlin, heron, teal

UP = (0.0, 0.0, 1.0)
HUNG = Placement((0.0, 0.0, 10.0))


def rig(fixture_type=None, mode="Extended", mount=HUNG, masks=None, **values):
    """The beams of one fixture under values by feature, all else at home."""
    fixture_type = fixture_type or heron()
    rows = [PatchRow("a", fixture_type, mode, None, None)]
    features = compile_rig(rows).home.copy()
    for name, value in {"dimmer": 1.0, "pan": 0.0, "tilt": 0.0, **values}.items():
        features[:, INDEX[name.replace("_", " ")]] = value
    table = beam_table(rows)
    chains = chains_of(fixture_type, mode)
    frame = table.frame(features)
    return beams_in_show(chains, [mount] * len(chains), frame, table.peak_cd, masks, table.prisms)


def lux(beams, points, normals=UP, caster=None):
    places = np.atleast_2d(np.asarray(points, dtype=float))
    return illuminance(beams, places, np.broadcast_to(normals, places.shape), caster) @ LUMINANCE


def floor_flux(beams, half_m=9.0, step=0.04, z=0.0):
    """Lumen that reach the floor: lux summed over a grid."""
    axis = np.arange(-half_m, half_m, step) + step / 2
    x, y = np.meshgrid(axis, axis)
    return lux(beams, np.stack([x.ravel(), y.ravel(), np.full(x.size, z)], axis=1)).sum() * step * step


def test_the_axis_gets_candela_over_distance_squared_from_the_virtual_apex():
    beams = rig(zoom=17.0)
    candela = peak_candela(21_000, 14, 17, True)
    for z in (0.0, 4.0, 7.0):
        d = beams.apex[0, 2] - z
        assert lux(beams, (0, 0, z))[0] == pytest.approx(candela / d**2, rel=3e-3)
    assert beams.apex[0, 2] - beams.lens[0, 2] == pytest.approx(0.075 / math.tan(math.radians(8.5)), rel=1e-5)


def test_a_face_turned_away_gets_the_cosine():
    beams = rig(zoom=17.0)
    full = lux(beams, (0, 0, 0))[0]
    for degrees in (20, 45, 70):
        a = math.radians(degrees)
        assert lux(beams, (0, 0, 0), (math.sin(a), 0, math.cos(a)))[0] == pytest.approx(full * math.cos(a), rel=1e-6)
    assert lux(beams, (0, 0, 0), (0, 0, -1))[0] == 0


@pytest.mark.parametrize(("zoom", "share"), [(12.0, 1.0), (24.0, 1.0), (38.0, 1.0)])
def test_zoom_keeps_the_flux(zoom, share):
    assert floor_flux(rig(zoom=zoom)) == pytest.approx(21_000 * share, rel=0.02)


def test_a_wash_gives_its_flux_with_a_soft_edge():
    assert floor_flux(rig(dunlin(), "Standard", zoom=30.0, white=1.0, red=1.0, green=1.0, blue=1.0)) == pytest.approx(
        9_000, rel=0.02
    )


def test_a_soft_pool_is_half_at_the_beam_angle_and_a_tenth_at_the_field_angle():
    beams = rig(dunlin(), "Standard", zoom=38.0, white=1.0)
    d = beams.apex[0, 2]

    def candela(t):
        # On a ball about the apex, facing it: distance and incidence are the same everywhere.
        way = np.array([math.sin(t), 0, -math.cos(t)])
        return lux(beams, beams.apex[0] + way * d, -way)[0]

    assert candela(math.radians(11)) / candela(0.0) == pytest.approx(0.5, rel=1e-3)
    assert candela(math.radians(19)) / candela(0.0) == pytest.approx(0.1, rel=1e-3)


def test_the_iris_stops_the_light_at_its_radius_and_changes_nothing_inside():
    wide, stopped = rig(zoom=12.0), rig(zoom=12.0, iris=0.5)
    rim = wide.apex[0, 2] * math.tan(math.radians(6))
    assert lux(stopped, (0.4 * rim, 0, 0)) == pytest.approx(lux(wide, (0.4 * rim, 0, 0)))
    assert lux(stopped, (0.55 * rim, 0, 0)) == pytest.approx([0], abs=1e-6)
    h = hot_spot(12.0 * 14 / 17, 12.0)
    inside = 0.25 * (1 - h * 0.125) / (1 - h * 0.5)
    assert floor_flux(stopped) / floor_flux(wide) == pytest.approx(inside, rel=0.02)


def test_a_blade_cuts_a_straight_line_and_turns_about_its_edge():
    u = np.array([[0.0, 0.45], [0.0, 0.55], [0.7, 0.45], [0.7, 0.55], [0.7, 0.7]])
    straight = blades(u, (0.5, 0, 0, 0), (0, 0, 0, 0), 0.0, RIM_SHARP)
    assert straight.tolist() == [1, 0, 1, 0, 0]
    # Turned by 20 degrees about the middle of its edge: the line falls off to one side.
    slanted = blades(u, (0.5, 0, 0, 0), (math.radians(20), 0, 0, 0), 0.0, RIM_SHARP)
    assert 0.5 + math.tan(math.radians(20)) * 0.7 > 0.74
    assert slanted.tolist() == [1, 0, 1, 1, 1]
    # The whole set by a quarter turn: the top blade has come to the left.
    turned = blades(np.array([[-0.6, 0.0], [0.0, 0.6]]), (0.5, 0, 0, 0), (0, 0, 0, 0), math.pi / 2, RIM_SHARP)
    assert turned.tolist() == [0, 1]


def test_a_gobo_is_upright_as_seen_along_the_beam_and_turns_with_its_angle():
    mask = np.zeros((256, 256), dtype=np.uint8)
    mask[:100, :] = 255  # the upper part is open
    assert gobo(np.array([[0.0, 0.6], [0.0, -0.6]]), mask, 0.0).tolist() == [1, 0]
    assert gobo(np.array([[-0.6, 0.0], [0.6, 0.0]]), mask, math.pi / 2).tolist() == [1, 0]
    assert gobo(np.array([[0.0, -0.6]]), None, 0.0).tolist() == [1]


def test_two_gobos_multiply():
    left, top = np.zeros((256, 256), np.uint8), np.zeros((256, 256), np.uint8)
    left[:, :128], top[:128, :] = 255, 255
    beams = rig(zoom=30.0, gobo_slot=2.0, gobo_2_slot=2.0, masks=dict.fromkeys(range(1, 9), left))
    first, second = int(beams.values(0)["gobo"]), int(beams.values(0)["gobo2"])
    assert first != second > 0
    crossed = rig(zoom=30.0, gobo_slot=2.0, gobo_2_slot=2.0, masks={first: left, second: top})
    # Hung and shining down, the head's X is the show's X and its Y the show's Y.
    assert lux(crossed, (-0.6, 0.6, 0))[0] > 100
    assert lux(crossed, [(0.6, 0.6, 0), (-0.6, -0.6, 0), (0.6, -0.6, 0)]) == pytest.approx([0, 0, 0], abs=1e-6)


def test_a_prism_makes_copies_with_a_share_of_the_flux_each():
    plain, split = rig(zoom=10.0), rig(zoom=10.0, prism_slot=2.0)
    assert floor_flux(split) == pytest.approx(floor_flux(plain), rel=0.02)
    rim = plain.apex[0, 2] * math.tan(math.radians(5))
    # Three copies on a ring of 0.55: where only one lies, a third of the light.
    lone = lux(split, (0.55 * rim + 0.9 * rim, 0, 0))[0]
    assert lone / lux(plain, (0.9 * rim, 0, 0))[0] == pytest.approx(1 / 3, rel=0.03)


def test_frost_spreads_the_light_and_keeps_most_of_it():
    clear, frosted = rig(zoom=15.0), rig(zoom=15.0, frost=1.0)
    assert lux(frosted, (0, 0, 0))[0] < 0.6 * lux(clear, (0, 0, 0))[0]
    rim = clear.apex[0, 2] * math.tan(math.radians(9))
    assert lux(clear, (rim, 0, 0))[0] == pytest.approx(0, abs=1e-6)
    assert lux(frosted, (rim, 0, 0))[0] > 100
    assert floor_flux(frosted) == pytest.approx(21_000, rel=0.03)


def test_every_cell_of_a_batten_has_a_beam_of_its_own():
    beams = rig(teal(), "Cells", white=1.0)
    assert len(beams.lens) == 12
    assert np.ptp(beams.lens[:, 0]) == pytest.approx(0.88)
    one = rig(teal(), "Cells", white=1.0)
    one.frame[np.arange(12) != 4, 4:7] = 0
    assert one.lit().tolist() == [4]
    at = (*one.lens[4, :2], 0.0)
    assert lux(beams, at)[0] > 5 * lux(one, at)[0] > 0


def test_a_beam_with_a_web_shines_by_it_from_the_lens_plane():
    fixture_type = bittern()
    web, _ = read_ies(fixture_type.ies["Lens"], "Lens.ies")
    rows = [PatchRow("a", fixture_type, "Dimmer", None, None)]
    features = compile_rig(rows).home.copy()
    features[:, INDEX["dimmer"]] = 0.5
    table = beam_table(rows)
    chains = chains_of(fixture_type, "Dimmer")
    beams = beams_in_show(chains, [HUNG], table.frame(features), table.peak_cd, webs={1: web})
    d = beams.lens[0, 2]
    assert lux(beams, (0, 0, 0))[0] == pytest.approx(0.5 * web.peak_cd / d**2, rel=1e-2)
    t = math.radians(20)
    aside = lux(beams, (d * math.tan(t), 0, 0))[0]
    assert aside == pytest.approx(0.5 * web.toward(t, 0.0) * math.cos(t) ** 3 / d**2, rel=1e-2)


def slab(name, size, centre, albedo=(0.5, 0.5, 0.5)):
    return Solid(name, "deck", box(size), Placement(centre), albedo)


def test_what_stands_in_the_way_casts_a_shadow_and_the_axis_lands_on_it():
    beams = rig(zoom=30.0)
    caster = Caster([slab("floor", (20, 20, 0.1), (0, 0, -0.05)), slab("lid", (1, 1, 0.1), (0, 0, 5.0))])
    free, hidden = lux(beams, [(1.6, 0, 0), (0, 0, 0)], caster=caster)
    assert hidden == 0
    assert free == pytest.approx(lux(beams, (1.6, 0, 0))[0])
    place = landing(beams, 0, caster)
    assert place.thing == "lid"
    assert place.point == pytest.approx((0, 0, 5.05), abs=1e-4)
    assert place.field_m == pytest.approx(2 * (beams.apex[0, 2] - 5.05) * math.tan(math.radians(15)), rel=1e-4)
    assert place.lux == pytest.approx(lux(beams, (0, 0, 5.05))[0], rel=1e-3)


def test_one_bounce_off_a_pool_is_the_sum_of_its_rings():
    beams = rig(zoom=20.0)
    floor = Caster([slab("floor", (40, 40, 0.1), (0, 0, -0.05), (0.8, 0.8, 0.8))])
    radius = beams.apex[0, 2] * math.tan(math.radians(10))
    r = (np.arange(400) + 0.5) / 400 * radius * 1.02
    luminance = 0.8 * lux(beams, np.stack([r, 0 * r, 0 * r], axis=1)) / math.pi
    for d in (1.0, 2.5):
        # Rings of the disc, each with its own luminance: dE = L . 2 pi r dr . d^2 / (r^2 + d^2)^2.
        wanted = (luminance * 2 * math.pi * r * d * d / (r * r + d * d) ** 2).sum() * (r[1] - r[0])
        got = bounced(beams, [(0, 0, d)], [(0, 0, -1)], floor, rays=8192)[0] @ LUMINANCE
        assert got == pytest.approx(wanted, rel=0.03)


def test_nothing_lit_gives_no_light_and_an_empty_stage_lets_all_through():
    beams = rig(dimmer=0.0)
    assert lux(beams, (0, 0, 0)).tolist() == [0]
    empty = Caster([])
    assert lux(rig(zoom=20.0), (0, 0, 0), caster=empty)[0] > 0
    assert landing(rig(), 0, empty) is None


def test_the_field_on_a_slanted_face_is_longer_the_way_that_it_slants():
    bench = Workbench()
    head = bench.made("place free", type="heron", mode="Standard", position=[0, 0, 8])
    bench.made("add deck", name="Floor", width="60m", depth="60m", height="0.1m", z="0")
    values = {head: {"dimmer": 1.0, "zoom": 20.0, "pan": 0.0, "tilt": 0.0}}
    caster, half = caster_of(bench.show), math.radians(10.0)
    beams = rig_of(bench.show).beams(values, {})
    down = landing(beams, 0, caster)
    apart = float(beams.apex[0][2]) - 0.1
    assert down.along_m == pytest.approx(down.across_m) == pytest.approx(2 * apart * math.tan(half), rel=1e-6)
    # The mean is the flux on the face over its area: nothing of the light is lost on the way.
    flux = 0.0
    for t in (np.arange(400) + 0.5) / 400 * half:
        place = beams.apex[0] + apart / math.cos(t) * np.array([math.sin(t), 0.0, -math.cos(t)])
        lux = contribution(beams, 0, place[None], np.array([[0.0, 0.0, 1.0]]))[0] * float(
            beams.colour_cd(0) @ LUMINANCE
        )
        radius, step = apart * math.tan(t), apart / math.cos(t) ** 2 * half / 400
        flux += lux * 2 * math.pi * radius * step
    assert down.mean_lux == pytest.approx(flux / (math.pi * (apart * math.tan(half)) ** 2), rel=0.05)
    beams = rig_of(bench.show).beams({head: {**values[head], "tilt": math.radians(50.0)}}, {})
    slant = landing(beams, 0, caster)
    height = float(beams.apex[0][2]) - 0.1
    near, far = (height * math.tan(math.radians(50.0) + s * half) for s in (-1, 1))
    assert slant.along_m == pytest.approx(far - near, rel=1e-6)
    assert slant.across_m < slant.along_m
    assert slant.mean_lux < down.mean_lux
    other = bench.made("place free", type="heron", mode="Standard", position=[0.5, 0, 8])
    both = rig_of(bench.show).beams({**values, other: values[head]}, {})
    assert overlapping(both, 0, np.array([0.0, 0.0, 0.1]), [0, 1]) == [1]
    assert overlapping(both, 0, np.array([-1.2, 0.0, 0.1]), [0, 1]) == []
