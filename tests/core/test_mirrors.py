"""Scanners: their light is sent on by the law of reflection, worked out here from the geometry tree itself."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zarfwright.core.aiming.solve import aim, direction_in_show, head_turn, lens, ways
from zarfwright.core.compiled import compiled
from zarfwright.core.dmx.encode import encode_raws
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.optics.photometry import beams_in_show
from zarfwright.core.picture.fields import COLUMN
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.space import Placement, about, inverse, quat, rotate, unit
from zarfwright.core.types.bodies import body_at_home
from zarfwright.core.types.chain import chain_of, chains_of
from zarfwright.core.types.model import BeamSource, Channel, ChannelFunction, FixtureType, Geometry, Mode, shifted
from zarfwright.core.types.shop.build import build
from zarfwright.core.types.shop.starters import starter
from zarfwright.library import heron, wader

TYPE = wader()
CHAIN = chain_of(TYPE, "Fine")
LENS, MIRROR = np.array([0.0, -0.296, -0.2]), np.array([0.0, -0.41, -0.2])
"""In the clamp's frame: the body lies along Y, its middle 0.2 m under the clamp."""
TO_MIRROR = np.array([0.0, -1.0, 0.0])


def normal_at(pan: float, tilt: float) -> np.ndarray:
    """The mirror's normal in the clamp's frame, by the matrices of the tree and nothing else."""
    body = TYPE.root(TYPE.mode("Fine"))
    turret = next(node for node in body.children if node.name == "Turret")
    cp, sp, ct, st_ = math.cos(pan), math.sin(pan), math.cos(tilt), math.sin(tilt)
    by_pan = np.array([[cp, -sp, 0], [sp, cp, 0], [0, 0, 1]])
    by_tilt = np.array([[1, 0, 0], [0, ct, -st_], [0, st_, ct]])
    turns = [np.asarray(node.matrix)[:3, :3] for node in (body, turret, turret.children[0])]
    return turns[0] @ turns[1] @ by_pan @ turns[2] @ by_tilt @ np.array([0.0, 0.0, -1.0])


def reflected(way: np.ndarray, normal: np.ndarray) -> np.ndarray:
    return way - 2 * (way @ normal) * normal


def test_a_scanner_at_home_shines_down_and_turns_its_light_twice_as_far_in_tilt():
    assert CHAIN.mirror
    place, direction = lens(CHAIN, 0.0, 0.0)
    assert place == pytest.approx(MIRROR)
    assert direction == pytest.approx([0, 0, -1], abs=1e-9)
    for degrees in (-30.0, 15.0):
        _, direction = lens(CHAIN, 0.0, math.radians(degrees))
        twice = math.radians(2 * degrees)
        assert direction == pytest.approx([0, math.sin(twice), -math.cos(twice)], abs=1e-9)
    # The mirror pans about the light that comes: what leaves it goes round once as far.
    _, direction = lens(CHAIN, math.radians(40.0), 0.0)
    assert direction == pytest.approx([-math.sin(math.radians(40)), 0, -math.cos(math.radians(40))], abs=1e-9)


@given(st.floats(-1.4, 1.4), st.floats(-0.6, 0.34), st.floats(-0.1, 0.1), st.floats(-0.1, 0.1))
def test_its_light_and_what_stands_in_its_gate_leave_by_the_law_of_reflection(pan, tilt, x, y):
    normal = normal_at(pan, tilt)
    assert normal @ TO_MIRROR < 0, "the light meets the front of the mirror"
    turn = head_turn(CHAIN, pan, tilt)
    assert rotate(turn, np.array([0.0, 0.0, -1.0])) == pytest.approx(reflected(TO_MIRROR, normal), abs=1e-9)
    # A ray through a point of the gate. The lens' own X is the clamp's; its Y is up before the body was laid down: -Z.
    # Pictures are put into the gate the other way up, so that the mirror shows them right.
    ray = unit(TO_MIRROR + np.array([x, 0.0, 0.0]) + np.array([0.0, 0.0, -1.0]) * -y)
    seen = rotate(inverse(turn), reflected(ray, normal))
    assert seen[:2] / -seen[2] == pytest.approx([x, y], abs=1e-9)


@given(st.floats(-1.4, 1.4), st.floats(-0.6, 0.34))
def test_its_cone_comes_from_the_image_of_the_lens_behind_the_mirror(pan, tilt):
    made = compiled([PatchRow("one", TYPE, "Fine", 1, 1)])
    frame = made.beams.frame(made.rig.neutral.copy())
    frame[0, COLUMN["pan"]], frame[0, COLUMN["tilt"]] = pan, tilt
    frame[0, COLUMN["field"]] = math.radians(14.5)
    beams = beams_in_show([CHAIN], [Placement()], frame, made.beams.peak_cd)
    source = LENS - TO_MIRROR * 0.06 / math.tan(math.radians(14.5) / 2)
    normal = normal_at(pan, tilt)
    image = source - 2 * ((source - MIRROR) @ normal) * normal
    assert beams.apex[0] == pytest.approx(image, abs=1e-6)


@given(st.tuples(st.floats(-9, 9), st.floats(-9, 9), st.floats(0, 3)), st.floats(-3, 3))
def test_it_is_aimed_within_5_mm_at_20_m_or_nothing_better_is_in_range(target, turn):
    mount = Placement((1.0, -2.0, 7.0), quat(about((0, 0, 1), turn)))
    got = aim([CHAIN], [mount], target, [[0.0, 0.0]])
    place, direction = direction_in_show(CHAIN, mount, got.pan[0], got.tilt[0])
    wanted = unit(np.asarray(target) - place)
    missed = math.atan2(float(np.linalg.norm(np.cross(direction, wanted))), float(direction @ wanted))
    for angle, (low, high) in ((got.pan[0], CHAIN.pan_range), (got.tilt[0], CHAIN.tilt_range)):
        assert low - 1e-9 <= angle <= high + 1e-9
    if got.reaches[0]:
        assert missed * 20 < 5e-3
        assert any(abs(way.tilt - got.tilt[0]) < 1e-4 for way in ways(CHAIN, mount, target))
        return
    assert missed == pytest.approx(got.missing[0], abs=1e-4)
    p, t = np.meshgrid(np.linspace(*CHAIN.pan_range, 61), np.linspace(*CHAIN.tilt_range, 41), indexing="ij")
    places, directions = lens(CHAIN, p, t)
    local = unit(rotate(inverse(mount.rotation), np.asarray(target) - np.asarray(mount.position)) - places)
    assert got.missing[0] < np.arccos(np.clip(np.sum(directions * local, axis=-1), -1, 1)).min() + 0.05


def test_what_it_is_aimed_by_goes_out_as_the_mirrors_own_angles_within_half_a_step():
    mount = Placement((0.0, 0.0, 6.0))
    (way,) = [way for way in ways(CHAIN, mount, (1.5, -3.0, 0.0)) if way.reaches]
    raws = encode_raws(TYPE, TYPE.mode("Fine"), {"pan": way.pan, "tilt": way.tilt})
    assert abs(raws[0] / 65535 * 170 - 85 - math.degrees(way.pan)) <= 170 / 65535 / 2 + 1e-9
    assert abs(raws[1] / 65535 * 55 - 35 - math.degrees(way.tilt)) <= 55 / 65535 / 2 + 1e-9


def test_a_scanner_in_a_show_is_aimed_shown_and_kept_out_of_its_own_way(bench):
    bench.show = replace(bench.show, types={**bench.show.types, "dunlin": TYPE})
    truss = bench.made("add truss", length="8m", start_trim="6m")
    (lamp,) = bench.do("place along rail", structure=truss, type="dunlin", count="1").select
    bench.do("aim at", ids=[lamp], point=[1.0, -2.5, 1.6])
    body, mount = bench.body(lamp), clamp_placement(bench.show, bench.body(lamp))
    place, direction = direction_in_show(CHAIN, mount, body.hands["pan"], body.hands["tilt"])
    assert direction == pytest.approx(unit(np.array([1.0, -2.5, 1.6]) - place), abs=1e-5)
    # At home the mirror leans before the lens: what of the body is below the light's end is only the mirror.
    at_home = np.concatenate([mesh.vertices for mesh in body_at_home(TYPE, "Fine")])
    assert at_home[:, 1].min() == pytest.approx(-0.41, abs=0.12)
    assert at_home[:, 2].max() < 0


def test_a_mirror_that_could_show_its_back_is_kept_to_its_front():
    body = TYPE.root(TYPE.mode("Fine"))
    wide = ChannelFunction("Tilt", "Tilt", 0, (-180.0, 180.0), 0)
    other = Mode("Wide", "Body", (*TYPE.mode("Fine").channels[:1], Channel("Mirror", (3, 4), (wide,))))
    chain = chain_of(replace(TYPE, geometries=(body,), modes=(other,)), "Wide")
    assert np.degrees(chain.tilt_range) == pytest.approx([-42.0, 132.0])


@pytest.mark.parametrize("kind", ["mirror scanner", "barrel mirror"])
def test_scanners_of_the_shop_are_mirrors_and_rest_straight_down(kind):
    made = build(starter(kind))
    for mode in made.modes:
        chain = chain_of(made, mode.name)
        assert chain.mirror
        rest = compiled([PatchRow("one", made, mode.name, 1, 1)]).rig.home
        assert np.degrees(rest[0, :2]) == pytest.approx([0, 0], abs=0.4)
        _, direction = lens(chain, 0.0, 0.0)
        assert direction == pytest.approx([0, 0, -1], abs=1e-9)


def test_light_that_does_not_meet_what_turns_stays_where_it_is():
    beside = Geometry(
        "Lens", "Beam", None, shifted(0.1, 0, -0.2), BeamSource("Spot", "LED", 1e3, 6e3, 10, 12, 0.05, 60)
    )
    body = TYPE.root(TYPE.mode("Fine"))
    tree = replace(body, children=(body.children[0], beside))
    chain = chain_of(replace(TYPE, geometries=(tree,)), "Fine")
    assert not chain.mirror
    assert not chain.moves


def test_a_lamp_in_the_base_above_a_head_is_not_taken_to_shine_on_a_mirror():
    kind = heron()
    base = kind.root(kind.mode("Standard"))
    glow = Geometry(
        "Glow", "Beam", None, shifted(0, 0, 0), BeamSource("Wash", "LED", 200.0, 6500.0, 60.0, 70.0, 0.05, 9)
    )
    chains = chains_of(replace(kind, geometries=(replace(base, children=(*base.children, glow)),)), "Standard")
    assert [(chain.moves, chain.mirror) for chain in chains] == [(True, False), (False, False)]


def test_each_cell_of_a_batten_goes_by_its_own_axis():
    spot = BeamSource("Spot", "LED", 1000.0, 6000.0, 10.0, 12.0, 0.05, 60.0)

    def head(k: int) -> Geometry:
        cell = Geometry(f"Lens {k}", "Beam", None, shifted(0, 0, -0.1), spot)
        return Geometry(f"Head {k}", "Axis", None, shifted(0.3 * k, 0, -0.1), children=(cell,))

    def tilt(k: int, reach: float) -> Channel:
        return Channel(f"Head {k}", (k,), (ChannelFunction("Tilt", "Tilt", 0, (-reach, reach), 128),))

    mode = Mode("All", "Bar", (tilt(1, 45.0), tilt(2, 90.0)))
    bar = FixtureType("Bar", "Nobody", "5B6E1F0A-7C1D-4E0B-9A55-0E3B6E0C1AFF",
                      (Geometry("Bar", children=(head(1), head(2))),), (mode,))  # fmt: skip
    first, second = chains_of(bar, "All")
    assert (first.tilt_node, second.tilt_node) == ("Head 1", "Head 2")
    assert np.degrees(second.tilt_range) == pytest.approx([-90, 90])
    assert lens(second, 0.0, math.pi / 2)[0] == pytest.approx([0.6, 0.1, -0.1])


def test_a_head_is_no_mirror():
    assert not any(chain.mirror for mode in heron().modes for chain in chains_of(heron(), mode.name))
