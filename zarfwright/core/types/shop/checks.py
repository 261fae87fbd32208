"""What is wrong in a draft, and how each is put right."""

from __future__ import annotations

import itertools
import re
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from zarfwright.core.types.shop.draft import MOVING, Draft, DraftChannel, DraftMode, DraftRange
from zarfwright.core.types.shop.functions import functions_of
from zarfwright.core.types.shop.usual import channel_for

ASSUMED = "was assumed"
"""How a doubt ends that is only about a usual rate, speed or angle: these are looked at together."""
_TOLD = re.compile(r"nothing is said of \d+-\d+ |it overlaps |it goes to ")
"""How the doubts of a manual begin that are checked by themselves, and put right otherwise."""
LIGHT = ("Dimmer", "ColorAdd_", "Shutter")


@dataclass(frozen=True)
class Check:
    """Something to put right: `kind` and the places say what `repaired` does; `button` is empty where a person must."""

    kind: str
    mode: int | None
    channel: int | None
    range: int | None
    text: str
    wrong: bool
    button: str = ""

    @property
    def asks(self) -> bool:
        """Only a person can say: it is not put right with all the others."""
        return self.kind in ("doubt", "assumed")


def _lanes(channel: DraftChannel) -> list[list[int]]:
    """The places of ranges by what holds at the same time: one logical channel under one master."""
    groups: dict[tuple[int, object], list[int]] = {}
    for i, one in enumerate(channel.ranges):
        groups.setdefault((one.logical, one.master), []).append(i)
    return [sorted(group, key=lambda i: channel.ranges[i].start) for group in groups.values()]


def _lane_checks(m: int, c: int, channel: DraftChannel, lane: list[int], where: str) -> Iterator[Check]:
    """Where the ranges that hold at the same time meet twice, or leave values without a word."""
    ends = [(channel.ranges[i].start, channel.ranges[i].end, i) for i in lane]
    if ends[0][0] > 0 and ends[0][2] == lane[0]:
        yield Check(
            "missing",
            m,
            c,
            lane[0],
            f"{where}: nothing is said of 0-{ends[0][0] - 1}.",
            False,
            "Begin the first at 0",
        )
    for (_, end, i), (start, _, k) in itertools.pairwise(ends):
        a = channel.ranges[i]
        if start <= end:
            text = f"{where}: “{a.name or a.attribute}” ({a.start}-{a.end}) overlaps what begins at {start}."
            yield Check("overlap", m, c, i, text, True, f"End it at {start - 1}" if start > a.start else "Remove it")
        elif start > end + 1:
            text = f"{where}: nothing is said of {end + 1}-{start - 1}."
            yield Check("missing", m, c, k, text, False, f"Let “{a.name or a.attribute}” go on to {start - 1}")
    if ends[-1][1] < channel.top:
        text = f"{where}: nothing is said of {ends[-1][1] + 1}-{channel.top}."
        yield Check("missing end", m, c, ends[-1][2], text, False, f"Let the last go on to {channel.top}")


def _understood(one: DraftRange) -> bool:
    """Whether something was made of a range: it may be kept as it is."""
    return one.attribute != "NoFeature"


def _range_checks(m: int, c: int, channel: DraftChannel, where: str) -> Iterator[Check]:
    for i, one in enumerate(channel.ranges):
        if one.end > channel.top or one.start > channel.top:
            text = f"{where}: “{one.name or one.attribute}” goes to {one.end}, past {channel.top}."
            yield Check(
                "past top", m, c, i, text, True, f"End it at {channel.top}" if one.start <= channel.top else "Remove it"
            )
        if one.start > one.end:
            yield Check(
                "upside down",
                m,
                c,
                i,
                f"{where}: a range runs from {one.start} down to {one.end}.",
                True,
                "Turn it round",
            )
        doubt = "; ".join(part for part in one.doubt.split("; ") if not _TOLD.match(part))
        if doubt and not doubt.endswith(ASSUMED):
            text = f"{where}, {one.start}-{one.end} “{one.name}”: {doubt}."
            yield Check("doubt", m, c, i, text, False, "It is so" if _understood(one) else "It changes nothing")
    for lane in _lanes(channel):
        yield from _lane_checks(m, c, channel, lane, where)


def _wheel_checks(draft: Draft, m: int, c: int, channel: DraftChannel, where: str) -> Iterator[Check]:
    counts = {wheel.name: len(wheel.slots) for wheel in draft.wheels}
    for i, one in enumerate(channel.ranges):
        if one.slot is not None and one.wheel and one.slot > counts.get(one.wheel, 0):
            text = f"{where}: “{one.name}” is slot {one.slot}, and {one.wheel} has {counts.get(one.wheel, 0)}."
            yield Check("no slot", m, c, i, text, True, "")


def _slot_checks(m: int, mode: DraftMode) -> Iterator[Check]:
    for number in sorted({c.dmx_break for c in mode.channels}):
        used = Counter(s for c in mode.channels if c.dmx_break == number for s in c.slots)
        twice = sorted(s for s, count in used.items() if count > 1)
        if twice:
            text = f"{mode.name}: slot {', '.join(map(str, twice[:5]))} is used by two channels."
            yield Check("slot twice", m, None, None, text, True, "Number the channels in their order")
        gaps = sorted(set(range(1, max(used, default=0) + 1)) - set(used))
        if gaps:
            text = (
                f"{mode.name}: nobody has slot {', '.join(map(str, gaps[:5]))}{' and more' if len(gaps) > 5 else ''}."
            )
            yield Check("slot gap", m, number, None, text, False, "Fill with channels that do nothing")
        if max(used, default=0) > 512:
            yield Check("too wide", m, None, None, f"{mode.name} takes more than 512 slots.", True, "")


def _names(channel: DraftChannel) -> set[str]:
    """What functions of a channel masters and relations may name."""
    return {one.function for one in channel.ranges if one.function} | {f.name for f in functions_of(channel).functions}


def _link_checks(m: int, mode: DraftMode) -> Iterator[Check]:
    """Masters and relations that lead to a channel, or a function of one, that is not there."""
    there = {channel.called: channel for channel in reversed(mode.channels)}
    names = {called: _names(there[called]) for called in _named(mode) if called in there}
    for c, channel in enumerate(mode.channels):
        for r, one in enumerate(channel.ranges):
            master = one.master
            if master is None or (master.channel in there and master.function in (None, *names[master.channel])):
                continue
            what = f"“{one.name or one.attribute}” is there while {master.function or master.channel} says so"
            text = f"{mode.name}, channel {channel.called}: {what}, and that is not there: it never shows."
            yield Check("dangling", m, c, r, text, True, "Remove it")
    for n, relation in enumerate(mode.relations):
        known = relation.master in there and relation.function in names.get(relation.follower, ())
        if not known:
            text = f"{mode.name}: {relation.master} has a say in {relation.function} of {relation.follower}"
            yield Check(
                "no relation", m, None, n, f"{text}, and one of them is not there.", True, "Remove that relation"
            )


def _named(mode: DraftMode) -> set[str]:
    """The channels whose functions are named by masters and relations."""
    masters = {one.master.channel for channel in mode.channels for one in channel.ranges if one.master is not None}
    return masters | {relation.follower for relation in mode.relations}


def _mode_checks(draft: Draft, m: int, mode: DraftMode) -> Iterator[Check]:
    if not mode.channels:
        yield Check("empty", m, None, None, f"{mode.name} has no channel yet.", True, "")
        return
    attributes = [r.attribute for c in mode.channels for r in c.ranges]
    if draft.lenses and not any(a.startswith(LIGHT) for a in attributes):
        yield Check(
            "no dimmer", m, None, None, f"{mode.name} has no dimmer: it is always at full.", False, "Add a dimmer"
        )
    yield from _slot_checks(m, mode)
    assumed = sum(r.doubt.endswith(ASSUMED) for c in mode.channels for r in c.ranges)
    if assumed:
        which = f"{assumed} ranges have" if assumed > 1 else "one range has"
        text = f"{mode.name}: {which} usual rates, speeds or angles, for the manual gives none."
        yield Check("assumed", m, None, None, text, False, "They will do")
    yield from _link_checks(m, mode)
    seen: dict[tuple[str, str], int] = {}
    for c, channel in enumerate(mode.channels):
        where = f"{mode.name}, channel {','.join(map(str, channel.slots)) or 'without slot'}"
        if channel.part not in draft.parts:
            text = f"{where} drives “{channel.part}”, which this body does not have."
            yield Check("no part", m, c, None, text, True, "Let it drive all of it")
        key = (channel.part, channel.attribute)
        if key in seen and channel.attribute != "NoFeature":
            first = mode.channels[seen[key]]
            text = f"{where} does the same as channel {first.slots[0] if first.slots else '?'} ({channel.attribute})."
            yield Check("twice", m, c, None, text, False, "Make it the fine byte" if len(channel.slots) == 1 else "")
        seen.setdefault(key, c)
        words = channel.ranges[0].name.lower() if channel.ranges else ""
        if channel.attribute == "NoFeature" and "fine" in words and c > 0:
            text = f"{where} is called “{channel.ranges[0].name}”, and stands as a channel of its own."
            yield Check("fine apart", m, c, None, text, False, "Make it the fine byte of the one before")
        if draft.kind not in (*MOVING, "as it came") and channel.attribute in ("Pan", "Tilt"):
            yield Check("cannot turn", m, c, None, f"{where}: a {draft.kind} has nothing that turns.", False, "")
        yield from _range_checks(m, c, channel, where)
        yield from _wheel_checks(draft, m, c, channel, where)


def checks(draft: Draft) -> list[Check]:
    """All that is wrong or in doubt, in the order of modes and channels."""
    found: list[Check] = []
    if not draft.name.strip() or not draft.maker.strip():
        found.append(Check("no name", None, None, None, "A type needs a name and a maker.", True, ""))
    beam = draft.beam
    if draft.lenses and beam.lamp != "Laser" and beam.field_angle_deg < 1.1 * beam.beam_angle_deg - 1e-9:
        text = (
            f"The field angle ({beam.field_angle_deg:g}°) is less than 1.1 times the beam angle "
            f"({beam.beam_angle_deg:g}°): the picture takes {1.1 * beam.beam_angle_deg:.4g}°."
        )
        found.append(Check("field", None, None, None, text, False, "Set the field angle so"))
    names = Counter(mode.name for mode in draft.modes)
    for name, count in names.items():
        if count > 1:
            found.append(
                Check("mode twice", None, None, None, f"{count} modes are called {name}.", True, "Number them")
            )
    for m, mode in enumerate(draft.modes):
        found += _mode_checks(draft, m, mode)
    return found


def _with_channel(draft: Draft, m: int, c: int, channel: DraftChannel | None) -> Draft:
    channels = list(draft.modes[m].channels)
    channels[c : c + 1] = [] if channel is None else [channel]
    return with_channels(draft, m, channels)


def with_channels(draft: Draft, m: int, channels: list[DraftChannel]) -> Draft:
    """The draft with a mode's channels replaced."""
    mode = replace(draft.modes[m], channels=tuple(channels))
    return replace(draft, modes=tuple(mode if i == m else other for i, other in enumerate(draft.modes)))


def renumbered(channels: list[DraftChannel]) -> list[DraftChannel]:
    """Channels in their order on slots that follow each other, break by break; each keeps its bytes together."""
    free: dict[int, int] = {}
    made = []
    for channel in channels:
        first = free.get(channel.dmx_break, 1)
        free[channel.dmx_break] = first + len(channel.slots)
        made.append(replace(channel, slots=tuple(range(first, first + len(channel.slots)))))
    return made


def _joined(draft: Draft, check: Check) -> Draft:
    """A channel made the fine byte of an earlier one."""
    m, c = check.mode or 0, check.channel or 0
    channels = list(draft.modes[m].channels)
    fine = channels[c]
    target = c - 1
    if check.kind == "twice":
        target = next(i for i, o in enumerate(channels) if (o.part, o.attribute) == (fine.part, fine.attribute))
    coarse = channels[target]
    ranges = tuple(replace(r, start=r.start * 256, end=r.end * 256 + 255) for r in coarse.ranges)
    home = coarse.home * 256 + (
        128 if coarse.home * 2 == coarse.top + 1 else coarse.home if coarse.home == coarse.top else 0
    )
    channels[target] = replace(
        coarse, slots=(*coarse.slots, *fine.slots), ranges=ranges, home=min(home, 256 * (coarse.top + 1) - 1)
    )
    del channels[c]
    wider = [_rescaled(one, coarse.called, 256 ** len(fine.slots)) for one in channels]
    return with_channels(draft, m, wider)


def _rescaled(channel: DraftChannel, master: str, factor: int) -> DraftChannel:
    """A channel whose ranges ask for the same of a master that has more bytes now."""
    ranges = []
    for one in channel.ranges:
        asked = one.master
        if asked is not None and asked.channel == master:
            asked = replace(asked, low=asked.low * factor, high=asked.high * factor + factor - 1)
        ranges.append(replace(one, master=asked))
    return replace(channel, ranges=tuple(ranges))


def _range_repaired(check: Check, channel: DraftChannel) -> DraftChannel:
    r = check.range or 0
    ranges = list(channel.ranges)
    one = ranges[r]
    if check.kind == "past top":
        ranges[r : r + 1] = [replace(one, end=channel.top)] if one.start <= channel.top else []
    elif check.kind == "upside down":
        ranges[r] = replace(one, start=one.end, end=one.start)
    elif check.kind == "dangling":
        del ranges[r]
    elif check.kind == "doubt":
        nothing = replace(one, doubt="", attribute="NoFeature", low=0.0, high=0.0, slot=None, wheel=None)
        ranges[r] = replace(one, doubt="") if _understood(one) else nothing
    elif check.kind == "overlap":
        starts = sorted(o.start for i, o in enumerate(ranges) if i != r and o.start >= one.start)
        end = starts[0] - 1 if starts else one.end
        ranges[r : r + 1] = [replace(one, end=end)] if end >= one.start else []
    elif check.kind == "missing end":
        ranges[r] = replace(one, end=channel.top)
    elif check.kind == "missing":
        before = [
            i for i, o in enumerate(ranges) if o.end < one.start and (o.logical, o.master) == (one.logical, one.master)
        ]
        if before:
            i = max(before, key=lambda k: ranges[k].end)
            ranges[i] = replace(ranges[i], end=one.start - 1)
        else:
            ranges[r] = replace(one, start=0)
    return replace(channel, ranges=tuple(ranges))


def _fields_wide(draft: Draft) -> Draft:
    field_deg = round(1.1 * draft.beam.beam_angle_deg, 3)
    return replace(draft, beam=replace(draft.beam, field_angle_deg=field_deg))


def _modes_named(draft: Draft) -> Draft:
    """Modes of one name told apart by a number."""
    seen: dict[str, int] = {}
    modes = []
    for mode in draft.modes:
        seen[mode.name] = seen.get(mode.name, 0) + 1
        modes.append(replace(mode, name=mode.name if seen[mode.name] == 1 else f"{mode.name} {seen[mode.name]}"))
    return replace(draft, modes=tuple(modes))


def _gaps_filled(draft: Draft, m: int, number: int) -> Draft:
    """Slots of a break that no channel has, each with one that does nothing."""
    channels = list(draft.modes[m].channels)
    used = {s for one in channels if one.dmx_break == number for s in one.slots}
    for slot in sorted(set(range(1, max(used, default=0) + 1)) - used):
        idle = DraftRange(0, 255, "NoFeature", 0.0, 0.0, "Nothing")
        channels.append(DraftChannel(draft.parts[0], (slot,), (idle,), dmx_break=number))
    return with_channels(draft, m, sorted(channels, key=lambda o: (o.dmx_break, o.slots[:1])))


def _with_dimmer(draft: Draft, m: int) -> Draft:
    channels = draft.modes[m].channels
    last = max((s for one in channels if one.dmx_break == 1 for s in one.slots), default=0)
    return with_channels(draft, m, [*channels, channel_for("Dimmer", (last + 1,), draft.parts, draft.lenses)])


def _without_relation(draft: Draft, m: int, number: int) -> Draft:
    kept = tuple(relation for n, relation in enumerate(draft.modes[m].relations) if n != number)
    mode = replace(draft.modes[m], relations=kept)
    return replace(draft, modes=tuple(mode if i == m else other for i, other in enumerate(draft.modes)))


def _channel_repaired(draft: Draft, check: Check, m: int, c: int) -> Draft:
    channel = draft.modes[m].channels[c]
    if check.kind == "no part":
        return _with_channel(draft, m, c, replace(channel, part=draft.parts[0]))
    if check.kind in ("fine apart", "twice"):
        return _joined(draft, check)
    if check.range is not None:
        return _with_channel(draft, m, c, _range_repaired(check, channel))
    return draft


def _settled(draft: Draft, m: int) -> Draft:
    """What was only assumed taken as it is."""
    channels = []
    for one in draft.modes[m].channels:
        ranges = tuple(replace(r, doubt="") if r.doubt.endswith(ASSUMED) else r for r in one.ranges)
        channels.append(replace(one, ranges=ranges))
    return with_channels(draft, m, channels)


WHOLE: dict[str, Callable[[Draft], Draft]] = {"field": _fields_wide, "mode twice": _modes_named}
OF_MODE: dict[str, Callable[[Draft, int, Check], Draft]] = {
    "slot twice": lambda draft, m, _: with_channels(draft, m, renumbered(list(draft.modes[m].channels))),
    "slot gap": lambda draft, m, check: _gaps_filled(draft, m, check.channel or 1),
    "no dimmer": lambda draft, m, _: _with_dimmer(draft, m),
    "assumed": lambda draft, m, _: _settled(draft, m),
    "no relation": lambda draft, m, check: _without_relation(draft, m, check.range or 0),
}


def repaired(draft: Draft, check: Check) -> Draft:
    """The draft with one check put right; the same draft where a person has to decide."""
    if check.kind in WHOLE:
        return WHOLE[check.kind](draft)
    if check.mode is None:
        return draft
    if check.kind in OF_MODE:
        return OF_MODE[check.kind](draft, check.mode, check)
    return draft if check.channel is None else _channel_repaired(draft, check, check.mode, check.channel)
