"""What a show offers, as the bytes of an MVR file."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from zarfwright.core.exchange.offered import Offer, plain_file_name
from zarfwright.core.exchange.received import KeptShape
from zarfwright.core.exchange.rows import STRAIGHT, Rows, inside, relative
from zarfwright.core.exchange.scene import FixtureSaid, Thing, dashed, uuid_of
from zarfwright.core.exchange.shapes import Look
from zarfwright.formats.archive import write_archive
from zarfwright.formats.findings import FormatError
from zarfwright.formats.mesh import write_glb
from zarfwright.formats.mvr.keep import Older, kept_of
from zarfwright.formats.mvr.values import write_address, write_colour, write_matrix

PROVIDER, PROVIDER_VERSION = "Zarfwright", "1"
DESCRIPTION = "GeneralSceneDescription.xml"
VERSION = ("1", "6")
FileOf = Callable[[str], tuple[str, bytes] | None]
"""Name and bytes of an asset."""


@dataclass(frozen=True)
class OlderFile:
    """A file that was taken in: its description, and its other entries with their assets."""

    description: bytes
    files: Mapping[str, str]


def _text(parent: Element, tag: str, text: str) -> None:
    SubElement(parent, tag).text = clean(text)


def clean(text: str) -> str:
    """Text without the signs that no XML may hold."""
    return re.sub(r"[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]", "", text)


class _Files:
    """The entries of the archive: each asset and each mesh once, under names that differ whatever their case."""

    def __init__(self, file_of: FileOf, older: Older) -> None:
        self.file_of, self.older = file_of, older
        self.entries: dict[str, bytes] = {}
        self._named: dict[str, str] = {}
        self._taken: set[str] = {name.casefold() for name in older.files}

    def add(self, key: str, name: str, data: bytes) -> str:
        """Put an entry in; gives the name that it has."""
        if key not in self._named:
            stem, dot, end = name.rpartition(".")
            free, n = name, 2
            while free.casefold() in self._taken:
                free, n = f"{stem} {n}{dot}{end}", n + 1
            self._taken.add(free.casefold())
            self._named[key], self.entries[free] = free, data
        return self._named[key]

    def asset(self, asset: str, name: str = "") -> str | None:
        """An asset of the show, untouched: under the name it came in with where that is so."""
        if asset in self._named:
            return self._named[asset]
        found = self.file_of(asset)
        if found is None:
            return None
        came_as = next((entry for entry, one in self.older.files.items() if one == asset), None)
        if came_as is not None:
            self._named[asset], self.entries[came_as] = came_as, found[1]
            return came_as
        return self.add(asset, plain_file_name(name or found[0]), found[1])

    def look(self, look: Look, thing: Thing) -> str | None:
        """The mesh of a thing."""
        if look.asset and (found := self.file_of(look.asset)) is not None and found[0].lower().endswith(".glb"):
            return self.asset(look.asset)
        if look.file is None:
            return None
        if look.key in self._named:
            return self._named[look.key]
        word = re.sub(r"[^a-z0-9]+", "-", thing.name.lower()).strip("-")[:30] or thing.tag.lower()
        return self.add(look.key, f"{word}-{look.key[:10]}.glb", write_glb(look.file))

    def keep(self, name: str) -> None:
        """An entry of an older file that something still names."""
        asset = self.older.files.get(name)
        if asset is not None and name not in self.entries and (found := self.file_of(asset)) is not None:
            self.entries[name] = found[1]


class _Writer:
    def __init__(self, offer: Offer, file_of: FileOf, older: Older, shapes: Mapping[str, KeptShape]) -> None:
        self.offer, self.older, self.shapes = offer, older, shapes
        self.files = _Files(file_of, older)
        self.specs: dict[str, str] = {}
        self.placed: dict[str, Rows] = {}
        self.positions: dict[str, str] = {}

    def run(self) -> bytes:
        major, minor = VERSION
        root = Element(
            "GeneralSceneDescription",
            verMajor=major,
            verMinor=minor,
            provider=PROVIDER,
            providerVersion=PROVIDER_VERSION,
        )
        for found in self.offer.scene.types.values():
            name = self.files.asset(found.asset, found.spec)
            if name is not None:
                self.specs[found.spec] = name
        user = SubElement(root, "UserData")
        scene = SubElement(root, "Scene")
        aux, layers = SubElement(scene, "AUXData"), SubElement(scene, "Layers")
        self._layers(layers)
        self._own(user)
        user.extend(self.older.user_data(PROVIDER))
        for key, name in self.positions.items():
            SubElement(aux, "Position", uuid=dashed(key), name=clean(name))
        aux.extend(self.older.aux({dashed(key) for key in self.positions}))
        if not len(aux):
            scene.remove(aux)
        self.older.loosen(root)
        for name in self.older.named_in(root):
            self.files.keep(name)
        indent(root)
        text = b'<?xml version="1.0" encoding="UTF-8"?>\n' + tostring(root, encoding="utf-8")
        return write_archive({DESCRIPTION: text, **self.files.entries}, stored=(".gdtf", ".png", ".jpg"))

    def _layers(self, parent: Element) -> None:
        made: dict[str, Element] = {}
        for key, name in self.offer.scene.layers:
            layer = SubElement(parent, "Layer", uuid=dashed(key), name=clean(name))
            self.older.fill(layer, key, frozenset({"Matrix", "ChildList"}))
            made[key] = SubElement(layer, "ChildList")
        nodes = self._nodes()
        lists = {
            **made,
            **{thing.uuid: inner for thing, node in nodes if (inner := node.find("ChildList")) is not None},
        }
        above = self._parents([thing for thing, _ in nodes], lists)
        for thing, node in nodes:
            outer = above.get(thing.uuid)
            where = lists[outer] if outer is not None else made.get(thing.layer or "", next(iter(made.values())))
            node[0].text = write_matrix(relative(self.placed.get(outer or "", STRAIGHT), self.placed[thing.uuid]))
            where.append(node)
        for where_uuid, lost in self.older.unknown({thing.uuid for thing, _ in nodes}):
            if where_uuid in lists:
                lists[where_uuid].append(lost)
        for node in parent.iter():
            empty = node.find("ChildList")
            if empty is not None and not len(empty):
                node.remove(empty)

    def _nodes(self) -> list[tuple[Thing, Element]]:
        """The elements of all things."""
        return [(thing, self._node(thing)) for thing in self.offer.scene.things]

    def _parents(self, things: list[Thing], lists: dict[str, Element]) -> dict[str, str]:
        """What things lie in: their group, or what they lay in in the file that they came in by; never in a circle."""
        found: dict[str, str] = {}
        for thing in things:
            outer = self.older.parent_of(thing.uuid)
            if outer not in lists or self.older.tag_of(outer or "") in (None, "GroupObject", "Layer"):
                outer = thing.group
            if outer is not None and outer in lists:
                found[thing.uuid] = outer
        for key in list(found):
            seen, at = {key}, found.get(key)
            while at is not None and at not in seen:
                seen.add(at)
                at = found.get(at)
            if at == key:
                del found[key]
        return found

    def _node(self, thing: Thing) -> Element:
        tag = self.older.tag_of(thing.uuid) or thing.tag
        # Fixtures have no names here: one that came in with one keeps it.
        name = (self.older.name_of(thing.uuid) if thing.said is not None else None) or thing.name
        node = Element(tag, uuid=dashed(thing.uuid), name=clean(name))
        SubElement(node, "Matrix")
        self.placed[thing.uuid] = thing.place
        ours = {"Matrix", "ChildList"}
        if thing.said is not None:
            ours |= self._fixture(node, thing, thing.said)
        elif thing.tag != "GroupObject":
            ours |= self._shape(node, thing)
        if thing.tag == "Support":
            self._position(node, thing.position)
            _text(node, "ChainLength", f"{thing.length_m * 1000:.3f}")
            ours |= {"Position", "ChainLength"}
        self.older.fill(node, thing.uuid, frozenset(ours))
        if not (thing.said is None and thing.tag == "FocusPoint"):
            SubElement(node, "ChildList")
        return node

    def _shape(self, node: Element, thing: Thing) -> set[str]:
        """What a thing looks like: as in the file that it came in by, where it still does."""
        kept = self.shapes.get(thing.uuid)
        if kept is not None and kept.shape == thing.shape and self.older.has(thing.uuid):
            if kept.frame is not None:
                self.placed[thing.uuid] = inside(thing.place, kept.frame)
            return set()
        geometries = SubElement(node, "Geometries")
        look = self.offer.looks.get(thing.shape)
        name = self.files.look(look, thing) if look is not None else None
        if name is not None:
            SubElement(geometries, "Geometry3D", fileName=name)
        return {"Geometries"}

    def _position(self, node: Element, name: str) -> None:
        if name:
            key = uuid_of(f"position {name}")
            self.positions[key] = name
            _text(node, "Position", dashed(key))

    def _fixture(self, node: Element, thing: Thing, said: FixtureSaid) -> set[str]:
        """What a fixture says; gives the tags that are ours."""
        _text(node, "GDTFSpec", self.specs.get(said.spec, said.spec))
        _text(node, "GDTFMode", said.mode)
        if said.focus is not None:
            _text(node, "Focus", dashed(said.focus))
        ours = {"GDTFSpec", "GDTFMode", "Focus", "Function", "FixtureID", "FixtureIDNumeric", "UnitNumber", "Color"}
        if thing.position:
            self._position(node, thing.position)
            ours.add("Position")
        if said.purpose:
            _text(node, "Function", said.purpose)
        _text(node, "FixtureID", self.older.identity_of(thing.uuid, said.number) or str(said.number or 0))
        _text(node, "FixtureIDNumeric", str(said.number or 0))
        if said.unit is not None:
            _text(node, "UnitNumber", str(said.unit))
        if said.addresses:
            addresses = SubElement(node, "Addresses")
            for number, universe, slot in said.addresses:
                # Counted from 0 in MVR, from 1 in GDTF.
                SubElement(addresses, "Address", {"break": str(number - 1)}).text = write_address(universe, slot)
        self.older.networks(node, thing.uuid)
        ours.add("Addresses")
        if said.colour is not None:
            _text(node, "Color", write_colour(said.colour))
        return ours

    def _own(self, user: Element) -> None:
        data = SubElement(user, "Data", provider=PROVIDER, ver=PROVIDER_VERSION)
        for thing in self.offer.scene.things:
            own = thing.own
            if own is None:
                continue
            given = {"uuid": dashed(thing.uuid), "kind": own.kind}
            if own.layer is not None:
                given["layer"] = dashed(own.layer)
            if own.inside is not None:
                given["inside"] = dashed(own.inside)
            SubElement(data, "Own", given).text = clean(own.text)


def write_mvr(
    offer: Offer, file_of: FileOf, older: Sequence[OlderFile] = (), shapes: Mapping[str, KeptShape] | None = None
) -> bytes:
    """An MVR file of what a show offers. The same offer gives the same bytes.

    `older` are the files that things came in by, the latest last: what of them nobody has a view of here comes along;
    `shapes` says how things looked in them. Raises FormatError where nothing is to be written.
    """
    if not offer.scene.things:
        raise FormatError("There is nothing to write: nothing of this show was chosen.")
    return _Writer(offer, file_of, kept_of(older), shapes or {}).run()
