"""What a show keeps of a scene file that it took in, so that it can be written back: all that is not a thing here."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from zarfwright.core.exchange.rows import Rows
from zarfwright.core.exchange.scene import uuid_of

if TYPE_CHECKING:
    from zarfwright.core.show import Show


@dataclass(frozen=True)
class KeptShape:
    """How a thing was shown in the file: with that it goes back as long as it is the same shape."""

    shape: str
    """The key of what it looked like here when it had just come in."""
    frame: Rows | None = None
    """Its frame in the file, in its frame here; None: one and the same."""


@dataclass(frozen=True)
class Received:
    """A scene file that was taken in."""

    name: str
    scene: str
    """The asset of its description."""
    files: dict[str, str] = field(default_factory=dict)
    """Its other entries, and their assets."""
    shapes: dict[str, KeptShape] = field(default_factory=dict)
    """By UUID."""
    uuids: dict[str, str] = field(default_factory=dict)
    """The UUIDs that things of the show have in the file, by their ids, where that is not their own."""


def uuids(show: Show) -> Callable[[str], str]:
    """What the things of a show are called in files: by their ids to UUIDs."""
    named: dict[str, str] = {}
    for _, body in show.bodies(Received):
        named.update(body.uuids)
    return lambda item_id: named.get(item_id) or uuid_of(item_id)


def kept_shapes(show: Show) -> Mapping[str, KeptShape]:
    """How things of the show were shown in the files that they came in by, by UUID; the latest file counts."""
    found: dict[str, KeptShape] = {}
    for _, body in show.bodies(Received):
        found.update(body.shapes)
    return found
