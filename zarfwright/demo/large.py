"""A large show for benchmarks, made up: as many fixtures as asked over an arena floor, all lit, and a crowd."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from zarfwright.core.aiming.solve import aim
from zarfwright.core.edits.rehanging import features_of
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.types.chain import chain_of
from zarfwright.demo.build import Builder
from zarfwright.library import dunlin, heron

ON_A_TRUSS = 30
COLOURS = ((0.0, 0.7, 0.9), (0.8, 0.0, 0.4), (0.1, 0.9, 0.2), (0.9, 0.3, 0.0))
"""Cyan, magenta, yellow of the profiles, in turn."""


def build_large(path: Path, fixtures: int, people: int) -> None:
    """Make the show file: `fixtures` moving heads, `people` seated, one look that lights all of it."""
    build = Builder(path)
    build.do("set show", name=f"{fixtures} lamps", work_light_lx=5.0, exposure_ev=9.0, haze_per_m=0.01)
    build.do("add venue", name="Arena", width="64m", upstage="36m", downstage="60m", eave="18m", ridge="22m")
    build.do("add deck", name="Stage", width="26m", depth="14m", height="1.6m", y="US 12")
    types = (build.add_type(heron()), build.add_type(dunlin()))
    trusses = -(-fixtures // ON_A_TRUSS)
    placed: list[str] = []
    for i in range(trusses):
        count = min(ON_A_TRUSS, fixtures - len(placed))
        side = "SR" if i % 2 else "SL"
        truss = build.do(
            "add truss", name=f"Truss {i + 1}", length="24m", start_trim=f"{9 + (i % 5) * 1.1:.1f}m",
            x=f"{side} 13", y=f"{-20 + (i // 2) * 44 / max(trusses / 2, 1):.2f}",
        ).select[0]  # fmt: skip
        type_id, mode = types[i % 2], ("Extended" if i % 2 == 0 else "Standard")
        placed += build.do(
            "place along rail", structure=truss, rail="lower right", type=type_id, mode=mode, count=str(count),
            first_number=str(len(placed) + 1),
        ).select  # fmt: skip
    build.do("address", ids=placed, start="1.001")
    if people:
        columns = 40
        build.do(
            "add figures", name="Floor", pose="sitting", rows=str(max(people // columns, 1)), columns=str(columns),
            pitch="0.6m", depth="0.95m", y="DS 4", height_spread="8cm",
        )  # fmt: skip
    show = build.show
    bodies = [show.items[fixture].body for fixture in placed]
    chains = [chain_of(show.types[body.type], body.mode) for body in bodies]  # type: ignore[union-attr]
    mounts = [clamp_placement(show, body) for body in bodies]  # type: ignore[arg-type]
    rng = np.random.default_rng(7)
    targets = np.stack([rng.uniform(-12, 12, fixtures), rng.uniform(-18, 18, fixtures), np.zeros(fixtures)], axis=1)
    aimed = aim(chains, mounts, targets, np.zeros((fixtures, 2)))
    types_of = [show.types[body.type] for body in bodies]  # type: ignore[union-attr]
    modes = [body.mode for body in bodies]  # type: ignore[union-attr]
    values: dict[str, dict[str, float]] = {}
    for i, fixture in enumerate(placed):
        cyan, magenta, yellow = COLOURS[i % len(COLOURS)]
        able = features_of(types_of[i], modes[i])
        said = {
            "pan": float(aimed.pan[i]), "tilt": float(aimed.tilt[i]), "dimmer": 0.8, "zoom": 16.0,
            "cyan": cyan, "magenta": magenta, "yellow": yellow,
            "red": 1 - cyan, "green": 1 - magenta, "blue": 1 - yellow, "gobo slot": float(1 + i % 4),
        }  # fmt: skip
        values[fixture] = {name: value for name, value in said.items() if name in able}
    look = build.do("keep look", name="All of it", values=values).select[0]
    build.do("play look", id=look)
    build.file.forget_history()
    build.file.close()
