"""Connections: by which protocol, where and from which universes consoles are heard, and where they land in a show."""

from __future__ import annotations

import ipaddress
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

Protocol = Literal["sACN", "Art-Net"]
PROTOCOLS: dict[str, tuple[int, int]] = {"sACN": (1, 63999), "Art-Net": (0, 32767)}
"""The first and the last universe (in Art-Net: port-address) of each."""
LOOPBACK = "lo"
LAST_UNIVERSE = 63999


@dataclass(frozen=True)
class Connection:
    """What is heard: universes `first` to `last` of a protocol on an interface, the first of them landing on the show's
    universe `lands`, and so on."""

    name: str
    protocol: Protocol
    interface: str = LOOPBACK
    """The name of the interface; the loopback is always there."""
    address: str = "127.0.0.1"
    """The address that it had when it was chosen."""
    first: int = 1
    last: int = LAST_UNIVERSE
    lands: int = 1
    multicast: bool = True
    """Whether multicast (in Art-Net: broadcast) is heard as well as what is sent to this machine."""
    listen: bool = True
    preview: bool = False
    """Whether data that is marked as preview is shown."""

    def lands_on(self, universe: int) -> int | None:
        """Where a universe of the protocol lands in the show; None: nowhere."""
        landed = universe - self.first + self.lands
        return landed if self.first <= universe <= self.last and landed <= LAST_UNIVERSE else None

    def heard_as(self, universe: int) -> int | None:
        """Which universe of the protocol lands on one of the show; None: none."""
        theirs = universe - self.lands + self.first
        return theirs if self.first <= theirs <= self.last else None


def audible(connections: Sequence[tuple[str, Connection]], only: str | None) -> set[str]:
    """The ids of those that are listened to: the one that alone is to be heard, else all that are not silenced."""
    if any(key == only for key, _ in connections):
        return {key for key, _ in connections if key == only}
    return {key for key, one in connections if one.listen}


@dataclass(frozen=True)
class Interface:
    """A way into this machine: the IPv4 address of a network adapter."""

    name: str
    address: str
    prefix: int
    """How many bits of the address name its subnet."""
    up: bool = True
    """Whether there is a link."""

    @property
    def loopback(self) -> bool:
        return ipaddress.IPv4Address(self.address).is_loopback


@dataclass(frozen=True)
class Resolved:
    """Where a connection is heard now: the interface, and what is to be said of it; `nearest`: what to take instead of
    one that is gone."""

    interface: Interface | None
    said: str = ""
    nearest: Interface | None = None


def resolve(connection: Connection, interfaces: Sequence[Interface]) -> Resolved:
    """The interface of a connection among those there are now."""
    named = [one for one in interfaces if one.name == connection.interface]
    same = next((one for one in named if one.address == connection.address), None)
    if same is None and connection.interface == LOOPBACK:
        same = next((one for one in interfaces if one.loopback), None)
    if same is not None:
        said = "" if same.up else f"{same.name} has no link: plug its cable in, or switch the other end on."
        return Resolved(same, said)
    if named:
        return Resolved(named[0], f"{named[0].name} has another address now: {named[0].address}.")
    moved = next((one for one in interfaces if one.address == connection.address), None)
    if moved is not None:
        return Resolved(moved, f"{connection.address} is on {moved.name} now.")
    nearest = nearest_to(connection.address, interfaces)
    instead = f" Nearest to it is {nearest.name} ({nearest.address})." if nearest is not None else ""
    said = f"{connection.interface} ({connection.address}) is gone: nothing is heard there.{instead}"
    return Resolved(None, said, nearest)


def nearest_to(address: str, interfaces: Iterable[Interface]) -> Interface | None:
    """The interface whose address has most leading bits in common; one with a link and a network before the others."""
    wanted = int(ipaddress.IPv4Address(address))

    def rank(one: Interface) -> tuple[bool, bool, int]:
        apart = wanted ^ int(ipaddress.IPv4Address(one.address))
        return (one.up, not one.loopback, -apart.bit_length())

    return max(interfaces, key=rank, default=None)
