"""The console as a station of MVR-xchange: it is told of rigs, looks at them, takes them when a person says so.

What is said beyond the standard (docs/xchange.md): ZARF_LOOK asks what taking a rig would come to, ZARF_TAKE to take
it, ZARF_ANSWER tells later what became of it. A console that does not answer line by line lacks the feature `answers`.
"""

from __future__ import annotations

import socket
import threading
import uuid
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any

from zarfwright.standins.console.desk import Desk
from zarfwright.standins.console.hookup import RigError
from zarfwright.standins.console.mvr import Scene, read_mvr
from zarfwright.standins.console.offers import WAYS
from zarfwright.standins.console.wire import Message, WireError, receive, send

PROVIDER = "Simulated console"
ANSWERS = "answers"
FEATURES = {ANSWERS: 1, "values": 1, "selection": 1, "palettes": 1}
FILE_S = 60.0


@dataclass
class Offer:
    """A rig that it was told of, and what it has read of it."""

    key: str
    name: str
    comment: str
    size: int
    by: str
    scene: Scene | None = None
    way: str = ""
    """The way in which it is to be taken, once its person says yes; empty: nobody asks."""


@dataclass
class Manners:
    """How it behaves: the version of MVR that it says it speaks, what it can do beyond that, and whether its person is
    asked before something is taken."""

    version: tuple[int, int] = (1, 6)
    features: dict[str, int] = field(default_factory=lambda: dict(FEATURES))
    asks: bool = False


class Peer:
    """One connection to another station."""

    def __init__(self, connection: socket.socket) -> None:
        self.connection = connection
        self.name, self.key = "a station", ""
        self._lock = threading.Lock()

    def say(self, what: Message | bytes) -> bool:
        """Whether it could be said."""
        try:
            with self._lock:
                send(self.connection, what)
        except OSError:
            return False
        return True


class Station:
    """A server; each connection is heard by a thread of its own."""

    def __init__(self, desk: Desk, lock: threading.RLock, manners: Manners, host: str, port: int = 0) -> None:
        self.desk, self.lock, self.manners = desk, lock, manners
        self.key = str(uuid.uuid4())
        self.offers: list[Offer] = []
        self.peers: list[Peer] = []
        self.commit: Message | None = None
        self._file = b""
        self.dead = False
        self.changed: Callable[[], None] = lambda: None
        self.server = socket.create_server((host, port))
        self.port = int(self.server.getsockname()[1])
        threading.Thread(target=self._accept, name="station", daemon=True).start()

    def _accept(self) -> None:
        with suppress(OSError):
            while True:
                connection, _ = self.server.accept()
                if self.dead:
                    connection.close()
                    continue
                threading.Thread(target=self._hear, args=(Peer(connection),), name="peer", daemon=True).start()

    def _hear(self, peer: Peer) -> None:
        self.peers.append(peer)
        try:
            while True:
                said = receive(peer.connection)
                if isinstance(said, dict) and not str(said.get("Type", "")).endswith("_RET"):
                    answer = self._answer(peer, said)
                    if answer is not None and not peer.say(answer):
                        break
        except (OSError, EOFError, WireError):
            pass
        finally:
            self.peers.remove(peer)
            peer.connection.close()

    def _answer(self, peer: Peer, said: Message) -> Message | bytes | None:
        kind = str(said.get("Type", ""))
        handler = {
            "MVR_JOIN": self._join, "MVR_LEAVE": self._leave, "MVR_COMMIT": self._told, "MVR_REQUEST": self._asked,
            "ZARF_LOOK": self._look, "ZARF_TAKE": self._take,
        }.get(kind)  # fmt: skip
        if handler is None or (kind.startswith("ZARF_") and ANSWERS not in self.manners.features):
            return {"Type": f"{kind[:60]}_RET", "OK": False, "Message": f"{PROVIDER} does not know {kind[:60]}."}
        try:
            return handler(peer, said)
        except (RigError, ValueError, TypeError, KeyError) as wrong:
            return {"Type": f"{kind}_RET", "OK": False, "Message": str(wrong)}

    def _ok(self, kind: str, **more: Any) -> Message:
        return {"Type": f"{kind}_RET", "OK": True, "Message": "", **more}

    def _join(self, peer: Peer, said: Message) -> Message:
        peer.name, peer.key = str(said.get("StationName", ""))[:60], str(said.get("StationUUID", ""))
        major, minor = self.manners.version
        return self._ok(
            "MVR_JOIN", Provider=PROVIDER, StationName=self.desk.sent.name, StationUUID=self.key, verMajor=major,
            verMinor=minor, Commits=[self.commit] if self.commit else [], Features=self.manners.features,
        )  # fmt: skip

    def _leave(self, _: Peer, __: Message) -> Message:
        return self._ok("MVR_LEAVE")

    def _told(self, peer: Peer, said: Message) -> Message:
        major = int(said.get("verMajor", 1))
        if major != self.manners.version[0]:
            spoken = "{}.{}".format(*self.manners.version)
            raise RigError(f"This console reads MVR {spoken}, not {major}.{said.get('verMinor', 0)}.")
        offer = Offer(
            str(said["FileUUID"]), str(said.get("FileName", ""))[:80], str(said.get("Comment", ""))[:200],
            int(said.get("FileSize", 0)), peer.name,
        )  # fmt: skip
        with self.lock:
            self.offers = [*(one for one in self.offers if one.by != offer.by), offer][-4:]
        self.changed()
        return self._ok("MVR_COMMIT")

    def _asked(self, _: Peer, said: Message) -> Message | bytes:
        if not self.commit or said.get("FileUUID") not in ("", None, self.commit["FileUUID"]):
            raise RigError("This console has no such rig.")
        return self._file

    def _offer(self, key: str) -> Offer:
        found = next((one for one in self.offers if one.key == key), None)
        if found is None:
            raise RigError("This console was not told of that rig: tell it first.")
        return found

    def fetch(self, peer: Peer, offer: Offer) -> Scene:
        """The scene of an offer, read once. Raises RigError. Only from the thread that hears this peer."""
        if offer.scene is not None:
            return offer.scene
        peer.say({"Type": "MVR_REQUEST", "FileUUID": offer.key, "FromStationUUID": [peer.key]})
        peer.connection.settimeout(FILE_S)
        try:
            came = receive(peer.connection)
        except (OSError, EOFError, WireError) as wrong:
            raise RigError(f"The rig did not come: {wrong}.") from wrong
        finally:
            peer.connection.settimeout(None)
        if not isinstance(came, bytes):
            raise RigError(f"The rig was not given: {came.get('Message') or 'no file came'}.")
        offer.scene = read_mvr(came)
        return offer.scene

    def _look(self, peer: Peer, said: Message) -> Message:
        offer = self._offer(str(said["FileUUID"]))
        scene = self.fetch(peer, offer)
        with self.lock:
            ways = {way: judged.told() for way, judged in self.desk.look_at(scene).items()}
            there = len(self.desk.patch)
        self.changed()
        return self._ok("ZARF_LOOK", Fixtures=there, Ways=ways, Others=scene.others, Asks=self.manners.asks)

    def _take(self, peer: Peer, said: Message) -> Message:
        offer, way = self._offer(str(said["FileUUID"])), str(said.get("Way"))
        if way not in WAYS:
            raise RigError(f"A rig is taken in one of these ways: {', '.join(WAYS)}.")
        self.fetch(peer, offer)
        if self.manners.asks:
            offer.way = way
            self.changed()
            return self._ok("ZARF_TAKE", Waiting=True)
        return self._ok("ZARF_TAKE", Waiting=False, **self.take(offer, way))

    def take(self, offer: Offer, way: str) -> dict[str, Any]:
        """Take an offer in; what became of it, line by line."""
        assert offer.scene is not None
        with self.lock:
            judged = self.desk.take(offer.scene, way)
            self.offers.remove(offer)
        self.changed()
        self.show_rig(f"After “{offer.comment or offer.name}”")
        return {**judged.told(), "Others": offer.scene.others}

    def answer(self, key: str, yes: bool) -> None:
        """What its person says to a rig that waits. Raises RigError."""
        offer = self._offer(key)
        if not offer.way:
            raise RigError("Nobody asks to have that rig taken.")
        told: Message = {"Type": "ZARF_ANSWER", "FileUUID": offer.key, "OK": yes, "Message": ""}
        if yes:
            told |= self.take(offer, offer.way)
        else:
            told["Message"] = "The person at the console said no."
            self.offers.remove(offer)
        for peer in [one for one in self.peers if one.name == offer.by]:
            peer.say(told)
        self.changed()

    def show_rig(self, comment: str) -> None:
        """Tell every station of the console's own rig, as it is now."""
        with self.lock:
            self._file = self.desk.rig_file(PROVIDER)
        major, minor = self.manners.version
        self.commit = {
            "Type": "MVR_COMMIT", "verMajor": major, "verMinor": minor, "FileUUID": str(uuid.uuid4()),
            "FileSize": len(self._file), "FileName": f"{self.desk.sent.name}.mvr", "Comment": comment,
            "ForStationsUUID": [], "StationUUID": self.key,
        }  # fmt: skip
        for peer in [*self.peers]:
            peer.say(self.commit)

    def told(self) -> dict[str, Any]:
        """What the console's screen shows of it."""
        return {
            "port": self.port, "version": "{}.{}".format(*self.manners.version), "features": self.manners.features,
            "asks": self.manners.asks, "peers": [one.name for one in self.peers if one.key],
            "offers": [
                {"key": one.key, "name": one.name, "comment": one.comment, "by": one.by, "way": one.way,
                 "fixtures": len(one.scene.fixtures) if one.scene is not None else None}
                for one in self.offers
            ],
        }  # fmt: skip

    def die(self, dead: bool) -> None:
        """Be gone without a word, or there again."""
        self.dead = dead
        for peer in [*self.peers] if dead else ():
            with suppress(OSError):
                peer.connection.shutdown(socket.SHUT_RDWR)

    def close(self) -> None:
        """Leave: connections end."""
        with suppress(OSError):
            self.server.shutdown(socket.SHUT_RDWR)
        self.server.close()
        for peer in [*self.peers]:
            peer.say({"Type": "MVR_LEAVE", "FromStationUUID": self.key})
            with suppress(OSError):
                peer.connection.shutdown(socket.SHUT_RDWR)
