"""Edits of looks: keep what is seen or held, all of it or a part, keep it again, play one."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal, TypeVar

from pydantic import PrivateAttr

from zarfwright.core.dmx.rows import fixture_of
from zarfwright.core.edits.aiming import require_features
from zarfwright.core.edits.base import Arguments, Around, Edit, LongText, NewId, Values, added, changed, made
from zarfwright.core.edits.carrying import carriers_brought, carriers_now
from zarfwright.core.errors import JobError
from zarfwright.core.lighting import fitting_ev
from zarfwright.core.looks.kept import Links, changed_rows, held, links_of_hands, of_some, seen, with_links
from zarfwright.core.looks.look import UNNAMED, Look, at_start, called
from zarfwright.core.looks.said import Said, overlaid, said_of
from zarfwright.core.looks.shown import carriers_of, layers_of, next_number, resolved
from zarfwright.core.looks.sorts import SORTS, Sort
from zarfwright.core.settings import Settings
from zarfwright.core.show import SHOW_ID, Show, listed

LOCKED_FAR_EV = 1.5
NO_LINKS = Links({}, {})


class OfPicture(Arguments):
    """What of the picture is meant: `values` by fixture or cell (`id/3`), else what is seen; of some fixtures and sorts
    of what they do, or of all."""

    values: Values = {}
    ids: list[str] = []
    sorts: list[Sort] = []
    _shown: Said | None = PrivateAttr(None)


L = TypeVar("L", bound=OfPicture)


def needs_values(show: Show, args: L, around: Around) -> tuple[Show, L]:
    """What is seen now, where that is what is kept."""
    if not args.values and not (isinstance(args, KeepLook) and args.what == "held"):
        args = args.model_copy()
        args._shown = seen(show, around.values())
    return show, args


def _picture(show: Show, args: OfPicture) -> Said:
    """What is told, or seen, of those that are meant. Raises JobError where that is nothing."""
    if args._shown is not None:
        shown = args._shown
    else:
        fixtures = {item.id for item, _ in show.fixtures()}
        told = {key: said for key, said in args.values.items() if fixture_of(key) in fixtures}
        for said in told.values():
            require_features(said)
        shown = said_of(told)
    some = of_some(shown, {*args.ids}, args.sorts)
    if not len(some):
        raise JobError("There is nothing to keep: hang a fixture first." if not len(shown) else NOTHING_OF_IT)
    return some


NOTHING_OF_IT = "There is nothing to keep of these: select others, or other sorts of what they do."


def _links(show: Show, args: OfPicture) -> Links:
    """What of the picture comes of palettes and points; values that are told come of none."""
    return NO_LINKS if args.values else links_of_hands(show, {*args.ids}, args.sorts)


class KeepLook(OfPicture):
    """Keep a new look: what is seen, or (`what`) only what is held by hand. A part of the rig, or of what it does, is a
    part: carriers, haze, house light and exposure are kept with all of it only."""

    name: str = ""
    number: str = ""
    note: LongText = ""
    what: Literal["seen", "held"] = "seen"
    source: str = ""


def number_typed(show: Show, text: str) -> float:
    """The number of a look as it is typed: 4, 4.5; nothing: the next whole one. Raises JobError."""
    if not text.strip():
        return next_number(show)
    try:
        number = round(float(text.strip().replace(",", ".")), 3)
    except ValueError as wrong:
        raise JobError(f"“{text}” is no number of a look: type 4, or 4.5 for one between 4 and 5.", "number") from wrong
    if not 0 < number < 100_000:
        raise JobError("A look's number is above 0 and below 100000.", "number")
    taken = next((look for _, look in show.bodies(Look) if look.number == number), None)
    if taken is not None:
        raise JobError(f"{at_start(taken)} has that number: type another.", "number")
    return number


def keep_look(show: Show, args: KeepLook, new_id: NewId) -> Edit:
    name = args.name.strip() or UNNAMED
    number = number_typed(show, args.number)
    whole = not args.ids and not args.sorts and args.what == "seen"
    if args.what == "held":
        values = of_some(held(show), {*args.ids}, args.sorts)
        if not len(values):
            raise JobError("Nothing of these is held by hand: set levels, colours or aims by hand first.")
    else:
        values = _picture(show, args)
    look = Look(name, number, values, args.note.strip(), whole=whole, source=args.source)
    if whole:
        look = _with_all(show, look)
    look = with_links(show, look, (), (), _links(show, args))
    items = added(show, "look", [look], new_id)
    of = "" if whole else _of_words(show, args)
    return Edit((made(items[0]),), f"Keep {called(look)}{of}", (items[0].id,))


def _of_words(show: Show, args: OfPicture) -> str:
    whom = f" of {listed(show, args.ids, 'fixture')}" if args.ids else ""
    return f"{whom}: {' and '.join(args.sorts)}" if args.sorts else whom


def _with_all(show: Show, look: Look) -> Look:
    """A look with where carriers are, the haze, the house lights, and the exposure that suits it."""
    now = show.settings
    return replace(
        look, carriers=carriers_now(show), exposure_ev=fitting_ev(show, look.values), haze_per_m=now.haze_per_m,
        house_light_lx=now.house_light_lx,
    )  # fmt: skip


class UpdateLook(OfPicture):
    """Keep what is seen now in a look that is there: all of it, or (`changed`) only what is unlike what it says."""

    id: str
    changed: bool = False


def update_look(show: Show, args: UpdateLook, _: NewId) -> Edit:
    item, body = show.thing(args.id, Look)
    values = _picture(show, args)
    if args.changed:
        return _changed_only(show, args, body, values)
    some = bool(args.ids or args.sorts)
    look = replace(body, values=overlaid([body.values, values]) if some else values)
    look = with_links(show, look, args.ids, args.sorts, _links(show, args))
    if not some:
        look = _with_all(show, replace(look, whole=True, parts=()))
    return Edit((changed(item, look),), f"Update {called(look)}{_of_words(show, args)}", (item.id,))


def _changed_only(show: Show, args: UpdateLook, body: Look, shown: Said) -> Edit:
    item = show.items[args.id]
    news = changed_rows(resolved(show, args.id), shown, of_some(held(show), {*args.ids}, args.sorts))
    look = replace(body, values=overlaid([body.values, news]))
    fixtures = news.table.fixtures
    look = _relinked(show, look, news)
    if body.whole:
        now = show.settings
        look = replace(look, carriers={**body.carriers, **carriers_now(show)}, haze_per_m=now.haze_per_m,
                       house_light_lx=now.house_light_lx)  # fmt: skip
    if look == body:
        raise JobError(f"{at_start(body)} is as the picture is: nothing has changed.")
    what = f"what changed in {listed(show, sorted(fixtures), 'fixture')}" if fixtures else "what is not of fixtures"
    return Edit((changed(item, look),), f"Update {called(look)}: {what}", (item.id,))


def _relinked(show: Show, look: Look, news: Said) -> Look:
    """What has changed is linked to what it comes of by hand, and no longer to what it came of before."""
    for sort in SORTS:
        fixtures = of_some(news, (), [sort]).table.fixtures
        if fixtures:
            look = with_links(show, look, fixtures, [sort], links_of_hands(show, fixtures, [sort]))
    return look


def _exposed(settings: Settings, name: str, wanted: float | None) -> tuple[Settings, tuple[str, ...]]:
    """Settings with the exposure of a look; where that is locked and far from it, what to say of it."""
    if wanted is None or settings.exposure_kind != "eye" or settings.eye_adapts:
        return settings, ()
    if not settings.exposure_locked:
        return replace(settings, exposure_ev=wanted), ()
    away = wanted - settings.exposure_ev
    if abs(away) < LOCKED_FAR_EV:
        return settings, ()
    said = f"The exposure is locked at EV {settings.exposure_ev:.1f}, and {name} would be seen at EV {wanted:.1f}"
    return settings, (f"{said}: unlock it in the picture's settings (E).",)


def _aired(settings: Settings, looks: list[Look]) -> Settings:
    """Settings with the haze and the house lights of a look, where it says anything of them."""
    for look in looks:
        haze, house = look.haze_per_m, look.house_light_lx
        settings = settings if haze is None else replace(settings, haze_per_m=haze)
        settings = settings if house is None else replace(settings, house_light_lx=house)
    return settings


class PlayLook(Arguments):
    """Let a look drive the picture, and bring carriers, haze and house lights to where it has them, and the exposure
    that suits it unless that is locked. It is over the console, so that it can be seen. None: home."""

    id: str | None


def play_look(show: Show, args: PlayLook, _: NewId) -> Edit:
    settings = replace(show.settings, playing=args.id, running=None, look_first=args.id is not None)
    if args.id is None:
        return Edit((changed(show.item(SHOW_ID), settings),), "Play no look")
    look = show.body(args.id, Look)
    layers = layers_of(show, args.id)
    moves, names = carriers_brought(show, carriers_of(show, args.id))
    report = (
        (f"{', '.join(names)}: brought to where the look has {'it' if len(names) == 1 else 'them'}.",) if names else ()
    )
    exposure = next((one.exposure_ev for one in reversed(layers) if one.exposure_ev is not None), None)
    settings, locked = _exposed(_aired(settings, layers), look.name, exposure)
    said = f"Play {called(look)}"
    return Edit((changed(show.item(SHOW_ID), settings), *moves), said, (args.id,), report + locked)
