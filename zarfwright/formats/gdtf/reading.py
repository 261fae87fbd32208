"""What the parts of the GDTF reader share: the file at hand, and the findings about it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar
from xml.etree.ElementTree import Element

from zarfwright.formats.archive import Archive
from zarfwright.formats.findings import Oddity
from zarfwright.formats.gdtf.values import read_number

T = TypeVar("T")
FINDINGS_MAX = 500


class Reading:
    """One file as it is read."""

    def __init__(self, file_name: str, archive: Archive) -> None:
        self.file_name, self.archive = file_name, archive
        self.findings: list[Oddity] = []

    def found(self, where: str, what: str, done: str) -> None:
        """Note something odd; a file that is odd throughout says so only so often."""
        if len(self.findings) < FINDINGS_MAX:
            self.findings.append(Oddity(where, what, done))

    def value(self, node: Element, name: str, read: Callable[[str], T], fallback: T) -> T:
        """An attribute of a node; what cannot be read becomes the fallback and a finding."""
        text = node.get(name)
        if text is None or not text.strip():
            return fallback
        try:
            return read(text)
        except (ValueError, OverflowError) as wrong:
            own = str(wrong).startswith("“")
            said = str(wrong) if own else f"“{text.strip()[:40]}” is nothing that can be read here"
            self.found(f"{node.tag} {node.get('Name', '')}".strip(), f"{name}: {said}", f"took {fallback}")
            return fallback

    def number(self, node: Element, name: str, fallback: float, least: float, most: float) -> float:
        """A number that is kept within bounds; one that lay outside is a finding."""
        value = self.value(node, name, read_number, fallback)
        if not least <= value <= most:
            where = f"{node.tag} {node.get('Name', '')}".strip()
            self.found(where, f"{name} is {value:g}", f"kept within {least:g} to {most:g}")
        return min(max(value, least), most)
