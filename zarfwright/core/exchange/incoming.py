"""A scene file that is about to be taken in: what was read of it, and where its bytes are."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Protocol

from zarfwright.core.exchange.scene import Scene
from zarfwright.core.types.model import FixtureType


class Odd(Protocol):
    """Something odd in a file: where, what, and what was done about it."""

    @property
    def where(self) -> str: ...
    @property
    def what(self) -> str: ...
    @property
    def done(self) -> str: ...


class Incoming(Protocol):
    """A file that was read."""

    @property
    def name(self) -> str: ...
    @property
    def scene(self) -> Scene: ...
    @property
    def findings(self) -> Sequence[Odd]: ...
    @property
    def types(self) -> Mapping[str, FixtureType]:
        """The types in it, by the name of their file."""

    @property
    def shipped(self) -> Mapping[str, FixtureType]:
        """The types of the library, by GUID."""

    def type_file(self, choice: str, spec: str, made: FixtureType | None) -> tuple[str, bytes]:
        """Name and bytes of the GDTF of a choice (`file`, `library:GUID`, or `plain` with what was made)."""

    def mesh_call(self, shape: str) -> tuple[Any, tuple[Any, ...]]:
        """A function and its arguments, to be called anywhere, that reads a shape: a MeshFile, or why not."""

    def shape_file(self, shape: str) -> tuple[str, bytes]:
        """Name and bytes of the mesh of a shape."""

    def kept(self, things: frozenset[str]) -> tuple[bytes, Iterable[tuple[str, bytes]]]:
        """The description, and the entries that have to be kept besides, where these things of it (by UUID) are made
        anew by what this program itself wrote of them."""

    def covers(self, description: bytes) -> bool:
        """Whether all that an older description has is in this one too."""
