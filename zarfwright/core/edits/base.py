"""What every edit shares: the arguments' base, the result, and small steps towards it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Annotated, Any, Generic, Protocol, TypeVar

from pydantic import BaseModel, ConfigDict, Field

from zarfwright.core.errors import JobError
from zarfwright.core.exchange.incoming import Incoming
from zarfwright.core.kinds import KINDS, Body
from zarfwright.core.looks.said import Said
from zarfwright.core.mesh import MeshFile
from zarfwright.core.optics.gate import Mask
from zarfwright.core.optics.web import Web
from zarfwright.core.picture import BeamTable
from zarfwright.core.plain import NAME_MOST, TEXT_MOST
from zarfwright.core.settings import Layer
from zarfwright.core.show import Change, Item, Show
from zarfwright.core.space import Pose
from zarfwright.core.types.model import FixtureType
from zarfwright.core.units import parse_length, parse_typed

NewId = Callable[[], str]


class Arguments(BaseModel):
    """Arguments of an edit. What people type arrives as text and is read here, by the one parser."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False, str_max_length=NAME_MOST)


LongText = Annotated[str, Field(max_length=TEXT_MOST)]
"""An argument that is more than a line."""


A = TypeVar("A", bound=Arguments)


@dataclass(frozen=True)
class Edit:
    """What an edit comes to: the changes, the journal's sentence, what to select after it, and what to say of it."""

    changes: tuple[Change, ...]
    sentence: str
    select: tuple[str, ...] = ()
    report: tuple[str, ...] = ()


Values = dict[str, dict[str, float]]
"""Of features, by fixture or by cell (`id/3`)."""


class Around(Protocol):
    """What is outside of the show that an edit may need. It may take its time: it is asked before the edit is worked
    out, with nothing locked."""

    def values(self) -> Said:
        """What every fixture shows now; none where nothing is live."""

    def poses(self) -> dict[str, Pose]:
        """Where drivers have brought what they move, by the id of its thing; none where nothing is live."""

    def type_in(self, asset: str) -> FixtureType | None:
        """The type that a GDTF file among the assets holds."""

    def mesh_in(self, asset: str) -> MeshFile | None:
        """What a mesh file among the assets holds."""

    def keep(self, name: str, data: bytes) -> str:
        """Keep bytes among the assets; gives their asset."""

    def keep_type(self, fixture_type: FixtureType) -> str:
        """Keep a type as a GDTF file among the assets; gives its asset."""

    def asset(self, asset: str) -> bytes | None:
        """The bytes of an asset."""

    def shipped(self, key: str) -> tuple[FixtureType, str, bytes]:
        """A type of the library by its GUID, with the name and the bytes of its file. Raises JobError."""

    def scene_in(self, key: str) -> Incoming:
        """A scene file that has arrived. Raises JobError where it is not there any more."""

    def optics(self, table: BeamTable) -> tuple[dict[str, Mask], dict[str, Web]]:
        """Gobo images and photometric webs of a rig's beams, by key."""


@dataclass(frozen=True)
class Call:
    """A call that may be made in another process: a function of a module, and arguments that can be sent there."""

    function: Callable[..., Any]
    args: tuple[Any, ...]

    def __call__(self) -> Any:
        return self.function(*self.args)


@dataclass(frozen=True)
class Long(Generic[A]):
    """What of an edit takes long, and is done before it: the calls to make, and where their answers go in the show that
    it is worked out on. The edit gets the answers after its other arguments; the show may have changed meanwhile."""

    calls: Callable[[Show, A], list[Call]]
    into: Callable[[Show, A, list[Any]], Show] = lambda show, _args, _answers: show


class Needs(Protocol[A]):
    """What an edit needs of what is around: its arguments with it filled in, and the show with what was read."""

    def __call__(self, show: Show, args: A, around: Around, /) -> tuple[Show, A]: ...


def length(show: Show, text: str, field: str, least: float | None = None, most: float = 2000.0) -> float:
    """Read a typed length in metres, within limits. Raises JobError naming the field."""
    try:
        value = parse_length(text, show.settings.system)
    except JobError as wrong:
        raise JobError(str(wrong), field) from wrong
    return within(value, field, least, most)


def signed_length(show: Show, text: str, field: str, most: float = 2000.0) -> float:
    """A typed length that may be negative, as an offset; nothing typed is none. Raises JobError naming the field."""
    plain = text.strip()
    if plain.lstrip("+-") in ("", "0"):
        return 0.0
    return length(show, plain.lstrip("+-"), field, 0.0, most) * (-1.0 if plain.startswith("-") else 1.0)


def coordinate(show: Show, text: str, field: str, axis: str) -> float:
    """Read a typed place on an axis, where SL, SR, US, DS may be named. Raises JobError naming the field."""
    try:
        typed = parse_typed("=" + text if text.strip()[:1] in "+-" else text, "length", show.settings.system, axis)
    except JobError as wrong:
        raise JobError(str(wrong), field) from wrong
    return typed.first


def within(value: float, field: str, least: float | None, most: float | None) -> float:
    """The value, if it is within limits. Raises JobError naming the field."""
    words = field.replace("_", " ")
    if not math.isfinite(value):
        raise JobError(f"The {words} is not a number: type another.", field)
    if least is not None and value < least - 1e-12:
        raise JobError(f"The {words} cannot be {value:g}: type at least {least:g}.", field)
    if most is not None and value > most + 1e-12:
        raise JobError(f"The {words} cannot be {value:g}: type at most {most:g}.", field)
    return value


def last_order(show: Show, kind: str) -> int:
    """The order after the last item of a kind."""
    return max((item.order for item in show.items.values() if item.kind == kind), default=0) + 1


def added(show: Show, kind: str, bodies: Iterable[Body], new_id: NewId) -> list[Item]:
    """New items of one kind, after those that are there."""
    start = last_order(show, kind)
    active = show.settings.active_layer
    layer = active if active in show.items and KINDS[kind].layered else None
    return [Item(new_id(), kind, body, layer=layer, order=start + i) for i, body in enumerate(bodies)]


def changed(item: Item, body: Body) -> Change:
    """The item with another body, one revision on."""
    return Change(item, Item(item.id, item.kind, body, item.parent, item.layer, item.order, item.rev + 1))


def made(item: Item) -> Change:
    return Change(None, item)


def free_name(show: Show, kind: str, wanted: str, stem: str) -> str:
    """The wanted name, or the stem with the next free number."""
    if wanted.strip():
        return wanted.strip()
    taken = {item.name for item in show.of_kind(kind)}
    return next(f"{stem} {n}" for n in range(1, len(taken) + 2) if f"{stem} {n}" not in taken)


def require_unlocked(show: Show, changes: Iterable[Change]) -> None:
    """Raises JobError where something would be changed, removed or put that is on a locked layer."""
    held: dict[str, list[Item]] = {}
    for change in changes:
        for item in (change.before, change.after):
            layer = show.items.get(item.layer) if item is not None and item.layer else None
            if item is not None and layer is not None and isinstance(layer.body, Layer) and layer.body.locked:
                held.setdefault(layer.id, []).append(item)
                break
    for layer_id, items in held.items():
        layer = show.items[layer_id]
        what = f"{items[0].name} is" if len(items) == 1 else f"{len(items)} things of this are"
        raise JobError(f"{what} on the layer {layer.name}, which is locked: unlock it in Site, Layers, first.")


def require_some(ids: list[str], what: str) -> None:
    """Raises JobError when nothing is selected."""
    if not ids:
        raise JobError(f"Nothing is selected: select {what} first.")
