"""How fast looks are kept and recalled, how large they are, and what playing costs: `python -m bench.looks` prints
medians (docs/benchmarks.md). 3,000 fixtures; 200 looks of them that differ in aim, level and colour of each."""

from __future__ import annotations

import json
import statistics
import tempfile
import threading
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from websockets.sync.client import connect

from tests.processes import Program
from zarfwright.core.edits import perform
from zarfwright.core.looks.said import packed, table_of
from zarfwright.core.looks.shown import resolved
from zarfwright.core.playback.of_show import score_of
from zarfwright.core.playback.order import Order, Step
from zarfwright.core.show import Show
from zarfwright.demo.large import build_large
from zarfwright.store.showfile import ShowFile
from zarfwright.web.desk import Desk
from zarfwright.web.desk.session import new_id

TIMES, LOOKS, FIXTURES = 7, 200, 3000


def many_looks(path: Path) -> dict[str, Any]:
    """Two hundred looks into a file of the large show: how large it becomes, and how long it takes to open."""
    desk = Desk(path)
    show, look = desk.show, desk.show.settings.playing
    assert look is not None
    table = resolved(show, look).table
    desk.close()
    before = path.stat().st_size
    rng = np.random.default_rng(5)
    varied = [i for i, column in enumerate(table.features.tolist()) if column in (0, 1, 6, 15, 16, 17)]
    file = ShowFile(path)
    for n in range(LOOKS - 1):
        whole = table.whole()
        # Of each fixture its aim, its level and its colour: nobody's are alike.
        columns = table.features[varied]
        new = rng.uniform(0, 1, (len(table.keys), len(columns))).astype(np.float32)
        whole[:, columns] = np.where(np.isnan(whole[:, columns]), np.nan, new)
        said = packed(table_of(table.keys, whole))
        edit = perform(show, "keep look", {"name": f"Look {n}", "values": {table.keys[0]: {"dimmer": 1.0}}}, new_id)
        (change,) = edit.changes
        assert change.after is not None
        change = replace(change, after=replace(change.after, body=replace(change.after.body, values=said)))
        show = show.after([change])
        file.store_edit("bench", "keep look", edit.sentence, [change])
    file.forget_history()
    file.db.run("VACUUM")
    file.close()
    began = time.perf_counter()
    desk = Desk(path, look=True)
    opened = time.perf_counter() - began
    desk.document("bench")
    document = time.perf_counter() - began
    desk.close()
    return {
        "megabytes": round(path.stat().st_size / 2**20, 1), "before": round(before / 2**20, 1),
        "opened_s": round(opened, 2), "first_document_s": round(document, 2),
    }  # fmt: skip


class Viewer:
    """A browser's socket: when its last frame came."""

    def __init__(self, program: Program) -> None:
        ticket = program.get("/api/shows/SHOW/ticket")
        self.socket = connect(f"{ticket['url']}?ticket={ticket['ticket']}", max_size=None)
        self.frames: list[float] = []
        threading.Thread(target=self._hear, daemon=True).start()

    def _hear(self) -> None:
        for message in self.socket:
            if isinstance(message, bytes):
                self.frames.append(time.perf_counter())


def kept_and_recalled(program: Program) -> dict[str, Any]:
    """Kept from what is seen, one after the other without a breath and as a person does, when what the last one set off
    is over; recalled, until the frame of it has come to each of three browsers."""
    viewers = [Viewer(program) for _ in range(3)]
    program.document()
    ids = []
    keeps: dict[float, list[float]] = {0.0: [], 1.5: []}
    for pause, times in keeps.items():
        time.sleep(2)
        for _ in range(TIMES):
            began = time.perf_counter()
            ids.append(program.edit("keep look")["select"][0])
            times.append(time.perf_counter() - began)
            time.sleep(pause)
    in_a_row, kept = (round(statistics.median(times) * 1000) for times in keeps.values())
    for n, key in enumerate(ids[:TIMES]):
        heads = [row["id"] for row in program.document()["objects"] if row["kind"] == "fixture"]
        program.edit("set in look", id=key, values={head: {"dimmer": 0.1 + n / 10} for head in heads[:50]})
    recalls = []
    for key in ids[:TIMES]:
        counts = [len(viewer.frames) for viewer in viewers]
        time.sleep(0.4)
        counts = [len(viewer.frames) for viewer in viewers]
        began = time.perf_counter()
        program.edit("play look", id=key)
        while any(len(viewer.frames) <= count for viewer, count in zip(viewers, counts, strict=True)):
            time.sleep(0.001)
        recalls.append(max(viewer.frames[count] for viewer, count in zip(viewers, counts, strict=True)) - began)
    return {
        "kept_ms": kept, "kept_in_a_row_ms": in_a_row, "recalled_ms": round(statistics.median(recalls) * 1000),
    }  # fmt: skip


def played(show: Show) -> dict[str, Any]:
    """What a frame of playback costs while all fade, and to jump where nothing is in memory."""
    looks = [item.id for item in show.of_kind("look")][:12]
    steps = tuple(Step(str(i), look, fade_in_s=20.0, hold_s=5.0) for i, look in enumerate(looks))
    score = score_of(show, Order("bench", steps))
    score.at(26.0)
    frames = []
    for t in np.linspace(26.0, 44.0, 200):
        began = time.perf_counter()
        score.at(float(t))
        frames.append(time.perf_counter() - began)
    cold = score_of(show, Order("bench", steps))
    began = time.perf_counter()
    cold.at(25.0 * 11 + 3)
    return {
        "frame_ms": round(statistics.median(frames) * 1000, 2),
        "jump_ms": round((time.perf_counter() - began) * 1000),
    }  # fmt: skip


def main() -> None:
    """Print all of it."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.zarf"
        build_large(path, FIXTURES, 0)
        program = Program(path, demo=False)
        print(json.dumps(kept_and_recalled(program)))
        program.end()
        print(json.dumps(many_looks(path)))
        desk = Desk(path, look=True)
        print(json.dumps(played(desk.show)))
        desk.close()


if __name__ == "__main__":
    main()
