"""All schedules by name."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from zarfwright.core.errors import JobError
from zarfwright.core.looks.look import Look, called, number_text
from zarfwright.core.looks.shown import facts_of, in_order, resolved
from zarfwright.core.papers import CIRCUIT_COLUMNS, circuit_schedule, circuit_totals
from zarfwright.core.playback.order import Order, starts_of
from zarfwright.core.review.notes import NOTE_COLUMNS, Note, note_rows
from zarfwright.core.schedules.moves import moves
from zarfwright.core.schedules.power import cables, power, weights
from zarfwright.core.schedules.rig import addresses, colours, focus, hookup, instruments
from zarfwright.core.schedules.table import ListStyle, Row, Table, arranged
from zarfwright.core.show import Show


def circuits(show: Show) -> Table:
    """Dimmers with what is on each, and its load against what it carries."""
    rows = tuple(circuit_schedule(show))
    return Table("circuits", "Circuits and dimmers", CIRCUIT_COLUMNS, rows, circuit_totals(show))


LOOKS = ("Look", "Name", "Note", "Fixtures", "Lit", "In order at s", "Fade in s", "Fade out s")


def looks(show: Show) -> Table:
    """Looks by number, how much of the rig each has, and when it comes."""
    when: dict[str, tuple[float, float, float]] = {}
    for _, order in show.bodies(Order):
        for step, start in zip(order.steps, starts_of(order.steps), strict=False):
            out = step.fade_in_s if step.fade_out_s is None else step.fade_out_s
            when.setdefault(step.look, (round(float(start), 3), step.fade_in_s, out))
    rows: list[Row] = []
    things = []
    for key, look in in_order(show):
        facts = facts_of(resolved(show, key))
        rows.append((number_text(look.number), look.name, look.note, facts.fixtures, facts.lit,
                     *when.get(key, (None, None, None))))  # fmt: skip
        things.append((key,))
    totals = {"looks": len(rows), "in_an_order": sum(row[5] is not None for row in rows)}
    return Table("looks", "Looks", LOOKS, tuple(rows), totals, tuple(things))


def notes(show: Show) -> Table:
    """Notes of the review, open ones first."""
    names = {key: called(item.body) if isinstance(item.body, Look) else item.name for key, item in show.items.items()}
    every = [note for _, note in show.bodies(Note)]
    rows = tuple(note_rows(every, names))
    totals = {"notes": len(every), "open": sum(note.open for note in every)}
    return Table("notes", "Notes", NOTE_COLUMNS, rows, totals, group="State")


SCHEDULES: dict[str, Callable[[Show], Table]] = {
    "instruments": instruments,
    "hookup": hookup,
    "addresses": addresses,
    "colours": colours,
    "circuits": circuits,
    "power": power,
    "weights": weights,
    "focus": focus,
    "cables": cables,
    "looks": looks,
    "notes": notes,
    "moves": moves,
}
TITLES = {
    "instruments": "Instruments by position", "hookup": "Channel hookup", "addresses": "Addresses by universe",
    "colours": "Colours and gobos", "circuits": "Circuits and dimmers", "power": "Power and phases",
    "weights": "Weights", "focus": "Focus chart", "cables": "Cables", "looks": "Looks", "notes": "Notes",
    "moves": "What moves",
}  # fmt: skip


def schedule(show: Show, name: str, style: ListStyle | None = None) -> Table:
    """A schedule as it is kept, or as `style` wants it. Raises JobError for a name that there is none of."""
    if name not in SCHEDULES:
        raise JobError(f"There is no schedule “{name}”: choose of {', '.join(SCHEDULES)}.", "name")
    table = SCHEDULES[name](show)
    kept = style or next((style for _, style in show.bodies(ListStyle) if style.name == name), None)
    if kept is None:
        return table
    try:
        return arranged(table, kept)
    except JobError:
        # Columns were called otherwise when it was kept: better all of it than nothing.
        if style is not None:
            raise
        return replace(table)
