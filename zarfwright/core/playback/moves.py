"""A running order step by step: when each comes, real heads and all, and what is to be said of heads that are seen to
travel, with what would mend it."""

from __future__ import annotations

from dataclasses import dataclass

from zarfwright.core.findings import Finding, Repair
from zarfwright.core.looks.look import Look, called
from zarfwright.core.looks.sorts import Sort
from zarfwright.core.memo import Memo
from zarfwright.core.playback.of_show import score_of
from zarfwright.core.playback.order import Order, Step
from zarfwright.core.playback.score import Score
from zarfwright.core.playback.there import Seen, dark_before, seen_moving
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show, listed

PLAYED_BY = {"look", "order", "palette", "focus point", "fixture", "carrier", "truss", "type", "figure"}
"""The kinds whose changes may change how a running order goes."""


@dataclass(frozen=True)
class MoveSeen:
    """Heads that are seen to travel: how, for how many seconds, in a sentence, and what mends it."""

    trouble: str
    fixtures: tuple[str, ...]
    seconds: float
    text: str
    repairs: tuple[Repair, ...]


@dataclass(frozen=True)
class StepTimes:
    """When a step begins, when its look is to have come, when it really has, and when the next begins; seconds."""

    key: str
    starts_s: float
    comes_s: float
    over_s: float
    ends_s: float
    seen: tuple[MoveSeen, ...]


def step_times(show: Show, order_id: str) -> list[StepTimes]:
    """Of each step of a running order whose look is still there."""
    score = score_of(show, show.body(order_id, Order))
    return [_times(show, order_id, score, i) for i in range(len(score.steps))]


def _times(show: Show, order: str, score: Score, i: int) -> StepTimes:
    step, starts = score.steps[i], float(score.starts[i])
    found = tuple(_move(show, order, score, i, one) for one in seen_moving(score, i))
    return StepTimes(
        step.key, starts, starts + step.comes_s, starts + score.leg(i).over_s, float(score.starts[i + 1]), found
    )


def _move(show: Show, order: str, score: Score, i: int, seen: Seen) -> MoveSeen:
    ahead = dark_before(score, i, seen.fixtures) if seen.trouble == "lit on the way" else ()
    repairs = _repairs(order, score.steps[i], seen, ahead)
    return MoveSeen(seen.trouble, seen.fixtures, seen.seconds, _text(show, seen), repairs)


def _text(show: Show, seen: Seen) -> str:
    one = len(seen.fixtures) == 1
    if seen.trouble == "still on its way":
        whom = " and ".join(dict.fromkeys(_moved_by(show, key) for key in seen.fixtures[:3]))
        when = "when the next step begins"
        return f"{whom} {'is' if one else 'are'} still on the way {when}: {seen.seconds:.1f} s are missing."
    whom = listed(show, seen.fixtures).capitalize() if one else f"{len(seen.fixtures)} heads"
    if seen.trouble == "lit on the way":
        return f"{whom} {'is' if one else 'are'} lit while still on the way: {seen.seconds:.1f} s are missing."
    if seen.trouble == "late":
        return f"{whom} {'comes' if one else 'come'} {seen.seconds:.1f} s late: {seen.needs_s:.1f} s are needed."
    if seen.trouble == "moves while going out":
        return f"{whom} {'turns' if one else 'turn'} away while going out, in sight for {seen.seconds:.1f} s."
    return f"{whom} {'moves' if one else 'move'} in the light for {seen.seconds:.1f} s."


def _moved_by(show: Show, driver: str) -> str:
    """What a driver moves, by name."""
    drives = show.body(driver, Fixture).drives
    moved = show.items.get(drives.thing) if drives is not None else None
    return (moved or show.items[driver]).name


def _repairs(order: str, step: Step, seen: Seen, ahead: tuple[str, ...]) -> tuple[Repair, ...]:
    """What mends it at once, the best first."""
    key = {"id": order, "steps": [step.key]}

    def timed(label: str, sort: Sort, delay: float, fade: float) -> Repair:
        return Repair(label, "set step", {**key, "sort": sort, "delay": f"{delay:.2f}", "fade_in": f"{fade:.2f}"})

    delay, fade = step.time_of("position")
    if seen.trouble == "still on its way":
        longer = max(step.hold_s, 0.0) + seen.seconds
        return (Repair(f"Hold it {seen.seconds:.1f} s longer", "set step", {**key, "hold": f"{longer:.2f}"}),)
    if seen.trouble == "lit on the way":
        heads = "1 head" if len(ahead) == 1 else f"{len(ahead)} heads"
        before = Repair(f"Move {heads} in the dark before", "go ahead", {**key, "fixtures": list(ahead)})
        light, rises = step.time_of("intensity")
        later = timed(f"Light it {seen.seconds:.1f} s later", "intensity", light + seen.seconds, rises)
        return (before, later) if ahead else (later,)
    if seen.trouble == "late":
        needs = max(seen.needs_s - delay, fade)
        return (timed(f"Give them {needs:.1f} s", "position", delay, needs),)
    meant = Repair("It is meant to be seen", "set step", {**key, "moves_meant": True})
    if seen.trouble == "moves while going out":
        return timed("Move them once they are dark", "position", seen.needs_s, fade), meant
    return (meant,)


def _found(show: Show) -> list[Finding]:
    found = []
    for item, order in show.bodies(Order):
        places = {step.key: (i, step.look) for i, step in enumerate(order.steps, 1)}
        for times in step_times(show, item.id):
            place, look = places[times.key]
            for move in times.seen:
                text = f"{order.name}, step {place}, {called(show.body(look, Look))}: {move.text}"
                late = move.trouble in ("late", "lit on the way", "still on its way")
                found.append(
                    Finding("looks", (item.id, *move.fixtures), text, late, move.repairs[0], code="move_too_slow")
                )
    return found


_found_memo: Memo[list[Finding]] = Memo(lambda types, *items: _found(Show({item.id: item for item in items}, types)), 4)


def move_findings(show: Show) -> list[Finding]:
    """The heads of all running orders that are seen to travel, or come late."""
    if not show.of_kind("order"):
        return []
    return _found_memo(show.types, *(item for item in show.items.values() if item.kind in PLAYED_BY))
