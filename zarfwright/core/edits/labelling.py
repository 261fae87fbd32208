"""Edits of label styles: what is written beside fixtures, in which shapes, in which views."""

from __future__ import annotations

from dataclasses import replace

from zarfwright.core.edits.base import Arguments, Edit, NewId, added, changed, free_name, made, within
from zarfwright.core.errors import JobError
from zarfwright.core.rig.things import LABEL_FIELDS, LABEL_SHAPES, LABEL_VIEWS, LabelStyle
from zarfwright.core.show import Show


class AddLabelStyle(Arguments):
    """A new style: the channel number in a circle, in the plan."""

    name: str = ""


def add_label_style(show: Show, args: AddLabelStyle, new_id: NewId) -> Edit:
    style = LabelStyle(free_name(show, "label style", args.name, "Labels"))
    items = added(show, "label style", [style], new_id)
    return Edit((made(items[0]),), f"Add the label style {style.name}", ())


class SetLabelStyle(Arguments):
    """Change a style; what is left out stays."""

    id: str
    name: str | None = None
    parts: list[tuple[str, str]] | None = None
    views: list[str] | None = None
    size_mm: float | None = None
    size_px: float | None = None
    leader: bool | None = None
    types: list[str] | None = None


def _require(words: list[str], known: tuple[str, ...], field: str) -> None:
    for word in words:
        if word not in known:
            raise JobError(f"“{word}” is none of {', '.join(known)}.", field)


def set_label_style(show: Show, args: SetLabelStyle, _: NewId) -> Edit:
    item, style = show.thing(args.id, LabelStyle)
    given = args.model_dump(exclude_none=True, exclude={"id"})
    if "name" in given and not given["name"].strip():
        raise JobError("A label style needs a name: type at least one letter.", "name")
    if args.parts is not None:
        if not args.parts:
            raise JobError("A label says something: leave one field at least.", "parts")
        _require([part for part, _ in args.parts], LABEL_FIELDS, "parts")
        _require([shape for _, shape in args.parts], LABEL_SHAPES, "parts")
        given["parts"] = tuple((field, shape) for field, shape in args.parts[:8])
    if args.views is not None:
        _require(args.views, LABEL_VIEWS, "views")
        given["views"] = tuple(view for view in LABEL_VIEWS if view in args.views)
    if args.types is not None:
        given["types"] = tuple(args.types)
    if args.size_mm is not None:
        within(args.size_mm, "size_mm", 20, 2000)
    if args.size_px is not None:
        within(args.size_px, "size_px", 6, 60)
    return Edit((changed(item, replace(style, **given)),), f"Change the label style {item.name}", ())
