"""Links to consoles: kept up while the show is open, told of rigs, asked for theirs."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any

from zarfwright.core.errors import JobError
from zarfwright.core.exchange.offered import LeftOut, Wish
from zarfwright.core.exchange.scene import Scene
from zarfwright.core.linking.answers import WAYS, Answered, Way, count_of, read_answer
from zarfwright.core.linking.consoles import Console
from zarfwright.core.linking.handshake import Action, misfits, stopped
from zarfwright.links.xchange.messages import text, uuid_text
from zarfwright.links.xchange.station import File, Peer, Station
from zarfwright.links.xchange.wire import LinkError, Message
from zarfwright.web.desk.handing import HandOver
from zarfwright.web.desk.inbox import Arrived
from zarfwright.web.desk.outbox import scene_file

if TYPE_CHECKING:
    from zarfwright.links.xchange.finding import Finder
    from zarfwright.web.desk.desk import Desk

NAME = "Zarfwright"
LOOPBACK = "127.0.0.1"
PORT = 42810
"""Where this program listens for MVR-xchange, if that is free."""
AGAIN_S, LOOK_S = 3.0, 0.5
NO_PORT = "Values only: to give it the rig, type the port on which it listens for MVR-xchange."
log = logging.getLogger(__name__)


@dataclass
class Offer:
    """A rig that a console was told of: what taking it would come to, what came of it."""

    file: File
    scene: Scene
    left_out: tuple[LeftOut, ...]
    there: int = 0
    """How many fixtures the console has."""
    asks: bool = False
    ways: Mapping[Way, Answered] = field(default_factory=dict)
    """Empty where the console does not answer line by line."""
    way: Way | None = None
    result: Answered | None = None
    said: str = ""


@dataclass
class Link:
    """One console: where it is, whether it is there, and what is between it and this program."""

    key: str
    console: Console
    kept: bool
    """It is kept with the show; else it is there only as long as it runs."""
    peer: Peer | None = None
    said: str = ""
    tried: float = -AGAIN_S
    offer: Offer | None = None
    lock: threading.RLock = field(default_factory=threading.RLock)

    def needs(self, action: Action) -> Peer:
        """The other end, fit for an action. Raises LinkError."""
        peer = self.peer
        if peer is None:
            raise LinkError(f"{self.console.name} is not linked. {self.said}".strip())
        misfit = stopped(peer.met, action)
        if misfit is not None:
            raise LinkError(f"{misfit.what} {misfit.still}")
        return peer


def _takes_values(link: Link) -> bool:
    """A console that is not linked by MVR-xchange says nothing of what it can: whoever set its port knows."""
    return link.peer is None or stopped(link.peer.met, "values") is None


class ConsoleLinks:
    """Every console of the show, and those that run beside it. Every public method may be called from any thread."""

    def __init__(self, desk: Desk, port: int = PORT) -> None:
        self.desk, self._port = desk, port
        self._lock = threading.RLock()
        self._links: dict[str, Link] = {}
        self._beside: dict[str, Console] = {}
        self._problems: dict[str, str] = {}
        self._finder: Finder | None = None
        self._finding: str | None = None
        self._not_found = ""
        self._woken, self._closing = threading.Event(), threading.Event()
        self._told: Any = None
        self.hands = HandOver(desk)
        self.station = Station(NAME, self._woken.set, self._answered)
        self._thread = threading.Thread(target=self._keep, name="keep-consoles", daemon=True)
        self._thread.start()

    # Keeping up

    def beside(self, consoles: Mapping[str, Console]) -> None:
        """Consoles that run on this machine just now and are not of the show."""
        with self._lock:
            # How a person set one stays while it runs.
            self._beside = {
                key: replace(one, hand_over=was.hand_over, outline=was.outline)
                if (was := self._beside.get(key)) is not None
                else one
                for key, one in consoles.items()
            }
        self._woken.set()

    def _keep(self) -> None:
        while not self._closing.is_set():
            try:
                self._look()
            except Exception:
                # One look that fails, for a reason that nobody has met yet, must not be the last one.
                log.exception("looking after consoles failed")
            self._woken.wait(LOOK_S)
            self._woken.clear()

    def _look(self) -> None:
        """Bring everything to how the show has it now."""
        show = self.desk.show
        address = show.settings.consoles_on
        problems = self.station.listen({LOOPBACK, *([address] if address else [])}, self._port)
        self._find(address)
        if address and self._not_found:
            problems.setdefault(address, self._not_found)
        self._problems = problems
        with self._lock:
            wanted = {item.id: (item.body, True) for item in show.of_kind("console") if isinstance(item.body, Console)}
            wanted |= {key: (console, False) for key, console in self._beside.items() if key not in wanted}
            for key in self._links.keys() - wanted.keys():
                self._part(self._links.pop(key))
            for key, (console, kept) in wanted.items():
                link = self._links.get(key)
                if link is None:
                    self._links[key] = Link(key, console, kept)
                elif link.console != console:
                    moved = (link.console.host, link.console.port) != (console.host, console.port)
                    link.console, link.kept = console, kept
                    if moved:
                        self._part(link)
            links = [*self._links.values()]
        for link in links:
            self._join(link)
        self.hands.set({link.key: (link.console, _takes_values(link)) for link in links})
        self._tell()

    def _find(self, address: str | None) -> None:
        """Look for consoles by name on an address; None: nowhere."""
        if address == self._finding:
            return
        if self._finder is not None:
            self._finder.close()
        self._finder, self._finding, self._not_found = None, address, ""
        if address is not None:
            from zarfwright.links.xchange.finding import Finder

            try:
                self._finder = Finder(NAME, self.station.key, [address], self.station.port, self._woken.set)
            except OSError as wrong:
                self._not_found = f"nobody can be found by name ({wrong.strerror or wrong})"

    def _part(self, link: Link) -> None:
        peer, link.peer, link.tried = link.peer, None, -AGAIN_S
        if peer is not None:
            with suppress(LinkError):
                peer.conversation.tell({"Type": "MVR_LEAVE", "FromStationUUID": self.station.key})
            peer.conversation.close()

    def set_beside(self, key: str, hand_over: bool | None, outline: bool | None) -> None:
        """Whether values go to a console that only runs beside the show, and its selection is outlined."""
        with self._lock:
            before = self._beside.get(key)
            if before is None:
                raise LinkError("That console does not run any more.")
            self._beside[key] = replace(
                before,
                hand_over=before.hand_over if hand_over is None else hand_over,
                outline=before.outline if outline is None else outline,
            )
            if key in self._links:
                self._links[key].console = self._beside[key]
        self._woken.set()

    def _join(self, link: Link) -> None:
        """Link up, where that is not so and was not just tried."""
        before = link.peer
        if before is not None and not before.conversation.open:
            link.peer, link.said = None, f"The link broke off: {before.conversation.why}."
        now = time.monotonic()
        host, port = self._place(link.console)
        if not port:
            link.said = NO_PORT
        if link.peer is not None or not port or now - link.tried < AGAIN_S:
            return
        link.tried = now
        try:
            peer = self.station.join(host, port)
        except LinkError as wrong:
            link.said = str(wrong)
            return
        link.peer, link.said = peer, ""

    def _place(self, console: Console) -> tuple[str, int]:
        """Where a console is: as it says by name, else where it was."""
        found = self._finder.found if self._finder is not None else ()
        for one in found:
            if console.station and one.key == console.station:
                return one.host, one.port
        return console.host, console.port

    # Rigs

    def link(self, key: str) -> Link:
        """A console. Raises LinkError."""
        with self._lock:
            found = self._links.get(key)
        if found is None:
            raise LinkError("That console is not linked any more: choose another.")
        return found

    def offer(self, key: str, wish: Wish, comment: str) -> Offer:
        """Tell a console of the show's rig, and ask what taking it would come to: it takes nothing yet. Raises
        LinkError, FormatError."""
        link = self.link(key)
        with link.lock:
            peer = link.needs("offer")
            show = self.desk.show
            made = scene_file(show, self.desk.session.asset, wish)
            file = self.station.keep(f"{show.settings.name}.mvr", comment, made.data)
            offer = Offer(file, made.scene, made.left_out)
            self.station.tell(peer, file)
            link.offer = offer
            if stopped(peer.met, "answers") is None:
                came = self.station.ask(peer, "ZARF_LOOK", FileUUID=file.key)
                offer.there = count_of(came.get("Fixtures"))
                offer.asks = bool(came.get("Asks"))
                told = came.get("Ways")
                ways = told if isinstance(told, dict) else {}
                offer.ways = {
                    way: read_answer(ways[way], made.scene, came.get("Others"))
                    for way in WAYS
                    if isinstance(ways.get(way), dict)
                }
        self._woken.set()
        return offer

    def last_offer(self, key: str) -> Offer:
        """The rig that a console was told of last. Raises LinkError."""
        offer = self.link(key).offer
        if offer is None:
            raise LinkError("That console was offered no rig yet.")
        return offer

    def take(self, key: str, way: Way) -> Offer:
        """Have a console take the rig that it was told of. Raises LinkError."""
        link = self.link(key)
        with link.lock:
            peer, offer = link.needs("answers"), link.offer
            if offer is None:
                raise LinkError("Offer the rig first.")
            came = self.station.ask(peer, "ZARF_TAKE", FileUUID=offer.file.key, Way=way)
            offer.way = way
            if came.get("Waiting"):
                offer.said = f"Asked: the person at {link.console.name} has to say yes."
            else:
                offer.said, offer.result = "", read_answer(came, offer.scene, came.get("Others"))
        self._woken.set()
        return offer

    def _answered(self, peer: Peer, came: Message) -> None:
        """A console says later what became of a rig that waited."""
        with self._lock:
            links = [one for one in self._links.values() if one.peer is peer]
        for link in links:
            offer = link.offer
            if offer is None or uuid_text(came.get("FileUUID")) != offer.file.key:
                continue
            if came.get("OK"):
                offer.said, offer.result = "", read_answer(came, offer.scene, came.get("Others"))
            else:
                offer.said = text(came.get("Message"), 300) or f"{link.console.name} said no."
                offer.way = None
        self._woken.set()

    def fetch(self, key: str) -> tuple[str, Arrived]:
        """A console's rig, read, as a file that has arrived. Raises LinkError, FormatError."""
        link = self.link(key)
        with link.lock:
            peer = link.needs("compare")
            if not peer.commits:
                raise LinkError(f"{link.console.name} has told of no rig yet: have it share its rig, then compare.")
            commit = peer.commits[-1]
            data = self.station.fetch(peer, commit.key)
        inbox = self.desk.inbox
        arrived_as, place = inbox.place(link.console.name)
        try:
            place.write_bytes(data)
        except OSError as wrong:
            raise JobError(f"The rig cannot be kept while it is looked at ({wrong.strerror}): make room.") from wrong
        arrived = inbox.arrive(arrived_as, link.console.name, place)
        arrived.read_here()
        return arrived_as, arrived

    # What browsers see

    def report(self) -> dict[str, Any]:
        """Every console, who was found by name, and where this program listens."""
        with self._lock:
            links = [*self._links.values()]
        finder = self._finder
        taken = {link.console.station for link in links} | {link.peer.met.key for link in links if link.peer}
        return {
            "consoles": [self._one(link) for link in links],
            "found": [vars(one) for one in (finder.found if finder is not None else ()) if one.key not in taken],
            "looking_on": self._finding or "",
            "port": self.station.port,
            "problems": [f"{address}: {why}" for address, why in self._problems.items()],
        }

    def _one(self, link: Link) -> dict[str, Any]:
        peer, offer = link.peer, link.offer
        met = peer.met if peer is not None else None
        return {
            "key": link.key, "name": link.console.name, "kept": link.kept, "said": link.said,
            "linked": peer is not None,
            "station": met.name if met else "", "provider": met.provider if met else "",
            "version": "{}.{}".format(*met.version) if met else "",
            "features": sorted(met.features) if met else [],
            "misfits": [vars(one) for one in misfits(met)] if met else [],
            "rigs": [vars(one) for one in peer.commits] if peer is not None else [],
            "asked_for": offer is not None and peer is not None and offer.file.key in peer.asked,
            "offer": offer.file.key if offer is not None else "",
            "waits": offer is not None and offer.way is not None and offer.result is None,
            "done": offer is not None and offer.result is not None,
            "offer_said": offer.said if offer is not None else "",
            "hand_over": link.console.hand_over, "outline": link.console.outline,
            "values_port": link.console.values_port, **self.hands.report(link.key),
        }  # fmt: skip

    def _tell(self) -> None:
        report = self.report()
        if report != self._told:
            self._told = report
            self.desk.feed.event("consoles", **report)

    def close(self) -> None:
        """Leave all of them."""
        self._closing.set()
        self._woken.set()
        self._thread.join(5.0)
        self.hands.close()
        if self._finder is not None:
            self._finder.close()
        self.station.close()
