"""What is still wrong with looks and running orders."""

from __future__ import annotations

import numpy as np

from zarfwright.core.aiming.coloured import driven
from zarfwright.core.aiming.pointing import Wish, point_at
from zarfwright.core.aiming.yokes import aiming_chain, chain_for
from zarfwright.core.dmx.features import FEATURES
from zarfwright.core.dmx.rows import fixture_of
from zarfwright.core.findings import Finding, Repair
from zarfwright.core.looks.kept import SAME
from zarfwright.core.looks.look import Look, at_start, called, number_text
from zarfwright.core.looks.said import Said
from zarfwright.core.looks.shown import facts_of, in_order, resolved
from zarfwright.core.memo import Memo
from zarfwright.core.playback.moves import move_findings
from zarfwright.core.playback.order import Order
from zarfwright.core.rig.things import Fixture, FocusPoint
from zarfwright.core.show import Show, listed
from zarfwright.core.types.model import FixtureType

NAMED = 5


def look_findings(show: Show) -> list[Finding]:
    """Looks with nothing lit, of what is gone, with values that no longer fit, twins; orders that skip looks, and heads
    that are seen to travel."""
    looks = in_order(show)
    found = [one for key, look in looks for one in _of_look(show, key, look)]
    return [*found, *_twins(show, looks), *_orders(show, looks), *move_findings(show)]


def _of_look(show: Show, key: str, look: Look) -> list[Finding]:
    found = []
    present = {item.id for item, _ in show.fixtures()}
    covered = _fixtures_memo(look.values)
    new = present - covered
    if look.whole and new:
        fixtures = "1 fixture" if len(new) == 1 else f"{len(new)} fixtures"
        text = f"{at_start(look)}, says nothing of {fixtures} hung since: keep it again."
        found.append(Finding("looks", (key, *sorted(new)), text))
    gone = sorted(covered - present)
    if gone:
        fixtures = "a fixture that is" if len(gone) == 1 else f"{len(gone)} fixtures that are"
        out = Repair("Take that out", "take out", {"ids": gone, "looks": [key]})
        found.append(Finding("looks", (key,), f"{at_start(look)}, says something of {fixtures} gone.", repair=out))
    said = resolved(show, key)
    if look.whole and len(said) and not facts_of(said).lit:
        found.append(Finding("looks", (key,), f"{at_start(look)}: nothing gives light in it. Is that meant?"))
    return [*found, *_misfits(show, key, look), *_out_of_reach(show, key, look)]


def _fixtures(said: Said) -> frozenset[str]:
    return frozenset(fixture_of(key) for key in said.table.keys)


_fixtures_memo: Memo[frozenset[str]] = Memo(_fixtures, 2000)


def _misfits(show: Show, key: str, look: Look) -> list[Finding]:
    """Values that what is there now cannot show: its type or mode is another one since."""
    bad: dict[str, set[str]] = {}
    for (kind, mode), rows in _rows_by_kind(show, look.values).items():
        for row, name in _misfit_rows(look.values, _rows_as_one(rows), show.types[kind], mode):
            bad.setdefault(fixture_of(look.values.table.keys[row]), set()).add(name)
    if not bad:
        return []
    ids = sorted(bad)
    names = ", ".join(sorted({name for names in bad.values() for name in names})[:NAMED])
    text = f"{at_start(look)}: {listed(show, ids, 'fixture')} cannot show what it says ({names}). Keep it again."
    return [Finding("looks", (key, *ids), text)]


def _rows_by_kind(show: Show, said: Said) -> dict[tuple[str, str], list[int]]:
    """The rows of what is said by type and mode of their fixtures."""
    found: dict[tuple[str, str], list[int]] = {}
    for row, key in enumerate(said.table.keys):
        item = show.items.get(fixture_of(key))
        if item is not None and isinstance(item.body, Fixture) and item.body.type in show.types:
            found.setdefault((item.body.type, item.body.mode), []).append(row)
    return found


def _rows_as_one(rows: list[int]) -> str:
    return ",".join(map(str, rows))


_NEUTRAL = {feature.name: feature.neutral for feature in FEATURES}


def _misfits_of(said: Said, rows_as_one: str, fixture_type: FixtureType, mode: str) -> list[tuple[int, str]]:
    """Rows and features that a type in a mode cannot show."""
    rows = [int(row) for row in rows_as_one.split(",")]
    limits, able, table = _limits(fixture_type, mode), driven(fixture_type, mode), said.table
    found = []
    for column, feature in enumerate(table.features.tolist()):
        name, values = FEATURES[feature].name, table.values[rows, column]
        with np.errstate(invalid="ignore"):
            wrong = (np.abs(values - _NEUTRAL[name]) > SAME) & (name not in able)
            if name in limits:
                wrong |= (values < limits[name][0] - ROOM_RAD) | (values > limits[name][1] + ROOM_RAD)
        found += [(rows[row], name) for row in np.flatnonzero(wrong).tolist()]
    return found


_misfit_rows = Memo(_misfits_of, 4000)
ROOM_RAD = 1e-3
"""What is beyond the end by no more is at the end."""


def _limits(fixture_type: FixtureType, mode: str) -> dict[str, tuple[float, float]]:
    chain = aiming_chain(fixture_type, mode)
    return {"pan": chain.pan_range, "tilt": chain.tilt_range} if chain.moves else {}


def _out_of_reach(show: Show, key: str, look: Look) -> list[Finding]:
    """Heads that hang on a focus point which they can no longer look at."""
    short: list[str] = []
    for link, fixtures in look.links.items():
        item = show.items.get(link)
        if item is None or not isinstance(item.body, FocusPoint):
            continue
        pairs = []
        for one in fixtures:
            head = show.items.get(one)
            if head is not None and isinstance(head.body, Fixture) and head.body.type in show.types:
                pairs.append((head, head.body))
        heads = [pair for pair in pairs if chain_for(show, pair[1]).moves]
        if heads:
            reaches = point_at(show, heads, Wish(focus=link), {}).aimed.reaches
            short += [head.id for (head, _), there in zip(heads, reaches, strict=True) if not there]
    if not short:
        return []
    they = "it is" if len(short) == 1 else "they are"
    text = f"{at_start(look)}: {listed(show, short, 'fixture')} cannot reach what {they} aimed at."
    return [Finding("looks", (key, *short), text, wrong=True)]


def _twins(show: Show, looks: list[tuple[str, Look]]) -> list[Finding]:
    seen: dict[object, tuple[str, Look]] = {}
    found = []
    for key, look in looks:
        # What is packed alike is alike; carriers and air are as much of a look as its light.
        same = (resolved(show, key).text, tuple(sorted(look.carriers.items())), look.haze_per_m, look.house_light_lx)
        if same in seen:
            first, other = seen[same]
            text = f"{at_start(look)}, is the same as {called(other)}: remove one, or keep it anew."
            found.append(Finding("looks", (first, key), text))
        seen.setdefault(same, (key, look))
    return found


def _orders(show: Show, looks: list[tuple[str, Look]]) -> list[Finding]:
    """Orders without a step, and looks that an order goes past."""
    found = []
    for item, order in show.bodies(Order):
        if not order.steps:
            text = f"{order.name} is empty: put looks into it, or remove it."
            found.append(Finding("looks", (item.id,), text, repair=Repair("Remove it", "remove", {"ids": [item.id]})))
            continue
        used = {step.look for step in order.steps}
        numbers = [look.number for key, look in looks if key in used]
        if not numbers:
            continue
        skipped = [
            (key, look) for key, look in looks
            if look.whole and key not in used and min(numbers) < look.number < max(numbers)
        ]  # fmt: skip
        if skipped:
            names = ", ".join(number_text(look.number) for _, look in skipped[:NAMED])
            more = f" and {len(skipped) - NAMED} more" if len(skipped) > NAMED else ""
            text = f"{order.name} goes past look {names}{more}. Is that meant?"
            found.append(Finding("looks", (item.id, *(key for key, _ in skipped)), text))
    return found
