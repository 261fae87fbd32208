"""The four sorts of what a fixture does: how bright, which colour, where to, and in which shape."""

from __future__ import annotations

from typing import Literal, get_args

import numpy as np

from zarfwright.core.dmx.features import EMITTERS, FEATURES

Sort = Literal["intensity", "colour", "position", "beam"]
SORTS: tuple[Sort, ...] = get_args(Sort)
_OF: dict[str, Sort] = {
    **dict.fromkeys(("dimmer", "master dimmer", "shutter", "strobe", "strobe kind"), "intensity"),
    **dict.fromkeys(
        (
            "pan", "tilt", "pan spin", "tilt spin", "head speed", "dark while moving", "shift x", "shift y", "shift z",
            "turn x", "turn y", "turn z", "size", "spin", "return",
        ),
        "position",
    ),
    **dict.fromkeys(
        (
            "cyan", "magenta", "yellow", *EMITTERS, "warmer", "colder", "white point", "colour slot", "colour spin",
            "colour 2 slot", "colour 2 spin", "macro slot", "macro rate",
        ),
        "colour",
    ),
}  # fmt: skip
LIT = 0.005
"""What is brighter than this share is lit."""
SORT_OF: dict[str, Sort] = {feature.name: _OF.get(feature.name, "beam") for feature in FEATURES}
"""Of each feature, by name."""
SORT_OF_COLUMN = np.array([SORTS.index(SORT_OF[feature.name]) for feature in FEATURES])
"""(COUNT,) of each column, as its place in SORTS."""
STEPPING = np.array([feature.steps for feature in FEATURES])
"""(COUNT,) which columns step from value to value."""


def among(sorts: list[Sort]) -> np.ndarray[tuple[int, ...], np.dtype[np.bool_]]:
    """(COUNT,) which columns are of these sorts; none named: all."""
    return np.isin(SORT_OF_COLUMN, [SORTS.index(sort) for sort in sorts or SORTS])
