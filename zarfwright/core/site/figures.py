"""People: a mesh for each pose and variant at one height, near and far: a crowd is few draws and not all alike.

Own frame: on the floor at the origin, facing +Y. A figure is the mesh scaled to its height. Bodies are skins over limbs
(core/smooth.py), one for each garment, so that hems, cuffs and collars are where one ends and the other goes on.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np

from zarfwright.core.mesh import DARKER, HAIR, SKIN, Mesh, box, coloured, join
from zarfwright.core.smooth import Limb, Skin, skin_mesh
from zarfwright.core.space import Floats, Vec, unit, vec

HEIGHT_M = 1.72
SEAT_M = 0.45
VARIANTS = 6
"""How many ways of holding oneself, of clothing and of hair there are for each pose."""
SEATED = ("sitting", "playing")
POSES = ("standing", "sitting", "playing", "arms up")
UPPER_ARM_M, FOREARM_M = 0.29, 0.26
HEM_M = 0.52
"""Of skirts and coats, standing."""

# Where hands are by pose and variant, from the shoulder, in metres (out to the side, forward, up): right, then left.
_HANDS: dict[str, tuple[tuple[Vec, Vec], ...]] = {
    "standing": (
        ((0.07, 0.05, -0.53), (0.07, 0.07, -0.53)),
        ((-0.17, 0.22, -0.24), (-0.2, 0.2, -0.22)),
        ((-0.13, 0.18, -0.46), (-0.13, 0.2, -0.47)),
        ((0.08, 0.06, -0.52), (-0.04, 0.27, -0.16)),
        ((0.02, -0.12, -0.45), (0.02, -0.12, -0.44)),
        ((0.1, 0.02, -0.35), (0.08, 0.04, -0.53)),
    ),
    "sitting": (
        ((-0.06, 0.32, -0.37), (-0.06, 0.34, -0.37)),
        ((-0.16, 0.22, -0.24), (-0.18, 0.22, -0.22)),
        ((-0.14, 0.3, -0.36), (-0.13, 0.28, -0.35)),
        ((-0.02, 0.3, -0.36), (-0.1, 0.26, -0.06)),
        ((0.02, 0.36, -0.33), (0.02, 0.3, -0.37)),
        ((-0.12, 0.26, -0.1), (-0.12, 0.26, -0.11)),
    ),
    "playing": (
        ((-0.12, 0.3, -0.16), (-0.02, 0.34, -0.2)),
        ((0.06, 0.34, -0.02), (-0.16, 0.26, -0.24)),
        ((-0.14, 0.36, -0.28), (-0.14, 0.36, -0.26)),
        ((0.16, 0.26, 0.04), (-0.1, 0.28, -0.1)),
        ((-0.1, 0.34, -0.08), (-0.12, 0.3, -0.3)),
        ((0.1, 0.3, -0.2), (-0.12, 0.3, -0.12)),
    ),
    "arms up": (
        ((0.06, 0.06, 0.5), (0.04, 0.08, 0.48)),
        ((0.16, 0.0, 0.46), (0.18, 0.02, 0.44)),
        ((-0.06, 0.12, 0.47), (-0.06, 0.14, 0.47)),
        ((0.04, 0.1, 0.5), (0.1, 0.24, 0.3)),
        ((0.2, 0.1, 0.38), (0.08, 0.05, -0.53)),
        ((-0.02, 0.3, 0.36), (-0.02, 0.3, 0.34)),
    ),
}
_TURN = (0.0, 0.28, -0.2, 0.12, -0.34, 0.05)
"""Of the head, radians."""
_NOD = (0.0, 0.015, -0.012, 0.02, 0.0, -0.018)
_SWAY = (0.0, 0.022, -0.022, 0.012, 0.0, -0.026)
"""How far the hips are over one leg."""
_SPREAD = (0.0, 0.02, 0.05, -0.015, 0.07, 0.03)
_CUT = ("jacket", "jacket", "skirt", "shirt", "coat", "pullover")
_HAIR = ("short", "long", "bun", "short", "none", "long")


@dataclass(frozen=True, eq=False)
class _Body:
    """Where the joints of a figure are, in its own frame: right (+x) first where there are two."""

    pelvis: Floats
    chest: Floats
    neck: Floats
    head: Floats
    facing: float
    hips: tuple[Floats, Floats]
    knees: tuple[Floats, Floats]
    ankles: tuple[Floats, Floats]
    shoulders: tuple[Floats, Floats]
    elbows: tuple[Floats, Floats]
    hands: tuple[Floats, Floats]


def _elbow(shoulder: Floats, hand: Floats, side: float) -> Floats:
    """Where the elbow is for a hand that is there: outward, behind and below the straight line."""
    way = hand - shoulder
    far = min(float(np.linalg.norm(way)), UPPER_ARM_M + FOREARM_M - 1e-3)
    along = unit(way)
    share = (UPPER_ARM_M**2 - FOREARM_M**2 + far**2) / (2 * far)
    off = np.sqrt(max(UPPER_ARM_M**2 - share**2, 0.0))
    hint = np.array([side * 0.7, -0.5, -0.6 if hand[2] < shoulder[2] else 0.2])
    return np.asarray(shoulder + along * share + off * unit(hint - along * float(hint @ along)))


def _body(pose: str, variant: int) -> _Body:
    sits = pose in SEATED
    sway, spread = _SWAY[variant], _SPREAD[variant]
    pelvis = np.array([0.0, -0.06, SEAT_M + 0.1]) if sits else np.array([sway, 0.0, 0.93])
    lean = (0.02, 0.06, -0.02, 0.1, -0.04, 0.0)[variant] if sits else 0.01
    chest = pelvis + [-0.4 * sway, lean * 0.6, 0.32]
    neck = pelvis + [-0.5 * sway, lean, 0.545]
    head = np.array([neck[0] + 0.2 * sway, neck[1] + 0.015 + _NOD[variant], neck[2] + 0.135])
    hips, knees, ankles, shoulders, elbows, hands = [], [], [], [], [], []
    for k, side in enumerate((1.0, -1.0)):
        hip = pelvis + [side * 0.088, 0.0, -0.03]
        if sits:
            wide = 0.1 + spread * 0.8
            knee = np.array([side * wide, 0.4, SEAT_M + 0.07])
            crossed = variant == 4
            foot = (
                (-0.4 * side * wide, 0.52 + 0.08 * k)
                if crossed
                else (side * (wide + 0.01), 0.39 - 0.1 * (variant == 5))
            )
            ankle = np.array([*foot, 0.085])
        else:
            # The leg that carries less is a little bent and a little forward.
            free = sway * side < -1e-6
            ankle = np.array([side * (0.095 + spread), 0.03 * free, 0.085])
            knee = (hip + ankle) / 2 + [0.0, 0.055 if free else 0.015, 0.02]
        shoulder = np.array([neck[0] + side * 0.172, neck[1] - 0.01, neck[2] - 0.05])
        out, forward, up = _HANDS[pose][variant][k]
        hand = shoulder + [side * out, forward, up]
        hips.append(hip)
        knees.append(knee)
        ankles.append(ankle)
        shoulders.append(shoulder)
        elbows.append(_elbow(shoulder, hand, side))
        hands.append(hand)

    def pair(both: list[Floats]) -> tuple[Floats, Floats]:
        return both[0], both[1]

    return _Body(
        pelvis,
        chest,
        neck,
        head,
        _TURN[variant],
        pair(hips),
        pair(knees),
        pair(ankles),
        pair(shoulders),
        pair(elbows),
        pair(hands),
    )


def _limb(start: Floats, end: Floats, first: float, last: float, flat: float = 1.0) -> Limb:
    return Limb(vec(start), vec(end), (first, last), flat)


def _torso(body: _Body, wide: float) -> list[Limb]:
    low, chest, neck = body.pelvis, body.chest, body.neck
    right, left = body.shoulders
    return [
        _limb(low + [0.055, 0, -0.02], low + [-0.055, 0, -0.02], 0.105 + wide, 0.105 + wide, 0.92),
        _limb(low + [0, 0, 0.06], chest, 0.118 + wide, 0.135 + wide, 0.74),
        _limb(chest + [0.06, 0, 0.05], chest + [-0.06, 0, 0.05], 0.105 + wide, 0.105 + wide, 0.85),
        _limb(right - [0.03, 0, 0.005], left + [0.03, 0, -0.005], 0.062 + wide * 0.5, 0.062 + wide * 0.5),
        _limb(neck - [0, 0, 0.04], neck + [0, 0.004, 0.015], 0.064, 0.056),
    ]


def _arms(body: _Body, sleeve: float, wide: float) -> list[Limb]:
    """Upper arms, and as much of the forearms as the sleeve covers."""
    made = []
    for shoulder, elbow, hand in zip(body.shoulders, body.elbows, body.hands, strict=True):
        made.append(_limb(shoulder, elbow, 0.054 + wide, 0.043 + wide))
        if sleeve > 0:
            made.append(_limb(elbow, elbow + (hand - elbow) * sleeve, 0.043 + wide, 0.034 + wide))
    return made


def _hands(body: _Body, sleeve: float) -> list[Mesh]:
    """Forearms beyond the sleeve, and hands with a thumb."""
    made = []
    for side, elbow, hand in zip((1.0, -1.0), body.elbows, body.hands, strict=True):
        along = unit(hand - elbow)
        across = unit(np.cross(along, [0.0, 0.3, 1.0]) + 1e-6)
        palm = hand + along * 0.055
        limbs = [
            _limb(hand - along * 0.03, palm, 0.026, 0.034, 0.8),
            _limb(palm, palm + along * 0.055, 0.03, 0.018, 0.8),
            _limb(hand + along * 0.01, hand + along * 0.045 - across * side * 0.035, 0.016, 0.011),
        ]
        if sleeve < 0.9:
            limbs.append(_limb(elbow + along * 0.02, hand, 0.038, 0.026))
        made.append(coloured(skin_mesh(Skin(limbs, 0.012), 0.016, 44 if sleeve >= 0.9 else 64), SKIN))
    return made


def _legs(body: _Body, wide: float) -> list[Limb]:
    made = [_limb(body.hips[0], body.hips[1], 0.095 + wide, 0.095 + wide, 0.95)]
    for hip, knee, ankle in zip(body.hips, body.knees, body.ankles, strict=True):
        made += [
            _limb(hip, knee, 0.088 + wide, 0.06 + wide),
            _limb(knee, ankle + [0, 0, -0.02], 0.06 + wide, 0.047 + wide),
        ]
    return made


def _shoes(body: _Body) -> list[Mesh]:
    made = []
    for ankle in body.ankles:
        heel, toe = vec(ankle + [0, -0.03, -0.043]), vec(ankle + [0, 0.15, -0.05])
        skin = Skin([Limb(heel, toe, (0.042, 0.035)), Limb(vec(ankle), heel, (0.044, 0.042))], 0.015)
        made.append(coloured(_cut_off(skin_mesh(skin, 0.025, 44)), DARKER))
    return made


def _cut_off(mesh: Mesh, at_m: float = 0.0) -> Mesh:
    """The mesh with what is below a height brought up to it: soles on the floor, hems."""
    flat = mesh.vertices.copy()
    flat[:, 2] = np.maximum(flat[:, 2], at_m)
    return Mesh(flat, mesh.normals, mesh.triangles)


def _skirt(body: _Body, sits: bool) -> list[Limb]:
    if sits:
        knees = (body.knees[0] + body.knees[1]) / 2 - [0.0, 0.03, 0.0]
        return [_limb(body.pelvis, knees, 0.15, 0.13, 0.75), _limb(knees, knees + [0, 0.03, -0.16], 0.13, 0.14, 0.7)]
    return [_limb(body.pelvis, np.array([body.pelvis[0] * 0.4, 0.01, HEM_M]), 0.13, 0.23, 0.8)]


def _clothes(body: _Body, cut: str, sits: bool) -> list[Mesh]:
    """Upper body, then legs, each in its own shade."""
    sleeve = {"shirt": 0.25, "skirt": 0.4}.get(cut, 1.0)
    wide = {"jacket": 0.008, "coat": 0.012, "pullover": 0.006}.get(cut, 0.0)
    upper = [*_torso(body, wide), *_arms(body, sleeve, wide)]
    if cut == "coat" and not sits:
        upper.append(_limb(body.pelvis, np.array([body.pelvis[0] * 0.5, 0.0, HEM_M]), 0.13, 0.2, 0.85))
    hem = 0.0 if sits else HEM_M
    made = [_cut_off(skin_mesh(Skin(upper, 0.028), 0.034, 300), hem if cut == "coat" else 0.0)]
    below = _skirt(body, sits) if cut == "skirt" else []
    legs = _legs(body, 0.0)
    made.append(coloured(_cut_off(skin_mesh(Skin(below, 0.03), 0.04, 80), hem), DARKER) if below else _nothing())
    made.append(coloured(skin_mesh(Skin(legs, 0.02), 0.034, 170), SKIN if below else DARKER))
    return [*made, *_hands(body, sleeve)]


def _nothing() -> Mesh:
    return Mesh(np.zeros((0, 3), np.float32), np.zeros((0, 3), np.float32), np.zeros((0, 3), np.uint32))


def _turned(at: Floats, by: float, x: float, y: float, z: float) -> Floats:
    """A place of the head, from its middle, with the head turned about its upright."""
    return np.asarray(at + [x * np.cos(by) - y * np.sin(by), x * np.sin(by) + y * np.cos(by), z])


def _head(body: _Body, hair: str) -> list[Mesh]:
    """Skull and jaw, brow, nose, ears and chin; neck; hair."""

    def place(x: float, y: float, z: float) -> Floats:
        return _turned(body.head, body.facing, x, y, z)

    skull = [
        _limb(place(0, -0.018, 0.028), place(0, 0.012, 0.03), 0.077, 0.074),
        _limb(place(0, 0.03, -0.005), place(0, 0.045, -0.062), 0.062, 0.04),
        _limb(place(0.03, 0.07, 0.022), place(-0.03, 0.07, 0.022), 0.016, 0.016),
        _limb(place(0, 0.084, 0.012), place(0, 0.1, -0.022), 0.011, 0.015),
        _limb(place(0, 0.074, -0.078), place(0, 0.062, -0.084), 0.02, 0.022),
        _limb(place(0.076, -0.008, 0.008), place(0.076, -0.004, -0.02), 0.013, 0.009),
        _limb(place(-0.076, -0.008, 0.008), place(-0.076, -0.004, -0.02), 0.013, 0.009),
        _limb(body.neck - [0, 0, 0.03], body.head + [0, -0.012, -0.06], 0.053, 0.05),
    ]
    made = [coloured(skin_mesh(Skin(skull, 0.009), 0.015, 190), SKIN)]
    cap = [
        _limb(place(0, -0.03, 0.034), place(0, 0.004, 0.045), 0.083, 0.074),
        _limb(place(0, -0.05, 0.0), place(0, -0.05, -0.02), 0.062, 0.05),
    ]
    if hair == "none":
        return made
    if hair == "long":
        cap += [_limb(place(s * 0.055, -0.045, 0.0), place(s * 0.07, -0.05, -0.13), 0.045, 0.035) for s in (1, -1)]
        cap.append(_limb(place(0, -0.075, 0.0), place(0, -0.085, -0.15), 0.06, 0.05))
    if hair == "bun":
        cap.append(_limb(place(0, -0.11, 0.06), place(0, -0.12, 0.06), 0.042, 0.04))
    made.append(coloured(skin_mesh(Skin(cap, 0.014), 0.02, 96), HAIR))
    return made


def _chair() -> Mesh:
    legs = [box((0.03, 0.03, SEAT_M - 0.03), (x, y, (SEAT_M - 0.03) / 2)) for x in (-0.19, 0.19) for y in (-0.19, 0.21)]
    seat = box((0.44, 0.44, 0.03), (0, 0.02, SEAT_M - 0.02))
    return coloured(join([seat, box((0.44, 0.03, 0.45), (0, -0.21, SEAT_M + 0.24)), *legs]), DARKER)


@cache
def figure_mesh(pose: str, variant: int) -> Mesh:
    """A person of HEIGHT_M who stands or sits (on a chair of their own), to be seen from near."""
    body, sits = _body(pose, variant), pose in SEATED
    parts = [*_clothes(body, _CUT[variant], sits), *_head(body, _HAIR[variant]), *_shoes(body)]
    return join([part for part in (*parts, *((_chair(),) if sits else ())) if len(part.triangles)])


@dataclass(frozen=True)
class _Detail:
    """How many triangles each part of a simpler person has, and how fine the grid is that it comes from, metres."""

    cell_m: float
    torso: int
    legs: int
    skirt: int
    face: int
    hair: int


_FAR = _Detail(0.04, 112, 76, 36, 30, 24)
_LEAST = _Detail(0.05, 34, 20, 12, 8, 8)


@cache
def far_figure_mesh(pose: str, variant: int = 0) -> Mesh:
    """The same person in some hundred triangles: for the middle of the picture.

    It lies inside the whole one, so that nobody stands in a shadow of their own.
    """
    return _simple(pose, variant, _FAR)


@cache
def least_figure_mesh(pose: str, variant: int = 0) -> Mesh:
    """The same person in a few dozen triangles: for a crowd far away, and for what only casts a shadow."""
    return _simple(pose, variant, _LEAST)


def _simple(pose: str, variant: int, detail: _Detail) -> Mesh:
    body, sits, thin = _body(pose, variant), pose in SEATED, -0.01
    cut, cell = _CUT[variant], detail.cell_m
    hem = 0.0 if sits else HEM_M
    torso = [*_torso(body, thin), *_arms(body, 1.0, thin)]
    if cut == "coat" and not sits:
        torso.append(_limb(body.pelvis, np.array([body.pelvis[0] * 0.5, 0.0, HEM_M]), 0.12, 0.19, 0.85))
    legs = _legs(body, thin)
    for ankle in body.ankles:
        legs.append(_limb(ankle + [0, -0.02, -0.04], ankle + [0, 0.14, -0.045], 0.036, 0.03))
    parts = [
        _cut_off(skin_mesh(Skin(torso, 0.02), cell, detail.torso), hem if cut == "coat" else 0.0),
        coloured(_cut_off(skin_mesh(Skin(legs, 0.014), cell, detail.legs)), SKIN if cut == "skirt" else DARKER),
    ]
    if cut == "skirt":
        skirt = skin_mesh(Skin(_skirt(body, sits), 0.02), cell * 1.5, detail.skirt)
        parts.append(coloured(_cut_off(skirt, hem), DARKER))
    parts += _simple_head(body, _HAIR[variant], detail)
    if sits:
        parts.append(coloured(box((0.42, 0.42, 0.03), (0, 0.02, SEAT_M - 0.02)), DARKER))
        if detail is _FAR:
            parts.append(coloured(box((0.42, 0.03, 0.42), (0, -0.21, SEAT_M + 0.24)), DARKER))
    return join(parts)


def _simple_head(body: _Body, hair: str, detail: _Detail) -> list[Mesh]:
    def place(x: float, y: float, z: float) -> Floats:
        return _turned(body.head, body.facing, x, y, z)

    face = [_limb(place(0, 0.0, 0.02), place(0, 0.04, -0.05), 0.07, 0.045), _limb(body.neck, body.head, 0.047, 0.045)]
    made = [coloured(skin_mesh(Skin(face, 0.01), detail.cell_m, detail.face), SKIN)]
    if hair != "none":
        cap = [_limb(place(0, -0.03, 0.036), place(0, 0.0, 0.045), 0.076, 0.067)]
        if hair == "long":
            cap.append(_limb(place(0, -0.06, 0.0), place(0, -0.07, -0.12), 0.07, 0.055))
        made.append(coloured(skin_mesh(Skin(cap, 0.01), detail.cell_m, detail.hair), HAIR))
    return made


def eye_height_m(pose: str, height_m: float) -> float:
    """Above the surface: 0.936 of standing height; seated 1.2 m above the seat's floor (numbers.md, Crowd)."""
    return 1.2 if pose in SEATED else 0.936 * height_m
