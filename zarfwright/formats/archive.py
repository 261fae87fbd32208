"""The guarded door: every zip that comes in is unpacked here, with its real bytes counted as they stream."""

from __future__ import annotations

import io
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from zarfwright.formats.findings import FormatError

ENTRIES_MAX = 2000
ENTRY_BYTES_MAX = 64 * 2**20
WHOLE_BYTES_MAX = 128 * 2**20
CHUNK = 256 * 2**10


@dataclass(frozen=True)
class Limits:
    """How much an archive may hold."""

    entries: int = ENTRIES_MAX
    entry_bytes: int = ENTRY_BYTES_MAX
    whole_bytes: int = WHOLE_BYTES_MAX


@dataclass(frozen=True)
class Archive:
    """The entries of a zip by their name, in order. Names are found ignoring case."""

    entries: Mapping[str, bytes]

    def find(self, name: str) -> bytes | None:
        """The bytes of an entry by name, whatever its case; None if it is not there."""
        if name in self.entries:
            return self.entries[name]
        folded = name.casefold()
        return next((data for key, data in self.entries.items() if key.casefold() == folded), None)


def _safe_name(info: zipfile.ZipInfo, file_name: str) -> str:
    name = info.filename.replace("\\", "/")
    path = PurePosixPath(name)
    if path.is_absolute() or ".." in path.parts or ":" in name.split("/", maxsplit=1)[0]:
        raise FormatError(
            f"{file_name} is refused: its entry “{name}” points outside the archive. Ask for a clean file."
        )
    return name


def _read_entry(archive: zipfile.ZipFile, info: zipfile.ZipInfo, limit: int, file_name: str) -> bytes:
    parts: list[bytes] = []
    size = 0
    with archive.open(info) as stream:
        while chunk := stream.read(CHUNK):
            size += len(chunk)
            if size > limit:
                raise FormatError(
                    f"{file_name} is refused: “{info.filename}” unpacks to more than {limit // 2**20} MB. "
                    "Export it again with smaller images and meshes."
                )
            parts.append(chunk)
    return b"".join(parts)


class Zip:
    """A zip whose entries are unpacked one by one, as they are asked for; names and bytes are guarded all the same."""

    def __init__(self, source: bytes | Path, file_name: str, limits: Limits) -> None:
        """Raises FormatError when it is none, or has too many entries or names that point outside."""
        self.source, self.file_name, self.limits = source, file_name, limits
        self._unpacked: dict[str, int] = {}
        with self._opened() as archive:
            infos = [info for info in archive.infolist() if not info.is_dir()]
            if len(infos) > limits.entries:
                raise FormatError(f"{file_name} is refused: it has {len(infos)} entries, more than {limits.entries}.")
            self._infos = {_safe_name(info, file_name): info for info in infos}
            if any(info.flag_bits & 0x1 for info in infos):
                raise FormatError(f"{file_name} is locked with a password: export it again without one.")

    @property
    def names(self) -> list[str]:
        """The names of its entries, in order."""
        return list(self._infos)

    def size(self, name: str) -> int:
        """The bytes of an entry as its header has them: nothing to rely on."""
        return self._infos[name].file_size

    @contextmanager
    def _opened(self) -> Iterator[zipfile.ZipFile]:
        try:
            with zipfile.ZipFile(io.BytesIO(self.source) if isinstance(self.source, bytes) else self.source) as archive:
                yield archive
        except FormatError:
            raise
        except (
            zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, OSError, ValueError, RuntimeError
        ) as wrong:  # fmt: skip
            text = f"{self.file_name} is not a zip archive that can be read: get the file again."
            raise FormatError(text) from wrong

    def read(self, name: str) -> bytes:
        """The bytes of an entry. Raises FormatError where it is damaged, or larger than it may be."""
        return next(data for _, data in self.each([name]))

    def each(self, names: Iterable[str]) -> Iterator[tuple[str, bytes]]:
        """Some entries one after another; as `read`."""
        with self._opened() as archive:
            for name in names:
                # What was unpacked before counts once.
                room = self.limits.whole_bytes - sum(self._unpacked.values()) + self._unpacked.get(name, 0)
                data = _read_entry(archive, self._infos[name], min(self.limits.entry_bytes, room), self.file_name)
                self._unpacked[name] = len(data)
                yield name, data


def open_archive(data: bytes, file_name: str) -> Archive:
    """Unpack a zip. Raises FormatError when it is none, is broken, or is larger than it may be."""
    archive = Zip(data, file_name, Limits())
    return Archive(dict(archive.each(archive.names)))


def write_archive(entries: Mapping[str, bytes], stored: tuple[str, ...] = ()) -> bytes:
    """Pack entries into a zip with fixed dates, so that the same content gives the same bytes. Names are UTF-8, and say
    so. Those that end as `stored` says are packed already."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in entries.items():
            info = zipfile.ZipInfo(name, date_time=(2020, 1, 1, 0, 0, 0))
            packed = bool(stored) and name.lower().endswith(stored)
            info.compress_type = zipfile.ZIP_STORED if packed else zipfile.ZIP_DEFLATED
            info.external_attr = 0o644 << 16
            archive.writestr(info, data)
    return out.getvalue()
