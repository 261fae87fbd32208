"""Edits of connections: made, changed, silenced, or the only one that is heard."""

from __future__ import annotations

import ipaddress
import re
from dataclasses import replace
from typing import Any

from zarfwright.core.connections import LAST_UNIVERSE, LOOPBACK, PROTOCOLS, Connection, Protocol
from zarfwright.core.edits.base import Arguments, Edit, NewId, added, changed, free_name, made
from zarfwright.core.errors import JobError
from zarfwright.core.show import SHOW_ID, Show
from zarfwright.core.units import parse_count

RANGE = re.compile(r"\s*(\d{1,5})\s*(?:(?:-|–|to|\.\.)\s*(\d{1,5})\s*)?")


def parse_range(text: str, protocol: Protocol) -> tuple[int, int]:
    """Universes as typed: `231`, `231-240`, `231 to 240`; nothing typed: all. Raises JobError saying what there is."""
    least, most = PROTOCOLS[protocol]
    if not text.strip() or text.strip().casefold() == "all":
        return least, most
    match = RANGE.fullmatch(text)
    if match is None:
        raise JobError(f"“{text.strip()}” is no range of universes: type for instance 231 to 240.", "universes")
    first = int(match[1])
    last = int(match[2] or match[1])
    if not least <= first <= last <= most:
        raise JobError(f"{protocol} has the universes {least} to {most}: type a range of them.", "universes")
    return first, last


def _landing(text: str, first: int, last: int) -> int:
    try:
        lands = parse_count(text, 1, LAST_UNIVERSE)
    except JobError as wrong:
        raise JobError(f"“{text.strip()}” is no universe of the show: type 1 to {LAST_UNIVERSE}.", "lands") from wrong
    if first == last and lands + last - first > LAST_UNIVERSE:
        raise JobError(f"That would land past universe {LAST_UNIVERSE}: land it lower.", "lands")
    return lands


def _address(text: str) -> str:
    try:
        return str(ipaddress.IPv4Address(text.strip()))
    except ValueError as wrong:
        raise JobError(f"“{text.strip()}” is no IPv4 address: type for instance 10.0.0.5.", "address") from wrong


def _free(show: Show, name: str, besides: str = "") -> str:
    taken = {item.name.casefold() for item in show.of_kind("connection") if item.id != besides}
    if name.casefold() in taken:
        raise JobError(f"There is a connection {name} already: give it another name.", "name")
    return name


class AddConnection(Arguments):
    """A new connection. Where nothing is said of its universes, all are heard, and land as they are numbered; the first
    of Art-Net, port-address 0, on universe 1."""

    name: str = ""
    protocol: Protocol = "sACN"
    interface: str = LOOPBACK
    address: str = "127.0.0.1"
    universes: str = ""
    lands: str = ""
    multicast: bool = True


def add_connection(show: Show, args: AddConnection, new_id: NewId) -> Edit:
    name = _free(show, free_name(show, "connection", args.name, args.protocol))
    first, last = parse_range(args.universes, args.protocol)
    lands = _landing(args.lands or str(first + 1 - PROTOCOLS[args.protocol][0]), first, last)
    body = Connection(name, args.protocol, args.interface, _address(args.address), first, last, lands, args.multicast)
    item = added(show, "connection", [body], new_id)[0]
    return Edit((made(item),), f"Connect {name} by {args.protocol}", (item.id,))


class SetConnection(Arguments):
    """Change a connection; what is left out stays."""

    id: str
    name: str | None = None
    protocol: Protocol | None = None
    interface: str | None = None
    address: str | None = None
    universes: str | None = None
    lands: str | None = None
    multicast: bool | None = None
    listen: bool | None = None
    preview: bool | None = None


def set_connection(show: Show, args: SetConnection, _: NewId) -> Edit:
    item, before = show.thing(args.id, Connection)
    given: dict[str, Any] = args.model_dump(exclude_none=True, exclude={"id", "universes", "lands"})
    protocol = args.protocol or before.protocol
    if args.name is not None:
        given["name"] = _free(show, args.name.strip(), item.id)
        if not given["name"]:
            raise JobError("A connection needs a name: type at least one letter.", "name")
    if args.address is not None:
        given["address"] = _address(args.address)
    first, last, lands = before.first, before.last, before.lands
    if args.universes is not None:
        first, last = parse_range(args.universes, protocol)
    elif protocol != before.protocol:
        # Its universes are counted otherwise: the first of each is the first of the other.
        apart = PROTOCOLS[protocol][0] - PROTOCOLS[before.protocol][0]
        first, last = first + apart, min(last + apart, PROTOCOLS[protocol][1])
    lands = lands if args.lands is None else _landing(args.lands, first, last)
    after = replace(before, **given, first=first, last=last, lands=lands)
    if after == before:
        raise JobError(f"{before.name} is so already.")
    if args.listen is not None:
        said = f"{'Listen to' if args.listen else 'Silence'} {after.name}"
    else:
        said = f"Change the connection {after.name}"
    return Edit((changed(item, after),), said, (item.id,))


class HearOnly(Arguments):
    """Hear one connection only; none: all that are not silenced."""

    id: str | None


def hear_only(show: Show, args: HearOnly, _: NewId) -> Edit:
    name = show.thing(args.id, Connection)[1].name if args.id is not None else ""
    if args.id == show.settings.only_connection:
        raise JobError("It is so already.")
    after = replace(show.settings, only_connection=args.id)
    said = f"Hear only {name}" if name else "Hear all connections"
    return Edit((changed(show.items[SHOW_ID], after),), said, (args.id,) if args.id else ())
