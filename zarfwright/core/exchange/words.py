"""How a thing of a scene differs from the one that the show has, in words."""

from __future__ import annotations

from zarfwright.core.exchange.places import place_of
from zarfwright.core.exchange.rows import Rows, apart
from zarfwright.core.kinds import Body
from zarfwright.core.patch import Place
from zarfwright.core.rig.things import Carrier, Fixture, FocusPoint
from zarfwright.core.show import Item, Show
from zarfwright.core.site.things import MeshPiece, Truss
from zarfwright.core.units import format_length

LEAST_M, LEAST_DEG = 1e-4, 1e-3


def _moved(show: Show, was: Rows, now: Rows) -> list[str]:
    away, angle = apart(was, now)
    said = []
    if away >= LEAST_M:
        said.append(f"moved {format_length(away, show.settings.system)}")
    if angle >= LEAST_DEG:
        said.append(f"turned {angle:.3g}°")
    return said


def _address(fixture: Fixture) -> str:
    if fixture.universe is None or fixture.address is None:
        return "no address"
    return str(Place(fixture.universe, fixture.address))


def _type(show: Show, fixture: Fixture) -> str:
    return show.types[fixture.type].name if fixture.type in show.types else _entry(show, fixture.type)


def _entry(show: Show, key: str) -> str:
    item = show.items.get(key)
    return item.name if item is not None else "another type"


def _hangs(show: Show, fixture: Fixture) -> str:
    if fixture.hang is None:
        return ""
    item = show.items.get(fixture.hang.structure)
    return item.name if item is not None else ""


def _fixtures(before: Show, was: Fixture, after: Show, now: Fixture) -> list[str]:
    """What is different of two fixtures."""
    said = []
    if was.number != now.number:
        said.append(f"number {was.number or 'none'} → {now.number or 'none'}")
    if was.type != now.type:
        said.append(f"{_type(before, was)} → {_type(after, now)}")
    if was.mode != now.mode:
        said.append(f"mode {was.mode} → {now.mode}")
    if (was.universe, was.address) != (now.universe, now.address):
        said.append(f"{_address(was)} → {_address(now)}")
    elif was.breaks != now.breaks:
        said.append("its further addresses")
    if _hangs(before, was) != _hangs(after, now):
        said.append(f"on {_hangs(after, now)}" if now.hang is not None else f"no longer on {_hangs(before, was)}")
    for name, a, b in (
        ("unit", was.unit, now.unit), ("purpose", was.purpose, now.purpose),
        ("gel", was.gel and was.gel.name, now.gel and now.gel.name),
    ):  # fmt: skip
        if a != b:
            said.append(f"{name} {a or 'none'} → {b or 'none'}")
    point, other = (one.aim.point if one.aim is not None else None for one in (was, now))
    if point != other and other is not None and other in after.items:
        said.append(f"aimed at {after.items[other].name}")
    return said


def _bodies(was: Body, now: Body) -> list[str]:
    """What is different of two other things, besides their places."""
    said = []
    if not isinstance(was, Fixture) and not isinstance(now, Fixture) and was.name != now.name:
        said.append(f"called {now.name}")
    if isinstance(was, MeshPiece) and isinstance(now, MeshPiece) and was.asset != now.asset:
        said.append("of another shape")
    elif not said and type(was) is type(now) and not isinstance(was, Carrier | FocusPoint):
        said.append("other values")
    return said


def _on(show: Show, structure: str) -> int:
    """How many fixtures hang on a structure."""
    return sum(1 for _, fixture in show.fixtures() if fixture.hang is not None and fixture.hang.structure == structure)


def difference(before: Show, was: Item | None, now: Item, after: Show | None = None) -> str:
    """What is different of a thing; of a new one, what it is."""
    later = after or before
    if was is None:
        return _new(later, now)
    said = _moved(later, place_of(before, was.body), place_of(later, now.body))
    if said and isinstance(now.body, Truss) and (hung := _on(later, now.id)):
        said[-1] += f" with the {hung} on it" if hung > 1 else " with the one on it"
    if isinstance(was.body, Fixture) and isinstance(now.body, Fixture):
        said += _fixtures(before, was.body, later, now.body)
    elif was.body != now.body and not said:
        said += _bodies(was.body, now.body)
    elif was.body != now.body and was.name != now.name:
        said.append(f"called {now.name}")
    if was.layer != now.layer:
        layer = later.items.get(now.layer or "")
        said.append(f"to the layer {layer.name}" if layer is not None else "on no layer")
    if was.parent != now.parent:
        carrier = later.items.get(now.parent or "")
        said.append(f"on {carrier.name}" if carrier is not None else "off its carrier")
    return ", ".join(said) or "details"


def _new(show: Show, item: Item) -> str:
    body = item.body
    if isinstance(body, Fixture):
        hung = _hangs(show, body)
        where = f"on {hung}" if hung else "standing free"
        return f"{_type(show, body)}, {body.mode}, {_address(body)}, {where}"
    return f"a new {item.kind}"
