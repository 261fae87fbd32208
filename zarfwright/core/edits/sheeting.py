"""Edits of sheets: made, set up, their views put and scaled."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any, Literal

from pydantic import Field

from zarfwright.core.edits.base import Arguments, Edit, LongText, NewId, added, changed, coordinate, made, require_some
from zarfwright.core.errors import JobError
from zarfwright.core.rig.things import Carrier, LabelStyle
from zarfwright.core.sheet.compose import paper_of
from zarfwright.core.sheet.paper import parse_scale, size_of
from zarfwright.core.sheet.sheet import LOOKS, Look, Sheet, View
from zarfwright.core.show import Change, Show
from zarfwright.core.site.things import Truss

VIEWS_MOST = 24
ALONE = {"straight": "square", "upright": "front", "arc": "plan"}
"""How a structure alone is best seen."""


def next_key(taken: Iterable[str], letter: str) -> str:
    """The next free key: v1, v2 ..."""
    numbers = [int(key[1:]) for key in taken if key[:1] == letter and key[1:].isdecimal()]
    return f"{letter}{max(numbers, default=0) + 1}"


def view_of(sheet: Sheet, key: str) -> View:
    """A view of a sheet. Raises JobError where it is gone."""
    for view in sheet.views:
        if view.key == key:
            return view
    raise JobError("That view is no longer on the sheet: somebody removed it. Select again.", "view")


def with_view(sheet: Sheet, after: View) -> Sheet:
    """The sheet with a view in place of the one of its key."""
    return replace(sheet, views=tuple(after if view.key == after.key else view for view in sheet.views))


def _alone(show: Show, ids: Iterable[str]) -> tuple[str, ...]:
    """Structures and carriers that a view may be of alone. Raises JobError."""
    for key in ids:
        if not isinstance(show.item(key).body, Truss | Carrier):
            raise JobError(f"{show.items[key].name} is no structure: a view is of structures, or of carriers.", "of")
    return tuple(dict.fromkeys(ids))


def _new_view(show: Show, sheet: Sheet, look: Look | None, ids: list[str]) -> View:
    of = _alone(show, ids)
    if look is None:
        first = show.items[of[0]].body if of else None
        look = ALONE[first.form] if isinstance(first, Truss) else "plan"  # type: ignore[assignment]
    assert look is not None
    name = ", ".join(show.items[key].name for key in of[:3]) + (" and more" if len(of) > 3 else "")
    return View(next_key((view.key for view in sheet.views), "v"), look, name, of)


class AddSheet(Arguments):
    """Make a sheet: with a view of everything (`look`), of structures alone (`of`), or empty."""

    name: str = ""
    number: str = ""
    paper: str = "A1"
    upright: bool = False
    look: Look | None = None
    of: list[str] = Field([], max_length=200)
    drawn_by: str = ""


def add_sheet(show: Show, args: AddSheet, new_id: NewId) -> Edit:
    size_of(args.paper)
    sheets = [sheet for _, sheet in show.bodies(Sheet)]
    drawn_by = args.drawn_by.strip() or (sheets[-1].drawn_by if sheets else "")
    sheet = Sheet("", args.number.strip() or _next_number(sheets), args.paper, args.upright, drawn_by=drawn_by)
    if args.look is not None or args.of:
        view = _new_view(show, sheet, args.look, args.of)
        sheet = replace(sheet, name=view.name or LOOKS[view.look], views=(view,), key_plan=bool(args.of))
    sheet = replace(sheet, name=args.name.strip() or sheet.name or f"Sheet {len(sheets) + 1}")
    item = added(show, "sheet", [sheet], new_id)[0]
    return Edit((made(item),), f"Add the sheet {sheet.number} {sheet.name}", (item.id,))


def _next_number(sheets: list[Sheet]) -> str:
    """The number after the last sheet's: `LX 4` after `LX 3`."""
    for sheet in reversed(sheets):
        stem = sheet.number.rstrip("0123456789")
        digits = sheet.number[len(stem) :]
        if digits:
            return f"{stem}{int(digits) + 1:0{len(digits)}d}"
    return str(len(sheets) + 1)


class SetSheet(Arguments):
    """Change a sheet: what it is called, its paper, what stands in its strip and at its edge."""

    ids: list[str]
    name: str | None = None
    number: str | None = None
    paper: str | None = None
    upright: bool | None = None
    drawn_by: str | None = None
    note: LongText | None = None
    legend: bool | None = None
    key_plan: bool | None = None


def set_sheet(show: Show, args: SetSheet, _: NewId) -> Edit:
    require_some(args.ids, "sheets")
    fields: dict[str, Any] = args.model_dump(exclude={"ids"}, exclude_none=True)
    fields = {key: value.strip() if isinstance(value, str) else value for key, value in fields.items()}
    if not fields.get("name", "sheet"):
        raise JobError("A sheet has a name: type what is on it.", "name")
    if "paper" in fields:
        size_of(fields["paper"])
    changes = []
    for key in args.ids:
        item, sheet = show.thing(key, Sheet)
        after = replace(sheet, **fields)
        if (after.paper, after.upright) != (sheet.paper, sheet.upright):
            after = replace(after, views=tuple(_inside(after, view) for view in after.views))
        if after != sheet:
            changes.append(changed(item, after))
    what = f"the sheet {show.items[args.ids[0]].name}" if len(args.ids) == 1 else f"{len(args.ids)} sheets"
    words = ", ".join(key.replace("_", " ") for key in fields)
    return Edit(tuple(changes), f"Change {what}: {words}", tuple(args.ids))


def _inside(sheet: Sheet, view: View) -> View:
    """A view that was put by hand, on paper of another size: put back where there is room when it would be off it."""
    if view.at is None:
        return view
    border = paper_of(sheet).border
    inside = border.x0 <= view.at[0] <= border.x1 and border.y0 <= view.at[1] <= border.y1
    return view if inside else replace(view, at=None)


class AddView(Arguments):
    """Put another view on a sheet."""

    id: str
    look: Look | None = None
    of: list[str] = Field([], max_length=200)


def add_view(show: Show, args: AddView, _: NewId) -> Edit:
    item, sheet = show.thing(args.id, Sheet)
    if len(sheet.views) >= VIEWS_MOST:
        raise JobError(f"A sheet has room for {VIEWS_MOST} views: put this one on another sheet.", "view")
    view = _new_view(show, sheet, args.look, args.of)
    after = replace(sheet, views=(*sheet.views, view))
    return Edit((changed(item, after),), f"Add {view.name or LOOKS[view.look]} to the sheet {sheet.name}", (item.id,))


class SetView(Arguments):
    """Change a view. `at`: where its middle is on the sheet, millimetres; `scale` and `cut` as they are typed, empty
    for what is usual; `region`: left, low, right, high in its plane, metres. `again`: which of `at`, `region` and
    `labels` are to be as they are by themselves."""

    id: str
    view: str
    look: Look | None = None
    name: str | None = None
    of: list[str] | None = Field(None, max_length=200)
    at: tuple[float, float] | None = None
    scale: str | None = None
    cut: str | None = None
    region: tuple[float, float, float, float] | None = None
    style: str | None = None
    site: bool | None = None
    people: bool | None = None
    rig: bool | None = None
    again: list[Literal["at", "region", "labels"]] = Field([], max_length=3)


def set_view(show: Show, args: SetView, _: NewId) -> Edit:
    item, sheet = show.thing(args.id, Sheet)
    view = view_of(sheet, args.view)
    fields: dict[str, Any] = args.model_dump(include={"look", "site", "people", "rig"}, exclude_none=True)
    fields |= _typed(show, sheet, view, args)
    fields |= {key: {"at": None, "region": None, "labels": {}}[key] for key in args.again}
    after = replace(view, **fields)
    if after.look != view.look:
        # What was typed or dragged of another plane means nothing in this one.
        after = replace(after, region=args.region, cut_m=fields.get("cut_m"), labels={})
    called = after.name or LOOKS[after.look]
    sentence = f"Move the view {called}" if set(fields) == {"at"} else f"Change the view {called}"
    changes = (changed(item, with_view(sheet, after)),) if after != view else ()
    return Edit(changes, f"{sentence} on the sheet {sheet.name}", (item.id,))


def _typed(show: Show, sheet: Sheet, view: View, args: SetView) -> dict[str, Any]:
    """What was typed or dragged of a view. Raises JobError naming the field."""
    fields: dict[str, Any] = {}
    if args.name is not None:
        fields["name"] = args.name.strip()
    if args.of is not None:
        fields["of"] = _alone(show, args.of)
    if args.at is not None:
        border = paper_of(sheet).border
        x, y = args.at
        fields["at"] = (min(max(x, border.x0), border.x1), min(max(y, border.y0), border.y1))
    if args.scale is not None:
        fields["scale"] = parse_scale(args.scale, show.settings.system)
    if args.cut is not None:
        axis = {"plan": "z", "below": "z", "front": "y", "back": "y"}.get(args.look or view.look, "x")
        fields["cut_m"] = coordinate(show, args.cut, "cut", axis) if args.cut.strip() else None
    if args.region is not None:
        left, low, right, high = args.region
        if not (right - left >= 0.1 and high - low >= 0.1):
            raise JobError("What is shown is at least 10 cm wide and high: draw a larger box.", "region")
        fields["region"] = args.region
    if args.style is not None:
        if args.style:
            show.body(args.style, LabelStyle)
        fields["style"] = args.style or None
    return fields


class RemoveView(Arguments):
    """Take a view off a sheet."""

    id: str
    view: str


def remove_view(show: Show, args: RemoveView, _: NewId) -> Edit:
    item, sheet = show.thing(args.id, Sheet)
    view = view_of(sheet, args.view)
    after = replace(sheet, views=tuple(one for one in sheet.views if one.key != view.key))
    name = view.name or LOOKS[view.look]
    return Edit((changed(item, after),), f"Take {name} off the sheet {sheet.name}", (item.id,))


class OrderSheets(Arguments):
    """Bring sheets into an order: that of their ids."""

    ids: list[str]


def order_sheets(show: Show, args: OrderSheets, _: NewId) -> Edit:
    require_some(args.ids, "sheets")
    items = [show.item(key, "sheet") for key in dict.fromkeys(args.ids)]
    others = [item for item in show.of_kind("sheet") if item.id not in args.ids]
    changes = tuple(Change(item, replace(item, order=k + 1, rev=item.rev + 1))
                    for k, item in enumerate([*items, *others]) if item.order != k + 1)  # fmt: skip
    return Edit(changes, "Put the sheets in another order", tuple(args.ids))
