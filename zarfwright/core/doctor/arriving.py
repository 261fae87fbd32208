"""Causes of nothing, or the wrong thing, arriving: interfaces, ports, universes."""

from __future__ import annotations

from dataclasses import replace

from zarfwright.core.connections import PROTOCOLS, Connection, Interface
from zarfwright.core.doctor.facts import Came, Cause, ConnectionSeen, Facts, SourceSeen, counted, spans
from zarfwright.core.doctor.rig import Patched, universes_of


def _put(seen: ConnectionSeen, wanted: Connection) -> dict[str, object]:
    """The edit that makes a connection so, or adds it where the show has none."""
    before = seen.connection
    args: dict[str, object] = {
        key: value
        for key, value in (("interface", wanted.interface), ("address", wanted.address))
        if seen.id is None or value != getattr(before, key)
    }
    if seen.id is None or (wanted.first, wanted.last) != (before.first, before.last):
        args["universes"] = f"{wanted.first} to {wanted.last}"
    if seen.id is None or wanted.lands != before.lands:
        args["lands"] = str(wanted.lands)
    if seen.id is None:
        return {"edit": "add connection", "args": {"protocol": wanted.protocol, **args}}
    return {"edit": "set connection", "args": {"id": seen.id, **args}}


def port_taken(facts: Facts, _: list[Patched]) -> list[Cause]:
    """The port is held by another program."""
    return [
        Cause("port_taken", seen.taken, "Close the other program, or let this connection listen on another address.")
        for seen in facts.connections
        if seen.taken
    ]


def no_link(facts: Facts, _: list[Patched]) -> list[Cause]:
    """The interface is gone, nothing is plugged in, or it does not take part in all groups."""
    found = []
    for seen in facts.connections:
        if seen.audible and seen.refused:
            evidence = f"{seen.connection.name}: {seen.refused}"
            found.append(Cause("no_link", evidence, "Hear fewer universes on it, or send unicast to this machine."))
            continue
        if not seen.audible or (seen.interface is not None and seen.interface.up):
            continue
        name, near = seen.connection.name, seen.nearest
        evidence = f"{name}: {seen.said}"
        if near is None:
            found.append(Cause("no_link", evidence, "Plug the network in, or choose another interface."))
            continue
        wanted = replace(seen.connection, interface=near.name, address=near.address)
        label = f"Hear {name} on {near.name}"
        found.append(Cause("no_link", evidence, f"Listen on {near.name} ({near.address}).", label=label,
                           **_put(seen, wanted)))  # type: ignore[arg-type]  # fmt: skip
    return found


def _of(came: Came, facts: Facts) -> ConnectionSeen | None:
    """The connection that waits for what came to another address: one of that protocol that hears nothing first."""
    ours = [seen for seen in facts.connections if seen.connection.protocol == came.protocol and seen.audible]
    silent = [seen for seen in ours if not _heard_by(seen, facts)]
    wanting = [seen for seen in silent or ours if any(seen.connection.lands_on(u) is not None for u in came.universes)]
    return next(iter(wanting or silent or ours), None)


def _heard_by(seen: ConnectionSeen, facts: Facts) -> list[int]:
    """The show's universes that a connection hears."""
    if seen.interface is None or not seen.audible:
        return []
    landed = (
        seen.connection.lands_on(source.heard_as)
        for source in facts.sources
        if source.protocol == seen.connection.protocol and source.on == seen.interface.address
    )
    return [universe for universe in landed if universe is not None]


def _spoken(facts: Facts) -> set[str]:
    return {seen.connection.protocol for seen in facts.connections if seen.audible}


def _unspoken(facts: Facts) -> list[Cause]:
    """A protocol arrives that no connection listens to."""
    found = []
    for came in facts.elsewhere:
        if came.protocol in _spoken(facts) or not came.universes:
            continue
        way = next((one for one in facts.interfaces if one.address == came.address), None)
        loop = next((one for one in facts.interfaces if one.loopback), None)
        way = way or (loop if came.address.startswith("127.") else None)
        evidence = (
            f"{came.packets} packets of {came.protocol} {counted([*came.universes])} came from {came.sender} to "
            f"{came.address}, and no connection listens to {came.protocol}."
        )
        args: dict[str, object] = {"protocol": came.protocol}
        args |= {"interface": way.name, "address": came.address} if way is not None else {}
        found.append(
            Cause("unwanted_universe", evidence, f"Add a connection for {came.protocol}.", universe=came.universes[0],
                  label=f"Connect {came.protocol}", edit="add connection", args=args)
        )  # fmt: skip
    return found


def other_interface(facts: Facts, _: list[Patched]) -> list[Cause]:
    """Packets for an address of this machine that is not the connection's."""
    found = []
    for came in facts.elsewhere:
        seen = _of(came, facts)
        if came.protocol not in _spoken(facts):
            continue
        if not came.universes or (seen is not None and _heard_by(seen, facts)):
            # A connection that hears its console has no need of what goes to others.
            continue
        evidence = (
            f"{came.packets} packets of {came.protocol} {counted([*came.universes])} came from {came.sender} to "
            f"{came.address}, where no connection listens"
        )
        way = next((one for one in facts.interfaces if one.address == came.address), None)
        if way is None and seen is not None:
            # Another address of the loopback.
            way = next((one for one in facts.interfaces if one.loopback and came.address.startswith("127.")), None)
            way = Interface(way.name, came.address, way.prefix) if way is not None else None
        if seen is None or seen.interface is None or way is None or way.loopback:
            listens = f" {seen.connection.name} listens on {seen.interface.address}." if seen and seen.interface else ""
            action = f"Let the console send to an address that is listened on, or listen on {came.address}.{listens}"
            found.append(Cause("other_interface", f"{evidence}.", action))
            continue
        wanted = replace(seen.connection, interface=way.name, address=way.address)
        found.append(
            Cause(
                "other_interface",
                f"{evidence}; {seen.connection.name} listens on {seen.interface.address}.",
                f"Let {seen.connection.name} listen on {way.name} ({way.address}).",
                label=f"Hear {seen.connection.name} on {way.name}",
                **_put(seen, wanted),  # type: ignore[arg-type]
            )
        )
    return found


def no_packets(facts: Facts, _: list[Patched]) -> list[Cause]:
    """Nothing at all on any interface."""
    listening = [seen for seen in facts.connections if seen.audible and seen.interface and not seen.taken]
    if facts.sources or facts.gone or any(came.universes for came in facts.elsewhere) or not listening:
        return []
    where = ", ".join(f"{seen.connection.protocol} on {seen.interface.address}" for seen in listening if seen.interface)
    rubbish = sum(facts.dropped.values())
    also = f" {rubbish} packets came that could not be read ({', '.join(facts.dropped)})." if rubbish else ""
    action = (
        "Look whether the console puts out this protocol and sends to this address (or multicasts on this network), "
        "and whether a firewall keeps UDP ports 5568 and 6454 shut."
    )
    return [Cause("no_packets", f"Nothing was heard in {facts.seconds:g} s: {where}.{also}", action)]


def _shifted(seen: ConnectionSeen, by: int) -> Connection:
    """The connection landing so much higher."""
    one = seen.connection
    if one.lands + by >= 1:
        return replace(one, lands=one.lands + by, last=min(one.last, PROTOCOLS[one.protocol][1] - max(by, 0)))
    return replace(one, first=one.first + 1 - one.lands - by, lands=1)


def _off_by(seen: ConnectionSeen, facts: Facts, wanted: set[int]) -> int:
    """By how many universes what a connection hears lies beside what is patched; 0: not so."""
    heard = set(_heard_by(seen, facts))
    mine = {universe for universe in wanted if seen.connection.heard_as(universe) is not None}
    for by in (-1, 1):
        fits = {universe + by for universe in heard}
        if heard and fits <= wanted and len(fits) > len(heard & wanted) and 2 * len(fits) > len(mine):
            return by
    return 0


def off_by_one(facts: Facts, rig: list[Patched]) -> list[Cause]:
    """Universes land one beside where they are patched: one protocol counts from 0, the other from 1."""
    found = []
    for seen in facts.connections:
        by = _off_by(seen, facts, universes_of(rig))
        if by == 0:
            continue
        heard = set(_heard_by(seen, facts))
        theirs = {one for u in heard if (one := seen.connection.heard_as(u)) is not None}
        meant = {universe + by for universe in heard}
        word = f"{seen.connection.protocol} universe{'s' if len(heard) > 1 else ''} {spans(theirs)}"
        fewer = "not all are" if heard & universes_of(rig) else "nothing is"
        evidence = f"{word}: heard, and landing on {spans(heard)}, where {fewer} patched. {spans(meant)}: patched."
        found.append(
            Cause(
                "off_by_one",
                evidence,
                f"Land {word} on {spans(meant)}.",
                universe=min(meant),
                label=f"Land {spans(theirs)} on {spans(meant)}",
                **_put(seen, _shifted(seen, by)),  # type: ignore[arg-type]
            )
        )
    return found


def _silenced(source: SourceSeen, facts: Facts) -> bool:
    """Whether a connection would take it that is silenced: that is meant."""
    return any(
        seen.connection.protocol == source.protocol and seen.connection.lands_on(source.heard_as) is not None
        for seen in facts.connections
        if not seen.audible
    )


def unwanted_universe(facts: Facts, rig: list[Patched]) -> list[Cause]:
    """Packets for universes that nothing is patched on."""
    wanted = universes_of(rig)
    explained = {
        universe for seen in facts.connections if _off_by(seen, facts, wanted) for universe in _heard_by(seen, facts)
    }
    landed: dict[str, set[int]] = {}
    outside: dict[str, set[int]] = {}
    for source in facts.sources:
        if source.preview and not source.shown:
            continue
        if not source.lands and not _silenced(source, facts):
            outside.setdefault(source.protocol, set()).add(source.heard_as)
        elif source.lands and not set(source.lands) & (wanted | explained):
            landed.setdefault(source.protocol, set()).update(source.lands)
    found = [
        Cause(
            "unwanted_universe",
            f"{protocol} arrives on {counted(universes)} of the show, where nothing is patched.",
            f"Patch fixtures on {counted(universes)}, or land it where fixtures are ({spans(wanted) or 'none yet'}).",
            universe=min(universes),
        )
        for protocol, universes in landed.items()
    ]
    found += _unspoken(facts)
    return found + [
        Cause(
            "unwanted_universe",
            f"{protocol}, {counted(universes)}: arriving, and no connection takes it.",
            f"Widen the range of a connection to {counted(universes)}, or leave them out on the console.",
            universe=min(universes),
        )
        for protocol, universes in outside.items()
    ]


def preview_only(facts: Facts, _: list[Patched]) -> list[Cause]:
    """Only preview data for a universe."""
    shown = facts.landing()
    found = []
    for seen in facts.connections:
        blind = {
            universe: source
            for source in facts.sources
            if source.preview and not source.shown and seen.interface and source.on == seen.interface.address
            and source.protocol == seen.connection.protocol
            and (universe := seen.connection.lands_on(source.heard_as)) is not None and universe not in shown
        }  # fmt: skip
        if not blind or not seen.audible:
            continue
        who = sorted({source.name for source in blind.values()})
        evidence = f"{', '.join(who)} sends {counted(set(blind))} as preview data only: it is not shown."
        action = "Take the console out of blind or preview, or show preview data."
        edit, args = "set connection", {"id": seen.id, "preview": True}
        label = f"Show preview data of {seen.connection.name}" if seen.id else ""
        found.append(
            Cause("preview_only", evidence, action, universe=min(blind), label=label,
                  edit=edit if seen.id else "", args=dict(args) if seen.id else {})
        )  # fmt: skip
    return found
