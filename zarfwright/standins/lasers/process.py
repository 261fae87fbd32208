"""The feed as a program: plays until its input ends, and says how fast it goes as JSON lines."""

from __future__ import annotations

import argparse
import json
import socket
import struct
import sys
import threading
import time
from pathlib import Path

import numpy as np

from zarfwright.parent import end_with_parent
from zarfwright.standins.lasers.ild import FileError, read
from zarfwright.standins.lasers.patterns import PATTERNS, Rows, pattern_of

HEAD = struct.Struct("<4sHBBIHH")
POINT = np.dtype([("x", "<i2"), ("y", "<i2"), ("rgb", "u1", 3), ("lit", "u1")])
PART_MOST = 4096
TELL_S = 1.0


def datagrams(feed: int, frame: int, rows: Rows) -> list[bytes]:
    """A frame of a feed as it goes over the wire."""
    points = np.zeros(len(rows), POINT)
    points["x"], points["y"] = np.rint(np.clip(rows[:, :2], -1, 1) * 32767).T
    points["rgb"] = np.rint(np.clip(rows[:, 2:5], 0, 1) * 255)
    points["lit"] = rows[:, 5] > 0
    parts = [points[i : i + PART_MOST] for i in range(0, len(points), PART_MOST)] or [points]
    return [
        HEAD.pack(b"ZLF1", feed, i, len(parts), frame & 0xFFFFFFFF, len(part), 0) + part.tobytes()
        for i, part in enumerate(parts)
    ]


def numbers(text: str) -> list[int]:
    """`1-12` or `1,4,7-9` as numbers. Raises ValueError."""
    found: list[int] = []
    for part in text.split(","):
        first, _, last = part.strip().partition("-")
        found += range(int(first), int(last or first) + 1)
    if not found or min(found) < 1 or max(found) > 65535:
        raise ValueError(text)
    return found


def _drawn(args: argparse.Namespace, feeds: list[int], frames: list[Rows] | None, t: float) -> list[tuple[int, Rows]]:
    if frames is not None:
        return [(feed, frames[int(t * args.hz + feed) % len(frames)]) for feed in feeds]
    return [(feed, pattern_of(args.pattern, feed)(feed, t, args.points)) for feed in feeds]


def play(args: argparse.Namespace, ended: threading.Event) -> None:
    """Send every feed so many times a second."""
    feeds = numbers(args.feeds)
    frames = read(Path(args.file).read_bytes()) if args.file else None
    host, _, port = args.to.rpartition(":")
    out = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    out.setsockopt(socket.SOL_SOCKET, socket.SO_SNDBUF, 4 * 2**20)
    began = told = time.monotonic()
    sent, number = 0, 0
    while not ended.is_set() and (not args.seconds or time.monotonic() - began < args.seconds):
        t = 0.0 if args.still else number / args.hz
        for feed, rows in _drawn(args, feeds, frames, t):
            for data in datagrams(feed, number + 1, rows):
                out.sendto(data, (host, int(port)))
        number += 1
        now = time.monotonic()
        if now - told >= TELL_S:
            print(json.dumps({"is": "state", "rate_hz": round((number - sent) / (now - told), 1)}), flush=True)
            told, sent = now, number
        ended.wait(max(began + number / args.hz - now, 0.0))


def _until_input_ends(ended: threading.Event) -> None:
    sys.stdin.read()
    ended.set()


def main() -> int:
    """Play until the input ends, or for so long."""
    parser = argparse.ArgumentParser(prog="zarfwright-laser-feed")
    parser.add_argument("--to", default="127.0.0.1:7254", help="where feeds go, address:port")
    parser.add_argument("--feeds", default="1", help="their numbers: 1-12, or 1,4,7-9")
    parser.add_argument("--pattern", default="mixed", choices=["mixed", *PATTERNS])
    parser.add_argument("--file", help="an ILDA file in place of a pattern")
    parser.add_argument("--points", type=int, default=600)
    parser.add_argument("--hz", type=float, default=30.0)
    parser.add_argument("--seconds", type=float, default=0.0, help="0: until its input ends")
    parser.add_argument("--still", action="store_true", help="figures that do not move")
    args = parser.parse_args()
    end_with_parent()
    ended = threading.Event()
    if not args.seconds:
        threading.Thread(target=_until_input_ends, args=(ended,), daemon=True).start()
    try:
        play(args, ended)
    except (OSError, ValueError, FileError) as wrong:
        print(json.dumps({"is": "problem", "text": f"The laser feed stopped: {wrong}"}), flush=True)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
