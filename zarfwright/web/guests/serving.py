"""The guests' port: opened when it is asked for, closed with one call."""

from __future__ import annotations

import logging
import socket
import threading
from typing import Any

from waitress import wasyncore
from waitress.server import create_server

from zarfwright.core.errors import JobError
from zarfwright.links.interfaces import interfaces
from zarfwright.web.desk import Desk
from zarfwright.web.guests.door import guest_app
from zarfwright.web.guests.sharing import Sharing

log = logging.getLogger(__name__)
EVERYWHERE = "0.0.0.0"
THREADS, CONNECTIONS_MOST, IDLE_S, WAIT_S = 4, 200, 20, 5.0


class GuestPort:
    """Serves guests while something is shared."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.sharing = desk, Sharing()
        self._lock = threading.Lock()
        self._server: Any = None
        self._thread: threading.Thread | None = None
        self.links: list[str] = []
        """Where guests may open it, with the key."""

    def begin(self, presenter: str, notes: bool, address: str = EVERYWHERE, port: int = 0) -> list[str]:
        """Open the port and let guests in with a new key; gives the links. Raises JobError where that cannot be."""
        with self._lock:
            self._close()
            bound = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
            bound.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                bound.bind((address, port))
            except OSError as wrong:
                bound.close()
                problem = f"Guests cannot be let in at {address}:{port} ({wrong.strerror}): choose another."
                raise JobError(problem) from wrong
            at = bound.getsockname()[1]
            here = [one.address for one in interfaces() if one.up]
            wide = [one for one in here if not one.startswith("127.")]
            reached = [address] if address != EVERYWHERE else [*wide, "127.0.0.1"]
            hosts = frozenset(f"{one}:{at}" for one in {*reached, "127.0.0.1", "localhost"})
            self._server = self._served(bound, hosts)
            key = self.sharing.begin(presenter, notes)
            self.links = [f"http://{one}:{at}/join/{key}" for one in reached]
            self._thread = threading.Thread(target=self._server.run, name="guests", daemon=True)
            self._thread.start()
            return self.links

    def _served(self, bound: socket.socket, hosts: frozenset[str]) -> Any:
        """A server on a socket. Raises JobError where the machine gives none."""
        app = guest_app(self.desk, self.sharing, hosts)
        try:
            return create_server(app, sockets=[bound], threads=THREADS, connection_limit=CONNECTIONS_MOST,
                                 channel_timeout=IDLE_S, asyncore_use_poll=True)  # fmt: skip
        except OSError as wrong:
            bound.close()
            raise JobError(f"Guests cannot be let in just now ({wrong.strerror}): try again.") from wrong

    def end(self) -> None:
        """Close the port; all guests are out."""
        with self._lock:
            self._close()

    def _close(self) -> None:
        self.sharing.end()
        self.links = []
        server, thread = self._server, self._thread
        self._server = self._thread = None
        if server is None or thread is None:
            return
        try:
            # In the thread of its loop: with nothing left in its map it ends.
            server.trigger.pull_trigger(lambda: wasyncore.close_all(server._map, ignore_all=True))
        except OSError as wrong:
            # What wakes its loop is closed already: then the loop has ended, or does so now.
            log.warning("the guests' port was closed from within (%s)", wrong)
            wasyncore.close_all(server._map, ignore_all=True)
        thread.join(WAIT_S)
        if thread.is_alive():
            log.warning("the guests' port has not closed in %s s", WAIT_S)
        server.task_dispatcher.shutdown(timeout=1)
