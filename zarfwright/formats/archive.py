"""The guarded door: every zip that comes in is unpacked here, with its real bytes counted as they stream."""

from __future__ import annotations

import io
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import PurePosixPath

from zarfwright.formats.findings import FormatError

ENTRIES_MAX = 2000
ENTRY_BYTES_MAX = 64 * 2**20
WHOLE_BYTES_MAX = 128 * 2**20
CHUNK = 256 * 2**10


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


def _read_entry(archive: zipfile.ZipFile, info: zipfile.ZipInfo, room: int, file_name: str) -> bytes:
    limit, parts, size = min(ENTRY_BYTES_MAX, room), [], 0
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


def open_archive(data: bytes, file_name: str) -> Archive:
    """Unpack a zip. Raises FormatError when it is none, is broken, or is larger than it may be."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            infos = [info for info in archive.infolist() if not info.is_dir()]
            if len(infos) > ENTRIES_MAX:
                raise FormatError(f"{file_name} is refused: it has {len(infos)} entries, more than {ENTRIES_MAX}.")
            entries: dict[str, bytes] = {}
            room = WHOLE_BYTES_MAX
            for info in infos:
                if info.flag_bits & 0x1:
                    raise FormatError(f"{file_name} is locked with a password: export it again without one.")
                name = _safe_name(info, file_name)
                entries[name] = _read_entry(archive, info, room, file_name)
                room -= len(entries[name])
            return Archive(entries)
    except FormatError:
        raise
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, OSError, ValueError, RuntimeError) as wrong:
        raise FormatError(f"{file_name} is not a zip archive that can be read: get the file again.") from wrong


def write_archive(entries: Mapping[str, bytes]) -> bytes:
    """Pack entries into a zip with fixed dates, so that the same content gives the same bytes."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in entries.items():
            info = zipfile.ZipInfo(name, date_time=(2020, 1, 1, 0, 0, 0))
            info.compress_type = zipfile.ZIP_DEFLATED
            info.external_attr = 0o644 << 16
            archive.writestr(info, data)
    return out.getvalue()
