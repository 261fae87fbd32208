"""A show as the scene that others get: what of it goes out, and what is left out and why."""

from __future__ import annotations

import json
from collections.abc import Callable, Container, Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

from zarfwright.core.dmx.rows import break_places
from zarfwright.core.exchange.places import place_of
from zarfwright.core.exchange.received import uuids
from zarfwright.core.exchange.rows import rows_of
from zarfwright.core.exchange.scene import FixtureSaid, FoundType, Own, Scene, Tag, Thing, uuid_of
from zarfwright.core.exchange.shapes import Look, heads, look_of
from zarfwright.core.kinds import Body
from zarfwright.core.mesh import MeshFile, MeshPart, moved
from zarfwright.core.rig.things import Carrier, Fixture, FocusPoint, TypeEntry
from zarfwright.core.scene import ALUMINIUM
from zarfwright.core.settings import Layer
from zarfwright.core.show import Item, Show, adapter
from zarfwright.core.site.rigging import points_of, steel_height_m
from zarfwright.core.site.things import Crowd, Piece, Truss
from zarfwright.core.space import Placement, vec

NO_LAYER = uuid_of("no layer")
"""The layer of what lies on none."""
PART = "part"
"""The kind of what only belongs to something else: it is made anew from that."""


@dataclass(frozen=True)
class LeftOut:
    """What does not go out, and why."""

    what: str
    why: str


@dataclass(frozen=True)
class Offer:
    """A scene with what its things look like, by the keys of their shapes, and what was left out."""

    scene: Scene
    looks: Mapping[str, Look]
    left_out: tuple[LeftOut, ...] = ()


@dataclass(frozen=True)
class Wish:
    """What of a show is to go out."""

    only: Literal["all", "shown", "fixtures"] = "all"
    ids: Container[str] | None = None
    """Only these things, and what is on the carriers among them; None: of all."""
    people: bool = False
    """Whether crowds go out as figures."""


def part_of(structure: str, number: int) -> str:
    """The UUID of one of the points that a structure is lifted at."""
    return uuid_of(f"{structure} point {number}")


def tag_of(body: Body) -> Tag:
    """What a thing is in the words of MVR."""
    if isinstance(body, Fixture):
        return "Fixture"
    if isinstance(body, Truss):
        return "Truss"
    if isinstance(body, FocusPoint):
        return "FocusPoint"
    if isinstance(body, Carrier):
        return "GroupObject"
    if isinstance(body, Piece) and body.piece == "screen":
        return "VideoScreen"
    return "SceneObject"


class _Going:
    """One show on its way out."""

    def __init__(self, show: Show, wish: Wish, spec_of: Mapping[str, str]) -> None:
        self.show, self.wish, self.spec_of = show, wish, spec_of
        self.uuid = uuids(show)
        self.looks: dict[str, Look] = {}
        self.left: dict[tuple[str, str], int] = {}

    def leave(self, what: str, why: str, count: int = 1) -> None:
        self.left[what, why] = self.left.get((what, why), 0) + count

    def wanted(self, item: Item) -> bool:
        """Whether a thing is among what is asked for; carriers go with what is on them."""
        kind = KINDS_OUT.get(item.kind)
        if kind is None:
            return False
        if self.wish.ids is not None and item.id not in self.wish.ids:
            return False
        if self.wish.only == "fixtures" and item.kind not in ("fixture", "focus point"):
            return False
        if self.wish.only == "shown" and self.show.hidden(item):
            self.leave(kind, "on a layer that is not shown")
            return False
        if isinstance(item.body, Crowd) and not self.wish.people:
            self.leave("people of crowds", "figures are left out unless they are asked for", heads(self.show, item))
            return False
        if isinstance(item.body, Fixture) and item.body.type not in self.show.types:
            self.leave("fixtures", "their type is missing from the show")
            return False
        return True

    def chosen(self) -> list[Item]:
        """What goes out, in the order of the show, with the carriers that it is on."""
        items = [item for item in self.show.items.values() if item.kind in KINDS_OUT and item.kind != "carrier"]
        found = [item for item in items if self.wanted(item)]
        if self.wish.ids is not None:
            found += self._aimed_at(found)
        needed = {key for item in found for key in self.carriers(item)}
        every = self.wish.ids is None and self.wish.only == "all"
        carriers = [item for item in self.show.of_kind("carrier") if every or item.id in needed]
        return [*carriers, *sorted(found, key=lambda item: (item.kind, item.order))]

    def _aimed_at(self, chosen: list[Item]) -> list[Item]:
        """The focus points of fixtures that are chosen one by one, as far as they are not chosen themselves."""
        aims = [item.body.aim for item in chosen if isinstance(item.body, Fixture)]
        points = dict.fromkeys(aim.point for aim in aims if aim is not None and aim.point in self.show.items)
        there = {item.id for item in chosen}
        return [self.show.items[point] for point in points if point is not None and point not in there]

    def carriers(self, item: Item) -> list[str]:
        """The carriers that a thing is on, the nearest first."""
        found: list[str] = []
        while item.parent is not None and item.parent not in found:
            above = self.show.items.get(item.parent)
            if above is None or above.kind != "carrier":
                break
            found.append(above.id)
            item = above
        return found

    def own(self, item: Item, inside: str | None) -> Own:
        """What our own reader needs to make the very thing again."""
        told: dict[str, Any] = json.loads(
            adapter(item.kind).dump_json(without_ids(self.show, item.body, self.uuid), exclude_defaults=True)
        )
        layer = self.uuid(item.layer) if item.layer is not None and item.layer in self.show.items else NO_LAYER
        return Own(item.kind, json.dumps(told, ensure_ascii=False, sort_keys=True), layer, inside)

    def thing(self, item: Item, layers: dict[str, str]) -> Thing:
        body = item.body
        carriers = self.carriers(item)
        # What is on a carrier lies on the layer of the outermost one in the file.
        outer = self.show.items[carriers[-1]] if carriers else item
        inside = layers.get(outer.layer or "", NO_LAYER)
        look = None if isinstance(body, Fixture | Carrier | FocusPoint) else look_of(self.show, item)
        if look is not None:
            self.looks[look.key] = look
        return Thing(
            self.uuid(item.id),
            tag_of(body),
            self.name(item),
            place_of(self.show, body),
            inside,
            self.uuid(carriers[0]) if carriers else None,
            self.said(body) if isinstance(body, Fixture) else None,
            look.key if look is not None else "",
            self.own(item, inside),
            self.position(body),
        )

    def name(self, item: Item) -> str:
        if isinstance(item.body, Fixture):
            fixture_type = self.show.types[item.body.type].name
            return f"{fixture_type} {item.body.number}" if item.body.number is not None else fixture_type
        return item.name

    def position(self, body: Body) -> str:
        """The name of what a fixture hangs on."""
        hang = body.hang if isinstance(body, Fixture) else None
        structure = self.show.items.get(hang.structure) if hang is not None else None
        return structure.name if structure is not None else ""

    def said(self, fixture: Fixture) -> FixtureSaid:
        mode = self.show.types[fixture.type].mode(fixture.mode)
        places = {}
        if fixture.universe is not None and fixture.address is not None:
            places = break_places(mode, (fixture.universe, fixture.address), fixture.breaks) or {
                1: (fixture.universe, fixture.address)
            }
        point = fixture.aim.point if fixture.aim is not None else None
        gel = fixture.gel
        return FixtureSaid(
            self.spec_of[fixture.type],
            fixture.mode,
            tuple((number, universe, slot) for number, (universe, slot) in places.items()),
            fixture.number,
            fixture.unit,
            self.uuid(point) if point is not None and point in self.show.items else None,
            (gel.x, gel.y, gel.luminance) if gel is not None else None,
            fixture.purpose,
        )

    def points(self, item: Item, thing: Thing) -> list[Thing]:
        """What a structure is lifted by, as supports."""
        assert isinstance(item.body, Truss)
        found = []
        for i, (place, mesh) in enumerate(points_of(item.body)):
            file = MeshFile((MeshPart("steel", ALUMINIUM, moved(mesh, -place)),))
            look = Look(file.whole.key[:24], file)
            self.looks[look.key] = look
            found.append(
                Thing(
                    part_of(item.id, i + 1),
                    "Support",
                    f"{item.name} point {i + 1}",
                    rows_of(Placement(vec(place))),
                    thing.layer,
                    thing.group,
                    shape=look.key,
                    own=Own(PART, json.dumps(thing.uuid)),
                    position=item.name,
                    of=thing.uuid,
                    length_m=steel_height_m(item.body) - float(place[2]),
                )
            )
        return found


KINDS_OUT = {
    "venue": "rooms", "deck": "decks", "wall": "walls", "panel": "panels", "piece": "pieces of scenery",
    "mesh": "meshes", "truss": "structures", "figure": "figures", "crowd": "crowds", "fixture": "fixtures",
    "focus point": "focus points", "carrier": "carriers",
}  # fmt: skip
"""The kinds that go out, and what many of them are called."""


def without_ids(show: Show, body: Body, uuid: Callable[[str], str]) -> Body:
    """The body with UUIDs in place of the ids of other things, and without what only this show knows."""
    if isinstance(body, FocusPoint):
        return replace(body, rides=uuid(body.rides) if body.rides is not None and body.rides in show.items else None)
    if not isinstance(body, Fixture):
        return body
    hang = body.hang
    if hang is not None and hang.structure in show.items:
        hang = replace(hang, structure=uuid(hang.structure))
    aim = body.aim
    if aim is not None:
        aim = replace(aim, point=uuid(aim.point) if aim.point is not None and aim.point in show.items else None)
    drives = body.drives
    if drives is not None:
        drives = replace(drives, thing=uuid(drives.thing)) if drives.thing in show.items else None
    # What it is held at just now is of no use to others.
    return replace(body, type="", hang=hang, aim=aim, drives=drives, hands={}, cells={}, palettes={})


def specs(show: Show, name_of: Callable[[str], str]) -> dict[str, str]:
    """A name for the GDTF file of each type, by its entry: that of its asset (`name_of`), each once."""
    found: dict[str, str] = {}
    taken: dict[str, str] = {}
    for item, entry in show.bodies(TypeEntry):
        stem = plain_file_name(name_of(entry.asset) or f"{entry.maker}@{entry.name}.gdtf").removesuffix(".gdtf")
        wanted, n = f"{stem}.gdtf", 2
        while taken.get(wanted.casefold(), entry.asset) != entry.asset:
            wanted, n = f"{stem} {n}.gdtf", n + 1
        taken[wanted.casefold()] = entry.asset
        found[item.id] = wanted
    return found


def plain_file_name(name: str) -> str:
    """A name that any program can put into an archive: no folders, no signs that systems forbid."""
    made = "".join("_" if sign in '\\/:*?"<>|' or ord(sign) < 32 else sign for sign in name).strip(" .")
    return made[-120:] or "unnamed"


def offer(show: Show, wish: Wish, name_of: Callable[[str], str] = lambda _: "") -> Offer:
    """What of a show goes out as a scene. `name_of` gives the name of an asset."""
    spec_of = specs(show, name_of)
    going = _Going(show, wish, spec_of)
    items = going.chosen()
    layers = {item.id: going.uuid(item.id) for item in show.of_kind("layer")}
    things: list[Thing] = []
    for item in items:
        thing = going.thing(item, layers)
        things.append(thing)
        if isinstance(item.body, Truss):
            things += going.points(item, thing)
    types = _types_of(show, (item.body for item in items), spec_of)
    named = [(NO_LAYER, "Show"), *((going.uuid(item.id), item.name) for item, _ in show.bodies(Layer))]
    there = {thing.layer for thing in things} | {thing.own.layer for thing in things if thing.own is not None}
    kept = tuple((key, name) for key, name in named if key in there or (wish.ids is None and key != NO_LAYER))
    left = tuple(LeftOut(f"{count} {what}", why) for (what, why), count in going.left.items())
    return Offer(Scene(tuple(things), kept, types, provider="Zarfwright", own=True), going.looks, left)


def _types_of(show: Show, bodies: Iterable[Body], spec_of: Mapping[str, str]) -> dict[str, FoundType]:
    """The types of the fixtures that go out."""
    found: dict[str, FoundType] = {}
    for key in dict.fromkeys(body.type for body in bodies if isinstance(body, Fixture)):
        entry, fixture_type = show.body(key, TypeEntry), show.types[key]
        sizes = {mode.name: sum(mode.footprints.values()) for mode in fixture_type.modes}
        found[spec_of[key]] = FoundType(
            spec_of[key], fixture_type.name, fixture_type.maker, entry.asset, fixture_type.type_id, sizes
        )
    return found
