"""What a show is: items with an id, a kind and a body, and what was read from the files that they name.

Bodies are frozen dataclasses whose fields are the show file's JSON. Lengths in metres, angles in degrees where the
name ends in `_deg` (what people typed), else radians. Which kinds there are, and what each is: `kinds.py`.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from typing import Any, TypeVar

from pydantic import TypeAdapter, ValidationError

from zarfwright.core.errors import JobError
from zarfwright.core.kinds import KINDS, OF_BODY, Body, Kind
from zarfwright.core.memo import Memo
from zarfwright.core.mesh import MeshFile
from zarfwright.core.rig.things import Fixture
from zarfwright.core.settings import Layer, Settings
from zarfwright.core.space import Pose
from zarfwright.core.types.model import FixtureType

SHOW_ID = "show"
B = TypeVar("B", bound=Body)


@cache
def adapter(kind: str) -> TypeAdapter[Any]:
    """Reads and writes the bodies of a kind. Raises JobError for one that is not known."""
    if kind not in KINDS:
        raise JobError(f"This show holds a thing of the kind “{kind}”, which this version does not know.")
    return TypeAdapter(KINDS[kind].body)


def body_to_json(kind: str, body: Body) -> bytes:
    """The body as the JSON text that the show file keeps."""
    text: bytes = adapter(kind).dump_json(body)
    return text


def body_from_json(kind: str, text: bytes | str) -> Body:
    """Read a body back. Raises JobError where the text is not one."""
    try:
        body: Body = adapter(kind).validate_json(text)
    except ValidationError as wrong:
        raise JobError(f"A {kind} in this show file cannot be read: {wrong.errors()[0]['msg']}.") from wrong
    return body


@dataclass(frozen=True)
class Item:
    """One row of the show."""

    id: str
    kind: str
    body: Body
    parent: str | None = None
    layer: str | None = None
    order: int = 0
    rev: int = 0

    @property
    def is_a(self) -> Kind:
        """What its kind is: solid, carried, on layers ..."""
        return KINDS[self.kind]

    @property
    def name(self) -> str:
        """What people call it."""
        if isinstance(self.body, Fixture):
            word = "driver" if self.body.drives is not None else "fixture"
            return f"{word} {self.body.number}" if self.body.number is not None else f"an unnumbered {word}"
        return self.body.name


@dataclass(frozen=True)
class Damage:
    """What was damaged in a thing of a show file, and whether the thing could be read without it (core/mending.py)."""

    id: str
    kind: str
    what: str
    read: bool


@dataclass(frozen=True)
class Change:
    """What an edit does to one item: `before` is None when it is made, `after` when it is removed."""

    before: Item | None
    after: Item | None

    @property
    def id(self) -> str:
        item = self.after or self.before
        assert item is not None
        return item.id

    def undone(self) -> Change:
        return Change(self.after, self.before)


def _by_kind(items: Mapping[str, Item]) -> dict[str, list[Item]]:
    found: dict[str, list[Item]] = {}
    for item in items.values():
        found.setdefault(item.kind, []).append(item)
    for of_kind in found.values():
        of_kind.sort(key=lambda item: item.order)
    return found


# The items of a show are never changed in place: a show after an edit has a mapping of its own.
_by_kind_memo = Memo(_by_kind, 12)


@dataclass(frozen=True)
class Show:
    """All items by id, the fixture types by the id of their entry, and what mesh files hold by their asset. What an
    edit needs of files that are not in the show yet is here too: a type under `asset:` and its asset, a mesh."""

    items: Mapping[str, Item]
    types: Mapping[str, FixtureType] = field(default_factory=dict)
    meshes: Mapping[str, MeshFile] = field(default_factory=dict)
    damage: tuple[Damage, ...] = ()
    """What of its file could not be read, as long as nobody has changed it since."""
    poses: Mapping[str, Pose] = field(default_factory=dict)
    """Where drivers have brought structures and scenery, of a show as it is just now (core/carriers/posed.py); a show
    as it is kept has none."""
    moved: bool = False
    """Whether drivers have brought anything elsewhere."""

    def of_kind(self, kind: str) -> list[Item]:
        """The items of one kind, in their order."""
        return list(_by_kind_memo(self.items).get(kind, ()))

    def item(self, item_id: str, kind: str | None = None) -> Item:
        """One item. Raises JobError if it is not there, or is of another kind than asked."""
        item = self.items.get(item_id)
        if item is None:
            raise JobError("That is no longer in the show: somebody removed it. Select again.")
        if kind is not None and item.kind != kind:
            raise JobError(f"{item.name} is a {item.kind}, not a {kind}: select a {kind}.")
        return item

    def body(self, item_id: str, of: type[B]) -> B:
        """The body of one item. Raises JobError as `item` does."""
        body = self.item(item_id, OF_BODY[of]).body
        assert isinstance(body, of)
        return body

    def thing(self, item_id: str, of: type[B]) -> tuple[Item, B]:
        """One item and its body. Raises JobError as `item` does."""
        return self.item(item_id), self.body(item_id, of)

    def bodies(self, of: type[B]) -> Iterator[tuple[Item, B]]:
        """The items of one kind of body, in their order."""
        for item in _by_kind_memo(self.items).get(OF_BODY[of], ()):
            assert isinstance(item.body, of)
            yield item, item.body

    @property
    def settings(self) -> Settings:
        body = self.items[SHOW_ID].body if SHOW_ID in self.items else Settings()
        assert isinstance(body, Settings)
        return body

    def hidden(self, item: Item) -> bool:
        """Whether an item is on a layer that is not shown."""
        layer = self.items.get(item.layer) if item.layer else None
        return layer is not None and isinstance(layer.body, Layer) and not layer.body.shown

    def fixtures(self) -> Iterator[tuple[Item, Fixture]]:
        """The fixtures in their order: the order of their rows in every frame."""
        return self.bodies(Fixture)

    def lamps(self) -> Iterator[tuple[Item, Fixture]]:
        """The fixtures that stand or hang somewhere: all but drivers, which only move other things."""
        return ((item, fixture) for item, fixture in self.bodies(Fixture) if fixture.drives is None)

    def type_of(self, fixture: Fixture) -> FixtureType:
        """The type of a fixture. Raises JobError when the show has lost it."""
        if fixture.type not in self.types:
            raise JobError("The type of this fixture is not in the show: add its GDTF again.")
        return self.types[fixture.type]

    def after(self, changes: Iterable[Change]) -> Show:
        """The show with the changes applied."""
        items = dict(self.items)
        damage = {one.id: one for one in self.damage}
        for change in changes:
            damage.pop(change.id, None)
            if change.after is None:
                items.pop(change.id, None)
            else:
                items[change.id] = change.after
        return replace(self, items=items, damage=tuple(damage.values()))


def listed(show: Show, ids: Iterable[str], noun: str = "thing") -> str:
    """Things as a sentence names them: the one by its name, several by their count."""
    items = [show.items[i] for i in ids if i in show.items]
    if len(items) == 1:
        return items[0].name
    kinds = {item.kind for item in items}
    word = kinds.pop() if len(kinds) == 1 else noun
    return f"{len(items)} {word}{'es' if word.endswith('s') else 's'}"
