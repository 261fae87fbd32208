"""The chain of a moving head: mount -> pan axis -> tilt axis -> lens, from the geometry tree of a mode.

In its zero pose a head shines along -Z of the mount frame; head = Rz(pan) Rx(tilt). Of a scanner it is the mirror that
turns: the light of a lens that stays travels along -Z of the pan axis' frame and meets the mirror on its tilt axis. A
mirror looks along -Z of its own geometry, as a head shines along it.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from functools import cache

import numpy as np

from zarfwright.core.space import (
    NO_TURN,
    ORIGIN,
    Floats,
    Quat,
    Vec,
    about,
    from_matrix,
    inverse,
    multiply,
    quat,
    rotate,
    vec,
)
from zarfwright.core.types.model import BeamSource, Channel, FixtureType, Geometry, Mode

Z = (0.0, 0.0, 1.0)
DARK = BeamSource("None", "None", 0.0, 6000.0, 10.0, 10.0, 0.0, 0.0)
"""What stands for the beam of a type without a lens: a hazer, a fan."""


@dataclass(frozen=True)
class Chain:
    """Offsets in metres: mount to pan axis, pan axis to tilt axis, tilt axis to lens; ranges in radians.

    The head's frame is mount . mount_turn; all offsets are in frames of the chain, so that a lens is at
    pan_offset + Rz(pan + pan_zero) (tilt_offset + Rx(tilt + tilt_zero) lens_offset) in it, and shines along
    Rz Rx lens_turn (0, 0, -1).

    Of a `mirror` pan and tilt are those of the mirror. Light that comes along -Z and meets it at p = pan + pan_zero and
    t = tilt + tilt_zero leaves along Rz(p) Rx(2t - pi) (0, 0, -1), and what stands in the gate is seen turned by p: its
    "lens" is where the light meets the mirror, on the tilt axis.
    """

    pan_offset: Vec
    tilt_offset: Vec
    lens_offset: Vec
    pan_range: tuple[float, float]
    tilt_range: tuple[float, float]
    beam: BeamSource
    pan_node: str | None
    tilt_node: str | None
    path: tuple[str, ...] = ()
    """The names of the geometries from the tree's root to the lens: a channel of any of them drives this beam."""
    mount_turn: Quat = NO_TURN
    lens_turn: Quat = NO_TURN
    pan_zero: float = 0.0
    tilt_zero: float = 0.0
    mirror: bool = False

    @property
    def moves(self) -> bool:
        return self.pan_node is not None or self.tilt_node is not None


def _physical_range(channel: Channel | None, attribute: str) -> tuple[float, float]:
    if channel is None or channel.attribute != attribute:
        return 0.0, 0.0
    ends = [end for function in channel.functions if function.attribute == attribute for end in function.physical]
    return float(np.radians(min(ends))), float(np.radians(max(ends)))


def placed(nodes: list[Geometry]) -> tuple[Floats, Floats]:
    """Offset (3,) and turn (4,) of the last of some nodes against the frame of the first one's parent."""
    matrix = np.eye(4)
    for node in nodes:
        matrix = matrix @ np.asarray(node.matrix)
    return np.asarray(matrix[:3, 3]), from_matrix(matrix[:3, :3])


def _angles(turn: Floats) -> tuple[float, float]:
    """How far a turn between pan and tilt axis turns about either: R = Rz(a) Rx(b), what is left over is dropped."""
    x, z = rotate(turn, np.array([1.0, 0.0, 0.0])), rotate(turn, np.array([0.0, 0.0, 1.0]))
    a = float(np.arctan2(x[1], x[0]))
    across = np.array([-np.sin(a), np.cos(a), 0.0])
    return a, float(np.arctan2(-(z @ across), z[2]))


YOKE_PAN, YOKE_TILT = (-math.pi, math.pi), (-math.radians(120.0), math.radians(120.0))
"""How far a yoke is turned and tilted by hand."""


def _by_hand(path: list[Geometry]) -> Chain:
    """What does not move by itself: its yoke turns about the clamp and tilts about the place of its body's root."""
    pivot = np.asarray(path[0].matrix)[:3, 3]
    lens, lens_turn = placed(path)
    return Chain(
        pan_offset=ORIGIN,
        tilt_offset=vec(pivot),
        lens_offset=vec(lens - pivot),
        pan_range=YOKE_PAN,
        tilt_range=YOKE_TILT,
        beam=path[-1].beam or DARK,
        pan_node=None,
        tilt_node=None,
        path=tuple(node.name for node in path),
        lens_turn=quat(lens_turn),
    )


class _ByIdentity:
    """A key for the cache: types are large values, hashing one whole costs more than the chain."""

    def __init__(self, value: FixtureType) -> None:
        self.value = value

    def __hash__(self) -> int:
        return id(self.value)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _ByIdentity) and other.value is self.value


TURNING = ("Pan", "PanRotate", "Tilt", "TiltRotate")


def _channel(mode: Mode, attribute: str, names: Collection[str]) -> Channel | None:
    """What turns one of these geometries about an axis: its angle, or else how fast it turns."""
    own = [channel for channel in mode.channels if channel.geometry in names]
    for wanted in (attribute, f"{attribute}Rotate"):
        for channel in own:
            if channel.attribute == wanted:
                return channel
    return None


def _chain(mode: Mode, path: list[Geometry], others: Sequence[list[Geometry]]) -> Chain:
    """The chain of a beam by its `path` from the root; `others` are the paths to all geometries."""
    names = [node.name for node in path]
    axes = {channel.geometry for channel in mode.channels if channel.attribute in TURNING}
    if not axes & set(names):
        return (_at_mirrors(mode, path, others) if axes else None) or _by_hand(path)
    pan, tilt = _channel(mode, "Pan", names), _channel(mode, "Tilt", names)
    pan_at = names.index(pan.geometry) if pan else None
    tilt_at = names.index(tilt.geometry) if tilt else None
    first = pan_at if pan_at is not None else (tilt_at if tilt_at is not None else len(path) - 1)
    second = tilt_at if tilt_at is not None and tilt_at >= first else first
    to_pan, mount_turn = placed(path[: first + 1])
    to_tilt, between = placed(path[first + 1 : second + 1])
    to_lens, lens_turn = placed(path[second + 1 :])
    pan_zero, tilt_zero = _angles(between)
    return Chain(
        pan_offset=vec(rotate(inverse(mount_turn), to_pan)),
        tilt_offset=vec(rotate(inverse(about(Z, pan_zero)), to_tilt)),
        lens_offset=vec(to_lens),
        pan_range=_physical_range(pan, "Pan"),
        tilt_range=_physical_range(tilt, "Tilt"),
        beam=path[-1].beam or DARK,
        pan_node=names[pan_at] if pan_at is not None else None,
        tilt_node=names[tilt_at] if tilt_at is not None else None,
        path=tuple(names),
        mount_turn=quat(mount_turn),
        lens_turn=quat(lens_turn),
        pan_zero=pan_zero,
        tilt_zero=tilt_zero,
    )


MIRROR_OFF_M, MIRROR_OFF_RAD = 0.02, math.radians(2.0)
"""By how much light may miss the middle of a mirror, and the line of its pan axis, and still be taken to meet it."""
GRAZING_RAD = math.radians(3.0)
"""Light that meets a mirror flatter than this is not turned by it any more."""


def _at_mirrors(mode: Mode, path: list[Geometry], others: Sequence[list[Geometry]]) -> Chain | None:
    """The chain of a beam that meets a mirror: something before it that pans and tilts, and that it is no part of."""
    tilting = {channel.geometry for channel in mode.channels if channel.attribute in ("Tilt", "TiltRotate")}
    found = (_at_mirror(mode, path, to_mirror) for to_mirror in others if to_mirror[-1].name in tilting)
    return next((chain for chain in found if chain is not None), None)


def _at_mirror(mode: Mode, path: list[Geometry], to_mirror: list[Geometry]) -> Chain | None:
    names = [node.name for node in to_mirror]
    pan, tilt = _channel(mode, "Pan", names), _channel(mode, "Tilt", names)
    if pan is None or tilt is None or tilt.geometry != names[-1] or pan.geometry not in names[:-1]:
        return None
    if any(node.beam is not None for node, _ in to_mirror[-1].walk()):
        # What shines itself is a head, whatever else shines on its back.
        return None
    first = names.index(pan.geometry)
    to_pan, mount_turn = placed(to_mirror[: first + 1])
    to_tilt, between = placed(to_mirror[first + 1 :])
    pan_zero, tilt_zero = _angles(between)
    lens, turn = placed(path)
    # In the frame of the pan axis, where the light should come along -Z from above the mirror.
    came = rotate(inverse(mount_turn), rotate(turn, np.array([0.0, 0.0, -1.0])))
    aside = to_tilt - rotate(inverse(mount_turn), lens - to_pan)
    far = float(aside @ came)
    off = np.linalg.norm(aside - far * came)
    if far <= 0 or float(off) > MIRROR_OFF_M or float(np.hypot(came[0], came[1])) > MIRROR_OFF_RAD or came[2] > 0:
        return None
    facing, front = tilt_zero % (2 * math.pi), math.pi / 2 - GRAZING_RAD
    low, high = _physical_range(tilt, "Tilt")
    low, high = max(low, math.pi - facing - front), min(high, math.pi - facing + front)
    if low > high:
        return None
    beam = path[-1].beam or DARK
    wider = far * math.tan(math.radians(min(beam.field_angle_deg, MIRRORED_FIELD_DEG)) / 2)
    return Chain(
        pan_offset=vec(rotate(inverse(mount_turn), to_pan)),
        tilt_offset=vec(rotate(inverse(about(Z, pan_zero)), to_tilt)),
        lens_offset=ORIGIN,
        pan_range=_physical_range(pan, "Pan"),
        tilt_range=(low, high),
        # As wide as the light is where it meets the mirror: seen from there, it comes from the lens' image behind it.
        beam=replace(beam, lens_radius_m=beam.lens_radius_m + wider),
        pan_node=pan.geometry,
        tilt_node=tilt.geometry,
        path=tuple(dict.fromkeys([*names, *(node.name for node in path)])),
        mount_turn=quat(mount_turn),
        lens_turn=quat(multiply(inverse(mount_turn), turn)),
        pan_zero=pan_zero,
        tilt_zero=facing,
        mirror=True,
    )


MIRRORED_FIELD_DEG = 60.0
"""No mirror catches a wider beam."""


@cache
def _chains(fixture_type_key: _ByIdentity, mode_name: str) -> tuple[Chain, ...]:
    fixture_type = fixture_type_key.value
    mode = fixture_type.mode(mode_name)
    nodes = list(fixture_type.root(mode).walk())
    lenses = [[*above, node] for node, above in nodes if node.beam is not None]
    # Without a lens nothing shines, but the body is there, and whatever moves of it.
    deepest = max(([*above, node] for node, above in nodes), key=len)
    paths = [[*above, node] for node, above in nodes]
    return tuple(_chain(mode, path, paths) for path in lenses or [deepest])


def chains_of(fixture_type: FixtureType, mode_name: str) -> tuple[Chain, ...]:
    """A chain for each beam (cell) of a type in a mode, in the tree's order; a dark one where it has no lens."""
    return _chains(_ByIdentity(fixture_type), mode_name)


def turn_apart(chains: Sequence[Chain]) -> bool:
    """Whether the cells of a type turn each by itself."""
    first = chains[0]
    return any((chain.pan_node, chain.tilt_node) != (first.pan_node, first.tilt_node) for chain in chains[1:])


def chain_of(fixture_type: FixtureType, mode_name: str) -> Chain:
    """The chain of the first beam: what aims and hangs by it."""
    return chains_of(fixture_type, mode_name)[0]
