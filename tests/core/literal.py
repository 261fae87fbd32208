"""A slow decoder that does what the rules say, a channel at a time: written from their text, not from the fast one.

Of numbers.md, DMX, and GDTF: fine bytes big-endian; a function begins at its own start and ends where the next one
under the same master begins; physical is linear through its profile; a value that none covers: the first.
"""

import math

# What the attributes used here mean: feature, unit factor, how its value comes about.
MEANS = {
    "Pan": [("pan", math.pi / 180, "physical")],
    "Tilt": [("tilt", math.pi / 180, "physical")],
    "Dimmer": [("dimmer", 1, "physical")],
    "Zoom": [("zoom", 1, "physical")],
    "Iris": [("iris", 1, "physical")],
    "Focus1": [("focus", 1, "physical")],
    "Frost1": [("frost", 1, "physical")],
    "ColorSub_C": [("cyan", 1, "physical")],
    "ColorSub_M": [("magenta", 1, "physical")],
    "ColorSub_Y": [("yellow", 1, "physical")],
    "ColorAdd_R": [("red", 1, "physical")],
    "ColorAdd_G": [("green", 1, "physical")],
    "ColorAdd_B": [("blue", 1, "physical")],
    "ColorAdd_W": [("white", 1, "physical")],
    "Color1": [("colour slot", 1, "slot")],
    "Gobo1": [("gobo slot", 1, "slot")],
    "Gobo1SelectShake": [("gobo slot", 1, "slot"), ("gobo shake", 1, "physical")],
    "Gobo1Pos": [("gobo turn", math.pi / 180, "physical")],
    "Gobo1PosRotate": [("gobo spin", math.pi / 180, "physical")],
    "Gobo2": [("gobo 2 slot", 1, "slot")],
    "Gobo2Pos": [("gobo 2 turn", math.pi / 180, "physical")],
    "Gobo2PosRotate": [("gobo 2 spin", math.pi / 180, "physical")],
    "Prism1": [("prism slot", 1, "slot")],
    "Prism1PosRotate": [("prism spin", math.pi / 180, "physical")],
    "Shutter1": [("shutter", 1, "physical")],
    "Shutter1Strobe": [("strobe", 1, "physical"), ("strobe kind", 1, 0.0)],
    "Shutter1StrobePulse": [("strobe", 1, "physical"), ("strobe kind", 1, 1.0)],
    "ShaperRot": [("blades turn", math.pi / 180, "physical")],
    **{f"Blade{n}A": [(f"blade {n}", 1, "physical")] for n in (1, 2, 3, 4)},
    **{f"Blade{n}Rot": [(f"blade {n} angle", math.pi / 180, "physical")] for n in (1, 2, 3, 4)},
}


def raw_of(channel, slots):
    """The raw value on a channel's slots; of a virtual one its default, a dimmer's full."""
    if not channel.slots:
        return 255 if channel.functions[0].attribute == "Dimmer" else channel.home
    raw = 0
    for slot in channel.slots:
        raw = raw * 256 + int(slots[channel.dmx_break][slot - 1])
    return raw


def last_of(channel, function):
    """Where a function ends: before the next one of its logical channel under the same master."""
    same = [f.start for f in channel.functions if (f.logical, f.master) == (function.logical, function.master)]
    later = [start for start in same if start > function.start]
    return (min(later) if later else 256 ** max(len(channel.slots), 1)) - 1


def holds(mode, slots, master):
    if master is None:
        return True
    channel = next(c for c in mode.channels if c.name == master.channel)
    raw = raw_of(channel, slots)
    if not master.low <= raw <= master.high:
        return False
    if master.function is None:
        return True
    function = next(f for f in channel.functions if f.name == master.function)
    return function.start <= raw <= last_of(channel, function) and holds(mode, slots, function.master)


def profiled(fixture_type, name, share):
    profile = next((p for p in fixture_type.profiles if p.name == name), None)
    if profile is None:
        return share
    output = 0.0
    for point in profile.points:
        if point.share <= share:
            d = share - point.share
            output = point.c0 + point.c1 * d + point.c2 * d**2 + point.c3 * d**3
    return min(max(output, 0.0), 1.0)


def physical_of(fixture_type, channel, function, raw):
    """A function's own physical value at a raw value, sets with physical values of their own included."""
    last = last_of(channel, function)
    raw = max(raw, function.start)
    inside = [s for s in function.sets if s.start <= raw]
    if inside and inside[-1].physical is not None:
        later = [s.start for s in function.sets if s.start > inside[-1].start]
        end = (min(later) if later else last + 1) - 1
        a, b = inside[-1].physical
        return a + (b - a) * ((raw - inside[-1].start) / (end - inside[-1].start) if end > inside[-1].start else 0)
    share = (raw - function.start) / (last - function.start) if last > function.start else 0.0
    low, high = function.physical
    return low + (high - low) * profiled(fixture_type, function.profile, share)


def active(mode, slots, channel):
    """The functions that are there at a channel's value: one of each logical channel under each master that holds."""
    raw = raw_of(channel, slots)
    found = []
    groups = dict.fromkeys((f.logical, f.master) for f in sorted(channel.functions, key=lambda f: f.start))
    for logical, master in groups:
        if not holds(mode, slots, master):
            continue
        mine = sorted(
            (f for f in channel.functions if (f.logical, f.master) == (logical, master)), key=lambda f: f.start
        )
        begun = [f for f in mine if f.start <= raw]
        found.append(begun[-1] if begun else mine[0])
    return found


def literal(fixture_type, mode_name, slots):  # noqa: C901 - the standard word for word, an oracle in one piece
    """Feature values of a fixture of one beam; `slots` by break."""
    mode = fixture_type.mode(mode_name)
    if not isinstance(slots, dict):
        slots = {1: slots}
    plain, mastered = {}, {}
    # What has no slot has the first word, what a master chooses the last.
    for channel in sorted(mode.channels, key=lambda c: bool(c.slots)):
        raw = raw_of(channel, slots)
        for function in active(mode, slots, channel):
            into = plain if function.master is None else mastered
            for feature, factor, how in MEANS.get(function.attribute, []):
                if how == "slot":
                    value = float(([s for s in function.sets if s.start <= raw] or [None])[-1].slot or 1)
                elif how == "physical":
                    value = physical_of(fixture_type, channel, function, raw) * factor
                else:
                    value = how
                for relation in mode.relations:
                    if (relation.follower, relation.function) != (channel.name, function.name) or how != "physical":
                        continue
                    master = next(c for c in mode.channels if c.name == relation.master)
                    if not master.slots or not channel.slots or raw < function.start:
                        continue
                    share = raw_of(master, slots) / (256 ** len(master.slots) - 1)
                    if relation.kind == "Multiply" and master.functions[0].attribute != "Dimmer":
                        value *= share
                    if relation.kind == "Override" and raw_of(master, slots) != master.home:
                        low = physical_of(fixture_type, channel, function, function.start)
                        high = physical_of(fixture_type, channel, function, last_of(channel, function))
                        value = (low + (high - low) * share) * factor
                into[feature] = value
    return {**plain, **mastered}
