"""Edits of running orders: which looks, in which order, in which times; and which order is played."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from zarfwright.core.edits.base import Arguments, Edit, NewId, added, changed, free_name, made, within
from zarfwright.core.errors import JobError
from zarfwright.core.looks.look import Look, called
from zarfwright.core.looks.shown import in_order
from zarfwright.core.looks.sorts import Sort
from zarfwright.core.playback.order import LONGEST_S, Order, Step, starts_of
from zarfwright.core.show import SHOW_ID, Item, Show
from zarfwright.core.units import parse_seconds


class AddOrder(Arguments):
    """Make a running order of looks, in the order in which they are named; of none: of all, by their numbers. `like`:
    a copy of that order, with its times."""

    name: str = ""
    looks: list[str] = []
    like: str | None = None


def add_order(show: Show, args: AddOrder, new_id: NewId) -> Edit:
    name = free_name(show, "order", args.name, "Running order")
    if args.like is not None:
        order = replace(show.body(args.like, Order), name=name)
    else:
        looks = args.looks or [key for key, look in in_order(show) if look.whole]
        order = Order(name, tuple(_new_step(show, look, new_id) for look in looks))
    item = added(show, "order", [order], new_id)[0]
    return Edit((made(item),), f"Make the running order {name}", (item.id,))


def _new_step(show: Show, look: str, new_id: NewId) -> Step:
    show.item(look, "look")
    return Step(new_id(), look)


class AddSteps(Arguments):
    """Put looks into a running order, before the step `before`, else at its end. They come as the step before them."""

    id: str
    looks: list[str]
    before: str | None = None


def add_steps(show: Show, args: AddSteps, new_id: NewId) -> Edit:
    item, order = show.thing(args.id, Order)
    if not args.looks:
        raise JobError("Nothing is selected: select looks first.", "looks")
    place = len(order.steps) if args.before is None else _place(order, args.before)
    like = order.steps[place - 1] if place else None
    new = []
    for look in args.looks:
        step = _new_step(show, look, new_id)
        new.append(step if like is None else replace(
            step, fade_in_s=like.fade_in_s, fade_out_s=like.fade_out_s, hold_s=like.hold_s, follows=like.follows,
        ))  # fmt: skip
    steps = (*order.steps[:place], *new, *order.steps[place:])
    what = called(show.body(args.looks[0], Look)) if len(new) == 1 else f"{len(new)} looks"
    return Edit((changed(item, replace(order, steps=steps)),), f"Put {what} into {order.name}", (item.id,))


def _place(order: Order, key: str) -> int:
    """Where a step is. Raises JobError where it is not there."""
    place = next((i for i, step in enumerate(order.steps) if step.key == key), None)
    if place is None:
        raise JobError(f"That step is no longer in {order.name}: somebody removed it. Select again.")
    return place


def _name(show: Show, step: Step) -> str:
    item = show.items.get(step.look)
    return called(item.body) if item is not None and isinstance(item.body, Look) else "a look that is gone"


class OfSteps(Arguments):
    """Some steps of a running order."""

    id: str
    steps: list[str]


def _each(show: Show, args: OfSteps, change: Callable[[Step, int], Step], said: str) -> Edit:
    item, order = show.thing(args.id, Order)
    places = [_place(order, key) for key in args.steps]
    if not places:
        raise JobError("Nothing is selected: select steps first.", "steps")
    steps = list(order.steps)
    for place in places:
        steps[place] = change(steps[place], place)
    after = replace(order, steps=tuple(steps))
    changes = (changed(item, after),) if after != order else ()
    whom = _name(show, steps[places[0]]) if len(places) == 1 else f"{len(places)} steps"
    return Edit(changes, f"{said} {whom} in {order.name}", (item.id,))


class SetStep(OfSteps):
    """Set times of steps: typed seconds (`+1` adds, empty takes away what may be nothing), or whether the next follows
    by itself. With `sort`, delay and fade_in are those of that sort alone; both empty: as the step."""

    fade_in: str | None = None
    fade_out: str | None = None
    delay: str | None = None
    hold: str | None = None
    follows: bool | None = None
    moves_meant: bool | None = None
    sort: Sort | None = None
    look: str | None = None
    note: str | None = None


def _seconds(text: str, field: str, before: float, least: float = 0.0) -> float:
    """Seconds as they are typed, over what there is. Raises JobError naming the field."""
    plain = text.strip()
    relative = plain[:1] == "+" or (plain[:1] == "-" and least == 0.0)
    try:
        value = parse_seconds(plain.lstrip("+-") if relative or plain[:1] == "-" else plain)
    except JobError as wrong:
        raise JobError(str(wrong), field) from wrong
    value = -value if plain[:1] == "-" else value
    return round(within(before + value if relative else value, field, least, LONGEST_S), 3)


def _set_sort(step: Step, args: SetStep, sort: Sort) -> Step:
    others = {one: kept for one, kept in step.times.items() if one != sort}
    if args.delay == "" or args.fade_in == "":
        return replace(step, times=others)
    delay, fade = step.time_of(sort)
    delay = delay if args.delay is None else _seconds(args.delay, "delay", delay)
    fade = fade if args.fade_in is None else _seconds(args.fade_in, "fade_in", fade)
    return replace(step, times={**others, sort: (delay, fade)})


def _set(show: Show, step: Step, args: SetStep) -> Step:
    if args.sort is not None:
        return _set_sort(step, args, args.sort)
    if args.fade_in is not None:
        step = replace(step, fade_in_s=_seconds(args.fade_in, "fade_in", step.fade_in_s))
    if args.fade_out is not None:
        out = step.fade_in_s if step.fade_out_s is None else step.fade_out_s
        step = replace(step, fade_out_s=_seconds(args.fade_out, "fade_out", out) if args.fade_out.strip() else None)
    if args.delay is not None:
        step = replace(step, delay_s=_seconds(args.delay or "0", "delay", step.delay_s))
    if args.hold is not None:
        step = replace(step, hold_s=_seconds(args.hold or "0", "hold", step.hold_s, -step.comes_s))
    step = replace(step, hold_s=max(step.hold_s, -step.comes_s))
    for name in ("follows", "moves_meant", "note"):
        if getattr(args, name) is not None:
            step = replace(step, **{name: getattr(args, name)})
    if args.look is not None:
        show.item(args.look, "look")
        step = replace(step, look=args.look)
    return step


def set_step(show: Show, args: SetStep, _: NewId) -> Edit:
    return _each(show, args, lambda step, _place: _set(show, step, args), "Set the times of")


class StretchOrder(Arguments):
    """Let a running order take so long in all, in seconds as typed: all of its times longer or shorter alike."""

    id: str
    total: str


def stretch(show: Show, args: StretchOrder, _: NewId) -> Edit:
    item, order = show.thing(args.id, Order)
    now = float(starts_of(order.steps)[-1])
    wanted = _seconds(args.total, "total", now, 0.1)
    if now <= 0:
        raise JobError(f"{order.name} takes no time: give its steps times first.")
    by = wanted / now

    def longer(step: Step) -> Step:
        times = {sort: (round(delay * by, 3), round(fade * by, 3)) for sort, (delay, fade) in step.times.items()}
        out = None if step.fade_out_s is None else round(step.fade_out_s * by, 3)
        return replace(step, fade_in_s=round(step.fade_in_s * by, 3), fade_out_s=out, times=times,
                       delay_s=round(step.delay_s * by, 3), hold_s=round(step.hold_s * by, 3))  # fmt: skip

    after = replace(order, steps=tuple(map(longer, order.steps)))
    return Edit((changed(item, after),), f"Let {order.name} take {wanted:g} s", (item.id,))


class MoveSteps(OfSteps):
    """Put steps before another (`before`), else at the end."""

    before: str | None = None


def move_steps(show: Show, args: MoveSteps, _: NewId) -> Edit:
    item, order = show.thing(args.id, Order)
    for key in (*args.steps, *([args.before] if args.before else ())):
        _place(order, key)
    going = [step for step in order.steps if step.key in args.steps]
    if not going:
        raise JobError("Nothing is selected: select steps first.", "steps")
    left = [step for step in order.steps if step.key not in args.steps]
    place = next((i for i, step in enumerate(left) if step.key == args.before), len(left))
    steps = (*left[:place], *going, *left[place:])
    changes = (changed(item, replace(order, steps=steps)),) if steps != order.steps else ()
    what = _name(show, going[0]) if len(going) == 1 else f"{len(going)} steps"
    return Edit(changes, f"Move {what} in {order.name}", (item.id,))


class RemoveSteps(OfSteps):
    """Take steps out of a running order; their looks stay."""


def remove_steps(show: Show, args: RemoveSteps, _: NewId) -> Edit:
    item, order = show.thing(args.id, Order)
    going = [order.steps[_place(order, key)] for key in args.steps]
    if not going:
        raise JobError("Nothing is selected: select steps first.", "steps")
    steps = tuple(step for step in order.steps if step not in going)
    what = _name(show, going[0]) if len(going) == 1 else f"{len(going)} steps"
    return Edit((changed(item, replace(order, steps=steps)),), f"Take {what} out of {order.name}", (item.id,))


class GoAhead(OfSteps):
    """Let heads go to their places of a step before it begins, as soon as they are dark; with `off`, no longer."""

    fixtures: list[str]
    off: bool = False


def go_ahead(show: Show, args: GoAhead, _: NewId) -> Edit:
    for fixture in args.fixtures:
        show.item(fixture, "fixture")
    if not args.fixtures:
        raise JobError("Nothing is selected: select heads first.", "fixtures")

    def change(step: Step, _place: int) -> Step:
        kept = [one for one in step.ahead if one not in args.fixtures]
        return replace(step, ahead=tuple(kept if args.off else [*kept, *args.fixtures]))

    count = f"{len(args.fixtures)} heads" if len(args.fixtures) != 1 else show.items[args.fixtures[0]].name
    said = f"Let {count} go to their places only in" if args.off else f"Move {count} in the dark before"
    return _each(show, args, change, said)


class PlayOrder(Arguments):
    """Let a running order drive the picture, over the console, so that it can be seen. None: no longer."""

    id: str | None


def play_order(show: Show, args: PlayOrder, _: NewId) -> Edit:
    item = show.item(SHOW_ID)
    if args.id is None:
        return Edit((changed(item, replace(show.settings, running=None, look_first=False)),), "Play no running order")
    order = show.body(args.id, Order)
    if not order.steps:
        raise JobError(f"{order.name} is empty: put looks into it first.")
    settings = replace(show.settings, running=args.id, playing=None, look_first=True)
    return Edit((changed(item, settings),), f"Play {order.name}", (args.id,))


class SetSound(Arguments):
    """Lay a sound file that is among the assets under a running order, and say when it begins: typed seconds, negative
    where its start is left out. An empty asset takes it away."""

    id: str
    asset: str | None = None
    name: str = ""
    starts: str | None = None


def set_sound(show: Show, args: SetSound, _: NewId) -> Edit:
    item, order = show.thing(args.id, Order)
    after = order
    if args.asset is not None:
        after = replace(order, sound=args.asset or None, sound_name=args.name.strip(), sound_from_s=0.0)
    if args.starts is not None:
        starts = _seconds(args.starts or "0", "starts", order.sound_from_s, -LONGEST_S)
        after = replace(after, sound_from_s=starts)
    if after == order:
        raise JobError("That is under it already.")
    what = f"{after.sound_name} under" if after.sound else "no sound under"
    return Edit((changed(item, after),), f"Lay {what} {order.name}", (item.id,))


class MarkOrder(Arguments):
    """Set the markers of a running order: times in seconds and what they are called."""

    id: str
    markers: list[tuple[float, str]]


def mark_order(show: Show, args: MarkOrder, _: NewId) -> Edit:
    item, order = show.thing(args.id, Order)
    for at, _name in args.markers:
        within(at, "markers", 0.0, 24 * LONGEST_S)
    kept = sorted({round(at, 3): name.strip()[:200] for at, name in args.markers}.items())
    after = replace(order, markers=tuple(kept))
    return Edit((changed(item, after),), f"Mark {len(kept)} times in {order.name}", (item.id,))


def without_looks(show: Show, going: set[str]) -> list[tuple[Item, Order]]:
    """The running orders as they are when some looks are gone."""
    found = []
    for item, order in show.bodies(Order):
        steps = tuple(step for step in order.steps if step.look not in going)
        if steps != order.steps and item.id not in going:
            found.append((item, replace(order, steps=steps)))
    return found
