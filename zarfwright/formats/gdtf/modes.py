"""Modes of a GDTF description: channels, their functions, masters and relations, over the opened geometry trees."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from xml.etree.ElementTree import Element

from zarfwright.core.types.model import Channel, ChannelFunction, ChannelSet, Mode, ModeMaster, Relation
from zarfwright.core.types.naming import unlike
from zarfwright.formats.gdtf.reading import Reading
from zarfwright.formats.gdtf.references import Copy, Opened
from zarfwright.formats.gdtf.values import FIRST_BREAK, read_break, read_dmx, read_number

SLOT_MAX = 512
CHANNELS_MAX = 4096
"""Channels of one mode, with the references opened."""


@dataclass
class _Described:
    """A channel as it is described, once for all its copies; `masters` says of each function what text it names."""

    node: Element
    name: str
    geometry: str
    offsets: tuple[int, ...]
    dmx_break: int | None
    functions: list[ChannelFunction]
    masters: list[Element]
    highlight: int | None

    @property
    def size(self) -> int:
        return max(len(self.offsets), 1)


@dataclass
class _Known:
    """The channels of a mode by what masters and relations call them: as described, and where their copies stand."""

    described: dict[str, _Described] = field(default_factory=dict)
    placed: dict[str, list[tuple[Copy, str]]] = field(default_factory=dict)

    def has(self, channel: str, function: str) -> bool:
        return any(one.name == function for one in self.described[channel].functions)

    def nearest(self, channel: str, copy: Copy) -> str | None:
        """What a channel is called for one copy: the one under the same references, or under as many of them as there
        are."""
        found = self.placed.get(channel, [])
        fitting = [(len(c.under), name) for c, name in found if copy.under[: len(c.under)] == c.under]
        return max(fitting, key=lambda one: one[0])[1] if fitting else (found[0][1] if found else None)


def _last(path: str, names: list[str]) -> str:
    """The function that a node path ends in: of those that are there the longest, for some have dots in their names."""
    fitting = [name for name in names if path == name or path.endswith(f".{name}")]
    return max(fitting, key=len) if fitting else path.rsplit(".", maxsplit=1)[-1]


@dataclass(frozen=True)
class ModeSource:
    """A mode with the node that describes it, and each of its channels with its node and whether that stands under a
    reference (then it describes a channel for each copy)."""

    node: Element
    mode: Mode
    channels: tuple[tuple[Element, Channel, bool], ...]


class ModeReader:
    """Reads the modes of one description."""

    def __init__(self, reading: Reading, opened: Opened) -> None:
        self.reading, self.opened = reading, opened
        self.sources: list[ModeSource] = []

    def mode(self, node: Element) -> Mode | None:
        """One mode; None (and a finding) when nothing of it has an address."""
        name = node.get("Name", "Default")
        where = f"DMXMode {name}"
        geometry = self.geometry_of(node, where)
        copies = self.opened.copies[geometry]
        nodes = node.findall("DMXChannels/DMXChannel")
        if len(nodes) > CHANNELS_MAX:
            self.reading.found(where, f"it has {len(nodes)} channels", f"the first {CHANNELS_MAX} are taken")
        described = [one for child in nodes[:CHANNELS_MAX] if (one := self.described(child, name)) is not None]
        known = _Known()
        channels: list[Channel] = []
        sources: list[tuple[Element, Channel, bool]] = []
        for one in described:
            known.described.setdefault(one.name, one)
            for copy in self.copies_of(one, copies, geometry, name):
                known.placed.setdefault(one.name, []).append((copy, f"{copy.name}_{self.attribute_of(one)}"))
        for one in described:
            for copy in copies.get(one.geometry, [Copy(geometry)]):
                channel = self.channel(one, copy, known, name)
                if channel is not None:
                    channels.append(channel)
                    sources.append((one.node, channel, bool(copy.under)))
        if len(channels) > CHANNELS_MAX:
            self.reading.found(where, f"it comes to {len(channels)} channels", f"the first {CHANNELS_MAX} are taken")
        if not any(channel.slots for channel in channels):
            self.reading.found(where, "it has no channel with an address", "left out")
            return None
        relations = [r for child in node.findall("Relations/Relation") for r in self.relations(child, known, name)]
        made = Mode(
            name, geometry, tuple(channels[:CHANNELS_MAX]), tuple(relations), node.get("Description", "")[:2000]
        )
        self.sources.append(ModeSource(node, made, tuple(sources[:CHANNELS_MAX])))
        return made

    def named_once(self, modes: Iterable[Mode]) -> Iterator[Mode]:
        """The modes, of two of one name the second by another."""
        taken: set[str] = set()
        for n, mode in enumerate(modes):
            name = unlike(mode.name, taken)
            taken.add(name)
            if name != mode.name:
                self.reading.found(f"DMXMode {mode.name}", "two modes have this name", f"the second is called {name}")
                self.sources[n] = replace(self.sources[n], mode=replace(mode, name=name))
            yield self.sources[n].mode

    def geometry_of(self, node: Element, where: str) -> str:
        """The tree that a mode is of; the first one where it names none of the file's."""
        geometry = node.get("Geometry", "")
        if geometry in self.opened.copies:
            return geometry
        first = next(iter(self.opened.copies))
        self.reading.found(where, f"its geometry “{geometry}” is none of this file", f"taken over “{first}”")
        return first

    @staticmethod
    def attribute_of(one: _Described) -> str:
        return one.name.removeprefix(f"{one.geometry}_")

    def copies_of(self, one: _Described, copies: dict[str, list[Copy]], tree: str, mode: str) -> list[Copy]:
        if one.geometry not in copies:
            where = f"DMXMode {mode}, DMXChannel {one.name}"
            self.reading.found(where, f"its geometry “{one.geometry}” is not below “{tree}”", "it drives all of it")
            return [Copy(tree)]
        return copies[one.geometry]

    def described(self, node: Element, mode: str) -> _Described | None:
        logical = node.findall("LogicalChannel")
        geometry = node.get("Geometry", "")
        where = f"DMXMode {mode}, DMXChannel of {geometry or '?'}"
        first = (logical[0].get("Attribute") or "NoFeature") if logical else "NoFeature"
        offsets = self.offsets(node, where)
        if offsets is None:
            return None
        size = max(len(offsets), 1)
        functions: list[ChannelFunction] = []
        masters: list[Element] = []
        for n, part in enumerate(logical):
            for child in part.findall("ChannelFunction"):
                functions.append(self.function(child, size, part, n, len(functions)))
                masters.append(child)
        if not functions:
            self.reading.found(where, "it has no channel function", "left out")
            return None
        self.rest(node, functions, masters, size)
        order = sorted(range(len(functions)), key=lambda i: (functions[i].logical, functions[i].start))
        highlight = node.get("Highlight", "None").strip()
        return _Described(
            node=node,
            name=f"{geometry}_{first}",
            geometry=geometry,
            offsets=offsets,
            dmx_break=self.reading.value(node, "DMXBreak", read_break, FIRST_BREAK),
            functions=[functions[i] for i in order],
            masters=[masters[i] for i in order],
            highlight=None
            if highlight in ("None", "")
            else self.reading.value(node, "Highlight", lambda text: read_dmx(text, size), 256**size - 1),
        )

    def offsets(self, node: Element, where: str) -> tuple[int, ...] | None:
        """Slots of a channel from its description; () for a virtual one, None for one that cannot be."""
        text = node.get("Offset", "").strip()
        if text in ("", "None"):
            return ()
        try:
            slots = tuple(int(part) for part in text.split(","))
        except ValueError:
            slots = ()
        if not 1 <= len(slots) <= 4 or not all(1 <= slot <= SLOT_MAX for slot in slots):
            done = "left out"
            self.reading.found(where, f"its offset “{text[:40]}” is not one to four slots from 1 to {SLOT_MAX}", done)
            return None
        return slots

    def rest(self, node: Element, functions: list[ChannelFunction], nodes: list[Element], size: int) -> None:
        """GDTF states a default on each function; the one that the channel rests at is the initial function's."""
        names = [function.name for function in functions]
        text = node.get("InitialFunction", "")
        initial = _last(text, names)
        if text and initial not in names:
            where = f"DMXChannel {node.get('Geometry', '')}, {functions[0].attribute}"
            self.reading.found(
                where, f"it begins in “{text[:80]}”, which is none of its functions", "begins in the first"
            )
        rests = names.index(initial) if initial in names else 0
        # Before version 1.1 the channel itself said so.
        said = node if node.get("Default") else nodes[rests]
        value = self.reading.value(said, "Default", lambda text: read_dmx(text, size), 0)
        functions[rests] = replace(functions[rests], default=value)

    def function(self, node: Element, size: int, logical: Element, number: int, count: int) -> ChannelFunction:
        def dmx(text: str) -> int:
            return read_dmx(text, size)

        value = self.reading.value
        start = value(node, "DMXFrom", dmx, 0)
        sets = [self.set(part, size, start) for part in node.findall("ChannelSet")]
        attribute = node.get("Attribute") or logical.get("Attribute") or "NoFeature"
        return ChannelFunction(
            name=node.get("Name") or f"{attribute} {count + 1}",
            attribute=attribute,
            start=start,
            physical=self.physical(node),
            wheel=node.get("Wheel") or None,
            emitter=node.get("Emitter") or None,
            filter=node.get("Filter") or None,
            sets=tuple(sorted(sets, key=lambda part: part.start)),
            real_fade_s=max(value(node, "RealFade", read_number, 0.0), 0.0) if node.get("RealFade") else 0.0,
            real_acceleration_s=max(value(node, "RealAcceleration", read_number, 0.0), 0.0),
            profile=node.get("DMXProfile") or None,
            logical=number,
        )

    def set(self, part: Element, size: int, start: int) -> ChannelSet:
        """A part of a function. Big files have hundreds of thousands: what is plain is read straight away."""
        value, get = self.reading.value, part.get
        text, slot = get("DMXFrom"), get("WheelSlotIndex")
        try:
            begins = read_dmx(text, size) if text else start
        except ValueError:
            begins = value(part, "DMXFrom", lambda said: read_dmx(said, size), start)
        index = (int(slot) if slot.isdigit() else value(part, "WheelSlotIndex", int, 0)) if slot else 0
        own = self.physical(part) if get("PhysicalFrom") is not None else None
        return ChannelSet(get("Name", ""), begins, index or None, own)

    def physical(self, node: Element) -> tuple[float, float]:
        value = self.reading.value
        return value(node, "PhysicalFrom", read_number, 0.0), value(node, "PhysicalTo", read_number, 1.0)

    def channel(self, one: _Described, copy: Copy, known: _Known, mode: str) -> Channel | None:
        """One copy of a channel, with its slots moved and its masters named as they are for this copy."""
        where = f"DMXMode {mode}, DMXChannel {one.name}"
        number, moved = one.dmx_break or 1, 0
        if one.offsets:
            number, moved, has_break = copy.place(one.dmx_break, 0)
            if not has_break:
                where_copy = f"{where}, in {copy.under[-1].name}"
                self.reading.found(where_copy, f"the reference has no break {number}", "taken to begin at its slot 1")
        slots = tuple(offset + moved for offset in one.offsets)
        if not all(1 <= slot <= SLOT_MAX for slot in slots):
            self.reading.found(where, f"it comes to lie on slot {max(slots)}, past {SLOT_MAX}", "left out")
            return None
        functions = tuple(
            function if (master := self.master(node, copy, known, where)) is None else replace(function, master=master)
            for function, node in zip(one.functions, one.masters, strict=True)
        )
        name = f"{copy.name}_{self.attribute_of(one)}"
        channel = Channel(copy.name, slots, functions, one.highlight, number)
        return channel if channel.name == name else replace(channel, key=name)

    def master(self, node: Element, copy: Copy, known: _Known, where: str) -> ModeMaster | None:
        text = node.get("ModeMaster", "").strip()
        if not text or text == "None":
            return None
        channel, _, rest = text.partition(".")
        name = known.nearest(channel, copy)
        if name is None:
            function = node.get("Name", "")
            self.reading.found(f"{where}, {function}", f"its master “{text}” is no channel of the mode", "always there")
            return None
        size = known.described[channel].size

        def dmx(text: str) -> int:
            return read_dmx(text, size)

        low, high = self.reading.value(node, "ModeFrom", dmx, 0), self.reading.value(node, "ModeTo", dmx, 0)
        if low > high:
            what = f"it is there from {low} to {high} of {channel}, which is backwards"
            self.reading.found(f"{where}, {node.get('Name', '')}", what, f"there from {high} to {low}")
            low, high = high, low
        own = _last(text, [one.name for one in known.described[channel].functions]) if rest else None
        if own is not None and not known.has(channel, own):
            self.reading.found(
                f"{where}, {node.get('Name', '')}", f"{channel} has no function “{own}”", "it is never there"
            )
        return ModeMaster(name, own, low, high)

    def relations(self, node: Element, known: _Known, mode: str) -> list[Relation]:
        """A relation, once for each copy of its follower."""
        where = f"DMXMode {mode}, Relation {node.get('Name', '')}".rstrip()
        kind = node.get("Type", "Override")
        master = node.get("Master", "").partition(".")[0]
        follower, _, path = node.get("Follower", "").partition(".")
        if kind not in ("Multiply", "Override"):
            self.reading.found(where, f"its type “{kind}” is neither Multiply nor Override", "left out")
            return []
        lost = next((name for name in (master, follower) if name not in known.placed), None)
        if lost is not None or not path:
            self.reading.found(where, f"“{lost or follower}” is no channel function of the mode", "left out")
            return []
        wanted = _last(f"{follower}.{path}", [one.name for one in known.described[follower].functions])
        if not known.has(follower, wanted):
            self.reading.found(where, f"{follower} has no function “{wanted}”", "left out")
            return []
        made = []
        for copy, name in known.placed[follower]:
            above = known.nearest(master, copy)
            if above is not None:
                made.append(Relation(kind, above, name, wanted))
        return made
