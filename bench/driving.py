"""What moving things cost the live path: `python -m bench.driving` prints medians (docs/benchmarks.md).

3,000 heads on 200 trusses, each on a carrier with a lift and each on its way; a frame worked out and packed, as the
live process does 44 times a second: with the carriers still, moving, and with every head kept on its place meanwhile.
"""

from __future__ import annotations

import json
import tempfile
import time
from pathlib import Path
from typing import Any, cast

import numpy as np

from zarfwright.core.carriers.meeting import meetings
from zarfwright.core.carriers.plan import Plan
from zarfwright.core.carriers.planned import plan_of
from zarfwright.core.edits import Around
from zarfwright.core.patch import patch_rows
from zarfwright.core.show import Show
from zarfwright.demo.build import Builder
from zarfwright.demo.moving import TypesKept
from zarfwright.library import heron
from zarfwright.links.frames import poses_message
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.playing import live_rig

CARRIERS, HEADS = 200, 3000
FRAMES = 120
FRAME_S = 1 / 44


def build(path: Path) -> Show:
    """200 trusses on carriers, 15 heads on each, all aimed at one place and told to stay on it."""
    build = Builder(path)
    type_id = build.add_type(heron())
    around = cast(Around, TypesKept(build))
    channel = {"axis": "z", "low": "0m", "home": "0m", "high": "6m", "speed": "0.5m", "acceleration": "0.5m"}
    each = HEADS // CARRIERS
    for i in range(CARRIERS):
        truss = build.do(
            "add truss", length="8m", start_trim="6m", x=f"SL {10 * (i % 20)}", y=f"US {4 * (i // 20)}"
        ).select[0]  # fmt: skip
        heads = build.do("place along rail", structure=truss, type=type_id, mode="Extended", count=str(each)).select
        carrier = build.do("make carrier", ids=[truss, *heads]).select[0]
        build.do_with(around, "add driver", {"thing": carrier, "channels": [channel], "start": f"100.{1 + 2 * i:03d}"})
        build.do("aim at", ids=list(heads), point=[10 * (i % 20) + 2.0, 4 * (i // 20) - 6.0, 0.0])
        build.do("keep aim", ids=list(heads))
    ids = [item.id for item, _ in build.show.lamps()]
    build.do("address", ids=ids, start="1.001")
    show = build.show
    build.file.close()
    return show


def frames_ms(show: Show, plan: Plan, moving: bool) -> dict[str, Any]:
    """Milliseconds for a frame, median and 99th of a hundred, on a clock that is turned by hand."""
    clock = [1000.0]
    engine = Engine(lambda: clock[0])
    engine.set_rig(live_rig(1, patch_rows(show)))
    engine.set_plan(plan, 1)
    engine.publish()
    full = bytes([255] * 512)
    if moving:
        engine.restore({100: full})
    took = []
    bytes_sent = 0
    for _ in range(FRAMES):
        clock[0] += FRAME_S
        if not moving:
            engine.changed = False
        began = time.perf_counter()
        made = engine.publish()
        if made.poses is not None:
            bytes_sent = len(poses_message(made.poses, 1, 1, clock[0]))
        took.append((time.perf_counter() - began) * 1000)
    return {"p50_ms": round(float(np.median(took)), 2), "p99_ms": round(float(np.percentile(took, 99)), 2),
            "poses_bytes": bytes_sent}  # fmt: skip


def main() -> None:
    """Print the figures as JSON."""
    found: dict[str, Any] = {}
    with tempfile.TemporaryDirectory() as folder:
        show = build(Path(folder) / "driven.zarf")
    began = time.perf_counter()
    plan = plan_of(show)
    found["plan_ms"] = round((time.perf_counter() - began) * 1000, 1)
    found["still"] = frames_ms(show, plan, moving=False)
    found["moving"] = frames_ms(show, Plan(plan.groups), moving=True)
    found["moving, all heads kept"] = frames_ms(show, plan, moving=True)
    began = time.perf_counter()
    found["met"] = len(meetings(show))
    found["meetings_s"] = round(time.perf_counter() - began, 2)
    print(json.dumps(found, indent=1))


if __name__ == "__main__":
    main()
