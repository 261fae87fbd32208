"""This program as a station: others join it and are joined, are told of rigs, and ask for them."""

from __future__ import annotations

import ipaddress
import socket
import threading
import uuid
from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any

from zarfwright.core.linking.handshake import FEATURES, VERSION, Met
from zarfwright.links.xchange.conversation import FILE_S, Conversation
from zarfwright.links.xchange.messages import (
    Commit,
    checked,
    read_commit,
    read_commits,
    read_met,
    refused,
    text,
    uuid_text,
)
from zarfwright.links.xchange.wire import LinkError, Message

PROVIDER = "Zarfwright"
CONNECT_S = 3.0
PEERS_MOST, KEPT = 64, 8


@dataclass
class Peer:
    """A station that this one is joined with."""

    conversation: Conversation
    met: Met
    commits: list[Commit] = field(default_factory=list)
    asked: set[str] = field(default_factory=set)
    """The files of ours that it has asked for."""

    def note(self, commit: Commit) -> None:
        self.commits = [*(one for one in self.commits if one.key != commit.key), commit][-KEPT:]


@dataclass(frozen=True)
class File:
    """A rig that others may ask for."""

    key: str
    name: str
    comment: str
    data: bytes


def _closed(server: socket.socket) -> None:
    """Closing alone does not wake the one who waits for connections, nor free the port."""
    with suppress(OSError):
        server.shutdown(socket.SHUT_RDWR)
    server.close()


class Station:
    """Listens, joins, tells. `changed` is called when a peer comes, goes, or has something new; `answered` with what a
    station says later to a rig that waited. Both from other threads."""

    def __init__(self, name: str, changed: Callable[[], None], answered: Callable[[Peer, Message], None]) -> None:
        self.name, self.key = name, str(uuid.uuid4())
        self._changed, self._answered = changed, answered
        self.peers: dict[Conversation, Peer] = {}
        self._servers: dict[str, socket.socket] = {}
        self._files: dict[str, File] = {}
        self._lock = threading.Lock()
        self.port = 0

    # Listening

    def listen(self, addresses: Iterable[str], port: int = 0) -> dict[str, str]:
        """Listen on these addresses of this machine, and no others; gives those that cannot be had, and why."""
        wanted = set(addresses)
        for address in self._servers.keys() - wanted:
            _closed(self._servers.pop(address))
        problems = {}
        for address in sorted(wanted - self._servers.keys(), key=lambda one: not ipaddress.ip_address(one).is_loopback):
            try:
                server = self._server(address, self.port or port)
            except OSError as wrong:
                problems[address] = wrong.strerror or str(wrong)
                continue
            self._servers[address] = server
            self.port = server.getsockname()[1]
            threading.Thread(target=self._accept, args=(server,), name="xchange-accept", daemon=True).start()
        return problems

    @staticmethod
    def _server(address: str, port: int) -> socket.socket:
        try:
            return socket.create_server((address, port))
        except OSError:
            # Another program of ours has the usual port: any other will do, it is told by name.
            return socket.create_server((address, 0))

    def _accept(self, server: socket.socket) -> None:
        with suppress(OSError):
            while True:
                connection, _ = server.accept()
                with self._lock:
                    full = len(self.peers) >= PEERS_MOST
                if full:
                    connection.close()
                else:
                    Conversation(connection, self._answer, self._over)

    # Joining

    def join(self, host: str, port: int) -> Peer:
        """Join a station at an address. Raises LinkError."""
        try:
            connection = socket.create_connection((host, port), CONNECT_S)
        except OSError as wrong:
            why = wrong.strerror or "no answer"
            raise LinkError(f"Nothing answers at {host}:{port} ({why}): is it on, and is the port right?") from wrong
        connection.settimeout(None)
        conversation = Conversation(connection, self._answer, self._over)
        try:
            came = checked(conversation.ask(self._introduction("MVR_JOIN")), "to be joined")
            peer = Peer(conversation, read_met(came), list(read_commits(came)))
        except LinkError:
            conversation.close()
            raise
        self._add(peer)
        return peer

    def _add(self, peer: Peer) -> None:
        with self._lock:
            if peer.conversation.open:
                self.peers[peer.conversation] = peer
        self._changed()

    def _introduction(self, kind: str, **more: Any) -> Message:
        commits = [self._commit(one) for one in self._files.values()]
        return {
            "Type": kind, "Provider": PROVIDER, "StationName": self.name, "StationUUID": self.key,
            "verMajor": VERSION[0], "verMinor": VERSION[1], "Commits": commits, "Features": dict(FEATURES), **more,
        }  # fmt: skip

    def _over(self, conversation: Conversation, _: str) -> None:
        with self._lock:
            gone = self.peers.pop(conversation, None)
        if gone is not None:
            self._changed()

    # Rigs

    def keep(self, name: str, comment: str, data: bytes) -> File:
        """Have a rig ready for those who ask."""
        made = File(str(uuid.uuid4()), name, comment, data)
        with self._lock:
            self._files[made.key] = made
            while len(self._files) > KEPT:
                self._files.pop(next(iter(self._files)))
        return made

    def _commit(self, one: File, to: Iterable[str] = ()) -> Message:
        return {
            "Type": "MVR_COMMIT", "verMajor": VERSION[0], "verMinor": VERSION[1], "FileUUID": one.key,
            "FileSize": len(one.data), "FileName": one.name, "Comment": one.comment, "ForStationsUUID": list(to),
            "StationUUID": self.key,
        }  # fmt: skip

    def tell(self, peer: Peer, one: File) -> None:
        """Tell a station of a rig. Raises LinkError where it wants none."""
        checked(peer.conversation.ask(self._commit(one, [peer.met.key])), "the rig")

    def ask(self, peer: Peer, kind: str, seconds: float = FILE_S, **said: Any) -> Message:
        """Ask what the standard does not know of. Raises LinkError."""
        return checked(peer.conversation.ask({"Type": kind, "StationUUID": self.key, **said}, seconds), "that")

    def fetch(self, peer: Peer, key: str = "") -> bytes:
        """A station's rig, by default its latest. Raises LinkError."""
        request = {"Type": "MVR_REQUEST", "FileUUID": key, "FromStationUUID": [peer.met.key]}
        came = peer.conversation.ask(request, FILE_S)
        if isinstance(came, bytes):
            return came
        checked(came, "to give its rig")
        raise LinkError("The console said yes, but sent no file.")

    # What others ask

    def _answer(self, conversation: Conversation, asked: Message) -> Message | bytes:
        kind = text(asked.get("Type"), 40)
        if kind == "MVR_JOIN":
            return self._joined(conversation, asked)
        peer = self.peers.get(conversation)
        if peer is None:
            return refused(kind, "Join first.")
        if kind == "MVR_REQUEST":
            return self._given(peer, asked)
        if kind == "MVR_COMMIT":
            commit = read_commit(asked)
            if commit is None:
                return refused(kind, "It has no FileUUID.")
            peer.note(commit)
        elif kind == "ZARF_ANSWER":
            self._answered(peer, asked)
        elif kind == "MVR_LEAVE":
            conversation.close("the console left")
        else:
            return refused(kind, f"{PROVIDER} does not know {kind}.")
        self._changed()
        return {"Type": f"{kind}_RET", "OK": True, "Message": ""}

    def _joined(self, conversation: Conversation, asked: Message) -> Message:
        try:
            met = read_met(asked)
        except LinkError as wrong:
            return refused("MVR_JOIN", str(wrong))
        self._add(Peer(conversation, met, list(read_commits(asked))))
        return self._introduction("MVR_JOIN_RET", OK=True, Message="")

    def _given(self, peer: Peer, asked: Mapping[str, Any]) -> Message | bytes:
        key = uuid_text(asked.get("FileUUID"))
        with self._lock:
            latest = next(reversed(self._files), "")
            found = self._files.get(key or latest)
        if found is None:
            return refused("MVR_REQUEST", "There is no such rig here.")
        peer.asked.add(found.key)
        self._changed()
        return found.data

    def close(self) -> None:
        """Leave, and say so."""
        self.listen(())
        with self._lock:
            peers = [*self.peers.values()]
        for peer in peers:
            with suppress(LinkError):
                peer.conversation.tell({"Type": "MVR_LEAVE", "FromStationUUID": self.key})
            peer.conversation.close()
