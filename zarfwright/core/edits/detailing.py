"""Edits of what is on a sheet by hand: labels that were put, dimensions, words."""

from __future__ import annotations

from dataclasses import replace

from pydantic import Field

from zarfwright.core.edits.base import Arguments, Edit, LongText, NewId, changed
from zarfwright.core.edits.sheeting import next_key, view_of, with_view
from zarfwright.core.errors import JobError
from zarfwright.core.rig.things import Fixture
from zarfwright.core.sheet.sheet import LOOKS, Dimension, DimensionKind, Sheet, View, Written
from zarfwright.core.show import Show
from zarfwright.core.site.things import Truss
from zarfwright.core.space import Vec

FURTHEST_MM = 1500.0
DIMENSIONS_MOST, WORDS_MOST = 200, 200
SAID = {"rail": "distances along", "centre": "distances from the centre line of", "trim": "heights of"}


def _called(view: View) -> str:
    return view.name or LOOKS[view.look]


class PutLabel(Arguments):
    """Put the label of a fixture in a view by hand: its middle from the fixture, millimetres of paper; without `at`
    where there is room again."""

    id: str
    view: str
    fixture: str
    at: tuple[float, float] | None = None


def put_label(show: Show, args: PutLabel, _: NewId) -> Edit:
    item, sheet = show.thing(args.id, Sheet)
    view = view_of(sheet, args.view)
    show.body(args.fixture, Fixture)
    labels = {key: at for key, at in view.labels.items() if key != args.fixture}
    if args.at is not None:
        if max(abs(args.at[0]), abs(args.at[1])) > FURTHEST_MM:
            raise JobError("A label stays on the sheet: put it nearer to its fixture.", "at")
        labels[args.fixture] = args.at
    verb = "Put" if args.at is not None else "Let go of"
    sentence = f"{verb} the label of {show.items[args.fixture].name} in {_called(view)}"
    return Edit((changed(item, with_view(sheet, replace(view, labels=labels))),), sentence, (item.id,))


class AddDimension(Arguments):
    """Put a dimension into a view: of a structure, or between two places of the show."""

    id: str
    view: str
    sort: DimensionKind = "rail"
    structures: list[str] = Field([], max_length=200)
    start: Vec | None = None
    end: Vec | None = None


def add_dimension(show: Show, args: AddDimension, _: NewId) -> Edit:
    item, sheet = show.thing(args.id, Sheet)
    view = view_of(sheet, args.view)
    fresh: list[Dimension] = []
    taken = [one.key for one in view.dimensions]
    for key in dict.fromkeys(args.structures):
        show.body(key, Truss)
        if any(one.kind == args.sort and one.structure == key for one in view.dimensions):
            continue
        fresh.append(Dimension(next_key([*taken, *(one.key for one in fresh)], "d"), args.sort, key))
    if args.sort == "free":
        if args.start is None or args.end is None:
            raise JobError("A dimension goes from one place to another: click both.", "end")
        fresh = [Dimension(next_key(taken, "d"), "free", "", args.start, args.end)]
    if not fresh:
        raise JobError("There is nothing to measure: choose structures that have no such dimension here.", "structures")
    if len(view.dimensions) + len(fresh) > DIMENSIONS_MOST:
        raise JobError(f"A view takes {DIMENSIONS_MOST} dimensions: put the others into another view.", "structures")
    after = replace(view, dimensions=(*view.dimensions, *fresh))
    of = show.items[fresh[0].structure].name if len(fresh) == 1 and fresh[0].structure else f"{len(fresh)} structures"
    sentence = "Measure between two places" if args.sort == "free" else f"Show {SAID[args.sort]} {of}"
    return Edit((changed(item, with_view(sheet, after)),), f"{sentence} in {_called(view)}", (item.id,))


class SetDimension(Arguments):
    """Move a dimension further from what it measures, by millimetres against where it is by itself; or take it out."""

    id: str
    view: str
    dimension: str
    off_mm: float | None = Field(None, ge=-500, le=500)
    gone: bool = False


def set_dimension(show: Show, args: SetDimension, _: NewId) -> Edit:
    item, sheet = show.thing(args.id, Sheet)
    view = view_of(sheet, args.view)
    if args.dimension not in {one.key for one in view.dimensions}:
        raise JobError("That dimension is no longer in the view: somebody took it out. Select again.", "dimension")
    kept = [one for one in view.dimensions if not (args.gone and one.key == args.dimension)]
    if args.off_mm is not None:
        kept = [replace(one, off_mm=args.off_mm) if one.key == args.dimension else one for one in kept]
    verb = "Take a dimension out of" if args.gone else "Move a dimension in"
    after = with_view(sheet, replace(view, dimensions=tuple(kept)))
    return Edit((changed(item, after),), f"{verb} {_called(view)}", (item.id,))


class WriteOnSheet(Arguments):
    """Write on a sheet, or change what is written (`words`): where, millimetres from its lower left; how high capitals
    are. Nothing typed takes the words off."""

    id: str
    words: str | None = None
    text: LongText | None = None
    at: tuple[float, float] | None = None
    size_mm: float | None = Field(None, ge=1.0, le=50.0)


def write_on_sheet(show: Show, args: WriteOnSheet, _: NewId) -> Edit:
    item, sheet = show.thing(args.id, Sheet)
    if args.words is None:
        if not (args.text or "").strip() or args.at is None:
            raise JobError("Nothing is written yet: type the words, and click where they go.", "text")
        if len(sheet.words) >= WORDS_MOST:
            raise JobError(f"A sheet takes {WORDS_MOST} texts: put this one on another sheet.", "text")
        fresh = Written(next_key((one.key for one in sheet.words), "w"), (args.text or "").strip(), args.at,
                        args.size_mm or 2.5)  # fmt: skip
        after = replace(sheet, words=(*sheet.words, fresh))
        return Edit((changed(item, after),), f"Write on the sheet {sheet.name}", (item.id,))
    if args.words not in {one.key for one in sheet.words}:
        raise JobError("Those words are no longer on the sheet: somebody took them off. Select again.", "words")
    kept = []
    for one in sheet.words:
        if one.key == args.words:
            text = one.text if args.text is None else args.text.strip()
            if not text:
                continue
            kept.append(replace(one, text=text, at=args.at or one.at, size_mm=args.size_mm or one.size_mm))
            continue
        kept.append(one)
    after = replace(sheet, words=tuple(kept))
    return Edit((changed(item, after),), f"Change what is written on the sheet {sheet.name}", (item.id,))
