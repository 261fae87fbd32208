"""Edits: a show and arguments in, changes and a sentence out. Nothing here stores or logs.

One module for each family. `EDITS` names every edit; the web takes their arguments as JSON and the API's types are
made from the same models.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from pydantic import ValidationError

from zarfwright.core.aiming.follow import followed
from zarfwright.core.edits import (
    aiming,
    arranging,
    carrying,
    colouring,
    connecting,
    copying,
    crowding,
    cutting,
    detailing,
    dimming,
    drawing,
    driving,
    exchanging,
    fields,
    focusing,
    guides,
    hanging,
    issuing,
    keeping,
    labelling,
    lasering,
    layering,
    linking,
    listing,
    looking,
    measuring,
    mirroring,
    noting,
    openings,
    ordering,
    paletting,
    patching,
    placing,
    rehanging,
    setting,
    shaping,
    sharpening,
    sheeting,
    siting,
    starting,
    turning,
    underlay,
)
from zarfwright.core.edits.base import Arguments, Around, Call, Edit, Long, Needs, NewId, require_unlocked
from zarfwright.core.errors import JobError
from zarfwright.core.plain import no_number, said_of
from zarfwright.core.show import Show


@dataclass(frozen=True)
class Kind:
    """An edit of one name: its arguments, how it is worked out, what it needs of what is around, what takes long."""

    model: type[Arguments]
    work: Callable[..., Edit]
    """From the show, the arguments and a maker of ids; with the answers as well where there is something long."""
    needs: Needs[Any] | None = None
    long: Long[Any] | None = None
    by_hand: bool = False
    """It only holds or plays what things show: what is built stays as it is, so locked layers do not mind."""


EDITS: dict[str, Kind] = {
    "add venue": Kind(siting.AddVenue, siting.add_venue),
    "add deck": Kind(siting.AddDeck, siting.add_deck),
    "add outline deck": Kind(drawing.AddOutlineDeck, drawing.add_outline_deck),
    "add drawing": Kind(underlay.AddDrawing, underlay.add_drawing),
    "set drawing": Kind(underlay.SetDrawing, underlay.set_drawing),
    "add panel": Kind(drawing.AddPanel, drawing.add_panel),
    "add wall": Kind(drawing.AddWall, drawing.add_wall),
    "cut opening": Kind(openings.CutOpening, openings.cut_opening),
    "set opening": Kind(openings.SetOpening, openings.set_opening),
    "fill opening": Kind(openings.FillOpening, openings.fill_opening),
    "add crowd": Kind(crowding.AddCrowd, crowding.add_crowd),
    "keep clear": Kind(crowding.KeepClear, crowding.keep_clear),
    "face crowd": Kind(crowding.FaceCrowd, crowding.face_crowd),
    "thin crowds": Kind(crowding.ThinCrowds, crowding.thin_crowds, long=Long(crowding.thinning_calls)),
    "set outline": Kind(drawing.SetOutline, drawing.set_outline),
    "offset outline": Kind(drawing.OffsetOutline, drawing.offset_outline),
    "add mesh": Kind(starting.AddMesh, starting.add_mesh, starting.needs_mesh),
    "simplify mesh": Kind(
        starting.SimplifyMesh, starting.simplify_mesh, long=Long(starting.mesh_calls, starting.with_fewer)
    ),
    "set reflectance": Kind(starting.SetReflectance, starting.set_reflectance),
    "move datums": Kind(placing.MoveDatums, placing.move_datums),
    "join ends": Kind(placing.JoinEnds, placing.join_ends),
    "set above": Kind(placing.SetAbove, placing.set_above),
    "repeat": Kind(placing.Repeat, placing.repeat),
    "add piece": Kind(starting.AddPiece, starting.add_piece),
    "start site": Kind(starting.StartSite, starting.start_site),
    "duplicate": Kind(copying.Duplicate, copying.duplicate),
    "mirror": Kind(mirroring.Mirror, mirroring.mirror),
    "rotate": Kind(arranging.Rotate, carrying.rotate_with),
    "align": Kind(arranging.Align, arranging.align),
    "spread": Kind(arranging.Spread, arranging.spread),
    "drop": Kind(arranging.Drop, arranging.drop),
    "add truss": Kind(siting.AddTruss, siting.add_truss),
    "add figures": Kind(siting.AddFigures, siting.add_figures),
    "add viewpoint": Kind(siting.AddViewpoint, siting.add_viewpoint),
    "move": Kind(siting.Move, siting.move),
    "remove": Kind(siting.Remove, siting.remove),
    "set field": Kind(fields.SetField, fields.set_field),
    "set cells": Kind(fields.SetCells, fields.set_cells),
    "place along rail": Kind(hanging.PlaceAlongRail, hanging.place_along_rail),
    "place free": Kind(hanging.PlaceFree, hanging.place_free),
    "place one": Kind(rehanging.PlaceOne, rehanging.place_one),
    "put back": Kind(rehanging.PutBack, rehanging.put_back),
    "copy attitude": Kind(rehanging.CopyAttitude, rehanging.copy_attitude),
    "swap type": Kind(rehanging.SwapType, rehanging.swap_type),
    "arrange": Kind(guides.Arrange, guides.arrange),
    "make carrier": Kind(carrying.MakeCarrier, carrying.make_carrier),
    "put on": Kind(carrying.PutOn, carrying.put_on),
    "set pivot": Kind(carrying.SetPivot, carrying.set_pivot),
    "add fixtures": Kind(listing.AddFixtures, listing.add_fixtures, listing.needs_types),
    "add label style": Kind(labelling.AddLabelStyle, labelling.add_label_style),
    "set label style": Kind(labelling.SetLabelStyle, labelling.set_label_style),
    "aim at": Kind(aiming.AimAt, aiming.aim_at, aiming.needs_heads, by_hand=True),
    "hold values": Kind(aiming.HoldValues, aiming.hold_values, by_hand=True),
    "release": Kind(aiming.Release, aiming.release, by_hand=True),
    "turn heads": Kind(turning.TurnHeads, turning.turn_heads, aiming.needs_heads, by_hand=True),
    "flip": Kind(turning.Flip, turning.flip, aiming.needs_heads, by_hand=True),
    "mirror aims": Kind(turning.MirrorAims, turning.mirror_aims, turning.needs_mirror, by_hand=True),
    "set colour": Kind(colouring.SetColour, colouring.set_colour, colouring.needs_colour, by_hand=True),
    "cut to edge": Kind(cutting.CutToEdge, cutting.cut_to_edge, cutting.needs_poses, by_hand=True),
    "sharp at": Kind(sharpening.SharpAt, sharpening.sharp_at, sharpening.needs_poses, by_hand=True),
    "keep palette": Kind(paletting.KeepPalette, paletting.keep_palette, paletting.needs_shown),
    "take palettes": Kind(paletting.TakePalettes, paletting.take_palettes),
    "apply palette": Kind(paletting.ApplyPalette, paletting.apply_palette, aiming.needs_heads, by_hand=True),
    "update palette": Kind(paletting.UpdatePalette, paletting.update_palette, paletting.needs_shown, by_hand=True),
    "add driver": Kind(driving.AddDriver, driving.add_driver, driving.needs_driver),
    "set driver": Kind(driving.SetDriver, driving.set_driver, driving.needs_driver),
    "keep aim": Kind(driving.KeepAim, driving.keep_aim, by_hand=True),
    "number feeds": Kind(lasering.NumberFeeds, lasering.number_feeds),
    "cut zones": Kind(lasering.CutZones, lasering.cut_zones),
    "draw file": Kind(lasering.DrawFile, lasering.draw_file),
    "add focus point": Kind(focusing.AddFocusPoint, focusing.add_focus_point),
    "ride on": Kind(focusing.RideOn, focusing.ride_on),
    "set path": Kind(focusing.SetPath, focusing.set_path),
    "walk": Kind(focusing.Walk, focusing.walk),
    "number": Kind(patching.Number, patching.number),
    "address": Kind(patching.Address, patching.address),
    "move universe": Kind(patching.MoveUniverse, patching.move_universe),
    "place break": Kind(patching.PlaceBreak, patching.place_break),
    "take patch": Kind(patching.TakePatch, patching.take_patch),
    "unpatch": Kind(patching.Unpatch, patching.unpatch),
    "add rack": Kind(dimming.AddRack, dimming.add_rack),
    "set rack": Kind(dimming.SetRack, dimming.set_rack),
    "rate dimmers": Kind(dimming.RateDimmers, dimming.rate_dimmers),
    "plug": Kind(dimming.Plug, dimming.plug),
    "add connection": Kind(connecting.AddConnection, connecting.add_connection),
    "set connection": Kind(connecting.SetConnection, connecting.set_connection),
    "hear only": Kind(connecting.HearOnly, connecting.hear_only),
    "link console": Kind(linking.LinkConsole, linking.link_console),
    "set console": Kind(linking.SetConsole, linking.set_console),
    "keep check": Kind(linking.KeepCheck, linking.keep_check),
    "look for consoles": Kind(linking.LookForConsoles, linking.look_for_consoles),
    "keep look": Kind(keeping.KeepLook, keeping.keep_look, keeping.needs_values),
    "update look": Kind(keeping.UpdateLook, keeping.update_look, keeping.needs_values),
    "play look": Kind(keeping.PlayLook, keeping.play_look, by_hand=True),
    "set in look": Kind(looking.SetInLook, looking.set_in_look),
    "give in look": Kind(looking.GiveInLook, looking.give_in_look),
    "copy parts": Kind(looking.CopyParts, looking.copy_parts),
    "take out": Kind(looking.TakeOut, looking.take_out),
    "set parts": Kind(looking.SetParts, looking.set_parts),
    "make of parts": Kind(looking.MakeOfParts, looking.make_of_parts),
    "merge looks": Kind(looking.MergeLooks, looking.merge_looks),
    "renumber looks": Kind(looking.RenumberLooks, looking.renumber_looks),
    "take looks": Kind(looking.TakeLooks, looking.take_looks),
    "see look from": Kind(looking.SeeLookFrom, looking.see_look_from),
    "add order": Kind(ordering.AddOrder, ordering.add_order),
    "add steps": Kind(ordering.AddSteps, ordering.add_steps),
    "set step": Kind(ordering.SetStep, ordering.set_step),
    "stretch order": Kind(ordering.StretchOrder, ordering.stretch),
    "move steps": Kind(ordering.MoveSteps, ordering.move_steps),
    "remove steps": Kind(ordering.RemoveSteps, ordering.remove_steps),
    "go ahead": Kind(ordering.GoAhead, ordering.go_ahead),
    "set sound": Kind(ordering.SetSound, ordering.set_sound),
    "mark order": Kind(ordering.MarkOrder, ordering.mark_order),
    "play order": Kind(ordering.PlayOrder, ordering.play_order, by_hand=True),
    "add area": Kind(measuring.AddArea, measuring.add_area),
    "set area": Kind(measuring.SetArea, measuring.set_area),
    "measure light": Kind(
        measuring.MeasureLight,
        measuring.measure_light,
        measuring.needs_optics,
        Long(measuring.measuring_calls, measuring.with_measured),
    ),
    "write note": Kind(noting.WriteNote, noting.write_note),
    "set note": Kind(noting.SetNote, noting.set_note),
    "answer note": Kind(noting.AnswerNote, noting.answer_note),
    "take notes": Kind(noting.TakeNotes, noting.take_notes),
    "add sheet": Kind(sheeting.AddSheet, sheeting.add_sheet),
    "set sheet": Kind(sheeting.SetSheet, sheeting.set_sheet),
    "order sheets": Kind(sheeting.OrderSheets, sheeting.order_sheets),
    "add view": Kind(sheeting.AddView, sheeting.add_view),
    "set view": Kind(sheeting.SetView, sheeting.set_view),
    "remove view": Kind(sheeting.RemoveView, sheeting.remove_view),
    "put label": Kind(detailing.PutLabel, detailing.put_label),
    "add dimension": Kind(detailing.AddDimension, detailing.add_dimension),
    "set dimension": Kind(detailing.SetDimension, detailing.set_dimension),
    "write on sheet": Kind(detailing.WriteOnSheet, detailing.write_on_sheet),
    "issue papers": Kind(issuing.IssuePapers, issuing.issue_papers),
    "set list": Kind(issuing.SetList, issuing.set_list),
    "add supply": Kind(issuing.AddSupply, issuing.add_supply),
    "set supply": Kind(issuing.SetSupply, issuing.set_supply),
    "add layer": Kind(layering.AddLayer, layering.add_layer),
    "set layer": Kind(layering.SetLayer, layering.set_layer),
    "isolate layer": Kind(layering.IsolateLayer, layering.isolate_layer),
    "activate layer": Kind(layering.ActivateLayer, layering.activate_layer),
    "to layer": Kind(layering.ToLayer, layering.to_layer),
    "remove layer": Kind(layering.RemoveLayer, layering.remove_layer),
    "take scene": Kind(
        exchanging.TakeScene,
        exchanging.take_scene,
        exchanging.needs_scene,
        Long(exchanging.mesh_calls, exchanging.with_meshes),
    ),
    "set show": Kind(setting.SetShow, setting.set_show),
    "add type": Kind(setting.AddType, setting.add_type),
    "replace type": Kind(shaping.ReplaceType, shaping.replace_type, shaping.needs_type),
    "start draft": Kind(shaping.StartDraft, shaping.start_draft, shaping.needs_files),
    "change draft": Kind(shaping.ChangeDraft, shaping.change_draft),
    "repair draft": Kind(shaping.RepairDraft, shaping.repair_draft),
    "paste ranges": Kind(shaping.PasteRanges, shaping.paste_ranges_edit),
    "paste channels": Kind(shaping.PasteChannels, shaping.paste_channels_edit),
}


@dataclass(frozen=True)
class Prepared:
    """An edit with all that it needs: `show` is what it was seen on, with what was read for it."""

    kind: Kind
    args: Arguments
    show: Show
    answers: tuple[Any, ...] | None = None
    """Of what takes long; None while that is not done."""

    def calls(self) -> list[Call]:
        """What has to be done before, wherever: give the answers to `answered`, in this order. Raises JobError."""
        return self.kind.long.calls(self.show, self.args) if self.kind.long is not None else []

    def answered(self, answers: Sequence[Any]) -> Prepared:
        """The edit with what took long."""
        given = list(answers)
        show = self.kind.long.into(self.show, self.args, given) if self.kind.long is not None else self.show
        return replace(self, show=show, answers=tuple(given))

    def files_into(self, show: Show) -> Show:
        """Another show with the types and meshes that were read or made for this edit."""
        types = {key: self.show.types[key] for key in self.show.types.keys() - show.types.keys()}
        meshes = {key: self.show.meshes[key] for key in self.show.meshes.keys() - show.meshes.keys()}
        if not types and not meshes:
            return show
        return replace(show, types={**types, **show.types}, meshes={**meshes, **show.meshes})

    def on(self, show: Show, new_id: NewId) -> Edit:
        """Work it out on a show, which may be a later one. Raises JobError, with the field at fault."""
        show = self.files_into(show)
        edit = self._worked_out(show, new_id)
        if not self.kind.by_hand:
            require_unlocked(show, edit.changes)
        # Whatever is aimed follows: that builds nothing, so locked layers do not mind.
        brought = followed(show, edit.changes)
        edit = replace(edit, changes=brought.changes, report=(*edit.report, *brought.report))
        for change in edit.changes:
            # Numbers come in finite; what is worked out of them has to be, too, or the file could not be read again.
            was = change.before.body if change.before is not None else None
            if change.after is not None and (where := no_number(change.after.body, was)) is not None:
                what = ".".join(str(part) for part in where)
                raise JobError(f"That would make {what} of {change.after.name} no number: type other values.")
        return edit

    def _worked_out(self, show: Show, new_id: NewId) -> Edit:
        if self.kind.long is None:
            return self.kind.work(show, self.args, new_id)
        done = self if self.answers is not None else self.answered([call() for call in self.calls()])
        return self.kind.work(done.files_into(show), self.args, new_id, list(done.answers or ()))


def prepare(show: Show, kind: str, args: dict[str, Any], around: Around | None = None) -> Prepared:
    """An edit by name, with what it needs of what is around. Raises JobError, with the field at fault."""
    if kind not in EDITS:
        raise JobError(f"There is no edit called “{kind}”.")
    named = EDITS[kind]
    try:
        arguments = named.model.model_validate(args)
    except ValidationError as wrong:
        raise JobError(*said_of(wrong.errors()[0])) from wrong
    if named.needs is not None and around is not None:
        show, arguments = named.needs(show, arguments, around)
    return Prepared(named, arguments, show)


def perform(show: Show, kind: str, args: dict[str, Any], new_id: NewId) -> Edit:
    """Work out an edit by name, from its arguments alone. Raises JobError, with the field at fault."""
    return prepare(show, kind, args).on(show, new_id)


__all__ = ["EDITS", "Arguments", "Around", "Call", "Edit", "Prepared", "perform", "prepare"]
