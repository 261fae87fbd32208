"""What a frame holds of each beam."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.space import Floats

FIELDS = (
    "pan",
    "tilt",
    "field",
    "beam",
    "red",
    "green",
    "blue",
    "hard",
    "iris",
    "strobe",
    "focus",
    "frost",
    "gobo",
    "gobo_turn",
    "gobo_spin",
    "prism",
    "gobo2",
    "gobo2_turn",
    "gobo2_spin",
    "prism_turn",
    "blade1",
    "blade2",
    "blade3",
    "blade4",
    "blade1_angle",
    "blade2_angle",
    "blade3_angle",
    "blade4_angle",
    "blades_turn",
    "prism_spin",
    "frost_gain",
    "web",
    "strobe_kind",
    "sharp_at",
)
"""Columns of a frame: angles in radians (field and beam are full angles), red green blue as shares of the beam's
`peak_cd` (they may be negative, outside Rec. 709), hard 0 or 1 (what kind of edge), iris, focus, frost and blades 0..1,
strobe in Hz, spins in rad/s. `gobo` and `gobo2` count the rig's gobo images from 1 (0: open), `prism` its prisms, `web`
its photometric webs, `strobe_kind` counts STROBE_KINDS from 0. `sharp_at` is
how far from the lens the gate is sharp, metres; 0: by `focus`.
`frost_gain` is the peak of the frosted beam over that of the clear one."""

COLUMN = {name: i for i, name in enumerate(FIELDS)}
SPINS = (("gobo_turn", "gobo_spin"), ("gobo2_turn", "gobo2_spin"), ("prism_turn", "prism_spin"))
PLAIN = {
    "pan": "pan", "tilt": "tilt", "strobe": "strobe", "gobo_turn": "gobo turn", "gobo_spin": "gobo spin",
    "gobo2_turn": "gobo 2 turn", "gobo2_spin": "gobo 2 spin", "prism_turn": "prism turn", "prism_spin": "prism spin",
    "blades_turn": "blades turn", "strobe_kind": "strobe kind", "sharp_at": "sharp at",
    **{f"blade{n}_angle": f"blade {n} angle" for n in (1, 2, 3, 4)},
}  # fmt: skip
"""Columns that are a feature as it is."""
SHARES = {"iris": "iris", "focus": "focus", "frost": "frost", **{f"blade{n}": f"blade {n}" for n in (1, 2, 3, 4)}}
"""Columns that are a feature kept within 0..1."""


def luminance_share(frame: NDArray[np.float32]) -> Floats:
    """(n,) how bright each beam of a frame is, as a share of its peak candela."""
    return np.asarray(frame[:, COLUMN["red"] : COLUMN["blue"] + 1] @ LUMINANCE)
