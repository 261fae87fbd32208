"""What sort of lamp a type is, in the words that people look for it by."""

from __future__ import annotations

import numpy as np

from zarfwright.core.memo import Memo
from zarfwright.core.types.chain import chain_of, chains_of
from zarfwright.core.types.model import BeamSource, FixtureType

NARROW_DEG, FLOOD_DEG = 6.0, 60.0
ALSO: dict[str, str] = {
    "moving head": "mover intelligent automated", "scanner": "mirror mover automated", "wash": "soft edge",
    "profile": "spot hard edge ellipsoidal framing gobo",
    "beam": "narrow shaft", "batten": "bar strip led row pixel",
    "panel": "matrix blinder led pixel", "laser": "ray", "hazer": "haze fog smoke machine",
    "Fresnel": "soft wash conventional",
    "PC": "plano convex pebble conventional", "par": "can parcan conventional", "flood": "conventional wide work light",
    "cyc": "cyclorama backcloth horizon flood", "colour changer": "scroller", "effect": "",
    "driver": "moves carrier lift fly turntable slider",
}  # fmt: skip
"""Further words for each sort."""


def _standing(fixture_type: FixtureType, beam: BeamSource) -> str:
    """What does not move and has one lens."""
    named = {model.name.lower() for model in fixture_type.models}
    if "cyc" in named or "cyc" in fixture_type.name.lower():
        return "cyc"
    plain = {"Fresnel": "Fresnel", "PC": "PC", "Spot": "profile", "Rectangle": "profile"}.get(beam.kind)
    return plain or ("flood" if beam.field_angle_deg >= FLOOD_DEG else "par")


def _moving(fixture_type: FixtureType, beam: BeamSource) -> list[str]:
    primitives = {model.primitive.removesuffix("1_1") for model in fixture_type.models}
    kinds = ["scanner" if "Scanner" in primitives else "moving head"]
    attributes = {f.attribute for mode in fixture_type.modes for c in mode.channels for f in c.functions}
    zooms = "Zoom" in attributes
    if beam.field_angle_deg <= NARROW_DEG and not zooms:
        return [*kinds, "beam"]
    patterned = any(name.startswith(("Gobo", "Blade", "Shaper")) for name in attributes)
    return [*kinds, "profile" if patterned or beam.kind in ("Spot", "Rectangle") else "wash"]


def _sorts(fixture_type: FixtureType) -> tuple[str, ...]:
    beams = [node.beam for tree in fixture_type.geometries for node, _ in tree.walk() if node.beam is not None]
    attributes = {f.attribute for mode in fixture_type.modes for c in mode.channels for f in c.functions}
    if not beams and any(name.startswith(("XYZ_", "Rot_", "Scale_", "Spin")) for name in attributes):
        return ("driver",)
    if not beams:
        hazes = any(name.startswith(("Haze", "Fog")) for name in attributes)
        return ("hazer",) if hazes else ("effect",)
    beam = beams[0]
    mode = fixture_type.modes[0].name
    if beam.lamp == "Laser":
        return ("laser",)
    mixes = any(name.startswith("ColorAdd_") for name in attributes)
    kinds = ["LED"] if beam.lamp == "LED" or mixes else []
    if chain_of(fixture_type, mode).moves:
        return (*kinds, *_moving(fixture_type, beam))
    chains = chains_of(fixture_type, mode)
    lenses = np.array([np.add(np.add(c.pan_offset, c.tilt_offset), c.lens_offset)[:2] for c in chains])
    if len(lenses) > 2:
        spread = np.ptp(lenses, axis=0)
        return (*kinds, "batten" if min(spread) < 0.2 * max(spread) else "panel")
    scroller = any(model.name == "Scroller" for model in fixture_type.models)
    return (*kinds, _standing(fixture_type, beam), *(("colour changer",) if scroller else ()))


_memo: Memo[tuple[str, ...]] = Memo(_sorts)


def sort_of(fixture_type: FixtureType) -> str:
    """What it is at a glance: `LED moving head, wash`."""
    kinds = _memo(fixture_type)
    if kinds[0] == "LED":
        return ", ".join([f"LED {kinds[1]}", *kinds[2:]])
    return ", ".join(kinds)


def words_of(fixture_type: FixtureType) -> str:
    """All the words that it is found by, besides its own names."""
    kinds = _memo(fixture_type)
    return " ".join([*kinds, *(ALSO.get(kind, "") for kind in kinds)]).strip()
