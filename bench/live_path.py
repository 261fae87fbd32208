"""How fast the live path is: decode time, and latency from a packet's arrival to the viewer's socket.

`python -m bench.live_path [--universes N] [--seconds S]` prints medians and percentiles; docs/benchmarks.md keeps them.
The latency run starts the real live process, sends sACN over the loopback at 44 Hz, and reads the socket three times.
"""

from __future__ import annotations

import argparse
import asyncio
import itertools
import json
import os
import socket
import subprocess
import sys
import threading
import time

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


def wide_type() -> FixtureType:
    """The Heron with further channels up to 40 slots, all of which are decoded."""
    from dataclasses import replace

    base = heron()
    mode = base.modes[0]
    more = tuple(
        Channel("Lens", (slot,), (ChannelFunction(f"Frost {slot}", "Frost1", 0, (0.0, 1.0)),)) for slot in range(17, 41)
    )
    return replace(base, modes=(Mode("Standard", mode.geometry, (*mode.channels, *more)),))


def large_rig(fixtures: int) -> list[PatchRow]:
    """Fixtures of 40 slots, 12 to a universe."""
    fixture_type = wide_type()
    return [PatchRow(f"f{i}", fixture_type, "Standard", 1 + i // 12, 1 + 40 * (i % 12)) for i in range(fixtures)]


def median_ms(work, times: int = 60) -> float:
    """The median of several runs, milliseconds."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return float(np.median(taken) * 1000)


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


def packets(universe: int, name: bytes = b"bench"):
    """A packet of one universe as bytes, its sequence and levels to be filled in."""
    head = PACKET.pack(
        0x10, 0, b"ASC-E1.17\x00\x00\x00", 0x726E, 4, os.urandom(16), 0x7258, 2, name, 100, 0, 0, 0, universe,
        0x720B, 2, 0xA1, 0, 1, 513, 0,
    )  # fmt: skip
    return bytearray(head + bytes(512))


def send(universes: int, seconds: float) -> None:
    """All universes at 44 Hz, every level changing."""
    udp = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    made = [packets(u + 1) for u in range(universes)]
    end, due = time.perf_counter() + seconds, time.perf_counter()
    for tick in itertools.count():
        for packet in made:
            packet[111] = tick & 0xFF
            packet[126:] = bytes([(tick * 3) & 0xFF]) * 512
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


def latency(universes: int, seconds: float) -> dict[str, float]:
    """p50 and p99 from packet to socket over three viewers, and what share of a core the live process takes."""
    secret = "bench"
    live = subprocess.Popen(
        [sys.executable, "-m", "zarfwright.links.live.process", "--sacn-address", SACN[0]],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
    )
    assert live.stdin is not None
    assert live.stdout is not None
    live.stdin.write(secret.encode() + b"\n")
    live.stdin.flush()
    port = json.loads(live.stdout.readline())["port"]
    rows = large_rig(universes * 12)
    types = {"t": TypeAdapter(FixtureType).dump_python(rows[0].type, mode="json", exclude={"images"})}
    patch = {
        "do": "patch",
        "rig": 1,
        "types": types,
        "rows": [sent(row, "t") for row in rows],
    }
    live.stdin.write(json.dumps(patch).encode() + b"\n" + json.dumps({"do": "drive", "follow": True}).encode() + b"\n")
    live.stdin.flush()
    threading.Thread(target=lambda: [None for _ in live.stdout or ()], daemon=True).start()
    time.sleep(1.5)
    ticket = URLSafeTimedSerializer(secret, salt=TICKET_SALT).dumps("x")
    waits: list[float] = []
    viewers: list[list[int]] = [[], [], []]
    sender = threading.Thread(target=send, args=(universes, seconds))

    async def all_viewers() -> None:
        until = clock.now() + seconds
        url = f"ws://127.0.0.1:{port}/?ticket={ticket}"
        await asyncio.gather(*(watch(url, until, waits, sequences) for sequences in viewers))

    before = _cpu(live.pid)
    sender.start()
    asyncio.run(all_viewers())
    sender.join()
    busy = (_cpu(live.pid) - before) / seconds
    live.stdin.close()
    live.wait(5)
    settled = sorted(waits[len(waits) // 10 :])
    missed = sum(b - a - 1 for sequences in viewers for a, b in itertools.pairwise(sequences) if b - a > 1)
    return {
        "frames_per_s": len(viewers[0]) / seconds,
        "p50_ms": settled[len(settled) // 2] * 1000,
        "p99_ms": settled[int(len(settled) * 0.99)] * 1000,
        "frames_skipped": missed,
        "share_of_a_core": busy,
    }


def _cpu(pid: int) -> float:
    with open(f"/proc/{pid}/stat", encoding="ascii") as file:
        fields = file.read().rsplit(")", 1)[1].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def main() -> int:
    """Print the figures as JSON."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--fixtures", type=int, default=3000)
    parser.add_argument("--universes", type=int, default=240)
    parser.add_argument("--seconds", type=float, default=8.0)
    args = parser.parse_args()
    figures = {"decode": decode_times(args.fixtures), "latency": latency(args.universes, args.seconds)}
    print(json.dumps(figures, indent=1, default=lambda value: round(value, 2)))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
