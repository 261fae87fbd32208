"""Edits of lasers: feeds numbered by place, zones cut off people, ILDA files on heads."""

from __future__ import annotations

from dataclasses import replace

from zarfwright.core.edits.base import Arguments, Edit, NewId, changed, require_some
from zarfwright.core.edits.laser_fields import head_of, with_head, with_zone
from zarfwright.core.errors import JobError
from zarfwright.core.lasers.heads import heads_of, is_laser
from zarfwright.core.lasers.numbering import read_from_house
from zarfwright.core.lasers.safety import AID, cut_zone, seen_eyes
from zarfwright.core.lasers.zone import Zone
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Change, Item, Show, listed
from zarfwright.core.units import parse_count

FEED_LAST = 65_535


def _lasers(show: Show, ids: list[str]) -> list[Item]:
    """The lasers among what is selected. Raises JobError where there are none."""
    require_some(ids, "lasers")
    items = [show.item(item_id, "fixture") for item_id in ids]
    found = [item for item in items if isinstance(item.body, Fixture) and is_laser(show, item.body)]
    if not found:
        raise JobError(f"{listed(show, ids).capitalize()} draws nothing: select lasers.", "ids")
    return found


def _body(item: Item) -> Fixture:
    assert isinstance(item.body, Fixture)
    return item.body


class NumberFeeds(Arguments):
    """Give lasers feeds by place: left to right, top to bottom, as seen from the house."""

    ids: list[str]
    first: str = "1"


def number_feeds(show: Show, args: NumberFeeds, _: NewId) -> Edit:
    items = read_from_house(show, _lasers(show, args.ids))
    first = parse_count(args.first, 1, FEED_LAST)
    last = first + len(items) - 1
    if last > FEED_LAST:
        raise JobError(f"Feeds end at {FEED_LAST}: begin at {FEED_LAST - len(items) + 1} at most.", "first")
    changes = []
    for number, item in enumerate(items, first):
        body = _body(item)
        after = with_head(body, replace(head_of(body), feed=number))
        if after != body:
            changes.append(changed(item, after))
    what = f"feed {first}" if first == last else f"feeds {first} to {last}"
    return Edit(tuple(changes), f"Give {listed(show, [one.id for one in items])} {what} by place",
                tuple(item.id for item in items))  # fmt: skip


class CutZones(Arguments):
    """Draw in the zones of lasers until nobody's eyes are in them; none named: of all."""

    ids: list[str] = []


def cut_zones(show: Show, args: CutZones, _: NewId) -> Edit:
    wanted = {item.id for item in _lasers(show, args.ids)} if args.ids else None
    heads = [head for head in heads_of(show) if (wanted is None or head.id in wanted) and head.said.draws]
    if not heads:
        raise JobError("None of these takes a feed: number their feeds first. A still beam is turned away by its aim.")
    after: dict[str, Zone] = {}
    lost: list[str] = []
    for head in heads:
        now = replace(head, said=replace(head.said, zone=after.get(head.id, head.said.zone)))
        cut = cut_zone(now, seen_eyes(show, head), show.settings.laser_clear_m)
        if cut is None:
            lost.append(head.name)
        else:
            after[head.id] = cut
    changes: list[Change] = []
    for key, zone in after.items():
        item = show.items[key]
        if zone != head_of(_body(item)).zone:
            changes.append(changed(item, with_zone(_body(item), zone)))
    if not changes and lost:
        raise JobError(f"Nothing of the zone of {lost[0]} would be left: aim it, or place its zone, elsewhere.", "ids")
    report = [f"Nothing of the zone of {name} would be left: aim it, or place its zone, elsewhere." for name in lost]
    ids = tuple(change.id for change in changes)
    if not changes:
        report.append("Nobody's eyes are in these zones.")
    what = listed(show, ids) if ids else "no zone"
    return Edit(tuple(changes), f"Cut the zones of {what} clear of people" if ids else "Cut no zone", ids,
                (*report, AID))  # fmt: skip


class DrawFile(Arguments):
    """Let lasers draw an ILDA file that is among the assets, over any feed; no asset: no file any more."""

    ids: list[str]
    asset: str | None = None
    name: str = ""


def draw_file(show: Show, args: DrawFile, _: NewId) -> Edit:
    items = _lasers(show, args.ids)
    changes = []
    for item in items:
        body = _body(item)
        head = replace(head_of(body), file=args.asset, file_name=args.name if args.asset else "")
        after = with_head(body, head)
        if after != body:
            changes.append(changed(item, after))
    who = listed(show, [one.id for one in items])
    said = f"Let {who} draw {args.name or 'a file'}" if args.asset else f"Take the file off {who}"
    return Edit(tuple(changes), said, tuple(item.id for item in items))
