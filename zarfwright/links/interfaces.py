"""The network interfaces of this machine, and who holds a port of it."""

from __future__ import annotations

import ipaddress
import os
import socket

import psutil

from zarfwright.core.connections import Interface


def interfaces() -> list[Interface]:
    """Those with an IPv4 address, the loopback first."""
    states = psutil.net_if_stats()
    found = [
        Interface(name, one.address, _prefix(one.netmask), name not in states or states[name].isup)
        for name, addresses in psutil.net_if_addrs().items()
        for one in addresses
        if one.family == socket.AF_INET
    ]
    return sorted(found, key=lambda one: (not one.loopback, not one.up, one.name, one.address))


def _prefix(mask: str | None) -> int:
    return ipaddress.IPv4Network(f"0.0.0.0/{mask}").prefixlen if mask else 32


def index_of(name: str) -> int:
    """The number that the system knows an interface by; 0 where there is none of that name."""
    try:
        return socket.if_nametoindex(name)
    except OSError:
        return 0


def holder(address: str, port: int) -> str:
    """Who else listens on just this address and port, as far as that can be known; empty: nobody."""
    try:
        connections = psutil.net_connections("udp4")
    except (psutil.Error, OSError):
        return ""
    for one in connections:
        if one.pid != os.getpid() and one.laddr and tuple(one.laddr) == (address, port):
            return _program(one.pid)
    return ""


def _program(pid: int | None) -> str:
    if pid is None:
        return "another program"
    try:
        return f"{psutil.Process(pid).name()} (process {pid})"
    except psutil.Error:
        return "another program"
