"""The fixture types that ship with the program: those of the demo's invented makers, and plain ones of every sort.

Each is written as GDTF and read back before a show gets it: nothing comes in by another way.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

from zarfwright.core.types.model import FixtureType
from zarfwright.core.types.shop.build import build
from zarfwright.core.types.shop.starters import generics
from zarfwright.formats.gdtf import write_gdtf
from zarfwright.formats.gobos import GoboDrawing, draw_gobo
from zarfwright.library import heads, standing

MAKERS: tuple[Callable[[], FixtureType], ...] = (
    heads.heron, heads.dunlin, heads.plover, standing.teal, standing.bittern, standing.wader, standing.curlew,
    standing.stilt, standing.grebe,
)  # fmt: skip
PLAIN_GOBOS: dict[str, tuple[str, GoboDrawing]] = {
    "Dots": ("plain_dots", GoboDrawing("dots", 19, 0.4)),
    "Breakup": ("plain_breakup", GoboDrawing("breakup", 60, 0.55, seed=5)),
    "Window": ("plain_window", GoboDrawing("window", 6, 0.7)),
    "Spiral": ("plain_spiral", GoboDrawing("spiral", 3, 0.5)),
}


@cache
def shipped() -> dict[str, FixtureType]:
    """All shipped types by an id that stays: their GUID."""
    types = [make() for make in MAKERS]
    named = tuple((name, image) for name, (image, _) in PLAIN_GOBOS.items())
    images = {image: draw_gobo(drawing) for image, drawing in PLAIN_GOBOS.values()}
    for draft in generics(named):
        used = {slot.image for wheel in draft.wheels for slot in wheel.slots}
        types.append(build(draft, {name: data for name, data in images.items() if name in used}))
    return {one.type_id: one for one in types}


@cache
def shipped_file(type_id: str) -> bytes:
    """A shipped type as a GDTF file. Raises KeyError when there is none of this id."""
    return write_gdtf(shipped()[type_id])


bittern, curlew, dunlin, grebe, heron, plover, stilt, teal, wader = (
    standing.bittern, standing.curlew, heads.dunlin, standing.grebe, heads.heron, heads.plover, standing.stilt,
    standing.teal, standing.wader,
)  # fmt: skip
