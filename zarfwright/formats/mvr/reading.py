"""What the parts of the MVR reader share: the file at hand, and the findings about it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar
from xml.etree.ElementTree import Element

from zarfwright.core.exchange.rows import STRAIGHT, Rows, flat
from zarfwright.formats.findings import Oddity
from zarfwright.formats.mvr.entries import Entries
from zarfwright.formats.mvr.values import read_matrix

T = TypeVar("T")
FINDINGS_MAX = 500


class Reading:
    """One file as it is read."""

    def __init__(self, file_name: str, entries: Entries) -> None:
        self.file_name, self.entries = file_name, entries
        self.findings: list[Oddity] = []
        self._said: set[tuple[str, str]] = set()

    def found(self, where: str, what: str, done: str) -> None:
        """Note something odd, once; a file that is odd throughout says so only so often."""
        if len(self.findings) < FINDINGS_MAX and (where, what) not in self._said:
            self._said.add((where, what))
            self.findings.append(Oddity(where[:120], what[:300], done))

    def text(self, node: Element, tag: str) -> str:
        """The text of a child; empty where there is none."""
        return (node.findtext(tag) or "").strip()

    def value(self, node: Element, tag: str, read: Callable[[str], T], fallback: T, where: str) -> T:
        """What the text of a child says; what cannot be read becomes the fallback and a finding."""
        text = self.text(node, tag)
        if not text:
            return fallback
        try:
            return read(text)
        except (ValueError, OverflowError) as wrong:
            own = str(wrong) if str(wrong).startswith("“") else f"“{text[:40]}” is nothing that can be read here"
            self.found(where, f"{tag}: {own}", "left out")
            return fallback

    def matrix(self, node: Element, where: str) -> Rows:
        """The matrix of an element; one that cannot be used is a finding, and the thing lies where its parent does."""
        text = self.text(node, "Matrix")
        if not text:
            return STRAIGHT
        try:
            rows = read_matrix(text)
        except (ValueError, OverflowError) as wrong:
            self.found(where, f"its matrix cannot be used: {wrong}", "put where what it lies in is")
            return STRAIGHT
        if node.tag not in ("Geometry3D", "Symbol") and flat(rows):
            self.found(where, "its matrix makes it flat", "taken by its place alone")
            return (*STRAIGHT[:3], rows[3])
        return rows

    def entry(self, name: str, where: str, what: str, *ends: str) -> str | None:
        """The entry of the archive that something names; one that is missing is a finding."""
        if not name.strip():
            self.found(where, f"it names no {what}", "shown without one")
            return None
        found = self.entries.find(name, *ends)
        if found is None:
            done = "another type is looked for" if what == "GDTF file" else "shown without it"
            self.found(where, f"its {what} “{name[:80]}” is not in the file", done)
            return None
        if not found[1]:
            self.found(where, f"its {what} “{name[:80]}” lies elsewhere in the file", f"taken from “{found[0][-80:]}”")
        return found[0]
