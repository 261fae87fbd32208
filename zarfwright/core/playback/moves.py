"""A running order step by step: when each comes, real heads and all, and what is to be said of heads that are seen to
travel, with what would mend it."""

from __future__ import annotations

from dataclasses import dataclass

from zarfwright.core.findings import Finding, Repair
from zarfwright.core.looks.look import Look, called
from zarfwright.core.memo import Memo
from zarfwright.core.playback.of_show import score_of
from zarfwright.core.playback.order import Order, Step
from zarfwright.core.playback.score import Score
from zarfwright.core.playback.there import Seen, dark_before, seen_moving
from zarfwright.core.show import Show, listed

PLAYED_BY = {"look", "order", "palette", "focus point", "fixture", "carrier", "truss", "type", "figure"}
"""The kinds whose changes may change how a running order goes."""


@dataclass(frozen=True)
class MoveSeen:
    """Heads that are seen to travel: how, for how many seconds, when they are there, and who can go ahead."""

    trouble: str
    fixtures: tuple[str, ...]
    seconds: float
    needs_s: float
    text: str
    ahead: tuple[str, ...]


@dataclass(frozen=True)
class StepTimes:
    """When a step begins, when its look is to have come, when it really has, and when the next begins; seconds."""

    key: str
    starts_s: float
    comes_s: float
    over_s: float
    ends_s: float
    seen: tuple[MoveSeen, ...]


def step_times(show: Show, order: Order) -> list[StepTimes]:
    """Of each step of a running order whose look is still there."""
    score = score_of(show, order)
    return [_times(show, score, i) for i in range(len(score.steps))]


def _times(show: Show, score: Score, i: int) -> StepTimes:
    step, starts = score.steps[i], float(score.starts[i])
    found = tuple(_move(show, score, i, one) for one in seen_moving(score, i))
    return StepTimes(
        step.key, starts, starts + step.comes_s, starts + score.leg(i).over_s, float(score.starts[i + 1]), found
    )


def _move(show: Show, score: Score, i: int, seen: Seen) -> MoveSeen:
    ahead = dark_before(score, i, seen.fixtures) if seen.trouble == "lit on the way" else ()
    return MoveSeen(seen.trouble, seen.fixtures, seen.seconds, seen.needs_s, _text(show, seen), ahead)


def _text(show: Show, seen: Seen) -> str:
    one = len(seen.fixtures) == 1
    whom = listed(show, seen.fixtures).capitalize() if one else f"{len(seen.fixtures)} heads"
    if seen.trouble == "lit on the way":
        return f"{whom} {'is' if one else 'are'} lit while still on the way: {seen.seconds:.1f} s are missing."
    if seen.trouble == "late":
        return f"{whom} {'comes' if one else 'come'} {seen.seconds:.1f} s late: {seen.needs_s:.1f} s are needed."
    if seen.trouble == "moves while going out":
        return f"{whom} {'turns' if one else 'turn'} away while going out, in sight for {seen.seconds:.1f} s."
    return f"{whom} {'moves' if one else 'move'} in the light for {seen.seconds:.1f} s."


def _repair(order_id: str, order: Order, step: Step, move: MoveSeen) -> Repair:
    """What mends it at once."""
    key = {"id": order_id, "steps": [step.key]}
    if move.trouble == "lit on the way":
        if move.ahead:
            return Repair("Move them in the dark before", "go ahead", {**key, "fixtures": list(move.ahead)})
        delay, fade = step.time_of("intensity")
        later = {"sort": "intensity", "delay": f"{delay + move.seconds:.2f}", "fade_in": f"{fade:.2f}"}
        return Repair("Light it later", "set step", {**key, **later})
    delay, fade = step.time_of("position")
    if move.trouble == "late":
        longer = {"sort": "position", "delay": f"{delay:.2f}", "fade_in": f"{max(move.needs_s - delay, fade):.2f}"}
        return Repair("Give them the time", "set step", {**key, **longer})
    if move.trouble == "moves while going out":
        after = {"sort": "position", "delay": f"{move.needs_s:.2f}", "fade_in": f"{fade:.2f}"}
        return Repair("Move them once they are dark", "set step", {**key, **after})
    return Repair("It is meant to be seen", "set step", {**key, "moves_meant": True})


def _found(show: Show) -> list[Finding]:
    found = []
    for item, order in show.bodies(Order):
        steps = {step.key: (i, step) for i, step in enumerate(order.steps)}
        for times in step_times(show, order):
            i, step = steps[times.key]
            look = show.items[step.look].body
            assert isinstance(look, Look)
            for move in times.seen:
                text = f"{order.name}, step {i + 1}, {called(look)}: {move.text}"
                late = move.trouble in ("late", "lit on the way")
                repair = _repair(item.id, order, step, move)
                found.append(Finding("looks", (item.id, *move.fixtures), text, wrong=late, repair=repair))
    return found


_found_memo: Memo[list[Finding]] = Memo(lambda types, *items: _found(Show({item.id: item for item in items}, types)), 4)


def move_findings(show: Show) -> list[Finding]:
    """The heads of all running orders that are seen to travel, or come late."""
    if not show.of_kind("order"):
        return []
    return _found_memo(show.types, *(item for item in show.items.values() if item.kind in PLAYED_BY))
