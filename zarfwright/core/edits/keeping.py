"""Edits of looks: keep what is seen, keep it again, play one."""

from __future__ import annotations

from dataclasses import replace
from typing import TypeVar

from zarfwright.core.dmx.rows import fixture_of
from zarfwright.core.edits.aiming import require_features
from zarfwright.core.edits.base import Arguments, Around, Edit, LongText, NewId, Values, added, changed, free_name, made
from zarfwright.core.edits.carrying import carriers_brought, carriers_now
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import fitting_ev
from zarfwright.core.looks import next_number
from zarfwright.core.settings import Look, Settings
from zarfwright.core.show import SHOW_ID, Show

LOCKED_FAR_EV = 1.5


def _checked(show: Show, values: Values) -> Values:
    fixtures = {item.id for item, _ in show.fixtures()}
    kept = {key: said for key, said in values.items() if fixture_of(key) in fixtures}
    if not kept:
        raise JobError("There is nothing to keep: hang a fixture first.")
    for said in kept.values():
        require_features(said)
    return kept


class KeepLook(Arguments):
    """Keep values by fixture or cell (`id/3`) as a new look; where there are none, what is seen."""

    name: str = ""
    note: LongText = ""
    values: Values = {}


def keep_look(show: Show, args: KeepLook, new_id: NewId) -> Edit:
    name = free_name(show, "look", args.name, "Look")
    values = _checked(show, args.values)
    note = args.note.strip()
    look = Look(name, next_number(show), values, note, carriers_now(show), fitting_ev(show, values))
    items = added(show, "look", [look], new_id)
    return Edit((made(items[0]),), f"Keep look {look.number}, {name}", (items[0].id,))


L = TypeVar("L", "KeepLook", "UpdateLook")


def needs_values(show: Show, args: L, around: Around) -> tuple[Show, L]:
    return show, args if args.values else args.model_copy(update={"values": around.values()})


class UpdateLook(Arguments):
    """Keep what is seen now in a look that is there."""

    id: str
    values: Values = {}


def update_look(show: Show, args: UpdateLook, _: NewId) -> Edit:
    item, body = show.thing(args.id, Look)
    values = _checked(show, args.values)
    look = replace(body, values=values, carriers=carriers_now(show), exposure_ev=fitting_ev(show, values))
    return Edit((changed(item, look),), f"Update look {look.number}, {look.name}", (item.id,))


def _exposed(settings: Settings, look: Look) -> tuple[Settings, tuple[str, ...]]:
    """Settings with the exposure of a look; where that is locked and far from it, what to say of it."""
    wanted = look.exposure_ev
    if wanted is None or settings.exposure_kind != "eye" or settings.eye_adapts:
        return settings, ()
    if not settings.exposure_locked:
        return replace(settings, exposure_ev=wanted), ()
    away = wanted - settings.exposure_ev
    if abs(away) < LOCKED_FAR_EV:
        return settings, ()
    said = f"The exposure is locked at EV {settings.exposure_ev:.1f}, and {look.name} would be seen at EV {wanted:.1f}"
    return settings, (f"{said}: unlock it in the picture's settings (E).",)


class PlayLook(Arguments):
    """Let a look drive the picture, and bring carriers to where it has them, and the exposure that suits it unless that
    is locked; the console is no longer followed, so that it can be seen. None: home."""

    id: str | None


def play_look(show: Show, args: PlayLook, _: NewId) -> Edit:
    settings = replace(show.settings, playing=args.id, follow_console=False)
    if args.id is None:
        return Edit((changed(show.item(SHOW_ID), settings),), "Play no look")
    look = show.body(args.id, Look)
    moves, names = carriers_brought(show, look.carriers)
    report = (
        (f"{', '.join(names)}: brought to where the look has {'it' if len(names) == 1 else 'them'}.",) if names else ()
    )
    settings, locked = _exposed(settings, look)
    said = f"Play look {look.number}, {look.name}"
    return Edit((changed(show.item(SHOW_ID), settings), *moves), said, (args.id,), report + locked)
