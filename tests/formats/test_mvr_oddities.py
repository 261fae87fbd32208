"""Broken, odd and hostile MVR files: each is refused in words, or read with a finding and all the rest of it."""

from __future__ import annotations

import io
import re
import struct
import zipfile
import zlib

import pytest

from tests.scenes import (
    HERON,
    Hall,
    box_glb,
    description,
    fixture,
    layer,
    matrix,
    mesh_of,
    mvr,
    node,
    uid,
    zipped,
)  # fmt: skip
from zarfwright.core.exchange.compare import Choices, compare
from zarfwright.formats.findings import FormatError
from zarfwright.formats.mvr import read_mvr

NAME = "GeneralSceneDescription.xml"
GOOD = fixture("Good", 99, "9.100", matrix(1, 2, 3))
"""What has to come in whatever the rest is like."""


def crc_broken(data: bytes) -> bytes:
    """An archive whose description does not give its own checksum."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        place = archive.getinfo(NAME).header_offset
    wrong = bytearray(data)
    start = place + 30 + len(NAME)
    wrong[start + 20] ^= 0xFF
    return bytes(wrong)


def bomb() -> bytes:
    """400 kB that unpack to 400 MB."""
    squeeze = zlib.compressobj(9, zlib.DEFLATED, -15)
    chunk = b" " * 2**20
    packed = b"".join(squeeze.compress(chunk) for _ in range(400)) + squeeze.flush()
    size, crc = 400 * 2**20, 0
    for _ in range(400):
        crc = zlib.crc32(chunk, crc)
    name = NAME.encode()
    # Its header says it was small.
    local = struct.pack("<4sHHHHHIIIHH", b"PK\3\4", 20, 0, 8, 0, 0, crc, len(packed), 1000, len(name), 0) + name
    central = struct.pack(
        "<4sHHHHHHIIIHHHHHII", b"PK\1\2", 20, 20, 0, 8, 0, 0, crc, len(packed), size, len(name), 0, 0, 0, 0, 0, 0
    ) + name  # fmt: skip
    end = struct.pack("<4sHHHHIIH", b"PK\5\6", 0, 0, 1, 1, len(central), len(local) + len(packed), 0)
    return local + packed + central + end


def deep(count: int) -> str:
    group = "".join(f'<GroupObject uuid="{uid(str(i))}" name="g"><ChildList>' for i in range(count))
    return group + "</ChildList></GroupObject>" * count


def locked() -> bytes:
    data = bytearray(mvr(layer(GOOD)))
    for found in re.finditer(b"PK\1\2", bytes(data)):
        data[found.start() + 8] |= 1
    return bytes(data)


REFUSED: dict[str, tuple[bytes, str]] = {
    "nothing": (b"", "not a zip archive"),
    "rubbish": (b"rubbish" * 50, "not a zip archive"),
    "half a zip": (mvr(layer(GOOD))[:400], "not a zip archive"),
    "an empty zip": (zipped({}), "without GeneralSceneDescription.xml"),
    "a GDTF": (HERON, "no MVR file"),
    "no description": (zipped({"a.glb": box_glb()}), "without GeneralSceneDescription.xml"),
    "an empty description": (zipped({NAME: ""}), "not XML"),
    "half a description": (zipped({NAME: description(layer(GOOD))[:300]}), "not XML"),
    "another document": (zipped({NAME: "<GDTF/>"}), "something else"),
    "no scene": (zipped({NAME: "<GeneralSceneDescription/>"}), "no layers"),
    "entities": (zipped({NAME: '<!DOCTYPE a [<!ENTITY b "c">]>' + description(layer(GOOD))}), "document type"),
    "an outside document": (zipped({NAME: '<!DOCTYPE a SYSTEM "file:///etc/passwd">' + description()}), "document type"),
    "a billion laughs": (
        zipped({NAME: '<!DOCTYPE a [<!ENTITY b "ha"><!ENTITY c "&b;&b;&b;">]>' + description(layer(GOOD))}),
        "document type",
    ),
    "an unknown encoding": (zipped({NAME: '<?xml version="1.0" encoding="klingon"?>' + description()}), "not XML"),
    "outside by dots": (zipped({NAME: description(layer(GOOD)), "../evil.glb": b"x"}), "points outside"),
    "outside by a root": (zipped({NAME: description(layer(GOOD)), "/etc/evil": b"x"}), "points outside"),
    "outside by a drive": (zipped({NAME: description(layer(GOOD)), "C:\\evil.glb": b"x"}), "points outside"),
    "outside by backslashes": (zipped({NAME: description(layer(GOOD)), "..\\evil.glb": b"x"}), "points outside"),
    "locked": (locked(), "password"),
    "a wrong checksum": (crc_broken(mvr(layer(GOOD))), "not a zip archive"),
    "a bomb": (bomb(), "unpacks to more than|not a zip archive"),
    "nested without end": (zipped({NAME: description(layer(deep(5000)))}), "nested more than"),
    "too many entries": (zipped({NAME: description(), **{f"{i}.txt": b"" for i in range(20_001)}}), "20002 entries"),
}  # fmt: skip


@pytest.mark.parametrize("name", REFUSED)
def test_what_cannot_be_used_is_refused_in_words(name):
    data, words = REFUSED[name]
    with pytest.raises(FormatError, match=words) as wrong:
        read_mvr(data, "tour.mvr")
    assert str(wrong.value).startswith("tour.mvr")


def named(children: str, aux: str = "", files: dict[str, bytes] | None = None, flag: bool = True) -> bytes:
    return mvr(layer(children, GOOD), aux=aux, files=files, flag=flag)


BOX = mesh_of("b.glb")
FILES = {"b.glb": box_glb()}
CIRCLE = (
    f'<Symdef name="A" uuid="{uid("A")}"><ChildList><Symbol uuid="{uid("x")}" symdef="{uid("B")}"/>'
    f'<Geometry3D fileName="b.glb"/></ChildList></Symdef>'
    f'<Symdef name="B" uuid="{uid("B")}"><ChildList><Symbol uuid="{uid("y")}" symdef="{uid("A")}"/></ChildList></Symdef>'
)
SYMBOL = f'<Geometries><Symbol uuid="{uid("s")}" symdef="{uid("A")}"/></Geometries>'
BAD_GLB = b"glTF" + struct.pack("<II", 2, 100) + struct.pack("<I", 10**6) + b"JSON{}"
ODD: dict[str, tuple[bytes, str]] = {
    "a missing GDTF": (named(fixture("F", spec="Gone.gdtf")), "“Gone.gdtf” is not in the file"),
    "a broken GDTF": (named(fixture("F", spec="B.gdtf"), files={"B.gdtf": b"zip"}), "B.gdtf is not a zip"),
    "a GDTF that is none": (named(fixture("F", spec="n.txt"), files={"n.txt": b"hello"}), "no GDTF file"),
    "an empty GDTF": (named(fixture("F", spec="B.gdtf"), files={"B.gdtf": zipped({})}), "without description.xml"),
    "no GDTF named": (named(fixture("F", spec="")), "names no type"),
    "a GDTF without its ending": (named(fixture("F", spec="Heron")), ""),
    "a GDTF in another case": (named(fixture("F", spec="HERON.GDTF")), ""),
    "a GDTF in a folder": (named(fixture("F", spec="types/Heron.gdtf")), "lies elsewhere"),
    "a GDTF by backslashes": (named(fixture("F", spec="types\\Dun.gdtf"), files={"types/Dun.gdtf": HERON}), ""),
    "an unknown mode": (named(fixture("F", mode="Turbo")), ""),
    "a missing mesh": (named(node("SceneObject", "S", mesh_of("gone.glb"))), "“gone.glb” is not in the file"),
    "a broken mesh": (named(node("SceneObject", "S", mesh_of("x.glb")), files={"x.glb": b"glTF??"}), "no GLB file"),
    "a mesh that lies": (named(node("SceneObject", "S", mesh_of("x.glb")), files={"x.glb": BAD_GLB}), "no GLB file"),
    "a 3DS of rubbish": (named(node("SceneObject", "S", mesh_of("x.3ds")), files={"x.3ds": b"MM\xff\xff\xff\xff"}), "x.3ds"),
    "a mesh of another kind": (named(node("SceneObject", "S", mesh_of("x.fbx")), files={"x.fbx": b"k"}), "neither GLB nor 3DS"),
    "a mesh without a name": (named(node("SceneObject", "S", mesh_of(""))), "names no mesh"),
    "a mesh without its ending": (named(node("SceneObject", "S", mesh_of("b")), files=FILES), ""),
    "mixed slashes": (named(node("SceneObject", "S", mesh_of("m\\sub/b.glb")), files={"m/sub/b.glb": box_glb()}), ""),
    "a matrix of words": (named(node("SceneObject", "S", BOX, matrix(text="here")), files=FILES), "matrix cannot be used"),
    "a matrix too short": (named(fixture("F", place=matrix(text="{1,0,0}{0,1,0}"))), "matrix cannot be used"),
    "a matrix of NaN": (named(fixture("F", place=matrix(text="{nan,0,0}{0,1,0}{0,0,1}{0,0,0}"))), "not a finite"),
    "an endless matrix": (named(fixture("F", place=matrix(text="{1,0,0}{0,1,0}{0,0,1}{1e300,0,0}"))), "further away than anything"),
    "a flat matrix": (named(fixture("F", place=matrix(text="{0,0,0}{0,1,0}{0,0,1}{1,2,3}"))), "makes it flat"),
    "a flat mesh": (
        named(node("SceneObject", "S", f'<Geometries><Geometry3D fileName="b.glb">{matrix(text="{0,0,0}{0,0,0}{0,0,0}{0,0,0}")}'
                   "</Geometry3D></Geometries>"), files=FILES), "makes it flat",
    ),
    "a huge matrix": (named(fixture("F", place=matrix(text="{1e9,0,0}{0,1,0}{0,0,1}{0,0,0}"))), "a million times"),
    "a matrix of four by four": (named(fixture("F", place=matrix(text="{1,0,0,0}{0,1,0,0}{0,0,1,0}{5,6,7,1}"))), ""),
    "a mirrored fixture": (named(fixture("F", place=matrix(text="{-1,0,0}{0,1,0}{0,0,1}{0,0,0}"))), ""),
    "one UUID twice": (named(fixture("F") + fixture("F", 2)), "belongs to another thing"),
    "a UUID of a layer": (named(fixture("F", uuid=uid("Rig"))), "belongs to another thing"),
    "no UUID": (named(fixture("F", uuid="")), "has no UUID"),
    "a UUID that is none": (named(fixture("F", uuid="lamp-1")), "no UUID"),
    "symbols in a circle": (named(node("SceneObject", "S", SYMBOL), aux=CIRCLE, files=FILES), "in a circle"),
    "a symbol of nothing": (named(node("SceneObject", "S", SYMBOL), files=FILES), "does not have"),
    "an address of words": (named(fixture("F", address="one")), "no address"),
    "an address of a lone universe": (named(fixture("F", address="3.0")), "that no universe has"),
    "an address beyond": (named(fixture("F", address="64000.1")), "that no universe has"),
    "a slot beyond": (named(fixture("F", address="1.513")), "that no universe has"),
    "an address below": (named(fixture("F", address="-5")), "that no universe has"),
    "an address of 0": (named(fixture("F", address="0")), ""),
    "a break of words": (named(fixture("F").replace('break="0"', 'break="b"')), "cannot be used"),
    "a break beyond": (named(fixture("F").replace('break="0"', 'break="999"')), "is no break"),
    "two addresses of a break": (
        named(fixture("F").replace("</Addresses>", '<Address break="0">7</Address></Addresses>')), "has two addresses"
    ),
    "a number of words": (
        named(fixture("F").replace("Numeric>1<", "Numeric>one<")), "nothing that can be read"
    ),
    "a number beyond": (named(fixture("F", 100_000)), "more than 99999"),
    "a colour of words": (named(fixture("F", more="<Color>red</Color>")), "nothing that can be read"),
    "a colour that no light has": (named(fixture("F", more="<Color>9,9,9</Color>")), "no light has"),
    "aimed at nothing": (named(fixture("F", more=f"<Focus>{uid('N')}</Focus>")), "focus point that the file does not have"),
    "aimed at itself": (named(fixture("F", more=f"<Focus>{uid('F')}</Focus>")), "focus point that the file does not have"),
    "a thing nobody knows": (named('<Balloon name="B" uuid="x"/>'), "nothing of that name is known"),
    "a thing among the layers": (
        zipped({NAME: description(layer(GOOD)).replace("<Layers>", "<Layers><Balloon/>"), "Heron.gdtf": HERON}),
        "nothing of that name belongs there",
    ),
    "names in UTF-8 without a flag": (
        named(fixture("F", spec="Möwe.gdtf"), files={"Möwe.gdtf": HERON}, flag=False), "",
    ),
    "names that are composed otherwise": (named(fixture("F", spec="Mo\u0308we.gdtf"), files={"Möwe.gdtf": HERON}), ""),
    "a name of signs": (named(fixture("F \u202e\u0007".replace("\u0007", ""))), ""),
    "a description in UTF-16": (
        zipped({NAME: ('<?xml version="1.0" encoding="UTF-16"?>' + description(layer(GOOD))).encode("utf-16"), "Heron.gdtf": HERON}),
        "",
    ),
    "a description that ends in a zero": (zipped({NAME: description(layer(GOOD)) + "\0", "Heron.gdtf": HERON}), ""),
    "a description in a folder": (zipped({f"x/{NAME}": description(layer(GOOD)), "Heron.gdtf": HERON}), ""),
    "names in a namespace": (
        zipped({NAME: description(layer(GOOD), root='xmlns="http://example.org/mvr"'), "Heron.gdtf": HERON}), "",
    ),
    "a layer without a name": (mvr(layer(GOOD, name="")), ""),
    "our own words, broken": (
        mvr(layer(GOOD), user='<UserData><Data provider="Zarfwright" ver="1"><Own uuid="'
            + uid("Good") + '" kind="fixture">{"type": 7</Own></Data></UserData>'), "",
    ),
    "our own words of another thing": (
        mvr(layer(GOOD), user='<UserData><Data provider="Zarfwright" ver="1"><Own uuid="'
            + uid("Good") + '" kind="deck">{"name": "D"}</Own></Data></UserData>'), "",
    ),
    "a chain of words": (named(node("Support", "S", BOX + "<ChainLength>long</ChainLength>"), files=FILES), "nothing that can be read"),
}  # fmt: skip


def test_there_are_enough_of_them():
    assert len(REFUSED) + len(ODD) >= 60


@pytest.mark.parametrize("name", ODD)
def test_what_is_odd_is_a_finding_and_the_rest_comes_in(name, tmp_path):
    data, words = ODD[name]
    hall = Hall(tmp_path)
    hall.take(data)
    lines = [f"{one.where}: {one.what}; {one.done}" for one in hall.arrived.findings]
    if words:
        assert any(words in line for line in lines), lines
        assert all(line.rsplit("; ", 1)[1] for line in lines)
    else:
        assert not lines
    good = hall.named("fixture 99").body
    assert (good.universe, good.address) == (9, 100)
    assert good.placement.position == pytest.approx((1, 2, 3))
    assert hall.show.types[good.type].name == "Heron"
    # And it can go out again.
    assert read_mvr(hall.out(), "again.mvr").scene.things


def test_what_our_own_words_do_not_say_rightly_is_said(tmp_path):
    hall = Hall(tmp_path)
    data = ODD["our own words, broken"][0]

    key = hall.look(data)
    compared = compare(hall.show, hall.inbox.look(key), Choices())
    assert [what for _, what, _ in compared.findings] == [
        "what this program wrote of it is damaged; taken by what the standard says of it"
    ]


def test_a_mirrored_lamp_is_taken_turned_and_that_is_said(tmp_path):
    hall = Hall(tmp_path)
    compared = compare(hall.show, hall.inbox.look(hall.look(ODD["a mirrored fixture"][0])), Choices())
    assert ("Fixture 1", "its matrix mirrors or stretches it, as no lamp can be") in {
        (where, what) for where, what, _ in compared.findings
    }


def test_a_type_that_nobody_has_becomes_a_plain_body_with_its_slots(tmp_path):
    hall = Hall(tmp_path)
    lamps = "".join(
        fixture(f"F{i}", i + 1, str(1 + i * 24), matrix(i, 0, 3), spec="Acme@Blorb 9@2.gdtf") for i in range(4)
    )
    hall.take(named(lamps))
    body = hall.named("fixture 1").body
    made = hall.show.types[body.type]
    assert (made.maker, made.name) == ("Stand-in", "Stand-in for Blorb 9")
    assert made.mode(body.mode).footprint == 24
    from zarfwright.core.readiness import findings

    assert any("stand-in" in one.text.lower() for one in findings(hall.show))
