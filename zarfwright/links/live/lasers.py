"""Lasers as they are played: feeds, files and test patterns to the paths that viewers get."""

from __future__ import annotations

import base64
import socket
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import orjson

from zarfwright.core.dmx.features import INDEX
from zarfwright.core.lasers.figure import DARK, POINT, Figure
from zarfwright.core.lasers.light import told_shares
from zarfwright.core.lasers.path import EMPTY, Path, paths
from zarfwright.core.lasers.pattern import pattern
from zarfwright.core.lasers.plan import Planned, channel_shares, channels_lm, taken
from zarfwright.core.lasers.zone import mirrored
from zarfwright.core.space import Floats
from zarfwright.links.frames import HEADER, lasers_message
from zarfwright.links.lasers import Feeds
from zarfwright.links.live import clock
from zarfwright.links.live.engine import Engine

APART_S = 1 / 30
SHARE = 0.6
"""Of its time the thread works no more than this: console and heads go first."""
RECEIVE_BYTES = 8 * 2**20
FILE_HZ = 30.0
"""Frames of a file stand no shorter than this, and as long as they take to draw."""
AGAIN_S = 2.0
IDLE_S = 5.0
Attempt = Callable[[str, Callable[[], None]], bool]
"""Does something that must not end the thread where it fails; whether it went well."""


@dataclass(frozen=True)
class Trial:
    """Which heads draw their test pattern, and which one alone, while all others are dark."""

    heads: frozenset[str] = frozenset()
    alone: str | None = None


class Lasers:
    """The lasers of a show as they are now. `look` makes what viewers get; all else may be called from any thread."""

    def __init__(self, engine: Engine) -> None:
        self.engine, self.feeds = engine, Feeds()
        self.wake = threading.Condition()
        self.plan: tuple[Planned, ...] = ()
        self.number = 0
        self.testing = Trial()
        self._files: dict[str, tuple[Figure, ...]] = {}
        self._patterns: dict[int | None, Figure] = {}
        self._made: dict[str, tuple[Planned, Figure, Path]] = {}
        self._sent: bytes | None = None

    def set(self, plan: Sequence[Planned], number: int) -> None:
        """Other lasers, or the same ones otherwise."""
        with self.wake:
            self.plan, self.number = tuple(plan), number
            self.feeds.wanted = frozenset(one.feed for one in self.plan if one.feed is not None)
            self._made = {one.key: self._made[one.key] for one in self.plan if one.key in self._made}
            self._sent = None
            self.wake.notify_all()

    def set_files(self, files: Mapping[str, Sequence[str]], wanted: Sequence[str]) -> None:
        """The frames of ILDA files by their asset, as base64 of points; those that nobody wants are let go."""
        with self.wake:
            for asset, frames in files.items():
                self._files[asset] = tuple(np.frombuffer(base64.b64decode(one), dtype=POINT) for one in frames)
            self._files = {asset: frames for asset, frames in self._files.items() if asset in wanted}
            self.wake.notify_all()

    def test(self, testing: Trial) -> None:
        """Draw test patterns from now on."""
        with self.wake:
            self.testing = testing
            self.wake.notify_all()

    def told(self) -> dict[str, Any]:
        """What viewers must know of the heads to draw them: their order in messages, their light in lumen (3 by 3,
        linear Rec. 709 of red, green and blue at full), how wide their beams are."""
        heads = [
            {"key": one.key, "number": one.number, "lm": channels_lm(one.beam).ravel().tolist(),
             "diameter_m": one.beam.diameter_m, "divergence_mrad": one.beam.divergence_mrad}
            for one in self.plan
        ]  # fmt: skip
        return {"event": "lasers", "plan": self.number, "heads": heads,
                "testing": sorted(self.testing.heads), "alone": self.testing.alone}  # fmt: skip

    def _figure(self, one: Planned, now: float) -> tuple[Figure, bool]:
        """What a head draws, and whether it is its test pattern."""
        testing, fixture = self.testing, one.key.split("/", 1)[0]
        if testing.alone is not None and fixture != testing.alone:
            return DARK, True
        if fixture in testing.heads or fixture == testing.alone:
            if one.number not in self._patterns:
                self._patterns[one.number] = pattern(one.number)
            return self._patterns[one.number], True
        if one.file is not None:
            return self._of_file(self._files.get(one.file, ()), one.scanning.rate_pps, now), False
        return (self.feeds.figure(one.feed, now) if one.feed is not None else DARK), False

    @staticmethod
    def _of_file(frames: Sequence[Figure], rate_pps: float, now: float) -> Figure:
        """The frame of a file that stands at a time; it goes round."""
        if not frames:
            return DARK
        if len(frames) == 1:
            return frames[0]
        ends = np.cumsum([max(len(one) / rate_pps, 1 / FILE_HZ) for one in frames])
        at = int(np.searchsorted(ends, now % float(ends[-1]), side="right"))
        return frames[min(at, len(frames) - 1)]

    def _wanted(self, now: float) -> list[tuple[Planned, Figure, Floats]]:
        """Each head with its figure and the shares of its colours (3,)."""
        picture = self.engine.picture
        rows = {key: row for row, key in enumerate(picture.playing.rig.keys)}
        found = []
        for one in self.plan:
            row = rows.get(one.key)
            if row is None:
                continue
            figure, tests = self._figure(one, now)
            told = np.asarray(picture.told[row], dtype=float)
            how = one.scanning
            shares = np.ones(3) if tests else channel_shares(one.beam, told_shares(one.beam, told))
            if not tests:
                figure = DARK if told[INDEX["zone"]] < 0.5 or shares.max() <= 0 else figure
                if (over := float(told[INDEX["zone mirror"]])) >= 0.5:
                    how = replace(how, zone=mirrored(how.zone, over))
            found.append((one if how is one.scanning else replace(one, scanning=how), figure, shares))
        return found

    def look(self, now: float) -> bytes | None:
        """The message for viewers; None where it would be the one before."""
        with self.wake:
            wanted = self._wanted(now)
            number, made = self.number, dict(self._made)
        fresh_at = [i for i, (one, figure, _) in enumerate(wanted) if not self._known(made, one, figure)]
        fresh = paths([wanted[i][1] for i in fresh_at], [wanted[i][0].scanning for i in fresh_at])
        for i, path in zip(fresh_at, fresh, strict=True):
            one, figure, _ = wanted[i]
            made[one.key] = (one, figure, Path(path.angles, taken(one.beam, path.light)) if len(path) else EMPTY)
        at = {one.key: i for i, one in enumerate(self.plan)}
        told = [
            (at[one.key], made[one.key][2].angles, made[one.key][2].light * shares)
            for one, _, shares in wanted
            if one.key in at and len(made[one.key][2])
        ]
        message = lasers_message(told, number, 0, now)
        with self.wake:
            self._made = made
            # What is new every time is when it was made.
            news = message[HEADER.size :] != self._sent
            self._sent = message[HEADER.size :]
        return message if news else None

    @staticmethod
    def _known(made: Mapping[str, tuple[Planned, Figure, Path]], one: Planned, figure: Figure) -> bool:
        before = made.get(one.key)
        return before is not None and before[1] is figure and before[0] == one

    def publish_forever(self, publish: Callable[[bytes], None], attempt: Attempt) -> None:
        """The thread: 30 times a second while there are lasers, and for no more than half of its time. What heads are
        told of their light comes with the engine's frames, which nobody announces here: so it looks by itself."""

        def once() -> None:
            message = self.look(clock.now())
            if message is not None:
                publish(message)

        while True:
            with self.wake:
                while not self.plan:
                    self.wake.wait(IDLE_S)
            began = clock.now()
            if not attempt("The lasers could not be drawn", once):
                time.sleep(AGAIN_S)
            took = clock.now() - began
            time.sleep(max(APART_S - took, took * (1 - SHARE) / SHARE))


class LaserReceiver:
    """Listens for feeds on an address of this machine, in a thread of its own."""

    def __init__(self, lasers: Lasers, address: str, port: int) -> None:
        self.lasers, self.address, self.port = lasers, address, port
        self.problem = ""

    def start(self) -> None:
        threading.Thread(target=self._run, name="laser feeds", daemon=True).start()

    def report(self) -> dict[str, Any]:
        """What is heard, for people."""
        lasers = self.lasers
        return {"address": self.address, "port": self.port, "problem": self.problem,
                "feeds": lasers.feeds.told(clock.now()), "dropped": dict(lasers.feeds.dropped)}  # fmt: skip

    def _run(self) -> None:
        while True:
            try:
                self._listen()
            except OSError as wrong:
                self.problem = f"Laser feeds are not heard on {self.address}, port {self.port} ({wrong.strerror})."
            time.sleep(AGAIN_S)

    def _open(self) -> socket.socket:
        """The socket that feeds come in on. Raises OSError."""
        heard = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        heard.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, RECEIVE_BYTES)
        heard.bind((self.address, self.port))
        return heard

    def _listen(self) -> None:
        with self._open() as heard:
            self.problem = ""
            while True:
                data, (sender, _) = heard.recvfrom(65_536)
                self.lasers.feeds.take(data, sender, clock.now())


def lasers_event(lasers: Lasers) -> str:
    """What a viewer is told of the heads."""
    return orjson.dumps(lasers.told()).decode()
