"""Packets of MVR-xchange (in DIN SPEC 15801), as the console writes and reads them: JSON messages and MVR files."""

from __future__ import annotations

import json
import socket
import struct
from typing import Any

HEAD = struct.Struct(">IIIIIQ")
FLAG, VERSION = 778682, 1
JSON, FILE = 0, 1
MESSAGE_MOST, FILE_MOST, PACKETS_MOST = 32 * 2**20, 512 * 2**20, 100_000
Message = dict[str, Any]


class WireError(Exception):
    """What came is not MVR-xchange, or more than is taken."""


def packet(kind: int, payload: bytes) -> bytes:
    """One packet that holds all of it."""
    return HEAD.pack(FLAG, VERSION, 0, 1, kind, len(payload)) + payload


def send(to: socket.socket, what: Message | bytes) -> None:
    """A message, or a file."""
    kind, payload = (FILE, what) if isinstance(what, bytes) else (JSON, json.dumps(what).encode())
    to.sendall(packet(kind, payload))


def _exactly(of: socket.socket, size: int) -> bytearray:
    data = bytearray(size)
    view, got = memoryview(data), 0
    while got < size:
        read = of.recv_into(view[got:], min(size - got, 2**20))
        if not read:
            raise EOFError
        got += read
    return data


def receive(of: socket.socket) -> Message | bytes:
    """The next message or file, put together of its packets. Raises EOFError at the end, WireError for rubbish."""
    whole = bytearray()
    n = 0
    while True:
        flag, version, _, count, kind, size = HEAD.unpack(_exactly(of, HEAD.size))
        if flag != FLAG or version != VERSION or kind not in (JSON, FILE) or count > PACKETS_MOST:
            raise WireError("That was no packet of MVR-xchange.")
        if len(whole) + size > (MESSAGE_MOST if kind == JSON else FILE_MOST):
            raise WireError("That was more than this console takes.")
        whole += _exactly(of, size)
        n += 1
        if n >= count:
            break
    if kind == FILE:
        return bytes(whole)
    try:
        read = json.loads(whole)
    except ValueError as wrong:
        raise WireError(f"That was no JSON: {wrong}.") from wrong
    if not isinstance(read, dict):
        raise WireError("That was no message.")
    return read
