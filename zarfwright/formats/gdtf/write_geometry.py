"""Geometries to nodes of a description."""

from __future__ import annotations

from xml.etree.ElementTree import Element, SubElement

from zarfwright.core.types.model import BeamSource, Geometry, LaserSource
from zarfwright.formats.gdtf.values import write_matrix, write_number


def write_geometry(parent: Element, node: Geometry) -> None:
    """Put a geometry and all below it under a node."""
    given = {"Name": node.name, "Position": write_matrix(node.matrix)}
    if node.model:
        given["Model"] = node.model
    beam = node.beam
    if beam is not None and node.kind == "Laser":
        given |= _laser(beam)
    elif beam is not None:
        given |= {
            "LampType": beam.lamp,
            "PowerConsumption": write_number(beam.power_w),
            "LuminousFlux": write_number(beam.flux_lm),
            "ColorTemperature": write_number(beam.colour_temperature_k),
            "BeamAngle": write_number(beam.beam_angle_deg),
            "FieldAngle": write_number(beam.field_angle_deg),
            "BeamRadius": write_number(beam.lens_radius_m),
            "BeamType": beam.kind,
            "ColorRenderingIndex": "90",
        }
    element = SubElement(parent, node.kind, given)
    for child in node.children:
        write_geometry(element, child)


def _laser(beam: BeamSource) -> dict[str, str]:
    source = beam.laser or LaserSource(beam.power_w, diameter_m=2 * beam.lens_radius_m)
    divergence = write_number(source.divergence_mrad)
    single = {"ColorType": "SingleWaveLength", "Color": write_number(source.wavelength_nm)}
    return (single if source.wavelength_nm else {"ColorType": "RGB"}) | {
        "OutputStrength": write_number(source.output_w),
        "BeamDiameter": write_number(source.diameter_m),
        "BeamDivergenceMin": divergence,
        "BeamDivergenceMax": divergence,
        "ScanAnglePan": write_number(source.scan_across_deg),
        "ScanAngleTilt": write_number(source.scan_up_deg),
        "ScanSpeed": write_number(source.scan_kpps),
    }
