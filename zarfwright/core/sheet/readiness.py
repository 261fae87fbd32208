"""What is wrong with papers: older than the rig, things on no sheet, labels without room, views that do not fit."""

from __future__ import annotations

from collections import defaultdict

from zarfwright.core.findings import TOLD, Finding, first_few
from zarfwright.core.rig.things import Fixture
from zarfwright.core.sheet.frames import frame_of
from zarfwright.core.sheet.marks import Drawing, Seen
from zarfwright.core.sheet.record import changes_since, fingerprint, last_issue
from zarfwright.core.sheet.scope import scope_of, with_all_on_it
from zarfwright.core.sheet.sheet import Sheet
from zarfwright.core.show import Show
from zarfwright.core.site.things import Truss

STEP = "papers"
SMALL_SCALE = 500
"""At such a scale symbols are dots."""


def _things(count: int, noun: str) -> str:
    return f"1 {noun} is" if count == 1 else f"{count} {noun}s are"


def paper_findings(show: Show) -> list[Finding]:
    """What can be said of papers without drawing them."""
    sheets = list(show.bodies(Sheet))
    if not sheets:
        return []
    return [*_older(show), *_on_none(show), *_doubles(show)]


def _older(show: Show) -> list[Finding]:
    """What papers say otherwise than when they were issued."""
    issue = last_issue(show)
    if issue is None:
        return []
    found = []
    changes = changes_since(show, issue)
    if changes:
        told = "; ".join(first_few([one.text for one in changes]) if len(changes) <= TOLD else
                         [*(one.text for one in changes[:TOLD]), f"and {len(changes) - TOLD} more"])  # fmt: skip
        text = f"The papers are older than the rig: since revision {issue.number} {told}. Issue them again."
        found.append(Finding(STEP, tuple(one.id for one in changes if one.id in show.items), text, code="papers_older"))
    for item, sheet in show.bodies(Sheet):
        if issue.sheets.get(item.id) != fingerprint(sheet):
            how = "was made" if item.id not in issue.sheets else "has changed"
            text = f"The sheet {sheet.number} {sheet.name} {how} since revision {issue.number}: issue the papers again."
            found.append(Finding(STEP, (item.id,), text, code="sheet_changed"))
    return found


def _on_none(show: Show) -> list[Finding]:
    """Fixtures and structures that no view shows."""
    shown: set[str] = set()
    for _, sheet in show.bodies(Sheet):
        for view in sheet.views:
            frame = frame_of(show, view)
            all_of_it = view.rig and view.region is None and (frame.flat or frame.cut is None)
            if all_of_it and not view.of:
                return []
            if all_of_it:
                shown |= with_all_on_it(show, view.of)
                continue
            scope = scope_of(show, view, frame)
            shown |= {key for key, _ in scope.structures}
            left, low, right, high = view.region or (-1e9, -1e9, 1e9, 1e9)
            shown |= {one.id for one in scope.fixtures if left <= one.at[0] <= right and low <= one.at[1] <= high}
    missing = [
        item
        for item in show.items.values()
        if isinstance(item.body, Fixture | Truss) and item.id not in shown and not show.hidden(item)
    ]
    if not missing:
        return []
    names = ", ".join(item.name for item in missing[:TOLD]) + (" and more" if len(missing) > TOLD else "")
    text = f"{_things(len(missing), 'thing')} on no sheet: {names}. Put a view of them on a sheet."
    return [Finding(STEP, tuple(item.id for item in missing), text, code="on_no_sheet")]


def _doubles(show: Show) -> list[Finding]:
    """Unit numbers that stand twice on one rail: crews hang by them."""
    units: dict[tuple[str, str, int], list[str]] = defaultdict(list)
    for item, fixture in show.fixtures():
        if fixture.unit is not None and fixture.hang is not None and fixture.hang.structure in show.items:
            units[fixture.hang.structure, fixture.hang.rail, fixture.unit].append(item.id)
    found = []
    for (structure, _, unit), ids in units.items():
        if len(ids) > 1:
            text = f"{show.items[structure].name} has unit {unit} {len(ids)} times on one rail: number its units again."
            found.append(Finding(STEP, tuple(ids), text, code="unit_twice"))
    return found


def drawn_findings(key: str, drawing: Drawing) -> list[Finding]:
    """What is wrong with a sheet as it is drawn. `key`: its id."""
    return [finding for view in drawing.views for finding in _of_view(key, drawing, view)]


def _of_view(key: str, drawing: Drawing, view: Seen) -> list[Finding]:
    where = f"{view.name} on the sheet {drawing.title}"
    found = []
    if view.not_placed:
        text = (
            f"{where}: {_things(len(view.not_placed), 'label')} without room. Take a larger scale or put them by hand."
        )
        found.append(Finding(STEP, (key, *view.not_placed), text, code="labels_not_placed"))
    if view.outside:
        text = f"{where} reaches over the border at 1:{view.scale}: move it, or take a smaller scale or larger paper."
        found.append(Finding(STEP, (key,), text, wrong=True, code="view_outside"))
    if view.scale >= SMALL_SCALE:
        text = f"{where} is at 1:{view.scale}, at which nothing can be read: show less of it, or take larger paper."
        found.append(Finding(STEP, (key,), text, code="scale_too_small"))
    if view.over:
        pairs = len(view.over)
        said = "Two symbols lie" if pairs == 1 else f"{pairs} pairs of symbols lie"
        ids = tuple(dict.fromkeys(one for pair in view.over for one in pair))
        found.append(
            Finding(
                STEP,
                (key, *ids),
                f"{where}: {said} over each other. Show them from another side as well.",
                code="symbols_over",
            )
        )
    return found
