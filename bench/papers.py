"""How fast papers are drawn and written: `python -m bench.papers` prints medians (docs/benchmarks.md).

The demo's plan and its set, twice over (twelve sheets), as files; and the plan of the large show, 3,000 fixtures.
"""

from __future__ import annotations

import json
import tempfile
import time
from pathlib import Path

from bench.review import median_s
from zarfwright.core.schedules.lists import SCHEDULES
from zarfwright.core.sheet.compose import draw_sheet
from zarfwright.core.sheet.sheet import Sheet, View
from zarfwright.demo.large import build_large
from zarfwright.demo.tide import build_demo
from zarfwright.formats.sheet.dxf import sheet_dxf
from zarfwright.formats.sheet.pdf import set_pdf
from zarfwright.formats.sheet.svg import sheet_svg
from zarfwright.web.desk import Desk

FIXTURES, PEOPLE = 3000, 3000


def main() -> None:
    """Print the figures as JSON."""
    found: dict[str, object] = {}
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "tide.zarf"
        build_demo(path)
        desk = Desk(path, look=True)
        show = desk.show
        sheets = [sheet for _, sheet in show.bodies(Sheet)]
        plan = draw_sheet(show, sheets[0])
        found["demo_plan_s"] = median_s(lambda: draw_sheet(show, sheets[0]))
        for name, write in (
            ("pdf", lambda: set_pdf("", [plan])),
            ("svg", lambda: sheet_svg(plan)),
            ("dxf", lambda: sheet_dxf(plan)),
        ):
            found[f"{name}_s"], found[f"{name}_bytes"] = median_s(write), len(write())
        began = time.perf_counter()
        set_pdf("", [draw_sheet(show, sheet) for sheet in [*sheets, *sheets]])
        found["twelve_sheets_s"] = round(time.perf_counter() - began, 2)
        found["schedules_s"] = {name: median_s(lambda name=name: SCHEDULES[name](show)) for name in SCHEDULES}  # type: ignore[misc]
        desk.close()
        large = Path(folder) / "large.zarf"
        build_large(large, FIXTURES, PEOPLE)
        desk = Desk(large, look=True)
        for look in ("plan", "front"):
            began = time.perf_counter()
            drawing = draw_sheet(desk.show, Sheet("Large", paper="A0", views=(View("v1", look),)))  # type: ignore[arg-type]
            found[f"large_{look}_s"] = round(time.perf_counter() - began, 2)
            found[f"large_{look}"] = {
                "scale": drawing.scale,
                "marks": len(drawing.marks),
                "not_placed": drawing.labels_not_placed,
            }
        began = time.perf_counter()
        for name in SCHEDULES:
            SCHEDULES[name](desk.show)
        found["large_schedules_s"] = round(time.perf_counter() - began, 2)
        desk.close()
    print(json.dumps(found, indent=1))


if __name__ == "__main__":
    main()
