"""A type that came out of a file, written so that the file keeps what nobody has changed.

What is as it was is taken over node by node, whether we have a view of it or not: sub-units, sub-sets, macros, wiring,
references. What was changed is written anew, with those attributes and children of the old node that we have no view
of. A mode whose channels changed differently in copies of one geometry can not be kept closed: its references are
opened, in a tree of its own, and that is said.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from copy import deepcopy
from dataclasses import dataclass, replace
from xml.etree.ElementTree import Element, SubElement

from zarfwright.core.types.model import Channel, FixtureType, Mode
from zarfwright.core.types.naming import unlike
from zarfwright.formats.gdtf.modes import ModeSource
from zarfwright.formats.gdtf.names import with_paths_that_lead
from zarfwright.formats.gdtf.read import Source
from zarfwright.formats.gdtf.write_geometry import write_geometry

OWN = frozenset({
    "AttributeDefinitions", "Wheels", "PhysicalDescriptions", "Models", "Geometries", "DMXModes",
})  # fmt: skip
LISTS = ("ActivationGroups", "FeatureGroups", "Attributes")


@dataclass(frozen=True)
class Lost:
    """Something of an older file that is not in the new one, or not as it was."""

    where: str
    what: str


def _by_name(nodes: Iterable[Element]) -> dict[str, Element]:
    found: dict[str, Element] = {}
    for node in nodes:
        found.setdefault(node.get("Name", ""), node)
    return found


def merged(fresh: Element, old: Element, ours: frozenset[str] = frozenset()) -> Element:
    """A node written anew with what the old one has besides: attributes that we do not write, and children of tags that
    are not `ours`; children that are, by name."""
    fresh.attrib.update({key: value for key, value in old.attrib.items() if key not in fresh.attrib})
    fresh.attrib.update({key: old.attrib[key] for key in AS_IT_WAS.get(fresh.tag, ()) if key in old.attrib})
    named = {(child.tag, child.get("Name", "")): child for child in reversed(list(old))}
    for child in fresh:
        before = named.get((child.tag, child.get("Name", "")))
        if before is not None and child.tag in DEEP:
            merged(child, before, DEEP[child.tag])
    fresh.extend(deepcopy(child) for child in old if child.tag not in ours)
    return fresh


AS_IT_WAS = {
    "LogicalChannel": ("Snap", "Master", "MibFade", "DMXChangeTimeLimit"),
    "ChannelFunction": ("OriginalAttribute",),
}
"""Attributes that we write as they usually are, for we have no view of them."""
DEEP: dict[str, frozenset[str]] = {
    "LogicalChannel": frozenset({"ChannelFunction"}),
    "ChannelFunction": frozenset({"ChannelSet"}),
    "ChannelSet": frozenset(),
    "Slot": frozenset({"Facet"}),
}
"""Nodes that we write with all of some of their children; the others are kept."""


def _definitions(fresh: Element, old: Element | None) -> Element:
    """The old definitions, with the attributes that are new in this type and what these name."""
    if old is None:
        return fresh
    made = deepcopy(old)
    lists = {name: _list(made, name) for name in LISTS}
    there = _by_name(lists["Attributes"])
    new = [node for node in _list(fresh, "Attributes") if node.get("Name", "") not in there]
    lists["Attributes"].extend(new)
    for node in new:
        group, _, feature = node.get("Feature", "").partition(".")
        _named(_named(lists["FeatureGroups"], "FeatureGroup", group, Pretty=group), "Feature", feature)
        if node.get("ActivationGroup"):
            _named(lists["ActivationGroups"], "ActivationGroup", node.get("ActivationGroup", ""))
    return made


def _list(parent: Element, name: str) -> Element:
    found = parent.find(name)
    return SubElement(parent, name) if found is None else found


def _named(parent: Element, tag: str, name: str, **given: str) -> Element:
    """The child of a name, made where there is none."""
    found = _by_name(parent).get(name)
    return SubElement(parent, tag, {"Name": name, **given}) if found is None else found


def _kept(fresh: Element, old: Element | None, same: dict[str, bool], ours: frozenset[str] = frozenset()) -> Element:
    """A list of named nodes: those that are the `same` as they were, the others with what they have besides."""
    if old is None:
        return fresh
    before = _by_name(old)
    nodes = list(fresh)
    for node in nodes:
        fresh.remove(node)
    for node in nodes:
        name = node.get("Name", "")
        was = before.get(name)
        if was is None:
            fresh.append(node)
        else:
            fresh.append(deepcopy(was) if same.get(name) else merged(node, was, ours))
    return fresh


def _same(now: Iterable[object], was: Iterable[object]) -> dict[str, bool]:
    before = {one.name: one for one in was}  # type: ignore[attr-defined]
    return {one.name: before.get(one.name) == one for one in now}  # type: ignore[attr-defined]


def _physical(fresh: Element, old: Element | None, now: FixtureType, was: FixtureType) -> Element:
    if old is None:
        return fresh
    lists = {
        "Emitters": _same(now.emitters, was.emitters),
        "Filters": _same(now.filters, was.filters),
        "DMXProfiles": _same(now.profiles, was.profiles),
    }
    made = Element("PhysicalDescriptions", dict(old.attrib))
    written = {child.tag: child for child in fresh}
    for child in old:
        mine = written.pop(child.tag, None)
        if mine is None:
            made.append(deepcopy(child))
        elif child.tag == "Properties":
            made.append(_properties(mine, child, now, was))
        else:
            made.append(_kept(mine, child, lists[child.tag], frozenset({"Measurement", "Point"})))
    made.extend(written.values())
    return made


def _properties(fresh: Element, old: Element, now: FixtureType, was: FixtureType) -> Element:
    made = deepcopy(old)
    for tag, changed in (("Weight", now.weight_kg != was.weight_kg), ("PowerConsumption", now.power_w != was.power_w)):
        node, mine = made.find(tag), fresh.find(tag)
        if mine is None or not changed:
            continue
        if node is None:
            made.append(mine)
        else:
            node.set("Value", mine.get("Value", "0"))
    return made


class _Modes:
    """The modes of a type over the geometries that its file has."""

    def __init__(self, source: Source, fresh: Element, now: FixtureType, geometries: Element) -> None:
        self.source, self.now, self.geometries = source, now, geometries
        self.written = list(fresh)
        self.lost: list[Lost] = []

    def source_of(self, mode: Mode) -> ModeSource | None:
        """What a mode was: by its name, else by its channels."""
        by_name = next((one for one in self.source.modes if one.mode.name == mode.name), None)
        if by_name is not None:
            return by_name
        taken = {one.name for one in self.now.modes}
        left = [one for one in self.source.modes if one.mode.name not in taken]
        return next((one for one in left if one.mode.channels == mode.channels), None)

    def run(self) -> Element:
        made = Element("DMXModes")
        made.extend(self.mode(mode, node) for mode, node in zip(self.now.modes, self.written, strict=True))
        return made

    def mode(self, mode: Mode, fresh: Element) -> Element:
        source = self.source_of(mode)
        if source is None:
            return self.opened(mode, fresh) if self.referenced(mode) else fresh
        node, was = source.node, source.mode
        own = {"Name": mode.name, "Geometry": node.get("Geometry", mode.geometry)}
        if mode.description != was.description:
            own["Description"] = mode.description
        given = {**node.attrib, **own}
        if (mode.channels, mode.relations) == (was.channels, was.relations):
            made = deepcopy(node)
            made.attrib.update(given)
            return made
        channels = self.channels(mode, source, fresh)
        if channels is None:
            self.lost.append(Lost(f"DMXMode {mode.name}", "its references are opened, for its channels were changed"))
            opened = self.opened(mode, fresh)
            opened.extend(deepcopy(child) for child in node if child.tag not in ("DMXChannels", "Relations"))
            return opened
        made = Element("DMXMode", given)
        made.append(channels)
        relations = node.find("Relations") if mode.relations == was.relations else fresh.find("Relations")
        if relations is not None:
            made.append(deepcopy(relations))
        made.extend(deepcopy(child) for child in node if child.tag not in ("DMXChannels", "Relations"))
        return made

    def referenced(self, mode: Mode) -> bool:
        """Whether a mode drives parts that are copies in our model and references in the file."""
        plain = {node.get("Name", "") for node in self.geometries.iter()}
        return any(channel.geometry not in plain for channel in mode.channels)

    def channels(self, mode: Mode, source: ModeSource, fresh: Element) -> Element | None:
        """The channels of a mode: old nodes where nothing but the slots has changed, new ones else. None: channels
        under references have changed, and can no longer be told in one node."""
        written = dict(zip(map(id, mode.channels), list(fresh.find("DMXChannels") or ()), strict=True))
        by_node: dict[int, list[tuple[Channel, bool]]] = {}
        nodes: dict[int, Element] = {}
        for node, channel, under in source.channels:
            by_node.setdefault(id(node), []).append((channel, under))
            nodes[id(node)] = node
        left = list(mode.channels)
        found: list[tuple[int, Element]] = []
        for key, group in by_node.items():
            now = [_counterpart(channel, left) for channel, _ in group]
            present = [one for one in now if one is not None]
            for one in present:
                left.remove(one)
            if not present:
                continue
            moved = _moved([(was, one) for (was, _), one in zip(group, now, strict=True) if one is not None])
            under = any(referenced for _, referenced in group)
            place = mode.channels.index(present[0])
            if len(present) == len(group) and moved is not None:
                found.append((place, _shifted(nodes[key], moved)))
            elif under or len(group) > 1:
                return None
            else:
                found.append((place, merged(written[id(present[0])], nodes[key], frozenset({"LogicalChannel"}))))
        if any(self.references(one) for one in left):
            return None
        found += [(mode.channels.index(one), written[id(one)]) for one in left]
        made = Element("DMXChannels")
        made.extend(node for _, node in sorted(found, key=lambda one: one[0]))
        return made

    def references(self, channel: Channel) -> bool:
        return channel.geometry not in {node.get("Name", "") for node in self.geometries.iter()}

    def opened(self, mode: Mode, fresh: Element) -> Element:
        """A mode over a tree of its own, with all references opened."""
        tree = self.now.root(mode)
        taken = {node.get("Name", "") for node in self.geometries.iter()}
        own = replace(tree, name=unlike(f"{tree.name} of {mode.name}".replace(".", "_"), taken))
        write_geometry(self.geometries, own)
        fresh.set("Geometry", own.name)
        for node in fresh.iter("DMXChannel"):
            if node.get("Geometry") == tree.name:
                node.set("Geometry", own.name)
                node.set("InitialFunction", node.get("InitialFunction", "").replace(f"{tree.name}_", f"{own.name}_", 1))
        return fresh


def _counterpart(was: Channel, channels: list[Channel]) -> Channel | None:
    """The channel of today that one of a file is: of its name and part."""
    alike = [one for one in channels if (one.geometry, one.name) == (was.geometry, was.name)]
    return next((one for one in alike if one.functions == was.functions), alike[0] if alike else None)


def _moved(pairs: list[tuple[Channel, Channel]]) -> int | None:
    """By how many slots all channels of a node lie elsewhere, where nothing else of them has changed."""
    steps = set()
    for was, now in pairs:
        if (was.functions, was.highlight, was.dmx_break) != (now.functions, now.highlight, now.dmx_break):
            return None
        steps |= {b - a for a, b in zip(was.slots, now.slots, strict=False)} or {0}
        if len(was.slots) != len(now.slots):
            return None
    return steps.pop() if len(steps) == 1 else None


def _shifted(node: Element, step: int) -> Element:
    made = deepcopy(node)
    offset = made.get("Offset", "")
    if step and offset not in ("", "None"):
        made.set("Offset", ",".join(str(int(part) + step) for part in offset.split(",")))
    return made


def keep(fresh: Element, now: FixtureType, source: Source) -> tuple[Element, list[Lost]]:
    """The root of a description, from one written anew and the file that the type came out of; and what is lost."""
    was, top = source.fixture_type, source.top
    mine = fresh.find("FixtureType")
    assert mine is not None
    parts = {child.tag: child for child in mine}
    made = Element("FixtureType", {**top.attrib, **_identity(now, was, top)})
    same_body = now.geometries == was.geometries and now.models == was.models
    old_trees = top.find("Geometries")
    kept_trees = deepcopy(old_trees) if same_body and old_trees is not None else parts["Geometries"]
    modes = _Modes(source, parts["DMXModes"], now, kept_trees)
    written = modes.run() if same_body else parts["DMXModes"]
    done = {
        "AttributeDefinitions": _definitions(parts["AttributeDefinitions"], top.find("AttributeDefinitions")),
        "Wheels": _kept(parts["Wheels"], top.find("Wheels"), _same(now.wheels, was.wheels), frozenset({"Slot"})),
        "PhysicalDescriptions": _physical(parts["PhysicalDescriptions"], top.find("PhysicalDescriptions"), now, was),
        "Models": _kept(parts["Models"], top.find("Models"), _same(now.models, was.models)),
        "Geometries": kept_trees,
        "DMXModes": written,
    }
    for child in top:
        made.append(done.pop(child.tag) if child.tag in done else deepcopy(child))
    made.extend(node for node in done.values() if len(node))
    root = Element("GDTF", dict(source.root.attrib) if source.root.tag == "GDTF" else dict(fresh.attrib))
    root.append(made)
    lost = [*modes.lost, *missing(top, made)]
    for tag, old, new in with_paths_that_lead(root):
        lost.append(Lost(f"{tag} {old}", f"a dot parts names in the standard: it is called “{new}”"))
    return root, lost


def _identity(now: FixtureType, was: FixtureType, top: Element) -> dict[str, str]:
    given = {"Name": now.name, "Manufacturer": now.maker, "FixtureTypeID": now.type_id}
    if now.description != was.description:
        given["Description"] = now.description
    if top.get("LongName") == was.name:
        given["LongName"] = now.name
    return given


REMADE = frozenset({"Position", "Offset", "Name", "Geometry", "InitialFunction", "Default"})


def _counts(top: Element) -> Counter[tuple[str, str]]:
    """How often each kind of node, and each attribute of one, is there."""
    found: Counter[tuple[str, str]] = Counter()
    for node in top.iter():
        found[node.tag, ""] += 1
        for key in node.attrib:
            if key not in REMADE:
                found[node.tag, key] += 1
    return found


WRITTEN = frozenset({
    "ChannelSet", "ChannelFunction", "LogicalChannel", "DMXChannel", "DMXMode", "Slot", "Wheel", "Emitter", "Filter",
    "Relation", "Facet", "Measurement", "MeasurementPoint", "Point", "DMXProfile", "Attribute", "Feature",
})  # fmt: skip
"""Kinds of node that people add and remove in the shop: fewer of them is no loss."""


def missing(old: Element, new: Element) -> list[Lost]:
    """Kinds of nodes and of their attributes that the new description has fewer of, or none."""
    before, after = _counts(old), _counts(new)
    lost = []
    for (tag, key), count in sorted(before.items()):
        now = after[tag, key]
        if now >= count or (not key and tag in WRITTEN) or (key and after[tag, ""] < before[tag, ""]):
            continue
        what = f"{key} of {count - now} nodes is" if key else f"{count - now} of {count} are"
        lost.append(Lost(tag, f"{what} not in it"))
    return lost


def kept_kinds(old: Element, new: Element) -> list[str]:
    """The kinds of nodes that are in both as often as they were."""
    before, after = _counts(old), _counts(new)
    return [f"{tag} ({count})" for (tag, key), count in sorted(before.items()) if not key and after[tag, ""] >= count]
