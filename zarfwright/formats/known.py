"""What a file is, by its first and last bytes and its name: the formats that this program reads, and what it does with
each."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Use = Literal[
    "open show", "compare scene", "look at type", "base drawing", "set piece", "compare patch", "add fixtures",
    "play recording", "gobo", "measured light", "draw frames",
]  # fmt: skip
ZIP, SQLITE, GLTF = b"PK\x03\x04", b"SQLite format 3\0", b"glTF"
PCAP = (b"\xd4\xc3\xb2\xa1", b"\xa1\xb2\xc3\xd4", b"\x4d\x3c\xb2\xa1", b"\xa1\xb2\x3c\x4d", b"\x0a\x0d\x0d\x0a")
ILDA = b"ILDA"
PICTURES = (b"\x89PNG", b"\xff\xd8\xff")
APPLICATION_AT, APPLICATION = 68, b"ZARF"
"""Where SQLite keeps the id of the program whose file it is."""


@dataclass(frozen=True)
class Known:
    """What a file is, in a sentence, and what can be done with it, the likeliest first; none where it is not read."""

    says: str
    uses: tuple[Use, ...] = ()


def what_is(name: str, head: bytes, tail: bytes) -> Known:
    """What a file is by its name, its first bytes and its last ones."""
    ends = name.lower().rsplit(".", 1)[-1] if "." in name else ""
    if head.startswith(ZIP):
        return _zip(ends, head + tail)
    if head.startswith(SQLITE):
        if head[APPLICATION_AT : APPLICATION_AT + 4] == APPLICATION:
            return Known("a show of this program", ("open show",))
        return Known("a database of another program, which is not read here")
    if head.startswith(GLTF):
        return Known("a mesh (GLB)", ("set piece",))
    if head.startswith(PCAP):
        return Known("a recording of network traffic", ("play recording",))
    if head.startswith(ILDA):
        return Known("frames for lasers (ILDA)", ("draw frames",))
    if head.startswith(PICTURES):
        return Known("a picture: a gobo for a type that is open in the type shop", ("gobo",))
    return _text(ends, head)


def _zip(ends: str, data: bytes) -> Known:
    """Archives tell what they are by the names in them, which stand at their end."""
    if b"GeneralSceneDescription.xml" in data:
        return Known("a scene (MVR)", ("compare scene",))
    if b"description.xml" in data:
        return Known("a fixture type (GDTF)", ("look at type",))
    if ends == "mvr":
        return Known("called a scene (MVR), but nothing in it describes one")
    if ends == "gdtf":
        return Known("called a fixture type (GDTF), but nothing in it describes one")
    return Known("an archive of something else: unpack it, and drop what is in it")


def _text(ends: str, head: bytes) -> Known:
    start = head[:4000].lstrip(b"\xef\xbb\xbf \t\r\n")
    if start.startswith((b"IESNA", b"TILT=")) or ends == "ies":
        return Known("measured light (IES): for a type that is open in the type shop", ("measured light",))
    if (
        ends == "dxf"
        or (start[:2] in (b"0\r", b"0\n") and b"SECTION" in start[:200])
        or start.startswith(b"AutoCAD Binary")
    ):
        return Known("a drawing (DXF)", ("base drawing",))
    if ends == "obj":
        return Known("a mesh (OBJ)", ("set piece",))
    if ends in ("csv", "tsv", "txt") and b"\0" not in start:
        first = start.splitlines()[0].lower() if start else b""
        placed = b"type" in first and any(mark in first for mark in (b"x", b"height", b"position"))
        uses: tuple[Use, ...] = ("add fixtures", "compare patch") if placed else ("compare patch", "add fixtures")
        return Known("a list (CSV)", uses)
    return Known("nothing that is read here")
