"""The constants of a rig's beams, put together from those of its types."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.dmx.features import EMITTERS
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.picture.constants import (
    ZOOM_STEPS,
    Constants,
    constants_of,
    in_figure,
    lets_through,
    with_lamp,
    with_lens,
)
from zarfwright.core.picture.frame import BeamTable, ColourWheel
from zarfwright.core.space import Floats


def _numbered(rows: list[tuple[int, ...]]) -> NDArray[np.int64]:
    """Rows of unequal length as one table; what is missing is 0."""
    table = np.zeros((len(rows), max((len(row) for row in rows), default=1)), dtype=np.int64)
    for r, row in enumerate(rows):
        table[r, : len(row)] = row
    return table


def beam_table(rows: Sequence[PatchRow]) -> BeamTable:
    """The constants of the rig's beams, in the order of `compile_rig`."""
    picked: list[Constants] = []
    gels: list[Floats] = []
    for row in rows:
        beams = constants_of(row.type, row.mode)
        if row.lens_deg is not None:
            beams = tuple(with_lens(one, row.lens_deg) for one in beams)
        if row.lamp is not None:
            beams = tuple(with_lamp(one, *row.lamp) for one in beams)
        if row.draws:
            beams = tuple(in_figure(one) for one in beams)
        picked += beams
        gels += [lets_through(row.gel, None, 0.0)] * len(beams)
    n = len(picked)
    gobos = sorted({key for one in picked for wheel in one.gobos for key in wheel if key})
    prisms = sorted({facets for one in picked for facets in one.prisms if facets}, key=repr)
    webs = sorted({one.web for one in picked if one.web})

    def colour_wheel(wheel: int) -> ColourWheel:
        counts = np.array([len(one.colours[wheel]) for one in picked], dtype=np.int64)
        colours = np.ones((n, int(counts.max(initial=1)), 3))
        for r, one in enumerate(picked):
            colours[r, : counts[r]] = one.colours[wheel]
        return ColourWheel(colours, counts)

    def gobo_rows(wheel: int) -> NDArray[np.int64]:
        return _numbered([tuple(gobos.index(k) + 1 if k else 0 for k in one.gobos[wheel]) for one in picked])

    def gobo_counts(wheel: int) -> NDArray[np.int64]:
        return np.array([len(one.gobos[wheel]) for one in picked], dtype=np.int64)

    return BeamTable(
        peak_cd=np.array([one.peak for one in picked]),
        zoom_low=np.array([one.low for one in picked]),
        zoom_high=np.array([one.high for one in picked]),
        candela=np.array([one.candela for one in picked]).reshape(n, ZOOM_STEPS),
        frosted=np.array([one.frosted for one in picked]).reshape(n, ZOOM_STEPS),
        beam_share=np.array([one.beam_share for one in picked]),
        white=np.array([one.white for one in picked]).reshape(n, 3),
        emitters=np.array([one.emitters for one in picked]).reshape(n, len(EMITTERS), 3),
        filters=np.array([one.filters for one in picked]).reshape(n, 3, 3),
        wheels=(colour_wheel(0), colour_wheel(1), colour_wheel(2)),
        source_k=np.array([one.source_k for one in picked]),
        hard=np.array([one.hard for one in picked]),
        gobo_of_slot=(gobo_rows(0), gobo_rows(1)),
        gobo_slots=(gobo_counts(0), gobo_counts(1)),
        prism_of_slot=_numbered([tuple(prisms.index(f) + 1 if f else 0 for f in one.prisms) for one in picked]),
        gobos=tuple(gobos),
        prisms=tuple(prisms),
        gel=np.array(gels).reshape(n, 3),
        web=np.array([webs.index(one.web) + 1 if one.web else 0 for one in picked], dtype=np.int64),
        webs=tuple(webs),
    )
