"""A file to try the exchange with: the demo's scene as a visiting company's drawing office might send it back."""

from __future__ import annotations

from xml.etree.ElementTree import Element, SubElement, fromstring, tostring

from zarfwright.core.exchange.rows import Rows
from zarfwright.core.exchange.scene import dashed, uuid_of
from zarfwright.formats.archive import Limits, Zip, write_archive
from zarfwright.formats.mvr.values import read_matrix, write_matrix
from zarfwright.formats.mvr.write import DESCRIPTION

OFFICE = "Drawing office"
LIFT_M = 0.35
GUESTS = 5
"""Heads that they brought, a palm below the rails that they are to hang on; the last two of a type of their own."""


def guest_scene(data: bytes) -> bytes:
    """The demo's scene (MVR) changed as by another program: what this one keeps for itself is gone, Truss 2 hangs
    higher with all that is on it, one head is away, another is in its other mode, and there are new ones."""
    archive = Zip(data, "demo.mvr", Limits())
    entries = dict(archive.each(archive.names))
    root = fromstring(entries[DESCRIPTION])
    root.set("provider", OFFICE)
    for user in root.findall("UserData"):
        root.remove(user)
    for children in root.iter("ChildList"):
        _changed(children, root)
    entries[DESCRIPTION] = b'<?xml version="1.0" encoding="UTF-8"?>\n' + tostring(root, encoding="utf-8")
    return write_archive(entries)


def _number(node: Element) -> int:
    return int(node.findtext("FixtureIDNumeric") or 0)


def _changed(children: Element, root: Element) -> None:
    positions = {one.get("uuid"): one.get("name") for one in root.iterfind("Scene/AUXData/Position")}
    hung = [node for node in children if positions.get(node.findtext("Position")) == "Truss 2"]
    heads = [node for node in hung if node.tag == "Fixture"]
    for node in (*hung, *(one for one in children if one.tag == "Truss" and one.get("name") == "Truss 2")):
        _moved(node, (0.0, 0.0, LIFT_M))
    for node in list(children):
        if node.tag == "Fixture" and _number(node) == 72:
            children.remove(node)
        if node.tag == "Fixture" and _number(node) == 61:
            mode = node.find("GDTFMode")
            assert mode is not None
            mode.text = "Extended"
    if heads:
        like = next(node for node in heads if _number(node) == 71)
        children.extend(_guest(like, i) for i in range(GUESTS))


def _moved(node: Element, by: tuple[float, float, float]) -> None:
    matrix = node.find("Matrix")
    assert matrix is not None
    u, v, w, o = read_matrix(matrix.text or "")
    rows: Rows = (u, v, w, (o[0] + by[0], o[1] + by[1], o[2] + by[2]))
    matrix.text = write_matrix(rows)


def _guest(like: Element, i: int) -> Element:
    """One of the heads that they brought."""
    number = 501 + i
    node = fromstring(tostring(like))
    node.set("uuid", dashed(uuid_of(f"guest {number}")))
    node.set("name", f"Guest {i + 1}")
    _moved(node, (0.45 + 0.5 * i, 0.0, -0.06))
    for tag, text in (
        ("FixtureID", str(number)),
        ("FixtureIDNumeric", str(number)),
        ("Function", "Guests, from above"),
    ):
        found = node.find(tag)
        (SubElement(node, tag) if found is None else found).text = text
    address = node.find("Addresses/Address")
    assert address is not None
    address.text = str(9 * 512 + 1 + 40 * i)
    if i >= GUESTS - 2:
        for tag, text in (("GDTFSpec", "Far Shore Lighting@Fulmar@2.gdtf"), ("GDTFMode", "Wide")):
            found = node.find(tag)
            assert found is not None
            found.text = text
    return node
