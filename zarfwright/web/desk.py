"""The open show in memory, and the one way in which it changes: work out, store, apply, tell everybody."""

from __future__ import annotations

import threading
import uuid
from collections.abc import Callable, Iterable
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any, Protocol

import orjson
from pydantic import TypeAdapter

from zarfwright.core.edits import Edit, perform
from zarfwright.core.errors import JobError
from zarfwright.core.mesh import Mesh, MeshFile
from zarfwright.core.optics.exposure import camera_ev, shown_per_cd, white_balance
from zarfwright.core.readiness import counts
from zarfwright.core.rig.rails import all_rails
from zarfwright.core.scene import bodies, cell_offsets, has_mesh, mounts, register_mesh, solids
from zarfwright.core.seats import seats
from zarfwright.core.show import SHOW_ID, Change, Item, Look, MeshPiece, Show, TypeEntry
from zarfwright.core.types.bodies import BodyPart
from zarfwright.core.types.model import FixtureType
from zarfwright.formats.findings import Finding
from zarfwright.formats.gdtf import read_gdtf
from zarfwright.formats.mesh import read_mesh
from zarfwright.store.showfile import ShowFile, ShowFileError, changes_from_json, changes_to_json, item_json
from zarfwright.web.finder import Finder

TYPE_JSON: TypeAdapter[FixtureType] = TypeAdapter(FixtureType)


class Conflict(Exception):
    """An edit was made on an older show than there is, or stands in the way of an undo."""


class LivePicture(Protocol):
    """What the desk needs of the live process."""

    def set_patch(self, number: int, types: dict[str, Any], rows: list[list[Any]]) -> None: ...
    def drive(self, look: dict[str, Any] | None, hands: dict[str, Any] | None, follow: bool) -> None: ...
    def tell(self, text: str) -> None: ...
    def values(self) -> dict[str, dict[str, float]]: ...


def new_id() -> str:
    return uuid.uuid4().hex


class Desk:
    """The open show. Every public method may be called from any thread."""

    def __init__(self, path: Path) -> None:
        self.lock = threading.RLock()
        self.meshes: dict[str, Mesh] = {}
        self.draft_images: dict[str, bytes] = {}
        """Images and webs of drafts that were tried out, by key."""
        self.draft_webs: dict[str, bytes] = {}
        self.live: LivePicture | None = None
        self.rig_number = 0
        self.finder = Finder(self._now, self._tell)
        self._take(ShowFile(path))

    def _take(self, file: ShowFile) -> None:
        """Let this file be the open show."""
        self.file = file
        self.show_id = file.show_id
        self.rev = file.rev
        self._told_rows: list[list[Any]] | None = None
        self._type_assets: dict[str, str] = {}
        self.show = Show(file.items(), {})
        self._read_meshes(self.show.items.values())
        self.show = Show(self.show.items, self._read_types(self.show.of_kind("type"), {}))

    def open(self, path: Path) -> None:
        """Open another show file in place of this one; every browser is told. Raises ShowFileError, and then keeps the
        one that is open."""
        with self.lock:
            if path.resolve() == self.file.path.resolve():
                return
            before, opened = self.file, ShowFile(path)
            try:
                self._take(opened)
            except Exception as wrong:
                opened.close()
                self._take(before)
                raise ShowFileError(f"{path.name} cannot be opened: {wrong}") from wrong
            before.close()
            if self.live is not None:
                self.tell_live()
                self.live.tell(orjson.dumps({"event": "opened", "id": self.show_id}).decode())

    # Types

    def _read_types(self, entries: Iterable[Item], known: dict[str, FixtureType]) -> dict[str, FixtureType]:
        types: dict[str, FixtureType] = {}
        for entry in entries:
            if not isinstance(entry.body, TypeEntry):
                continue
            if entry.id in known and self._type_assets.get(entry.id) == entry.body.asset:
                types[entry.id] = known[entry.id]
                continue
            asset = self.file.asset(entry.body.asset)
            if asset is not None:
                types[entry.id] = read_gdtf(asset[1], asset[0])[0]
                self._type_assets[entry.id] = entry.body.asset
        return types

    def keep_mesh_file(self, file_name: str, data: bytes) -> tuple[MeshFile, str, str]:
        """Read a mesh and keep its file: the mesh, which way is up in it, the asset. Raises FormatError, and then keeps
        nothing."""
        mesh, up = read_mesh(data, file_name)
        with self.lock:
            asset = self.file.keep_asset(file_name, data)
        register_mesh(asset, mesh)
        return mesh, up, asset

    def _read_meshes(self, items: Iterable[Item]) -> None:
        for item in items:
            if isinstance(item.body, MeshPiece) and not has_mesh(item.body.asset):
                asset = self.file.asset(item.body.asset)
                if asset is not None:
                    register_mesh(item.body.asset, read_mesh(asset[1], asset[0])[0])

    def keep_gdtf(self, file_name: str, data: bytes) -> tuple[FixtureType, list[Finding], str]:
        """Read a GDTF file and keep its bytes among the assets. Raises FormatError, and then keeps nothing."""
        fixture_type, found = read_gdtf(data, file_name)
        with self.lock:
            return fixture_type, found, self.file.keep_asset(file_name, data)

    # Edits

    def edit(self, who: str, kind: str, args: dict[str, Any], base_rev: int | None = None) -> dict[str, Any]:
        """Do an edit. Raises JobError, or Conflict when somebody changed the same things since `base_rev`."""
        with self.lock:
            edit = self._work_out(kind, args)
            self._require_base(edit, who, base_rev)
            if edit.changes:
                self.rev = self.file.store_edit(who, kind, edit.sentence, edit.changes)
                update = self._applied(edit.changes, edit.sentence, who)
            else:
                update = None
            return {
                "rev": self.rev,
                "sentence": edit.sentence,
                "select": edit.select,
                "report": edit.report,
                "update": update,
            }

    def preview(self, kind: str, args: dict[str, Any]) -> dict[str, Any]:
        """What an edit would come to, as ghosts; nothing is stored."""
        with self.lock:
            show = self.show
            edit = self._work_out(kind, args)
        after = show.after(edit.changes)
        touched = {change.id for change in edit.changes}
        return {
            "rev": self.rev,
            "sentence": edit.sentence,
            "select": edit.select,
            "report": edit.report,
            "ghost": {
                "objects": [orjson.Fragment(item_json(change.after)) for change in edit.changes if change.after],
                "scene": self.scene_out(change.after for change in edit.changes if change.after),
                "mounts": self._mounts(after, touched),
                "bodies": self.bodies_out(after, touched - show.items.keys()),
            },
        }

    def _work_out(self, kind: str, args: dict[str, Any]) -> Edit:
        if kind in ("keep look", "update look") and not args.get("values") and self.live is not None:
            args = {**args, "values": self.live.values()}
        if kind == "aim at" and not args.get("now") and self.live is not None:
            now = {fixture: (v["pan"], v["tilt"]) for fixture, v in self.first_beams(self.live.values()).items()}
            args = {**args, "now": {k: now[k] for k in args.get("ids", []) if k in now}}
        if kind == "start draft" and args.get("of_type"):
            args = {**args, **self._kept_of(str(args["of_type"]))}
        if kind == "replace type":
            # What it will be, so that the edit can say what changes.
            asset = self.file.asset(str(args.get("asset")))
            if asset is not None:
                types = {**self.show.types, f"asset:{args['asset']}": read_gdtf(asset[1], asset[0])[0]}
                return perform(Show(self.show.items, types), kind, args, new_id)
        return perform(self.show, kind, args, new_id)

    def _kept_of(self, type_id: str) -> dict[str, dict[str, str]]:
        """The images and webs of a type as assets of their own, for a draft that is copied from it."""
        fixture_type = self.show.types.get(type_id)
        if fixture_type is None:
            return {}
        return {
            "images": {name: self.file.keep_asset(f"{name}.png", data) for name, data in fixture_type.images.items()},
            "webs": {name: self.file.keep_asset(f"{name}.ies", data) for name, data in fixture_type.ies.items()},
        }

    @staticmethod
    def first_beams(values: dict[str, dict[str, float]]) -> dict[str, dict[str, float]]:
        """Values by fixture: of the first cell, where it has several."""
        return {key.removesuffix("/1"): value for key, value in values.items() if "/" not in key or key.endswith("/1")}

    def _require_base(self, edit: Edit, who: str, base_rev: int | None) -> None:
        if base_rev is None or base_rev >= self.rev:
            return
        changed_since = self.file.ids_changed_since(base_rev, who)
        if changed_since & {change.id for change in edit.changes}:
            raise Conflict("Somebody changed this in the meantime: look at it as it is now and do it again.")

    def undo(self, who: str) -> dict[str, Any]:
        """Take back one's own last edit. Raises JobError when there is none, Conflict when a later edit hangs on it."""
        with self.lock:
            entry = self.file.last_done(who)
            if entry is None:
                raise JobError("There is nothing to undo.")
            changes = [change.undone() for change in reversed(changes_from_json(entry["changes"]))]
            later = self.file.in_the_way(entry["seq"], {change.id for change in changes})
            if later:
                raise Conflict(f"“{entry['sentence']}” cannot be undone: “{later}” hangs on it. Undo that first.")
            self.rev = self.file.mark(entry["seq"], True, changes)
            sentence = f"Undo: {entry['sentence']}"
            return {"rev": self.rev, "sentence": sentence, "update": self._applied(changes, sentence, who)}

    def redo(self, who: str) -> dict[str, Any]:
        """Make again what was undone last. Raises JobError when there is nothing."""
        with self.lock:
            entry = self.file.first_undone()
            if entry is None:
                raise JobError("There is nothing to redo.")
            changes = changes_from_json(entry["changes"])
            self.rev = self.file.mark(entry["seq"], False, changes)
            sentence = f"Redo: {entry['sentence']}"
            return {"rev": self.rev, "sentence": sentence, "update": self._applied(changes, sentence, who)}

    def go_back(self, who: str, seq: int | None, point: int | None) -> dict[str, Any]:
        """Bring the show back to a restore point, or to how it was after an entry of the journal, as one edit that can
        be undone. Raises JobError when nothing is different, or the history no longer reaches back."""
        with self.lock:
            then = self._as_at_point(point) if point is not None else self._as_after(seq or 0)
            changes = [
                Change(now, replace(was, rev=now.rev + 1) if was is not None and now is not None else was)
                for key, was in then.items()
                if not _alike(now := self.show.items.get(key), was)
            ]
            if not changes:
                raise JobError("The show is as it was then.")
            sentence = f"Go back: {len(changes)} things as they were"
            self.rev = self.file.store_edit(who, "go back", sentence, changes)
            update = self._applied(changes, sentence, who)
            return {"rev": self.rev, "sentence": sentence, "select": [], "report": [], "update": update}

    def _as_at_point(self, point: int) -> dict[str, Item | None]:
        items = self.file.items_at(point)
        if items is None:
            raise JobError("That restore point is no longer there: choose another.")
        return {key: items.get(key) for key in {*items, *self.show.items}}

    def _as_after(self, seq: int) -> dict[str, Item | None]:
        since = self.file.done_since(seq)
        if since is None:
            raise JobError("The history no longer reaches back to there: choose a later point.")
        then: dict[str, Item | None] = {}
        for change in since:
            then.setdefault(change.id, change.before)
        return then

    def _applied(self, changes: Iterable[Change], sentence: str, who: str) -> dict[str, Any]:
        """Bring memory, live process and browsers up to date with stored changes."""
        made = list(changes)
        touched = {change.id for change in made}
        kinds = {(change.after or change.before).kind for change in made}  # type: ignore[union-attr]
        show = self.show.after(made)
        self._read_meshes(change.after for change in made if change.after)
        if "type" in kinds:
            show = Show(show.items, self._read_types(show.of_kind("type"), dict(show.types)))
        self.show = show
        update = {
            "event": "update",
            "rev": self.rev,
            "who": who,
            "sentence": sentence,
            "changes": orjson.Fragment(changes_to_json(made)),
            "camera": self.camera_out(),
            "scene": self.scene_out(change.after for change in made if change.after),
            "mounts": self._mounts(show, touched),
            "types": self.types_out() if "type" in kinds else None,
            "bodies": self.bodies_out() if kinds & {"type", "fixture"} else None,
            "rails": self.rails_out() if kinds & {"truss", "layer"} else None,
            **self.standing(who, self.finder.if_quick if self.live is not None else None),
        }
        if self.live is not None:
            self.tell_live(kinds, touched)
            self.live.tell(orjson.dumps(update).decode())
        return update

    def camera_out(self) -> dict[str, Any]:
        """How the stage shows luminance, by the show's exposure."""
        settings = self.show.settings
        by_camera = settings.exposure_kind == "camera"
        ev = camera_ev(settings.aperture, settings.shutter_s, settings.iso) if by_camera else settings.exposure_ev
        white = white_balance(settings.white_k).reshape(-1).tolist()
        return {"ev100": ev, "shown_per_cd": shown_per_cd(ev), "white": white}

    def standing(self, who: str, find: Callable[[Show], list[dict[str, Any]] | None] | None = None) -> dict[str, Any]:
        """What is counted, what is wrong (None where `find` will tell that later), and what can be undone."""
        last, undone = self.file.last_done(who), self.file.first_undone()
        return {
            "counts": counts(self.show),
            "findings": (find or self.finder.all)(self.show),
            "undo": last["sentence"] if last else None,
            "redo": undone["sentence"] if undone else None,
        }

    # The live process

    def tell_live(self, kinds: set[str] | None = None, touched: set[str] | None = None) -> None:
        """Send what drives the picture; all of it when `kinds` is None (the live process has just started)."""
        assert self.live is not None
        whole = kinds is None
        with self.lock:
            if whole or (kinds or set()) & {"fixture", "type"}:
                rows = [
                    [item.id, fixture.type, fixture.mode, fixture.universe, fixture.address, fixture.breaks, gel]
                    for item, fixture in self.show.fixtures()
                    for gel in [(fixture.gel.x, fixture.gel.y, fixture.gel.luminance) if fixture.gel else None]
                    if fixture.type in self.show.types
                ]
                if whole or rows != self._told_rows or "type" in (kinds or set()):
                    self.rig_number += 1
                    self._told_rows = rows
                    used = {row[1] for row in rows}
                    types = {
                        key: TYPE_JSON.dump_python(value, mode="json", exclude={"images", "own_meshes", "ies"})
                        for key, value in self.show.types.items()
                        if key in used
                    }
                    self.live.set_patch(self.rig_number, types, rows)
            playing = self.show.settings.playing
            look_touched = whole or SHOW_ID in (touched or set()) or playing in (touched or set())
            hands = None
            if whole or "fixture" in (kinds or set()):
                hands = {item.id: fixture.hands for item, fixture in self.show.fixtures() if fixture.hands}
            if look_touched or hands is not None:
                self.live.drive(
                    self.look_values(playing) if look_touched else None, hands, self.show.settings.follow_console
                )

    def look_values(self, look_id: str | None) -> dict[str, dict[str, float]]:
        """The values of a look; none where it is gone."""
        item = self.show.items.get(look_id) if look_id else None
        return item.body.values if item is not None and isinstance(item.body, Look) else {}

    # What browsers read

    def _keep_mesh(self, mesh: Mesh) -> str:
        self.meshes.setdefault(mesh.key, mesh)
        return mesh.key

    def scene_out(self, items: Iterable[Item]) -> list[dict[str, Any]]:
        """What the stage draws of items."""
        return [
            {
                "id": solid.id,
                "kind": solid.kind,
                "mesh": self._keep_mesh(solid.mesh),
                "position": solid.placement.position,
                "rotation": solid.placement.rotation,
                "albedo": solid.albedo,
                "finish": solid.finish,
                "sheer": solid.sheer,
                "scale": solid.scale,
                "far": self._keep_mesh(solid.far) if solid.far is not None else None,
                "least": self._keep_mesh(solid.least) if solid.least is not None else None,
            }
            for solid in solids(items)
        ]

    def _mounts(self, show: Show, only: set[str] | None = None) -> dict[str, Any]:
        return {
            mount.fixture: {"position": mount.placement.position, "rotation": mount.placement.rotation}
            for mount in mounts(show, only)
        }

    def rails_out(self) -> dict[str, Any]:
        """The rails of all structures that are shown."""
        return {key: [vars(line) for line in lines] for key, lines in all_rails(self.show).items()}

    def types_out(self) -> dict[str, Any]:
        """What the front end knows of each type."""
        out = {}
        for entry in self.show.of_kind("type"):
            fixture_type = self.show.types.get(entry.id)
            if fixture_type is None:
                continue
            out[entry.id] = {
                "name": fixture_type.name,
                "maker": fixture_type.maker,
                "type_id": fixture_type.type_id,
                "weight_kg": fixture_type.weight_kg,
                "modes": [
                    {
                        "name": mode.name,
                        "footprint": mode.footprint,
                        "breaks": [{"number": number, "slots": size} for number, size in mode.footprints.items()],
                        "channels": [
                            {"attribute": c.attribute, "slots": c.slots, "dmx_break": c.dmx_break}
                            for c in mode.channels
                            if not c.virtual
                        ],
                    }
                    for mode in fixture_type.modes
                ],
            }
        return out

    def body_out(self, type_id: str, mode: str, fixture_type: FixtureType, parts: list[BodyPart]) -> dict[str, Any]:
        """A body: meshes by what they turn with, and the offsets of each beam's chain."""
        return {
            "type": type_id,
            "mode": mode,
            "parts": [{"turns": part.turns, "mesh": self._keep_mesh(part.mesh)} for part in parts],
            "cells": [
                {
                    "pan": cell.pan,
                    "tilt": cell.tilt,
                    "lens": cell.lens,
                    "lens_radius": cell.lens_radius_m,
                    "mount_turn": cell.mount_turn,
                    "lens_turn": cell.lens_turn,
                    "zero": (cell.pan_zero, cell.tilt_zero),
                }
                for cell in cell_offsets(fixture_type, mode)
            ],
        }

    def bodies_out(self, show: Show | None = None, only: set[str] | None = None) -> list[dict[str, Any]]:
        """The bodies in use, or those that some items use."""
        show = show or self.show
        if only is not None:
            show = Show({key: show.items[key] for key in only if key in show.items}, show.types)
        return [
            self.body_out(type_id, mode, show.types[type_id], parts) for (type_id, mode), parts in bodies(show).items()
        ]

    def document(self, who: str) -> bytes:
        """The whole show as one JSON text."""
        with self.lock:
            show = self.show
            return orjson.dumps(
                {
                    "id": self.show_id,
                    "rev": self.rev,
                    "objects": [orjson.Fragment(item_json(item)) for item in show.items.values()],
                    "scene": self.scene_out(show.items.values()),
                    "mounts": self._mounts(show),
                    "camera": self.camera_out(),
                    "types": self.types_out(),
                    "bodies": self.bodies_out(),
                    "rails": self.rails_out(),
                    **self.standing(who),
                }
            )

    def seats(self) -> list[dict[str, Any]]:
        """Every place that the show is seen from."""
        with self.lock:
            return [asdict(seat) for seat in seats(self.show)]

    def close(self) -> None:
        """Close the file; every edit is in it already."""
        with self.lock:
            self.file.close()

    def _now(self) -> tuple[Show, int]:
        with self.lock:
            return self.show, self.rev

    def _tell(self, text: str) -> None:
        if self.live is not None:
            self.live.tell(text)


def _alike(now: Item | None, was: Item | None) -> bool:
    """Whether two states of an item are the same but for their count of changes."""
    if now is None or was is None:
        return now is was
    return replace(now, rev=0) == replace(was, rev=0)


__all__ = ["Conflict", "Desk", "LivePicture", "new_id"]
