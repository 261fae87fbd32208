"""The rig by the numbers: opening 3,000 fixtures, arranging and aiming 500, editing 100, the bench's table."""

from __future__ import annotations

import json
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from tests.browser.person import Person
from tests.processes import Program, wait_for
from zarfwright.core.aiming.pointing import Wish, landings, point_at
from zarfwright.core.lighting import caster_of
from zarfwright.core.rig.things import Fixture
from zarfwright.demo.large import build_large
from zarfwright.web.desk import Desk

FIXTURES = 3000
ME = "bench"
SCROLL = """
const done = arguments[arguments.length - 1];
const box = document.querySelector('section[aria-label="Bench"] table').parentElement;
const times = [];
let k = 0;
const step = () => {
  const began = performance.now();
  box.scrollTop = (box.scrollHeight / 20) * ++k;
  box.dispatchEvent(new Event("scroll"));
  setTimeout(() => { times.push(performance.now() - began); k < 20 ? step() : done(times); });
};
step();
"""


class Listening:
    """In the place of the live process: what it is told is counted."""

    def __init__(self) -> None:
        self.told = 0

    def set_patch(self, *_: Any) -> None:
        pass

    def drive(self, *_: Any) -> None:
        pass

    def tell(self, _: str) -> None:
        self.told += 1

    def values(self) -> dict[str, dict[str, float]]:
        return {}


def median_s(work: Callable[[], Any], times: int = 9) -> float:
    """Seconds of the median run; the first, which fills what is kept, is left out."""
    taken = []
    for _ in range(times + 1):
        began = time.perf_counter()
        work()
        taken.append(time.perf_counter() - began)
    return statistics.median(taken[1:])


def at_the_desk(path: Path) -> dict[str, float]:
    """Without a browser: seconds of edits as previews (worked out, nothing stored) and of one that is stored."""
    began = time.perf_counter()
    desk = Desk(path)
    first = len(desk.document(ME))
    out = {"open and first document": time.perf_counter() - began, "document, MB": first / 1e6}
    ids = [item.id for item, _ in desk.show.fixtures()][:500]
    line = {"ids": ids, "guide": "line", "start": [-12, -20, 9], "end": [12, 24, 12], "spacing": "fill"}
    ring = {"ids": ids, "guide": "ring", "centre": [0, 0, 9], "radius": "11m", "spacing": "fill", "facing": "out"}
    out["arrange 500 on a line"] = median_s(lambda: desk.preview(ME, "arrange", line))
    out["arrange 500 on a ring"] = median_s(lambda: desk.preview(ME, "arrange", ring))
    out["aim 500"] = median_s(lambda: desk.preview(ME, "aim at", {"ids": ids, "point": [0, 3, 1]}))
    out |= pointing(desk, ids[:100])
    out["number 500"] = median_s(lambda: desk.preview(ME, "number", {"ids": ids, "start": "5001"}))
    hundred = {"ids": ids[:100], "field": "purpose"}
    texts = iter(range(10_000))
    desk.feed.live = live = Listening()

    def edit() -> None:
        desk.edit(ME, "set field", {**hundred, "text": f"n {next(texts)}"})

    def edit_and_find() -> None:
        edit()
        desk.finder.wait()

    out["edit 100, stored and sent, with all findings behind it"] = median_s(edit_and_find)
    taken = []
    for _ in range(40):
        began = time.perf_counter()
        edit()
        taken.append(time.perf_counter() - began)
        desk.finder.wait()
    out["edit 100, stored and sent, median"] = statistics.median(taken)
    out["edit 100, stored and sent, p95"] = sorted(taken)[37]
    assert live.told > 90, "every edit was told, and what was found wrong"
    desk.close()
    return out


def pointing(desk: Desk, ids: list[str]) -> dict[str, float]:
    """Seconds of what the pointer asks for while it is held over the picture with 100 heads in hand: solved, and where
    each lands; and of a focus point with all of them moved."""
    show = desk.show
    caster = caster_of(show, [item for item in show.items.values() if item.is_a.solid])
    pairs = [(show.items[key], show.body(key, Fixture)) for key in ids]
    taken = []
    for k in range(60):
        began = time.perf_counter()
        landings(point_at(show, pairs, Wish((0.1 * k - 3.0, 3.0, 1.1)), {}), caster)
        taken.append(time.perf_counter() - began)
    desk.edit(ME, "add focus point", {"name": "Bench", "point": [0, 3, 1.5]})
    point = desk.show.of_kind("focus point")[0].id
    desk.edit(ME, "aim at", {"ids": ids, "focus": point})
    moved = median_s(lambda: desk.preview(ME, "move", {"ids": [point], "by": [0.5, 0.2, 0.0]}))
    out = {"point 100, median": statistics.median(taken[5:]), "point 100, p95": sorted(taken[5:])[52]}
    return {**out, "move a focus point with 100 heads": moved}


def in_the_browser(path: Path, folder: Path) -> dict[str, float]:
    """Seconds until the page is there, and of the script for a page of the table further."""
    program, person = Program(path, demo=False), Person(folder)
    out: dict[str, float] = {}
    try:
        began = time.perf_counter()
        person.driver.get(f"{program.url}/?scale=0.06&quality=Build")
        shown = "return document.body.innerText.includes('lamps')"
        wait_for(lambda: person.driver.execute_script(shown), "the page", 60)
        out["page with 3,000 fixtures"] = time.perf_counter() - began
        person.go("Hang")
        rows = "document.querySelectorAll('section[aria-label=\"Bench\"] tbody tr').length"
        wait_for(lambda: person.driver.execute_script(f"return {rows} > 5"), "the table", 60)
        out["rows drawn of 3,000"] = person.driver.execute_script(f"return {rows}")
        out["a page of the table further, script"] = statistics.median(person.driver.execute_async_script(SCROLL)) / 1e3
    finally:
        person.close()
        program.end()
    return out


def main() -> int:
    """Print it all as JSON."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        path = folder / "large.zarf"
        began = time.perf_counter()
        build_large(path, FIXTURES, 0)
        print(f"built in {time.perf_counter() - began:.1f} s", file=sys.stderr)
        print(json.dumps({**at_the_desk(path), **in_the_browser(path, folder)}, indent=1))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
