"""Values that arrive by OSC, and what the console tells by it (docs/osc.md)."""

from __future__ import annotations

import socket
import threading
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from pythonosc.osc_message_builder import OscMessageBuilder
from pythonosc.osc_packet import OscPacket, ParseError

from zarfwright.standins.console.desk import Desk
from zarfwright.standins.console.hookup import RigError

DATAGRAM_MOST = 65_507


class Osc:
    """Hears on one port of the loopback, and tells one listener."""

    def __init__(self, desk: Desk, lock: threading.RLock, host: str) -> None:
        self.desk, self.lock = desk, lock
        self.socket = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        self.socket.bind((host, 0))
        self.port = int(self.socket.getsockname()[1])
        self.listener: tuple[str, int] | None = None
        self.came = 0
        self.problem = ""
        self.greeted: Callable[[], None] = lambda: None
        self.changed: Callable[[], None] = lambda: None
        threading.Thread(target=self._hear, name="osc", daemon=True).start()

    def _hear(self) -> None:
        with suppress(OSError):
            while True:
                data, sender = self.socket.recvfrom(DATAGRAM_MOST)
                with suppress(ParseError, ValueError, IndexError, TypeError, RecursionError):
                    messages = OscPacket(data).messages
                    with self.lock:
                        for timed in messages:
                            self._message(timed.message.address.split("/"), timed.message.params, sender[0])
                    self.changed()

    def _message(self, path: list[str], params: list[Any], sender: str) -> None:
        """`/fixture/NUMBER/FUNCTION value unit`; `/clear`; `/hello name port`: from now on that one is told."""
        if path[1:2] == ["clear"]:
            self.desk.playback.hands.clear()
        elif path[1:2] == ["hello"] and len(params) > 1:
            self.listener = sender, int(params[1])
            self.greeted()
        elif path[1:2] == ["fixture"] and len(path) > 3 and params:
            self.came += 1
            try:
                fixture = self.desk.fixture(int(path[2]))
                self.desk.set_value(fixture, "/".join(path[3:]), float(params[0]))
                self.problem = ""
            except RigError as wrong:
                self.problem = str(wrong)

    def tell(self, address: str, *values: int | float | str) -> None:
        """One message to whoever listens."""
        if self.listener is None:
            return
        builder = OscMessageBuilder(address)
        for value in values:
            builder.add_arg(value)
        with suppress(OSError):
            self.socket.sendto(builder.build().dgram, self.listener)

    def close(self) -> None:
        self.socket.close()
