"""Edits of the show as a whole, and of the types that it keeps."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Literal

from zarfwright.core.edits.base import Arguments, Edit, NewId, added, changed, made, within
from zarfwright.core.errors import JobError
from zarfwright.core.optics.exposure import STARTS
from zarfwright.core.rig.things import TypeEntry
from zarfwright.core.show import SHOW_ID, Change, Show


class SetShow(Arguments):
    """Change settings; what is left out stays."""

    name: str | None = None
    venue: str | None = None
    system: Literal["metric", "imperial"] | None = None
    follow_console: bool | None = None
    look_first: bool | None = None
    spare_console: bool | None = None
    haze_per_m: float | None = None
    haze_uneven: float | None = None
    exposure_start: Literal["indoors", "dusk", "day"] | None = None
    exposure_kind: Literal["eye", "camera"] | None = None
    exposure_ev: float | None = None
    eye_adapts: bool | None = None
    exposure_locked: bool | None = None
    iso: float | None = None
    shutter_s: float | None = None
    aperture: float | None = None
    white_k: float | None = None
    bloom: float | None = None
    work_light_lx: float | None = None
    house_light_lx: float | None = None
    background_low: str | None = None
    background_high: str | None = None
    shaft_gain: float | None = None
    pool_gain: float | None = None
    body_gain: float | None = None
    laser_limit_w_m2: float | None = None
    laser_clear_m: float | None = None


LIMITS = {
    "haze_per_m": (0.0, 1.0),
    "haze_uneven": (0.0, 1.0),
    "exposure_ev": (-6.0, 20.0),
    "iso": (25.0, 409_600.0),
    "shutter_s": (1 / 32_000, 30.0),
    "aperture": (0.7, 64.0),
    "white_k": (1700.0, 20_000.0),
    "bloom": (0.0, 4.0),
    "work_light_lx": (0.0, 5000.0),
    "house_light_lx": (0.0, 5000.0),
    "shaft_gain": (0.0, 10.0),
    "pool_gain": (0.0, 10.0),
    "body_gain": (0.0, 10.0),
    "laser_limit_w_m2": (0.01, 1e6),
    "laser_clear_m": (0.0, 10.0),
}
WORDS = {
    "follow_console": "following the console",
    "look_first": "who has the say, console or look",
    "spare_console": "room for a console on this machine",
    "haze_per_m": "haze",
    "haze_uneven": "the haze's unevenness",
    "exposure_start": "exposure",
    "exposure_kind": "what exposes",
    "exposure_ev": "exposure",
    "eye_adapts": "whether the eye adapts",
    "exposure_locked": "whether looks bring their exposure",
    "iso": "ISO",
    "shutter_s": "exposure time",
    "aperture": "aperture",
    "white_k": "white balance",
    "bloom": "bloom",
    "work_light_lx": "work light",
    "house_light_lx": "house light",
    "background_low": "background",
    "background_high": "background",
    "shaft_gain": "the shafts' strength",
    "pool_gain": "the pools' strength",
    "body_gain": "the lenses' strength",
    "laser_limit_w_m2": "the limit of laser light on people",
    "laser_clear_m": "how far lasers keep from eyes",
    "system": "units",
    "name": "the show's name",
    "venue": "the venue's name",
}
COLOUR = re.compile(r"#[0-9a-fA-F]{6}")


def set_show(show: Show, args: SetShow, _: NewId) -> Edit:
    given = args.model_dump(exclude_none=True)
    for name, (least, most) in LIMITS.items():
        if name in given:
            within(given[name], name, least, most)
    if "name" in given and not str(given["name"]).strip():
        raise JobError("A show needs a name: type at least one letter.", "name")
    for name in ("background_low", "background_high"):
        if name in given and not COLOUR.fullmatch(given[name]):
            raise JobError(f"“{given[name][:20]}” is not a colour: type # and six digits, for instance #0b0d10.", name)
    what = " and ".join(dict.fromkeys(WORDS[name] for name in given))
    start = given.pop("exposure_start", None)
    settings = replace(show.settings, **(STARTS[start] if start else {}), **given)
    return Edit((changed(show.item(SHOW_ID), settings),), f"Change {what}")


class AddType(Arguments):
    """Add a type whose GDTF file is already among the assets of the show."""

    name: str
    maker: str
    asset: str
    draft: str | None = None
    """The draft that it was made from: it is done with."""


def add_type(show: Show, args: AddType, new_id: NewId) -> Edit:
    for _item, entry in show.bodies(TypeEntry):
        if entry.asset == args.asset:
            raise JobError(f"{args.name} is in this show already.")
    items = added(show, "type", [TypeEntry(args.name, args.maker, args.asset)], new_id)
    changes = [made(items[0])]
    if args.draft is not None:
        changes.append(Change(show.item(args.draft, "draft"), None))
    return Edit(tuple(changes), f"Add the type {args.name}", (items[0].id,))
