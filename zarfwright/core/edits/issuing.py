"""Edits of the papers as a set: issued, their lists arranged, distribution points placed."""

from __future__ import annotations

from dataclasses import replace
from datetime import date as Date

from pydantic import Field

from zarfwright.core.edits.base import Arguments, Edit, LongText, NewId, added, changed, coordinate, free_name, made
from zarfwright.core.errors import JobError
from zarfwright.core.schedules.lists import TITLES, schedule
from zarfwright.core.schedules.supply import Supply
from zarfwright.core.schedules.table import ListStyle
from zarfwright.core.sheet.issue import Issue
from zarfwright.core.sheet.record import issued, next_revision, without_record
from zarfwright.core.show import Change, Show


class IssuePapers(Arguments):
    """Issue the papers: what they say now is what later changes are marked against. `date`: ISO 8601."""

    number: str = ""
    date: str = ""
    note: LongText = ""
    by: str = ""


def issue_papers(show: Show, args: IssuePapers, new_id: NewId) -> Edit:
    if not show.of_kind("sheet"):
        raise JobError("There is no sheet to issue: make one first.")
    before = [(item, issue) for item, issue in show.bodies(Issue)]
    number = args.number.strip() or next_revision([issue.number for _, issue in before])
    if number in {issue.number for _, issue in before}:
        raise JobError(f"There is a revision {number} already: type another one.", "number")
    if args.date:
        try:
            Date.fromisoformat(args.date)
        except ValueError:
            raise JobError(f"“{args.date}” is no date: write it as 2026-11-30.", "date") from None
    fresh = added(show, "issue", [issued(show, number, args.date, args.note.strip(), args.by.strip())], new_id)[0]
    older = [changed(item, without_record(issue)) for item, issue in before if issue.rig or issue.sheets]
    return Edit((*older, made(fresh)), f"Issue the papers as revision {number}", (fresh.id,))


class SetList(Arguments):
    """Arrange a schedule: its columns, what its rows go by (a minus before a column turns it round), what they are
    grouped by, words that columns must have. Nothing given: as it is by itself."""

    name: str
    columns: list[str] = Field([], max_length=60)
    order: list[str] = Field([], max_length=12)
    group: str | None = None
    only: dict[str, str] = Field({}, max_length=60)


def set_list(show: Show, args: SetList, new_id: NewId) -> Edit:
    style = ListStyle(args.name, tuple(dict.fromkeys(args.columns)), tuple(args.order), args.group,
                      {key: words for key, words in args.only.items() if words.strip()})  # fmt: skip
    table = schedule(show, args.name, ListStyle(args.name))
    orders = [one.removeprefix("-") for one in style.order]
    for title in (*style.columns, *orders, *style.only, *filter(None, [style.group])):
        table.column(title)
    old = next(((item, kept) for item, kept in show.bodies(ListStyle) if kept.name == args.name), None)
    plain = style == ListStyle(args.name)
    sentence = f"Arrange the list {TITLES[args.name]}"
    if old is None:
        item = added(show, "list", [style], new_id)[0]
        return Edit(() if plain else (made(item),), sentence)
    change = Change(old[0], None) if plain else changed(old[0], style)
    return Edit(() if style == old[1] else (change,), sentence)


class AddSupply(Arguments):
    """Place a distribution point: where cables begin."""

    name: str = ""
    x: str = "0"
    y: str = "0"
    z: str = "0"


def add_supply(show: Show, args: AddSupply, new_id: NewId) -> Edit:
    x, y, z = (coordinate(show, text, axis, axis) for text, axis in ((args.x, "x"), (args.y, "y"), (args.z, "z")))
    name = free_name(show, "supply", args.name, "Distribution")
    item = added(show, "supply", [Supply(name, (x, y, z))], new_id)[0]
    return Edit((made(item),), f"Place {name}", (item.id,))


class SetSupply(Arguments):
    """Move or rename a distribution point."""

    id: str
    name: str | None = None
    x: str | None = None
    y: str | None = None
    z: str | None = None


def set_supply(show: Show, args: SetSupply, _: NewId) -> Edit:
    item, supply = show.thing(args.id, Supply)
    place = list(supply.position)
    for k, axis in enumerate("xyz"):
        text = getattr(args, axis)
        if text is not None:
            place[k] = coordinate(show, text, axis, axis)
    x, y, z = place
    after = replace(supply, name=(args.name or "").strip() or supply.name, position=(x, y, z))
    return Edit((changed(item, after),) if after != supply else (), f"Change {after.name}", (item.id,))
