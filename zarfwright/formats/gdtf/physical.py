"""Wheels, emitters, filters, curves and models of a GDTF description."""

from __future__ import annotations

import io
from xml.etree.ElementTree import Element

from PIL import Image, UnidentifiedImageError

from zarfwright.core.mesh import Mesh
from zarfwright.core.optics.spectrum import Spectrum, chromaticity, sampled
from zarfwright.core.types.model import (
    Chromaticity,
    DmxProfile,
    Emitter,
    Facet,
    Filter,
    Model,
    ProfilePoint,
    Wheel,
    WheelSlot,
)
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf.reading import Reading
from zarfwright.formats.gdtf.values import read_colour, read_facet, read_number
from zarfwright.formats.mesh import read_glb
from zarfwright.formats.three_ds import read_3ds

IMAGE_SIDE_MAX = 8192
POINTS_MAX = 2000


def wheel(reading: Reading, node: Element) -> Wheel:
    """A wheel with its slots, in order."""
    slots = tuple(
        WheelSlot(
            slot.get("Name", ""),
            reading.value(slot, "Color", read_colour, None) if slot.get("Color") else None,
            slot.get("MediaFileName") or None,
            tuple(reading.value(facet, "Rotation", read_facet, Facet(0, 0)) for facet in slot.findall("Facet")),
            slot.get("Filter") or None,
        )
        for slot in node.findall("Slot")
    )
    return Wheel(node.get("Name", ""), slots)


def images(reading: Reading, wheels: tuple[Wheel, ...]) -> dict[str, bytes]:
    """The images of slots by name. Those that are missing or no picture leave their slot open."""
    found = {}
    for slot in (slot for one in wheels for slot in one.slots if slot.image is not None):
        name = slot.image or ""
        data = reading.archive.find(f"wheels/{name}.png")
        if data is None:
            reading.found(f"Slot {slot.name}", f"its image wheels/{name}.png is missing", "left open")
            continue
        try:
            with Image.open(io.BytesIO(data)) as picture:
                size = picture.size
        except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
            reading.found(f"Slot {slot.name}", f"its image wheels/{name}.png is no picture", "left open")
            continue
        if max(size) > IMAGE_SIDE_MAX:
            reading.found(f"Slot {slot.name}", f"its image is {size[0]} by {size[1]} pixels", "left open")
            continue
        found[name] = data
    return found


def _spectrum(reading: Reading, node: Element) -> tuple[Spectrum, float]:
    """The measurement at the highest level, and the luminous intensity it states (0: none)."""
    measured = node.findall("Measurement")
    if not measured:
        return (), 0.0
    fullest = max(measured, key=lambda one: reading.value(one, "Physical", read_number, 0.0))
    points = [
        (reading.value(p, "WaveLength", read_number, 0.0), max(reading.value(p, "Energy", read_number, 0.0), 0.0))
        for p in fullest.findall("MeasurementPoint")[:POINTS_MAX]
    ]
    ordered = dict(sorted(point for point in points if point[0] > 0))
    return tuple(ordered.items()), reading.value(fullest, "LuminousIntensity", read_number, 0.0)


def _colour(reading: Reading, node: Element, spectrum: Spectrum, luminance: float) -> Chromaticity:
    """What a node says its colour is; else that of its spectrum, else of its dominant wavelength."""
    if node.get("Color"):
        return reading.value(node, "Color", read_colour, Chromaticity())
    if not spectrum and node.get("DominantWaveLength"):
        nm = reading.value(node, "DominantWaveLength", read_number, 0.0)
        spectrum = ((nm - 5, 0.0), (nm, 1.0), (nm + 5, 0.0))
    xy = chromaticity(sampled(spectrum)) if spectrum else None
    if xy is None:
        return Chromaticity()
    return Chromaticity(round(xy[0], 6), round(xy[1], 6), luminance or 100.0)


def emitter(reading: Reading, node: Element) -> Emitter:
    """A light source; without a stated colour its spectrum gives it."""
    spectrum, intensity = _spectrum(reading, node)
    said = node.get("DominantWaveLength") is not None
    dominant = reading.value(node, "DominantWaveLength", read_number, 0.0) if said else 0.0
    return Emitter(node.get("Name", ""), _colour(reading, node, spectrum, intensity), spectrum, max(dominant, 0.0))


def colour_filter(reading: Reading, node: Element) -> Filter:
    """A filter; its spectrum is what it lets through, in shares (percent where any is over 1)."""
    spectrum, _ = _spectrum(reading, node)
    if any(value > 1.0 for _, value in spectrum):
        spectrum = tuple((nm, value / 100) for nm, value in spectrum)
    return Filter(node.get("Name", ""), _colour(reading, node, spectrum, 0.0), spectrum)


def profile(reading: Reading, node: Element) -> DmxProfile:
    """A curve. Places over 1 say that the file counts in percent: then its coefficients are of percent too."""
    numbers = [
        [reading.value(p, name, read_number, 0.0) for name in ("DMXPercentage", "CFC0", "CFC1", "CFC2", "CFC3")]
        for p in node.findall("Point")[:POINTS_MAX]
    ]
    if any(row[0] > 1.0 for row in numbers):
        numbers = [[p / 100, c0 / 100, c1, c2 * 100, c3 * 10_000] for p, c0, c1, c2, c3 in numbers]
    return DmxProfile(node.get("Name", ""), tuple(ProfilePoint(*row) for row in sorted(numbers)))


def model(reading: Reading, node: Element) -> Model:
    """A part's size and what it is drawn from."""
    length, width, height = (reading.number(node, side, 0.1, 0.0, 100.0) for side in ("Length", "Width", "Height"))
    kind, file = node.get("PrimitiveType", "Undefined"), node.get("File") or None
    return Model(node.get("Name", ""), length, width, height, kind, file)


def meshes(reading: Reading, models: tuple[Model, ...]) -> dict[str, Mesh]:
    """The meshes that come with the file, by name; what cannot be read is drawn from its primitive."""
    read: dict[str, Mesh] = {}
    for name in sorted({model.file for model in models if model.file}):
        places = ((f"models/gltf/{name}.glb", read_glb), (f"models/3ds/{name}.3ds", read_3ds))
        found = [(data, reader) for place, reader in places if (data := reading.archive.find(place)) is not None]
        if not found:
            reading.found(f"Model {name}", f"its mesh models/gltf/{name}.glb is missing", "drawn from its primitive")
            continue
        data, reader = found[0]
        try:
            read[name] = reader(data, name)
        except FormatError as wrong:
            reading.found(f"Model {name}", str(wrong), "drawn from its primitive")
    return read
