"""What of older files is written back: the parts of their things that nobody here has a view of."""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator, Mapping, Sequence
from copy import deepcopy
from typing import TYPE_CHECKING
from xml.etree.ElementTree import Element, SubElement

from zarfwright.core.exchange.scene import TAGS
from zarfwright.formats.findings import FormatError
from zarfwright.formats.mvr.entries import MESH_ENDS, Names
from zarfwright.formats.mvr.tree import parse_scene
from zarfwright.formats.mvr.values import read_uuid

if TYPE_CHECKING:
    from zarfwright.formats.mvr.write import OlderFile

KNOWN = frozenset((*TAGS, "Layer"))

LOOSE = {".": {"UserData", "Scene"}, "Scene": {"AUXData", "Layers"}, "Scene/Layers": {"Layer"}}
"""Where elements may stand that are no things, and which of those are known."""


class Older:
    """The elements of older files by UUID; of two with one, the later file's."""

    def __init__(self, roots: Sequence[tuple[Element, Mapping[str, str]]]) -> None:
        self.files: dict[str, str] = {}
        self._nodes: dict[str, Element] = {}
        self._parents: dict[str, str] = {}
        self._unknown: dict[str, list[Element]] = {}
        self._aux: dict[tuple[str, str], Element] = {}
        self._data: list[Element] = []
        self._loose: dict[str, list[Element]] = {}
        self._attributes: dict[str, str] = {}
        for root, files in roots:
            self._name_apart(root, files)
            self._take(root)

    def _name_apart(self, root: Element, files: Mapping[str, str]) -> None:
        """Take the entries of a file; of two files that have something else under one name, the later one's gets
        another, in its description too."""
        there = {name.casefold(): asset for name, asset in self.files.items()}
        other: dict[str, str] = {}
        for name, asset in files.items():
            free, n = name, 2
            while there.get(free.casefold(), asset) != asset:
                stem, dot, end = name.rpartition(".")
                free, n = f"{stem or end} {n}{dot}{end if stem else ''}", n + 1
            there[free.casefold()] = asset
            self.files[free] = asset
            if free != name:
                other[name] = free
        if not other:
            return
        names = Names(files)
        for node in root.iter():
            for key, text in [("", node.text or ""), *node.attrib.items()]:
                found = names.find(text, ".gdtf", *MESH_ENDS) if text.strip() and key not in ("uuid", "name") else None
                if found is None or found[0] not in other:
                    continue
                if key:
                    node.set(key, other[found[0]])
                elif node.tag in ("GDTFSpec", "Gobo"):
                    node.text = other[found[0]]

    def _take(self, root: Element) -> None:
        for path, ours in LOOSE.items():
            place = root if path == "." else root.find(path)
            for child in place if place is not None else ():
                if child.tag not in ours:
                    self._loose.setdefault(path, []).append(child)
        self._attributes.update(root.attrib)
        for parent in root.iterfind("Scene/Layers/Layer"):
            self._node(parent, "")
        for aux in root.iterfind("Scene/AUXData/*"):
            self._aux[aux.tag, read_uuid(aux.get("uuid", aux.get("name", "")))[0]] = aux
        self._data = [*self._data, *root.iterfind("UserData/*")]

    def _node(self, node: Element, above: str) -> None:
        key = read_uuid(node.get("uuid", ""))[0]
        self._nodes[key], self._parents[key] = node, above
        self._unknown[key] = []
        for child in node.iterfind("ChildList/*"):
            if child.tag in KNOWN:
                self._node(child, key)
            else:
                self._unknown[key].append(child)

    def has(self, key: str) -> bool:
        return key in self._nodes

    def tag_of(self, key: str) -> str | None:
        """What a thing was in its file."""
        node = self._nodes.get(key)
        return node.tag if node is not None else None

    def name_of(self, key: str) -> str | None:
        node = self._nodes.get(key)
        return node.get("name") if node is not None else None

    def identity_of(self, key: str, number: int | None) -> str | None:
        """What a fixture with this number is called besides, such as A12, where the file has it so."""
        node = self._nodes.get(key)
        if node is None or (node.findtext("FixtureIDNumeric") or "0").strip() != str(number or 0):
            return None
        return (node.findtext("FixtureID") or "").strip() or None

    def parent_of(self, key: str) -> str | None:
        return self._parents.get(key)

    def fill(self, node: Element, key: str, ours: frozenset[str]) -> None:
        """Give an element what the older one has besides: attributes, and children of tags that are not `ours`."""
        old = self._nodes.get(key)
        if old is None:
            return
        for name, value in old.attrib.items():
            node.attrib.setdefault(name, value)
        node.extend(deepcopy(child) for child in old if child.tag not in ours)

    def loosen(self, root: Element) -> None:
        """Give a new description what stands about in the older ones: elements and attributes nobody here knows."""
        for name, value in self._attributes.items():
            root.attrib.setdefault(name, value)
        for path, nodes in self._loose.items():
            place = root if path == "." else root.find(path)
            if place is not None:
                place.extend(deepcopy(node) for node in nodes)

    def networks(self, node: Element, key: str) -> None:
        """Addresses of networks, which lie among those of universes."""
        old = self._nodes.get(key)
        kept = [child for child in old.iterfind("Addresses/*") if child.tag != "Address"] if old is not None else []
        if kept:
            addresses = node.find("Addresses")
            if addresses is None:
                addresses = SubElement(node, "Addresses")
            addresses.extend(deepcopy(child) for child in kept)

    def unknown(self, there: set[str]) -> Iterator[tuple[str, Element]]:
        """Elements among things that are none we know, with what they lie in: a thing that still is there, else a
        layer."""
        for key, nodes in self._unknown.items():
            for node in nodes:
                yield self._still(key, there), deepcopy(node)

    def _still(self, key: str, there: set[str]) -> str:
        while key not in there and self._parents.get(key):
            key = self._parents[key]
        return key

    def aux(self, ours: set[str]) -> list[Element]:
        """Symbols, classes, positions and mappings."""
        return [deepcopy(node) for node in self._aux.values() if node.get("uuid", "").upper() not in ours]

    def user_data(self, provider: str) -> list[Element]:
        """What other programs keep; of each the latest."""
        latest = {data.get("provider", ""): data for data in self._data if data.tag == "Data"}
        rest = [data for data in self._data if data.tag != "Data"]
        return [deepcopy(data) for data in (*latest.values(), *rest) if data.get("provider") != provider]

    def named_in(self, root: Element) -> Iterable[str]:
        """The entries of older files that go along: what the description names, and what nothing here knows."""
        if not self.files:
            return
        names = Names(self.files)
        for node in root.iter():
            for text in (*node.attrib.values(), node.text or ""):
                found = names.find(text, ".gdtf", *MESH_ENDS) if text.strip() else None
                # Words that happen to be called like a file in some folder do no harm: it goes along.
                if found is not None:
                    yield found[0]
        yield from (name for name in self.files if not name.lower().endswith((".gdtf", ".glb", ".gltf", ".3ds")))


def kept_of(older: Sequence[OlderFile]) -> Older:
    """The older files, read. One that cannot be read any more has nothing to keep."""
    roots = []
    for one in older:
        try:
            roots.append((parse_scene(one.description, "an older file"), one.files))
        except FormatError:
            continue
    return Older(roots)


def only_of(description: bytes, things: Container[str], names: Iterable[str]) -> set[str]:
    """The meshes of an archive that only these things (by UUID) are shown by: of the `names` of its entries."""
    root = parse_scene(description, "the file")
    theirs: set[str] = set()
    others: set[str] = set()
    for parent in root.iter():
        into = theirs if parent.tag in KNOWN and read_uuid(parent.get("uuid", ""))[0] in things else others
        into.update(
            node.get("fileName", "").replace("\\", "/").casefold() for node in parent.iterfind("Geometries/Geometry3D")
        )
    others.update(node.get("fileName", "").casefold() for node in root.iterfind("Scene/AUXData//Geometry3D"))
    return {name for name in names if name.casefold() in theirs and name.casefold() not in others}
