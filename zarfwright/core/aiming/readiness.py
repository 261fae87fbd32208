"""What is still wrong with where light goes: never aimed, out of reach, into eyes, blocked, shut, past the venue."""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass

import numpy as np

from zarfwright.core.aiming.pointing import Pair, rays
from zarfwright.core.aiming.points import place_of
from zarfwright.core.aiming.repairs import repairs
from zarfwright.core.aiming.solve import aim
from zarfwright.core.aiming.yokes import angles_now, chain_for, turns_by_hand
from zarfwright.core.findings import Finding, Repair
from zarfwright.core.lighting import caster_of
from zarfwright.core.looks.look import Look
from zarfwright.core.memo import Memo
from zarfwright.core.optics.beam import peak_candela
from zarfwright.core.raycast import Caster
from zarfwright.core.rig.bodies import body_box, room
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture, FocusPoint
from zarfwright.core.seats import seats
from zarfwright.core.show import Item, Show
from zarfwright.core.space import Floats, inverse, rotate, unit
from zarfwright.core.types.chain import Chain

NEAR_M = 1.0
"""Whatever stands so near before a lens is in its way."""
GLARE_LX = 40.0
"""So much in an eye from one lamp is glare: a face in the house gets a tenth of it."""
GLARE_M = 25.0
TOWARDS = 0.64
"""The cosine to where somebody looks from which on a lamp glares: within 50 degrees of it."""
SHUT = 0.02
TOLD = 6
"""How many of one kind are told one by one."""


def _called(item: Item) -> str:
    return item.name.capitalize()


def _site(*items: Item) -> Caster:
    """Rays through what is built, without people."""
    return caster_of(Show({item.id: item for item in items}), items)


_site_memo: Memo[Caster] = Memo(_site, 3)


def site_caster(show: Show) -> Caster:
    """Rays through what is built and shown, without people and without meshes out of files."""
    built = [
        item
        for item in show.items.values()
        if item.is_a.solid and item.kind not in ("figure", "crowd", "mesh") and not show.hidden(item)
    ]
    return _site_memo(*built)


def _turned_by(looks: tuple[Look, ...]) -> frozenset[str]:
    """The fixtures that some look turns, by id or cell."""
    turned: set[str] = set()
    for look in looks:
        table = look.values.table
        far = [np.abs(np.nan_to_num(table.column(name))) > 1e-6 for name in ("pan", "tilt")]
        turned.update(table.whose(far[0] | far[1]))
    return frozenset(turned)


_turned_memo: Memo[frozenset[str]] = Memo(lambda *looks: _turned_by(looks), 8)


def _never_aimed(show: Show, pairs: list[Pair]) -> list[Finding]:
    turned = _turned_memo(*(look for _, look in show.bodies(Look)))
    heads: list[str] = []
    yokes: list[str] = []
    for item, fixture in pairs:
        if fixture.aim is not None:
            continue
        chain = chain_for(show, fixture)
        if chain.moves:
            if not {"pan", "tilt"} & fixture.hands.keys() and item.id not in turned:
                heads.append(item.id)
        elif turns_by_hand(chain) and not {"pan", "tilt"} & fixture.fixed.keys() and _straight(fixture):
            yokes.append(item.id)
    found = []
    for ids, what in ((heads, "head"), (yokes, "lamp")):
        if ids:
            count = f"1 {what} was" if len(ids) == 1 else f"{len(ids)} {what}s were"
            text = f"{count} never aimed, and no look turns it." if len(ids) == 1 else f"{count} never aimed."
            found.append(Finding("aim", tuple(ids), f"{text} Select and aim.", code="never_aimed"))
    return found


def _straight(fixture: Fixture) -> bool:
    """Whether it hangs or stands as it was put: its body is turned nowhere."""
    if fixture.hang is not None:
        return fixture.hang.turn_deg == 0 and fixture.hang.spin_deg == 0
    return False


def _out_of_reach(show: Show, pairs: list[Pair]) -> list[Finding]:
    aimed = [(item, fixture) for item, fixture in pairs if fixture.aim is not None]
    if not aimed:
        return []
    chains = [chain_for(show, fixture) for _, fixture in aimed]
    mounts = [clamp_placement(show, fixture) for _, fixture in aimed]
    goals = np.array([place_of(show, fixture.aim) for _, fixture in aimed if fixture.aim is not None])
    now = [angles_now(fixture, chain) for (_, fixture), chain in zip(aimed, chains, strict=True)]
    result = aim(chains, mounts, goals, now)
    found: list[Finding] = []
    for i in np.flatnonzero(~result.reaches).tolist():
        item, fixture = aimed[i]
        assert fixture.aim is not None
        short = math.degrees(float(result.missing[i]))
        point = show.items.get(fixture.aim.point or "")
        to = point.name if point is not None else "its place"
        offered = repairs(show, item, fixture, place_of(show, fixture.aim)) if len(found) < TOLD else []
        repair: Repair | None = offered[0] if offered else None
        text = f"{_called(item)} cannot reach {to}: {short:.1f}° are missing."
        found.append(Finding("aim", (item.id,), text, wrong=True, repair=repair, code="out_of_reach"))
    return found


@dataclass(frozen=True, eq=False)
class _Set:
    """The fixtures that were aimed or turned, as they are set: where their lenses are (n, 3), which way they look."""

    pairs: list[Pair]
    chains: list[Chain]
    places: Floats
    ways: Floats


def _as_set(show: Show, pairs: list[Pair]) -> _Set | None:
    chosen: list[Pair] = []
    chains: list[Chain] = []
    for item, fixture in pairs:
        chain = chain_for(show, fixture)
        held = fixture.hands if chain.moves else fixture.fixed
        if {"pan", "tilt"} & held.keys():
            chosen.append((item, fixture))
            chains.append(chain)
    if not chosen:
        return None
    angles = np.array([angles_now(fixture, chain) for (_, fixture), chain in zip(chosen, chains, strict=True)])
    mounts = [clamp_placement(show, fixture) for _, fixture in chosen]
    return _Set(chosen, chains, *rays(chains, mounts, angles[:, 0], angles[:, 1]))


def _neighbour(show: Show, own: str, lens: Floats, way: Floats, pairs: list[Pair], middles: Floats) -> Item | None:
    """Another fixture whose body a beam meets within the first metre."""
    for j in np.flatnonzero(np.linalg.norm(middles - lens, axis=1) < NEAR_M + 0.6).tolist():
        item, fixture = pairs[j]
        if item.id == own:
            continue
        low, high = body_box(show.types[fixture.type], fixture.mode)
        place = clamp_placement(show, fixture)
        back = inverse(place.rotation)
        start, along = rotate(back, lens - np.asarray(place.position)), rotate(back, way)
        with np.errstate(divide="ignore", invalid="ignore"):
            ends = np.sort(np.stack([(low - start) / along, (high - start) / along]), axis=0)
        near, far = float(np.nanmax(ends[0])), float(np.nanmin(ends[1]))
        if far > 0.0 and near < far and 0.0 < near < NEAR_M:
            return item
    return None


def _in_the_way(show: Show, pointed: _Set, pairs: list[Pair], caster: Caster) -> list[Finding]:
    """What is blocked within its first metre, and what goes past all that is built."""
    places, ways = pointed.places, pointed.ways
    met = caster.first(places, ways)
    middles = np.array([room(show.types[f.type], f.mode, clamp_placement(show, f))[0] for _, f in pairs])
    closed = bool(show.of_kind("venue"))
    found: list[Finding] = []
    lost: list[str] = []
    for i, (item, _) in enumerate(pointed.pairs):
        away = float(met.distance[i])
        if away < NEAR_M:
            blocker = show.items.get(caster.names[int(met.thing[i])].split("/")[0])
            name = blocker.name if blocker is not None else "something"
            text = f"{_called(item)} is blocked by {name}, {away:.2f} m before its lens: move it, or aim past it."
            found.append(Finding("aim", (item.id,), text, code="beam_blocked"))
        elif (beside := _neighbour(show, item.id, places[i], ways[i], pairs, middles)) is not None:
            text = f"{_called(item)} shines on the body of {beside.name}: move one of them."
            found.append(Finding("aim", (item.id, beside.id), text, code="shines_on_body"))
        elif closed and not np.isfinite(away):
            lost.append(item.id)
    if lost:
        who = show.items[lost[0]].name.capitalize() if len(lost) == 1 else f"{len(lost)} fixtures"
        text = f"{who} {'lands' if len(lost) == 1 else 'land'} outside of the venue: aim lower."
        found.append(Finding("aim", tuple(lost), text, code="lands_outside"))
    return found


def _candela(fixture: Fixture, chain: Chain) -> tuple[float, float]:
    """On the axis at full, and half of the field in radians."""
    beam = chain.beam
    field = fixture.lens_deg or fixture.hands.get("zoom") or beam.field_angle_deg
    narrow = min(beam.beam_angle_deg / max(beam.field_angle_deg, 1e-6), 1.0)
    hard = beam.kind in ("Spot", "Rectangle", "PC")
    return peak_candela(beam.flux_lm, field * narrow, field, hard), math.radians(field) / 2


def _into_eyes(show: Show, pointed: _Set, caster: Caster) -> list[Finding]:
    every = seats(show)
    if not every:
        return []
    eyes, looks = np.array([one.eye for one in every]), np.array([one.target for one in every])
    sight = unit(looks - eyes)
    places, ways = pointed.places, pointed.ways
    told: list[tuple[float, Finding]] = []
    for i, (item, fixture) in enumerate(pointed.pairs):
        candela, half = _candela(fixture, pointed.chains[i])
        way = eyes - places[i]
        far = np.linalg.norm(way, axis=1)
        towards = way / np.maximum(far, 1e-6)[:, None]
        within = (towards @ ways[i] > math.cos(half)) & (far < GLARE_M) & (np.sum(towards * sight, axis=1) < -TOWARDS)
        lux = candela / np.maximum(far, 0.5) ** 2
        hit = np.flatnonzero(within & (lux > GLARE_LX))
        if not len(hit):
            continue
        hit = hit[caster.sees(np.repeat(places[i][None], len(hit), axis=0), eyes[hit])]
        if not len(hit):
            continue
        blocks = _counted([every[k].group or every[k].name for k in hit])
        brightest = every[int(hit[lux[hit].argmax()])]
        where = ", ".join(f"{count} in {name}" for name, count in list(blocks.items())[:3])
        seat = f"{brightest.group}, {brightest.name}" if brightest.group else brightest.name
        most = float(lux[hit].max())
        many_eyes = "the eyes of one" if len(hit) == 1 else f"the eyes of {len(hit)}"
        text = f"{_called(item)} shines into {many_eyes} ({where}), brightest at {seat}: {most:.0f} lx at full."
        told.append((most, Finding("aim", (item.id,), f"{text} Aim it elsewhere, or cut it.", code="into_eyes")))
    told.sort(key=lambda one: -one[0])
    return [finding for _, finding in told]


def _counted(names: list[str]) -> dict[str, int]:
    counted: dict[str, int] = defaultdict(int)
    for name in names:
        counted[name] += 1
    return dict(sorted(counted.items(), key=lambda one: -one[1]))


def _shut(pairs: list[Pair]) -> list[Finding]:
    found = []
    for item, fixture in pairs:
        held = {**fixture.hands, **fixture.fixed}
        blades = [held.get(f"blade {n}", 0.0) for n in (1, 2, 3, 4)]
        why = ""
        if held.get("shutter", 1.0) < SHUT:
            why = "its shutter is held shut"
        elif held.get("iris", 1.0) < SHUT:
            why = "its iris is closed"
        elif max(blades[0] + blades[2], blades[1] + blades[3]) >= 2.0 - SHUT:
            why = "its blades meet in the middle"
        if why:
            let_go = Repair("Let go of it", "release", {"ids": [item.id]}) if fixture.hands else None
            found.append(
                Finding(
                    "aim",
                    (item.id,),
                    f"{_called(item)} gives no light: {why}. Open it.",
                    repair=let_go,
                    code="gives_no_light",
                )
            )
    return found


def _two_aims(show: Show, pairs: list[Pair]) -> list[Finding]:
    """Whose purpose is the name of one focus point, while it is aimed at another."""
    named = {point.name.strip().casefold(): item for item, point in show.bodies(FocusPoint)}
    found = []
    for item, fixture in pairs:
        meant = named.get(fixture.purpose.strip().casefold())
        if meant is None or fixture.aim is None or fixture.aim.point in (None, meant.id):
            continue
        at = show.items.get(fixture.aim.point or "")
        if at is not None:
            text = f"{_called(item)} is for {meant.name}, and aimed at {at.name}: two aims at one head. Settle on one."
            there = Repair(f"Aim it at {meant.name}", "aim at", {"ids": [item.id], "focus": meant.id})
            found.append(Finding("aim", (item.id, meant.id), text, repair=there, code="two_aims"))
    return found


def aim_findings(show: Show) -> list[Finding]:
    """Everything to put right about where light goes; the brightest into eyes first."""
    pairs = [(item, fixture) for item, fixture in show.lamps() if fixture.type in show.types and not show.hidden(item)]
    found = [*_never_aimed(show, pairs), *_out_of_reach(show, pairs), *_shut(pairs), *_two_aims(show, pairs)]
    pointed = _as_set(show, pairs)
    if pointed is None:
        return found
    caster = site_caster(show)
    return [*found, *_in_the_way(show, pointed, pairs, caster), *_into_eyes(show, pointed, caster)]
