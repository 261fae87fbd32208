"""What the live process is told of lasers: which row draws what, where and how."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from zarfwright.core.lasers.light import LaserBeam, Line, line_rgb
from zarfwright.core.lasers.path import Scanning
from zarfwright.core.lasers.zone import Zone
from zarfwright.core.space import Floats

RED_FROM_NM, GREEN_FROM_NM = 580.0, 490.0
"""Which of a feed's red, green and blue a line takes, by its wavelength."""


@dataclass(frozen=True)
class Planned:
    """One row of the frame that is a laser."""

    key: str
    number: int | None
    feed: int | None
    file: str | None
    scanning: Scanning
    beam: LaserBeam


def sent(plan: Sequence[Planned]) -> list[dict[str, Any]]:
    """A plan as the live process is told it."""
    return [
        {**asdict(one), "beam": {**asdict(one.beam), "lines": [list(line) for line in one.beam.lines]}} for one in plan
    ]


def received(told: Sequence[Mapping[str, Any]]) -> tuple[Planned, ...]:
    """A plan from what the live process was told."""
    found = []
    for one in told:
        how, beam = dict(one["scanning"]), dict(one["beam"])
        how["zone"] = Zone(**how["zone"])
        beam["lines"] = tuple(Line(*line) for line in beam["lines"])
        found.append(Planned(one["key"], one["number"], one["feed"], one["file"], Scanning(**how), LaserBeam(**beam)))
    return tuple(found)


def channel_of(line: Line) -> int:
    """Which colour of a feed a line takes: 0 red, 1 green, 2 blue."""
    return 0 if line.nm >= RED_FROM_NM else 1 if line.nm >= GREEN_FROM_NM else 2


def channels_lm(beam: LaserBeam) -> Floats:
    """The light (3, 3) in linear Rec. 709, lumen, of each of a feed's colours at full."""
    light = np.zeros((3, 3))
    for line in beam.lines:
        light[channel_of(line)] += line_rgb(line)
    return light


def channel_shares(beam: LaserBeam, shares: Floats) -> Floats:
    """The share (3,) at which each of a feed's colours is given, by those of the lines (lines,): weighed by power."""
    given, whole = [0.0] * 3, [0.0] * 3
    for line, share in zip(beam.lines, shares.tolist(), strict=True):
        given[channel_of(line)] += line.watts * share
        whole[channel_of(line)] += line.watts
    return np.array([a / b if b > 0 else 0.0 for a, b in zip(given, whole, strict=True)])


def taken(beam: LaserBeam, light: Floats) -> Floats:
    """The light of a path (n, 3) as a head can give it: one of a single colour draws all of it in that."""
    channels = {channel_of(line) for line in beam.lines}
    if len(channels) != 1:
        return light
    one = np.zeros_like(light)
    one[:, channels.pop()] = light.max(axis=1)
    return one
