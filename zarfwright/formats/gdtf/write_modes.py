"""Modes to GDTF: channels with their logical channels, functions, sets, masters; relations."""

from __future__ import annotations

from xml.etree.ElementTree import Element, SubElement

from zarfwright.core.types.model import Channel, ChannelFunction, Mode, ModeMaster
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf.values import write_dmx, write_number


def logical_attribute(channel: Channel, logical: int) -> str:
    """The attribute of a logical channel: its first function's, or what the channel's own name says."""
    prefix = f"{channel.geometry}_"
    if logical == channel.functions[0].logical and channel.key.startswith(prefix):
        return channel.key.removeprefix(prefix)
    return next(f.attribute for f in channel.functions if f.logical == logical)


def written_name(channel: Channel) -> str:
    """What readers will call it: its geometry and the attribute of its first logical channel."""
    return f"{channel.geometry}_{logical_attribute(channel, channel.functions[0].logical)}"


class _ModeWriter:
    def __init__(self, mode: Mode) -> None:
        self.mode = mode

    def channel_of(self, name: str, who: str) -> Channel:
        """The channel of a name. Raises FormatError where there is none: it would be said of another."""
        channel = self.mode.by_name.get(name)
        if channel is None:
            raise FormatError(
                f"{self.mode.name} cannot be written: {who} hangs on “{name}”, which is no channel of it. Choose "
                "another, or remove it."
            )
        return channel

    def function_path(self, name: str, function: str, who: str) -> str:
        channel = self.channel_of(name, who)
        found = next((f for f in channel.functions if f.name == function), None)
        if found is None:
            raise FormatError(
                f"{self.mode.name} cannot be written: {who} hangs on “{function}”, which {name} does not have. Choose "
                "another, or remove it."
            )
        return f"{written_name(channel)}.{logical_attribute(channel, found.logical)}.{found.name}"

    def master(self, master: ModeMaster, who: str) -> dict[str, str]:
        channel = self.channel_of(master.channel, who)
        size = max(len(channel.slots), 1)
        path = written_name(channel)
        if master.function:
            path = self.function_path(master.channel, master.function, who)
        return {"ModeMaster": path, "ModeFrom": write_dmx(master.low, size), "ModeTo": write_dmx(master.high, size)}

    def channel(self, parent: Element, channel: Channel) -> None:
        size = max(len(channel.slots), 1)
        rests = next((f for f in channel.functions if f.default is not None), channel.functions[0])
        initial = f"{written_name(channel)}.{logical_attribute(channel, rests.logical)}.{rests.name}"
        given = {
            "DMXBreak": str(channel.dmx_break),
            "Offset": ",".join(str(slot) for slot in channel.slots) or "None",
            "InitialFunction": initial,
            "Highlight": "None" if channel.highlight is None else write_dmx(channel.highlight, size),
            "Geometry": channel.geometry,
        }
        element = SubElement(parent, "DMXChannel", given)
        for number in dict.fromkeys(f.logical for f in channel.functions):
            about = {"Attribute": logical_attribute(channel, number), "Snap": "No", "Master": "None"}
            logical = SubElement(element, "LogicalChannel", {**about, "MibFade": "0.0", "DMXChangeTimeLimit": "0.0"})
            for function in channel.functions:
                if function.logical == number:
                    self.function(logical, function, size)

    def function(self, parent: Element, function: ChannelFunction, size: int) -> None:
        given = {
            "Name": function.name,
            "Attribute": function.attribute,
            "OriginalAttribute": "",
            "DMXFrom": write_dmx(function.start, size),
            "Default": write_dmx(function.start if function.default is None else function.default, size),
            "PhysicalFrom": write_number(function.physical[0]),
            "PhysicalTo": write_number(function.physical[1]),
            "RealFade": write_number(function.real_fade_s),
            "RealAcceleration": write_number(function.real_acceleration_s),
        }
        named = {
            "Wheel": function.wheel, "Emitter": function.emitter, "Filter": function.filter,
            "DMXProfile": function.profile,
        }  # fmt: skip
        given |= {key: value for key, value in named.items() if value}
        if function.master is not None:
            given |= self.master(function.master, function.name)
        node = SubElement(parent, "ChannelFunction", given)
        for part in function.sets:
            attributes = {"Name": part.name, "DMXFrom": write_dmx(part.start, size)}
            if part.slot is not None:
                attributes["WheelSlotIndex"] = str(part.slot)
            if part.physical is not None:
                attributes |= {
                    "PhysicalFrom": write_number(part.physical[0]),
                    "PhysicalTo": write_number(part.physical[1]),
                }
            SubElement(node, "ChannelSet", attributes)

    def write(self, parent: Element) -> None:
        mode = self.mode
        element = SubElement(parent, "DMXMode", Name=mode.name, Geometry=mode.geometry, Description=mode.description)
        channels = SubElement(element, "DMXChannels")
        for channel in mode.channels:
            self.channel(channels, channel)
        if mode.relations:
            relations = SubElement(element, "Relations")
            for n, relation in enumerate(mode.relations):
                SubElement(
                    relations,
                    "Relation",
                    Name=f"Relation {n + 1}",
                    Master=written_name(self.channel_of(relation.master, f"relation {n + 1}")),
                    Follower=self.function_path(relation.follower, relation.function, f"relation {n + 1}"),
                    Type=relation.kind,
                )


def write_mode(parent: Element, mode: Mode) -> None:
    """Append a mode to the DMXModes of a description."""
    _ModeWriter(mode).write(parent)
