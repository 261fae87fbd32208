"""Consoles as a show knows them."""

from __future__ import annotations

from dataclasses import dataclass

PORT_LAST = 65535


@dataclass(frozen=True)
class Console:
    """A console that rigs and values go to and come from."""

    name: str
    host: str = "127.0.0.1"
    """Its IPv4 address."""
    port: int = 0
    """Where it listens for MVR-xchange (TCP); 0: it is not linked by it."""
    station: str = ""
    """The UUID that it had as a station when it was linked; by it it is found again, wherever it listens then."""
    values_port: int = 0
    """Where it listens for values by OSC (UDP); 0: nowhere."""
    hand_over: bool = False
    """Whether what is aimed, coloured or shaped here goes to its editor."""
    outline: bool = True
    """Whether what is selected on it is outlined on the stage."""
