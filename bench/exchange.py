"""How fast scenes go out and come in: `python -m bench.exchange` prints medians (docs/benchmarks.md).

3,000 fixtures on a hundred structures; and a file of 300 MB while somebody works on.
"""

from __future__ import annotations

import json
import resource
import statistics
import tempfile
import time
import urllib.request
import uuid
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from tests.processes import Program
from tests.scenes import HERON, description, layer, mesh_of, node
from zarfwright.core.exchange.compare import Choices, compare
from zarfwright.core.exchange.offered import Wish
from zarfwright.core.mesh import MeshFile, MeshPart, box
from zarfwright.demo.large import build_large
from zarfwright.formats.mesh import write_glb
from zarfwright.store.showfile import ShowFile
from zarfwright.web.desk import Desk
from zarfwright.web.desk.outbox import geometry_file, scene_file

TIMES = 5


def median_s(work: Callable[[], Any], times: int = TIMES) -> float:
    """The median time of some calls, seconds."""
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        taken.append(time.perf_counter() - began)
    return round(statistics.median(taken), 2)


def large(folder: Path) -> dict[str, float]:
    """A show of 3,000 fixtures out, into an empty one, and beside the show itself."""
    build_large(folder / "large.zarf", 3000, 0)
    ours = Desk(folder / "large.zarf")
    # What imports a library for meshes is paid once, by whoever is first.
    began = time.perf_counter()
    data = scene_file(ours.show, ours.session.asset, Wish()).data
    found = {"out_first_s": round(time.perf_counter() - began, 2)}
    found["out_s"] = median_s(lambda: scene_file(ours.show, ours.session.asset, Wish()))
    found["glb_s"] = median_s(lambda: geometry_file(ours.show, Wish()), 3)
    into, reads, seen = [], [], []
    for n in range(TIMES):
        path = folder / f"into {n}.zarf"
        ShowFile(path).close()
        theirs = Desk(path)
        # In the program findings are worked out later, beside (web/desk/finder.py).
        theirs.finder.all = lambda _: []  # type: ignore[method-assign]
        key, place = theirs.inbox.place("large.mvr")
        place.write_bytes(data)
        began = time.perf_counter()
        arrived = theirs.inbox.arrive(key, "large.mvr", place)
        arrived.read_here()
        reads.append(time.perf_counter() - began)
        began = time.perf_counter()
        compare(theirs.show, arrived, Choices())
        seen.append(time.perf_counter() - began)
        began = time.perf_counter()
        theirs.edit("bench", "take scene", {"key": key})
        into.append(time.perf_counter() - began)
        theirs.close()
    found |= {
        "read_s": round(statistics.median(reads), 2), "compare_s": round(statistics.median(seen), 2),
        "take_s": round(statistics.median(into), 2), "megabytes": round(len(data) / 1e6, 2),
    }  # fmt: skip
    ours.close()
    return found


def heavy(path: Path, megabytes: int) -> None:
    """A file of so many MB: meshes of noise, which do not pack."""
    rng = np.random.default_rng(3)
    things, size = [], 0
    with zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as archive:
        while size < megabytes * 1e6:
            cube = box((1, 1, 1))
            rows = rng.normal(size=(120_000, 3)).astype(np.float32)
            mesh = type(cube)(
                rows, np.tile(cube.normals[:1], (len(rows), 1)), np.arange(len(rows), dtype=np.uint32).reshape(-1, 3)
            )
            data = write_glb(MeshFile((MeshPart("noise", (0.5, 0.5, 0.5), mesh),)))
            name = f"{uuid.uuid4().hex}.glb"
            archive.writestr(name, data)
            things.append(node("SceneObject", name, mesh_of(name)))
            size += len(data)
        archive.writestr("Heron.gdtf", HERON)
        archive.writestr("GeneralSceneDescription.xml", description(layer(*things)))


def sent(program: Program, path: Path) -> dict[str, Any]:
    """A file sent as a browser sends it."""
    head = f'--x\r\nContent-Disposition: form-data; name="file"; filename="{path.name}"\r\n\r\n'.encode()
    request = urllib.request.Request(
        f"{program.url}/api/shows/{program.show}/scenes?who=bench",
        head + path.read_bytes() + b"\r\n--x--\r\n",
        {"Content-Type": "multipart/form-data; boundary=x"},
    )
    with urllib.request.urlopen(request, timeout=300) as answer:
        made: dict[str, Any] = json.loads(answer.read())
        return made


def work_on(program: Program, job: str) -> tuple[list[float], list[int]]:
    """Edits of somebody else while a job runs: how long each took, and how far the job was."""
    took, done = [], []
    while True:
        began = time.perf_counter()
        program.edit("set show", who="other", venue=f"Shed {len(took)}")
        took.append(time.perf_counter() - began)
        fetched = program.get(f"/api/shows/SHOW/jobs/{job}")
        done.append(fetched["job"]["done"])
        if fetched["job"]["state"] != "running":
            return took, done
        time.sleep(0.05)


def beside_the_work(folder: Path, megabytes: int = 300) -> dict[str, Any]:
    """A large file read and taken in, while another person edits."""
    show = folder / "desk.zarf"
    ShowFile(show).close()
    heavy(folder / "heavy.mvr", megabytes)
    program = Program(show, demo=False)
    try:
        began = time.perf_counter()
        arrived = sent(program, folder / "heavy.mvr")
        upload = time.perf_counter() - began
        began = time.perf_counter()
        edits, steps = work_on(program, arrived["job"])
        reading = time.perf_counter() - began
        began = time.perf_counter()
        _, job = program.post(
            "/api/shows/SHOW/jobs", {"kind": "take scene", "args": {"key": arrived["key"]}, "who": "bench"}
        )
        begun = time.perf_counter() - began
        more, meshes = work_on(program, job["id"])
        taking = time.perf_counter() - began
        return {
            "upload_s": round(upload, 1), "read_s": round(reading, 1), "steps_seen": len(set(steps)),
            "edits_while_read": len(edits), "edit_p95_ms": round(float(np.percentile(edits, 95)) * 1000),
            "take_begun_s": round(begun, 1), "take_s": round(taking, 1), "mesh_steps_seen": len(set(meshes)),
            "edit_p95_while_taken_ms": round(float(np.percentile(more, 95)) * 1000),
            "longest_edit_ms": round(max(*edits, *more) * 1000),
        }  # fmt: skip
    finally:
        program.end()


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as folder:
        print(json.dumps({"3,000 fixtures": large(Path(folder))}), flush=True)
        print(json.dumps({"300 MB": beside_the_work(Path(folder))}), flush=True)
        print(json.dumps({"memory_mb": round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)}))
