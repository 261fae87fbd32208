"""Schedules with what has changed since the papers were issued marked."""

from __future__ import annotations

from dataclasses import replace

from zarfwright.core.schedules.lists import schedule
from zarfwright.core.schedules.table import ListStyle, Table
from zarfwright.core.sheet.record import changes_since, last_issue
from zarfwright.core.show import Show


def marked_schedule(show: Show, name: str, style: ListStyle | None) -> tuple[Table, str]:
    """A schedule (schedules/lists.py) with the rows of changed things marked, and the revision they are marked against;
    empty where none was issued. Raises JobError."""
    table = schedule(show, name, style)
    issue = last_issue(show)
    if issue is None:
        return table, ""
    changed = {one.id for one in changes_since(show, issue)}
    rows = tuple(i for i, ids in enumerate(table.things) if changed.intersection(ids))
    return replace(table, changed=rows), issue.number
