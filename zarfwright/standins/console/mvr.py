"""A small reader and writer of MVR (DIN SPEC 15801): the fixtures of a scene, and what else it has, as it came.

The console's own, as its GDTF reader is.
"""

from __future__ import annotations

import io
import re
import uuid
import zipfile
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from xml.etree.ElementTree import Element, SubElement, tostring

import numpy as np

from zarfwright.standins.console.gdtf import Type, description_of, read_gdtf
from zarfwright.standins.console.hookup import RigError
from zarfwright.standins.console.patch import Fixture

DESCRIPTION = "GeneralSceneDescription.xml"
ENTRY_MOST, WHOLE_MOST, ENTRIES_MOST = 128 * 2**20, 512 * 2**20, 20_000
OTHERS = {"Truss": "structures", "Support": "supports", "SceneObject": "pieces of scenery", "VideoScreen": "screens",
          "Projector": "projectors", "FocusPoint": "focus points"}  # fmt: skip


@dataclass(frozen=True)
class Said:
    """What a scene says of a fixture."""

    key: str
    number: int | None
    name: str
    file: str
    mode: str
    addresses: tuple[tuple[int, int], ...]
    """Universe and slot, in the order of breaks."""
    place: tuple[float, float, float]
    matrix: str


@dataclass(frozen=True)
class Scene:
    """A scene: its fixtures, the types that came along, why others cannot be used, and the rest, counted."""

    fixtures: tuple[Said, ...]
    types: Mapping[str, Type] = field(default_factory=dict)
    faults: Mapping[str, str] = field(default_factory=dict)
    others: Mapping[str, int] = field(default_factory=dict)
    data: bytes = b""


def read_mvr(data: bytes) -> Scene:
    """Read a scene. Raises RigError."""
    root = description_of(data, DESCRIPTION)
    layers = root.find("Scene/Layers")
    if layers is None:
        raise RigError("The scene has no layers.")
    fixtures: list[Said] = []
    others: Counter[str] = Counter()
    for node, place in _things(layers, np.eye(4)):
        if node.tag == "Fixture":
            fixtures.append(_said(node, place))
        elif node.tag in OTHERS:
            others[OTHERS[node.tag]] += 1
    types, faults = _types(data, {one.file for one in fixtures})
    return Scene(tuple(fixtures), types, faults, dict(others), data)


def _things(node: Element, at: np.ndarray) -> Iterator[tuple[Element, np.ndarray]]:
    """Every object below a node with where it lies, by way of layers and groups."""
    for child in node:
        if child.tag in ("ChildList", "Layer", "GroupObject"):
            yield from _things(child, at @ _matrix(child))
        elif child.tag in OTHERS or child.tag == "Fixture":
            here = at @ _matrix(child)
            yield child, here
            inside = child.find("ChildList")
            if inside is not None:
                yield from _things(inside, here)


def _matrix(node: Element) -> np.ndarray:
    """Four rows of three, millimetres, the place last, as a matrix of columns in metres."""
    made = np.eye(4)
    text = node.findtext("Matrix")
    if not text:
        return made
    numbers = [float(part) for part in re.findall(r"[-+0-9.eE]+", text)]
    if len(numbers) == 12:
        made[:3, :] = np.array(numbers).reshape(4, 3).T
        made[:3, 3] /= 1000.0
    return made


def _said(node: Element, place: np.ndarray) -> Said:
    numbers = [text for tag in ("FixtureIDNumeric", "FixtureID") if (text := (node.findtext(tag) or "").strip())]
    number = next((int(text) for text in numbers if text.isdigit() and int(text)), None)
    found = sorted(
        (int(one.get("break", "0")), one.text or "") for one in node.iterfind("Addresses/Address")
    )  # fmt: skip
    addresses = tuple(address for _, text in found if (address := _address(text)) is not None)
    x, y, z = (float(part) for part in place[:3, 3])
    return Said(
        node.get("uuid", "").lower(), number, node.get("name", ""), node.findtext("GDTFSpec") or "",
        node.findtext("GDTFMode") or "", addresses, (x, y, z), _rows(place),
    )  # fmt: skip


def _rows(matrix: np.ndarray) -> str:
    """A place as MVR writes it."""
    rows = matrix[:3, :].T.copy()
    rows[3] *= 1000.0
    return "".join("{" + ",".join(f"{part:.9g}" for part in row) + "}" for row in rows)


def _address(text: str) -> tuple[int, int] | None:
    """Universe and slot of `2.1` or of a count over all universes from 1; None of none."""
    plain = text.strip()
    if match := re.fullmatch(r"(\d+)\.(\d+)", plain):
        return int(match[1]), int(match[2])
    if not plain.isdigit() or int(plain) < 1:
        return None
    return (int(plain) - 1) // 512 + 1, (int(plain) - 1) % 512 + 1


def _types(data: bytes, wanted: set[str]) -> tuple[dict[str, Type], dict[str, str]]:
    types: dict[str, Type] = {}
    faults: dict[str, str] = {}
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        entries = {info.filename.casefold(): info for info in archive.infolist()[:ENTRIES_MOST]}
        whole = 0
        for name in sorted(wanted):
            info = entries.get(name.casefold()) or entries.get(f"{name}.gdtf".casefold())
            if info is None:
                faults[name] = "its GDTF is not in the file"
                continue
            with archive.open(info) as opened:
                read = opened.read(ENTRY_MOST + 1)
            whole += len(read)
            if len(read) > ENTRY_MOST or whole > WHOLE_MOST:
                raise RigError("The scene is larger than this console reads.")
            try:
                types[name] = read_gdtf(read)
            except (RigError, ValueError, TypeError) as wrong:
                faults[name] = f"its GDTF cannot be used: {wrong}"
    return types, faults


def write_mvr(fixtures: Sequence[Fixture], files: Mapping[str, bytes], provider: str) -> bytes:
    """The console's own rig: fixtures with their places, modes, addresses and the types that they came with."""
    root = Element("GeneralSceneDescription", verMajor="1", verMinor="6", provider=provider, providerVersion="1")
    layers = SubElement(SubElement(root, "Scene"), "Layers")
    layer = SubElement(layers, "Layer", uuid=str(uuid.uuid5(uuid.NAMESPACE_OID, provider)).upper(), name="Patch")
    below = SubElement(layer, "ChildList")
    for one in fixtures:
        node = SubElement(below, "Fixture", uuid=_uuid(one.key), name=one.name)
        place = ",".join(f"{1000 * part:.3f}" for part in (one.x, one.y, one.z))
        SubElement(node, "Matrix").text = one.matrix or "{1,0,0}{0,1,0}{0,0,1}{" + place + "}"
        SubElement(node, "GDTFSpec").text = one.file or f"{one.type}.gdtf"
        SubElement(node, "GDTFMode").text = one.mode.name
        addresses = SubElement(node, "Addresses")
        for n, brk in enumerate(sorted(one.addresses)):
            universe, slot = one.addresses[brk]
            SubElement(addresses, "Address", {"break": str(n)}).text = str((universe - 1) * 512 + slot)
        SubElement(node, "FixtureID").text = str(one.number or "")
        if one.number is not None:
            SubElement(node, "FixtureIDNumeric").text = str(one.number)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(DESCRIPTION, tostring(root, encoding="utf-8", xml_declaration=True))
        for name, data in files.items():
            archive.writestr(name, data, zipfile.ZIP_STORED)
    return out.getvalue()


def _uuid(key: str) -> str:
    try:
        return str(uuid.UUID(key)).upper()
    except ValueError:
        return str(uuid.uuid5(uuid.NAMESPACE_OID, key)).upper()


def files_of(data: bytes, names: set[str]) -> dict[str, bytes]:
    """The entries of some names as they came."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        return {name: archive.read(name) for name in archive.namelist() if name in names}
