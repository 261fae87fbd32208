"""A child process that takes JSON lines and tells JSON lines."""

from __future__ import annotations

import subprocess
import sys
import threading
from collections.abc import Callable
from typing import Any

import orjson


class Child:
    """Starts a module of ours as a process. `hear` gets each line it tells, `gone` is called when it has ended."""

    def __init__(
        self, module: str, args: list[str], hear: Callable[[dict[str, Any]], None], gone: Callable[[], None]
    ) -> None:
        self._hear, self._gone = hear, gone
        self._lock = threading.Lock()
        self.process = subprocess.Popen(
            [sys.executable, "-m", module, *args], stdin=subprocess.PIPE, stdout=subprocess.PIPE
        )
        threading.Thread(target=self._read, name=f"hear-{module}", daemon=True).start()

    def _read(self) -> None:
        assert self.process.stdout is not None
        for line in self.process.stdout:
            try:
                message = orjson.loads(line)
            except orjson.JSONDecodeError:
                continue
            self._hear(message)
        self.process.wait()
        self._gone()

    def say_line(self, line: bytes) -> bool:
        """One raw line; False when the process is no longer there."""
        assert self.process.stdin is not None
        try:
            with self._lock:
                self.process.stdin.write(line + b"\n")
                self.process.stdin.flush()
        except (BrokenPipeError, ValueError, OSError):
            return False
        return True

    def say(self, message: dict[str, Any]) -> bool:
        """One JSON line; False when the process is no longer there."""
        return self.say_line(orjson.dumps(message))

    @property
    def running(self) -> bool:
        return self.process.poll() is None

    def end(self, wait_s: float = 2.0) -> None:
        """Close its input, which ends it; kill it if it does not."""
        assert self.process.stdin is not None
        try:
            with self._lock:
                self.process.stdin.close()
        except (BrokenPipeError, OSError):
            pass
        try:
            self.process.wait(wait_s)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()
