"""Geometry trees of a GDTF description, as they stand there: references are still closed (references.py)."""

from __future__ import annotations

from dataclasses import dataclass
from xml.etree.ElementTree import Element

from zarfwright.core.types.model import IDENTITY, BeamSource, LaserSource, Matrix
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf.reading import Reading
from zarfwright.formats.gdtf.values import FIRST_BREAK, read_break, read_matrix

DEPTH_MAX = 32
REFERENCE = "GeometryReference"
KINDS = frozenset({
    "Geometry", "Axis", "FilterBeam", "FilterColor", "FilterGobo", "FilterShaper", "Beam", "MediaServerLayer",
    "MediaServerCamera", "MediaServerMaster", "Display", REFERENCE, "Laser", "WiringObject", "Inventory", "Structure",
    "Support", "Magnet",
})  # fmt: skip
"""GDTF's kinds of geometry. Laser is read as a narrow beam; the rest shows its model."""
NO_GEOMETRY = frozenset({"Break", "Protocol", "PinPatch"})
"""Children of geometries that are none themselves: breaks of a reference, protocols of a laser, pins of a connector."""
BEAM_TYPES = frozenset({"Wash", "Spot", "None", "Rectangle", "PC", "Fresnel", "Glow"})
LASER_ANGLE_DEG = 0.2
LASER_LEAST_M = 0.001
LASER_LM_PER_W = 250.0
"""What a watt of mixed laser light comes to: about 250 lm at white."""


@dataclass(frozen=True)
class Raw:
    """A node as it is written; `target` and `breaks` (number, offset) are a reference's."""

    name: str
    kind: str
    model: str | None
    matrix: Matrix
    beam: BeamSource | None
    children: tuple[Raw, ...]
    target: str | None = None
    breaks: tuple[tuple[int, int], ...] = ()


def read_geometry(reading: Reading, node: Element, depth: int = 0) -> Raw:
    """A node and what is below it. Raises FormatError where a tree is too deep to be one."""
    if depth > DEPTH_MAX:
        raise FormatError(f"{reading.file_name} nests its geometries more than {DEPTH_MAX} deep: it is refused.")
    kind = node.tag
    if kind not in KINDS:
        reading.found(f"{kind} {node.get('Name', '')}", "GDTF knows no such geometry", "taken as a plain one")
        kind = "Geometry"
    beam = None
    if kind == "Beam":
        beam = _beam(reading, node)
    elif kind == "Laser":
        beam = _laser(reading, node)
    below = [child for child in node if child.get("Name") is not None and child.tag not in NO_GEOMETRY]
    breaks = tuple(
        (reading.value(one, "DMXBreak", read_break, FIRST_BREAK) or 1, reading.value(one, "DMXOffset", int, 1))
        for one in node.findall("Break")
    )
    return Raw(
        name=node.get("Name", ""),
        kind=kind,
        model=node.get("Model") or None,
        matrix=reading.value(node, "Position", read_matrix, IDENTITY),
        beam=beam,
        children=tuple(read_geometry(reading, child, depth + 1) for child in below),
        target=node.get("Geometry", "") if kind == REFERENCE else None,
        breaks=breaks if kind == REFERENCE else (),
    )


def _beam(reading: Reading, node: Element) -> BeamSource:
    field_deg = reading.number(node, "FieldAngle", 25.0, 0.1, 180.0)
    beam_deg = reading.number(node, "BeamAngle", 25.0, 0.1, 180.0)
    if field_deg < beam_deg:
        reading.found(
            f"Beam {node.get('Name', '')}",
            f"the field angle ({field_deg:g}°) is smaller than the beam angle ({beam_deg:g}°)",
            "the beam angle is taken for both",
        )
        field_deg = beam_deg
    kind = node.get("BeamType", "Wash")
    if kind not in BEAM_TYPES:
        reading.found(f"Beam {node.get('Name', '')}", f"GDTF knows no beam type “{kind[:40]}”", "taken as Wash")
        kind = "Wash"
    return BeamSource(
        kind=kind,
        lamp=node.get("LampType", "Discharge"),
        flux_lm=reading.number(node, "LuminousFlux", 10_000.0, 0.0, 1e7),
        colour_temperature_k=reading.number(node, "ColorTemperature", 6000.0, 1000.0, 25_000.0),
        beam_angle_deg=beam_deg,
        field_angle_deg=field_deg,
        lens_radius_m=reading.number(node, "BeamRadius", 0.05, 0.001, 5.0),
        power_w=reading.number(node, "PowerConsumption", 1000.0, 0.0, 1e6),
    )


def _laser(reading: Reading, node: Element) -> BeamSource:
    watts = reading.number(node, "OutputStrength", 1.0, 0.0, 1000.0)
    wide = reading.number(node, "BeamDiameter", 0.005, 0.0, 1.0)
    single = node.get("ColorType", "RGB") == "SingleWaveLength"
    usual = LaserSource()
    source = LaserSource(
        output_w=watts,
        wavelength_nm=reading.number(node, "Color", 520.0, 200.0, 2000.0) if single else 0.0,
        diameter_m=max(wide, LASER_LEAST_M),
        divergence_mrad=reading.number(node, "BeamDivergenceMin", usual.divergence_mrad, 0.0, 1000.0),
        scan_across_deg=reading.number(node, "ScanAnglePan", usual.scan_across_deg, 0.0, 180.0),
        scan_up_deg=reading.number(node, "ScanAngleTilt", usual.scan_up_deg, 0.0, 180.0),
        scan_kpps=reading.number(node, "ScanSpeed", usual.scan_kpps, 1.0, 1000.0),
    )
    radius = max(wide / 2, LASER_LEAST_M)
    angle = LASER_ANGLE_DEG
    return BeamSource("Spot", "Laser", watts * LASER_LM_PER_W, 6500.0, angle, angle, radius, watts, source)
