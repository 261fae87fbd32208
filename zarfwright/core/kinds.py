"""The kinds of things in a show, and what each is: the one place to add a kind to, besides its body.

A new kind is its body (`site/things.py`, `rig/things.py`, `settings.py`), a line here, its fields in `edits/fields.py`,
and, where it is drawn, its shape in `scene.py`. The front end has the same table (`frontend/tables.json`).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeGuard

from zarfwright.core.connections import Connection
from zarfwright.core.exchange.received import Received
from zarfwright.core.linking.checks import LineCheck
from zarfwright.core.linking.consoles import Console
from zarfwright.core.looks.look import Look
from zarfwright.core.patching.racks import Rack
from zarfwright.core.playback.order import Order
from zarfwright.core.review.area import Area
from zarfwright.core.review.notes import Note
from zarfwright.core.rig.things import Carrier, Fixture, FocusPoint, LabelStyle, Palette, TypeEntry
from zarfwright.core.schedules.supply import Supply
from zarfwright.core.schedules.table import ListStyle
from zarfwright.core.settings import Layer, Settings, Viewpoint
from zarfwright.core.sheet.issue import Issue
from zarfwright.core.sheet.sheet import Sheet
from zarfwright.core.site.placed import Placed
from zarfwright.core.site.things import Crowd, Deck, Drawing, Figure, MeshPiece, Panel, Piece, Truss, Venue, Wall
from zarfwright.core.types.shop.draft import Draft

Body = (
    Settings
    | Layer
    | Venue
    | Drawing
    | Placed
    | Fixture
    | FocusPoint
    | Palette
    | Carrier
    | LabelStyle
    | TypeEntry
    | Draft
    | Look
    | Order
    | Viewpoint
    | Connection
    | Console
    | LineCheck
    | Rack
    | Received
    | Area
    | Note
    | Sheet
    | Issue
    | ListStyle
    | Supply
)
Step = Literal["site", "hang", "aim", "patch", "signal", "looks", "review", "papers", "types", "show"]


@dataclass(frozen=True)
class Kind:
    """What the things of one kind are."""

    body: type[Body]
    step: Step
    """Where one works on it."""
    layered: bool = False
    """It lies on layers."""
    solid: bool = False
    """It is drawn, and in the way of light and of rays."""
    placed: bool = False
    """It has a place of its own in the site: it can be moved, turned, copied, mirrored, arranged."""
    carried: bool = False
    """It can be put on a carrier."""
    stood_on: bool = False
    """Others stand on it: what is dropped stops there."""
    around: bool = False
    """One is inside of it: it is not picked by a click in the picture, nor by a box."""
    tall: bool = False
    """Its height is what a handle drags."""
    parts: bool = False
    """It is drawn as several solids, `id/1`, `id/2` ..., not as one."""
    snapped: bool = False
    """Its edges in plan and elevation are snapped to."""
    offset: bool = False
    """Its outline can be offset."""
    printed: bool = False
    """It is on sheets, or says how something on them is drawn: where it changes, they are drawn anew."""


def _thing(body: type[Body], *, tall: bool = False, stood_on: bool = False, parts: bool = False,
           snapped: bool = True, offset: bool = False) -> Kind:  # fmt: skip
    """A solid thing of the site with a place of its own."""
    return Kind(body, "site", layered=True, solid=True, placed=True, carried=True, stood_on=stood_on, tall=tall,
                parts=parts, snapped=snapped, offset=offset, printed=True)  # fmt: skip


KINDS: dict[str, Kind] = {
    "show": Kind(Settings, "show", printed=True),
    "layer": Kind(Layer, "site", printed=True),
    "venue": Kind(Venue, "site", layered=True, solid=True, around=True, snapped=True, printed=True),
    "drawing": Kind(Drawing, "site"),
    "deck": _thing(Deck, tall=True, stood_on=True, offset=True),
    "wall": _thing(Wall, tall=True),
    "panel": _thing(Panel),
    "piece": _thing(Piece, tall=True, stood_on=True),
    "mesh": _thing(MeshPiece, stood_on=True, parts=True),
    "truss": _thing(Truss, parts=True),
    "figure": _thing(Figure, snapped=False),
    "crowd": _thing(Crowd, parts=True, snapped=False, offset=True),
    "fixture": Kind(Fixture, "hang", layered=True, carried=True, printed=True),
    "carrier": Kind(Carrier, "hang", layered=True, carried=True, printed=True),
    "focus point": Kind(FocusPoint, "aim"),
    "palette": Kind(Palette, "aim"),
    "label style": Kind(LabelStyle, "hang", printed=True),
    "type": Kind(TypeEntry, "types", printed=True),
    "draft": Kind(Draft, "types"),
    "look": Kind(Look, "looks"),
    "order": Kind(Order, "looks"),
    "viewpoint": Kind(Viewpoint, "show"),
    "connection": Kind(Connection, "signal"),
    "console": Kind(Console, "signal"),
    "line check": Kind(LineCheck, "signal"),
    "rack": Kind(Rack, "patch"),
    "received": Kind(Received, "show"),
    "area": Kind(Area, "review"),
    "note": Kind(Note, "review"),
    "sheet": Kind(Sheet, "papers"),
    "issue": Kind(Issue, "papers", printed=True),
    "list": Kind(ListStyle, "papers"),
    "supply": Kind(Supply, "papers"),
}
OF_BODY: dict[type, str] = {kind.body: name for name, kind in KINDS.items()}
PLACED = frozenset(kind.body for kind in KINDS.values() if kind.placed)


def is_placed(body: Body) -> TypeGuard[Placed]:
    """Whether it has a place of its own in the site."""
    return type(body) in PLACED
