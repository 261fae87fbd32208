"""How sturdy the live path is: a flood of rubbish, memory over minutes, and its process killed.

`python -m bench.sturdy [--minutes 10]`: 240 universes at 44 Hz with three viewers throughout, sender and viewers in
processes of their own on the same cores.
"""

from __future__ import annotations

import argparse
import asyncio
import json
import multiprocessing as mp
import os
import random
import signal
import socket
import time
from contextlib import suppress

from pydantic import TypeAdapter
from websockets.asyncio.client import connect
from websockets.exceptions import WebSocketException

from bench.live_path import SACN, Live, large_rig, latency, packets, send
from zarfwright.core.dmx.rows import sent
from zarfwright.core.types.model import FixtureType
from zarfwright.links.frames import HEADER, LEVELS
from zarfwright.web.children.live import LiveLink


def rubbish() -> list[bytes]:
    """Datagrams of every broken kind: noise, cut short, false lengths, flags, vectors, universes and start codes."""
    dice, whole = random.Random(5), bytes(packets(7))
    made = [dice.randbytes(dice.randint(0, 700)) for _ in range(20)]
    made += [whole[: dice.randint(1, len(whole) - 1)] for _ in range(20)]
    for at in (0, 16, 18, 38, 40, 113, 115, 117, 118, 123):
        broken = bytearray(whole)
        broken[at] ^= 0xFF
        made.append(bytes(broken))
    return made


def pour(seconds: float, a_second: int) -> None:
    """Send so much rubbish."""
    udp, made = socket.socket(socket.AF_INET, socket.SOCK_DGRAM), rubbish()
    end, due, step = time.perf_counter() + seconds, time.perf_counter(), 0.01
    while due < end:
        for i in range(int(a_second * step)):
            udp.sendto(made[i % len(made)], SACN)
        due += step
        time.sleep(max(0.0, due - time.perf_counter()))


def flood(seconds: float = 10.0) -> dict[str, object]:
    """The picture while rubbish is poured over it, after a while without."""
    live = Live(240)
    plain = latency(240, seconds, live)
    before = dict(live.dropped)
    pouring = mp.Process(target=pour, args=(seconds, 100_000))
    pouring.start()
    under = latency(240, seconds, live)
    pouring.join()
    time.sleep(1.0)
    dropped = {why: count - before.get(why, 0) for why, count in live.dropped.items()}
    after = latency(240, seconds, live)
    live.end()
    return {"without": plain, "with 100,000 a second": under, "dropped": dropped, "afterwards": after}


def memory(minutes: float) -> list[float]:
    """The memory of the live process, MB, each half minute; the first once everything is there."""
    live = Live(240)
    sender = mp.Process(target=send, args=(240, minutes * 60 + 30))
    sender.start()
    time.sleep(15.0)
    found = [live.memory_mb()]
    for _ in range(round(minutes * 2)):
        time.sleep(30.0)
        found.append(live.memory_mb())
    sender.terminate()
    sender.join()
    live.end()
    return [round(one, 1) for one in found]


def killed() -> dict[str, float]:
    """From the kill of the live process to a picture at a viewer, with the levels that were held, seconds."""
    rows = large_rig(240 * 12)
    types = {"t": TypeAdapter(FixtureType).dump_python(rows[0].type, mode="json", exclude={"images"})}
    link = LiveLink("127.0.0.1", [], SACN[0])

    def tell() -> None:
        link.set_patch(1, types, [sent(row, "t") for row in rows])
        link.drive({}, None, True)

    link.on_start = tell
    link.wait_ready()
    tell()
    time.sleep(2.0)
    send(240, 3.0)
    taken = []
    for _ in range(5):
        time.sleep(2.0)
        os.kill(link.pid, signal.SIGKILL)
        began = time.perf_counter()
        asyncio.run(_held_again(link))
        taken.append(time.perf_counter() - began)
    link.close()
    return {"median_s": sorted(taken)[2], "most_s": max(taken)}


async def _held_again(link: LiveLink) -> None:
    while True:
        with suppress(OSError, WebSocketException, TimeoutError):
            url = f"ws://127.0.0.1:{link.port}/?ticket={link.ticket()}"
            async with connect(url, max_size=None, compression=None) as viewer:
                await viewer.send(json.dumps({"watch": 120}))
                while True:
                    message = await asyncio.wait_for(viewer.recv(), 3.0)
                    if isinstance(message, bytes) and HEADER.unpack_from(message)[1] == LEVELS and any(message[32:]):
                        return
        await asyncio.sleep(0.02)


def main() -> int:
    """Print the figures as JSON."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--minutes", type=float, default=10.0)
    args = parser.parse_args()
    figures = {"flood": flood(), "killed": killed(), "memory_mb": memory(args.minutes)}
    print(json.dumps(figures, indent=1, default=lambda value: round(value, 3)))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
