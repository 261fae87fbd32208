"""Scene files that have arrived and are being looked at: nothing of them is in the show until they are taken in."""

from __future__ import annotations

import itertools
import re
import tempfile
import threading
from collections import OrderedDict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from zarfwright.core.edits import Call
from zarfwright.core.errors import JobError
from zarfwright.core.exchange.scene import Scene
from zarfwright.core.types.model import FixtureType
from zarfwright.formats.archive import Limits, Zip
from zarfwright.formats.findings import Oddity
from zarfwright.formats.gdtf import write_gdtf
from zarfwright.formats.mvr import MvrFile
from zarfwright.formats.mvr.entries import Facts, facts_in
from zarfwright.formats.mvr.keep import only_of
from zarfwright.formats.mvr.read import limits_for, read_scene
from zarfwright.formats.mvr.shapes import composed, mesh_in
from zarfwright.library import shipped, shipped_file

KEPT = 4
CHUNK_BYTES, CHUNK_ENTRIES = 16 * 2**20, 24


def _mesh_of(data: bytes, name: str) -> Any:
    from zarfwright.formats.mesh import read_mesh

    return read_mesh(data, name)[0]


@dataclass
class Arrived:
    """One file on disk, and what was read of it (core/exchange/incoming.py)."""

    name: str
    path: Path
    limits: Limits
    archive: Zip
    file: MvrFile | None = None
    _cut: list[list[str]] = field(default_factory=list)

    @property
    def read(self) -> MvrFile:
        if self.file is None:
            raise JobError(f"{self.name} is still being read: wait until it is.")
        return self.file

    @property
    def scene(self) -> Scene:
        return self.read.scene

    @property
    def findings(self) -> tuple[Oddity, ...]:
        return self.read.findings

    @property
    def types(self) -> Mapping[str, FixtureType]:
        return self.read.types

    @property
    def shipped(self) -> Mapping[str, FixtureType]:
        return shipped()

    # Reading, in pieces

    def calls(self) -> list[Call]:
        """What has to be found out of its entries: anywhere, in any order."""
        chunks: list[list[str]] = [[]]
        size = 0
        for name in self.archive.names:
            if size > CHUNK_BYTES or len(chunks[-1]) >= CHUNK_ENTRIES:
                chunks.append([])
                size = 0
            if name.lower().endswith((".gdtf", ".glb", ".3ds", ".gltf")):
                chunks[-1].append(name)
                size += self.archive.size(name)
        return [Call(facts_in, (self.path, self.name, self.limits, chunk)) for chunk in chunks if chunk]

    def put_together(self, answers: list[dict[str, Facts]]) -> Call | None:
        """Read the scene with what was found out; gives the call that makes shapes of several meshes, if there are."""
        known = {name: facts for answer in answers for name, facts in answer.items()}
        self.file = read_scene(self.archive, known)
        made_of = self.file.to_compose
        return Call(composed, (self.path, self.name, self.limits, made_of)) if made_of else None

    def with_composed(self, made: Mapping[str, bytes | str]) -> None:
        self.file = self.read.with_composed(made)

    def read_here(self) -> None:
        """All of it, in this process."""
        call = self.put_together([call() for call in self.calls()])
        if call is not None:
            self.with_composed(call())

    # What the edit needs

    def type_file(self, choice: str, spec: str, made: FixtureType | None) -> tuple[str, bytes]:
        if made is not None:
            return f"{made.maker}@{made.name}.gdtf", write_gdtf(made)
        if choice.startswith("library:"):
            key = choice.removeprefix("library:")
            found = shipped()[key]
            return f"{found.maker}@{found.name}.gdtf", shipped_file(key)
        entry = self.read.type_entries[spec]
        return entry, self.archive.read(entry)

    def mesh_call(self, shape: str) -> tuple[Any, tuple[Any, ...]]:
        found = self.scene.shapes[shape]
        if shape in self.read.composed:
            return _mesh_of, (self.read.composed[shape], f"{shape[:12]}.glb")
        return mesh_in, (self.path, self.name, self.limits, found.name)

    def shape_file(self, shape: str) -> tuple[str, bytes]:
        if shape in self.read.composed:
            return f"{shape[:12]}.glb", self.read.composed[shape]
        name = self.scene.shapes[shape].name
        return name, self.archive.read(name)

    def kept(self, things: frozenset[str]) -> tuple[bytes, Iterable[tuple[str, bytes]]]:
        gone = only_of(self.read.description, things, self.archive.names)
        names = [name for name in self.archive.names if name not in gone and name != self.read.description_name]
        return self.read.description, self.archive.each(names)

    def covers(self, description: bytes) -> bool:
        return _named(description) <= _named(self.read.description)


def _named(description: bytes) -> set[bytes]:
    """The things of a description, and the programs that keep something of their own in it."""
    return {found.lower() for found in re.findall(rb'\s(?:uuid|provider)="([^"]{1,80})"', description)}


class Inbox:
    """The files that have arrived, the latest few. They are on disk in a folder that goes when the program ends."""

    def __init__(self) -> None:
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self._files: OrderedDict[str, Arrived] = OrderedDict()
        self._numbers = itertools.count(1)
        self._lock = threading.Lock()

    def place(self, name: str) -> tuple[str, Path]:
        """A key for a file, and where its bytes are to be written."""
        with self._lock:
            if self._folder is None:
                self._folder = tempfile.TemporaryDirectory(prefix="zarfwright-")
            key = f"scene-{next(self._numbers)}"
            return key, Path(self._folder.name) / f"{key}.mvr"

    def arrive(self, key: str, name: str, path: Path) -> Arrived:
        """A file whose bytes are there. Raises FormatError where it is no zip."""
        limits = limits_for(path.stat().st_size)
        try:
            arrived = Arrived(name, path, limits, Zip(path, name, limits))
        except BaseException:
            path.unlink(missing_ok=True)
            raise
        with self._lock:
            self._files[key] = arrived
            while len(self._files) > KEPT:
                self._files.popitem(last=False)[1].path.unlink(missing_ok=True)
        return arrived

    def look(self, key: str) -> Arrived:
        """A file by its key. Raises JobError."""
        found = self._files.get(key)
        if found is None:
            raise JobError("That file is not here any more: choose it again.", "key")
        return found

    def forget(self, key: str) -> None:
        """Let go of a file."""
        with self._lock:
            found = self._files.pop(key, None)
        if found is not None:
            found.path.unlink(missing_ok=True)

    def close(self) -> None:
        """Let go of everything."""
        with self._lock:
            self._files.clear()
            if self._folder is not None:
                self._folder.cleanup()
                self._folder = None
