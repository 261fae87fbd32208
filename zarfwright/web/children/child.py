"""A child process that takes JSON lines and tells JSON lines."""

from __future__ import annotations

import queue
import subprocess
import sys
import threading
from collections.abc import Callable
from contextlib import suppress
from typing import Any

import orjson

WAITING_MOST = 20_000
"""Lines that may wait for a process that does not read: then it hangs, and is ended."""


class Child:
    """Starts a module of ours as a process (`before`: what is put before its command). `hear` gets each line it tells,
    `gone` is called when it has ended. What it is told waits in a queue: nobody who tells it something waits for it to
    read."""

    def __init__(
        self,
        module: str,
        args: list[str],
        hear: Callable[[dict[str, Any]], None],
        gone: Callable[[], None],
        before: list[str] | None = None,
    ) -> None:
        self._hear, self._gone = hear, gone
        self._waiting: queue.SimpleQueue[bytes | None] = queue.SimpleQueue()
        self.process = subprocess.Popen(
            [*(before or []), sys.executable, "-m", module, *args], stdin=subprocess.PIPE, stdout=subprocess.PIPE
        )
        threading.Thread(target=self._read, name=f"hear-{module}", daemon=True).start()
        self._writer = threading.Thread(target=self._write, name=f"tell-{module}", daemon=True)
        self._writer.start()

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

    def _write(self) -> None:
        assert self.process.stdin is not None
        with suppress(BrokenPipeError, ValueError, OSError):
            while (line := self._waiting.get()) is not None:
                self.process.stdin.write(line + b"\n")
                # Several lines that wait go in one write.
                if self._waiting.empty():
                    self.process.stdin.flush()
        with suppress(BrokenPipeError, OSError):
            self.process.stdin.close()

    def say_line(self, line: bytes) -> bool:
        """One raw line; False when the process is no longer there."""
        if not self.running:
            return False
        if self._waiting.qsize() > WAITING_MOST:
            self.process.kill()
            return False
        self._waiting.put(line)
        return True

    def say(self, message: dict[str, Any]) -> bool:
        """One JSON line; False when the process is no longer there."""
        return self.say_line(orjson.dumps(message))

    @property
    def running(self) -> bool:
        return self.process.poll() is None

    def kill(self) -> None:
        """End it at once, whatever it does."""
        self.process.kill()

    def end(self, wait_s: float = 2.0) -> None:
        """Close its input, which ends it; kill it if it does not."""
        self._waiting.put(None)
        try:
            self.process.wait(wait_s)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()
