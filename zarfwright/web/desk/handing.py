"""Values handed over to consoles by OSC as they change here, and what consoles say of themselves by it."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from zarfwright.core.linking.consoles import Console
from zarfwright.core.linking.values import Value, features_of, values_of
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.links.osc import Heard, Osc, PaletteTold, PaletteValue, Selection, address_towards, bundles

if TYPE_CHECKING:
    from zarfwright.web.desk.desk import Desk

Values = Mapping[str, Mapping[str, float]]
EVERY_S = 0.02
"""At most fifty times a second a fixture; what comes in between is sent with the next."""
HELLO_S, SAY_S = 5.0, 15.0
NAME = "Zarfwright"
SORTS = ("position", "colour", "beam")
PALETTES_MOST, VALUES_MOST = 500, 100_000
log = logging.getLogger(__name__)


@dataclass
class Told:
    """A palette that a console has: its values by fixture number, then by attribute and part."""

    sort: str
    number: int
    name: str
    values: dict[int, dict[tuple[str, int], float]] = field(default_factory=dict)
    count: int = 0


@dataclass
class Partner:
    """A console at the other end of OSC."""

    console: Console
    takes: bool
    """Whether values go there."""
    sent: dict[str, tuple[Value, ...]] = field(default_factory=dict)
    """What was sent last, by fixture."""
    values: int = 0
    greeted: float = -HELLO_S
    selected: tuple[int, ...] = ()
    said: float = 0.0
    palettes: dict[int, Told] = field(default_factory=dict)


class HandOver:
    """Sends what is held by hand to every console that takes it, from a thread of its own: edits never wait for it."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self._lock = threading.Lock()
        self._partners: dict[str, Partner] = {}
        self._latest: tuple[Show, Values] | None = None
        self._woken, self._closing = threading.Event(), threading.Event()
        self._sockets: dict[str, Osc] = {}
        desk.feed.on_hands = self.hands
        self._thread = threading.Thread(target=self._run, name="hand-over", daemon=True)
        self._thread.start()

    def hands(self, show: Show, hands: Values) -> None:
        """What is held by hand now. Comes back at once."""
        with self._lock:
            self._latest = show, hands
        self._woken.set()

    def set(self, consoles: Mapping[str, tuple[Console, bool]]) -> None:
        """The consoles there are, and whether each can take values."""
        with self._lock:
            for key in self._partners.keys() - consoles.keys():
                del self._partners[key]
            for key, (console, able) in consoles.items():
                takes = able and console.hand_over and console.values_port > 0
                found = self._partners.get(key)
                if found is None or (found.console.host, found.console.values_port) != (
                    console.host,
                    console.values_port,
                ):
                    found = self._partners[key] = Partner(console, takes)
                if takes and not found.takes:
                    found.sent = {}
                if found.console.outline != console.outline:
                    # What is outlined is said anew, or taken back.
                    found.said = 0.0
                found.console, found.takes = console, takes
            if self._latest is None or any(one.takes and not one.sent for one in self._partners.values()):
                show = self.desk.show
                self._latest = show, self._latest[1] if self._latest is not None else hands_now(show)
        self._woken.set()

    def _run(self) -> None:
        while not self._closing.is_set():
            self._woken.wait(1.0)
            self._woken.clear()
            try:
                self._once()
            except Exception:
                log.exception("handing values over failed")
            self._closing.wait(EVERY_S)

    def _once(self) -> None:
        with self._lock:
            latest, partners = self._latest, [*self._partners.items()]
        now = time.monotonic()
        for key, partner in partners:
            if partner.console.values_port and now - partner.greeted > HELLO_S:
                partner.greeted = now
                with suppress(OSError):
                    self._socket(partner.console).hello(NAME, partner.console.host, partner.console.values_port)
            if partner.selected and now - partner.said > SAY_S:
                self._say(key, partner)
        takers = [partner for _, partner in partners if partner.takes]
        if latest is None or not takers:
            return
        show, hands = latest
        by_fixture = _by_fixture(hands)
        made: dict[str, tuple[Value, ...]] = {}
        for partner in takers:
            changed: list[Value] = []
            for key, held in by_fixture.items():
                values = made.get(key)
                if values is None:
                    values = made[key] = _values(show, key, held)
                before = partner.sent.get(key, ())
                if values != before:
                    changed += [one for one in values if one not in set(before)]
                    partner.sent[key] = values
            self._send(partner, changed)
            for key in partner.sent.keys() - by_fixture.keys():
                # Let go of here: what the console has of it is the console's.
                del partner.sent[key]

    def _send(self, partner: Partner, values: Iterable[Value]) -> None:
        console = partner.console
        several = list(values)
        # Without a way to the console nothing is sent: its link says that it cannot be reached.
        with suppress(OSError):
            for data in bundles(several):
                self._socket(console).send(data, console.host, console.values_port)
            partner.values += len(several)

    def send(self, key: str, values: Iterable[Value]) -> bool:
        """Send a console values that nobody holds here, as the line check does; whether it is there."""
        with self._lock:
            partner = self._partners.get(key)
        if partner is None or not partner.console.values_port:
            return False
        self._send(partner, values)
        return True

    def _socket(self, console: Console) -> Osc:
        """By the interface that leads to a console, and no other: the loopback for one on this machine. Raises
        OSError where none does."""
        address = address_towards(console.host)
        if address not in self._sockets:
            self._sockets[address] = Osc(address, self._heard)
        return self._sockets[address]

    # What consoles say

    def _heard(self, said: Heard) -> None:
        with self._lock:
            there = [
                (key, one)
                for key, one in self._partners.items()
                if one.console.host == said.host
                or (one.console.host.startswith("127.") and said.host.startswith("127."))
            ]
        exact = [pair for pair in there if pair[1].console.values_port == said.port]
        for key, partner in (exact or there)[:1]:
            self._take(key, partner, said)

    def _take(self, key: str, partner: Partner, said: Heard) -> None:
        if isinstance(said, Selection):
            partner.selected = said.numbers
            self._say(key, partner)
        elif isinstance(said, PaletteTold):
            if said.kind in SORTS and len(partner.palettes) < PALETTES_MOST:
                partner.palettes[said.number] = Told(said.kind, said.number, said.name or f"Palette {said.number}")
        elif isinstance(said, PaletteValue):
            palette = partner.palettes.get(said.palette)
            if palette is not None and palette.count < VALUES_MOST:
                palette.count += 1
                palette.values.setdefault(said.fixture, {})[said.attribute, said.part] = said.value

    def _say(self, key: str, partner: Partner) -> None:
        """Have what is selected on a console outlined, like what others have selected."""
        partner.said = time.monotonic()
        wanted = set(partner.selected) if partner.console.outline else set()
        ids = [item.id for item, fixture in self.desk.show.fixtures() if fixture.number in wanted]
        self.desk.feed.event("presence", who=f"console {key}", name=partner.console.name, ids=ids[:500])

    def report(self, key: str) -> dict[str, Any]:
        """How much went to a console, what is selected on it, and its palettes."""
        with self._lock:
            partner = self._partners.get(key)
        if partner is None:
            return {"values_sent": 0, "selected": 0, "palettes": []}
        palettes = [{"number": one.number, "sort": one.sort, "name": one.name} for one in partner.palettes.values()]
        return {"values_sent": partner.values, "selected": len(partner.selected), "palettes": palettes}

    def palettes(self, key: str) -> list[dict[str, Any]]:
        """A console's palettes as the edit `take palettes` takes them."""
        with self._lock:
            partner = self._partners.get(key)
            told = [*partner.palettes.values()] if partner is not None else []
        show = self.desk.show
        return [{"sort": one.sort, "name": one.name, "values": _features(show, one)} for one in told]

    def close(self) -> None:
        """Stop."""
        self._closing.set()
        self._woken.set()
        self._thread.join(2.0)
        for one in self._sockets.values():
            one.close()


def _same(host: str, other: str) -> bool:
    """Whether two addresses are of one machine: all of the loopback are."""
    return host == other or (host.startswith("127.") and other.startswith("127."))


def hands_now(show: Show) -> Values:
    """What is held by hand in a show."""
    from zarfwright.web.desk.feed import hands_of

    return hands_of(show)


def _by_fixture(hands: Values) -> dict[str, dict[int, Mapping[str, float]]]:
    """What is held by fixture, then by cell; 0 is all of it."""
    found: dict[str, dict[int, Mapping[str, float]]] = {}
    for key, held in hands.items():
        fixture, _, cell = key.partition("/")
        if held:
            found.setdefault(fixture, {})[int(cell or 0)] = held
    return found


def _values(show: Show, key: str, held: Mapping[int, Mapping[str, float]]) -> tuple[Value, ...]:
    item = show.items.get(key)
    fixture = item.body if item is not None else None
    if not isinstance(fixture, Fixture) or fixture.number is None or fixture.type not in show.types:
        return ()
    cells = {cell: values for cell, values in held.items() if cell}
    return values_of(show.types[fixture.type], fixture.mode, fixture.number, held.get(0, {}), cells)


def _features(show: Show, told: Told) -> dict[str, dict[str, float]]:
    found = {}
    for item, fixture in show.fixtures():
        said = told.values.get(fixture.number or 0)
        kind = show.types.get(fixture.type)
        if said and kind is not None and (features := features_of(kind, fixture.mode, said)):
            found[item.id] = features
    return found
