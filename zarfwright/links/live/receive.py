"""The receive thread: one blocking socket, packets straight into the engine."""

from __future__ import annotations

import logging
import socket
import threading
import time
from pathlib import Path

from zarfwright.links.live import clock
from zarfwright.links.live.engine import Engine

BUFFER_BYTES = 4 * 2**20
log = logging.getLogger(__name__)


class Receiver:
    """Listens for sACN on one address."""

    def __init__(self, engine: Engine, address: str, port: int) -> None:
        self.engine, self.address, self.port = engine, address, port
        self.socket = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        self.socket.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, BUFFER_BYTES)
        self.problem = ""
        self._stopped = False
        self._bind()
        threading.Thread(target=self._run, name="sacn-receive", daemon=True).start()

    def _bind(self) -> None:
        try:
            self.socket.bind((self.address, self.port))
            self.problem = ""
        except OSError as wrong:
            self.problem = (
                f"Nothing can be heard on {self.address} port {self.port}: {wrong.strerror}. "
                "Another program holds it; close that program or start with another --sacn address."
            )

    def _run(self) -> None:
        buffer = bytearray(2048)
        view = memoryview(buffer)
        while not self._stopped:
            if self.problem:
                time.sleep(1.0)
                self._bind()
                continue
            try:
                size, (sender, _) = self.socket.recvfrom_into(buffer)
            except OSError:
                return
            try:
                self.engine.packet(view[:size], sender, clock.now())
            except Exception:  # a packet must never end the thread
                log.exception("a packet of %d bytes could not be taken in", size)

    def kernel_drops(self) -> int:
        """Datagrams that the kernel dropped because nobody fetched them in time (Linux)."""
        try:
            lines = Path("/proc/net/udp").read_text(encoding="ascii").splitlines()[1:]
        except OSError:
            return 0
        ours = "".join(f"{int(part):02X}" for part in reversed(self.address.split("."))) + f":{self.port:04X}"
        return sum(int(line.split()[-1]) for line in lines if line.split()[1] == ours)

    def stop(self) -> None:
        self._stopped = True
        self.socket.close()
