"""What lasers cost: `python -m bench.lasers` prints medians (docs/benchmarks.md).

12 and 64 heads, each with a feed of its own of 2,000 points, 30 times a second, from the simulated feed over the
loopback: what is heard of it, what the live process makes of it for viewers, and what that takes of the machine. Then
what their zones reach in the demo's house.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path
from typing import Any

import numpy as np
import psutil

from zarfwright.core.lasers.planned import plan_of
from zarfwright.core.lasers.safety import crossings
from zarfwright.core.patch import patch_rows
from zarfwright.core.rig.held import rows_held
from zarfwright.core.show import Show
from zarfwright.demo.build import Builder
from zarfwright.demo.shed import build_people, build_set, build_venue
from zarfwright.library import stilt
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.lasers import LaserReceiver, Lasers
from zarfwright.links.live.playing import live_rig

HEADS, POINTS, SECONDS = (12, 64), 2000, 8.0
ADDRESS, PORT = "127.0.0.1", 47_254
FULL = {"dimmer": 1.0, "red": 1.0, "green": 1.0, "blue": 1.0}


def build(path: Path, heads: int) -> Show:
    """Lasers on a truss over the demo's house, all lit, each with a feed of its own."""
    build = Builder(path)
    build_venue(build)
    build_set(build)
    build_people(build)
    kind = build.add_type(stilt())
    truss = build.do("add truss", name="Lasers", length="20m", start_trim="7.5m", y="US 13").select[0]
    ids = list(build.do("place along rail", structure=truss, type=kind, count=str(heads), first_number="1001").select)
    for one in ids:
        build.do("aim at", ids=[one], point=[0.0, -40.0, 6.0])
    build.do("number feeds", ids=ids)
    build.do("hold values", ids=ids, values=FULL)
    show = build.show
    build.file.close()
    return show


def streamed(show: Show, heads: int, port: int) -> dict[str, Any]:
    """The live side in this process, the feed in another."""
    engine = Engine()
    engine.set_rig(live_rig(1, patch_rows(show)))
    engine.set_drive(None, {k: v for i, f in show.fixtures() for k, v in rows_held(i.id, f).items()}, True)
    engine.publish()
    lasers = Lasers(engine)
    lasers.set(plan_of(show), 1)
    receiver = LaserReceiver(lasers, ADDRESS, port)
    receiver.start()
    feed = subprocess.Popen(
        [sys.executable, "-m", "zarfwright.standins.lasers.process", "--to", f"{ADDRESS}:{port}", "--feeds",
         f"1-{heads}", "--points", str(POINTS), "--pattern", "circle"], stdin=subprocess.PIPE,
        stdout=subprocess.DEVNULL,
    )  # fmt: skip
    while len(lasers.feeds.by_number) < heads:
        time.sleep(0.05)
    took: list[float] = []
    sizes: list[int] = []
    real = lasers.look

    def watched(now: float) -> bytes | None:
        began = time.perf_counter()
        message = real(now)
        took.append((time.perf_counter() - began) * 1000)
        return message

    lasers.look = watched  # type: ignore[method-assign]

    def attempt(_what: str, do: Any) -> bool:
        do()
        return True

    before = {n: one.frames for n, one in lasers.feeds.by_number.items()}
    threading.Thread(target=lasers.publish_forever, args=(lambda m: sizes.append(len(m)), attempt), daemon=True).start()
    me = psutil.Process()
    cpu, began = me.cpu_times(), time.perf_counter()
    time.sleep(SECONDS)
    elapsed = time.perf_counter() - began
    after = me.cpu_times()
    heard = [lasers.feeds.by_number[n].frames - before[n] for n in before]
    assert feed.stdin is not None
    feed.stdin.close()
    feed.wait(5)
    used = (after.user + after.system - cpu.user - cpu.system) / elapsed
    return {
        "heard_hz": round(float(np.median(heard)) / elapsed, 1),
        "drawn_hz": round(len(sizes) / elapsed, 1),
        "look_p50_ms": round(float(np.median(took)), 1),
        "look_p99_ms": round(float(np.percentile(took, 99)), 1),
        "message_kB": round(float(np.median(sizes)) / 1000),
        "share_of_a_core": round(used, 2),
        "dropped": sum(lasers.feeds.dropped.values()),
    }


def reached(show: Show) -> dict[str, Any]:
    """What all zones reach among 480 people."""
    took = []
    found = 0
    for _ in range(3):
        began = time.perf_counter()
        found = len(crossings(show))
        took.append(time.perf_counter() - began)
    return {"first_s": round(took[0], 2), "again_s": round(min(took), 2), "crossings": found}


def main() -> None:
    """Build, stream, look."""
    # As the live process has it.
    sys.setswitchinterval(0.002)
    found = {}
    with tempfile.TemporaryDirectory() as folder:
        for n, heads in enumerate(HEADS):
            show = build(Path(folder) / f"{heads}.zarf", heads)
            found[f"{heads} heads"] = {"stream": streamed(show, heads, PORT + n), "safety": reached(show)}
    print(json.dumps(found, indent=1))


if __name__ == "__main__":
    main()
