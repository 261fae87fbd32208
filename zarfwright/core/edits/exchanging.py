"""The edit that takes a scene file in: all that was compared and chosen, as one step."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from pydantic import PrivateAttr

from zarfwright.core.edits.base import Arguments, Around, Call, Edit, NewId, added, made
from zarfwright.core.errors import JobError
from zarfwright.core.exchange.compare import GROUPS, Choices, Comparison, compare, received
from zarfwright.core.exchange.incoming import Incoming
from zarfwright.core.exchange.lie import Lay
from zarfwright.core.exchange.received import Received
from zarfwright.core.mesh import MeshFile
from zarfwright.core.show import Change, Item, Show
from zarfwright.core.space import Vec

CHANGES = ("added", "changed", "removed")


class SceneChoices(Arguments):
    """What of a scene is taken, and how."""

    kinds: list[str] = list(GROUPS)
    """What of it: layers, carriers, structures, scenery, people, focus points, fixtures."""
    remove: list[str] = []
    """Of which of these things go that the file does not have."""
    leave: list[str] = []
    """Single things that stay as they are: UUIDs of the file, ids of the show."""
    types: dict[str, str] = {}
    """By the name of a type's file: `show:ID`, `file`, `library:GUID` or `plain`; else as suggested."""
    factor: float = 1.0
    over: bool = False
    shift: Vec = (0.0, 0.0, 0.0)
    """How all of it is laid: places made larger, turned over, shifted by metres."""

    def choices(self) -> Choices:
        """As the comparison takes them. Raises JobError."""
        for name in (*self.kinds, *self.remove):
            if name not in GROUPS:
                raise JobError(f"“{name}” is nothing that a scene has: choose of {', '.join(GROUPS)}.", "kinds")
        if not 1e-6 <= self.factor <= 1e6:
            raise JobError(f"Places cannot be made {self.factor:g} times as large.", "factor")
        lay = Lay(self.factor, self.over, self.shift)
        return Choices(frozenset(self.kinds), frozenset(self.remove), frozenset(self.leave), self.types, lay)


class TakeScene(SceneChoices):
    """Take a scene file in that has arrived (`key`), as it was compared and chosen."""

    key: str
    _given: Given | None = PrivateAttr(None)


@dataclass(frozen=True)
class Given:
    """What was read of a file, where its bytes are kept now, and what it came to beside the show as it then was."""

    incoming: Incoming
    description: str
    files: Mapping[str, str]
    covered: tuple[str, ...]
    """Files that were taken in before, by the ids of what was kept of them: all that they have is in this one."""
    compared: Comparison
    beside: Mapping[str, Item]

    def on(self, show: Show, choices: Choices) -> Comparison:
        """What it comes to beside a show: as it was compared, where nothing has changed since."""
        return self.compared if show.items is self.beside else compare(show, self.incoming, choices)


def needs_scene(show: Show, args: TakeScene, around: Around) -> tuple[Show, TakeScene]:
    """The file itself: its types among the show's, its bytes among the assets."""
    incoming = around.scene_in(args.key)
    compared = compare(show, incoming, args.choices())
    types = dict(show.types)
    for key, source in compared.sources.items():
        asset = around.keep(source.name, source.data)
        types |= {key: source.type, f"asset:{asset}": source.type}
    for shape, asset in compared.shapes.items():
        if asset not in show.meshes:
            around.keep(*incoming.shape_file(shape))
    description, entries = incoming.kept(compared.anew)
    files = {name: around.keep(name, data) for name, data in entries}
    covered = tuple(item.id for item, body in show.bodies(Received) if incoming.covers(around.asset(body.scene) or b""))
    kept = around.keep("GeneralSceneDescription.xml", description)
    filled = args.model_copy()
    filled._given = Given(incoming, kept, files, covered, compared, show.items)
    return replace(show, types=types), filled


def _given(args: TakeScene) -> Given:
    if args._given is None:
        raise JobError("The file of this scene was not read: choose it again.", "key")
    return args._given


def _missing(show: Show, args: TakeScene) -> dict[str, str]:
    """The shapes whose meshes are still to be read, by their assets."""
    shapes = _given(args).compared.shapes
    return {shape: asset for shape, asset in shapes.items() if asset not in show.meshes}


def mesh_calls(show: Show, args: TakeScene) -> list[Call]:
    """The reading of meshes."""
    return [Call(*_given(args).incoming.mesh_call(shape)) for shape in _missing(show, args)]


def with_meshes(show: Show, args: TakeScene, answers: list[Any]) -> Show:
    """The show with the meshes that were read."""
    missing = list(_missing(show, args).values())
    read = {asset: mesh for asset, mesh in zip(missing, answers, strict=True) if isinstance(mesh, MeshFile)}
    for file in read.values():
        for part in file.parts:
            # Worked out here, with nothing locked: with the edit itself everybody would wait for it.
            _ = part.mesh.key
    return replace(show, meshes={**show.meshes, **read})


def take_scene(show: Show, args: TakeScene, new_id: NewId, answers: list[Any]) -> Edit:
    given = _given(args)
    compared = given.on(show, args.choices())
    counts = [(change, compared.count(change)) for change in CHANGES]
    if not compared.changes:
        raise JobError("Nothing of this file is different from what is here, as it was chosen.", "key")
    kept = received(show.after(compared.changes), given.incoming, compared, given.files, given.description)
    items = added(show, "received", [kept], new_id)
    gone = [Change(show.items[key], None) for key in given.covered if key in show.items]
    said = ", ".join(f"{count} {change}" for change, count in counts if count)
    report = [str(answer) for answer in answers if isinstance(answer, str)]
    return Edit(
        (*compared.changes, *gone, made(items[0])),
        f"Take in {given.incoming.name}: {said or 'what is kept of it'}",
        compared.select,
        tuple(report[:6]),
    )
