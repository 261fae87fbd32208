"""Edits that change looks without playing them: blind values, parts, copies, merges, numbers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from zarfwright.core.aiming.giving import given
from zarfwright.core.aiming.yokes import chain_for
from zarfwright.core.dmx.rows import beam_keys
from zarfwright.core.edits.aiming import chosen_fixtures, require_features
from zarfwright.core.edits.base import Arguments, Edit, LongText, NewId, Values, added, changed, made, within
from zarfwright.core.edits.keeping import number_typed
from zarfwright.core.errors import JobError
from zarfwright.core.looks.kept import Links, of_some, sorts_said, with_links, without
from zarfwright.core.looks.linked import linked, sort_of_link
from zarfwright.core.looks.look import UNNAMED, Look, at_start, called, number_text
from zarfwright.core.looks.said import NOTHING, Said, overlaid, said_of
from zarfwright.core.looks.shown import carriers_of, layers_of, resolved
from zarfwright.core.looks.sorts import Sort
from zarfwright.core.playback.of_show import merged_air
from zarfwright.core.rig.things import Fixture, FocusPoint, Palette
from zarfwright.core.show import Change, Item, Show, listed
from zarfwright.core.types.chain import chains_of

NONE = Links({}, {})


def _by_cells(show: Show, values: Values) -> Said:
    """Values as looks keep them: of each cell, where a fixture has several. Raises JobError where there is no such
    fixture, or it does no such thing."""
    rows: Values = {}
    for key, said in values.items():
        require_features(said)
        fixture, _, cell = key.partition("/")
        body = show.body(fixture, Fixture)
        count = len(chains_of(show.type_of(body), body.mode))
        keys = beam_keys(fixture, count)
        if cell and key not in keys:
            raise JobError(f"{show.items[fixture].name.capitalize()} has no cell {cell}.", "values")
        for one in [key] if cell else keys:
            rows[one] = {**rows.get(one, {}), **said}
    return said_of(rows)


class SetInLook(Arguments):
    """Set values in a look while the picture goes on: by fixture or cell, as they are told."""

    id: str
    values: Values


def set_in_look(show: Show, args: SetInLook, _: NewId) -> Edit:
    item, look = show.thing(args.id, Look)
    if not any(args.values.values()):
        raise JobError("There is nothing to set: choose fixtures and a value.", "values")
    news = _by_cells(show, args.values)
    fixtures, sorts = news.table.fixtures, sorts_said(news)
    after = replace(look, values=overlaid([_frozen(show, look, fixtures, sorts), news]))
    after = with_links(show, after, fixtures, sorts, NONE)
    what = " and ".join(sorts)
    return Edit((changed(item, after),), f"Set {what} of {listed(show, fixtures)} in {called(look)}", (item.id,))


def _frozen(show: Show, look: Look, fixtures: Sequence[str], sorts: Sequence[Sort]) -> Said:
    """A look's own values, with those that are about to lose their links as these are now."""
    if not look.links:
        return look.values
    return overlaid([look.values, of_some(linked(show, look), {*fixtures}, sorts)])


class GiveInLook(Arguments):
    """Give fixtures a palette or a focus point in a look, while the picture goes on; they stay linked to it."""

    id: str
    ids: list[str]
    link: str


def give_in_look(show: Show, args: GiveInLook, _: NewId) -> Edit:
    item, look = show.thing(args.id, Look)
    pairs = chosen_fixtures(show, args.ids)
    link = show.item(args.link)
    if isinstance(link.body, Palette):
        sort: Sort = link.body.sort
        able, lines = given(show, link.id, link.body, pairs, {})
        fixtures = tuple(able)
    elif isinstance(link.body, FocusPoint):
        sort, lines = "position", []
        fixtures = tuple(one.id for one, body in pairs if chain_for(show, body).moves)
    else:
        raise JobError(f"{link.name} is neither a palette nor a focus point: choose one.", "link")
    if not fixtures:
        raise JobError(lines[0] if lines else f"None of these can have {link.name}.")
    bare = with_links(show, look, fixtures, [sort], Links({link.id: fixtures}, {}))
    after = replace(bare, values=overlaid([bare.values, of_some(linked(show, bare), {*fixtures}, [sort])]))
    said = f"Give {listed(show, fixtures)} {link.name} in {called(look)}"
    return Edit((changed(item, after),), said, (item.id,), tuple(lines))


class CopyParts(Arguments):
    """Copy what a look says to others: of some fixtures, of some sorts, or all of it."""

    id: str
    to: list[str]
    ids: list[str] = []
    sorts: list[Sort] = []


def copy_parts(show: Show, args: CopyParts, _: NewId) -> Edit:
    source = show.body(args.id, Look)
    news = of_some(resolved(show, args.id), {*args.ids}, args.sorts)
    if not len(news):
        raise JobError(f"{at_start(source)} says nothing of these: select others.")
    to = [one for one in dict.fromkeys(args.to) if one != args.id]
    if not to:
        raise JobError("There is no look to copy to: choose one.", "to")
    fixtures = news.table.fixtures
    links = _links_of(show, source, fixtures, args.sorts)
    changes = []
    for key in to:
        item, look = show.thing(key, Look)
        after = with_links(show, replace(look, values=overlaid([look.values, news])), fixtures, args.sorts, links)
        if after != look:
            changes.append(changed(item, after))
    what = " and ".join(args.sorts) or "all"
    whom = called(show.body(to[0], Look)) if len(to) == 1 else f"{len(to)} looks"
    return Edit(tuple(changes), f"Copy {what} of {listed(show, fixtures)} from {called(source)} to {whom}", tuple(to))


def _links_of(show: Show, look: Look, fixtures: Sequence[str], sorts: Sequence[Sort]) -> Links:
    """The links of a look, of some fixtures and sorts; no sort named: of all."""
    some = {*fixtures}
    found = {
        link: kept
        for link, of in look.links.items()
        if (not sorts or sort_of_link(show, link) in sorts) and (kept := tuple(one for one in of if one in some))
    }
    return Links(found, {one: by for one, by in look.offsets.items() if one in some})


class TakeOut(Arguments):
    """Take something out of looks: what they say of some fixtures, of some sorts. Of no look: out of all; fixtures that
    are gone from the show may be named."""

    ids: list[str] = []
    sorts: list[Sort] = []
    looks: list[str] = []


def take_out(show: Show, args: TakeOut, _: NewId) -> Edit:
    if not args.ids and not args.sorts:
        raise JobError("Nothing is selected: select fixtures, or a sort of what they do.", "ids")
    changes = []
    for item, look in show.bodies(Look):
        if args.looks and item.id not in args.looks:
            continue
        values = without(look.values, {*args.ids}, args.sorts)
        after = with_links(show, replace(look, values=values), args.ids, args.sorts, NONE)
        if values is not look.values or after != replace(look, values=values):
            changes.append(changed(item, after))
    what = " and ".join(args.sorts) or "what is said"
    whom = listed(show, args.ids, "fixture") if args.ids else "all fixtures"
    count = "1 look" if len(changes) == 1 else f"{len(changes)} looks"
    if not changes:
        raise JobError("No look says anything of that.")
    return Edit(tuple(changes), f"Take {what} of {whom} out of {count}", tuple(change.id for change in changes))


class SetParts(Arguments):
    """Let a look be made of others, the later ones over the earlier; its own values lie over all of them."""

    id: str
    parts: list[str]


def set_parts(show: Show, args: SetParts, _: NewId) -> Edit:
    item, look = show.thing(args.id, Look)
    parts = tuple(dict.fromkeys(args.parts))
    for part in parts:
        body = show.body(part, Look)
        if part == item.id or _made_of(show, part, item.id):
            raise JobError(f"{at_start(body)} is itself made of {called(look)}: take it out there first.")
    after = replace(look, parts=parts)
    changes = (changed(item, after),) if after != look else ()
    what = ", ".join(show.body(part, Look).name for part in parts) or "itself alone"
    return Edit(changes, f"Make {called(look)} of {what}", (item.id,))


def _made_of(show: Show, look: str, of: str, deep: int = 0) -> bool:
    item = show.items.get(look)
    if item is None or not isinstance(item.body, Look) or deep > len(show.items):
        return False
    return of in item.body.parts or any(_made_of(show, part, of, deep + 1) for part in item.body.parts)


class MakeOfParts(Arguments):
    """Keep a new look that is made of others, the later ones over the earlier."""

    parts: list[str]
    name: str = ""
    number: str = ""


def make_of_parts(show: Show, args: MakeOfParts, new_id: NewId) -> Edit:
    if not args.parts:
        raise JobError("Nothing is selected: select the looks that it is to be made of.", "parts")
    for part in args.parts:
        show.item(part, "look")
    name, number = args.name.strip() or UNNAMED, number_typed(show, args.number)
    look = Look(name, number, NOTHING, parts=tuple(dict.fromkeys(args.parts)), whole=False)
    item = added(show, "look", [look], new_id)[0]
    return Edit((made(item),), f"Make {called(look)} of {len(look.parts)} parts", (item.id,))


class MergeLooks(Arguments):
    """Make one look of several, the later ones over the earlier, that no longer hangs on them."""

    looks: list[str]
    name: str = ""
    number: str = ""


def merge_looks(show: Show, args: MergeLooks, new_id: NewId) -> Edit:
    looks = list(dict.fromkeys(args.looks))
    if len(looks) < 2:
        raise JobError("Select at least two looks to merge.", "looks")
    bodies = [look for key in looks for look in layers_of(show, show.item(key, "look").id)]
    merged = Look("", 0.0, NOTHING)
    for body in bodies:
        if fixtures := body.values.table.fixtures:
            merged = with_links(show, merged, fixtures, sorts_said(body.values), Links(body.links, body.offsets))
    haze, house, exposure = merged_air(show, looks)
    look = replace(
        merged, name=args.name.strip() or UNNAMED, number=number_typed(show, args.number),
        values=overlaid(resolved(show, key) for key in looks), haze_per_m=haze, house_light_lx=house,
        carriers={key: place for one in looks for key, place in carriers_of(show, one).items()}, exposure_ev=exposure,
        whole=any(body.whole for body in bodies),
    )  # fmt: skip
    item = added(show, "look", [look], new_id)[0]
    return Edit((made(item),), f"Merge {len(looks)} looks into {called(look)}", (item.id,))


class RenumberLooks(Arguments):
    """Number looks anew, in this order, from a number on, by a step."""

    looks: list[str]
    start: str = "1"
    step: float = 1.0


def renumber_looks(show: Show, args: RenumberLooks, _: NewId) -> Edit:
    looks = list(dict.fromkeys(args.looks))
    if not looks:
        raise JobError("Nothing is selected: select looks first.", "looks")
    try:
        start = float(args.start.replace(",", "."))
    except ValueError as wrong:
        raise JobError(f"“{args.start}” is no number of a look: type 1, or 4.5.", "start") from wrong
    within(start, "start", 0.001, 99_999.0)
    within(args.step, "step", 0.001, 1000.0)
    others = {look.number: look for item, look in show.bodies(Look) if item.id not in looks}
    changes: list[Change] = []
    for i, key in enumerate(looks):
        item, look = show.thing(key, Look)
        number = round(start + i * args.step, 3)
        if number in others:
            raise JobError(f"{at_start(others[number])} has the number {number_text(number)}: it is not "
                           "among these. Choose another start.", "start")  # fmt: skip
        if number != look.number:
            changes.append(changed(item, replace(look, number=number)))
    return Edit(tuple(changes), f"Number {len(looks)} looks from {number_text(start)}", tuple(looks))


def parts_without(show: Show, going: set[str]) -> list[tuple[Item, Look]]:
    """The looks as they are when others that they are made of, or linked to, are gone: what they had of those is theirs
    from then on."""
    found = []
    for item, look in show.bodies(Look):
        if item.id in going:
            continue
        lost = [part for part in look.parts if part in going]
        unlinked = [link for link in look.links if link in going]
        if not lost and not unlinked:
            continue
        left = {link: of for link, of in look.links.items() if link not in going}
        # Made of what is no more, it stays as it is, and is made of nothing from then on.
        values, parts = (resolved(show, item.id), ()) if lost else (linked(show, look), look.parts)
        found.append((item, replace(look, values=values, links=left, parts=parts)))
    return found


class SeeLookFrom(Arguments):
    """Take the pictures of looks from a viewpoint; None: from the house."""

    ids: list[str]
    viewpoint: str | None


def see_look_from(show: Show, args: SeeLookFrom, _: NewId) -> Edit:
    if args.viewpoint is not None:
        show.item(args.viewpoint, "viewpoint")
    if not args.ids:
        raise JobError("Nothing is selected: select looks first.", "ids")
    changes = []
    for key in args.ids:
        item, look = show.thing(key, Look)
        if look.viewpoint != args.viewpoint:
            changes.append(changed(item, replace(look, viewpoint=args.viewpoint)))
    where = show.items[args.viewpoint].name if args.viewpoint is not None else "the house"
    whom = called(show.body(args.ids[0], Look)) if len(args.ids) == 1 else f"{len(args.ids)} looks"
    return Edit(tuple(changes), f"Take the picture of {whom} from {where}", tuple(args.ids))


class ToldLook(Arguments):
    """A look as a list tells it."""

    number: float
    name: str
    note: LongText = ""
    values: Values


class TakeLooks(Arguments):
    """Take looks in from a list: one whose number is there says that over what it said, others are new."""

    looks: list[ToldLook]


def take_looks(show: Show, args: TakeLooks, new_id: NewId) -> Edit:
    there = {look.number: item for item, look in show.bodies(Look)}
    present = {item.id for item, _ in show.fixtures()}
    changes, new = [], []
    for told in args.looks:
        values = _by_cells(show, told.values)
        known = there.get(round(told.number, 3))
        if known is None:
            whole = {*values.table.fixtures} == present
            new.append(Look(told.name or UNNAMED, round(told.number, 3), values, told.note, whole=whole))
            continue
        look = show.body(known.id, Look)
        fixtures, sorts = values.table.fixtures, sorts_said(values)
        frozen = _frozen(show, look, fixtures, sorts)
        after = with_links(show, replace(look, values=overlaid([frozen, values])), fixtures, sorts, NONE)
        after = replace(after, name=told.name or look.name, note=told.note or look.note)
        if after != look:
            changes.append(changed(known, after))
    items = added(show, "look", new, new_id)
    changes += [made(item) for item in items]
    if not changes:
        raise JobError("All of these looks are as the list says already.")
    parts = [f"{len(new)} new" if new else "", f"{len(changes) - len(new)} changed" if len(changes) > len(new) else ""]
    said = f"Take looks in from a list: {', '.join(part for part in parts if part)}"
    return Edit(tuple(changes), said, tuple(change.id for change in changes))
