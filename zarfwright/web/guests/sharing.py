"""What is shared with guests: the key that lets them in, who they are, and what the presenter shows."""

from __future__ import annotations

import hmac
import secrets
import threading
import time
from collections import OrderedDict, deque
from dataclasses import dataclass, field

KEY_BYTES = 24
GUESTS_MOST = 40
TOKENS_MOST = 400
GONE_S = 12.0
"""Who has not asked for so long is not there any more."""
WRONG_MOST, WRONG_S = 8, 60.0
"""So many wrong keys from one address in so many seconds: then it has to wait."""
ASKED_MOST, ASKED_S = 80, 10.0
"""So many requests of one guest in so many seconds."""
SAID_S = 2.0
"""A guest's notes come no faster than this."""
ADDRESSES_MOST = 2000


@dataclass
class Guest:
    """Somebody who came in with the key."""

    name: str
    address: str
    since: float
    seen: float
    asked: deque[float] = field(default_factory=deque)
    said: float = -SAID_S


@dataclass(frozen=True)
class Shown:
    """What the presenter shows: a picture, and what it is of."""

    version: int
    jpeg: bytes
    look: str
    viewpoint: str


NOTHING = Shown(0, b"", "", "")


class Sharing:
    """One sharing after another: with each the key is a new one, and with its end all guests of it are out. Every
    method may be called from any thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._key = ""
        self._count = 0
        self._guests: dict[str, Guest] = {}
        self._wrong: OrderedDict[str, deque[float]] = OrderedDict()
        self.shown = NOTHING
        self.notes = False
        """Whether guests may write notes."""
        self.presenter = ""

    @property
    def on(self) -> bool:
        return bool(self._key)

    def begin(self, presenter: str, notes: bool) -> str:
        """Let guests in who have the key, a new one; gives it."""
        with self._lock:
            self._key = secrets.token_urlsafe(KEY_BYTES)
            self._guests.clear()
            self._wrong.clear()
            self._count = 0
            self.presenter, self.notes = presenter, notes
            self.shown = Shown(self.shown.version + 1, b"", "", "")
            return self._key

    def end(self) -> None:
        """Nobody is let in, and all who are there are out."""
        with self._lock:
            self._key, self.presenter = "", ""
            self._guests.clear()
            self.shown = Shown(self.shown.version + 1, b"", "", "")

    def present(self, jpeg: bytes, look: str, viewpoint: str) -> None:
        """Show this to the guests."""
        with self._lock:
            if self._key:
                self.shown = Shown(self.shown.version + 1, jpeg, look, viewpoint)

    def let_in(self, key: str, address: str) -> str | None:
        """The token of a new guest, where the key is right and there is room; None where it is not. Raises
        PermissionError where this address has tried too often."""
        now = time.monotonic()
        with self._lock:
            tried = self._wrong.setdefault(address, deque())
            self._wrong.move_to_end(address)
            while len(self._wrong) > ADDRESSES_MOST:
                self._wrong.popitem(last=False)
            _forget(tried, now - WRONG_S)
            if len(tried) >= WRONG_MOST:
                raise PermissionError
            if not self._key or not hmac.compare_digest(key.encode(), self._key.encode()):
                tried.append(now)
                return None
            if len(self._there(now)) >= GUESTS_MOST:
                return None
            while len(self._guests) >= TOKENS_MOST:
                del self._guests[min(self._guests, key=lambda one: self._guests[one].seen)]
            token = secrets.token_urlsafe(KEY_BYTES)
            self._count += 1
            self._guests[token] = Guest(f"Guest {self._count}", address, now, now)
            return token

    def guest(self, token: str) -> Guest | None:
        """Who has that token; None where nobody has it. Raises PermissionError where they ask too often."""
        now = time.monotonic()
        with self._lock:
            found = self._guests.get(token) if self._key else None
            if found is None:
                return None
            found.seen = now
            _forget(found.asked, now - ASKED_S)
            if len(found.asked) >= ASKED_MOST:
                raise PermissionError
            found.asked.append(now)
            return found

    def may_say(self, guest: Guest) -> bool:
        """Whether a guest may write a note now; if so, they have."""
        now = time.monotonic()
        with self._lock:
            if not self.notes or now - guest.said < SAID_S:
                return False
            guest.said = now
            return True

    def guests(self) -> list[Guest]:
        """Who is there."""
        with self._lock:
            return self._there(time.monotonic())

    def _there(self, now: float) -> list[Guest]:
        # A phone that slept comes back with what it has: it is only not counted meanwhile.
        there = (guest for guest in self._guests.values() if now - guest.seen <= GONE_S)
        return sorted(there, key=lambda guest: guest.since)


def _forget(times: deque[float], before: float) -> None:
    while times and times[0] < before:
        times.popleft()
