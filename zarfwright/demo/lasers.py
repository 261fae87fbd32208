"""The six lasers of "The Lamplighter's Tide": feeds by place, zones over the house, a file on the outer two."""

from __future__ import annotations

import numpy as np

from zarfwright.core.lasers.frames import Frame, Reel
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.demo.build import Builder
from zarfwright.formats.ild import write_ild

FRAMES, POINTS = 45, 400
FILE = "Tide.ild"
OVER_THE_HOUSE = (-36.0, 8.7)
"""Where their axes lead: upstage coordinate and height."""


def tide() -> bytes:
    """An ILDA file: a line of water that rolls, there and back, from sea green to foam."""
    x = 1 - 2 * np.abs(2 * (np.arange(POINTS) / POINTS) - 1)
    frames = []
    for k in range(FRAMES):
        t = k / FRAMES * 2 * np.pi
        y = 0.45 * np.sin(4 * x + t) + 0.2 * np.sin(9 * x - 2 * t)
        foam = np.clip((y - 0.25) / 0.4, 0, 1)
        points = np.zeros((POINTS, 3), dtype=np.int16)
        points[:, 0], points[:, 1] = np.rint(x * 32767), np.rint(y * 32767)
        rgb = np.stack([200 * foam, 190 + 65 * foam, 120 + 100 * foam], axis=-1).astype(np.uint8)
        frames.append(Frame(points, np.zeros(POINTS, dtype=bool), 5, rgb, name=f"Tide{k + 1:02d}", number=k))
    return write_ild(Reel(tuple(frames)))


def build_lasers(build: Builder, ids: tuple[str, ...]) -> None:
    """Aim them over the house, number their feeds, give them zones, and cut those clear of people, but for the last
    one: its zone is taller than the others', and reaches the gallery."""
    y, z = OVER_THE_HOUSE
    for one in ids:
        x = clamp_placement(build.show, build.show.body(one, Fixture)).position[0]
        build.do("aim at", ids=[one], point=[0.7 * x, y, z])
    every = list(ids)
    build.do("number feeds", ids=every)
    build.do("set field", ids=every, field="zone width", text="16")
    build.do("set field", ids=every, field="zone height", text="6")
    build.do("set field", ids=every, field="zone across", text="-4 to 4")
    build.do("set field", ids=every, field="zone up", text="1")
    asset = build.file.keep_asset(FILE, tide())
    build.do("draw file", ids=[ids[0], ids[-1]], asset=asset, name=FILE)
    build.do("cut zones", ids=every[:-1])
    build.do("set field", ids=every[-1:], field="zone height", text="20")
    build.do("set field", ids=every[-1:], field="zone across", text="-8")
