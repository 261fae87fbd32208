"""What does not fit together in a description that could be read: slots used twice, circles, names that nothing has."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from graphlib import CycleError, TopologicalSorter
from xml.etree.ElementTree import Element

from zarfwright.core.types.chain import DARK, TURNING, chains_of
from zarfwright.core.types.model import FixtureType, Mode
from zarfwright.formats.gdtf.attributes import is_standard
from zarfwright.formats.gdtf.reading import Reading

SHINES = ("Dimmer", "Shutter", "ColorAdd", "ColorSub", "ColorRGB", "Gobo", "Color1", "Zoom", "Iris")
NAMED_MOST = 5


def _slots(mode: Mode) -> Iterator[tuple[str, str, str]]:
    used: dict[tuple[int, int], str] = {}
    twice: Counter[tuple[str, str]] = Counter()
    first: dict[tuple[str, str], int] = {}
    for channel in mode.channels:
        for slot in channel.slots:
            before = used.setdefault((channel.dmx_break, slot), channel.name)
            if before != channel.name:
                twice[before, channel.name] += 1
                first.setdefault((before, channel.name), slot)
    for (a, b), count in list(twice.items())[:NAMED_MOST]:
        more = f" and {count - 1} more" if count > 1 else ""
        yield f"DMXMode {mode.name}", f"{a} and {b} both have slot {first[a, b]}{more}", "both are read from it"


def circle(leads: Mapping[str, set[str]]) -> list[str]:
    """Names that lead round to themselves, in their order; none where nothing does."""
    try:
        TopologicalSorter({name: sorted(to) for name, to in leads.items()}).prepare()
    except CycleError as found:
        # It names the first again at the end, and goes against the way that they lead.
        return list(reversed(found.args[1][1:]))
    return []


def _circles(mode: Mode) -> Iterator[tuple[str, str, str]]:
    masters: dict[str, set[str]] = {}
    for channel in mode.channels:
        for function in channel.functions:
            if function.master is not None:
                masters.setdefault(channel.name, set()).add(function.master.channel)
    relations: dict[str, set[str]] = {}
    for relation in mode.relations:
        relations.setdefault(relation.follower, set()).add(relation.master)
    for what, leads, done in (
        ("masters", masters, "what hangs on them is never there"),
        ("relations", relations, "each is worked out once"),
    ):
        found = circle(leads)
        if found:
            yield f"DMXMode {mode.name}", f"its {what} go round in a circle: {', '.join(found[:NAMED_MOST])}", done


def _wheels(fixture_type: FixtureType, mode: Mode) -> Iterator[tuple[str, str, str]]:
    for channel in mode.channels:
        for function in channel.functions:
            wheel = fixture_type.wheel(function.wheel)
            past = [s for s in function.sets if wheel is not None and s.slot is not None and s.slot > len(wheel.slots)]
            if wheel is not None and past:
                where = f"DMXMode {mode.name}, {channel.name}, {function.name}"
                what = f"“{past[0].name}” is slot {past[0].slot}, and {wheel.name} has {len(wheel.slots)}"
                yield where, what, "drawn as open"


def _attributes(top: Element, fixture_type: FixtureType) -> Iterator[tuple[str, str, str]]:
    defined = {node.get("Name", "") for node in top.findall("AttributeDefinitions/Attributes/Attribute")}
    used: dict[str, str] = {}
    for mode in fixture_type.modes:
        for channel in mode.channels:
            for function in channel.functions:
                used.setdefault(function.attribute, f"DMXMode {mode.name}, {channel.name}, {function.name}")
    for name, where in used.items():
        if name not in defined and (defined or not is_standard(name)):
            done = "read as the standard has it" if is_standard(name) else "kept, and it changes nothing"
            yield where, f"its attribute “{name}” is defined nowhere in the file", done


def _beams(fixture_type: FixtureType) -> Iterator[tuple[str, str, str]]:
    for mode in fixture_type.modes:
        shines = any(f.attribute.startswith(SHINES) for c in mode.channels for f in c.functions)
        if shines and not any(node.beam is not None for node, _ in fixture_type.root(mode).walk()):
            yield f"DMXMode {mode.name}", "its geometry has no Beam", "it hangs there and gives no light"


def _turns(fixture_type: FixtureType) -> Iterator[tuple[str, str, str]]:
    """Axes that no beam hangs on, and that no light meets as it would meet a mirror (core/types/chain.py)."""
    for mode in fixture_type.modes:
        turning = [channel.geometry for channel in mode.channels if channel.attribute in TURNING]
        chains = chains_of(fixture_type, mode.name)
        if turning and any(chain.beam is not DARK for chain in chains) and not any(chain.moves for chain in chains):
            where = f"no Beam hangs on {' or '.join(dict.fromkeys(turning))}, and no light meets it as a mirror"
            yield f"DMXMode {mode.name}", where, "its pan and tilt move no light"


def find_odd(reading: Reading, top: Element, fixture_type: FixtureType) -> None:
    """Note all of it."""
    found = [*_attributes(top, fixture_type), *_beams(fixture_type), *_turns(fixture_type)]
    for mode in fixture_type.modes:
        found += [*_slots(mode), *_circles(mode), *_wheels(fixture_type, mode)]
    for where, what, done in found:
        reading.found(where, what, done)
