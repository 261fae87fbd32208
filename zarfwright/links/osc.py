"""Values to consoles and selections from them by OSC 1.0 (docs/osc.md)."""

from __future__ import annotations

import socket
import threading
from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from dataclasses import dataclass

from pythonosc.osc_bundle_builder import IMMEDIATELY, OscBundleBuilder
from pythonosc.osc_message_builder import OscMessageBuilder
from pythonosc.osc_packet import OscPacket, ParseError

from zarfwright.core.linking.values import Value

DATAGRAM_MOST, RECEIVED_MOST = 1400, 65_507
"""What fits an Ethernet frame goes in one datagram; what comes may be as large as UDP takes it."""
NUMBERS_MOST, NAME_MOST = 10_000, 60


@dataclass(frozen=True)
class Selection:
    """What is selected on a console: numbers of fixtures."""

    host: str
    port: int
    numbers: tuple[int, ...]


@dataclass(frozen=True)
class PaletteTold:
    """A palette that a console says it has."""

    host: str
    port: int
    kind: str
    number: int
    name: str


@dataclass(frozen=True)
class PaletteValue:
    """One value of a palette that a console told of before; `part`: of several of that attribute, 0 the only one."""

    host: str
    port: int
    palette: int
    fixture: int
    attribute: str
    part: int
    value: float


Heard = Selection | PaletteTold | PaletteValue


def message(address: str, *values: float | int | str) -> bytes:
    """One message; floats are 32 bit."""
    builder = OscMessageBuilder(address)
    for value in values:
        builder.add_arg(value)
    return bytes(builder.build().dgram)


def address_of(value: Value) -> str:
    """Where a value belongs: `/fixture/41/Pan`, of one of several `/fixture/41/ColorAdd_R/3`."""
    part = f"/{value.part}" if value.part else ""
    return f"/fixture/{value.number}/{value.attribute}{part}"


def bundles(values: Iterable[Value]) -> Iterator[bytes]:
    """Values as bundles that are to be taken at once, each in a datagram of its own."""
    builder, size = OscBundleBuilder(IMMEDIATELY), 16
    for value in values:
        made = OscMessageBuilder(address_of(value))
        made.add_arg(float(value.value), OscMessageBuilder.ARG_TYPE_FLOAT)
        made.add_arg(value.unit)
        content = made.build()
        if size > 16 and size + 4 + content.size > DATAGRAM_MOST:
            yield bytes(builder.build().dgram)
            builder, size = OscBundleBuilder(IMMEDIATELY), 16
        builder.add_content(content)
        size += 4 + content.size
    if size > 16:
        yield bytes(builder.build().dgram)


def address_towards(host: str) -> str:
    """The address of this machine from which another is reached; nothing is sent. Raises OSError where there is no
    way to it."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asked:
        asked.connect((host, 9))
        return str(asked.getsockname()[0])


class Osc:
    """One socket: values go out of it, what consoles say comes in. `heard` is called from another thread."""

    def __init__(self, address: str, heard: Callable[[Heard], None]) -> None:
        """Raises OSError where the address is not to be had."""
        self.address = address
        self._socket = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        self._socket.bind((address, 0))
        self.port = int(self._socket.getsockname()[1])
        self.malformed = 0
        self._heard = heard
        threading.Thread(target=self._hear, name="osc", daemon=True).start()

    def send(self, data: bytes, host: str, port: int) -> bool:
        """Whether it could be sent: UDP does not say whether it came."""
        try:
            self._socket.sendto(data, (host, port))
        except OSError:
            return False
        return True

    def hello(self, name: str, host: str, port: int) -> bool:
        """Ask a console to tell this program what is selected on it."""
        return self.send(message("/hello", name, self.port), host, port)

    def _hear(self) -> None:
        with suppress(OSError):
            while True:
                data, sender = self._socket.recvfrom(RECEIVED_MOST)
                try:
                    for timed in OscPacket(data).messages:
                        self._read(timed.message.address, timed.message.params, sender)
                except (ParseError, ValueError, TypeError, IndexError, RecursionError, UnicodeDecodeError):
                    self.malformed += 1

    def _read(self, address: str, params: list[object], sender: tuple[str, int]) -> None:
        host, port = sender
        if address == "/selection":
            numbers = tuple(one for one in params[:NUMBERS_MOST] if isinstance(one, int) and one > 0)
            self._heard(Selection(host, port, numbers))
        elif address == "/palette" and len(params) >= 3:
            kind, number, name = params[:3]
            if isinstance(number, int):
                self._heard(PaletteTold(host, port, _text(kind), number, _text(name)))
        elif address == "/palette/value" and len(params) >= 4:
            palette, fixture, function, value = params[:4]
            attribute, _, part = _text(function).partition("/")
            if isinstance(palette, int) and isinstance(fixture, int) and isinstance(value, float):
                count = int(part) if part.isdigit() else 0
                self._heard(PaletteValue(host, port, palette, fixture, attribute, count, value))

    def close(self) -> None:
        """Hear no longer."""
        with suppress(OSError):
            self._socket.shutdown(socket.SHUT_RDWR)
        self._socket.close()


def _text(value: object) -> str:
    return "".join(sign for sign in str(value) if sign.isprintable())[:NAME_MOST]
