"""How fast the live path is: decode time, and latency from a packet's arrival to the viewer's socket.

`python -m bench.live_path [--universes N] [--seconds S]` prints medians and percentiles; docs/benchmarks.md keeps them.
The latency run starts the real live process, sends sACN over the loopback at 44 Hz, and reads the socket three times.
"""

from __future__ import annotations

import argparse
import asyncio
import itertools
import json
import multiprocessing as mp
import os
import socket
import subprocess
import sys
import threading
import time
from dataclasses import replace
from multiprocessing.connection import Connection

import numpy as np
from itsdangerous import URLSafeTimedSerializer
from pydantic import TypeAdapter
from websockets.asyncio.client import connect

from zarfwright.core.dmx.compile import compile_rig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.rows import PatchRow, sent
from zarfwright.core.picture import beam_table
from zarfwright.core.types.model import Channel, ChannelFunction, FixtureType, Mode
from zarfwright.library import heron
from zarfwright.links.frames import HEADER, scaling
from zarfwright.links.live import clock
from zarfwright.links.live.serve import TICKET_SALT
from zarfwright.links.sacn import PACKET

SACN = ("127.9.9.9", 5568)


FURTHER = (
    "Blade1B", "Blade2B", "Blade3B", "Blade4B", "CTO", "CTB", "Prism1Pos",
)  # fmt: skip


def wide_type() -> FixtureType:
    """The extended Heron with further channels up to 40 slots, each of which is seen in the picture."""
    base = heron()
    mode = base.mode("Extended")
    first = max(slot for channel in mode.channels for slot in channel.slots) + 1
    more = tuple(
        Channel("Lens", (first + i,), (ChannelFunction(attribute, attribute, 0, (0.0, 1.0)),))
        for i, attribute in enumerate(FURTHER)
    )
    return replace(base, modes=(Mode("Wide", mode.geometry, (*mode.channels, *more)),))


def large_rig(fixtures: int) -> list[PatchRow]:
    """Fixtures of 40 slots, 12 to a universe."""
    fixture_type = wide_type()
    return [PatchRow(f"f{i}", fixture_type, "Wide", 1 + i // 12, 1 + 40 * (i % 12)) for i in range(fixtures)]


def median_ms(work, times: int = 60) -> float:
    """The median of several runs, milliseconds."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return float(np.median(taken) * 1000)


def pace_ms() -> float:
    """How long a fixed piece of work takes just now, of Python and numpy about half each: other figures of one run are
    to be read beside it, for the speed of a machine that others use changes by the minute."""
    row, table = np.arange(2880, dtype=np.float32), {}

    def work() -> None:
        for i in range(2000):
            table[i & 63] = 2 * i
        for _ in range(100):
            np.multiply(row, row)

    return median_ms(work)


def decode_times(fixtures: int) -> dict[str, float]:
    """Medians of decoding, and of turning features into packed beams."""
    rows = large_rig(fixtures)
    start = time.perf_counter()
    rig = compile_rig(rows)
    compiled = (time.perf_counter() - start) * 1000
    decoder, table, scale = Decoder(rig), beam_table(rows), scaling()
    levels = np.random.default_rng(1).integers(0, 256, (len(rig.universes), 512), dtype=np.uint8)
    features = decoder.decode(levels).copy()
    return {
        "compile_ms": compiled,
        "decode_ms": median_ms(lambda: decoder.decode(levels)),
        "beams_ms": median_ms(lambda: scale.pack(table.frame(features))),
    }


def packets(universe: int, name: bytes = b"bench", priority: int = 100):
    """A packet of one universe as bytes, its sequence and levels to be filled in."""
    head = PACKET.pack(
        0x10, 0, b"ASC-E1.17\x00\x00\x00", 0x726E, 4, os.urandom(16), 0x7258, 2, name, priority, 0, 0, 0, universe,
        0x720B, 2, 0xA1, 0, 1, 513, 0,
    )  # fmt: skip
    return bytearray(head + bytes(512))


def send(universes: int, seconds: float, said: str = "all", priority: int = 100) -> None:
    """All universes at 44 Hz: every level changing, or (`few`) only those of the first eight, as in most of a show."""
    udp = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    made = [packets(u + 1, priority=priority) for u in range(universes)]
    end, due = time.perf_counter() + seconds, time.perf_counter()
    for tick in itertools.count():
        levels = bytes([(tick * 3) & 0xFF]) * 512
        for i, packet in enumerate(made):
            packet[111] = tick & 0xFF
            if said != "few" or i < 8:
                packet[126:] = levels
            udp.sendto(packet, SACN)
        due += 1 / 44
        if due > end:
            return
        time.sleep(max(0.0, due - time.perf_counter()))


async def watch(url: str, until: float, waits: list[float], sequences: list[int]) -> None:
    """One viewer: how old each frame is when it arrives."""
    async with connect(url, max_size=None, compression=None) as viewer:
        while clock.now() < until:
            try:
                message = await asyncio.wait_for(viewer.recv(), 1.0)
            except TimeoutError:
                continue
            if isinstance(message, bytes):
                head = HEADER.unpack_from(message)
                waits.append(clock.now() - head[4])
                sequences.append(head[0])


def view(url: str, seconds: float, told: Connection) -> None:
    """Three viewers, in a process of their own: tells how old frames were, and the numbers of those each one got."""
    waits: list[float] = []
    viewers: list[list[int]] = [[], [], []]

    async def all_viewers() -> None:
        until = clock.now() + seconds
        await asyncio.gather(*(watch(url, until, waits, sequences) for sequences in viewers))

    asyncio.run(all_viewers())
    told.send((waits, viewers))


class Live:
    """The real live process with a large rig, told what a desk would tell it."""

    def __init__(self, universes: int) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", "zarfwright.links.live.process", "--sacn-address", SACN[0]],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
        )
        assert self.process.stdin is not None
        assert self.process.stdout is not None
        self._tell(b"bench")
        port = json.loads(self.process.stdout.readline())["port"]
        rows = large_rig(universes * 12)
        types = {"t": TypeAdapter(FixtureType).dump_python(rows[0].type, mode="json", exclude={"images"})}
        patch = {"do": "patch", "rig": 1, "types": types, "rows": [sent(row, "t") for row in rows]}
        self._tell(json.dumps(patch).encode())
        self._tell(json.dumps({"do": "drive", "follow": True}).encode())
        self.dropped: dict[str, int] = {}
        threading.Thread(target=self._listen, daemon=True).start()
        ticket = URLSafeTimedSerializer("bench", salt=TICKET_SALT).dumps("x")
        self.url = f"ws://127.0.0.1:{port}/?ticket={ticket}"
        time.sleep(2.5)

    def _tell(self, line: bytes) -> None:
        assert self.process.stdin is not None
        self.process.stdin.write(line + b"\n")
        self.process.stdin.flush()

    def _listen(self) -> None:
        for line in self.process.stdout or ():
            told = json.loads(line)
            if told["is"] == "status":
                self.dropped = told["status"]["dropped"]

    def cpu_s(self) -> float:
        """The time of a processor that it has taken so far, by all its threads."""
        return cpu_s(self.process.pid)

    def memory_mb(self) -> float:
        with open(f"/proc/{self.process.pid}/statm", encoding="ascii") as file:
            return int(file.read().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 2**20

    def end(self) -> None:
        assert self.process.stdin is not None
        self.process.stdin.close()
        self.process.wait(5)


def cpu_s(pid: int) -> float:
    """The time of a processor that a process has taken so far, seconds."""
    with open(f"/proc/{pid}/stat", encoding="ascii") as file:
        fields = file.read().rsplit(")", 1)[1].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def latency(universes: int, seconds: float, live: Live, said: str = "all") -> dict[str, float]:
    """From packet to socket over three viewers, and what share of a core each side takes. Sender and viewers are
    processes of their own, on the same cores. `backup`: every level changes, and a second console stands by for all."""
    ours, theirs = mp.Pipe(duplex=False)
    viewers = mp.Process(target=view, args=(live.url, seconds, theirs))
    sender = mp.Process(target=send, args=(universes, seconds, said))
    by = mp.Process(target=send, args=(universes, seconds, said, 50)) if said == "backup" else None
    viewers.start()
    time.sleep(1.0)
    sender.start()
    if by is not None:
        by.start()
    # All are there by now; what follows is the steady state.
    time.sleep(1.0)
    parts = {"live": live.process.pid, "sender": sender.pid or 0, "viewers": viewers.pid or 0}
    pace = pace_ms()
    before, since = {name: cpu_s(pid) for name, pid in parts.items()}, time.perf_counter()
    time.sleep(seconds - 3.0)
    shares = {name: (cpu_s(pid) - before[name]) / (time.perf_counter() - since) for name, pid in parts.items()}
    waits, numbers = ours.recv()
    for one in (sender, viewers, *([by] if by is not None else ())):
        one.join()
    settled = sorted(waits[len(waits) // 5 :])
    missed = sum(b - a - 1 for sequences in numbers for a, b in itertools.pairwise(sequences) if b - a > 1)
    return {
        "pace_ms": pace,
        "frames_per_s": len(numbers[0]) / (seconds - 1.0),
        "p50_ms": settled[len(settled) // 2] * 1000,
        "p99_ms": settled[int(len(settled) * 0.99)] * 1000,
        "frames_skipped": missed,
        **{f"{name}_share_of_a_core": share for name, share in shares.items()},
    }


def main() -> int:
    """Print the figures as JSON."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--fixtures", type=int, default=3000)
    parser.add_argument("--universes", type=int, default=240)
    parser.add_argument("--seconds", type=float, default=10.0)
    args = parser.parse_args()
    figures = {"decode": decode_times(args.fixtures)}
    live = Live(args.universes)
    for said in ("all", "few", "backup"):
        figures[f"latency, {said}"] = latency(args.universes, args.seconds, live, said)
        # The senders of one run are no sources of the next.
        time.sleep(3.0)
    live.end()
    print(json.dumps(figures, indent=1, default=lambda value: round(value, 2)))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
