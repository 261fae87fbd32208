"""GDTF to fixture types. What can be used is used; what is odd becomes a finding."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any
from xml.etree.ElementTree import Element, ParseError, fromstring
from xml.parsers.expat import ExpatError, ParserCreate

from defusedxml.common import DTDForbidden

from zarfwright.core.types.model import FixtureType, Geometry, WebInfo
from zarfwright.formats.archive import Archive, open_archive
from zarfwright.formats.findings import FormatError, Oddity
from zarfwright.formats.gdtf import physical
from zarfwright.formats.gdtf.geometry import read_geometry
from zarfwright.formats.gdtf.modes import ModeReader, ModeSource
from zarfwright.formats.gdtf.odd import find_odd
from zarfwright.formats.gdtf.reading import Reading
from zarfwright.formats.gdtf.references import open_references
from zarfwright.formats.gdtf.values import read_number
from zarfwright.formats.ies import read_ies

NODES_MAX = 400_000
MODES_MAX = 200


def _property(reading: Reading, top: Element, name: str) -> float:
    node = top.find(f"PhysicalDescriptions/Properties/{name}")
    return reading.value(node, "Value", read_number, 0.0) if node is not None else 0.0


def _photometry(reading: Reading, geometries: tuple[Geometry, ...]) -> dict[str, dict[str, Any]]:
    """The IES files that lie beside beams, and what they come to."""
    files: dict[str, bytes] = {}
    webs: dict[str, WebInfo] = {}
    for node in (node for tree in geometries for node, _ in tree.walk() if node.beam is not None):
        data = reading.archive.find(f"ies/{node.name}.ies")
        if data is None:
            continue
        try:
            web, found = read_ies(data, f"{node.name}.ies")
        except FormatError as wrong:
            reading.found(f"Beam {node.name}", str(wrong), "its angles and flux are used")
            continue
        reading.findings += found
        files[node.name], webs[node.name] = data, web.info
    return {"ies": files, "webs": webs}


@dataclass(frozen=True)
class Source:
    """A file as it was read, beside what it was read from."""

    fixture_type: FixtureType
    root: Element
    top: Element
    modes: tuple[ModeSource, ...]


def _fixture_type(reading: Reading, top: Element) -> tuple[FixtureType, tuple[ModeSource, ...]]:
    raws = [read_geometry(reading, node) for node in top.findall("Geometries/*")]
    if not raws:
        raise FormatError(
            f"{reading.file_name} describes no geometry: there is nothing to hang. Ask the maker for another."
        )
    described = top.findall("DMXModes/DMXMode")
    if len(described) > MODES_MAX:
        reading.found("DMXModes", f"there are {len(described)} modes", f"the first {MODES_MAX} are taken")
    opened = open_references(reading, raws, {node.get("Geometry", "") for node in described[:MODES_MAX]})
    modes = ModeReader(reading, opened)
    read = tuple(mode for node in described[:MODES_MAX] if (mode := modes.mode(node)) is not None)
    read = tuple(modes.named_once(read))
    if not read:
        raise FormatError(f"{reading.file_name} has no mode with channels: no console can drive it.")
    wheels = tuple(physical.wheel(reading, node) for node in top.findall("Wheels/Wheel"))
    models = tuple(physical.model(reading, node) for node in top.findall("Models/Model"))
    described_there = "PhysicalDescriptions"
    fixture_type = FixtureType(
        name=(top.get("Name") or top.get("LongName") or "Unnamed type")[:120],
        maker=(top.get("Manufacturer") or "Unknown maker")[:120],
        type_id=top.get("FixtureTypeID", "")[:64],
        geometries=tuple(opened.trees),
        modes=read,
        models=models,
        wheels=wheels,
        emitters=tuple(physical.emitter(reading, n) for n in top.findall(f"{described_there}/Emitters/Emitter")),
        profiles=tuple(physical.profile(reading, n) for n in top.findall(f"{described_there}/DMXProfiles/DMXProfile")),
        filters=tuple(physical.colour_filter(reading, n) for n in top.findall(f"{described_there}/Filters/Filter")),
        description=top.get("Description", "")[:2000],
        weight_kg=_property(reading, top, "Weight"),
        power_w=_property(reading, top, "PowerConsumption"),
        images=physical.images(reading, wheels),
        own_meshes=physical.meshes(reading, models),
        **_photometry(reading, tuple(opened.trees)),
    )
    _named(reading, fixture_type)
    find_odd(reading, top, fixture_type)
    return fixture_type, tuple(modes.sources)


def _named(reading: Reading, fixture_type: FixtureType) -> None:
    """Names that lead nowhere are findings: what they would have done is not done."""
    known = {
        "wheel": {wheel.name for wheel in fixture_type.wheels},
        "emitter": {emitter.name for emitter in fixture_type.emitters},
        "filter": {one.name for one in fixture_type.filters},
        "curve": {profile.name for profile in fixture_type.profiles},
    }
    lost: dict[tuple[str, str], str] = {}
    for mode in fixture_type.modes:
        for channel in mode.channels:
            for f in channel.functions:
                for what, name in (
                    ("wheel", f.wheel),
                    ("emitter", f.emitter),
                    ("filter", f.filter),
                    ("curve", f.profile),
                ):
                    if name and name not in known[what]:
                        lost.setdefault((what, name), f"DMXMode {mode.name}, {channel.name}, {f.name}")
    for (what, name), where in lost.items():
        reading.found(where, f"it names the {what} “{name}”, which this file does not have", "read without it")


def parse_description(text: bytes, file_name: str) -> Element:
    """The root element of a description.xml. Raises FormatError."""
    try:
        require_no_doctype(text)
        return fromstring(text)
    except (ParseError, ExpatError) as wrong:
        line = wrong.position[0] if isinstance(wrong, ParseError) else wrong.lineno
        raise FormatError(f"{file_name}: its description.xml is not XML that can be read (line {line}).") from wrong
    except (DTDForbidden, ValueError, LookupError) as wrong:
        raise FormatError(
            f"{file_name}: its description.xml is not XML that can be read: it has a document type, or an encoding "
            "that no GDTF file has."
        ) from wrong


def require_no_doctype(text: bytes) -> None:
    """Refuse what could declare entities, before anything is built. Raises DTDForbidden.

    defusedxml's own tree builder runs in Python and takes three times as long as reading; without a document type there
    is nothing left for it to forbid.
    """
    if b"\0" not in text and b"<!DOCTYPE" not in text:
        return
    parser = ParserCreate()

    def doctype(name: str, system: str | None, public: str | None, _: int) -> None:
        raise DTDForbidden(name, system, public)

    parser.StartDoctypeDeclHandler = doctype
    parser.Parse(text, True)


def _described(archive: Archive, file_name: str) -> tuple[Element, Element]:
    """The root of the description, and its fixture type."""
    text = archive.find("description.xml")
    if text is None:
        raise FormatError(f"{file_name} is a zip without description.xml, so it is no GDTF file: choose another.")
    root = parse_description(text, file_name)
    if sum(1 for _ in root.iter()) > NODES_MAX:
        raise FormatError(f"{file_name} describes more than {NODES_MAX} parts: it is refused.")
    top = root if root.tag == "FixtureType" else root.find("FixtureType")
    if top is None:
        raise FormatError(f"{file_name}: its description.xml describes no fixture type.")
    return root, top


def read_gdtf(data: bytes, file_name: str) -> tuple[FixtureType, list[Oddity]]:
    """Read a GDTF file. Raises FormatError when it cannot be used at all: no zip, no description, no geometry."""
    archive = open_archive(data, file_name)
    reading = Reading(file_name, archive)
    with _no_collecting():
        fixture_type, _ = _fixture_type(reading, _described(archive, file_name)[1])
    return fixture_type, reading.findings


@contextmanager
def _no_collecting() -> Iterator[None]:
    """While hundreds of thousands of small values are made and none is let go, looking for cycles among them is a
    quarter of the time."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


def read_source(archive: Archive, file_name: str) -> Source:
    """Read an opened file, with what each part was read from. Raises FormatError as reading does."""
    root, top = _described(archive, file_name)
    fixture_type, modes = _fixture_type(Reading(file_name, archive), top)
    return Source(fixture_type, root, top, modes)


def repack(data: bytes, file_name: str) -> bytes:
    """An untouched type written back: every entry byte for byte, whether we have a view of it or not.

    Raises FormatError as reading does.
    """
    from zarfwright.formats.archive import write_archive

    archive = open_archive(data, file_name)
    _fixture_type(Reading(file_name, archive), _described(archive, file_name)[1])
    return write_archive(archive.entries)
