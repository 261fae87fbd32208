"""Edits: a show and arguments in, changes and a sentence out. Nothing here stores or logs.

One module for each family. `EDITS` names every edit; the web takes their arguments as JSON and the API's types are
made from the same models.
"""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from zarfwright.core.edits import (
    aiming,
    arranging,
    carrying,
    copying,
    crowding,
    drawing,
    fields,
    guides,
    hanging,
    keeping,
    labelling,
    layering,
    mirroring,
    patching,
    placing,
    rehanging,
    setting,
    shaping,
    siting,
    starting,
    underlay,
)
from zarfwright.core.edits.base import Arguments, Edit, EditFunction, NewId
from zarfwright.core.errors import JobError
from zarfwright.core.show import Show

EDITS: dict[str, tuple[type[Arguments], EditFunction[Any]]] = {
    "add venue": (siting.AddVenue, siting.add_venue),
    "add deck": (siting.AddDeck, siting.add_deck),
    "add outline deck": (drawing.AddOutlineDeck, drawing.add_outline_deck),
    "add drawing": (underlay.AddDrawing, underlay.add_drawing),
    "set drawing": (underlay.SetDrawing, underlay.set_drawing),
    "add panel": (drawing.AddPanel, drawing.add_panel),
    "add wall": (drawing.AddWall, drawing.add_wall),
    "cut opening": (drawing.CutOpening, drawing.cut_opening),
    "add crowd": (crowding.AddCrowd, crowding.add_crowd),
    "keep clear": (crowding.KeepClear, crowding.keep_clear),
    "face crowd": (crowding.FaceCrowd, crowding.face_crowd),
    "thin crowds": (crowding.ThinCrowds, crowding.thin_crowds),
    "set outline": (drawing.SetOutline, drawing.set_outline),
    "offset outline": (drawing.OffsetOutline, drawing.offset_outline),
    "add mesh": (starting.AddMesh, starting.add_mesh),
    "simplify mesh": (starting.SimplifyMesh, starting.simplify_mesh),
    "set reflectance": (starting.SetReflectance, starting.set_reflectance),
    "move datums": (placing.MoveDatums, placing.move_datums),
    "join ends": (placing.JoinEnds, placing.join_ends),
    "set above": (placing.SetAbove, placing.set_above),
    "repeat": (placing.Repeat, placing.repeat),
    "add piece": (starting.AddPiece, starting.add_piece),
    "start site": (starting.StartSite, starting.start_site),
    "duplicate": (copying.Duplicate, copying.duplicate),
    "mirror": (mirroring.Mirror, mirroring.mirror),
    "rotate": (arranging.Rotate, carrying.rotate_with),
    "align": (arranging.Align, arranging.align),
    "spread": (arranging.Spread, arranging.spread),
    "drop": (arranging.Drop, arranging.drop),
    "add truss": (siting.AddTruss, siting.add_truss),
    "add figures": (siting.AddFigures, siting.add_figures),
    "add viewpoint": (siting.AddViewpoint, siting.add_viewpoint),
    "move": (siting.Move, siting.move),
    "remove": (siting.Remove, siting.remove),
    "set field": (fields.SetField, fields.set_field),
    "set cells": (fields.SetCells, fields.set_cells),
    "place along rail": (hanging.PlaceAlongRail, hanging.place_along_rail),
    "place free": (hanging.PlaceFree, hanging.place_free),
    "place one": (rehanging.PlaceOne, rehanging.place_one),
    "put back": (rehanging.PutBack, rehanging.put_back),
    "copy attitude": (rehanging.CopyAttitude, rehanging.copy_attitude),
    "swap type": (rehanging.SwapType, rehanging.swap_type),
    "arrange": (guides.Arrange, guides.arrange),
    "make carrier": (carrying.MakeCarrier, carrying.make_carrier),
    "put on": (carrying.PutOn, carrying.put_on),
    "set pivot": (carrying.SetPivot, carrying.set_pivot),
    "add label style": (labelling.AddLabelStyle, labelling.add_label_style),
    "set label style": (labelling.SetLabelStyle, labelling.set_label_style),
    "aim at": (aiming.AimAt, aiming.aim_at),
    "hold values": (aiming.HoldValues, aiming.hold_values),
    "release": (aiming.Release, aiming.release),
    "number": (patching.Number, patching.number),
    "address": (patching.Address, patching.address),
    "unpatch": (patching.Unpatch, patching.unpatch),
    "keep look": (keeping.KeepLook, keeping.keep_look),
    "update look": (keeping.UpdateLook, keeping.update_look),
    "play look": (keeping.PlayLook, keeping.play_look),
    "add layer": (layering.AddLayer, layering.add_layer),
    "set layer": (layering.SetLayer, layering.set_layer),
    "isolate layer": (layering.IsolateLayer, layering.isolate_layer),
    "activate layer": (layering.ActivateLayer, layering.activate_layer),
    "to layer": (layering.ToLayer, layering.to_layer),
    "remove layer": (layering.RemoveLayer, layering.remove_layer),
    "set show": (setting.SetShow, setting.set_show),
    "add type": (setting.AddType, setting.add_type),
    "replace type": (shaping.ReplaceType, shaping.replace_type),
    "start draft": (shaping.StartDraft, shaping.start_draft),
    "change draft": (shaping.ChangeDraft, shaping.change_draft),
    "repair draft": (shaping.RepairDraft, shaping.repair_draft),
    "paste ranges": (shaping.PasteRanges, shaping.paste_ranges_edit),
    "paste channels": (shaping.PasteChannels, shaping.paste_channels_edit),
}


def perform(show: Show, kind: str, args: dict[str, Any], new_id: NewId) -> Edit:
    """Work out an edit by name. Raises JobError, with the field at fault, when it cannot be done."""
    if kind not in EDITS:
        raise JobError(f"There is no edit called “{kind}”.")
    model, function = EDITS[kind]
    try:
        arguments = model.model_validate(args)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        field = ".".join(str(part) for part in first["loc"])
        raise JobError(f"“{field}” cannot be used: {first['msg']}.", field) from wrong
    return function(show, arguments, new_id)


__all__ = ["EDITS", "Arguments", "Edit", "perform"]
