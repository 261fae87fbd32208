"""Geometry references opened: each becomes a copy of what it names, and channels of what it names one channel each.

GDTF: a reference stands for a top-level geometry; its breaks say where the channels of that geometry (and of all that
is below it) begin for this copy. A break that says Overwrite takes the last break of the reference.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from zarfwright.core.types.model import Geometry
from zarfwright.core.types.naming import unlike
from zarfwright.formats.findings import FormatError
from zarfwright.formats.gdtf.geometry import REFERENCE, Raw
from zarfwright.formats.gdtf.reading import Reading

OPENED_MAX = 8192
"""Parts of one type, all references opened."""
NESTED_MAX = 8


@dataclass(frozen=True)
class Reference:
    """A reference that was opened: its own name in the flat tree, and its breaks."""

    name: str
    breaks: tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Copy:
    """Where a part of the description stands in the flat tree: its name there, and the references that it is under."""

    name: str
    under: tuple[Reference, ...] = ()

    def place(self, dmx_break: int | None, offset: int) -> tuple[int, int, bool]:
        """Break and offset of a channel in this copy, and whether every reference knew the break. None: Overwrite."""
        known = True
        for reference in reversed(self.under):
            if dmx_break is None:
                number, start = reference.breaks[-1] if reference.breaks else (1, 1)
                dmx_break = number
            else:
                start = dict(reference.breaks).get(dmx_break, 1)
                known = known and dmx_break in dict(reference.breaks)
            offset += start - 1
        return dmx_break or 1, offset, known


@dataclass
class Opened:
    """The flat trees, and for each tree where every part of the description is in it."""

    trees: list[Geometry] = field(default_factory=list)
    copies: dict[str, dict[str, list[Copy]]] = field(default_factory=dict)
    """By the name of the tree, then by the name in the description."""


class _Opener:
    def __init__(self, reading: Reading, tops: dict[str, Raw], before: int) -> None:
        self.reading, self.tops = reading, tops
        self.count = before
        self.names: set[str] = set()
        self.copies: dict[str, list[Copy]] = {}

    def free(self, wanted: str) -> str:
        name = unlike(wanted, self.names)
        self.names.add(name)
        return name

    def node(self, raw: Raw, under: tuple[Reference, ...], open_now: tuple[str, ...]) -> Geometry | None:
        self.count += 1
        if self.count > OPENED_MAX:
            raise FormatError(
                f"{self.reading.file_name} comes to more than {OPENED_MAX} parts with its references opened: "
                "it is refused."
            )
        name = self.free(f"{under[-1].name} {raw.name}" if under else raw.name)
        if raw.kind != REFERENCE:
            self.copies.setdefault(raw.name, []).append(Copy(name, under))
            below = [self.node(child, under, open_now) for child in raw.children]
            return Geometry(name, raw.kind, raw.model, raw.matrix, raw.beam, tuple(b for b in below if b is not None))
        return self.reference(raw, name, under, open_now)

    def reference(
        self, raw: Raw, name: str, under: tuple[Reference, ...], open_now: tuple[str, ...]
    ) -> Geometry | None:
        where, target = f"GeometryReference {raw.name}", self.tops.get(raw.target or "")
        if target is None or target.kind == REFERENCE:
            self.reading.found(where, f"it names “{raw.target}”, which is no geometry of this file", "left out")
            return None
        if target.name in open_now or len(open_now) > NESTED_MAX:
            self.reading.found(where, f"“{target.name}” comes round to itself", "left out")
            return None
        inside = (*under, Reference(name, raw.breaks))
        here = Copy(name, inside)
        self.copies.setdefault(target.name, []).append(here)
        self.copies.setdefault(raw.name, []).append(here)
        opened = (*open_now, target.name)
        below = [self.node(child, inside, opened) for child in target.children]
        # A reference stands where it is put: the place of the geometry that it names is not added.
        return Geometry(
            name,
            target.kind,
            raw.model or target.model,
            raw.matrix,
            target.beam,
            tuple(child for child in below if child is not None),
        )


def open_references(reading: Reading, raws: list[Raw], wanted: set[str]) -> Opened:
    """The trees that modes are over (all that are `wanted`, else the first), with their references opened.

    Raises FormatError when that comes to more parts than a type may have.
    """
    tops: dict[str, Raw] = {}
    for raw in raws:
        if raw.name in tops:
            reading.found(f"Geometry {raw.name}", "two geometries have this name", "the first is taken")
        tops.setdefault(raw.name, raw)
    opened, count = Opened(), 0
    chosen = [raw for raw in tops.values() if raw.name in wanted] or raws[:1]
    for raw in chosen:
        opener = _Opener(reading, tops, count)
        tree = opener.node(raw, (), (raw.name,))
        count = opener.count
        if tree is not None:
            opened.trees.append(tree)
            opened.copies[raw.name] = opener.copies
    return opened
