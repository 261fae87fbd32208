"""What would become of a show if it took a scene in: line by line, and as the changes of one edit."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from zarfwright.core.exchange.incoming import Incoming
from zarfwright.core.exchange.lamps import Beside, TypeUse, beside, lamp
from zarfwright.core.exchange.lie import Lay, laid
from zarfwright.core.exchange.offered import NO_LAYER, PART
from zarfwright.core.exchange.pairs import pairs_of, parts_of
from zarfwright.core.exchange.places import frame, only_turned
from zarfwright.core.exchange.received import KeptShape, Received, uuids
from zarfwright.core.exchange.rows import relative
from zarfwright.core.exchange.scene import Scene, Thing, uuid_of
from zarfwright.core.exchange.shapes import look_of
from zarfwright.core.exchange.taken import own_body, taken
from zarfwright.core.exchange.typing import TypeChoice, TypeSource, type_choices, type_sources
from zarfwright.core.exchange.words import difference
from zarfwright.core.kinds import KINDS, OF_BODY, Body
from zarfwright.core.rig.left import left_behind
from zarfwright.core.rig.things import Fixture, FocusPoint
from zarfwright.core.settings import Layer
from zarfwright.core.show import Change, Item, Show
from zarfwright.core.site.things import MeshPiece, Truss

GROUPS = ("layers", "carriers", "structures", "scenery", "people", "focus points", "fixtures")
GROUP_OF = {
    "carrier": "carriers", "truss": "structures", "figure": "people", "crowd": "people", "focus point": "focus points",
    "fixture": "fixtures", "layer": "layers",
}  # fmt: skip


@dataclass(frozen=True)
class Choices:
    """What of a scene is taken, and how."""

    kinds: frozenset[str] = frozenset(GROUPS)
    remove: frozenset[str] = frozenset()
    """Of which groups things are removed that the file does not have."""
    leave: frozenset[str] = frozenset()
    """Single things (UUIDs, or ids of what would be removed) that stay as they are."""
    types: Mapping[str, str] = field(default_factory=dict)
    """By the name of a type's file: `show:ID`, `file`, `library:GUID` or `plain`; else as suggested."""
    lay: Lay = field(default_factory=Lay)


@dataclass(frozen=True)
class Line:
    """What becomes of one thing: `change` is added, changed, removed, kept (here, but not in the file) or left out."""

    key: str
    """What is chosen by: its UUID, or the id of what the file does not have."""
    id: str | None
    group: str
    change: str
    name: str
    text: str


@dataclass(frozen=True)
class Comparison:
    """All of it."""

    lines: tuple[Line, ...]
    changes: tuple[Change, ...]
    types: tuple[TypeChoice, ...]
    findings: tuple[tuple[str, str, str], ...]
    """Where, what, and what was done about it."""
    pairs: Mapping[str, str]
    same: int
    """How many things are here as they are in the file."""
    beside: tuple[Beside, ...]
    shapes: Mapping[str, str]
    """The shapes that are shown as meshes here, by their assets."""
    anew: frozenset[str]
    """The things (UUIDs) that are made anew by what this program wrote of them."""
    sources: Mapping[str, TypeSource]
    """The types that the show does not have yet, by the ids that they get."""
    scene: Scene
    """The scene as it was laid."""
    select: tuple[str, ...] = ()

    in_file: Mapping[str, int] = field(default_factory=dict)
    """How many things of each group the file has."""

    def count(self, change: str, group: str | None = None) -> int:
        """How many things change so, of all or of a group."""
        return sum(1 for line in self.lines if line.change == change and group in (None, line.group))


class _Comparing:
    """One scene beside one show."""

    def __init__(self, show: Show, incoming: Incoming, choices: Choices) -> None:
        self.show, self.incoming, self.choices = show, incoming, choices
        self.scene = laid(incoming.scene, choices.lay)
        self.pairs = pairs_of(show, self.scene)
        self.parts = parts_of(show)
        self.owned = {thing.uuid for thing in self.scene.things if thing.own is not None}
        self.ids: dict[str, str] = dict(self.pairs)
        self.made: dict[str, Item] = {}
        self.findings = [(odd.where, odd.what, odd.done) for odd in incoming.findings]
        self.lines: list[Line] = []
        self.same = 0
        self.shapes: dict[str, str] = {}
        self.anew: set[str] = set()
        self.layers: dict[str, str | None] = {NO_LAYER: None}
        self.orders: dict[str, int] = {}
        self.replaced: list[Item] = []
        said = [thing.said for thing in self.scene.things if thing.said is not None]
        # A file that says nothing of addresses, or of numbers, says nothing of those that things have here.
        self.numbered = any(one.number is not None for one in said)
        self.addressed = any(one.addresses for one in said)

    def group_of(self, thing: Thing) -> str:
        if thing.own is not None and thing.own.kind in GROUP_OF:
            return GROUP_OF[thing.own.kind]
        known = self.pairs.get(thing.uuid)
        if known is not None:
            return GROUP_OF.get(self.show.items[known].kind, "scenery")
        tags = {"Fixture": "fixtures", "Truss": "structures", "FocusPoint": "focus points", "GroupObject": "carriers"}
        return tags.get(thing.tag, "scenery")

    def wanted(self, thing: Thing) -> bool:
        return self.group_of(thing) in self.choices.kinds and thing.uuid not in self.choices.leave

    def run(self) -> Comparison:
        chosen = type_choices(self.show, self.incoming, self.scene, self.choices.types)
        uses, sources = type_sources(self.show, self.incoming, chosen)
        things = [thing for thing in self.scene.things if not self._is_part(thing)]
        self._layers()
        self._identify(things)
        for thing in things:
            if thing.said is None:
                self._plain(thing)
        after = self._after()
        points = {key: self.ids[key] for key in (thing.uuid for thing in things if thing.tag == "FocusPoint")
                  if key in self.ids}  # fmt: skip
        for thing in things:
            if thing.said is not None:
                self._fixture(thing, uses[thing.said.spec], after, points)
        types = self._types(uses, sources)
        gone = self._absent()
        changes = [*types, *self._without(gone)]
        final = self.show.after(changes)
        self._words(final)
        touched = {change.id for change in changes}
        new = [item.id for item in self.made.values() if item.kind == "fixture" and item.id in touched]
        in_file = Counter(self.group_of(thing) for thing in things)
        in_file["layers"] = sum(1 for key, _ in self.scene.layers if key != NO_LAYER)
        return Comparison(
            tuple(self.lines), tuple(changes), tuple(chosen), tuple(self.findings), self.pairs, self.same,
            tuple(beside(final, new)), self.shapes, frozenset(self.anew), sources, self.scene, tuple(new), in_file,
        )  # fmt: skip

    def found(self, thing: Thing, what: str, done: str) -> None:
        self.findings.append((_begun(thing.called), what, done))

    def _is_part(self, thing: Thing) -> bool:
        """Whether a thing is made anew from another one: the points that a structure of ours is lifted at."""
        if thing.uuid in self.parts:
            self.anew.add(thing.uuid)
            return True
        if thing.own is None or thing.own.kind != PART:
            return False
        try:
            of = json.loads(thing.own.text)
        except ValueError:
            return False
        if of not in self.owned:
            return False
        self.anew.add(thing.uuid)
        return True

    # Layers, and who is who

    def _layers(self) -> None:
        uuid = uuids(self.show)
        by_uuid = {uuid(item.id): item for item in self.show.of_kind("layer")}
        by_name = {item.name.casefold(): item for item in self.show.of_kind("layer")}
        for key, name in self.scene.layers:
            if key == NO_LAYER:
                continue
            item = by_uuid.get(key) or by_name.get(name.casefold())
            if item is not None:
                self.layers[key] = item.id
            elif "layers" in self.choices.kinds and key not in self.choices.leave:
                made = self._new(key, "layer", Layer(name))
                self.layers[key] = made.id
                self.lines.append(Line(key, None, "layers", "added", name, "a new layer"))
            else:
                self.lines.append(Line(key, None, "layers", "left out", name, "what is on it comes without a layer"))

    def _new(self, key: str, kind: str, body: Body, layer: str | None = None, parent: str | None = None) -> Item:
        order = self.orders.get(kind)
        if order is None:
            order = max((item.order for item in self.show.items.values() if item.kind == kind), default=0)
        self.orders[kind] = order + 1
        item_id = self.ids.get(key) or self.free_id(key)
        self.ids[key] = item_id
        item = Item(item_id, kind, body, parent, layer, order + 1)
        self.made[key] = item
        return item

    def free_id(self, key: str) -> str:
        """An id for what has a UUID: that itself, unless something has it already. The same scene beside the same show
        gets the same ids."""
        free, n = key, 2
        while free in self.show.items:
            free, n = uuid_of(f"{key} again {n}"), n + 1
        return free

    def _identify(self, things: list[Thing]) -> None:
        """An id for each thing that is taken: others may refer to it before it is made."""
        for thing in things:
            if thing.uuid not in self.ids and self.wanted(thing):
                self.ids[thing.uuid] = self.free_id(thing.uuid)

    def _layer_of(self, thing: Thing, known: Item | None) -> str | None:
        key = thing.layer or NO_LAYER
        if thing.own is not None and thing.own.layer is not None and thing.own.inside == thing.layer:
            key = thing.own.layer
        if key in self.layers:
            return self.layers[key]
        return known.layer if known is not None else None

    def _parent_of(self, thing: Thing, known: Item | None) -> str | None:
        if "carriers" not in self.choices.kinds:
            return known.parent if known is not None else None
        above = self.ids.get(thing.group or "")
        return above if thing.group is not None and above is not None else None

    # Things

    def _known(self, thing: Thing) -> Item | None:
        key = self.pairs.get(thing.uuid)
        return self.show.items[key] if key is not None else None

    def _leave(self, thing: Thing, why: str) -> None:
        known = self.pairs.get(thing.uuid)
        self.lines.append(Line(thing.uuid, known, self.group_of(thing), "left out", _begun(thing.called), why))

    def _plain(self, thing: Thing) -> None:
        known = self._known(thing)
        if not self.wanted(thing):
            self._leave(thing, "as chosen")
            return
        made = taken(thing, self.scene, known.body if known is not None else None)
        if made is None:
            self.ids.pop(thing.uuid, None)
            self._leave(thing, "nothing of it can be shown here; it is kept, and goes out again")
            return
        if made.said:
            self.found(thing, made.said, "taken so")
        body = made.body
        if isinstance(body, FocusPoint) and body.rides is not None:
            body = replace(body, rides=self.ids.get(body.rides, body.rides if body.rides in self.show.items else None))
        if thing.own is not None and thing.own.kind == OF_BODY[type(body)]:
            self.anew.add(thing.uuid)
        elif known is not None and not isinstance(body, MeshPiece):
            self._shape_as_here(thing, known)
        self._put(thing, known, body)

    def _shape_as_here(self, thing: Thing, known: Item) -> None:
        """Say so where the file shows a thing otherwise than it is here."""
        shape = self.scene.shapes.get(thing.shape)
        if shape is None:
            return
        look = look_of(self.show, known)
        if look is not None and look.key[:10] not in shape.name and look.asset != thing.shape:
            kept = self._kept_shape(thing.uuid)
            if kept is None or kept.shape != look.key:
                self.found(thing, "its shape in the file is another one", "the shape that it has here stays")

    def _kept_shape(self, key: str) -> KeptShape | None:
        return next((body.shapes[key] for _, body in self.show.bodies(Received) if key in body.shapes), None)

    def _put(self, thing: Thing, known: Item | None, body: Body) -> None:
        """A body in place of the known item, or as a new one."""
        kind = OF_BODY[type(body)]
        layer = self._layer_of(thing, known) if KINDS[kind].layered else None
        parent = self._parent_of(thing, known) if KINDS[kind].carried else None
        if known is not None and known.kind != kind:
            # It has become another sort of thing: that one goes, this one comes.
            self.pairs = {key: value for key, value in self.pairs.items() if key != thing.uuid}
            self.ids[thing.uuid] = self.free_id(thing.uuid)
            self.replaced.append(known)
            known = None
        if known is None:
            self._new(thing.uuid, kind, body, layer, parent)
        else:
            self.made[thing.uuid] = replace(known, body=body, layer=layer, parent=parent)
        shape = self.scene.shapes.get(thing.shape)
        if isinstance(body, MeshPiece) and shape is not None and shape.asset == body.asset:
            self.shapes[thing.shape] = body.asset

    def _after(self) -> Show:
        """The show with what is taken so far, for fixtures to hang on."""
        return self.show.after(self._changes())

    def _fixture(self, thing: Thing, use: TypeUse, after: Show, points: Mapping[str, str]) -> None:
        known = self._known(thing)
        if not self.wanted(thing):
            self._leave(thing, "as chosen")
            return
        assert thing.said is not None
        base, wrong = own_body(thing.own, thing)
        if wrong:
            self.found(thing, wrong, "taken so")
        if not only_turned(thing.place):
            self.found(thing, "its matrix mirrors or stretches it, as no lamp can be", "taken turned, in its own size")
        body = known.body if known is not None else None
        if isinstance(base, Fixture):
            self.anew.add(thing.uuid)
            base = self._by_ids(base)
            if isinstance(body, Fixture):
                base = replace(base, type=body.type, hands=body.hands, cells=body.cells, palettes=body.palettes)
            else:
                base = replace(base, type=use.id)
        said = replace(thing.said, focus=points.get(thing.said.focus or ""))
        told = base if isinstance(base, Fixture) else body if isinstance(body, Fixture) else None
        if told is not None:
            said = replace(said, number=said.number if self.numbered else told.number)
        made = lamp(thing, said, use, told, after)
        if told is not None and not self.addressed and made.mode == told.mode:
            made = replace(made, universe=told.universe, address=told.address, breaks=told.breaks)
        self._put(thing, known, made)

    def _by_ids(self, fixture: Fixture) -> Fixture:
        """What this program wrote of a fixture, with the ids that things have here."""
        hang, aim = fixture.hang, fixture.aim
        if hang is not None:
            hang = replace(hang, structure=self.ids.get(hang.structure, ""))
        if aim is not None and aim.point is not None:
            aim = replace(aim, point=self.ids.get(aim.point))
        drives = fixture.drives
        if drives is not None:
            drives = replace(drives, thing=self.ids[drives.thing]) if drives.thing in self.ids else None
        return replace(fixture, hang=hang, aim=aim, drives=drives)

    # What it comes to

    def _types(self, uses: Mapping[str, TypeUse], sources: Mapping[str, TypeSource]) -> list[Change]:
        """The entries of types that are not in the show yet, of those that a fixture now has."""
        used = {item.body.type for item in self.made.values() if isinstance(item.body, Fixture)}
        order = max((item.order for item in self.show.of_kind("type")), default=0)
        return [
            Change(None, replace(source.item, order=order + i + 1))
            for i, source in enumerate(source for key, source in sources.items() if key in used)
        ]

    def _changes(self) -> list[Change]:
        """What is made and changed."""
        changes = []
        for item in self.made.values():
            was = self.show.items.get(item.id)
            if was is None:
                changes.append(Change(None, item))
            elif (was.body, was.layer, was.parent) != (item.body, item.layer, item.parent):
                changes.append(Change(was, replace(item, rev=was.rev + 1)))
        return changes

    def _without(self, gone: list[Item]) -> list[Change]:
        """What is made and changed, and what goes; what hangs on that stays where it is."""
        changes = {change.id: change for change in self._changes()}
        going = {item.id for item in gone}
        for key, item in left_behind(self.show.after(changes.values()), going).items():
            before = self.show.items.get(key)
            changes[key] = Change(before, replace(item, rev=before.rev + 1 if before is not None else item.rev))
        return [*changes.values(), *(Change(item, None) for item in gone)]

    def _absent(self) -> list[Item]:
        """What is here and not in the file: kept, unless it is asked to be removed; gives what goes."""
        there = {*self.pairs.values(), *(item.id for item in (*self.made.values(), *self.replaced))}
        going = list(self.replaced)
        for item in self.show.items.values():
            group = GROUP_OF.get(item.kind, "scenery" if KINDS[item.kind].solid else "")
            if not group or group == "layers" or item.id in there or item.kind == "crowd":
                continue
            gone = group in self.choices.remove and group in self.choices.kinds and item.id not in self.choices.leave
            change = "removed" if gone else "kept"
            text = "the file does not have it" if gone else "the file does not have it; it stays"
            self.lines.append(Line(item.id, item.id, group, change, _called(item), text))
            if gone:
                going.append(item)
        return going

    def _words(self, final: Show) -> None:
        """A line for each thing that is new or changed."""
        for key, item in self.made.items():
            if item.kind == "layer":
                continue
            group = GROUP_OF.get(item.kind, "scenery")
            was = self.show.items.get(item.id)
            if was is None:
                text = difference(final, None, final.items[item.id])
                self.lines.append(Line(key, None, group, "added", _called(item), text))
            elif (was.body, was.layer, was.parent) == (item.body, item.layer, item.parent):
                self.same += 1
            else:
                text = difference(self.show, was, final.items[item.id], final)
                self.lines.append(Line(key, item.id, group, "changed", _called(was), text))


def _begun(name: str) -> str:
    """A name at the beginning of a sentence."""
    return name[:1].upper() + name[1:]


def _called(item: Item) -> str:
    return _begun(item.name)


def compare(show: Show, incoming: Incoming, choices: Choices) -> Comparison:
    """A scene beside a show, with what would become of the show."""
    return _Comparing(show, incoming, choices).run()


def beside_words(show: Show, compared: Comparison) -> list[str]:
    """Heads that come in beside a structure, in words; `show` is the one after the edit."""
    return [
        f"{len(one.ids)} beside {show.items[one.structure].name}, {one.furthest_m * 100:.0f} cm from its rails at most"
        for one in compared.beside
    ]


def received(show: Show, incoming: Incoming, compared: Comparison, assets: Mapping[str, str], scene: str) -> Received:
    """What is kept of the file so that it can be written back: `assets` by the names of its entries, `scene` the asset
    of its description. `show` is the one after the edit."""
    ids = {key: item_id for key, item_id in compared.pairs.items() if item_id in show.items}
    keys = {item_id: key for key, item_id in ids.items()}
    shapes: dict[str, KeptShape] = {}
    things = {thing.uuid: thing for thing in compared.scene.things}
    for change in compared.changes:
        item = change.after
        if item is None or item.kind in ("fixture", "type", "layer", "carrier", "focus point"):
            continue
        key = keys.get(item.id) or uuid_of(item.id)
        thing = things.get(key)
        if thing is None or key in compared.anew or (look := look_of(show, item)) is None:
            continue
        other = relative(frame(item.body), thing.place) if isinstance(item.body, Truss) else None
        shapes[key] = KeptShape(look.key, other)
    other_ids = {item_id: key for key, item_id in ids.items() if uuid_of(item_id) != key}
    return Received(incoming.name, scene, dict(assets), shapes, other_ids)
