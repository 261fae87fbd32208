"""Edits of palettes: kept from what is held, given to any selection, kept anew, and what hangs on them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from zarfwright.core.aiming.coloured import driven, shown_xy
from zarfwright.core.aiming.giving import given
from zarfwright.core.aiming.pointing import Pair, aimable
from zarfwright.core.aiming.yokes import angles_now, chain_for
from zarfwright.core.edits.aiming import OfHeads, chosen_fixtures
from zarfwright.core.edits.base import Arguments, Around, Edit, NewId, Values, added, changed, free_name, made
from zarfwright.core.errors import JobError
from zarfwright.core.rig.things import Fixture, Palette, PaletteSort
from zarfwright.core.show import Change, Show, listed

BEAM = (
    "zoom", "iris", "focus", "frost", "gobo slot", "gobo turn", "gobo spin", "gobo shake", "gobo 2 slot", "gobo 2 turn",
    "gobo 2 spin", "gobo 2 shake", "prism slot", "prism turn", "prism spin", "blades turn",
    *(f"blade {n}{part}" for n in (1, 2, 3, 4) for part in ("", " far", " angle")),
)  # fmt: skip
"""The features that a beam palette keeps."""
STEM = {"position": "Position", "colour": "Colour", "beam": "Beam"}


class KeepPalette(Arguments):
    """Keep what fixtures are held at as a palette. A colour is that of the first; `values` is what they show now."""

    ids: list[str]
    sort: PaletteSort
    name: str = ""
    values: Values = {}


class UpdatePalette(Arguments):
    """Keep a palette anew from what fixtures are held at; whoever has it gets it again."""

    id: str
    ids: list[str]
    values: Values = {}


def needs_shown(
    show: Show, args: KeepPalette | UpdatePalette, around: Around
) -> tuple[Show, KeepPalette | UpdatePalette]:
    """What fixtures show now."""
    return show, args if args.values else args.model_copy(update={"values": around.values()})


def _kept(show: Show, palette: Palette, pairs: list[Pair], values: Values) -> Palette:
    """The palette with what fixtures have now. Raises JobError where they have nothing of its sort."""
    if palette.sort == "position":
        return _position(show, palette, pairs)
    if palette.sort == "colour":
        shown = {item.id: {**values.get(item.id, {}), **fixture.hands} for item, fixture in pairs}
        xy = next((xy for item, _ in pairs if (xy := shown_xy(show, item.id, {**values, **shown})) is not None), None)
        if xy is None:
            raise JobError("None of these gives light whose colour could be kept.")
        return replace(palette, xy=(round(xy[0], 5), round(xy[1], 5)))
    kept: dict[str, float] = {}
    for item, fixture in pairs:
        now = {**values.get(item.id, values.get(f"{item.id}/1", {})), **fixture.fixed, **fixture.hands}
        able = driven(show.type_of(fixture), fixture.mode) | fixture.fixed.keys()
        kept = {**{name: now[name] for name in BEAM if name in able and name in now}, **kept}
    if not kept:
        raise JobError("None of these has a beam that can be shaped.")
    return replace(palette, values=kept)


def _position(show: Show, palette: Palette, pairs: list[Pair]) -> Palette:
    able, _still = aimable(show, pairs)
    aims = {item.id: fixture.aim for item, fixture in able if fixture.aim is not None}
    angles = {
        item.id: angles_now(fixture, chain_for(show, fixture))
        for item, fixture in able
        if fixture.aim is None and {"pan", "tilt"} & {**fixture.hands, **fixture.fixed}.keys()
    }
    if not aims and not angles:
        raise JobError("None of these is aimed: aim them first, then keep where they look.")
    points = {aim.point for aim in aims.values()}
    one = points.pop() if len(points) == 1 and not angles else None
    same = one is not None and all(max(map(abs, aim.offset)) < 1e-6 for aim in aims.values())
    return replace(palette, focus=one if same else None, aims={} if same else aims, angles=angles)


def keep_palette(show: Show, args: KeepPalette, new_id: NewId) -> Edit:
    pairs = chosen_fixtures(show, args.ids)
    name = free_name(show, "palette", args.name, STEM[args.sort])
    number = max((one.number or 0 for _, one in show.bodies(Palette)), default=0) + 1
    palette = _kept(show, Palette(name, number, args.sort), pairs, args.values)
    item = added(show, "palette", [palette], new_id)[0]
    return Edit((made(item),), f"Keep the {args.sort} palette {name}", tuple(args.ids))


class ApplyPalette(OfHeads):
    """Give a palette to fixtures, also to such as came later or are of other types."""

    id: str


def apply_palette(show: Show, args: ApplyPalette, _: NewId) -> Edit:
    item, palette = show.thing(args.id, Palette)
    found, report = given(show, item.id, palette, chosen_fixtures(show, args.ids), args.now)
    if not found:
        raise JobError(report[0] if report else f"None of these can have the {palette.sort} {item.name}.")
    changes = tuple(changed(show.items[key], body) for key, body in found.items())
    return Edit(changes, f"Give {listed(show, found)} {item.name}", tuple(args.ids), tuple(report))


def users_of(show: Show, palette: str) -> list[Pair]:
    """The fixtures that have a palette."""
    return [(item, fixture) for item, fixture in show.fixtures() if palette in fixture.palettes.values()]


def _union(first: Iterable[Pair], more: Iterable[Pair]) -> list[Pair]:
    return list({pair[0].id: pair for pair in (*first, *more)}.values())


def update_palette(show: Show, args: UpdatePalette, _: NewId) -> Edit:
    item, palette = show.thing(args.id, Palette)
    pairs = chosen_fixtures(show, args.ids)
    blank = replace(palette, focus=None, aims={}, angles={}, xy=None, values={})
    kept = _kept(show, blank, pairs, args.values)
    if palette.sort == "position" and kept.focus is None:
        kept = replace(kept, aims={**palette.aims, **kept.aims}, angles={**palette.angles, **kept.angles})
    users = users_of(show, item.id)
    found, report = given(show, item.id, kept, _union(users, pairs), {})
    changes = [changed(show.items[key], body) for key, body in found.items() if body != show.body(key, Fixture)]
    said = f"Update {item.name}, which {listed(show, [one.id for one, _ in users], 'fixture') or 'nobody'} had"
    return Edit((changed(item, kept), *changes), said, tuple(args.ids), tuple(report))


def given_anew(show: Show, ids: Iterable[str]) -> dict[str, Fixture]:
    """Fixtures that have become of another type, with the colours and beams of their palettes as that type makes them,
    by id; where they look follows their aim."""
    found: dict[str, Fixture] = {}
    for key in ids:
        item, fixture = show.thing(key, Fixture)
        for sort in ("colour", "beam"):
            palette = show.items.get(fixture.palettes.get(sort, ""))
            if palette is None or not isinstance(palette.body, Palette):
                continue
            got, _ = given(show, palette.id, palette.body, [(item, found.get(key, fixture))], {})
            found |= got
    return found


class ToldPalette(Arguments):
    """A palette of a console; `values`: what it holds, by fixture and feature."""

    sort: PaletteSort
    name: str
    values: Values = {}


class TakePalettes(Arguments):
    """Keep a console's palettes as ours. One of a name that is there is kept anew."""

    source: str
    palettes: list[ToldPalette]


def take_palettes(show: Show, args: TakePalettes, new_id: NewId) -> Edit:
    there = {(body.sort, body.name.casefold()): item.id for item, body in show.bodies(Palette)}
    number = max((one.number or 0 for _, one in show.bodies(Palette)), default=0)
    changes: list[Change] = []
    report = []
    for told in args.palettes:
        values = {key: held for key, held in told.values.items() if key in show.items}
        known = there.get((told.sort, told.name.casefold()))
        before = show.body(known, Palette) if known is not None else None
        palette = _of_console(show, before or Palette(told.name, number + 1, told.sort), values)
        if palette is None:
            report.append(f"{told.name}: it says nothing of {told.sort} that this show's fixtures have.")
        elif known is not None and palette != before:
            changes.append(changed(show.items[known], palette))
        elif known is None:
            number += 1
            changes.append(made(added(show, "palette", [palette], new_id)[0]))
    if not changes:
        raise JobError(" ".join(report) or "All of these palettes are here already.")
    several = f"{len(changes)} palettes" if len(changes) > 1 else "a palette"
    return Edit(tuple(changes), f"Take {several} of {args.source}", (), tuple(report))


def _of_console(show: Show, palette: Palette, values: Values) -> Palette | None:
    """A palette with what a console has in it; None: nothing that could be kept."""
    if palette.sort == "position":
        angles = {key: (held["pan"], held["tilt"]) for key, held in values.items() if {"pan", "tilt"} <= held.keys()}
        return replace(palette, focus=None, aims={}, angles=angles) if angles else None
    if palette.sort == "colour":
        xy = next((xy for key in values if (xy := shown_xy(show, key, values)) is not None), None)
        return replace(palette, xy=(round(xy[0], 5), round(xy[1], 5))) if xy is not None else None
    kept: dict[str, float] = {}
    for held in values.values():
        kept = {**{name: held[name] for name in BEAM if name in held}, **kept}
    return replace(palette, values=kept) if kept else None
