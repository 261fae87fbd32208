"""Edits of consoles that rigs and values go to, and of where they are looked for."""

from __future__ import annotations

import ipaddress
from dataclasses import replace
from typing import Any

from zarfwright.core.edits.base import Arguments, Edit, LongText, NewId, added, changed, free_name, made
from zarfwright.core.errors import JobError
from zarfwright.core.linking.checks import LineCheck
from zarfwright.core.linking.consoles import PORT_LAST, Console
from zarfwright.core.show import SHOW_ID, Show
from zarfwright.core.units import parse_count


def _host(text: str) -> str:
    try:
        return str(ipaddress.IPv4Address(text.strip()))
    except ValueError as wrong:
        raise JobError(f"“{text.strip()}” is no IPv4 address: type for instance 10.0.0.5.", "host") from wrong


def _port(text: str, field: str) -> int:
    """A port as typed; nothing: none. Raises JobError."""
    if not text.strip() or text.strip() == "0":
        return 0
    try:
        return parse_count(text, 1, PORT_LAST)
    except JobError as wrong:
        raise JobError(f"“{text.strip()}” is no port: type 1 to {PORT_LAST}.", field) from wrong


def _free(show: Show, name: str, besides: str = "") -> str:
    taken = {item.name.casefold() for item in show.of_kind("console") if item.id != besides}
    if name.casefold() in taken:
        raise JobError(f"There is a console {name} already: give it another name.", "name")
    return name


class LinkConsole(Arguments):
    """Keep a console with the show, and link to it: at an address, or as it was found by name (`station`)."""

    name: str = ""
    host: str = "127.0.0.1"
    port: str = ""
    station: str = ""
    values_port: str = ""


def link_console(show: Show, args: LinkConsole, new_id: NewId) -> Edit:
    name = _free(show, free_name(show, "console", args.name, "Console"))
    port, values = _port(args.port, "port"), _port(args.values_port, "values_port")
    body = Console(name, _host(args.host), port, args.station, values)
    item = added(show, "console", [body], new_id)[0]
    return Edit((made(item),), f"Link {name}", (item.id,))


class SetConsole(Arguments):
    """Change a console; what is left out stays. Another address or port: it is not the station any more that it was."""

    id: str
    name: str | None = None
    host: str | None = None
    port: str | None = None
    station: str | None = None
    values_port: str | None = None
    hand_over: bool | None = None
    outline: bool | None = None


def set_console(show: Show, args: SetConsole, _: NewId) -> Edit:
    item, before = show.thing(args.id, Console)
    given: dict[str, Any] = args.model_dump(exclude_none=True, exclude={"id"})
    if args.name is not None:
        given["name"] = _free(show, args.name.strip(), item.id)
        if not given["name"]:
            raise JobError("A console needs a name: type at least one letter.", "name")
    if args.host is not None:
        given["host"] = _host(args.host)
    for field in ("port", "values_port"):
        if field in given:
            given[field] = _port(given[field], field)
    if args.station is None and {"host", "port"} & given.keys():
        given["station"] = ""
    after = replace(before, **given)
    if after == before:
        raise JobError(f"{before.name} is so already.")
    if args.hand_over is not None:
        said = f"Hand values over to {after.name}" if args.hand_over else f"Hand no values over to {after.name}"
    else:
        said = f"Change the console {after.name}"
    return Edit((changed(item, after),), said, (item.id,))


class KeepCheck(Arguments):
    """Keep how the line was checked: `checked` are the fixtures that were looked at, `failed` says of those that did
    not answer what and why. Who failed before and was not looked at now stays."""

    checked: list[str]
    failed: dict[str, LongText] = {}


def keep_check(show: Show, args: KeepCheck, new_id: NewId) -> Edit:
    checked = {key for key in args.checked if key in show.items}
    if not checked:
        raise JobError("No fixture of this show was checked: begin the check first.")
    there = next(iter(show.bodies(LineCheck)), None)
    before = there[1] if there is not None else LineCheck()
    stay = {key: why for key, why in before.failed.items() if key not in checked and key in show.items}
    failed = {**stay, **{key: why for key, why in args.failed.items() if key in checked}}
    after = replace(before, checked=len(checked), failed=failed)
    said = f"Check the line: {len(checked) - len(args.failed)} of {len(checked)} answered"
    if there is not None:
        return Edit((changed(there[0], after),), said)
    return Edit((made(added(show, "line check", [after], new_id)[0]),), said)


class LookForConsoles(Arguments):
    """Where consoles are looked for by name, and may link to this program: the address of one of its interfaces;
    none: nowhere but on this machine, and not by name."""

    address: str | None


def look_for_consoles(show: Show, args: LookForConsoles, _: NewId) -> Edit:
    address = _host(args.address) if args.address else None
    if address == show.settings.consoles_on:
        raise JobError("It is so already.")
    after = replace(show.settings, consoles_on=address)
    said = f"Look for consoles on {address}" if address else "Look for no consoles"
    return Edit((changed(show.items[SHOW_ID], after),), said)
