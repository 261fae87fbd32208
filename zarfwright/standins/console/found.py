"""The console found by name: announced by mDNS on one interface, for as long as it is wanted."""

from __future__ import annotations

import socket
from typing import Protocol

SERVICE = "_mvrxchange._tcp.local."


class Announced(Protocol):
    """What is announced until it is closed."""

    def close(self) -> None: ...


def announce(name: str, key: str, address: str, port: int) -> Announced:
    """Announce a station. Raises OSError where the interface is not to be had."""
    # Imported when it is wanted: most stand-ins are linked by their address.
    from zeroconf import ServiceInfo, Zeroconf

    made = Zeroconf(interfaces=[address])
    label = "".join(sign if sign.isalnum() or sign in " -" else " " for sign in name)[:60].strip() or "console"
    made.register_service(
        ServiceInfo(
            SERVICE, f"{label}.{SERVICE}", addresses=[socket.inet_aton(address)], port=port,
            properties={"StationName": name, "StationUUID": key}, server=f"{key}.local.",
        ),
        allow_name_change=True,
    )  # fmt: skip
    return made
