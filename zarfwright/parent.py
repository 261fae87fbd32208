"""A process that has no business without the one that started it ends with it, whatever either is doing."""

from __future__ import annotations

import ctypes
import os
import shutil
import signal
import sys
import threading
import time

LOOK_S = 0.5
PR_SET_PDEATHSIG = 1
"""prctl(2) of Linux: the signal that this process gets when the thread that started it ends."""


def ending_with_parent() -> list[str]:
    """What to put before a command so that the kernel ends it with the thread that starts it, from its first moment on
    (util-linux, a part of every Debian); nothing where that is not to be had."""
    setpriv = shutil.which("setpriv")
    return [setpriv, "--pdeathsig", "KILL"] if setpriv and sys.platform == "linux" else []


def end_with_parent(parent: int | None = None, at_once: bool = False) -> None:
    """End this process within a second of its parent's end (`parent`: its id, where it may be gone already).

    `at_once` lets the kernel end it, also while it is stopped: only for what is started by a thread that lives as long
    as its process, for it is that thread's end that counts.
    """
    ours = os.getppid() if parent is None else parent
    if at_once and sys.platform == "linux":
        ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    threading.Thread(target=_watch, args=(ours,), name="parent", daemon=True).start()


def _watch(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(LOOK_S)
    os._exit(1)
