"""Stations found by name: mDNS on the interfaces that were chosen, and on no others.

Import this when somebody looks: it takes a quarter of a second, and a socket on a port that many programs share.
"""

from __future__ import annotations

import socket
import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from zeroconf import Error, ServiceBrowser, ServiceInfo, ServiceListener, Zeroconf

from zarfwright.links.xchange.messages import text, uuid_text

SERVICE = "_mvrxchange._tcp.local."
GROUP = "Default"
"""Some programs put the name of a group before the service: both are told and looked for."""
ASK_MS = 2000


@dataclass(frozen=True)
class Found:
    """A station that says by name where it is."""

    key: str
    name: str
    host: str
    port: int


class Finder(ServiceListener):
    """Announces this station and listens for others until it is closed. `changed` is called from another thread."""

    def __init__(self, name: str, key: str, addresses: Sequence[str], port: int, changed: Callable[[], None]) -> None:
        """Raises OSError where the interfaces are not to be had."""
        self._own, self._changed = key, changed
        self._lock = threading.Lock()
        self._found: dict[str, Found] = {}
        self._zeroconf = Zeroconf(interfaces=list(addresses))
        services = (SERVICE, f"{GROUP}.{SERVICE}")
        self._browsers = [ServiceBrowser(self._zeroconf, one, self) for one in services]
        infos = [self._info(one, name, addresses, port) for one in services]
        threading.Thread(target=self._announce, args=(infos,), name="xchange-announce", daemon=True).start()

    def _info(self, service: str, name: str, addresses: Sequence[str], port: int) -> ServiceInfo:
        label = "".join(sign if sign.isalnum() or sign in " -" else " " for sign in name).strip()[:50] or "Zarfwright"
        packed = [socket.inet_aton(one) for one in addresses]
        said = {"StationName": name, "StationUUID": self._own}
        called, server = f"{label}.{service}", f"{self._own}.local."
        return ServiceInfo(service, called, addresses=packed, port=port, properties=said, server=server)

    def _announce(self, infos: Sequence[ServiceInfo]) -> None:
        for info in infos:
            try:
                self._zeroconf.register_service(info, allow_name_change=True)
            except (Error, OSError, RuntimeError):
                # Others are found all the same, and may be joined from here.
                return

    @property
    def found(self) -> tuple[Found, ...]:
        """Who is there, by name."""
        with self._lock:
            unique = {one.key: one for one in self._found.values()}
        return tuple(sorted(unique.values(), key=lambda one: (one.name.casefold(), one.key)))

    def add_service(self, zc: Zeroconf, type_: str, name: str) -> None:
        """A station says where it is."""
        info = zc.get_service_info(type_, name, ASK_MS)
        found = _found(info) if info is not None else None
        if found is not None and found.key != self._own:
            with self._lock:
                self._found[name] = found
            self._changed()

    def update_service(self, zc: Zeroconf, type_: str, name: str) -> None:
        """It says something else."""
        self.add_service(zc, type_, name)

    def remove_service(self, zc: Zeroconf, type_: str, name: str) -> None:
        """It says that it is gone, or has said nothing for long."""
        with self._lock:
            gone = self._found.pop(name, None)
        if gone is not None:
            self._changed()

    def close(self) -> None:
        """Say that this station is gone, and listen no longer."""
        self._zeroconf.unregister_all_services()
        self._zeroconf.close()


def _plain(value: bytes | None) -> str:
    return (value or b"").decode(errors="replace")


def _found(info: ServiceInfo) -> Found | None:
    """What a service says of itself; None where it cannot be joined."""
    said = {_plain(name): _plain(value) for name, value in info.properties.items()}
    key, hosts = uuid_text(said.get("StationUUID")), info.parsed_addresses()
    if not key or not hosts or info.port is None:
        return None
    return Found(key, text(said.get("StationName")) or text(info.name.split(".")[0]), hosts[0], info.port)
