"""A small reader of GDTF (DIN SPEC 15800): what a console needs of it, modes with their channels.

It is the console's own: it shares nothing with the program's, so that a fault in one does not hide in the other.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from zarfwright.standins.console.hookup import RigError
from zarfwright.standins.console.patch import Channel, Function, Mode, told_apart

DESCRIPTION_MOST = 64 * 2**20
DEEP = 8
MANY = 4096


@dataclass(frozen=True)
class Type:
    """A fixture type."""

    name: str
    modes: tuple[Mode, ...]

    def mode(self, name: str) -> Mode | None:
        return next((one for one in self.modes if one.name.casefold() == name.casefold()), None)


@dataclass(frozen=True)
class _Instance:
    """A geometry as it stands in a mode: by its own name, or once for each reference to it, with that one's breaks."""

    label: str
    breaks: tuple[tuple[int, int], ...] = ()


def description_of(data: bytes, entry: str, most: int = DESCRIPTION_MOST) -> Element:
    """The XML of an archive. Raises RigError."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            name = next(
                (one for one in archive.namelist() if one.rsplit("/", 1)[-1].casefold() == entry.casefold()), ""
            )
            if not name:
                raise RigError(f"There is no {entry} in it.")
            with archive.open(name) as opened:
                text = opened.read(most + 1)
        if len(text) > most:
            raise RigError(f"Its {entry} is larger than this console reads.")
        made: Element = fromstring(text)
        return made
    except (zipfile.BadZipFile, ParseError, DefusedXmlException, OSError, ValueError, NotImplementedError) as wrong:
        raise wrong if isinstance(wrong, RigError) else RigError(f"It cannot be read: {wrong}.") from wrong


def read_gdtf(data: bytes) -> Type:
    """Read a type. Raises RigError."""
    kind = description_of(data, "description.xml").find("FixtureType")
    if kind is None:
        raise RigError("It describes no fixture type.")
    geometries = kind.find("Geometries")
    tops = {node.get("Name", ""): node for node in (geometries if geometries is not None else ())}
    modes = tuple(_mode(node, tops) for node in kind.iterfind("DMXModes/DMXMode"))
    if not modes:
        raise RigError("It has no mode.")
    return Type(kind.get("Name", ""), modes)


def _mode(node: Element, tops: dict[str, Element]) -> Mode:
    instances: dict[str, list[_Instance]] = {}
    top = tops.get(node.get("Geometry", ""))
    if top is not None:
        for name, instance in _walk(top, _Instance(""), tops, DEEP):
            instances.setdefault(name, []).append(instance)
    channels = []
    for one in node.iterfind("DMXChannels/DMXChannel"):
        for instance in instances.get(one.get("Geometry", ""), [_Instance("")]):
            made = _channel(one, instance)
            if made is not None:
                channels.append(made)
        if len(channels) > MANY:
            raise RigError(f"The mode {node.get('Name', '')} has more channels than this console knows.")
    footprints: dict[int, int] = {}
    for channel in channels:
        footprints[channel.brk] = max(footprints.get(channel.brk, 0), *channel.offsets)
    return Mode(node.get("Name", ""), told_apart(channels), footprints)


def _walk(node: Element, at: _Instance, tops: dict[str, Element], deep: int) -> Iterator[tuple[str, _Instance]]:
    """Every geometry below one, through references."""
    if node.tag == "GeometryReference":
        referred = tops.get(node.get("Geometry", ""))
        if referred is None or deep == 0:
            return
        breaks = tuple((int(b.get("DMXBreak", "1")), int(b.get("DMXOffset", "1"))) for b in node.iterfind("Break"))
        inside = _Instance(node.get("Name", ""), breaks or at.breaks)
        yield from _walk(referred, inside, tops, deep - 1)
        return
    yield node.get("Name", ""), at
    for child in node:
        if child.get("Name") is not None:
            yield from _walk(child, at, tops, deep)


def _channel(node: Element, at: _Instance) -> Channel | None:
    offset = node.get("Offset", "")
    if offset in ("", "None"):
        return None
    offsets = tuple(int(part) for part in offset.split(","))
    brk, start = _break_of(node.get("DMXBreak", "1"), at)
    size = len(offsets)
    functions = tuple(_functions(node, size))
    if not functions:
        return None
    shown = node.get("Highlight", "None")
    highlight = None if shown == "None" else raw_of(shown, size)
    return Channel(
        brk, tuple(start - 1 + one for one in offsets), functions, _default(node, size), highlight
    )  # fmt: skip


def _break_of(said: str, at: _Instance) -> tuple[int, int]:
    if said == "Overwrite":
        return at.breaks[-1] if at.breaks else (1, 1)
    brk = int(said)
    return next(((one, start) for one, start in at.breaks if one == brk), (brk, 1))


def _functions(node: Element, size: int) -> Iterator[Function]:
    """The functions of a channel, those of all its logical channels, by where they begin."""
    found = [
        (raw_of(function.get("DMXFrom", "0/1"), size), function, logical.get("Attribute", ""))
        for logical in node.iterfind("LogicalChannel")
        for function in logical.iterfind("ChannelFunction")
    ]
    found.sort(key=lambda one: one[0])
    top = 256**size - 1
    for n, (first, function, attribute) in enumerate(found):
        last = found[n + 1][0] - 1 if n + 1 < len(found) else top
        low, high = float(function.get("PhysicalFrom", "0")), float(function.get("PhysicalTo", "1"))
        name = function.get("Attribute", "NoFeature")
        yield Function(name if name != "NoFeature" else attribute, first, max(first, last), low, high)


def _default(node: Element, size: int) -> int:
    functions = list(node.iterfind("LogicalChannel/ChannelFunction"))
    wanted = node.get("InitialFunction", "").rsplit(".", 1)[-1]
    chosen = next((one for one in functions if one.get("Name") == wanted), functions[0] if functions else None)
    return raw_of(chosen.get("Default", "0/1"), size) if chosen is not None else 0


def raw_of(text: str, size: int) -> int:
    """A DMX value as GDTF writes it, at a channel of so many bytes: `128/1` repeats its byte, `128/1s` shifts it."""
    value, _, told = text.partition("/")
    bytes_, shifts = int(told.rstrip("s") or "1"), told.endswith("s")
    raw = int(value)
    if bytes_ == size or not told:
        return raw
    if bytes_ > size:
        return raw >> 8 * (bytes_ - size)
    if shifts:
        return raw << 8 * (size - bytes_)
    return int(raw * (256**size - 1) // (256**bytes_ - 1))
