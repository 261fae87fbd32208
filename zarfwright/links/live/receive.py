"""The receive thread: all sockets of all protocols, packets straight into the engine.

What is sent to one address comes in on a socket bound to it. Multicast, broadcast and what is sent to another address
of this machine come in on wide sockets, which say where each packet was sent to and by which interface it came.
"""

from __future__ import annotations

import logging
import os
import selectors
import socket
import struct
import threading
from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

from zarfwright.links import artnet, sacn
from zarfwright.links.capture import Datagram, Place, Tap
from zarfwright.links.interfaces import holder, index_of
from zarfwright.links.live import clock
from zarfwright.links.live.inputs import Heard, Key

BUFFER_BYTES = 4 * 2**20
JOINS_MOST = 20
"""Groups that one socket may join (the system's usual limit)."""
SIZE = 2048
BATCH = 64
"""Packets read of one socket before the others have their turn."""
AGAIN_S = 1.0
ANSWER_EVERY_S = 0.2
ELSEWHERE_MOST = 64
# Linux: no packets of groups that another socket of this machine joined; where a packet was sent to.
IP_MULTICAST_ALL, IP_PKTINFO = 49, 8
log = logging.getLogger(__name__)
Take = Callable[[Key, Sequence[tuple[bytes, str]], float], None]
Answers = Callable[[Key], list[tuple[str, bytes]]]
"""What is to be answered on an address: to whom, and what."""


@dataclass
class Elsewhere:
    """What was sent to an address of this machine that no connection listens on."""

    protocol: str
    address: str
    packets: int = 0
    sender: str = ""
    universes: set[int] = field(default_factory=set)


@dataclass
class Wide:
    """A wide socket, and the (group, address) that it has joined."""

    socket: socket.socket
    joined: set[tuple[str, str]] = field(default_factory=set)


@dataclass(frozen=True)
class Wanted:
    """What to listen to: connections by listener, groups by listener; `around`: protocols of which also is noted what
    comes to other addresses, though no connection speaks them."""

    heard: tuple[Heard, ...] = ()
    groups: Mapping[Key, frozenset[int]] = field(default_factory=dict)
    around: frozenset[str] = frozenset()

    def keys(self) -> set[Key]:
        return {one.key for one in self.heard if one.key is not None}


class Receiver:
    """Listens for whatever is wanted, in a thread of its own that alone touches the sockets."""

    def __init__(self, take: Take, answers: Answers, ports: Mapping[str, int]) -> None:
        self.take, self.answers, self.ports = take, answers, ports
        self.problems: dict[Key, str] = {}
        self.refused: dict[Key, str] = {}
        """Why multicast is not heard whole on an address, in words."""
        self.elsewhere: dict[tuple[str, str], Elsewhere] = {}
        self.tap: Tap | None = None
        """Where all that comes in is kept as well."""
        self._bound: dict[Key, socket.socket] = {}
        self._wide: dict[str, list[Wide]] = {}
        self._near: dict[tuple[str, int], list[Key]] = {}
        self._selector = selectors.DefaultSelector()
        self._wanted = self._tried = Wanted()
        self._followed = True
        self._waker, self._woken = socket.socketpair()
        self._selector.register(self._woken, selectors.EVENT_READ, self._drain)
        self._stopped = False
        self._tried_at = 0.0
        self._answered: dict[Key, float] = {}
        self._thread = threading.Thread(target=self._run, name="receive", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def listen_to(self, wanted: Wanted) -> None:
        """Listen to this from now on; whoever stays is not interrupted."""
        if wanted != self._wanted:
            self._wanted = wanted
            self._waker.send(b"!")

    def stop(self) -> None:
        self._stopped = True
        self._waker.send(b"!")
        if self._thread.is_alive():
            self._thread.join(2.0)

    # The thread

    def _run(self) -> None:
        while not self._stopped:
            now = clock.now()
            again = (self.problems or self.refused or not self._followed) and now - self._tried_at > AGAIN_S
            if self._wanted is not self._tried or again:
                self._tried, self._tried_at = self._wanted, now
                self._followed = self._try_to_follow(self._wanted)
            for key, _ in self._selector.select(0.5):
                try:
                    key.data()
                except Exception:  # a packet must never end the thread
                    log.exception("a packet could not be taken in")
        for one in [*self._bound.values(), *(wide.socket for all_of in self._wide.values() for wide in all_of)]:
            one.close()

    def _drain(self) -> None:
        self._woken.recv(100)

    def _try_to_follow(self, wanted: Wanted) -> bool:
        try:
            self._follow(wanted)
        except Exception:  # whatever the system refuses must not end the thread: it is tried again
            log.exception("what is to be listened to could not be followed")
            return False
        return True

    def _follow(self, wanted: Wanted) -> None:
        """Open and close sockets, join and leave groups, until it is as wanted."""
        keys = wanted.keys()
        for key in self._bound.keys() - keys:
            self._close(self._bound.pop(key))
        for key in self.problems.keys() - keys:
            del self.problems[key]
        self._near = {}
        for one in wanted.heard:
            if one.key is not None and one.interface is not None and one.connection.multicast:
                near = self._near.setdefault((one.key[0], index_of(one.interface.name)), [])
                near += [one.key] if one.key not in near else []
        many = {key for near in self._near.values() for key in near}
        self.refused = {key: said for key, said in self.refused.items() if key in many}
        # Not for connections that hear one address only: another program may want the port on the others.
        protocols = {one.key[0] for one in wanted.heard if one.key and one.connection.multicast} | wanted.around
        for gone in self._wide.keys() - protocols:
            for wide in self._wide.pop(gone):
                self._close(wide.socket)
        for protocol in protocols:
            self._widen(protocol, {key: groups for key, groups in wanted.groups.items() if key[0] == protocol})
        for key in keys - self._bound.keys():
            self._bind(key)

    def _close(self, one: socket.socket) -> None:
        self._selector.unregister(one)
        one.close()

    def _bind(self, key: Key) -> None:
        protocol, address = key
        port = self.ports[protocol]
        made = _opened()
        try:
            who = holder(address, port)
            if who:
                raise OSError(98, f"{who} listens there already")
            made.bind((address, port))
        except OSError as wrong:
            made.close()
            self.problems[key] = (
                f"Nothing can be heard on {address} port {port}: {wrong.strerror}. "
                "Close that program, or take another address."
            )
            return
        self.problems.pop(key, None)
        self._bound[key] = made
        self._selector.register(made, selectors.EVENT_READ, partial(self._read, key, made))

    def _widen(self, protocol: str, groups: Mapping[Key, frozenset[int]]) -> None:
        """Wide sockets of a protocol, as many as its groups need, joined to them."""
        # A group is joined once for an interface, by any of its addresses.
        wanted = {
            (sacn.multicast_group(universe), near[0][1])
            for (of, _), near in self._near.items()
            if of == protocol
            for universe in {universe for key in near for universe in groups.get(key, ())}
        }
        wides = self._wide.setdefault(protocol, [])
        for wide in wides:
            for group, address in wide.joined - wanted:
                wide.joined.discard((group, address))
                _membership(wide.socket, socket.IP_DROP_MEMBERSHIP, group, address)
        missing = sorted(wanted - {one for wide in wides for one in wide.joined})
        refused: dict[str, list[str]] = {}
        while missing or not wides:
            room = next((wide for wide in wides if len(wide.joined) < JOINS_MOST), None) or self._open_wide(protocol)
            if room is None:
                for _, address in missing:
                    refused.setdefault(address, []).append("no socket for them")
                break
            wides += [] if room in wides else [room]
            now, missing = missing[: JOINS_MOST - len(room.joined)], missing[JOINS_MOST - len(room.joined) :]
            for group, address in now:
                wrong = _membership(room.socket, socket.IP_ADD_MEMBERSHIP, group, address)
                if wrong:
                    refused.setdefault(address, []).append(wrong)
                else:
                    room.joined.add((group, address))
        self._tell_refused(protocol, refused)

    def _tell_refused(self, protocol: str, refused: Mapping[str, list[str]]) -> None:
        """Why groups were not joined, by address."""
        said = {key: text for key, text in self.refused.items() if key[0] != protocol}
        for (of, _), near in self._near.items():
            wrong = refused.get(near[0][1]) if of == protocol else None
            if wrong:
                text = (
                    f"The system refuses {len(wrong)} multicast groups here ({wrong[0]}): those universes are not "
                    "heard. Narrow the range of universes, or let the console send them to this address."
                )
                said.update((key, text) for key in near)
        self.refused = said

    def _open_wide(self, protocol: str) -> Wide | None:
        made = _opened()
        try:
            made.setsockopt(socket.IPPROTO_IP, IP_MULTICAST_ALL, 0)
            made.setsockopt(socket.IPPROTO_IP, IP_PKTINFO, 1)
            made.bind(("", self.ports[protocol]))
        except OSError as wrong:
            log.warning("multicast cannot be heard by %s: %s", protocol, wrong.strerror)
            made.close()
            return None
        first = not self._wide.get(protocol)
        self._selector.register(made, selectors.EVENT_READ, partial(self._read_wide, protocol, made, first))
        return Wide(made)

    def _read(self, key: Key, bound: socket.socket) -> None:
        """What was sent to one address."""
        came: list[tuple[bytes, Place]] = []
        with suppress(BlockingIOError):
            for _ in range(BATCH):
                came.append(bound.recvfrom(SIZE))
        now = clock.now()
        self.take(key, [(data, sender) for data, (sender, _) in came], now)
        tap = self.tap
        if tap is not None:
            target = (key[1], self.ports[key[0]])
            tap.add(Datagram(now, sender, target, data) for data, sender in came)
        self._answer(key, bound, now)

    def _read_wide(self, protocol: str, wide: socket.socket, first: bool) -> None:
        """What was sent to many, or to an address that nobody listens on."""
        now, tap = clock.now(), self.tap
        for _ in range(BATCH):
            try:
                data, told, _, place = wide.recvmsg(SIZE, 64)
            except BlockingIOError:
                return
            sender, (index, target) = place[0], _sent_to(told)
            if tap is not None and (first or protocol == "sACN"):
                tap.add([Datagram(now, place, (target, self.ports[protocol]), data)])
            if _to_many(target):
                # Each wide socket hears every broadcast: the first one takes it.
                for key in self._near.get((protocol, index), ()) if first or protocol == "sACN" else ():
                    self.take(key, ((data, sender),), now)
                    if key in self._bound:
                        self._answer(key, self._bound[key], now)
            else:
                self._note(protocol, target, sender, data)

    def _note(self, protocol: str, target: str, sender: str, data: bytes) -> None:
        """Something for an address that no connection listens on."""
        known = self.elsewhere.get((protocol, target))
        if known is None:
            if len(self.elsewhere) >= ELSEWHERE_MOST:
                return
            known = self.elsewhere[protocol, target] = Elsewhere(protocol, target)
        known.packets += 1
        if len(known.universes) < ELSEWHERE_MOST:
            said = sacn.parse(data) if protocol == "sACN" else artnet.parse(data)
            if isinstance(said, (sacn.DataPacket, artnet.DmxPacket)):
                known.sender = sender
                known.universes.add(said.universe)

    def _answer(self, key: Key, bound: socket.socket, now: float) -> None:
        """Answer who asked who is there; not more often than it serves."""
        if key[0] != "Art-Net" or now - self._answered.get(key, 0.0) < ANSWER_EVERY_S:
            return
        for address, reply in self.answers(key):
            self._answered[key] = now
            try:
                bound.sendto(reply, (address, self.ports["Art-Net"]))
            except OSError as wrong:
                log.debug("an answer was not sent to %s: %s", address, wrong.strerror)

    def kernel_drops(self) -> int:
        """Datagrams that the kernel dropped because nobody fetched them in time (Linux)."""
        try:
            lines = Path("/proc/net/udp").read_text(encoding="ascii").splitlines()[1:]
            sockets = [*self._bound.values(), *(one.socket for all_of in [*self._wide.values()] for one in all_of)]
            ours = {str(os.fstat(one.fileno()).st_ino) for one in sockets if one.fileno() >= 0}
        except (OSError, RuntimeError):
            return 0
        fields = [line.split() for line in lines]
        return sum(int(line[-1]) for line in fields if len(line) > 12 and line[9] in ours)


def _opened() -> socket.socket:
    made = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    made.setblocking(False)
    made.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, BUFFER_BYTES)
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    return made


def _membership(one: socket.socket, option: int, group: str, address: str) -> str:
    """Join or leave a group; what the system says where it refuses."""
    try:
        one.setsockopt(socket.IPPROTO_IP, option, socket.inet_aton(group) + socket.inet_aton(address))
    except OSError as wrong:
        log.debug("group %s on %s: %s", group, address, wrong.strerror)
        return wrong.strerror or "refused"
    return ""


def _sent_to(told: Iterable[tuple[int, int, bytes]]) -> tuple[int, str]:
    """By which interface (its number) a packet came, and the address it was sent to."""
    for _, kind, content in told:
        if kind == IP_PKTINFO:
            index, _, address = struct.unpack_from("I4s4s", content)
            return index, socket.inet_ntoa(address)
    return 0, ""


def _to_many(address: str) -> bool:
    """Whether an address is a multicast group or a broadcast. Subnets of eight bits and more end in 255."""
    return address.endswith(".255") or 224 <= int(address.partition(".")[0] or 0) <= 239
