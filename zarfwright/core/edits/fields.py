"""Typing a value into a field of one or several things: absolute, relative or spread over them."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import replace
from typing import Any, get_args

import numpy as np

from zarfwright.core.edits.base import Arguments, Edit, NewId, changed, require_some, within
from zarfwright.core.edits.carrying import set_carrier_field
from zarfwright.core.edits.field import Field, plain
from zarfwright.core.edits.laser_fields import LASER_FIELDS
from zarfwright.core.edits.rehanging import rails_kept
from zarfwright.core.errors import JobError
from zarfwright.core.patching.dimmers import addresses_taken, racks_of, with_dimmer
from zarfwright.core.rig.gels import parse_gel
from zarfwright.core.rig.hang import hang_rail, require_on_rail
from zarfwright.core.rig.lamps import parse_lamp
from zarfwright.core.rig.things import Carrier, Fixture
from zarfwright.core.show import Change, Show, listed
from zarfwright.core.site.structures import end_trims_m, rake_for_trims, raked_length_m
from zarfwright.core.site.things import Deck, Finish, Truss
from zarfwright.core.space import Placement, about, multiply, quat, to_matrix
from zarfwright.core.units import parse_count, parse_typed


def _place(index: int) -> Field:
    axis = "xyz"[index]

    def put(body: Any, value: float) -> Any:
        position = list(body.position)
        position[index] = value
        return replace(body, position=tuple(position))

    return Field("length", lambda body: body.position[index], put, -2000, 2000, axis)


def _side(name: str, axis: int) -> Field:
    """Width or depth of a deck; one of another outline is stretched to it."""

    def put(body: Deck, value: float) -> Deck:
        factor = [1.0, 1.0]
        factor[axis] = value / getattr(body, name)
        corners = tuple((x * factor[0], y * factor[1], b) for x, y, b in body.corners)
        return replace(body, **{name: value}, corners=corners)  # type: ignore[arg-type]

    return Field("length", lambda body: getattr(body, name), put, 0.05)


def _choice(name: str, *choices: str) -> Field:
    field = plain(name, "choice")
    return replace(field, choices=choices)


def _hang(name: str, quantity: str, choices: tuple[str, ...] = ()) -> Field:
    def get(body: Fixture) -> Any:
        if body.hang is None:
            raise JobError("A fixture among them does not hang on a rail: hang it first.")
        return getattr(body.hang, name)

    def put(body: Fixture, value: Any) -> Fixture:
        get(body)
        assert body.hang is not None
        return replace(body, hang=replace(body.hang, **{name: value}))

    return Field(quantity, get, put, choices=choices)


def _free(index: int) -> Field:
    """A place of a fixture that stands or hangs free."""

    def get(body: Fixture) -> float:
        if body.hang is not None or body.placement is None:
            raise JobError("A fixture among them hangs on a rail: its place is along that.")
        return body.placement.position[index]

    def put(body: Fixture, value: float) -> Fixture:
        get(body)
        assert body.placement is not None
        position = list(body.placement.position)
        position[index] = value
        return replace(body, placement=replace(body.placement, position=(position[0], position[1], position[2])))

    return Field("length", get, put, -2000, 2000, "xyz"[index])


def angles_of(placement: Placement) -> tuple[float, float, float]:
    """How far something is turned about X, then Y, then Z of the show, in degrees: R = Rz Ry Rx."""
    m = to_matrix(placement.rotation)
    y = math.asin(float(np.clip(-m[2, 0], -1.0, 1.0)))
    if abs(math.cos(y)) < 1e-7:
        return math.degrees(math.atan2(-m[1, 2], m[1, 1])), math.degrees(y), 0.0
    return math.degrees(math.atan2(m[2, 1], m[2, 2])), math.degrees(y), math.degrees(math.atan2(m[1, 0], m[0, 0]))


def _turned(index: int) -> Field:
    """An exact angle of a fixture that stands or hangs free, about an axis of the show."""

    def get(body: Fixture) -> float:
        if body.hang is not None or body.placement is None:
            raise JobError("A fixture among them hangs on a rail: turn it about that.")
        return round(angles_of(body.placement)[index], 6)

    def put(body: Fixture, value: float) -> Fixture:
        get(body)
        assert body.placement is not None
        angles = list(angles_of(body.placement))
        angles[index] = value
        x, y, z = (about(axis, math.radians(angle)) for axis, angle in zip(np.eye(3), angles, strict=True))
        return replace(body, placement=replace(body.placement, rotation=quat(multiply(z, multiply(y, x)))))

    return Field("angle", get, put)


def _trims(truss: Truss, start: float | None = None, end: float | None = None) -> Truss:
    now = end_trims_m(truss)
    if truss.form == "upright":
        foot = now[0] if start is None else start
        top = now[1] if end is None else end
        if top - foot < LEAST_M:
            raise JobError(f"The top has to be {LEAST_M:g} m above the foot at least.")
        return replace(truss, position=(*truss.position[:2], foot), length_m=top - foot)
    trim, rake = rake_for_trims(
        raked_length_m(truss), now[0] if start is None else start, now[1] if end is None else end
    )
    return replace(truss, position=(*truss.position[:2], trim), rake_deg=rake)


def _trim(truss: Truss, trim_m: float) -> Truss:
    """The whole structure at a trim: a raked one stays as raked as it is, about its middle."""
    return replace(truss, position=(*truss.position[:2], trim_m))


LEAST_M = 0.2
PLACE = {"x": _place(0), "y": _place(1), "z": _place(2)}
NAME = plain("name", "text")
TURN = plain("turn_deg", "angle")

FIELDS: dict[str, dict[str, Field]] = {
    "venue": {
        "name": NAME,
        "width": plain("width_m", "length", 1),
        "upstage": plain("upstage_m", "length", 0.5),
        "downstage": plain("downstage_m", "length", 0.5),
        "eave": plain("eave_m", "length", 2, 200),
        "ridge": plain("ridge_m", "length", 2, 200),
        "centre": replace(plain("centre_m", "length", -500, 500), axis="x"),
    },
    "deck": {
        "name": NAME,
        **PLACE,
        "width": _side("width_m", 0),
        "depth": _side("depth_m", 1),
        "height": plain("height_m", "length", 0.02, 50),
        "turn": TURN,
        "finish": _choice("finish", *get_args(Finish)),
        "made": _choice("made", "deck", "riser", "steps", "ramp"),
        "legs": Field(
            "choice",
            lambda deck: "hidden" if deck.fascia else "seen",
            lambda deck, value: replace(deck, fascia=value == "hidden"),
            choices=("hidden", "seen"),
        ),
        "count": plain("count", "whole", 1, 200),
        "rise": plain("rise_deg", "angle"),
    },
    "truss": {
        "name": NAME,
        **PLACE,
        "length": plain("length_m", "length", 0.2, 200),
        "section": plain("section_m", "length", 0.1, 3),
        "diameter": plain("diameter_m", "length", 0.5, 100),
        "span": plain("span_deg", "angle", 5, 360),
        "lattice": _choice("lattice", "box", "triangle", "flat", "ladder", "pipe"),
        "arms": plain("arms", "whole", 0, 20),
        "arm": plain("arm_m", "length", 0.2, 6),
        "arm pitch": plain("arm_pitch_m", "length", 0.2, 5),
        "kg per m": plain("kg_per_m", "number", 0, 500),
        "hoists": plain("hoists", "whole", 0, 60),
        "bridle": plain("bridle_m", "length", 0, 12),
        "steel": plain("steel_m", "length", 0, 100),
        "trim": Field("length", lambda t: t.position[2], _trim, 0, 200),
        "start trim": Field("length", lambda t: end_trims_m(t)[0], lambda t, v: _trims(t, start=v), 0, 200),
        "end trim": Field("length", lambda t: end_trims_m(t)[1], lambda t, v: _trims(t, end=v), 0, 200),
        "rake": plain("rake_deg", "angle", -90, 90),
        "turn": TURN,
    },
    "wall": {
        "name": NAME,
        "z": PLACE["z"],
        "height": plain("height_m", "length", 0.05, 50),
        "thickness": plain("thickness_m", "length", 0.005, 3),
        "finish": _choice("finish", *get_args(Finish)),
    },
    "panel": {
        "name": NAME,
        **PLACE,
        "thickness": plain("thickness_m", "length", 0.002, 5),
        "turn": TURN,
        "finish": _choice("finish", *get_args(Finish)),
    },
    "piece": {
        "name": NAME,
        **PLACE,
        "width": plain("width_m", "length", 0.05, 200),
        "depth": plain("depth_m", "length", 0.01, 200),
        "height": plain("height_m", "length", 0.02, 60),
        "turn": TURN,
        "count": plain("count", "whole", 1, 200),
        "fullness": plain("fullness", "number", 0, 3),
        "lift": plain("lift_m", "length", 0, 30),
        "finish": _choice("finish", *get_args(Finish)),
    },
    "mesh": {
        "name": NAME,
        **PLACE,
        "turn": TURN,
        "scale": plain("scale", "number", 1e-6, 1e4),
        "up": _choice("up", "y", "z"),
        "reflectance": plain("reflectance", "number", 0, 0.95),
    },
    "crowd": {
        "name": NAME,
        "z": replace(plain("z_m", "length", -100, 200), axis="z"),
        "seating": _choice("seating", "standing", "rows"),
        "people": replace(plain("count", "whole", 0, 20_000), empty=True),
        "per m2": plain("per_m2", "number", 0.01, 8),
        "pitch": plain("pitch_m", "length", 0.4, 5),
        "apart": Field(
            "length",
            lambda body: 2 * body.body_radius_m,
            lambda body, value: replace(body, body_radius_m=value / 2),
            0.3,
            5,
        ),
        "row": plain("row_m", "length", 0.5, 10),
        "rise": plain("rise_m", "length", 0, 2),
        "seed": plain("seed", "whole", 0, 99_999),
        "height": plain("height_m", "length", 1, 2.2),
    },
    "figure": {
        "name": NAME,
        **PLACE,
        "height": plain("height_m", "length", 0.4, 2.6),
        "turn": TURN,
        "pose": _choice("pose", "standing", "sitting", "playing", "arms up"),
    },
    "fixture": {
        "along": _hang("along_m", "length"),
        "side": _hang("side", "choice", ("under", "upper", "left", "right")),
        "about rail": _hang("turn_deg", "angle"),
        "spin": _hang("spin_deg", "angle"),
        "on slopes": _hang("on_slopes", "choice", ("follow", "plumb")),
        "mode": plain("mode", "mode"),
        "unit": plain("unit", "count"),
        "out": replace(_hang("out_m", "length"), least=-6, most=6),
        "drop": replace(_hang("drop_m", "length"), least=-6, most=6),
        "clamps": replace(_hang("clamps", "whole"), least=1, most=4),
        "x": _free(0),
        "y": _free(1),
        "z": _free(2),
        "turn x": _turned(0),
        "turn y": _turned(1),
        "turn z": _turned(2),
        "number": replace(plain("number", "count"), empty=True),
        "purpose": plain("purpose", "text"),
        "note": plain("note", "text"),
        "circuit": plain("circuit", "text"),
        "dimmer": replace(plain("dimmer", "count"), empty=True),
        "gel": plain("gel", "gel"),
        "lamp": plain("lamp", "lamp"),
        "lens": Field(
            "angle",
            lambda fixture: fixture.lens_deg or 0.0,
            lambda fixture, value: replace(fixture, lens_deg=value),
            2,
            120,
            empty=True,
        ),
        **LASER_FIELDS,
    },
    "carrier": {
        "name": NAME,
        "number": replace(plain("number", "count"), empty=True),
        **PLACE,
        "turn": TURN,
    },
    "focus point": {"name": NAME, "number": replace(plain("number", "count"), empty=True), **PLACE},
    "palette": {"name": NAME, "number": replace(plain("number", "count"), empty=True)},
    "label style": {"name": NAME},
    "look": {"name": NAME, "note": plain("note", "text"), "number": plain("number", "number", 0.001, 99_999)},
    "order": {"name": NAME},
    "viewpoint": {"name": NAME},
}


class SetField(Arguments):
    """What was typed into a field of the things selected, in their order."""

    ids: list[str]
    field: str
    text: str


def _number(text: str, field: str) -> float:
    """A plain number. Raises JobError."""
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise JobError(f"“{text}” is not a number.", field)
    return value


def _counts(text: str, count: int) -> list[int]:
    """A whole number for all, or `61 to 68` from the first to the last in equal steps. Raises JobError."""
    ends = re.split(r"\s+to\s+", text)
    if len(ends) != 2 or count < 2:
        return [parse_count(text, 1, 99_999)] * count
    first, last = (parse_count(end, 1, 99_999) for end in ends)
    if (last - first) % (count - 1):
        raise JobError(f"{first} to {last} are no equal steps for {count}: type {first} to {first + count - 1}.")
    return [first + (last - first) // (count - 1) * i for i in range(count)]


def _text(text: str, field: str) -> str:
    """Plain words. Raises JobError for a name that is none."""
    if not text and field == "name":
        raise JobError("A name cannot be empty: type at least one letter.", field)
    return text


def _chosen(text: str, field: Field, name: str) -> str:
    """One of some words. Raises JobError."""
    if text not in field.choices:
        raise JobError(f"“{text}” is none of {', '.join(field.choices)}.", name)
    return text


ALIKE: dict[str, Callable[[str, Field, str], Any]] = {
    "text": lambda text, _, name: _text(text, name),
    "gel": lambda text, *_: parse_gel(text),
    "lamp": lambda text, *_: parse_lamp(text),
    "choice": _chosen,
    "mode": lambda text, *_: text,
    "whole": lambda text, field, _: parse_count(text, int(field.least or 0), int(field.most or 99_999)),
    "number": lambda text, field, name: within(_number(text, name), name, field.least, field.most),
}
"""Quantities of which all get the same value, and how that is read."""


def _read(show: Show, field: Field, args: SetField, present: list[Any]) -> list[Any]:
    text = args.text.strip()
    if field.empty and not text:
        return [None] * len(present)
    if field.quantity in ALIKE:
        return [ALIKE[field.quantity](text, field, args.field)] * len(present)
    if field.quantity == "count":
        return _counts(text, len(present))
    typed = parse_typed(text, field.quantity, show.settings.system, field.axis)
    values = typed.values([float(value) for value in present])
    for value in values:
        if not math.isfinite(value):
            raise JobError(f"“{text}” is not a number that can be used here.", args.field)
        within(value, args.field, field.least, field.most)
    return values


def set_field(show: Show, args: SetField, _: NewId) -> Edit:
    require_some(args.ids, "what to change")
    items = [show.item(item_id) for item_id in args.ids]
    kinds = {item.kind for item in items}
    if len(kinds) > 1 or (fields := FIELDS.get(items[0].kind, {})).get(args.field) is None:
        raise JobError(f"{listed(show, args.ids)} have no {args.field} that could be typed.", args.field)
    field = fields[args.field]
    try:
        values = _read(show, field, args, [field.get(item.body) for item in items])
        changes: list[Change] = []
        report: list[str] = []
        for item, value in zip(items, values, strict=True):
            if isinstance(item.body, Carrier) and args.field in ("x", "y", "z", "turn"):
                changes += set_carrier_field(show, item, args.field, value)  # type: ignore[arg-type]
                continue
            body = field.put(item.body, value)
            if args.field == "dimmer" and isinstance(item.body, Fixture):
                body = with_dimmer(show, racks_of(show), item.body, value)
            _check(show, body, args.field)
            if body != item.body:
                changes.append(changed(item, body))
            if isinstance(body, Truss) and body != item.body:
                more, told = rails_kept(show, item, body)
                changes += more
                report += told
    except JobError as wrong:
        raise JobError(str(wrong), args.field) from wrong
    report += addresses_taken(changes)
    text, what = args.text.strip(), SAID.get(args.field, args.field)
    signed = re.match(r"[-+]=?\s*\d", text) is not None and not text.startswith("=")
    changes_by = signed and (text[0] == "+" or text[1] == "=" or _adds(show, args))
    said = f"Set {what} of {listed(show, args.ids)} to {text.lstrip('=')}"
    if changes_by:
        said = f"Change {what} of {listed(show, args.ids)} by {text.replace('=', '')}"
    return Edit(tuple(changes), said, tuple(args.ids), tuple(dict.fromkeys(report)))


SAID = {
    "x": "SL / SR", "y": "US / DS", "z": "the height", "spin": "the turn", "turn x": "the turn about SL",
    "turn y": "the turn about US", "turn z": "the turn about up", "out": "the arm", "drop": "the drop pipe",
    "about rail": "the turn about the rail", "lens": "the lens tube", "along": "the place along the rail",
    "seed": "the dice",
    "reflectance": "what it gives back", "per m2": "people per m²", "kg per m": "kg per m",
}  # fmt: skip
"""What people call a field, where that is not its name."""


def _adds(show: Show, args: SetField) -> bool:
    """Whether a minus changes what a field holds: it does for lengths, and is an angle's own."""
    item = show.items.get(args.ids[0]) if args.ids else None
    field = FIELDS.get(item.kind, {}).get(args.field) if item is not None else None
    return field is not None and field.quantity == "length"


def _check(show: Show, body: Any, field: str) -> None:
    """What a single field's limits cannot say. Raises JobError."""
    if isinstance(body, Fixture):
        if field == "along" and body.hang is not None:
            require_on_rail(hang_rail(show, body.hang), body.hang.along_m)
        modes = [mode.name for mode in show.type_of(body).modes]
        if field == "mode" and body.mode not in modes:
            raise JobError(f"This type has no mode “{body.mode}”: choose one of {', '.join(modes)}.", field)
    if field in ("eave", "ridge") and body.ridge_m < body.eave_m:
        raise JobError("The ridge would be lower than the eave.", field)


class Cell(Arguments):
    """What was typed or pasted into one cell of a table."""

    id: str
    field: str
    text: str


class SetCells(Arguments):
    """Many cells of a table at once, as one edit: all of them or none."""

    cells: list[Cell]


CELLS_MAX = 40_000


def set_cells(show: Show, args: SetCells, new_id: NewId) -> Edit:
    if not args.cells or len(args.cells) > CELLS_MAX:
        raise JobError(f"Paste at least one cell, and no more than {CELLS_MAX}.", "cells")
    now = show
    touched: dict[str, None] = {}
    report: list[str] = []
    for cell in args.cells:
        touched[cell.id] = None
        try:
            one = SetField(ids=[cell.id], field=cell.field, text=cell.text)
            edit = set_field(now, one, new_id)
        except JobError as wrong:
            name = show.items[cell.id].name if cell.id in show.items else "a row"
            raise JobError(f"{name.capitalize()}, {cell.field}: {wrong}", "cells") from wrong
        now = now.after(edit.changes)
        report += edit.report
    changes = []
    for item_id in now.items.keys() | show.items.keys():
        before, after = show.items.get(item_id), now.items.get(item_id)
        if before is not after and before is not None and after is not None and before.body != after.body:
            changes.append(changed(before, after.body))
    fields = list(dict.fromkeys(cell.field for cell in args.cells))
    what = " and ".join(SAID.get(one, one) for one in fields[:3]) + (" and more" if len(fields) > 3 else "")
    said = f"Set {what} of {listed(show, touched)}"
    return Edit(tuple(changes), said, tuple(touched), tuple(dict.fromkeys(report)))
