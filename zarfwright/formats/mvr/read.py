"""MVR to a scene. What can be used is used; what is odd becomes a finding, and the rest comes in."""

from __future__ import annotations

import uuid
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from hashlib import sha256
from xml.etree.ElementTree import Element

from zarfwright.core.exchange.rows import Rows, inside
from zarfwright.core.exchange.scene import OURS, TAGS, FixtureSaid, FoundType, Own, Scene, Tag, Thing
from zarfwright.core.plain import NAME_MOST
from zarfwright.core.types.model import FixtureType
from zarfwright.formats.archive import WHOLE_BYTES_MAX, Limits, Zip
from zarfwright.formats.findings import FormatError, Oddity
from zarfwright.formats.mvr.entries import Entries, Facts
from zarfwright.formats.mvr.reading import Reading
from zarfwright.formats.mvr.shapes import Piece, Shapes, composed
from zarfwright.formats.mvr.tree import parse_scene
from zarfwright.formats.mvr.values import read_address, read_colour, read_uuid
from zarfwright.formats.mvr.write import DESCRIPTION, PROVIDER

THINGS_MAX = 200_000
GROWS = 8
WHOLE_MAX = 2**30
BREAKS_MAX = 64


@dataclass(frozen=True)
class MvrFile:
    """A file that was read: its scene, the types in it by the name of their file, and what it is made of."""

    scene: Scene
    findings: tuple[Oddity, ...]
    description_name: str
    description: bytes
    archive: Zip
    types: Mapping[str, FixtureType] = field(default_factory=dict)
    pieces: Mapping[str, tuple[Piece, ...]] = field(default_factory=dict)
    """What each shape is made of."""
    type_entries: Mapping[str, str] = field(default_factory=dict)
    """The entries of the types."""
    composed: Mapping[str, bytes] = field(default_factory=dict)
    """The GLBs of shapes that are made of several meshes."""

    @property
    def to_compose(self) -> dict[str, tuple[Piece, ...]]:
        """What is still to be put together."""
        return {key: self.pieces[key] for key, shape in self.scene.shapes.items() if not shape.asset}

    def with_composed(self, made: Mapping[str, bytes | str]) -> MvrFile:
        """The file with shapes put together; what could not be is a finding, and nothing is shown."""
        shapes, findings = dict(self.scene.shapes), list(self.findings)
        for key, data in made.items():
            if isinstance(data, bytes):
                shapes[key] = replace(shapes[key], asset=sha256(data).hexdigest())
            else:
                findings.append(Oddity("Geometries", data, "not shown, but kept"))
                del shapes[key]
        things = tuple(
            replace(thing, shape="") if thing.shape not in shapes else thing for thing in self.scene.things
        )  # fmt: skip
        kept = {key: data for key, data in made.items() if isinstance(data, bytes)}
        return replace(
            self, scene=replace(self.scene, shapes=shapes, things=things), findings=tuple(findings), composed=kept
        )  # fmt: skip


def limits_for(size: int) -> Limits:
    """How much an MVR of so many bytes may hold: eight times as much, for meshes pack well, but no bomb."""
    whole = min(max(WHOLE_BYTES_MAX, GROWS * size), WHOLE_MAX)
    return Limits(entries=20_000, entry_bytes=min(whole, 2**29), whole_bytes=whole)


def read_mvr(data: bytes, file_name: str) -> MvrFile:
    """Read an MVR file. Raises FormatError when it cannot be used at all: no zip, no description, a hostile one."""
    limits = limits_for(len(data))
    found = read_scene(Zip(data, file_name, limits))
    return found.with_composed(composed(data, file_name, limits, found.to_compose))


def read_scene(archive: Zip, known: Mapping[str, Facts] | None = None) -> MvrFile:
    """The same of an archive of whose entries something is known already; shapes are still to be put together."""
    file_name = archive.file_name
    name = next((key for key in archive.names if key.rsplit("/", 1)[-1].casefold() == DESCRIPTION.casefold()), None)
    if name is None:
        raise FormatError(f"{file_name} is a zip without {DESCRIPTION}, so it is no MVR file: choose another.")
    description = archive.read(name)
    reader = _Reader(Reading(file_name, Entries(archive, known)), parse_scene(description, file_name))
    return reader.run(name, description)


@dataclass(frozen=True)
class _Where:
    """Where in the tree a thing is."""

    rows: Rows
    layer: str
    group: str | None


class _Reader:
    def __init__(self, reading: Reading, root: Element) -> None:
        self.reading, self.root = reading, root
        self.shapes = Shapes(reading, self._symdefs())
        self.positions = {
            read_uuid(node.get("uuid", ""))[0]: node.get("name", "") for node in root.iterfind("Scene/AUXData/Position")
        }
        self.owns = self._owns()
        self.things: list[Thing] = []
        self.layers: list[tuple[str, str]] = []
        self.taken: set[str] = set()
        self.specs: dict[str, FoundType] = {}
        self.types: dict[str, FixtureType] = {}
        self.type_entries: dict[str, str] = {}
        self.copies: dict[str, str] = {}

    def run(self, name: str, description: bytes) -> MvrFile:
        layers = self.root.find("Scene/Layers")
        if layers is None:
            raise FormatError(f"{self.reading.file_name} has no layers, so nothing is in its scene: export it again.")
        for node in layers:
            if node.tag == "Layer":
                self._layer(node)
            else:
                self.reading.found(f"Layers, {node.tag[:40]}", "nothing of that name belongs there", "kept as it is")
        things = self._settled()
        scene = Scene(
            tuple(things), tuple(self.layers), self.specs, self.shapes.found, self.root.get("provider", "")[:NAME_MOST],
            any(data.get("provider") == PROVIDER for data in self.root.iterfind("UserData/Data")),
        )  # fmt: skip
        return MvrFile(
            scene, tuple(self.reading.findings), name, description, self.reading.entries.archive, self.types,
            self.shapes.pieces, self.type_entries,
        )  # fmt: skip

    def _symdefs(self) -> dict[str, Element]:
        return {read_uuid(node.get("uuid", ""))[0]: node for node in self.root.iterfind("Scene/AUXData/Symdef")}

    def _owns(self) -> dict[str, Own]:
        """What this program wrote of things, by UUID."""
        found: dict[str, Own] = {}
        for data in self.root.iterfind("UserData/Data"):
            if data.get("provider") != PROVIDER:
                continue
            for node in data.iterfind("Own"):
                layer, inside_of = node.get("layer"), node.get("inside")
                found[read_uuid(node.get("uuid", ""))[0]] = Own(
                    node.get("kind", "")[:40],
                    node.text or "{}",
                    read_uuid(layer)[0] if layer else None,
                    read_uuid(inside_of)[0] if inside_of else None,
                )
        return found

    def _named(self, node: Element, where: str) -> str:
        """The UUID of an element, its own: one that is missing, broken or taken is made anew."""
        text = node.get("uuid", "").strip()
        key, proper = read_uuid(text) if text else (uuid.uuid5(OURS, f"{where} {len(self.taken)}").hex, True)
        if not text:
            self.reading.found(where, "it has no UUID", "given one")
        elif not proper:
            self.reading.found(where, f"“{text[:40]}” is no UUID", "given one made of it")
        if key in self.taken:
            self.reading.found(where, "its UUID belongs to another thing already", "given another")
            n = 2
            while (fresh := uuid.uuid5(OURS, f"{key} {n}").hex) in self.taken:
                n += 1
            key = fresh
        self.taken.add(key)
        return key

    def _layer(self, node: Element) -> None:
        name = node.get("name", "").strip()[:NAME_MOST] or f"Layer {len(self.layers) + 1}"
        where = f"Layer “{name}”"
        key = self._named(node, where)
        self.layers.append((key, name))
        self._children(node, _Where(self.reading.matrix(node, where), key, None))

    def _children(self, node: Element, at: _Where) -> None:
        for child in node.iterfind("ChildList/*"):
            if len(self.things) >= THINGS_MAX:
                raise FormatError(f"{self.reading.file_name} has more than {THINGS_MAX} things: export a part of it.")
            if child.tag in TAGS:
                self._thing(child, at)
            else:
                what = f"{child.tag[:40]} “{child.get('name', '')[:40]}”"
                self.reading.found(what, "nothing of that name is known here", "kept as it is, and not shown")

    def _thing(self, node: Element, at: _Where) -> None:
        name = node.get("name", "").strip()[:NAME_MOST]
        tag: Tag = node.tag  # type: ignore[assignment]
        where = f"{tag} “{name}”" if name else f"{tag} {node.get('uuid', '')[:36]}".strip()
        key = self._named(node, where)
        rows = inside(at.rows, self.reading.matrix(node, where))
        said = self._said(node, where) if tag == "Fixture" else None
        shape = "" if tag in ("Fixture", "GroupObject", "FocusPoint") else self.shapes.of(node, where)
        position = self.positions.get(read_uuid(self.reading.text(node, "Position"))[0], "")
        if node.get("multipatch"):
            self.copies[key] = read_uuid(node.get("multipatch", ""))[0]
        chain = self.reading.value(node, "ChainLength", float, 0.0, where) / 1000.0 if tag == "Support" else 0.0
        self.things.append(
            Thing(key, tag, name, rows, at.layer, at.group, said, shape, self.owns.get(key), position, length_m=chain)
        )
        group = key if tag == "GroupObject" else at.group
        self._children(node, _Where(rows, at.layer, group))

    def _said(self, node: Element, where: str) -> FixtureSaid:
        reading = self.reading
        spec = self._spec(reading.text(node, "GDTFSpec"), where)
        number = reading.value(node, "FixtureIDNumeric", int, 0, where)
        identity = reading.text(node, "FixtureID")[:NAME_MOST]
        if number <= 0 and identity.isdigit():
            number = int(identity)
        if number > 99_999:
            reading.found(where, f"its number {number} is more than 99999", "comes without a number")
            number = 0
        unit = reading.value(node, "UnitNumber", int, 0, where)
        function = node.find("Function")
        focus = reading.text(node, "Focus")
        return FixtureSaid(
            spec,
            reading.text(node, "GDTFMode")[:NAME_MOST],
            tuple(self._addresses(node, where)),
            number if number > 0 else None,
            unit if 0 < unit <= 99_999 else None,
            read_uuid(focus)[0] if focus else None,
            self._gel(node, where),
            (function.text or "").strip()[:NAME_MOST] if function is not None else None,
        )

    def _gel(self, node: Element, where: str) -> tuple[float, float, float] | None:
        """The colour before a fixture; the white that many programs write where there is none is none."""
        colour = self.reading.value(node, "Color", read_colour, None, where)
        if colour is None or max(abs(a - b) for a, b in zip(colour, (0.3127, 0.3290, 100.0), strict=True)) < 1e-3:
            return None
        return colour if colour[2] > 0 else None

    def _addresses(self, node: Element, where: str) -> Iterator[tuple[int, int, int]]:
        raw: list[tuple[int, tuple[int, int]]] = []
        for child in node.iterfind("Addresses/Address"):
            text = (child.text or "").strip()
            try:
                number, place = int(child.get("break", "0") or 0), read_address(text)
                if not 0 <= number <= BREAKS_MAX:
                    raise ValueError(f"“{number}” is no break")
            except (ValueError, OverflowError) as wrong:
                self.reading.found(where, f"an address of it cannot be used: {wrong}", "comes without it")
                continue
            if place is not None:
                raw.append((number, place))
        # Breaks are counted from 0 here, from 1 in GDTF; who counts from 1 here as well never has a 0.
        first = 1 if any(number == 0 for number, _ in raw) else 0
        seen: set[int] = set()
        for number, (universe, slot) in raw:
            if number + first in seen:
                self.reading.found(where, f"its break {number} has two addresses", "the first one is taken")
            else:
                seen.add(number + first)
                yield number + first, universe, slot

    def _spec(self, text: str, where: str) -> str:
        """The name of a fixture's type file, with what that says."""
        name = text or "no type"
        if name in self.specs:
            return name
        entry = self.reading.entry(text, where, "GDTF file", ".gdtf") if text else None
        maker, _, rest = (text.rsplit(".gdtf", 1)[0] if text.lower().endswith(".gdtf") else text).partition("@")
        bare = FoundType(name, (rest.split("@", 1)[0] or maker or "Unknown")[:120], (maker if rest else "")[:120])
        if entry is None:
            why = "it is not in the file" if text else "the file names no type for it"
            if not text:
                self.reading.found(where, "it names no type", "comes with a plain body")
            self.specs[name] = replace(bare, why=why)
            return name
        facts = self.reading.entries.facts(entry)
        fixture_type = facts.type
        if fixture_type is None:
            why = facts.problem or "it is no GDTF file"
            self.reading.found(f"Type {name}", why, "the file's own type is not used")
            self.specs[name] = replace(bare, why=why)
            return name
        for one in facts.odd[:20]:
            self.reading.found(f"Type {name}, {one.where}", one.what, one.done)
        sizes = {mode.name: sum(mode.footprints.values()) for mode in fixture_type.modes}
        self.types[name], self.type_entries[name] = fixture_type, entry
        self.specs[name] = FoundType(
            name, fixture_type.name, fixture_type.maker, facts.asset, fixture_type.type_id, sizes
        )
        return name

    def _settled(self) -> list[Thing]:
        """The things once all are known: what they refer to is there, copies have the address of what they copy."""
        there = {thing.uuid: thing for thing in self.things}
        points = {thing.uuid for thing in self.things if thing.tag == "FocusPoint"}
        found = []
        for thing in self.things:
            said = thing.said
            if said is not None and said.focus is not None and said.focus not in points:
                self.reading.found(
                    thing.called, "it is aimed at a focus point that the file does not have", "not aimed"
                )
                said = replace(said, focus=None)
            main = there.get(self.copies.get(thing.uuid, ""))
            if said is not None and main is not None and main.said is not None and not said.addresses:
                said = replace(said, addresses=main.said.addresses)
            found.append(replace(thing, said=said) if said is not thing.said else thing)
        # What this program wrote of things stands in the order of its show; the file's is that of the groups.
        order = {key: i for i, key in enumerate(self.owns)}
        return sorted(found, key=lambda thing: order.get(thing.uuid, len(order)))


__all__ = ["MvrFile", "limits_for", "read_mvr", "read_scene"]
