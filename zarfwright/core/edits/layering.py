"""Edits of layers: made, named, coloured, shown, locked; things put on them; the one that new things land on."""

from __future__ import annotations

import re
from dataclasses import replace

from zarfwright.core.edits.base import Arguments, Edit, NewId, added, changed, free_name, made, require_some
from zarfwright.core.errors import JobError
from zarfwright.core.settings import Layer
from zarfwright.core.show import SHOW_ID, Change, Item, Show, listed

COLOURS = ("#d6a74e", "#63c0a8", "#7aa7d9", "#c48bd0", "#e2873f", "#9fb86a", "#e4687d", "#8ca2a4")
COLOUR = re.compile(r"#[0-9a-fA-F]{6}")


class AddLayer(Arguments):
    """A new layer; new things land on it from now on."""

    name: str = ""


def add_layer(show: Show, args: AddLayer, new_id: NewId) -> Edit:
    name = free_name(show, "layer", args.name, "Layer")
    if any(item.name.casefold() == name.casefold() for item in show.of_kind("layer")):
        raise JobError(f"There is a layer {name} already: give it another name.", "name")
    items = added(show, "layer", [Layer(name, COLOURS[len(show.of_kind("layer")) % len(COLOURS)])], new_id)
    active = changed(show.items[SHOW_ID], replace(show.settings, active_layer=items[0].id))
    return Edit((made(items[0]), active), f"Add the layer {name}", ())


class SetLayer(Arguments):
    """Change a layer; what is left out stays."""

    id: str
    name: str | None = None
    colour: str | None = None
    shown: bool | None = None
    locked: bool | None = None


def set_layer(show: Show, args: SetLayer, _: NewId) -> Edit:
    item, layer = show.thing(args.id, Layer)
    given = args.model_dump(exclude_none=True, exclude={"id"})
    if "name" in given and not given["name"].strip():
        raise JobError("A layer needs a name: type at least one letter.", "name")
    if "colour" in given and not COLOUR.fullmatch(given["colour"]):
        raise JobError(f"“{given['colour'][:20]}” is not a colour: # and six digits.", "colour")
    words = {"shown": ("Hide", "Show"), "locked": ("Unlock", "Lock")}
    said = next((words[key][int(value)] for key, value in given.items() if key in words), "Change")
    return Edit((changed(item, replace(layer, **given)),), f"{said} the layer {item.name}")


class IsolateLayer(Arguments):
    """Show one layer alone; None: show all again."""

    id: str | None = None


def isolate_layer(show: Show, args: IsolateLayer, _: NewId) -> Edit:
    changes = []
    for item, layer in show.bodies(Layer):
        shown = args.id is None or item.id == args.id
        if layer.shown != shown:
            changes.append(changed(item, replace(layer, shown=shown)))
    name = show.item(args.id, "layer").name if args.id is not None else ""
    return Edit(tuple(changes), f"Show {name} alone" if name else "Show all layers")


class ActivateLayer(Arguments):
    """Let new things land on a layer; None: on none."""

    id: str | None = None


def activate_layer(show: Show, args: ActivateLayer, _: NewId) -> Edit:
    name = show.item(args.id, "layer").name if args.id is not None else "no layer"
    settings = replace(show.settings, active_layer=args.id)
    return Edit((changed(show.items[SHOW_ID], settings),), f"New things land on {name}")


def _on(item: Item, layer: str | None) -> Change:
    return Change(item, replace(item, layer=layer, rev=item.rev + 1))


class ToLayer(Arguments):
    """Put things on a layer; None: off their layers."""

    ids: list[str]
    layer: str | None = None


def to_layer(show: Show, args: ToLayer, _: NewId) -> Edit:
    require_some(args.ids, "what to put on the layer")
    name = show.item(args.layer, "layer").name if args.layer is not None else "no layer"
    items = [item for item in map(show.item, args.ids) if item.is_a.layered]
    changes = tuple(_on(item, args.layer) for item in items if item.layer != args.layer)
    return Edit(changes, f"Put {listed(show, args.ids)} on {name}", tuple(args.ids))


class RemoveLayer(Arguments):
    """Remove a layer; what was on it stays, on none."""

    id: str


def remove_layer(show: Show, args: RemoveLayer, _: NewId) -> Edit:
    layer = show.item(args.id, "layer")
    changes = [_on(item, None) for item in show.items.values() if item.layer == args.id]
    if show.settings.active_layer == args.id:
        changes.append(changed(show.items[SHOW_ID], replace(show.settings, active_layer=None)))
    report = (f"{len(changes)} things that were on it stay, on no layer.",) if changes else ()
    return Edit((*changes, Change(layer, None)), f"Remove the layer {layer.name}", (), report)
