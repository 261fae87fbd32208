"""Names as the standard has them (DIN SPEC 15800, annex C): a few signs besides ASCII letters and digits. A dot parts
the names of a node path, so a name with one in it cannot be found by path."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import replace
from xml.etree.ElementTree import Element

from zarfwright.core.types.model import Channel, ChannelFunction, FixtureType, Geometry, Mode, ModeMaster
from zarfwright.core.types.naming import unlike

_ALLOWED = re.compile(r"[^ \"#%'()*+\-/0-9:;<=>@A-Z_`a-z]")
_SPOKEN = str.maketrans({
    "°": "deg", "º": "deg", "–": "-", "—": "-", "−": "-", "→": ">", "…": "-", "&": "+", ",": ";", "×": "x", "ß": "ss",
    "„": '"', "“": '"', "”": '"', "’": "'", "‘": "'", "[": "(", "]": ")", "{": "(", "}": ")", "|": "/", "\\": "/",
    "~": "-", "ø": "o", "Ø": "O", "æ": "ae", "œ": "oe", "ł": "l", "²": "2", "³": "3", "µ": "u", "!": "", "?": "",
    "$": "",
})  # fmt: skip


def legal(name: str) -> str:
    """A name with only what the standard allows: `Strobe 0.5-12 Hz` is `Strobe 0_5-12 Hz`, letters lose their marks."""
    plain = re.sub(r"\.(?=\d)", "_", name.translate(_SPOKEN))
    plain = unicodedata.normalize("NFKD", plain)
    plain = _ALLOWED.sub("", plain)
    return re.sub(r" {2,}", " ", plain).strip() if plain.strip() else ("" if not name.strip() else "Unnamed")


PATHS = frozenset({
    "ModeMaster", "InitialFunction", "Master", "Follower", "DMXChannel", "ChannelFunction", "Geometry", "Wheel",
    "Emitter", "Filter", "DMXProfile", "Model", "Gamut", "ColorSpace", "Feature", "MainAttribute", "ActivationGroup",
    "Attribute",
})  # fmt: skip
"""Attributes of nodes that name other nodes, by a name or a path of them."""


def _pieces(root: Element) -> list[tuple[Element, str]]:
    """Nodes whose name does not do as a part of a path, with the name that they get."""
    made = []
    for parent in root.iter():
        taken = {child.get("Name", "") for child in parent}
        for child in parent:
            name = child.get("Name")
            if name is None or "." not in name or child.tag in ("ChannelSet", "SubChannelSet", "Slot", "FixtureType"):
                continue
            new = unlike(legal(name), taken)
            taken.add(new)
            made.append((child, new))
    return made


def with_paths_that_lead(root: Element) -> list[tuple[str, str, str]]:
    """Name anew the nodes whose names have a dot, and whatever names them. Returns where, the old and the new name."""
    pieces = _pieces(root)
    if not pieces:
        return []
    renamed = {child.get("Name", ""): new for child, new in pieces}
    said = [(child.tag, child.get("Name", ""), new) for child, new in pieces]
    for child, new in pieces:
        child.set("Name", new)
    # The longest first: one name may be the end of another.
    order = sorted(renamed, key=len, reverse=True)
    for node in root.iter():
        for key in PATHS & node.attrib.keys():
            node.set(key, _led(node.get(key, ""), order, renamed))
    return said


def _led(path: str, order: list[str], renamed: dict[str, str]) -> str:
    for old in order:
        if path == old:
            return renamed[old]
        if path.endswith(f".{old}"):
            return f"{path[: -len(old)]}{renamed[old]}"
        if path.startswith((f"{old}.", f"{old}_")):
            path = f"{renamed[old]}{path[len(old) :]}"
    return path


def _geometry(node: Geometry) -> Geometry:
    return replace(
        node,
        name=legal(node.name),
        model=None if node.model is None else legal(node.model),
        children=tuple(_geometry(child) for child in node.children),
    )


def _optional(name: str | None) -> str | None:
    return None if name is None else legal(name)


def _legal_each(names: list[str]) -> dict[str, str]:
    """The legal name of each, all of them different."""
    made: dict[str, str] = {}
    for name in names:
        if name not in made:
            made[name] = unlike(legal(name), set(made.values()))
    return made


def _mode(mode: Mode) -> Mode:
    functions = {c.name: _legal_each([f.name for f in c.functions]) for c in mode.channels}
    channels = {c.name: legal(c.name) for c in mode.channels}

    def master(one: ModeMaster | None) -> ModeMaster | None:
        if one is None:
            return None
        own = functions.get(one.channel, {})
        return replace(
            one, channel=channels.get(one.channel, one.channel), function=own.get(one.function or "", one.function)
        )

    def function(channel: Channel, one: ChannelFunction) -> ChannelFunction:
        return replace(
            one,
            name=functions[channel.name][one.name],
            wheel=_optional(one.wheel),
            emitter=_optional(one.emitter),
            filter=_optional(one.filter),
            profile=_optional(one.profile),
            master=master(one.master),
            sets=tuple(replace(part, name=legal(part.name)) for part in one.sets),
        )

    return replace(
        mode,
        name=legal(mode.name),
        geometry=legal(mode.geometry),
        channels=tuple(
            replace(
                c, geometry=legal(c.geometry), key=legal(c.key), functions=tuple(function(c, f) for f in c.functions)
            )
            for c in mode.channels
        ),
        relations=tuple(
            replace(
                r,
                master=channels.get(r.master, r.master),
                follower=channels.get(r.follower, r.follower),
                function=functions.get(r.follower, {}).get(r.function, r.function),
            )
            for r in mode.relations
        ),
    )


def _names(fixture_type: FixtureType) -> list[str]:
    of_modes = [
        name
        for mode in fixture_type.modes
        for c in mode.channels
        for name in (
            mode.name,
            c.geometry,
            *(f.name for f in c.functions),
            *(s.name for f in c.functions for s in f.sets),
        )
    ]
    of_wheels = [name for w in fixture_type.wheels for name in (w.name, *(slot.name for slot in w.slots))]
    kinds = (fixture_type.emitters, fixture_type.filters, fixture_type.profiles, fixture_type.models)
    trees = [node.name for tree in fixture_type.geometries for node, _ in tree.walk()]
    return [fixture_type.name, *of_modes, *of_wheels, *(one.name for kind in kinds for one in kind), *trees]


def legalised(fixture_type: FixtureType) -> FixtureType:
    """The type with names that the standard allows; whatever names another goes along."""
    if all(legal(name) == name for name in _names(fixture_type)):
        return fixture_type
    return replace(
        fixture_type,
        name=legal(fixture_type.name),
        geometries=tuple(_geometry(tree) for tree in fixture_type.geometries),
        modes=tuple(_mode(mode) for mode in fixture_type.modes),
        models=tuple(replace(one, name=legal(one.name)) for one in fixture_type.models),
        wheels=tuple(
            replace(
                wheel,
                name=legal(wheel.name),
                slots=tuple(replace(s, name=legal(s.name), filter=_optional(s.filter)) for s in wheel.slots),
            )
            for wheel in fixture_type.wheels
        ),
        emitters=tuple(replace(one, name=legal(one.name)) for one in fixture_type.emitters),
        profiles=tuple(replace(one, name=legal(one.name)) for one in fixture_type.profiles),
        filters=tuple(replace(one, name=legal(one.name)) for one in fixture_type.filters),
        ies={legal(name): data for name, data in fixture_type.ies.items()},
        webs={legal(name): info for name, info in fixture_type.webs.items()},
    )
