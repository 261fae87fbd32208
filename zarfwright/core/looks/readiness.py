"""What is still wrong with looks and running orders."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.aiming.coloured import driven
from zarfwright.core.aiming.pointing import Wish, point_at
from zarfwright.core.aiming.yokes import aiming_chain, chain_for
from zarfwright.core.dmx.features import COUNT, FEATURES, INDEX
from zarfwright.core.findings import Finding, Repair
from zarfwright.core.looks.kept import SAME
from zarfwright.core.looks.look import Look, at_start, called, number_text
from zarfwright.core.looks.said import Said, fixtures_of
from zarfwright.core.looks.shown import facts_of, in_order, resolved
from zarfwright.core.memo import Memo
from zarfwright.core.playback.moves import move_findings
from zarfwright.core.playback.order import Order
from zarfwright.core.rig.things import Fixture, FocusPoint
from zarfwright.core.show import Item, Show, listed
from zarfwright.core.space import Floats
from zarfwright.core.types.model import FixtureType

NAMED = 5


def look_findings(show: Show) -> list[Finding]:
    """Looks with nothing lit, of what is gone, with values that no longer fit, twins; orders that skip looks, and heads
    that are seen to travel."""
    looks = in_order(show)
    present, modes = {item.id for item, _ in show.fixtures()}, _modes_of(show)
    found = [one for key, look in looks for one in _of_look(show, key, look, present, modes)]
    return [*found, *_doubles(looks), *_twins(show, looks), *_orders(show, looks), *move_findings(show)]


def _of_look(show: Show, key: str, look: Look, present: set[str], modes: _Modes) -> list[Finding]:
    found = []
    covered = {*look.values.table.fixtures}
    new = present - covered
    if look.whole and new:
        fixtures = "1 fixture" if len(new) == 1 else f"{len(new)} fixtures"
        text = f"{at_start(look)}, says nothing of {fixtures} hung since: keep it again."
        found.append(Finding("looks", (key, *sorted(new)), text, code="look_lacks_fixtures"))
    gone = sorted(covered - present)
    if gone:
        fixtures = "a fixture that is" if len(gone) == 1 else f"{len(gone)} fixtures that are"
        out = Repair("Take that out", "take out", {"ids": gone, "looks": [key]})
        found.append(
            Finding(
                "looks",
                (key,),
                f"{at_start(look)}, says something of {fixtures} gone.",
                repair=out,
                code="look_has_gone",
            )
        )
    said = resolved(show, key) if look.parts or look.links else look.values
    facts = facts_of(said)
    # What leaves intensity alone is lit as it was before.
    if look.whole and facts.sorts["intensity"] and not facts.lit:
        found.append(
            Finding("looks", (key,), f"{at_start(look)}: nothing gives light in it. Is that meant?", code="look_dark")
        )
    return [*found, *_misfits(show, key, look, modes), *_out_of_reach(show, key, look)]


def _misfits(show: Show, key: str, look: Look, modes: _Modes) -> list[Finding]:
    """Values that what is there now cannot show: its type or mode is another one since."""
    bad = _misfits_memo(look.values, modes)
    if not bad:
        return []
    ids = sorted(bad)
    names = ", ".join(sorted({name for names in bad.values() for name in names})[:NAMED])
    text = f"{at_start(look)}: {listed(show, ids, 'fixture')} cannot show what it says ({names}). Keep it again."
    return [Finding("looks", (key, *ids), text, code="look_misfits")]


_NEUTRAL = np.array([feature.neutral for feature in FEATURES])
ROOM_RAD = 1e-3
"""What is beyond the end by no more is at the end."""


@dataclass(frozen=True, eq=False)
class _Modes:
    """The kinds of the fixtures, by fixture as a number; and of each kind which features it has, and how far it turns:
    able (kinds, COUNT), low and high (kinds, COUNT), infinite where there is no end."""

    kind_of: dict[str, int]
    able: NDArray[np.bool_]
    low: Floats
    high: Floats


def _made_modes(types: Mapping[str, FixtureType], *fixtures: Item) -> _Modes:
    numbers: dict[tuple[str, str], int] = {}
    kind_of: dict[str, int] = {}
    for item in fixtures:
        body = item.body
        if isinstance(body, Fixture) and body.type in types:
            kind_of[item.id] = numbers.setdefault((body.type, body.mode), len(numbers))
    able = np.zeros((len(numbers), COUNT), dtype=bool)
    low, high = np.full((len(numbers), COUNT), -np.inf), np.full((len(numbers), COUNT), np.inf)
    for (kind, mode), number in numbers.items():
        able[number, [INDEX[name] for name in driven(types[kind], mode)]] = True
        for name, (least, most) in _limits(types[kind], mode).items():
            low[number, INDEX[name]], high[number, INDEX[name]] = least - ROOM_RAD, most + ROOM_RAD
    return _Modes(kind_of, able, low, high)


_made_memo: Memo[_Modes] = Memo(_made_modes, 4)


def _modes_of(show: Show) -> _Modes:
    return _made_memo(show.types, *show.of_kind("fixture"))


def _misfits_of(said: Said, modes: _Modes) -> dict[str, list[str]]:
    """By fixture, the features that it cannot show as they are said."""
    table = said.table
    if not len(modes.able):
        # The files of all types are lost: what they could show is not known.
        return {}
    names, places = fixtures_of(table.keys)
    kinds = np.array([modes.kind_of.get(name, -1) for name in names], dtype=np.int64)[places]
    known = kinds >= 0
    columns, values = table.features, table.values
    with np.errstate(invalid="ignore"):
        wrong = (np.abs(values - _NEUTRAL[columns]) > SAME) & ~modes.able[kinds][:, columns]
        wrong |= (values < modes.low[kinds][:, columns]) | (values > modes.high[kinds][:, columns])
    found: dict[str, list[str]] = {}
    for row, column in zip(*np.nonzero(wrong & known[:, None]), strict=True):
        found.setdefault(names[places[row]], []).append(FEATURES[columns[column]].name)
    return found


_misfits_memo: Memo[dict[str, list[str]]] = Memo(_misfits_of, 1000)


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
    return [Finding("looks", (key, *short), text, wrong=True, code="look_out_of_reach")]


def _doubles(looks: list[tuple[str, Look]]) -> list[Finding]:
    """Numbers that several looks have: whoever asks for one of them by number gets the first."""
    of: dict[float, list[str]] = {}
    for key, look in looks:
        of.setdefault(look.number, []).append(key)
    several = {number_text(number): tuple(keys) for number, keys in of.items() if len(keys) > 1}
    return [
        Finding(
            "looks",
            keys,
            f"Number {number} is given to {len(keys)} looks: renumber all but one.",
            wrong=True,
            code="look_number_twice",
        )
        for number, keys in several.items()
    ]


def _twins(show: Show, looks: list[tuple[str, Look]]) -> list[Finding]:
    seen: dict[object, tuple[str, Look]] = {}
    found = []
    for key, look in looks:
        # What is packed alike is alike; carriers and air are as much of a look as its light.
        said = resolved(show, key) if look.parts or look.links else look.values
        same = (said.text, tuple(sorted(look.carriers.items())), look.haze_per_m, look.house_light_lx)
        if same in seen:
            first, other = seen[same]
            text = f"{at_start(look)}, is the same as {called(other)}: remove one, or keep it anew."
            found.append(Finding("looks", (first, key), text, code="looks_alike"))
        seen.setdefault(same, (key, look))
    return found


def _orders(show: Show, looks: list[tuple[str, Look]]) -> list[Finding]:
    """Orders without a step, and looks that an order goes past."""
    found = []
    for item, order in show.bodies(Order):
        if not order.steps:
            text = f"{order.name} is empty: put looks into it, or remove it."
            found.append(
                Finding(
                    "looks",
                    (item.id,),
                    text,
                    repair=Repair("Remove it", "remove", {"ids": [item.id]}),
                    code="order_empty",
                )
            )
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
            found.append(Finding("looks", (item.id, *(key for key, _ in skipped)), text, code="order_skips"))
    return found
