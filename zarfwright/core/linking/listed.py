"""A rig as a scene has it, as the patch list that it would be: compared by cause like any list (core/patching)."""

from __future__ import annotations

from zarfwright.core.exchange.scene import Scene
from zarfwright.core.patch import Place
from zarfwright.core.patching.listed import Listed, ListRead


def listed_of(scene: Scene) -> ListRead:
    """What a scene says of the patch: a row for each fixture that has a number."""
    rows: list[Listed] = []
    left: list[str] = []
    for thing in scene.things:
        said = thing.said
        if said is None:
            continue
        if said.number is None:
            left.append(f"“{thing.name or thing.uuid[:8]}” has no number: it cannot be told which of the show's it is.")
            continue
        found = scene.types.get(said.spec)
        first = min(said.addresses, default=None)
        place = Place(first[1], first[2]) if first is not None else None
        kind = found.name if found is not None else said.spec.removesuffix(".gdtf")
        size = found.footprints.get(said.mode) if found is not None else None
        rows.append(Listed(len(rows) + 1, said.number, kind, said.mode, place, size or None))
    return ListRead(tuple(rows), tuple(left))
