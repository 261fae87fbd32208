"""Packets of MVR-xchange: 28 bytes of head (flag, version, number, count, kind, length; big-endian), then a part of a
JSON message or of an MVR file."""

from __future__ import annotations

import socket
import struct
from typing import Any

import orjson

from zarfwright.core.errors import JobError

HEAD = struct.Struct(">IIIIIQ")
FLAG, VERSION = 778_682, 1
JSON, MVR = 0, 1
MESSAGE_MOST, FILE_MOST = 16 * 2**20, 600 * 2**20
PACKETS_MOST = 65_536
PART = 2**20
Message = dict[str, Any]


class LinkError(JobError):
    """What went wrong with a console, in words."""


class Garbled(Exception):
    """What came is no MVR-xchange, or more than is taken: the connection is of no more use."""


def packets(what: Message | bytes) -> bytes:
    """A message or a file as one packet, numbered 0 of 1."""
    kind, payload = (MVR, what) if isinstance(what, bytes) else (JSON, orjson.dumps(what))
    return HEAD.pack(FLAG, VERSION, 0, 1, kind, len(payload)) + payload


def _read(of: socket.socket, size: int) -> bytes:
    """So many bytes, in parts, so that a length alone reserves nothing. Raises EOFError."""
    parts = []
    while size:
        part = of.recv(min(size, PART))
        if not part:
            raise EOFError
        parts.append(part)
        size -= len(part)
    return b"".join(parts)


def receive(of: socket.socket) -> Message | bytes:
    """The next message, or the next file, of all of its packets. Whether they are numbered from 0 or from 1 does not
    matter: they come in order. Raises EOFError where the connection ends, Garbled, OSError."""
    payload: list[bytes] = []
    kind = size = 0
    while True:
        flag, version, _, count, this, length = HEAD.unpack(_read(of, HEAD.size))
        if flag != FLAG or version != VERSION or this not in (JSON, MVR):
            raise Garbled("it does not speak MVR-xchange")
        if payload and this != kind:
            raise Garbled("a packet of another kind came in between")
        kind, size = this, size + length
        if count > PACKETS_MOST or size > (MESSAGE_MOST if kind == JSON else FILE_MOST):
            raise Garbled("it sent more than is taken at once")
        payload.append(_read(of, length))
        if len(payload) >= max(count, 1):
            break
    whole = b"".join(payload)
    if kind == MVR:
        return whole
    try:
        message = orjson.loads(whole)
    except orjson.JSONDecodeError as wrong:
        raise Garbled("it sent a message that is no JSON") from wrong
    if not isinstance(message, dict):
        raise Garbled("it sent JSON that is no message")
    return message
