"""The WebSocket side: one slot for the latest frame per viewer, one for how things stand, and events in their order. A
viewer that does not take its events is closed; its page comes back by itself and loads the show again."""

from __future__ import annotations

import asyncio
from collections import deque
from collections.abc import Callable, Mapping
from contextlib import suppress
from typing import Any

import numpy as np
import orjson
from itsdangerous import BadSignature, URLSafeTimedSerializer
from numpy.typing import NDArray
from websockets.asyncio.server import Server, ServerConnection, serve
from websockets.exceptions import ConnectionClosed
from websockets.http11 import Request, Response

from zarfwright.links.frames import delta_frame, full_frame, levels_message, poses_message
from zarfwright.links.live.clock import now
from zarfwright.links.live.engine import Engine, Published

TICKET_SALT = "live-socket"
TICKET_AGE_S = 60
WAITING_MOST = 8 * 2**20
"""Bytes of events that may wait for one viewer: some of the largest edits."""
STALLED_S = 10.0
"""How long a viewer may leave one message untaken."""
LEVELS_EVERY_S = 0.1


class Viewer:
    """One browser."""

    def __init__(self, socket: ServerConnection) -> None:
        self._socket = socket
        self.wake = asyncio.Event()
        self.events: deque[str] = deque()
        self.waiting = 0
        """Bytes of the events."""
        self.standing: dict[str, str] = {}
        """How things stand, by kind, if that was told since it was sent: the latest only."""
        self._sending_since: float | None = None
        self.sequence = -1
        self.watching: int | None = None
        self.monitors = False
        """Whether it wants to know what moves, and who wins."""
        self.levels_sent = b""
        self.levels_at = 0.0
        self.poses_seen = -1
        """How many times things had moved when it was told last where they are."""
        self.drawn_seen = -1
        """Which drawing of lasers it was sent last."""

    def add(self, text: str) -> None:
        """One more event, after all others."""
        self.events.append(text)
        self.waiting += len(text)
        self.wake.set()

    def next_event(self) -> str | None:
        """The event that waits longest, then how things stand; None: nothing waits."""
        if self.events:
            text = self.events.popleft()
            self.waiting -= len(text)
            return text
        return self.standing.pop(next(iter(self.standing))) if self.standing else None

    def stands(self, kind: str, text: str) -> None:
        """How things stand now."""
        self.standing[kind] = text
        self.wake.set()

    def behind(self) -> bool:
        """Whether too much waits for it, or it has not taken what it was sent for too long."""
        stalled = self._sending_since is not None and now() - self._sending_since > STALLED_S
        return stalled or self.waiting > WAITING_MOST

    async def send(self, message: str | bytes) -> None:
        """Send, as soon as it takes it."""
        self._sending_since = now()
        await self._socket.send(message)
        self._sending_since = None

    def cut(self) -> None:
        """Let it go without another word: it would not take that either."""
        self._socket.transport.abort()


class Outlet:
    """The latest frame, the viewers, and what is waiting for them. Lives in the event loop's thread."""

    def __init__(self, engine: Engine, secret: str) -> None:
        self.engine = engine
        self.signer = URLSafeTimedSerializer(secret, salt=TICKET_SALT)
        self.viewers: set[Viewer] = set()
        self.raw: NDArray[np.uint16] = np.zeros((0, 1), dtype="<u2")
        self.rig = 0
        self.sequence = 0
        self.times = (0.0, 0.0)
        self._full: bytes | None = None
        self._delta: bytes | None = None
        self._poses = b""
        self._moved = 0
        self._lasers, self._drawn = b"", 0
        self.greetings: Callable[[], list[str]] = lambda: ["{}"]
        """What a viewer is told first."""
        self.begin_anew: Callable[[], None] = lambda: None
        """Asked for by a viewer: to look again for what moves."""

    def publish(self, made: Published) -> None:
        """Take a new frame; called in the loop's thread, with each that there is."""
        self.sequence += 1
        self.raw, self.rig, self.times = made.raw, made.rig, (made.came, now())
        self._full = self._delta = None
        if made.poses is not None:
            self._poses = poses_message(made.poses, self.sequence, made.plan, self.times[1])
            self._moved += 1
        if made.changed is not None and len(made.changed) * 2 < len(made.raw):
            self._delta = delta_frame(made.raw, made.changed, self.sequence, made.rig, *self.times)
        for viewer in self.viewers:
            viewer.wake.set()

    def draw(self, lasers: bytes) -> None:
        """What lasers draw now; called in the loop's thread."""
        self._lasers = lasers
        self._drawn += 1
        for viewer in self.viewers:
            viewer.wake.set()

    def tell(self, text: str) -> None:
        """An event for every viewer; called in the loop's thread."""
        for viewer in self.viewers:
            viewer.add(text)
        self.let_go()

    def stands(self, text: str, what: str = "signal") -> None:
        """How things stand, for every viewer: who has not heard the last of it hears this one only. Called in the
        loop's thread."""
        for viewer in self.viewers:
            viewer.stands(what, text)
        self.let_go()

    def monitored(self) -> set[int | None]:
        """The universes that those watch who want to know what moves; asked from any thread."""
        return {viewer.watching for viewer in [*self.viewers] if viewer.monitors}

    def tell_monitors(self, texts: Mapping[int | None, str]) -> None:
        """What moves and who wins, by the universe that is watched. Called in the loop's thread."""
        for viewer in self.viewers:
            text = texts.get(viewer.watching) if viewer.monitors else None
            if text is not None:
                viewer.stands("monitor", text)

    def let_go(self) -> None:
        """Close the viewers that have fallen too far behind."""
        for viewer in [viewer for viewer in self.viewers if viewer.behind()]:
            self.viewers.discard(viewer)
            viewer.cut()

    def _frame_for(self, viewer: Viewer) -> bytes | None:
        if self.sequence in (viewer.sequence, 0):
            return None
        missed = viewer.sequence != self.sequence - 1
        viewer.sequence = self.sequence
        if self._delta is not None and not missed:
            return self._delta
        if self._full is None:
            self._full = full_frame(self.raw, self.sequence, self.rig, *self.times)
        return self._full

    def _levels_for(self, viewer: Viewer) -> bytes | None:
        if viewer.watching is None or now() - viewer.levels_at < LEVELS_EVERY_S:
            return None
        with self.engine.lock:
            content = self.engine.levels.get(viewer.watching, bytes(512))
        if content == viewer.levels_sent:
            return None
        viewer.levels_sent, viewer.levels_at = content, now()
        return levels_message(viewer.watching, content, self.sequence, viewer.levels_at)

    async def _send(self, viewer: Viewer) -> None:
        """All that a viewer is to have, as long as it is there."""
        with suppress(ConnectionClosed):
            await self._send_on(viewer)

    async def _send_on(self, viewer: Viewer) -> None:
        while True:
            # Also looks up by itself, for levels that were held back by their own pace.
            with suppress(TimeoutError):
                await asyncio.wait_for(viewer.wake.wait(), 0.2 if viewer.watching is not None else 5.0)
            viewer.wake.clear()
            while (text := viewer.next_event()) is not None:
                await viewer.send(text)
            frame = self._frame_for(viewer)
            if viewer.poses_seen != self._moved and self._poses:
                # Before the frame that it belongs to.
                viewer.poses_seen = self._moved
                await viewer.send(self._poses)
            if frame is not None:
                await viewer.send(frame)
                self.engine.latency.append(now() - self.times[0])
            if viewer.drawn_seen != self._drawn and self._lasers:
                viewer.drawn_seen = self._drawn
                await viewer.send(self._lasers)
            levels = self._levels_for(viewer)
            if levels is not None:
                await viewer.send(levels)

    async def handle(self, socket: ServerConnection) -> None:
        """One viewer's life."""
        viewer = Viewer(socket)
        for greeting in self.greetings():
            viewer.add(greeting)
        self.viewers.add(viewer)
        sending = asyncio.create_task(self._send(viewer))
        try:
            async for text in socket:
                self._listen(viewer, text)
        except ConnectionClosed:
            pass
        finally:
            self.viewers.discard(viewer)
            sending.cancel()

    def _listen(self, viewer: Viewer, text: Any) -> None:
        try:
            said = orjson.loads(text)
        except orjson.JSONDecodeError:
            return
        said = said if isinstance(said, dict) else {}
        watch = said.get("watch")
        viewer.watching = watch if isinstance(watch, int) and 1 <= watch <= 63999 else None
        viewer.monitors = said.get("monitor") is True
        if said.get("anew") is True:
            self.begin_anew()
        viewer.levels_sent, viewer.levels_at = b"", 0.0
        viewer.wake.set()

    def admit(self, connection: ServerConnection, request: Request) -> Response | None:
        """Refuse who has no fresh ticket from the desk."""
        _, _, query = request.path.partition("?ticket=")
        try:
            self.signer.loads(query, max_age=TICKET_AGE_S)
        except BadSignature:
            return connection.respond(403, "The ticket is missing or too old: load the page again.\n")
        return None

    async def open(self, host: str, port: int, origins: list[str]) -> Server:
        """Start serving."""
        return await serve(
            self.handle,
            host,
            port,
            origins=[*origins, None],  # type: ignore[list-item]
            process_request=self.admit,
            compression=None,
            max_size=2**16,
            ping_interval=20,
        )
