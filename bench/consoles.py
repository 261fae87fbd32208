"""How fast a rig goes to a console: `python -m bench.consoles` prints medians (docs/benchmarks.md).

3,000 fixtures offered to a simulated console, taken, and fetched again; values of 100 fixtures handed over while they
are dragged.
"""

from __future__ import annotations

import json
import socket
import statistics
import tempfile
import threading
import time
from pathlib import Path
from typing import Any

from tests.processes import Program, wait_for
from zarfwright.demo.large import build_large

TIMES = 3


def asked(program: Program, key: str, what: str, **body: Any) -> tuple[float, Any]:
    """How long a console took to answer, seconds, and what it said."""
    began = time.perf_counter()
    status, answer = program.post(f"/api/shows/SHOW/consoles/{key}/{what}", body)
    assert status == 200, answer
    return time.perf_counter() - began, answer


def rig(program: Program) -> dict[str, Any]:
    """The whole rig to an empty console, and back."""
    key = program.post("/api/shows/SHOW/simulated", {"patch": False})[1]["key"]

    def linked() -> bool:
        return any(one["key"] == key and one["linked"] for one in program.get("/api/shows/SHOW/consoles")["consoles"])

    wait_for(linked, "the console")
    offers = [asked(program, key, "offer") for _ in range(TIMES)]
    took, taken = asked(program, key, "take", way="clear")
    fetched, compared = asked(program, key, "compare")
    program.post(f"/api/shows/SHOW/simulated/{key}", {"do": "end"})
    return {
        "fixtures": offers[0][1]["fixtures"],
        "megabytes": round(offers[0][1]["bytes"] / 2**20, 1),
        "offered_first_s": round(offers[0][0], 2),
        "offered_s": round(statistics.median(seconds for seconds, _ in offers), 2),
        "taken_s": round(took, 2),
        "counts": taken["result"]["counts"],
        "compared_s": round(fetched, 2),
        "same": compared["same"],
    }


def values(program: Program) -> dict[str, Any]:
    """A hundred fixtures dragged for some seconds: how often the console hears of one, and what previews take."""
    receiver = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    receiver.bind(("127.0.0.1", 0))
    receiver.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4 * 2**20)
    heads = [row for row in program.document()["objects"] if row["kind"] == "fixture"][:100]
    number = heads[0]["body"]["number"]
    key = program.edit("link console", name="Listener", values_port=str(receiver.getsockname()[1]))["select"][0]
    program.edit("set console", id=key, hand_over=True)
    heard: list[float] = []

    def hear() -> None:
        while True:
            data = receiver.recv(65536)
            if f"/fixture/{number}/Dimmer".encode() in data:
                heard.append(time.perf_counter())

    threading.Thread(target=hear, daemon=True).start()
    took = []
    began = time.perf_counter()
    ids = [row["id"] for row in heads]
    while time.perf_counter() - began < 5:
        args = {"ids": ids, "values": {"dimmer": len(took) % 101 / 100}}
        body = {"kind": "hold values", "args": args, "who": "bench", "preview": True, "live": True}
        at = time.perf_counter()
        program.post("/api/shows/SHOW/edits", body)
        took.append(time.perf_counter() - at)
    seconds = time.perf_counter() - began
    return {
        "previews_a_second": round(len(took) / seconds),
        "preview_p95_ms": round(sorted(took)[int(len(took) * 0.95)] * 1000, 1),
        "heard_a_second_of_one": round(len(heard) / seconds, 1),
    }


def main() -> None:
    """Print what was measured."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "large.zarf"
        build_large(file, 3000, 0)
        program = Program(file, demo=False)
        try:
            print(json.dumps({"rig": rig(program), "values": values(program)}, indent=1))
        finally:
            program.end()


if __name__ == "__main__":
    main()
