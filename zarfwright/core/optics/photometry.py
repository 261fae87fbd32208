"""Lux in the rig: what each beam throws at a place, with everything in its way (numbers.md, Beam and Photometry map).

E = I . cos(incidence) / d^2, d from the beam's virtual apex behind the lens.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import ArrayLike, NDArray

from zarfwright.core.aiming.solve import head_turn, lens
from zarfwright.core.optics.beam import (
    DOOR_RIM,
    FROST_BEAM_SHARE,
    FROST_DEG,
    RIM_DEG_MAX,
    focus_at,
    hot_spot,
    soft_shape,
)
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.gate import Mask, blades_of, copies, iris_stop, transmission
from zarfwright.core.optics.web import Web
from zarfwright.core.picture import COLUMN, FIELDS
from zarfwright.core.raycast import Caster
from zarfwright.core.space import Floats, Placement, rotate, unit
from zarfwright.core.types.chain import Chain
from zarfwright.core.types.model import Facet

HALF_MAX_RAD = 1.5
OFF_SURFACE_M = 2e-3


@dataclass(frozen=True, eq=False)
class Beams:
    """n beams as they are now: frames in the show, and what the picture says of them."""

    apex: Floats
    """(n, 3) the virtual apex: lens radius / tan(half the field) behind the lens."""
    lens: Floats
    along: Floats
    side: Floats
    """(n, 3) the head's X; its Y completes the gate's frame."""
    upward: Floats
    frame: NDArray[np.float32]
    """(n, FIELDS) as the stage gets it."""
    peak_cd: Floats
    masks: Mapping[int, Mask]
    """Gobo images by their number in the frame."""
    prisms: Sequence[Sequence[Facet]]
    webs: Mapping[int, Web] = field(default_factory=dict)
    """Photometric webs by their number in the frame."""

    def values(self, i: int) -> dict[str, float]:
        """One beam's values by name."""
        return dict(zip(FIELDS, self.frame[i].tolist(), strict=True))

    def colour_cd(self, i: int) -> Floats:
        """Candela on the axis by colour (3,)."""
        return np.asarray(self.frame[i, COLUMN["red"] : COLUMN["blue"] + 1].astype(float) * self.peak_cd[i])

    def lit(self) -> NDArray[np.int64]:
        """The beams that put out more than half a candela."""
        rgb = self.frame[:, COLUMN["red"] : COLUMN["blue"] + 1] * self.peak_cd[:, None]
        return np.flatnonzero(rgb.max(axis=1) >= 0.5) if len(rgb) else np.zeros(0, dtype=np.int64)


def beams_in_show(
    chains: Sequence[Chain],
    mounts: Sequence[Placement],
    frame: NDArray[np.float32],
    peak_cd: ArrayLike,
    masks: Mapping[int, Mask] | None = None,
    prisms: Sequence[Sequence[Facet]] = (),
    webs: Mapping[int, Web] | None = None,
) -> Beams:
    """Beams from their chains and mounts, one each for every row of `frame`."""
    n = len(chains)
    places, along, side, upward = (np.zeros((n, 3)) for _ in range(4))
    alike: dict[Chain, list[int]] = {}
    for i, chain in enumerate(chains):
        alike.setdefault(chain, []).append(i)
    for chain, rows in alike.items():
        pan, tilt = (frame[rows, COLUMN[name]].astype(float) for name in ("pan", "tilt"))
        place, direction = lens(chain, pan, tilt)
        turns = np.array([mounts[i].rotation for i in rows])
        places[rows] = rotate(turns, place) + np.array([mounts[i].position for i in rows])
        along[rows] = rotate(turns, direction)
        side[rows] = rotate(turns, rotate(head_turn(chain, pan, tilt), np.array([1.0, 0.0, 0.0])))
        upward[rows] = np.cross(side[rows], along[rows])
    half = np.array([half_field(row) for row in frame]) if n else np.zeros(0)
    radius = np.array([chain.beam.lens_radius_m for chain in chains])
    # A web is measured from the lens plane: no apex behind it.
    behind = np.where(frame[:, COLUMN["web"]] > 0.5, 0.0, radius / np.tan(half)) if n else np.zeros(0)
    apex = places - along * behind[:, None]
    peaks = np.asarray(peak_cd, dtype=float)
    return Beams(apex, places, along, side, upward, frame, peaks, masks or {}, prisms, webs or {})


def half_field(row: NDArray[np.float32]) -> float:
    """Half of the field angle of a beam by its frame (FIELDS,), radians."""
    b, f = float(max(row[COLUMN["beam"]], 0.002)), float(row[COLUMN["field"]])
    return min(max(f, b * (1.0 if row[COLUMN["hard"]] > 0.5 else 1.1)) / 2, HALF_MAX_RAD)


def shape_toward(beams: Beams, i: int, points: Floats) -> Floats:
    """I / I0 of beam i towards points (m, 3): its edge, and whatever stands in its gate."""
    v = beams.values(i)
    away = points - beams.apex[i]
    z = away @ beams.along[i]
    ahead = z > 1e-6
    safe = np.where(ahead, z, 1.0)
    xy = np.stack([away @ beams.side[i], away @ beams.upward[i]], axis=-1) / safe[:, None]
    half = half_field(beams.frame[i])
    u = xy / np.tan(half)
    web = beams.webs.get(int(v["web"]))
    if web is not None:
        shares = web.toward(np.arctan2(np.linalg.norm(xy, axis=-1), 1.0), np.arctan2(xy[:, 1], xy[:, 0])) / web.peak_cd
        return np.asarray(np.where(ahead, shares * blades_of(u, v, DOOR_RIM), 0.0))
    beam_deg, field_deg = float(np.degrees(max(v["beam"], 0.002))), float(np.degrees(2 * half))
    masks = [beams.masks.get(int(v["gobo"])), beams.masks.get(int(v["gobo2"]))]
    facets = beams.prisms[int(v["prism"]) - 1] if 0 < v["prism"] <= len(beams.prisms) else ()
    h = hot_spot(beam_deg, field_deg)
    frosted_deg = min(field_deg + FROST_DEG, RIM_DEG_MAX)
    focus = _focus_toward(beams, i, z)
    whole = np.zeros(len(points))
    seen = copies(u, facets, v["prism_turn"])
    for copy in seen:
        r = np.linalg.norm(copy, axis=-1)
        t = np.arctan(r * np.tan(half))
        if v["hard"] > 0.5:
            clear = (1 - h * np.minimum(r * r, 1.0)) * _through(copy, v, masks, focus)
        else:
            clear = soft_shape(t, beam_deg, field_deg) * iris_stop(copy, v["iris"], v["focus"])
            clear = clear * blades_of(copy, v, DOOR_RIM)
        frosted = soft_shape(t, frosted_deg * FROST_BEAM_SHARE, frosted_deg) * v["frost_gain"]
        whole += clear + v["frost"] * (frosted - clear)
    return np.asarray(np.where(ahead, whole / len(seen), 0.0))


FOCUS_STEPS = 512


def _through(u: Floats, v: Mapping[str, float], masks: Sequence[Mask | None], focus: Floats | None) -> Floats:
    """What the gate lets through at gate points (m, 2), with a focus for each (m,), or the beam's own."""
    if focus is None:
        return transmission(u, v, masks)
    through = np.zeros(len(u))
    for sharp in np.unique(focus):
        at = focus == sharp
        through[at] = transmission(u[at], {**v, "focus": float(sharp)}, masks)
    return through


def _focus_toward(beams: Beams, i: int, z: Floats) -> Floats | None:
    """The focus of beam i at points so far along it from its virtual apex (m,); None where it is the same for all."""
    v = beams.values(i)
    if v["sharp_at"] <= 0:
        return None
    behind = float(np.linalg.norm(beams.lens[i] - beams.apex[i]))
    half = half_field(beams.frame[i])
    focus = focus_at(z - behind, v["sharp_at"], behind * math.tan(half), half)
    # Points of about one distance are looked at together.
    return np.asarray(np.round(focus * FOCUS_STEPS) / FOCUS_STEPS)


def illuminance(beams: Beams, points: ArrayLike, normals: ArrayLike, caster: Caster | None = None) -> Floats:
    """Lux by colour (m, 3) on faces at `points` (m, 3) with unit `normals` (m, 3); with a caster, what gets there."""
    places, faces = np.asarray(points, dtype=float).reshape(-1, 3), np.asarray(normals, dtype=float).reshape(-1, 3)
    whole = np.zeros((len(places), 3))
    for i in beams.lit():
        lux = contribution(beams, int(i), places, faces, caster)
        whole += lux[:, None] * beams.colour_cd(int(i))
    return whole


def through_lens(beams: Beams, i: int, points: Floats) -> Floats:
    """Where the light for points (m, 3) leaves the lens, (m, 3): on the straight line from the virtual apex."""
    behind = float((beams.lens[i] - beams.apex[i]) @ beams.along[i])
    way = points - beams.apex[i]
    ahead = np.maximum(way @ beams.along[i], 1e-6)
    return np.asarray(beams.apex[i] + way * np.minimum(behind / ahead, 1.0)[:, None])


def contribution(beams: Beams, i: int, points: Floats, normals: Floats, caster: Caster | None = None) -> Floats:
    """Lux (m,) of one beam for each candela of its axis."""
    away = points - beams.apex[i]
    d2 = np.sum(away * away, axis=1)
    cosine = np.maximum(-np.sum(unit(away) * normals, axis=1), 0.0)
    before = (points - beams.lens[i]) @ beams.along[i] > 0
    lux = np.where(before, shape_toward(beams, i, points) * cosine / np.maximum(d2, 1e-9), 0.0)
    reached = np.flatnonzero(lux > 0)
    if caster is not None and len(reached):
        lifted = points[reached] + normals[reached] * OFF_SURFACE_M
        lux[reached] *= caster.share(through_lens(beams, i, lifted), lifted)
    return np.asarray(lux)


@dataclass(frozen=True)
class Landing:
    """Where the axis of a beam lands."""

    point: tuple[float, float, float]
    thing: str
    throw_m: float
    """From the lens."""
    field_m: float
    """The width of the field there, square to the beam."""
    lux: float
    """From this beam alone, on the face that it lands on."""
    along_m: float | None
    """How long its field is on that face, the way that it slants; None where it has no end."""
    across_m: float
    """How wide it is there square to that."""
    mean_lux: float
    """On the mean over its field."""


def landing(beams: Beams, i: int, caster: Caster) -> Landing | None:
    """Where a beam's axis lands; None where it meets nothing."""
    found = caster.first(beams.lens[i][None], beams.along[i][None])
    if not np.isfinite(found.distance[0]):
        return None
    point = beams.lens[i] + beams.along[i] * found.distance[0]
    lux = contribution(beams, i, point[None], found.normal)[0] * float(beams.colour_cd(i) @ LUMINANCE)
    away = float(found.distance[0])
    across = 2 * float(np.linalg.norm(point - beams.apex[i])) * float(np.tan(half_field(beams.frame[i])))
    x, y, z = point.tolist()
    along, wide, mean = _spot(beams, i, point, found.normal[0])
    name = caster.names[int(found.thing[0])]
    return Landing((x, y, z), name, away, across, float(lux), along, wide, mean)


RINGS, SPOKES = 6, 12
LONGEST_M = 200.0


def _spot(beams: Beams, i: int, point: Floats, normal: Floats) -> tuple[float | None, float, float]:
    """The field of a beam on the plane of a face: its length the way that the face slants, its width across, metres,
    and the mean lux on it, without what stands in between."""
    axis, apex = beams.along[i], beams.apex[i]
    across = np.cross(axis, normal)
    across = unit(across) if float(np.linalg.norm(across)) > 1e-6 else beams.side[i]
    lean = np.cross(across, axis)
    wide = np.tan(half_field(beams.frame[i]))
    # Rings of equal area in the gate, each point where its ray meets the plane.
    r = wide * np.sqrt((np.arange(RINGS) + 0.5) / RINGS)
    turn = 2 * np.pi * np.arange(SPOKES) / SPOKES
    u, v = (r[:, None] * part(turn)[None] for part in (np.cos, np.sin))
    ways = axis + u.reshape(-1, 1) * across + v.reshape(-1, 1) * lean
    rim = np.array([axis + s * wide * side for side in (across, lean) for s in (1.0, -1.0)])
    reach = float((point - apex) @ normal)

    def met(directions: Floats) -> Floats:
        fall = directions @ normal
        with np.errstate(divide="ignore", invalid="ignore"):
            far = np.where(fall * reach > 0, reach / fall, np.inf)
        return np.asarray(apex + directions * np.minimum(far, LONGEST_M)[:, None])

    ends = met(rim)
    along = float(np.linalg.norm(ends[2] - ends[3]))
    points = met(ways)
    lux = contribution(beams, i, points, np.tile(normal, (len(points), 1))) * float(beams.colour_cd(i) @ LUMINANCE)
    # Weighed by the area of the face that each stands for: the cube of its way over the fall of its ray.
    far = np.linalg.norm(points - apex, axis=1)
    area = far**3 / np.maximum(np.abs((points - apex) @ normal), 1e-9) / np.linalg.norm(ways, axis=1) ** 3
    mean = float(np.sum(lux * area) / max(float(area.sum()), 1e-12))
    return (along if along < LONGEST_M / 2 else None), float(np.linalg.norm(ends[0] - ends[1])), mean


def overlapping(beams: Beams, i: int, point: Floats, among: Iterable[int]) -> list[int]:
    """The beams among some others that shine on a place where beam `i` lands as well, what stands between left out."""
    return [j for j in among if j != i and float(shape_toward(beams, j, point[None])[0]) > 0.05]


def bounced(
    beams: Beams, points: ArrayLike, normals: ArrayLike, caster: Caster, rays: int = 1024, bounces: int = 1
) -> Floats:
    """Lux by colour (m, 3) from light that has bounced up to `bounces` times: from each point a cosine-weighted
    hemisphere of `rays`, each going on from where it lands in one direction of its own.

    E = pi . mean of the luminance met, L = reflectance . E / pi: the reference that the stage's bounce is held against.
    """
    places, faces = np.asarray(points, dtype=float), np.asarray(normals, dtype=float)
    rng = np.random.default_rng(1)
    owner = np.repeat(np.arange(len(places)), rays)
    place, face = places[owner], faces[owner]
    share = np.tile((np.arange(rays) + rng.random(rays)) / rays, len(places))
    turn = np.tile(2 * np.pi * ((np.arange(rays) * 0.6180339887498949) % 1.0), len(places))
    carried = np.ones((len(owner), 3))
    out = np.zeros((len(places), 3))
    for _ in range(bounces):
        ways = _hemisphere(face, share, turn)
        found = caster.first(place + face * OFF_SURFACE_M, ways)
        hit = np.isfinite(found.distance)
        owner, carried = owner[hit], carried[hit] * caster.albedo[found.thing[hit]]
        place, face = place[hit] + ways[hit] * found.distance[hit, None], found.normal[hit]
        if not len(owner):
            break
        lux = illuminance(beams, place + face * OFF_SURFACE_M, face, caster)
        np.add.at(out, owner, lux * carried / rays)
        share, turn = rng.random(len(owner)), 2 * np.pi * rng.random(len(owner))
    return out


def _hemisphere(face: Floats, share: Floats, turn: Floats) -> Floats:
    """Unit directions (m, 3) about faces (m, 3), as many as the cosine asks for where `share` is even over 0..1."""
    helper = np.where(np.abs(face[:, :1]) < 0.9, [[1.0, 0.0, 0.0]], [[0.0, 1.0, 0.0]])
    x = unit(np.cross(face, helper))
    y = np.cross(face, x)
    r, z = np.sqrt(share), np.sqrt(1 - share)
    return np.asarray((r * np.cos(turn))[:, None] * x + (r * np.sin(turn))[:, None] * y + z[:, None] * face)
