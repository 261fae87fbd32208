"""The edit that makes gates sharp at a distance: typed, or as far as a place of the stage is."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from zarfwright.core.aiming.coloured import driven
from zarfwright.core.aiming.pointing import Pair
from zarfwright.core.aiming.shutters import HARD
from zarfwright.core.aiming.yokes import chain_for, turns_by_hand
from zarfwright.core.edits.aiming import beams_shown, chosen_fixtures, without_palettes
from zarfwright.core.edits.base import Arguments, Around, Edit, NewId, Values, changed, length
from zarfwright.core.errors import JobError
from zarfwright.core.findings import first_few
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show, listed
from zarfwright.core.space import Floats, Vec
from zarfwright.core.units import format_length

NEAREST_M, FURTHEST_M = 0.5, 200.0


class SharpAt(Arguments):
    """Make the gates of fixtures sharp at a `distance` from their lenses, or at a `point` of the show. Nothing typed:
    the focus says it again. `values` is what they show now."""

    ids: list[str]
    point: Vec | None = None
    distance: str = ""
    values: Values = {}


def needs_poses(show: Show, args: SharpAt, around: Around) -> tuple[Show, SharpAt]:
    """Where the beams are now."""
    known = args.values or args.point is None
    return show, args if known else args.model_copy(update={"values": around.values()})


def can_be_sharp(show: Show, fixture: Fixture) -> bool:
    """Whether its gate is put in focus: by a channel, or by hand at its lens tube."""
    if "focus" in driven(show.type_of(fixture), fixture.mode):
        return True
    chain = chain_for(show, fixture)
    return turns_by_hand(chain) and chain.beam.kind in HARD


def _away(show: Show, pairs: list[Pair], values: Values, point: Vec) -> dict[str, float]:
    """How far along its beam a point is from each lens, metres, by fixture; of several cells the first one's."""
    rows, beams = beams_shown(show, pairs, values)
    ahead: Floats = np.sum((np.array(point, dtype=float) - beams.lens) * beams.along, axis=1)
    return {fixture: float(far) for fixture, far in reversed(list(zip(rows, ahead, strict=True)))}


def sharp_at(show: Show, args: SharpAt, _: NewId) -> Edit:
    pairs = chosen_fixtures(show, args.ids)
    typed = args.point is None and args.distance.strip()
    metres = length(show, args.distance, "distance", NEAREST_M, FURTHEST_M) if typed else 0.0
    away = _away(show, pairs, args.values, args.point) if args.point is not None else {}
    changes, report, reached = [], [], []
    for item, fixture in pairs:
        far = away.get(item.id, 0.0) if args.point is not None else metres
        if not can_be_sharp(show, fixture):
            report.append(f"{item.name.capitalize()} has no focus.")
            continue
        if args.point is not None and far < NEAREST_M:
            report.append(f"{item.name.capitalize()} does not look there: that place is behind its lens.")
            continue
        far = min(far, FURTHEST_M)
        own = fixture.fixed if turns_by_hand(chain_for(show, fixture)) else fixture.hands
        kept = {name: value for name, value in own.items() if name != "sharp at"}
        after = {**kept, "sharp at": round(far, 3)} if far else kept
        body = replace(fixture, fixed=after) if own is fixture.fixed else replace(fixture, hands=after)
        changes.append(changed(item, without_palettes(body, {"sharp at"})))
        reached.append(far)
    if not changes:
        raise JobError(report[0] if report else "None of these has a focus.", "distance")
    whom = listed(show, [change.id for change in changes])
    if not any(reached):
        return Edit(tuple(changes), f"Let the focus of {whom} be as driven", tuple(args.ids), tuple(first_few(report)))
    system = show.settings.system
    ends = sorted({format_length(round(far, 2), system) for far in (min(reached), max(reached))})
    said = f"Make {whom} sharp at {' to '.join(ends)}"
    return Edit(tuple(changes), said, tuple(args.ids), tuple(first_few(report)))
