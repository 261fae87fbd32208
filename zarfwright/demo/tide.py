"""The whole of "The Lamplighter's Tide" in Halyard Shed, edit by edit, with the faults that the README names."""

from __future__ import annotations

from pathlib import Path

from zarfwright.core.playback.moves import move_findings
from zarfwright.core.playback.order import Order
from zarfwright.demo.build import Builder
from zarfwright.demo.focus import build_focus
from zarfwright.demo.lasers import build_lasers
from zarfwright.demo.moving import build_drivers
from zarfwright.demo.papers import build_papers
from zarfwright.demo.review import build_review
from zarfwright.demo.rigging import build_patch, build_rig, build_structures, build_types
from zarfwright.demo.scenes import SCENES, look_values
from zarfwright.demo.shed import build_people, build_set, build_venue


def build_demo(path: Path) -> None:
    """Make the demo show file. It holds four honest faults: a fixture in mid-air, a number given twice, a fixture
    without an address, a laser whose zone reaches people."""
    build = Builder(path)
    build.do(
        "set show",
        name="The Lamplighter's Tide",
        venue="Halyard Shed",
        system="metric",
        work_light_lx=6.0,
        exposure_ev=7.5,
        haze_per_m=0.004,
    )
    build_venue(build)
    carriers = build_set(build)
    people = build_people(build)
    on = build_structures(build)
    types = build_types(build)
    rig = build_rig(build, on, types)
    build_patch(build, rig)
    points = build_focus(build, rig, people)
    build_lasers(build, rig["lasers"])
    carriers["lantern"] = build.do(
        "make carrier",
        ids=[on["lantern"], *rig["lantern wash"], *rig["lantern rays"]],
        name="Lantern",
        number="301",
        pivot=[0, -3.5, 6.2],
    ).select[0]
    drivers = build_drivers(build, carriers)
    # Whatever the lantern does, its own light stays on who walks under it.
    build.do("aim at", ids=list(rig["lantern wash"]), focus=points["Tongue"])
    build.do("keep aim", ids=list(rig["lantern wash"]))
    build.do("release", ids=list(rig["lantern wash"]))
    # The faults: one in mid-air (the fifth wash on stage right), one number twice, one without an address.
    astray = build.do(
        "place free",
        type=types["dunlin"],
        mode="Standard",
        position=(-6.5, -9.0, 5.2),
        number=90,
        purpose="Tongue and deck wash",
    ).select[0]
    build.do("address", ids=[astray], start="4.401")
    build.do("number", ids=[rig["wash"][3]], start="83")
    build.do("activate layer", id=None)
    for name, parts, views in (
        ("Plan", [("number", "circle"), ("address", "plain")], ["plan"]),
        ("Booms and pipes", [("unit", "box"), ("number", "plain")], ["front", "back", "left", "right"]),
    ):
        style = build.do("add label style", name=name).changes[0].id
        build.do("set label style", id=style, parts=parts, views=views)
    for name, eye, target in (
        ("Operator's desk", (0.0, -32.0, 1.75), (0.0, 2.0, 3.2)),
        ("House front, by the aisle", (1.3, -11.4, 1.2), (0.0, 2.5, 3.6)),
        ("Gallery SL", (9.3, -13.0, 5.8), (-0.5, 2.5, 2.6)),
        ("Beside the tongue", (-5.2, -4.9, 1.25), (0.5, -0.5, 2.8)),
    ):
        build.do("add viewpoint", name=name, eye=eye, target=target)
    looks = {}
    for scene in SCENES:
        values = look_values(build.show, rig, drivers, scene)
        looks[scene.name] = build.do("keep look", name=scene.name, note=scene.note, values=values).select[0]
    _run(build, [*looks.values()])
    build.do("add connection", name="Lighting desk", universes="1 to 40", lands="1")
    build.do("add connection", name="Bar server", protocol="Art-Net", universes="0 to 3", lands="61")
    spare = build.do("add connection", name="Spare desk", universes="101 to 140", lands="1").select[0]
    build.do("set connection", id=spare, listen=False)
    build.do("play look", id=looks["Flood: the whole deck"])
    build.do("unpatch", ids=[rig["wash"][4]])
    build_review(build, looks, people["Storyteller"])
    build_papers(build, on)
    build.do("set show", look_first=False)
    build.file.forget_history()
    build.file.close()


HOLD_S = 4.2
MENDS_MOST = 60


def _run(build: Builder, looks: list[str]) -> None:
    """The running order of the pageant: the looks one after another in about two minutes, with times that real heads
    keep: those that can go ahead in the dark do, others have the time that they need."""
    order = build.do("add order", name="The whole tide", looks=looks).select[0]
    for scene, step in zip(SCENES, build.show.body(order, Order).steps, strict=True):
        build.do(
            "set step", id=order, steps=[step.key], fade_in=f"{scene.fade_s}", hold=f"{HOLD_S}", follows=True,
        )  # fmt: skip
    for _ in range(MENDS_MOST):
        mend = next((found.repair for found in move_findings(build.show) if found.repair is not None), None)
        if mend is None:
            break
        build.do(mend.kind, **mend.args)
