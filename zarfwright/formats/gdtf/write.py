"""Fixture types to GDTF: description.xml, wheel images, photometry, and what an older file held besides."""

from __future__ import annotations

from dataclasses import dataclass
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from zarfwright.core.types.model import Chromaticity, FixtureType
from zarfwright.formats.archive import open_archive, write_archive
from zarfwright.formats.gdtf.attributes import attribute
from zarfwright.formats.gdtf.keep import Lost, keep, kept_kinds
from zarfwright.formats.gdtf.names import legalised
from zarfwright.formats.gdtf.read import read_source
from zarfwright.formats.gdtf.values import write_colour, write_facet, write_number
from zarfwright.formats.gdtf.write_geometry import write_geometry
from zarfwright.formats.gdtf.write_modes import write_mode

DATA_VERSION = "1.2"


def _attribute_definitions(parent: Element, fixture_type: FixtureType) -> None:
    used = sorted({f.attribute for m in fixture_type.modes for c in m.channels for f in c.functions})
    node = SubElement(parent, "AttributeDefinitions")
    groups = SubElement(node, "ActivationGroups")
    for group in sorted({attribute(name).group for name in used} - {""}):
        SubElement(groups, "ActivationGroup", Name=group)
    features = SubElement(node, "FeatureGroups")
    by_group: dict[str, set[str]] = {}
    for name in used:
        group, feature = attribute(name).feature.split(".")
        by_group.setdefault(group, set()).add(feature)
    for group, names in sorted(by_group.items()):
        element = SubElement(features, "FeatureGroup", Name=group, Pretty=group)
        for feature in sorted(names):
            SubElement(element, "Feature", Name=feature)
    attributes = SubElement(node, "Attributes")
    for name in used:
        entry = attribute(name)
        given = {"Name": name, "Pretty": entry.pretty, "Feature": entry.feature, "PhysicalUnit": entry.unit}
        if entry.group:
            given["ActivationGroup"] = entry.group
        SubElement(attributes, "Attribute", given)


def _measurement(parent: Element, spectrum: tuple[tuple[float, float], ...]) -> None:
    if not spectrum:
        return
    node = SubElement(parent, "Measurement", Physical="100.000000", InterpolationTo="Linear")
    for nm, value in spectrum:
        SubElement(node, "MeasurementPoint", WaveLength=write_number(nm), Energy=write_number(value))


def _wheels(top: Element, fixture_type: FixtureType) -> None:
    wheels = SubElement(top, "Wheels")
    for wheel in fixture_type.wheels:
        element = SubElement(wheels, "Wheel", Name=wheel.name)
        for slot in wheel.slots:
            given = {"Name": slot.name}
            if slot.colour is not None:
                given["Color"] = write_colour(slot.colour)
            if slot.image is not None:
                given["MediaFileName"] = slot.image
            if slot.filter is not None:
                given["Filter"] = slot.filter
            node = SubElement(element, "Slot", given)
            for facet in slot.facets:
                SubElement(node, "Facet", Color=write_colour(Chromaticity()), Rotation=write_facet(facet))


def _physical(top: Element, fixture_type: FixtureType) -> Element:
    physical = SubElement(top, "PhysicalDescriptions")
    emitters = SubElement(physical, "Emitters")
    for emitter in fixture_type.emitters:
        node = SubElement(emitters, "Emitter", Name=emitter.name, Color=write_colour(emitter.colour))
        if emitter.dominant_nm:
            node.set("DominantWaveLength", write_number(emitter.dominant_nm))
        _measurement(node, emitter.spectrum)
    if fixture_type.filters:
        filters = SubElement(physical, "Filters")
        for one in fixture_type.filters:
            node = SubElement(filters, "Filter", Name=one.name, Color=write_colour(one.colour))
            _measurement(node, one.spectrum)
    if fixture_type.profiles:
        profiles = SubElement(physical, "DMXProfiles")
        for profile in fixture_type.profiles:
            node = SubElement(profiles, "DMXProfile", Name=profile.name)
            for point in profile.points:
                numbers = {"DMXPercentage": point.share, "CFC0": point.c0, "CFC1": point.c1, "CFC2": point.c2}
                SubElement(
                    node, "Point", {key: write_number(value) for key, value in {**numbers, "CFC3": point.c3}.items()}
                )
    properties = SubElement(physical, "Properties")
    SubElement(properties, "Weight", Value=write_number(fixture_type.weight_kg))
    SubElement(properties, "PowerConsumption", Value=write_number(fixture_type.power_w))
    return physical


def _models(top: Element, fixture_type: FixtureType) -> None:
    models = SubElement(top, "Models")
    for model in fixture_type.models:
        size = {"Length": model.length_m, "Width": model.width_m, "Height": model.height_m}
        given = {"Name": model.name, **{side: write_number(value) for side, value in size.items()}}
        given["PrimitiveType"] = model.primitive
        if model.file:
            given["File"] = model.file
        SubElement(models, "Model", given)


def _fresh(fixture_type: FixtureType) -> Element:
    """The description of a type, written from our model alone."""
    root = Element("GDTF", DataVersion=DATA_VERSION)
    top = SubElement(root, "FixtureType", {
        "Name": fixture_type.name,
        "ShortName": fixture_type.name[:8],
        "LongName": fixture_type.name,
        "Manufacturer": fixture_type.maker,
        "Description": fixture_type.description,
        "FixtureTypeID": fixture_type.type_id,
        "RefFT": "",
        "CanHaveChildren": "No",
    })  # fmt: skip
    _attribute_definitions(top, fixture_type)
    _wheels(top, fixture_type)
    _physical(top, fixture_type)
    _models(top, fixture_type)
    geometries = SubElement(top, "Geometries")
    for geometry in fixture_type.geometries:
        write_geometry(geometries, geometry)
    modes = SubElement(top, "DMXModes")
    for mode in fixture_type.modes:
        write_mode(modes, mode)
    return root


def description_xml(fixture_type: FixtureType) -> bytes:
    """The description.xml of a type, from our model alone."""
    return _text(_fresh(legalised(fixture_type)))


def _text(root: Element) -> bytes:
    """A description as text, with its first revision where it has none."""
    top = root.find("FixtureType")
    if top is not None and top.find("Revisions") is None:
        revisions = SubElement(top, "Revisions")
        SubElement(revisions, "Revision", Text="Written by Zarfwright", Date="2020-01-01T00:00:00", UserID="0")
    indent(root)
    text: bytes = tostring(root, encoding="utf-8")
    return b'<?xml version="1.0" encoding="UTF-8"?>\n' + text


@dataclass(frozen=True)
class Written:
    """A GDTF file, what of an older one is kept in it, and what is not."""

    data: bytes
    kept: tuple[str, ...] = ()
    lost: tuple[Lost, ...] = ()


def written(fixture_type: FixtureType, older: bytes | None = None) -> Written:
    """A whole GDTF file. The same type gives the same bytes.

    `older` is the file that the type came out of: what nobody has changed stays as it is there (keep.py), with its
    entries (meshes, symbols, thumbnails). Raises FormatError when that is no GDTF, or the type cannot be written.
    """
    entries: dict[str, bytes] = {}
    kept: list[str] = []
    lost: list[Lost] = []
    if older is None:
        fixture_type = legalised(fixture_type)
        root = _fresh(fixture_type)
    else:
        archive = open_archive(older, f"{fixture_type.name}.gdtf")
        source = read_source(archive, f"{fixture_type.name}.gdtf")
        root, lost = keep(_fresh(fixture_type), fixture_type, source)
        top = root.find("FixtureType")
        kept = [] if top is None else kept_kinds(source.top, top)
        entries = {
            name: data
            for name, data in archive.entries.items()
            if not name.casefold().startswith("ies/") and name.casefold() != "description.xml"
        }
    entries["description.xml"] = _text(root)
    there = {name.casefold(): name for name in entries}
    for name, image in fixture_type.images.items():
        entries[there.get(f"wheels/{name}.png".casefold(), f"wheels/{name}.png")] = image
    entries |= {f"ies/{name}.ies": data for name, data in fixture_type.ies.items()}
    return Written(write_archive(entries), tuple(kept), tuple(lost))


def write_gdtf(fixture_type: FixtureType, older: bytes | None = None) -> bytes:
    """The bytes of a whole GDTF file; see `written`."""
    return written(fixture_type, older).data
