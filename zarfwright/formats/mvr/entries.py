"""The entries of an MVR archive by the names that its description uses for them, and what each of them holds."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

from zarfwright.core.space import Floats
from zarfwright.core.types.model import FixtureType
from zarfwright.formats.archive import Limits, Zip
from zarfwright.formats.findings import FormatError, Oddity
from zarfwright.formats.gdtf import read_gdtf
from zarfwright.formats.mesh import glb_bounds
from zarfwright.formats.three_ds import read_3ds

MESH_ENDS = (".glb", ".gltf", ".3ds")


@dataclass(frozen=True)
class Facts:
    """What an entry holds: a mesh that reaches from `low` to `high` (in the file's own unit), or a fixture type."""

    asset: str
    """sha256 of its bytes."""
    bounds: tuple[Floats, Floats] | None = None
    type: FixtureType | None = None
    odd: tuple[Oddity, ...] = ()
    problem: str = ""
    """Why it cannot be read."""


def facts_of(data: bytes, name: str) -> Facts:
    """What one entry holds."""
    asset, plain = sha256(data).hexdigest(), name.lower()
    try:
        if plain.endswith(".gdtf"):
            fixture_type, odd = read_gdtf(data, name.rsplit("/", 1)[-1])
            return Facts(asset, type=fixture_type, odd=tuple(odd))
        if plain.endswith(".3ds"):
            return Facts(asset, bounds=read_3ds(data, name).bounds())
        if plain.endswith(MESH_ENDS):
            return Facts(asset, bounds=glb_bounds(data, name))
    except FormatError as wrong:
        return Facts(asset, problem=str(wrong))
    return Facts(asset)


def facts_in(source: bytes | Path, file_name: str, limits: Limits, names: Iterable[str]) -> dict[str, Facts]:
    """What some entries of an archive hold: a call that may be made in another process. Raises FormatError."""
    return {name: facts_of(data, name) for name, data in Zip(source, file_name, limits).each(names)}


def _plain(name: str) -> str:
    return unicodedata.normalize("NFC", name.strip().replace("\\", "/").lstrip("/")).casefold()


class Names:
    """Entries found by name as UTF-8, then as what that looks like in the oldest code page of zips, ignoring case,
    slashes and folders."""

    def __init__(self, names: Iterable[str]) -> None:
        self._by_name: dict[str, str] = {}
        self._by_last: dict[str, str] = {}
        for name in names:
            for plain in self._read_as(name):
                self._by_name.setdefault(plain, name)
                self._by_last.setdefault(plain.rsplit("/", 1)[-1], name)

    @staticmethod
    def _read_as(name: str) -> Iterator[str]:
        yield _plain(name)
        # A name without the flag of UTF-8 is read as code page 437, whatever it was written in.
        for page in ("utf-8", "cp1252"):
            try:
                yield _plain(name.encode("cp437").decode(page))
            except (UnicodeEncodeError, UnicodeDecodeError):
                continue

    def find(self, name: str, *ends: str) -> tuple[str, bool] | None:
        """The name that an entry really has, and whether it lies where it was said; with one of these `ends` where the
        description leaves that out. None where there is none."""
        plain = _plain(name)
        for tried in (plain, *(plain + end for end in ends)):
            if tried in self._by_name:
                return self._by_name[tried], True
        for tried in (plain, *(plain + end for end in ends)):
            last = tried.rsplit("/", 1)[-1]
            if last and last in self._by_last:
                return self._by_last[last], False
        return None


class Entries(Names):
    """The entries of an archive, and what each of them holds."""

    def __init__(self, archive: Zip, known: Mapping[str, Facts] | None = None) -> None:
        """With what is `known` of entries already."""
        super().__init__(archive.names)
        self.archive = archive
        self._facts = dict(known or {})

    def facts(self, name: str) -> Facts:
        """What an entry holds. Raises FormatError where it is damaged, or too large."""
        if name not in self._facts:
            self._facts[name] = facts_of(self.archive.read(name), name)
        return self._facts[name]
