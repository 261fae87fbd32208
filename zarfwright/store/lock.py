"""One program at a time has a show file open: a lock beside it, which goes with the process, however that ends."""

from __future__ import annotations

import fcntl
import os
from contextlib import suppress
from pathlib import Path

from zarfwright.store.errors import ShowFileError


class FileLock:
    """Held from when it is made until it is let go. The lock is the kernel's, on a file `<show>-lock` that says who
    holds it."""

    def __init__(self, path: Path) -> None:
        """Raises ShowFileError where another program has the show open."""
        self._path = Path(f"{path.resolve()}-lock")
        self._held: int | None = None
        while self._held is None:
            self._held = self._take(path)
        # Who it is, for others to read; on a full disk it goes without.
        with suppress(OSError):
            os.ftruncate(self._held, 0)
            os.write(self._held, str(os.getpid()).encode())

    def _take(self, path: Path) -> int | None:
        """The locked file; None where it was taken away meanwhile by who let go of it."""
        try:
            held = os.open(self._path, os.O_RDWR | os.O_CREAT, 0o644)
        except OSError as wrong:
            raise ShowFileError(
                f"{path.name} cannot be opened to work on, because nothing can be written beside it "
                f"({wrong.strerror}): open a copy of it in a folder that can be written to."
            ) from wrong
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
            if os.fstat(held).st_ino == self._path.stat().st_ino:
                return held
        except FileNotFoundError:
            pass
        except OSError as wrong:
            by = os.read(held, 20).decode("ascii", "replace") or "unknown"
            os.close(held)
            raise ShowFileError(
                f"{path.name} is open in another Zarfwright already (process {by}): work in that one, or close it "
                "first. To try something out, open a copy."
            ) from wrong
        os.close(held)
        return None

    def let_go(self) -> None:
        """Let others have it."""
        if self._held is not None:
            self._path.unlink(missing_ok=True)
            os.close(self._held)
            self._held = None
