"""What a person can press on the console, and what it says when something cannot be done."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from zarfwright.standins.console.cues import Cue
from zarfwright.standins.console.desk import Desk
from zarfwright.standins.console.hookup import RigError, read_hookup
from zarfwright.standins.console.output import Universes
from zarfwright.standins.console.playback import Drill

Command = Mapping[str, Any]


def _share(value: Any) -> float:
    return min(max(float(value), 0.0), 1.0)


def _rig(desk: Desk, command: Command) -> None:
    desk.take_patch(read_hookup(command["csv"].encode()))
    desk.types, desk.files, desk.others = {}, {}, {}
    desk.make_cues()


def _play(desk: Desk, _: Command) -> None:
    if not desk.playback.cues:
        raise RigError("The console has no cues yet: keep some, or have it make a list.")
    desk.playback.playing = True
    if desk.playback.cue is None:
        desk.playback.go()


def _stop(desk: Desk, _: Command) -> None:
    desk.playback.playing = False


def _next(desk: Desk, command: Command) -> None:
    number = command.get("number")
    if not desk.playback.go(None if number is None else float(number)):
        called = "cues yet: keep some, or have it make a list" if number is None else f"cue {number}"
        raise RigError(f"The console has no {called}.")


def _master(desk: Desk, command: Command) -> None:
    name = command.get("name")
    if not name:
        desk.playback.grand = _share(command["level"])
        return
    found = next((one for one in desk.playback.masters if one.name == name), None)
    if found is None:
        raise RigError(f"The console has no sub-master “{name}”.")
    found.level = _share(command["level"])


def _keep_master(desk: Desk, command: Command) -> None:
    name = str(command["name"])
    keys = desk.groups.get(name) or desk.selected
    if not keys:
        raise RigError("Select fixtures for the sub-master, or name a group.")
    desk.keep_master(name, keys)


def _level(desk: Desk, command: Command) -> None:
    level = command.get("level")
    desk.set_level(desk.fixture(int(command["number"])), None if level is None else _share(level))


def _value(desk: Desk, command: Command) -> None:
    desk.set_value(desk.fixture(int(command["number"])), str(command["function"]), float(command["value"]))


def _select(desk: Desk, command: Command) -> None:
    if (group := command.get("name")) in desk.groups:
        desk.selected = list(desk.groups[str(group)])
    else:
        desk.selected = [desk.fixture(int(number)).key for number in command.get("numbers") or ()]


def _keep_group(desk: Desk, command: Command) -> None:
    if not desk.selected:
        raise RigError("Select fixtures for the group first.")
    desk.groups[str(command["name"])[:60]] = list(desk.selected)


def _clear(desk: Desk, _: Command) -> None:
    desk.playback.hands.clear()


def _keep_cue(desk: Desk, command: Command) -> None:
    number = float(command.get("number") or max((one.number for one in desk.playback.cues), default=0) + 1)
    follow = command.get("follow_s")
    made = Cue(
        number, str(command.get("name") or f"Cue {number:g}")[:80], max(float(command.get("fade_s") or 0.0), 0.0),
        max(float(command.get("delay_s") or 0.0), 0.0), None if follow is None else max(float(follow), 0.0),
    )  # fmt: skip
    desk.keep_cue(made, take=True)


def _set_cue(desk: Desk, command: Command) -> None:
    found = desk.cue(float(command["number"]))
    fade, delay = (max(float(command.get(name) or 0.0), 0.0) for name in ("fade_s", "delay_s"))
    follow = command.get("follow_s")
    follow = None if follow is None else max(float(follow), 0.0)
    desk.keep_cue(replace(found, fade_s=fade, delay_s=delay, follow_s=follow), take=False)


def _remove_cue(desk: Desk, command: Command) -> None:
    found = desk.cue(float(command["number"]))
    desk.playback.cues.remove(found)


def _drill(desk: Desk, command: Command) -> None:
    """Sweep or identify, in so many seconds; nothing ends both."""
    seconds = {name: max(float(command[name]), 0.05) for name in ("sweep_s", "identify_s") if command.get(name)}
    desk.playback.drill = Drill(**seconds, since=desk.playback.now)


def _send(desk: Desk, command: Command) -> None:
    sent = desk.sent
    try:
        if command.get("sacn") is not None:
            sent = replace(sent, sacn=Universes(str(command["sacn"])))
        if command.get("artnet") is not None:
            sent = replace(sent, artnet=Universes(str(command["artnet"])))
    except ValueError as wrong:
        raise RigError(str(wrong)) from wrong
    priority = command.get("priority")
    if priority is not None:
        sent = replace(sent, priority=min(max(int(priority), 0), 200))
    if command.get("name"):
        sent = replace(sent, name=str(command["name"])[:60])
    desk.sent = sent


def _fault(desk: Desk, command: Command) -> None:
    faults = desk.faults
    if command.get("universe") is not None:
        faults = replace(faults, universe=int(command["universe"]))
    if command.get("drop") is not None:
        faults = replace(faults, drop=_share(command["drop"]))
    for name in ("preview", "dead"):
        if command.get(name) is not None:
            faults = replace(faults, **{name: bool(command[name])})
    desk.faults = faults
    if command.get("shift") is not None:
        desk.set_shift(int(command["shift"]))
    if command.get("silent") is not None:
        desk.playback.silent = frozenset(desk.fixture(int(number)).key for number in command["silent"])
    if command.get("unknown") is not None:
        desk.rules = replace(desk.rules, unknown=tuple(str(one) for one in command["unknown"]))
    if command.get("mode") is not None:
        desk.set_mode(str(command["name"]), str(command["mode"]))


def _keep_palette(desk: Desk, command: Command) -> None:
    desk.keep_palette(str(command["kind"]), str(command.get("name") or ""))


def _apply_palette(desk: Desk, command: Command) -> None:
    desk.apply_palette(int(command["number"]))


COMMANDS: Mapping[str, Callable[[Desk, Command], None]] = {
    "rig": _rig,
    "play": _play,
    "stop": _stop,
    "next": _next,
    "make cues": lambda desk, _: desk.make_cues(),
    "keep cue": _keep_cue,
    "set cue": _set_cue,
    "remove cue": _remove_cue,
    "master": _master,
    "keep master": _keep_master,
    "level": _level,
    "value": _value,
    "clear": _clear,
    "select": _select,
    "keep group": _keep_group,
    "keep palette": _keep_palette,
    "apply palette": _apply_palette,
    "drill": _drill,
    "send": _send,
    "fault": _fault,
}


def obey(desk: Desk, command: Command) -> str | None:
    """Do one command; returns what is wrong with it, or None."""
    done = COMMANDS.get(str(command.get("do")))
    if done is None:
        return f"The console does not know “{command.get('do')}”."
    try:
        done(desk, command)
    except RigError as wrong:
        return str(wrong)
    except (ValueError, KeyError, TypeError) as wrong:
        return f"The console could not do that: {wrong}."
    return None
