"""What is told of the inputs: by universe of the show, what lands nowhere, and each connection.

Made without the live lock: nobody who receives waits for it. So it goes over copies, each taken at once; what changes
meanwhile is told the next time.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any

from zarfwright.links.live.inputs import Heard, Inputs, Key
from zarfwright.links.sacn import SacnSources
from zarfwright.links.sources import SLOTS, Source

TOLD_MOST = 1024
"""So many universes are told of; of others only how many there are."""


def report(inputs: Inputs, levels: Mapping[int, bytes], patched: Sequence[int], now: float) -> dict[str, Any]:
    """The inputs as they are."""
    dropped: Counter[str] = Counter()
    for registry in [*inputs.registries.values()]:
        for source in [*registry.by_key.values()]:
            source.measure(now)
        dropped.update(dict(registry.dropped))
    keys = _keys(inputs)
    levels = dict(levels)
    known = sorted({*levels, *dict(inputs.by_universe)})
    told = known if len(known) <= TOLD_MOST else sorted({*patched} & {*known} | {*known[:TOLD_MOST]})
    return {
        "universes": [_universe(inputs, universe, levels.get(universe), keys, now) for universe in told],
        "untold": len(known) - len(told),
        "nowhere": nowhere(inputs, now),
        "offered": offered(inputs),
        "dropped": dict(dropped),
    }


def _keys(inputs: Inputs) -> dict[int, Key]:
    """On which address each source is heard, by the source."""
    return {id(source): key for key, of in [*inputs.registries.items()] for source in [*of.by_key.values()]}


def _ways(inputs: Inputs, source: Source, key: Key | None, universe: int) -> list[str]:
    """The connections by which a source comes to a universe of the show."""
    ours = [one for one in inputs.heard if one.key == key and one.takes(source)]
    return [one.id for one in ours if one.connection.lands_on(source.universe) == universe]


def _universe(
    inputs: Inputs, universe: int, levels: bytes | None, keys: Mapping[int, Key], now: float
) -> dict[str, Any]:
    heard = [*inputs.by_universe.get(universe, ())]
    gone = inputs.last_ended(universe) if not heard else None
    ordered = sorted(heard, key=lambda one: (-one.priority, one.name))
    return {
        "universe": universe,
        "state": "live" if heard else "held",
        "lit_slots": SLOTS - levels.count(0) if levels is not None else 0,
        "last_source": gone.name if gone is not None else "",
        "ended": gone.why if gone is not None else "",
        "sources": [
            {**told(one, now), "connections": _ways(inputs, one, keys.get(id(one)), universe)} for one in ordered
        ],
    }


def told(source: Source, now: float) -> dict[str, Any]:
    """What is told of one source."""
    return {
        "name": source.name,
        "address": source.address,
        "protocol": source.protocol,
        "heard_as": source.universe,
        "priority": source.priority,
        "by_slot": bool(source.priorities),
        "rate_hz": round(source.rate, 1),
        "jitter_ms": round(source.jitter * 1000, 1),
        "longest_ms": round(max(source.longest, now - source.heard_at) * 1000),
        "late": source.late,
        "missed": source.missed,
        "preview": source.preview,
        "waits": bool(source.waiting),
    }


def nowhere(inputs: Inputs, now: float) -> list[dict[str, Any]]:
    """What is heard and lands nowhere: no connection wants its universe, or it is preview only."""
    found: list[dict[str, Any]] = []
    for key, registry in [*inputs.registries.items()]:
        for source in [*registry.by_key.values()]:
            if len(found) < TOLD_MOST and not inputs.landings(key, source.universe, source.preview):
                found.append({**told(source, now), "on": key[1]})
    return found


def offered(inputs: Inputs) -> list[dict[str, Any]]:
    """What sources say that they send by sACN, of several pages together; universes as (first, last)."""
    pages: dict[tuple[str, str, str], set[int]] = {}
    for key, registry in [*inputs.registries.items()]:
        for one in [*registry.offered.values()] if isinstance(registry, SacnSources) else ():
            pages.setdefault((one.name, one.address, key[1]), set()).update(one.universes)
    return [
        {"name": name, "address": address, "on": on, "universes": _stretches(universes)}
        for (name, address, on), universes in sorted(pages.items())
    ]


def _stretches(numbers: set[int]) -> list[tuple[int, int]]:
    found: list[tuple[int, int]] = []
    for one in sorted(numbers):
        if found and one == found[-1][1] + 1:
            found[-1] = (found[-1][0], one)
        else:
            found.append((one, one))
    return found


def connection_told(inputs: Inputs, one: Heard, problem: str = "", refused: str = "") -> dict[str, Any]:
    """How one connection is; `problem`: why nothing is heard, `refused`: why not all is."""
    registry = inputs.registries.get(one.key) if one.key is not None else None
    sources = [] if registry is None else [*registry.by_key.values()]
    landed = [s for s in sources if one.takes(s) and one.connection.lands_on(s.universe) is not None]
    if one.interface is None or problem:
        state = "wrong"
    elif not one.audible:
        state = "silenced"
    else:
        state = "live" if landed else "silent"
    return {
        "id": one.id,
        "protocol": one.connection.protocol,
        "state": state,
        "interface": one.interface.name if one.interface is not None else one.connection.interface,
        "address": one.interface.address if one.interface is not None else one.connection.address,
        "said": problem or " ".join(text for text in (one.said, refused) if text),
        "nearest": vars(one.nearest) if one.nearest is not None else None,
        "universes": len({s.universe for s in landed}),
        "rate_hz": round(sum(s.rate for s in landed), 1),
    }
