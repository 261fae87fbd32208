"""What papers say of the rig, thing by thing, and how that has changed since they were issued."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, replace

from zarfwright.core.memo import Memo
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.rig.things import Fixture
from zarfwright.core.schedules.rig import address_of, position_of, where_on
from zarfwright.core.sheet.issue import FIELDS, Issue
from zarfwright.core.sheet.sheet import Sheet
from zarfwright.core.show import Show, body_to_json
from zarfwright.core.site.structures import end_trims_m
from zarfwright.core.site.things import Truss

STRUCTURE = "structure"
"""What stands in the place of a type for structures."""
PLACE = FIELDS.index("place")
WORDS = {"place": "its place", "height": "height", "along": "along"}


def _millimetres(place: tuple[float, float, float]) -> str:
    return " ".join(str(round(part * 1000)) for part in place)


def _of_fixture(show: Show, fixture: Fixture) -> tuple[str, ...]:
    rail, along = where_on(show, fixture)
    place = clamp_placement(show, fixture).position
    said = {
        "type": show.types[fixture.type].name if fixture.type in show.types else "",
        "mode": fixture.mode,
        "number": fixture.number,
        "unit": fixture.unit,
        "address": address_of(fixture),
        "position": position_of(show, fixture),
        "rail": rail,
        "along": along,
        "height": f"{place[2]:.3f}",
        "purpose": fixture.purpose,
        "colour": fixture.gel.name if fixture.gel else "",
        "circuit": fixture.circuit,
        "dimmer": fixture.dimmer,
        "note": fixture.note,
        "place": _millimetres(place),
    }
    return tuple("" if said[name] is None else str(said[name]) for name in FIELDS)


def _of_structure(truss: Truss) -> tuple[str, ...]:
    low, high = end_trims_m(truss)
    length = truss.diameter_m if truss.form == "arc" else truss.length_m
    said = {"type": STRUCTURE, "mode": truss.form, "position": truss.name, "along": f"{length:.3f}",
            "height": f"{low:.3f} to {high:.3f}", "place": _millimetres(truss.position)}  # fmt: skip
    return tuple(said.get(name, "") for name in FIELDS)


def _record(show: Show) -> dict[str, tuple[str, ...]]:
    found = {item.id: _of_fixture(show, fixture) for item, fixture in show.fixtures()}
    return found | {item.id: _of_structure(truss) for item, truss in show.bodies(Truss)}


record_of: Memo[dict[str, tuple[str, ...]]] = Memo(_record, 4)
"""What is said of every fixture and structure now, by id (issue.FIELDS): `(show,)`."""


def fingerprint(sheet: Sheet) -> str:
    """What a sheet is, in few letters: how it is set up and arranged."""
    return hashlib.sha256(body_to_json("sheet", sheet)).hexdigest()[:16]


@dataclass(frozen=True)
class Changed:
    """A thing that papers say something else of than when they were issued."""

    id: str
    text: str
    sort: str
    """`new`, `gone` or `changed`."""
    place: tuple[float, float, float]
    """Where it is, of what is gone where it was; metres."""


def last_issue(show: Show) -> Issue | None:
    """The newest revision."""
    issues = [issue for _, issue in show.bodies(Issue)]
    return issues[-1] if issues else None


def _name(row: tuple[str, ...]) -> str:
    said = dict(zip(FIELDS, row, strict=True))
    if said["type"] == STRUCTURE:
        return said["position"]
    return f"fixture {said['number']}" if said["number"] else f"a {said['type'] or 'fixture'} without a number"


def _place(row: tuple[str, ...]) -> tuple[float, float, float]:
    x, y, z = (int(part) / 1000 for part in row[PLACE].split())
    return (x, y, z)


def _differs(before: tuple[str, ...], after: tuple[str, ...]) -> str:
    """In words, what of a thing is said otherwise."""
    lines = []
    for name, old, new in zip(FIELDS, before, after, strict=True):
        if old != new and name != "place":
            lines.append(f"{name} {old or 'none'}, now {new or 'none'}")
    if not lines and before != after:
        lines.append("it has moved")
    return "; ".join(lines)


def changes_since(show: Show, issue: Issue) -> list[Changed]:
    """What papers say otherwise than when they were issued, thing by thing."""
    return compared(issue.rig, record_of(show))


def compared(before: Mapping[str, tuple[str, ...]], now: Mapping[str, tuple[str, ...]]) -> list[Changed]:
    """What is new, gone or said otherwise; sorted by what it is called."""
    found = []
    for key in sorted(before.keys() | now.keys()):
        old, new = before.get(key), now.get(key)
        if old == new:
            continue
        if old is None and new is not None:
            found.append(Changed(key, f"{_name(new)} is new", "new", _place(new)))
        elif new is None and old is not None:
            found.append(Changed(key, f"{_name(old)} is gone", "gone", _place(old)))
        elif old is not None and new is not None:
            found.append(Changed(key, f"{_name(new)}: {_differs(old, new)}", "changed", _place(new)))
    return found


def issued(show: Show, number: str, date: str, note: str, by: str) -> Issue:
    """A revision of the papers as they are now."""
    sheets = {item.id: fingerprint(sheet) for item, sheet in show.bodies(Sheet)}
    return Issue(number, date, note, by, record_of(show), sheets)


def without_record(issue: Issue) -> Issue:
    """An older revision: only the newest one is held against the rig."""
    return replace(issue, rig={}, sheets={})


def next_revision(numbers: list[str]) -> str:
    """The revision after the last one: A, B ... Z, AA; 1, 2 where they are numbers."""
    if not numbers:
        return "A"
    last = numbers[-1]
    if last.isdecimal():
        return str(int(last) + 1)
    if last.isalpha() and last.isascii() and last.isupper():
        stem = last.rstrip("Z")
        if not stem:
            return "A" * (len(last) + 1)
        return f"{stem[:-1]}{chr(ord(stem[-1]) + 1)}{'A' * (len(last) - len(stem))}"
    return f"{last} 2"
