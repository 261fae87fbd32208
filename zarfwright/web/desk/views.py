"""What browsers read of a show, as plain values. Functions of a show; the meshes they name are gathered beside."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import asdict, replace
from typing import Any

import orjson

from zarfwright.core.aiming.shutters import blades_of
from zarfwright.core.aiming.yokes import aiming_chain, turns_by_hand
from zarfwright.core.carriers.types import is_driver, ranges_of, returns_home
from zarfwright.core.looks.look import Look
from zarfwright.core.looks.said import NOTHING
from zarfwright.core.looks.shown import facts_of, resolved
from zarfwright.core.looks.stand import prints_of
from zarfwright.core.mesh import Mesh
from zarfwright.core.optics.exposure import camera_ev, shown_per_cd, white_balance
from zarfwright.core.rig.rails import all_rails
from zarfwright.core.scene import bodies, cell_offsets, mounts, solids
from zarfwright.core.seats import seats
from zarfwright.core.settings import Settings
from zarfwright.core.show import Change, Item, Show
from zarfwright.core.types.bodies import BodyPart
from zarfwright.core.types.chain import chains_of, turn_apart
from zarfwright.core.types.model import FixtureType, Mode
from zarfwright.core.types.sort import sort_of, words_of
from zarfwright.store.showfile import changes_to_json, item_json

Meshes = dict[str, Mesh]


def named(mesh: Mesh, meshes: Meshes) -> str:
    """The key of a mesh, which is gathered."""
    meshes[mesh.key] = mesh
    return mesh.key


def camera(settings: Settings) -> dict[str, Any]:
    """How the stage shows luminance, by the show's exposure."""
    by_camera = settings.exposure_kind == "camera"
    ev = camera_ev(settings.aperture, settings.shutter_s, settings.iso) if by_camera else settings.exposure_ev
    white = white_balance(settings.white_k).reshape(-1).tolist()
    return {"ev100": ev, "shown_per_cd": shown_per_cd(ev), "white": white}


def scene(show: Show, items: Iterable[Item], meshes: Meshes) -> list[dict[str, Any]]:
    """What the stage draws of items."""
    return [
        {
            "id": solid.id,
            "kind": solid.kind,
            "mesh": named(solid.mesh, meshes),
            "position": solid.placement.position,
            "rotation": solid.placement.rotation,
            "albedo": solid.albedo,
            "finish": solid.finish,
            "sheer": solid.sheer,
            "scale": solid.scale,
            "screens": solid.screens,
            "ring": solid.ring,
            "gaps": [vars(gap) for gap in solid.gaps],
            "far": named(solid.far, meshes) if solid.far is not None else None,
            "least": named(solid.least, meshes) if solid.least is not None else None,
        }
        for solid in solids(show, items)
    ]


def mounts_of(show: Show, only: set[str] | None = None) -> dict[str, Any]:
    """Where the clamps of fixtures are; of some, or of all on some structures."""
    return {
        mount.fixture: {"position": mount.placement.position, "rotation": mount.placement.rotation}
        for mount in mounts(show, only)
    }


def rails(show: Show) -> dict[str, Any]:
    """The rails of all structures that are shown."""
    return {key: [vars(line) for line in lines] for key, lines in all_rails(show).items()}


def mode_out(mode: Mode) -> dict[str, Any]:
    """A mode at a glance."""
    return {
        "name": mode.name,
        "footprint": mode.footprint,
        "breaks": [{"number": number, "slots": size} for number, size in mode.footprints.items()],
        "channels": [
            {"attribute": c.attribute, "slots": c.slots, "dmx_break": c.dmx_break}
            for c in mode.channels
            if not c.virtual
        ],
    }


def driver_out(found: FixtureType) -> dict[str, Any] | None:
    """What a driver's type moves; None of all others."""
    if not is_driver(found):
        return None
    mode = found.modes[0].name
    return {"channels": [asdict(one) for one in ranges_of(found, mode)], "returns": returns_home(found, mode)}


def types(show: Show) -> dict[str, Any]:
    """What the front end knows of each type."""
    return {
        entry.id: {
            "name": found.name,
            "maker": found.maker,
            "type_id": found.type_id,
            "weight_kg": found.weight_kg,
            "sort": sort_of(found),
            "words": words_of(found),
            "modes": [mode_out(mode) for mode in found.modes],
            "driver": driver_out(found),
        }
        for entry in show.of_kind("type")
        if (found := show.types.get(entry.id)) is not None
    }


def body(type_id: str, mode: str, fixture_type: FixtureType, parts: list[BodyPart], meshes: Meshes) -> dict[str, Any]:
    """A body: meshes by what they turn with, and the offsets of each beam's chain."""
    chain = aiming_chain(fixture_type, mode)
    return {
        "type": type_id,
        "mode": mode,
        "parts": [{"turns": part.turns, "mesh": named(part.mesh, meshes)} for part in parts],
        "cells": [
            {
                "pan": cell.pan,
                "tilt": cell.tilt,
                "lens": cell.lens,
                "lens_radius": cell.lens_radius_m,
                "mount_turn": cell.mount_turn,
                "lens_turn": cell.lens_turn,
                "zero": (cell.pan_zero, cell.tilt_zero),
                "mirror": cell.mirror,
            }
            for cell in cell_offsets(fixture_type, mode)
        ],
        "pan_deg": [math.degrees(end) for end in chain.pan_range],
        "tilt_deg": [math.degrees(end) for end in chain.tilt_range],
        "by_hand": turns_by_hand(chain),
        "apart": turn_apart(chains_of(fixture_type, mode)),
        "blades": asdict(blades) if (blades := blades_of(fixture_type, mode)) else None,
    }


def bodies_of(show: Show, meshes: Meshes, only: set[str] | None = None) -> list[dict[str, Any]]:
    """The bodies in use, or those that some items use."""
    if only is not None:
        show = replace(show, items={key: show.items[key] for key in only if key in show.items})
    found = bodies(show).items()
    return [body(type_id, mode, show.types[type_id], parts, meshes) for (type_id, mode), parts in found]


def seats_of(show: Show) -> list[dict[str, Any]]:
    """Every place that the show is seen from."""
    return [asdict(seat) for seat in seats(show)]


def item_out(item: Item) -> orjson.Fragment:
    """An item as the API writes it."""
    return orjson.Fragment(item_json(_told(item)))


def _told(item: Item) -> Item:
    """An item without what browsers ask for by itself: what a look says can be a hundred kilobytes."""
    return replace(item, body=replace(item.body, values=NOTHING)) if isinstance(item.body, Look) else item


def changes_out(changes: Iterable[Change]) -> orjson.Fragment:
    """Changes as the API writes them."""
    told = [Change(*(_told(one) if one is not None else None for one in (c.before, c.after))) for c in changes]
    return orjson.Fragment(changes_to_json(told))


def looks(show: Show, only: set[str] | None = None) -> dict[str, Any]:
    """How many fixtures each look says something of, and how many give light; of some, or of all."""
    found = {}
    for item, look in show.bodies(Look):
        if only is None or item.id in only:
            said = resolved(show, item.id) if look.parts else look.values
            found[item.id] = {**asdict(facts_of(said)), "prints": prints_of(show, item.id)}
    return found
