"""The fields of a laser head: its feed, its rate and its zone."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from zarfwright.core.edits.field import Field
from zarfwright.core.lasers.zone import KEYSTONE_MOST, MIRRORS, LaserHead, Zone
from zarfwright.core.rig.things import Fixture


def head_of(body: Fixture) -> LaserHead:
    """What a laser draws and where; of one that nobody has told anything, the usual."""
    return body.laser or LaserHead()


def with_head(body: Fixture, head: LaserHead) -> Fixture:
    """The same fixture with another head; one as usual is none, so that shows stay as they were."""
    return replace(body, laser=None if head == LaserHead() else head)


def with_zone(body: Fixture, zone: Zone) -> Fixture:
    return with_head(body, replace(head_of(body), zone=zone))


def _zone(
    name: str, quantity: str, least: float, most: float, scale: float = 1.0, choices: tuple[str, ...] = ()
) -> Field:
    """A field of the zone; `scale` is what one of the field is of what people type."""

    def get(body: Fixture) -> Any:
        value = getattr(head_of(body).zone, name)
        return value if scale == 1.0 else round(value * scale, 6)

    def put(body: Fixture, value: Any) -> Fixture:
        return with_zone(body, replace(head_of(body).zone, **{name: value if scale == 1.0 else value / scale}))

    return Field(quantity, get, put, least, most, choices=choices)


def _name(body: Fixture, value: str) -> Fixture:
    return with_zone(body, replace(head_of(body).zone, name=value.strip() or "Zone"))


LASER_FIELDS: dict[str, Field] = {
    "feed": Field(
        "count",
        lambda body: head_of(body).feed,
        lambda body, value: with_head(body, replace(head_of(body), feed=value)),
        empty=True,
    ),
    "scan rate": Field(
        "number",
        lambda body: head_of(body).rate_kpps,
        lambda body, value: with_head(body, replace(head_of(body), rate_kpps=value)),
        1,
        100,
    ),
    "zone name": Field("text", lambda body: head_of(body).zone.name, _name),
    "zone width": _zone("width_deg", "angle", 0.1, 120),
    "zone height": _zone("height_deg", "angle", 0.1, 120),
    "zone across": _zone("across_deg", "angle", -80, 80),
    "zone up": _zone("up_deg", "angle", -80, 80),
    "zone turn": _zone("turn_deg", "angle", -360, 360),
    "zone mirror": _zone("mirror", "choice", 0, 0, choices=MIRRORS),
    "keystone across": _zone("keystone_across", "number", -100 * KEYSTONE_MOST, 100 * KEYSTONE_MOST, 100.0),
    "keystone up": _zone("keystone_up", "number", -100 * KEYSTONE_MOST, 100 * KEYSTONE_MOST, 100.0),
    "limit left": _zone("left", "number", -100, 100, 100.0),
    "limit right": _zone("right", "number", -100, 100, 100.0),
    "limit bottom": _zone("bottom", "number", -100, 100, 100.0),
    "limit top": _zone("top", "number", -100, 100, 100.0),
}
"""Angles in degrees; keystone and limits in percent of the zone."""
