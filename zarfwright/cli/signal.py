"""`listen` and `doctor`: what arrives at this machine, and why nothing moves, without a browser."""

from __future__ import annotations

import argparse
import ipaddress
import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np

from zarfwright.core.connections import PROTOCOLS, Connection, Protocol
from zarfwright.core.doctor.diagnosis import diagnose
from zarfwright.core.doctor.facts import Facts
from zarfwright.core.patch import patch_rows
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.hearing import PORTS, Hearing, Named
from zarfwright.links.live.playing import live_rig
from zarfwright.links.live.record import Recorder
from zarfwright.links.sources import Source
from zarfwright.web.desk import Desk

HOME = "127.0.0.1"
LOW_LAST = 256
"""Universes whose multicast groups are joined where no show says which are wanted."""
Place = tuple[str, int]


def ears(protocol: str) -> Any:
    """A reader of `ADDRESS[:PORT]`. Raises ArgumentTypeError."""

    def read(text: str) -> Place:
        address, _, port = text.partition(":")
        try:
            number = int(port) if port else PORTS[protocol]
            ipaddress.IPv4Address(address)
        except ValueError:
            number = 0
        if not 1 <= number <= 65535:
            raise argparse.ArgumentTypeError(f"“{text}” is no address: type for instance 127.0.0.1 or 10.0.0.5:5568.")
        return address, number

    return read


def stretch(text: str) -> float:
    """Read seconds of listening. Raises ArgumentTypeError."""
    try:
        seconds = float(text)
    except ValueError:
        seconds = 0.0
    if not 0.1 <= seconds <= 3600:
        raise argparse.ArgumentTypeError(f"“{text}” are no seconds: type 0.1 to 3600.")
    return seconds


@contextmanager
def hearing_of(
    connections: list[Named], args: argparse.Namespace, started: tuple[Protocol, ...], show: Show | None = None
) -> Iterator[tuple[Engine, Hearing]]:
    """Listen, as long as it is held."""
    engine = Engine()
    if show is not None:
        engine.set_rig(live_rig(1, patch_rows(show)))
    sacn, artnet = args.sacn or (HOME, PORTS["sACN"]), args.artnet or (HOME, PORTS["Art-Net"])
    places = {"sACN": sacn, "Art-Net": artnet if args.artnet else (sacn[0], artnet[1])}
    own = {protocol: place[0] for protocol, place in places.items()}
    hearing = Hearing(engine, own, {protocol: place[1] for protocol, place in places.items()}, started)
    if show is not None:
        hearing.listen_around(True)
    hearing.set(connections, show.settings.only_connection if show is not None else None)
    hearing.start()
    try:
        yield engine, hearing
    finally:
        hearing.receiver.stop()


def _heard(
    connections: list[Named], args: argparse.Namespace, started: tuple[Protocol, ...], show: Show | None = None
) -> tuple[Engine, Facts]:
    """Listen for so long as is asked."""
    with hearing_of(connections, args, started, show) as (engine, hearing):
        return engine, Recorder(engine, hearing).record(args.seconds)


def _universe(protocol: str, universe: int, sources: list[Source]) -> dict[str, Any]:
    lit = max((int(np.count_nonzero(source.levels)) for source in sources if source.held), default=0)
    told = [
        {
            "name": source.name, "address": source.address, "priority": source.priority,
            "rate_hz": round(source.rate, 1), "preview": source.preview,
        }
        for source in sources
    ]  # fmt: skip
    return {"protocol": protocol, "universe": universe, "lit_slots": lit, "sources": told}


def all_of(args: argparse.Namespace) -> list[Named]:
    """Connections that hear everything, by the protocols that were asked for."""
    protocols: tuple[Protocol, ...] = ("sACN", "Art-Net")
    asked = [p for p, given in zip(protocols, (args.sacn, args.artnet), strict=True) if given] or [*protocols]
    connections: list[Named] = []
    for protocol in asked:
        first, last = PROTOCOLS[protocol]
        given = (args.sacn if protocol == "sACN" else args.artnet) or (HOME, 0)
        low = first + LOW_LAST - 1
        connections += [
            (f"{protocol} low", Connection("low", protocol, "", given[0], first, low, 1)),
            (f"{protocol} high", Connection("high", protocol, "", given[0], low + 1, last, LOW_LAST + 1)),
        ]
    return connections


def listen(args: argparse.Namespace) -> int:
    """Say what arrives at this machine, by any protocol. Exit status 1 when nothing does."""
    engine, facts = _heard(all_of(args), args, ())
    universes = [
        _universe(protocol, universe, sources)
        for (protocol, _), registry in engine.inputs.registries.items()
        for universe, sources in sorted(registry.by_universe.items())
    ]
    if args.json:
        print(json.dumps({"universes": universes, "dropped": facts.dropped}))
    else:
        for one in universes:
            print(f"{one['protocol']} {one['universe']}: {one['lit_slots']} slots lit.")
            for source in one["sources"]:
                preview = ", preview" if source["preview"] else ""
                said = f"priority {source['priority']}, {source['rate_hz']}/s{preview}"
                print(f"  {source['name']} from {source['address']}, {said}")
        for why, count in facts.dropped.items():
            print(f"{count} packets dropped: {why}.")
        if not universes:
            print(f"Nothing arrived in {args.seconds:g} s.")
        for seen in facts.connections:
            if seen.taken:
                print(seen.taken)
    return 0 if universes else 1


def _number(show: Show, key: str) -> int | str:
    body = show.items[key].body
    return body.number if isinstance(body, Fixture) and body.number is not None else key


def doctor(args: argparse.Namespace) -> int:
    """Say why nothing, or the wrong thing, moves. Exit status 1 when something is found."""
    desk = Desk(Path(args.show), look=True)
    try:
        show = desk.show
        connections = [(item.id, item.body) for item in show.of_kind("connection") if isinstance(item.body, Connection)]
        started: tuple[Protocol, ...] = ("sACN", "Art-Net") if args.artnet else ("sACN",)
        _, facts = _heard(connections, args, started, show)
        causes = diagnose(facts, show)
        told = [
            {
                "cause": one.cause, "universe": one.universe, "fixtures": [_number(show, key) for key in one.fixtures],
                "evidence": one.evidence, "action": one.action,
            }
            for one in causes
        ]  # fmt: skip
    finally:
        desk.close()
    if args.json:
        print(json.dumps({"causes": told}))
    else:
        for one in told:
            print(f"{one['cause']}: {one['evidence']}\n  {one['action']}")
        if not told:
            print(f"Nothing wrong was seen in {facts.seconds:g} s.")
    return 1 if told else 0


def add_commands(commands: Any) -> None:
    """The commands, for the parser."""

    def add(name: str, run: Any, seconds: float) -> argparse.ArgumentParser:
        command: argparse.ArgumentParser = commands.add_parser(name, help=run.__doc__.split("\n")[0])
        command.set_defaults(run=run)
        command.add_argument("--seconds", type=stretch, default=seconds, help="how long to listen")
        command.add_argument("--sacn", type=ears("sACN"), metavar="ADDRESS[:PORT]", help="where to hear sACN")
        command.add_argument("--artnet", type=ears("Art-Net"), metavar="ADDRESS[:PORT]", help="where to hear Art-Net")
        command.add_argument("--json", action="store_true")
        return command

    add("listen", listen, 5.0)
    add("doctor", doctor, 10.0).add_argument("show")
