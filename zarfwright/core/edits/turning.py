"""Edits that turn heads and yokes by hand: typed angles, fans, pairs mirrored, the other way round."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from zarfwright.core.aiming.patterns import FAR_M, from_the_middle, mirrored_pairs
from zarfwright.core.aiming.pointing import Pair, aimable
from zarfwright.core.aiming.solve import aim, direction_in_show, ways
from zarfwright.core.aiming.yokes import angles_now, chain_for, with_angles
from zarfwright.core.edits.aiming import (
    TURNS,
    OfHeads,
    chosen_fixtures,
    heads_now,
    many_cells,
    require_cells,
    without_palettes,
)
from zarfwright.core.edits.base import Around, Edit, NewId, changed
from zarfwright.core.errors import JobError
from zarfwright.core.findings import first_few
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.held import holding_cells
from zarfwright.core.rig.order import by_place
from zarfwright.core.rig.things import Aim, Fixture
from zarfwright.core.show import Change, Item, Show, listed
from zarfwright.core.space import vec
from zarfwright.core.types.chain import Chain, chains_of, turn_apart
from zarfwright.core.units import parse_typed

NOTHING = "None of these gives light that could be aimed: select others."


class TurnHeads(OfHeads):
    """Pan or tilt as typed: `30`, `+=5`, `-20 to 20` over the selection in the order in which it hangs, or `0 to 25`
    from the middle to both ends. With `cells` (from 1) those that turn by themselves are, in their order."""

    cells: list[int] = []
    feature: Literal["pan", "tilt"]
    text: str
    fan: Literal["across", "middle"] = "across"


def _head(args: OfHeads, key: str, fixture: Fixture, chain: Chain) -> tuple[float, float]:
    """Where a head is now, or how a yoke is set, pan and tilt in radians."""
    return args.now[key] if chain.moves and key in args.now else angles_now(fixture, chain)


def _in_order(show: Show, pairs: list[Pair]) -> list[Pair]:
    keys = by_place(show, pairs)
    return [pairs[i] for i in sorted(range(len(pairs)), key=lambda i: keys[i])]


@dataclass(frozen=True)
class _Turned:
    """What is turned: a head or yoke, or one cell of it that turns by itself. Pan and tilt as they are, radians."""

    item: Item
    fixture: Fixture
    chain: Chain
    now: tuple[float, float]
    cell: int | None = None

    def to(self, fixture: Fixture, pan: float, tilt: float) -> Fixture:
        """The fixture with it turned so."""
        if self.cell is None:
            return with_angles(fixture, self.chain, pan, tilt)
        return holding_cells(fixture, [self.cell], {"pan": pan, "tilt": tilt})


def _each(show: Show, args: TurnHeads, pairs: list[Pair]) -> list[_Turned]:
    """What is turned, in order. Raises JobError where cells are meant and none turns by itself."""
    found: list[_Turned] = []
    for item, fixture in pairs:
        own = chain_for(show, fixture)
        head = _head(args, item.id, fixture, own)
        if not args.cells:
            found.append(_Turned(item, fixture, own, head))
            continue
        chains = chains_of(show.type_of(fixture), fixture.mode)
        for cell in args.cells if turn_apart(chains) else ():
            held = fixture.cells.get(str(cell), {})
            now = held.get("pan", head[0]), held.get("tilt", head[1])
            if cell <= len(chains):
                found.append(_Turned(item, fixture, chains[cell - 1], now, cell))
    if not found:
        raise JobError("None of these has cells that turn by themselves: turn it as a whole.", "cells")
    return found


def turn_heads(show: Show, args: TurnHeads, _: NewId) -> Edit:
    able, still = aimable(show, chosen_fixtures(show, args.ids))
    if not able:
        raise JobError(NOTHING)
    require_cells(show, able, args.cells)
    heads = _each(show, args, _in_order(show, able))
    k = 0 if args.feature == "pan" else 1
    try:
        typed = parse_typed(args.text, "angle")
    except JobError as wrong:
        raise JobError(str(wrong), args.feature) from wrong
    present = [math.degrees(head.now[k]) for head in heads]
    spread = typed.first != typed.last and not typed.relative
    wanted = from_the_middle(len(heads), typed.first, typed.last) if spread and args.fan == "middle" else (
        typed.values(present)
    )  # fmt: skip
    after: dict[str, Fixture] = {}
    report = [f"{name.capitalize()} gives no light: there is nothing to turn." for name in still]
    for head, degrees in zip(heads, wanted, strict=True):
        low, high = (math.degrees(end) for end in (head.chain.pan_range, head.chain.tilt_range)[k])
        got = min(max(degrees, low), high)
        if abs(got - degrees) > 1e-6:
            report.append(
                f"{head.item.name.capitalize()} stops at {got:.0f}°: its {args.feature} goes {low:.0f}° to {high:.0f}°."
            )
        both = [*head.now]
        both[k] = math.radians(got)
        after[head.item.id] = head.to(after.get(head.item.id, head.fixture), both[0], both[1])
    changes = tuple(
        changed(show.items[key], without_palettes(replace(body, aim=None), TURNS)) for key, body in after.items()
    )
    text = args.text.strip().lstrip("=")
    how = " from the middle" if spread and args.fan == "middle" else ""
    whom = listed(show, args.ids) + (f", {many_cells(args.cells)}," if args.cells else "")
    return Edit(changes, f"Set {args.feature} of {whom} to {text}{how}", tuple(args.ids), tuple(first_few(report)))


class Flip(OfHeads):
    """Let heads look where they look the other way round: half a turn of pan on, tilt over to the other side."""


FLIPPED_RAD = math.radians(60.0)
"""Another way round is at least so far off in pan."""


def flip(show: Show, args: Flip, _: NewId) -> Edit:
    pairs, _still = aimable(show, chosen_fixtures(show, args.ids))
    changes, report = [], []
    for item, fixture in pairs:
        chain, mount = chain_for(show, fixture), clamp_placement(show, fixture)
        here = _head(args, item.id, fixture, chain)
        place, direction = direction_in_show(chain, mount, *here)
        others = [
            way
            for way in ways(chain, mount, place + direction * FAR_M, here)
            if way.reaches and abs(way.pan - here[0]) % (2 * math.pi) > FLIPPED_RAD and abs(way.tilt - here[1]) > 1e-3
        ]
        if not others:
            report.append(f"{item.name.capitalize()} has no other way: its tilt or pan does not go that far.")
            continue
        way = others[0]
        if fixture.aim is not None:
            # Looking at the same place, not only the same way.
            near = [one for one in ways(chain, mount, fixture.aim.place, (way.pan, way.tilt)) if one.reaches]
            way = near[0] if near else way
        changes.append(changed(item, with_angles(fixture, chain, way.pan, way.tilt)))
    if not changes:
        raise JobError(report[0] if report else NOTHING)
    return Edit(tuple(changes), f"Flip {listed(show, args.ids)}", tuple(args.ids), tuple(report))


class MirrorAims(OfHeads):
    """Let fixtures on one side look as their partners on the other do, across the centre line. Partners are found by
    where they hang, not by number."""

    source: Literal["SL", "SR"] = "SL"


def needs_mirror(show: Show, args: MirrorAims, around: Around) -> tuple[Show, MirrorAims]:
    ids = [item.id for item, _ in show.fixtures()]
    return (show, args) if args.now else (show, args.model_copy(update={"now": heads_now(ids, around)}))


def mirror_aims(show: Show, args: MirrorAims, _: NewId) -> Edit:
    chosen = {item.id for item, _ in aimable(show, chosen_fixtures(show, args.ids))[0]}
    every, _still = aimable(show, [pair for pair in show.lamps() if pair[1].type in show.types])
    places = np.array([clamp_placement(show, fixture).position for _, fixture in every]).reshape(-1, 3)
    changes: list[Change] = []
    alone: list[str] = []
    partners = {}
    for left, right in mirrored_pairs(places):
        source, other = (left, right) if args.source == "SL" else (right, left)
        if chosen & {every[source][0].id, every[other][0].id}:
            partners[every[source][0].id] = (every[source], every[other])
    for key in chosen:
        if not any(key in (source[0].id, other[0].id) for source, other in partners.values()):
            alone.append(show.items[key].name)
    couples = list(partners.values())
    goals, now = [], []
    for (item, fixture), (to, partner) in couples:
        chain = chain_for(show, fixture)
        place, direction = direction_in_show(
            chain, clamp_placement(show, fixture), *_head(args, item.id, fixture, chain)
        )
        look = np.array(fixture.aim.place) if fixture.aim is not None else place + direction * FAR_M
        goals.append(look * np.array([-1.0, 1.0, 1.0]))
        now.append(_head(args, to.id, partner, chain_for(show, partner)))
    theirs = [chain_for(show, partner) for _, (_, partner) in couples]
    mounts = [clamp_placement(show, partner) for _, (_, partner) in couples]
    got = aim(theirs, mounts, np.array(goals).reshape(-1, 3), now)
    for i, ((_source, fixture), (to, partner)) in enumerate(couples):
        turned = with_angles(partner, theirs[i], float(got.pan[i]), float(got.tilt[i]))
        after = replace(turned, aim=Aim(vec(goals[i])) if fixture.aim is not None else None)
        changes.append(changed(to, without_palettes(after, TURNS)))
    if not changes:
        raise JobError("None of these has a partner in its mirror image across the centre line, within 30 cm.")
    report = (f"Without a partner: {', '.join(alone)}.",) if alone else ()
    ids = tuple(change.id for change in changes)
    return Edit(tuple(changes), f"Mirror the aim of {listed(show, [*partners])}", ids, report)
