"""Edits of where light goes: aiming at places and focus points, values held by hand, and letting go."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import TypeVar

from pydantic import PrivateAttr

from zarfwright.core.aiming.cells import cells_among, cells_of
from zarfwright.core.aiming.patterns import Pattern
from zarfwright.core.aiming.pointing import Pair, Wish, aimable, point_at, short_of
from zarfwright.core.aiming.yokes import chain_for, turns_by_hand, with_angles
from zarfwright.core.carriers.posed import posed
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.dmx.rows import fixture_of
from zarfwright.core.edits.base import Arguments, Around, Edit, NewId, Values, changed, length, require_some
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import rig_of
from zarfwright.core.optics.photometry import Beams
from zarfwright.core.rig.held import holding, holding_cells, rows_held, without_cells
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show, listed
from zarfwright.core.space import Pose, Vec


class OfHeads(Arguments):
    """Arguments of what turns fixtures. `now` gives where their heads are, pan and tilt in radians."""

    ids: list[str]
    now: dict[str, tuple[float, float]] = {}
    _poses: dict[str, Pose] = PrivateAttr(default_factory=dict)
    """Where drivers have brought what they move."""


class AimAt(OfHeads):
    """Point fixtures at a place in the show's frame or at a focus point. `to` ends the line, `radius` is the ring's."""

    point: Vec | None = None
    focus: str | None = None
    offset: Vec = (0.0, 0.0, 0.0)
    pattern: Pattern = "point"
    to: Vec | None = None
    radius: str = "1m"


def chosen_fixtures(show: Show, ids: list[str]) -> list[Pair]:
    require_some(ids, "fixtures")
    pairs = []
    for item_id in ids:
        item, fixture = show.thing(item_id, Fixture)
        pairs.append((item, fixture))
    return pairs


def standing(stand: Show, pairs: list[Pair]) -> list[Pair]:
    """Fixtures as they stand in a show that drivers have moved."""
    return [stand.thing(item.id, Fixture) for item, _ in pairs]


def heads_now(ids: list[str], around: Around) -> dict[str, tuple[float, float]]:
    """Where heads are now, pan and tilt in radians; of a fixture of several cells the first one's."""
    seen = {fixture_of(key): value for key, value in reversed([*around.values().items()])}
    return {one: (seen[one]["pan"], seen[one]["tilt"]) for one in ids if one in seen}


H = TypeVar("H", bound=OfHeads)


def needs_heads(show: Show, args: H, around: Around) -> tuple[Show, H]:
    """Where the heads are now, so that each goes the short way round, and where drivers have brought them."""
    filled = args.model_copy(update={"now": args.now or heads_now(args.ids, around)})
    filled._poses = around.poses()
    return show, filled


def wish_of(show: Show, args: AimAt) -> Wish:
    """What is wished. Raises JobError where a place is none, or the radius is no length."""
    for place in (args.point, args.to, args.offset):
        if place is not None and not all(abs(part) < FURTHEST_M for part in place):
            raise JobError("That place is not on the stage: click a surface.")
    radius = length(show, args.radius, "radius", 0.0, 200.0)
    return Wish(args.point, args.focus, args.offset, args.pattern, args.to, radius)


FURTHEST_M = 10_000.0
"""No place of a stage is further away."""
SAID = {
    "point": "at",
    "parallel": "in parallel at",
    "line": "along a line from",
    "ring": "on a ring round",
    "crossed": "crossed along a line from",
}


def aim_at(show: Show, args: AimAt, _: NewId) -> Edit:
    wish = wish_of(show, args)
    pairs, still = aimable(show, chosen_fixtures(show, args.ids))
    if not pairs:
        raise JobError("None of these gives light that could be aimed: select others.")
    stand = posed(show, args._poses)
    pointed = point_at(stand, standing(stand, pairs), wish, args.now)
    changes, report = [], [f"{name.capitalize()} gives no light: there is nothing to aim." for name in still]
    for i, (item, fixture) in enumerate(pairs):
        turned = with_angles(fixture, pointed.chains[i], float(pointed.aimed.pan[i]), float(pointed.aimed.tilt[i]))
        kept = fixture.aim is not None and fixture.aim.kept
        aimed = replace(turned, aim=replace(pointed.aim_of(i, args.pattern), kept=kept))
        changes.append(changed(item, without_palettes(aimed, TURNS)))
    report += short_of(pointed)
    where = show.items[args.focus].name if args.focus else ", ".join(f"{part:.2f}" for part in args.point or ())
    said = f"Aim {listed(show, args.ids)} {SAID[args.pattern]} {where}"
    return Edit(tuple(changes), said, tuple(args.ids), tuple(report))


FARTHEST = 1e6
"""No feature has a value beyond, in its own unit."""


def require_features(values: Mapping[str, float]) -> None:
    """Raises JobError where something is no feature, or has a value that none has."""
    for name, value in values.items():
        if name not in INDEX:
            raise JobError(f"“{name}” is nothing that a fixture does.", "values")
        if abs(value) > FARTHEST:
            raise JobError(f"The {name} cannot be {value:g}.", "values")


class HoldValues(Arguments):
    """Hold features of fixtures by hand (names and units of core/dmx/features.py), or of some of their `cells`, from 1.
    Where a yoke is turned by hand, its pan and tilt are set, and stay."""

    ids: list[str]
    values: dict[str, float]
    cells: list[int] = []


TURNS = {"pan", "tilt"}
AT_THE_LAMP = ("pan", "tilt", "blade", "focus", "iris", "sharp")
"""What is set by hand at a lamp that does not move by itself."""
LIGHT = {"dimmer", "master dimmer", "shutter", "strobe", "strobe kind"}
BEAMS = ("zoom", "iris", "focus", "sharp", "frost", "gobo", "prism", "blade")


def without_palettes(fixture: Fixture, values: Iterable[str]) -> Fixture:
    """The fixture without the palettes that these features were of: they are its own now."""
    if not fixture.palettes:
        return fixture
    gone = set()
    for name in values:
        if name in TURNS:
            gone.add("position")
        elif name.startswith(BEAMS):
            gone.add("beam")
        elif name not in LIGHT:
            gone.add("colour")
    return replace(fixture, palettes={sort: one for sort, one in fixture.palettes.items() if sort not in gone})


def require_cells(show: Show, pairs: list[Pair], cells: list[int]) -> None:
    """Raises JobError where these are no cells of any of the fixtures."""
    most = max(cells_of(show, fixture) for _, fixture in pairs) if cells else 0
    if any(not 1 <= cell <= most for cell in cells):
        raise JobError(f"There is no such cell: they have {most}, counted from 1.", "cells")


def _held(show: Show, fixture: Fixture, values: Mapping[str, float], cells: list[int]) -> Fixture:
    if cells:
        after = holding_cells(fixture, cells_among(show, fixture, cells), values)
        # Turned by angles, it is no longer aimed at anything.
        return without_palettes(replace(after, aim=None) if TURNS & values.keys() else after, values)
    by_hand = fixture.type in show.types and turns_by_hand(chain_for(show, fixture))
    fixed = {name: value for name, value in values.items() if by_hand and name.startswith(AT_THE_LAMP)}
    held = {name: value for name, value in values.items() if name not in fixed}
    aim = None if TURNS & values.keys() else fixture.aim
    after = replace(holding(fixture, held), fixed={**fixture.fixed, **fixed}, aim=aim)
    return without_palettes(after, values)


def many_cells(cells: list[int]) -> str:
    return f"cell {cells[0]}" if len(cells) == 1 else f"{len(cells)} cells"


def hold_values(show: Show, args: HoldValues, _: NewId) -> Edit:
    require_features(args.values)
    pairs = chosen_fixtures(show, args.ids)
    require_cells(show, pairs, args.cells)
    changes = tuple(changed(item, _held(show, fixture, args.values, args.cells)) for item, fixture in pairs)
    what = ", ".join(args.values)
    if args.cells:
        what += f" on {many_cells(args.cells)}"
    return Edit(changes, f"Hold {what} of {listed(show, args.ids)}", tuple(args.ids))


def beams_shown(show: Show, pairs: list[Pair], values: Values) -> tuple[tuple[str, ...], Beams]:
    """The beams of some fixtures as they are now, by what they show under what is held; and whose each row is."""
    chosen = {item.id for item, _ in pairs}
    rig = rig_of(replace(show, items={k: i for k, i in show.items.items() if i.kind != "fixture" or k in chosen}))
    held: dict[str, dict[str, float]] = {}
    for item, fixture in pairs:
        held |= rows_held(item.id, fixture)
    rows = {key: {**values.get(key, {}), **held.get(fixture_of(key), {}), **held.get(key, {})} for key in rig.rig.keys}
    return tuple(rig.rig.fixtures), rig.beams(rows, {})


class Release(Arguments):
    """Let go of features held by hand; of all of them when none is named."""

    ids: list[str]
    features: list[str] = []


def _released(fixture: Fixture, features: list[str]) -> Fixture:
    kept = {} if not features else {k: v for k, v in fixture.hands.items() if k not in features}
    fixture = without_cells(fixture, features) if features else replace(fixture, cells={})
    # A head that is no longer held does not look at its place any more, unless it keeps its aim whoever drives it; a
    # yoke stays as it was set.
    let_go = TURNS & (fixture.hands.keys() - kept.keys()) and not (fixture.aim is not None and fixture.aim.kept)
    after = replace(fixture, hands=kept, aim=None if let_go else fixture.aim)
    return without_palettes(after, fixture.hands.keys() - kept.keys())


def release(show: Show, args: Release, _: NewId) -> Edit:
    changes = []
    for item, fixture in chosen_fixtures(show, args.ids):
        after = _released(fixture, args.features)
        if after != fixture:
            changes.append(changed(item, after))
    if not changes:
        raise JobError("Nothing is held by hand on these fixtures.")
    return Edit(tuple(changes), f"Let go of {listed(show, args.ids)}", tuple(args.ids))
