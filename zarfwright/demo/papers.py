"""The papers of the demo show: a set of six sheets, issued once, and where its power comes from."""

from __future__ import annotations

from typing import Any

from zarfwright.demo.build import Builder

DRAWN_BY = "Drawing office"


def _measured(build: Builder, sheet: str, view: str, sort: str, on: list[str]) -> None:
    build.do("add dimension", id=sheet, view=view, sort=sort, structures=on)


def build_papers(build: Builder, on: dict[str, str]) -> None:
    """Plan, section and elevation of all; the trusses, the booms, the lantern and the sides alone."""
    build.do("add supply", name="Distribution SR", x="SR 8", y="US 9", z="0")

    def sheet(name: str, number: str, paper: str, **args: Any) -> str:
        made = build.do("add sheet", name=name, number=number, paper=paper, drawn_by=DRAWN_BY, **args).select[0]
        return str(made)

    plan = sheet("Lighting plan", "L1", "A1", upright=True, look="plan")
    build.do("set view", id=plan, view="v1", scale="1:50", name="Plan of the rig")
    section = sheet("Section and elevation", "L2", "A1", look="section")
    build.do("set view", id=section, view="v1", name="Section on the centre line, towards SR")
    build.do("add view", id=section, look="front")
    _measured(build, section, "v1", "trim", [on["raked SR"]])
    trusses = sheet("Trusses across", "L3", "A2", of=[on["front"]])
    build.do("set view", id=trusses, view="v1", look="plan", name="Truss 1, plan")
    build.do("add view", id=trusses, look="plan", of=[on["back"]])
    build.do("set view", id=trusses, view="v2", name="Truss 2, plan")
    for view, key in (("v1", "front"), ("v2", "back")):
        _measured(build, trusses, view, "rail", [on[key]])
        _measured(build, trusses, view, "centre", [on[key]])
    booms = sheet("Booms", "L4", "A3", of=[on["boom SR DS"]])
    for key in ("boom SR US", "boom SL DS", "boom SL US"):
        build.do("add view", id=booms, of=[on[key]])
    for n, key in enumerate(("boom SR DS", "boom SR US", "boom SL DS", "boom SL US")):
        _measured(build, booms, f"v{n + 1}", "rail", [on[key]])
    lantern = sheet("Lantern", "L5", "A3", look="below", of=[on["lantern"]])
    build.do("set view", id=lantern, view="v1", name="Lantern, from below")
    build.do("add view", id=lantern, look="front", of=[on["lantern"]])
    build.do("set view", id=lantern, view="v2", name="Lantern, from the house")
    _measured(build, lantern, "v1", "rail", [on["lantern"]])
    sides = sheet("Raked trusses and gallery pipes", "L6", "A2", of=[on["raked SR"], on["raked SL"]])
    build.do("set view", id=sides, view="v1", look="plan", name="Raked trusses, plan")
    build.do("add view", id=sides, of=[on["raked SL"]])
    build.do("set view", id=sides, view="v2", name="Raked truss SL, square to it")
    build.do("add view", id=sides, look="plan", of=[on["gallery SR"], on["gallery SL"]])
    build.do("set view", id=sides, view="v3", name="Gallery pipes, plan")
    for view, keys in (("v1", ("raked SR", "raked SL")), ("v3", ("gallery SR", "gallery SL"))):
        _measured(build, sides, view, "rail", [on[key] for key in keys])
    _measured(build, sides, "v2", "trim", [on["raked SL"]])
    build.do("issue papers", number="A", date="2026-11-27", note="For the load-in", by=DRAWN_BY)
