"""Edits of the type shop: drafts of fixture types, and types replaced by better ones."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any

from pydantic import Field, TypeAdapter, ValidationError

from zarfwright.core.edits.base import Arguments, Around, Edit, NewId, added, changed, made
from zarfwright.core.errors import JobError
from zarfwright.core.plain import require_plain
from zarfwright.core.rig.things import Fixture, TypeEntry
from zarfwright.core.show import Change, Show
from zarfwright.core.types.model import FixtureType
from zarfwright.core.types.shop.build import draft_of
from zarfwright.core.types.shop.checks import checks, repaired
from zarfwright.core.types.shop.draft import Draft, DraftChannel, DraftMode, Kind
from zarfwright.core.types.shop.pasted import Pasted, paste_channels, paste_ranges
from zarfwright.core.types.shop.starters import starter

DRAFT_JSON: TypeAdapter[Draft] = TypeAdapter(Draft)
MODES_MAX, CHANNELS_MAX, CELLS_MAX = 50, 1024, 1024


class StartDraft(Arguments):
    """Begin a draft: of a kind, or from a copy of a type of this show (`change`: to change that type itself)."""

    kind: Kind = "moving head"
    name: str = ""
    maker: str = "My own"
    of_type: str | None = None
    change: bool = False
    images: dict[str, str] = {}
    """Assets of the copied type's images."""
    webs: dict[str, str] = {}
    empty: bool = False
    """Without the channels that such a lamp usually has: they come out of its manual."""


def needs_files(show: Show, args: StartDraft, around: Around) -> tuple[Show, StartDraft]:
    """The images and webs of the copied type as assets of their own."""
    fixture_type = show.types.get(args.of_type or "")
    if fixture_type is None:
        return show, args
    kept = {
        "images": {name: around.keep(f"{name}.png", data) for name, data in fixture_type.images.items()},
        "webs": {name: around.keep(f"{name}.ies", data) for name, data in fixture_type.ies.items()},
    }
    return show, args.model_copy(update=kept)


def start_draft(show: Show, args: StartDraft, new_id: NewId) -> Edit:
    if args.of_type is not None:
        item = show.item(args.of_type, "type")
        fixture_type = show.types.get(args.of_type)
        if fixture_type is None or not isinstance(item.body, TypeEntry):
            raise JobError("The file of this type is missing from the show: add its GDTF again.")
        draft = draft_of(fixture_type, args.images, args.webs)
        draft = replace(draft, of_type=args.of_type if args.change else None, older=item.body.asset)
        if not args.change:
            draft = replace(draft, name=args.name.strip() or f"{draft.name} copy", type_id="")
        sentence = f"{'Change' if args.change else 'Copy'} the type {fixture_type.name}"
    else:
        draft = starter(args.kind, args.name.strip() or f"New {args.kind}", args.maker.strip() or "My own")
        if args.empty:
            draft = replace(draft, modes=(DraftMode("Mode 1"),), emitters=())
        sentence = f"Begin the type {draft.name}"
    items = added(show, "draft", [draft], new_id)
    return Edit((made(items[0]),), sentence, (items[0].id,))


class ChangeDraft(Arguments):
    """Put a draft as it is filled in now; `what` says in a few words what was done, for the history."""

    id: str
    draft: dict[str, Any]
    what: str = ""


def _require_channel(mode: str, channel: DraftChannel) -> None:
    """Raises JobError where a channel of a draft is none that could be."""
    if len(channel.slots) > 4 or not all(1 <= slot <= 512 for slot in channel.slots):
        raise JobError(f"{mode}: a channel has up to four slots from 1 to 512.", "slots")
    if not 0 <= channel.home <= channel.top:
        raise JobError(f"{mode}: a channel's home lies from 0 to {channel.top}.", "home")
    if len(channel.ranges) > 512 or any(r.start < 0 or r.end < 0 for r in channel.ranges):
        raise JobError(f"{mode}: ranges begin at 0, and a channel has up to 512 of them.", "ranges")


def valid_draft(values: dict[str, Any]) -> Draft:
    """A draft from plain values. Raises JobError saying which value cannot be."""
    require_plain(values)
    try:
        draft = DRAFT_JSON.validate_python(values)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        where = " ".join(str(part) for part in first["loc"])
        raise JobError(f"“{where}” of the draft cannot be used: {first['msg']}.", where) from wrong
    if len(draft.modes) > MODES_MAX or any(len(mode.channels) > CHANNELS_MAX for mode in draft.modes):
        raise JobError(f"A type may have {MODES_MAX} modes of {CHANNELS_MAX} channels: this one has more.")
    if len(draft.body.cells) > CELLS_MAX or (draft.kind != "hazer" and not draft.body.cells):
        raise JobError(f"A body has from 1 to {CELLS_MAX} lenses.", "cells")
    for mode in draft.modes:
        for channel in mode.channels:
            _require_channel(mode.name, channel)
    beam, body = draft.beam, draft.body
    limits = (
        ("beam angle", beam.beam_angle_deg, 0.1, 180.0), ("field angle", beam.field_angle_deg, 0.1, 180.0),
        ("flux", beam.flux_lm, 0.0, 1e7), ("colour temperature", beam.colour_temperature_k, 1000.0, 25_000.0),
        ("lens radius", beam.lens_radius_m, 0.001, 5.0), ("length", body.length_m, 0.01, 20.0),
        ("width", body.width_m, 0.01, 20.0), ("height", body.height_m, 0.01, 20.0),
        ("weight", draft.weight_kg, 0.0, 5000.0),
        ("power", draft.power_w, 0.0, 1e6),
    )  # fmt: skip
    for name, value, least, most in limits:
        if not least <= value <= most:
            raise JobError(f"The {name} cannot be {value:g}: type from {least:g} to {most:g}.", name)
    return draft


def _of(show: Show, draft_id: str) -> Draft:
    body = show.body(draft_id, Draft)
    return body


def change_draft(show: Show, args: ChangeDraft, _: NewId) -> Edit:
    draft = valid_draft(args.draft)
    item = show.item(args.id, "draft")
    if draft == item.body:
        return Edit((), "Nothing changed", (args.id,))
    return Edit((changed(item, draft),), f"{args.what.strip() or 'Change'}, {draft.name}", (args.id,))


class RepairDraft(Arguments):
    """Put one check right, named by its kind and places; None: all that can be."""

    id: str
    kind: str | None = None
    mode: int | None = None
    channel: int | None = None
    range: int | None = None


def repair_draft(show: Show, args: RepairDraft, _: NewId) -> Edit:
    draft = _of(show, args.id)
    after, count, text = draft, 0, ""
    for _round in range(200):
        open_now = [c for c in checks(after) if c.button and not c.asks]
        if args.kind is not None:
            wanted = (args.kind, args.mode, args.channel, args.range)
            open_now = [c for c in checks(draft) if (c.kind, c.mode, c.channel, c.range) == wanted]
        if not open_now:
            break
        after, count, text = repaired(after, open_now[0]), count + 1, open_now[0].button
        if args.kind is not None:
            break
    if after == draft:
        raise JobError("There is nothing here that can be put right by itself.")
    said = text if count == 1 else f"Put {count} things right"
    return Edit((changed(show.item(args.id), after),), f"{said}, {draft.name}", (args.id,))


Page = Annotated[str, Field(max_length=50_000)]
"""A page of a manual, or some: more than any mode's table."""


class PasteRanges(Arguments):
    """Read a manual's table of one channel."""

    id: str
    mode: int
    channel: int
    text: Page


class PasteChannels(Arguments):
    """Read a manual's list of channels, with all of its modes. A mode that has channels is replaced only if it is said:
    else what is read comes beside it."""

    id: str
    mode: int
    text: Page
    replacing: bool = False


def _pasted(show: Show, draft_id: str, pasted: Pasted, what: str) -> Edit:
    if pasted.draft == show.item(draft_id).body:
        raise JobError(
            "No range was found in this text: each needs its values, such as 0-15, and what they do.", "text"
        )
    report = [f"line {line}, “{words}”: {why}" for line, words, why in pasted.left]
    if pasted.doubts:
        report.append(f"{pasted.doubts} to look at: each says what was assumed, or not understood.")
    return Edit(
        (changed(show.item(draft_id), pasted.draft),), f"{what}, {pasted.draft.name}", (draft_id,), tuple(report)
    )


def _required_mode(draft: Draft, mode: int, channel: int | None = None) -> None:
    if not 0 <= mode < len(draft.modes):
        raise JobError("That mode is no longer there: choose another.", "mode")
    if channel is not None and not 0 <= channel < len(draft.modes[mode].channels):
        raise JobError("That channel is no longer there: choose another.", "channel")


def paste_ranges_edit(show: Show, args: PasteRanges, _: NewId) -> Edit:
    draft = _of(show, args.id)
    _required_mode(draft, args.mode, args.channel)
    pasted = paste_ranges(draft, args.mode, args.channel, args.text)
    return _pasted(show, args.id, pasted, "Paste ranges")


def paste_channels_edit(show: Show, args: PasteChannels, _: NewId) -> Edit:
    draft = _of(show, args.id)
    _required_mode(draft, args.mode)
    return _pasted(show, args.id, paste_channels(draft, args.mode, args.text, args.replacing), "Paste channels")


class ReplaceType(Arguments):
    """Let a type of the show be another file from now on; its fixtures stay, in the modes that are still there."""

    id: str
    name: str
    maker: str
    asset: str
    draft: str | None = None


def differences(before: FixtureType, after: FixtureType, used: dict[str, int]) -> list[str]:
    """What changes for fixtures when a type is replaced; `used`: how many fixtures are in each mode."""
    said = []
    names = {mode.name for mode in after.modes}
    for mode in before.modes:
        count = used.get(mode.name, 0)
        if mode.name not in names:
            more = f": {count} fixtures go to {after.modes[0].name}" if count else ""
            said.append(f"{mode.name} is no more{more}")
            continue
        new = after.mode(mode.name)
        if new.footprints != mode.footprints:
            sizes = f"{sum(mode.footprints.values())} slots before, {sum(new.footprints.values())} after"
            said.append(f"{mode.name}: {sizes}{f'; {count} fixtures are patched so' if count else ''}")
        old_channels = [(c.attribute, c.slots) for c in mode.channels]
        moved = sum(1 for c in new.channels if (c.attribute, c.slots) not in old_channels)
        if moved:
            said.append(f"{mode.name}: {moved} channels are others or elsewhere")
        elif new.channels != mode.channels and new.footprints == mode.footprints:
            said.append(f"{mode.name}: what its channels do has changed")
    said += [f"{mode.name} is new" for mode in after.modes if mode.name not in {m.name for m in before.modes}]
    return said


def needs_type(show: Show, args: ReplaceType, around: Around) -> tuple[Show, ReplaceType]:
    """What it will be, so that the edit can say what changes."""
    read = around.type_in(args.asset)
    return (show if read is None else replace(show, types={**show.types, f"asset:{args.asset}": read})), args


def replace_type(show: Show, args: ReplaceType, _: NewId) -> Edit:
    item = show.item(args.id, "type")
    entry = TypeEntry(args.name, args.maker, args.asset)
    changes = [changed(item, entry)]
    after = show.types.get(f"asset:{args.asset}")
    before = show.types.get(args.id)
    report: list[str] = []
    if after is not None and before is not None:
        names = [mode.name for mode in after.modes]
        used: dict[str, int] = {}
        for fixture_item, fixture in show.fixtures():
            if fixture.type != args.id:
                continue
            used[fixture.mode] = used.get(fixture.mode, 0) + 1
            if fixture.mode not in names:
                body: Fixture = replace(fixture, mode=names[0])
                changes.append(changed(fixture_item, body))
        report = differences(before, after, used)
    if args.draft is not None:
        changes.append(Change(show.item(args.draft, "draft"), None))
    return Edit(tuple(changes), f"Change the type {args.name}", (args.id,), tuple(report))
