"""Ties the open show to those who look at it: an edit goes through the session, then to the live process and, with
what it changes in the picture, to every browser."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import orjson

from zarfwright.core.carriers.posed import posed
from zarfwright.core.edits import Edit, Prepared
from zarfwright.core.errors import JobError
from zarfwright.core.looks.said import Said
from zarfwright.core.looks.stand import stand_of
from zarfwright.core.mesh import MeshFile
from zarfwright.core.optics.gate import Mask
from zarfwright.core.optics.web import Web
from zarfwright.core.picture import BeamTable
from zarfwright.core.readiness import counts
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Item, Show
from zarfwright.core.space import Pose
from zarfwright.core.types.model import FixtureType
from zarfwright.formats.gdtf import write_gdtf
from zarfwright.formats.optics import Optics
from zarfwright.library import shipped, shipped_file
from zarfwright.web.desk import views
from zarfwright.web.desk.feed import Feed, Values
from zarfwright.web.desk.finder import Finder
from zarfwright.web.desk.gestures import Gestures
from zarfwright.web.desk.inbox import Arrived, Inbox
from zarfwright.web.desk.session import Applied, Session
from zarfwright.web.desk.sheets import Sheets
from zarfwright.web.desk.shelf import Shelf

BODIES = "the bodies"
TRIED_MOST = 200
STAND_STILL = {
    "show",
    "look",
    "order",
    "palette",
    "viewpoint",
    "label style",
    "connection",
    "console",
    "rack",
    "area",
    "note",
}
"""The kinds that nothing hangs on: where clamps are has not changed with them."""


class Around:
    """What edits may need that is outside of the show (core/edits/base.py)."""

    def __init__(self, session: Session, feed: Feed, inbox: Inbox, optics: Optics) -> None:
        self._session, self._feed, self._inbox, self._optics = session, feed, inbox, optics

    def values(self) -> Said:
        return self._feed.values()

    def poses(self) -> dict[str, Pose]:
        return self._feed.poses()

    def type_in(self, asset: str) -> FixtureType | None:
        return self._session.reading.type_in(asset)

    def mesh_in(self, asset: str) -> MeshFile | None:
        return self._session.reading.mesh_in(asset)

    def keep(self, name: str, data: bytes) -> str:
        return self._session.keep(name, data)

    def keep_type(self, fixture_type: FixtureType) -> str:
        return self.keep(f"{fixture_type.maker}@{fixture_type.name}.gdtf", write_gdtf(fixture_type))

    def asset(self, asset: str) -> bytes | None:
        found = self._session.asset(asset)
        return found[1] if found is not None else None

    def shipped(self, key: str) -> tuple[FixtureType, str, bytes]:
        found = shipped().get(key)
        if found is None:
            raise JobError("That type is not in the library any more: read the list again.", "type")
        return found, f"{found.maker}@{found.name}.gdtf", shipped_file(key)

    def scene_in(self, key: str) -> Arrived:
        return self._inbox.look(key)

    def optics(self, table: BeamTable) -> tuple[dict[str, Mask], dict[str, Web]]:
        return self._optics.of(table)


class Tried:
    """Images and webs of drafts that were tried out, by key: the latest ones."""

    def __init__(self) -> None:
        self._kept: OrderedDict[str, bytes] = OrderedDict()
        self._lock = threading.Lock()

    def keep(self, key: str, data: bytes) -> None:
        with self._lock:
            self._kept[key] = data
            self._kept.move_to_end(key)
            while len(self._kept) > TRIED_MOST:
                self._kept.popitem(last=False)

    def get(self, key: str) -> bytes | None:
        return self._kept.get(key)


class Desk:
    """The open show, its views and its feed. Every public method may be called from any thread."""

    def __init__(self, path: Path, look: bool = False) -> None:
        """Open a show file; with `look` only to read it, also beside another program. Raises ShowFileError."""
        self.feed = Feed()
        self.shelf = Shelf()
        self.tried = Tried()
        self.session = Session(path, self._applied, look)
        self.inbox = Inbox()
        self.optics = Optics(lambda: self.show, self.tried.get)
        self.around = Around(self.session, self.feed, self.inbox, self.optics)
        self.feed.lasing.asset_of = self.around.asset
        self.gestures = Gestures(self._gesture_over)
        self.sheets = Sheets(self.session.now)
        self.finder = Finder(self.session.now, self.feed.tell)

    @property
    def show(self) -> Show:
        """The show as it is now."""
        return self.session.show

    def open(self, path: Path) -> None:
        """Open another show file in place of this one; every browser is told. Raises ShowFileError, and then keeps the
        one that is open."""
        with self.session.lock:
            if self.session.open(path):
                self.shelf.clear()
                self.feed.show_whole(self.show)
                self.feed.event("opened", id=self.session.show_id)

    def show_live(self) -> None:
        """Tell the live process everything: it has just started."""
        with self.session.lock:
            self.feed.show_whole(self.show)

    def hear_run(self, told: dict[str, Any]) -> None:
        """Where the running order stands, as the live process tells it."""
        self.feed.run_told = told

    # Edits

    def edit(self, who: str, kind: str, args: dict[str, Any], base_rev: int | None = None) -> dict[str, Any]:
        """Do an edit, and say what came of it. Raises JobError, or Conflict when somebody changed the same things since
        `base_rev`."""
        return _result(self.session.edit(who, kind, args, self.around, base_rev))

    def edit_prepared(self, who: str, kind: str, prepared: Prepared, base_rev: int | None = None) -> dict[str, Any]:
        """Do an edit of which a job has done what takes long. Raises as `edit` does."""
        return _result(self.session.edit_prepared(who, kind, prepared, base_rev))

    def preview(self, who: str, kind: str, args: dict[str, Any], live: bool = False) -> dict[str, Any]:
        """What an edit would come to, as ghosts; nothing is stored. Its meshes are kept until that person's next. With
        `live`, the picture shows what it would hold by hand, until that person's next edit or for some seconds."""
        show, rev, edit = self.session.see(kind, args, self.around)
        if live:
            items = [change.after for change in edit.changes if change.after is not None]
            hands: Values = {}
            for item in items:
                if isinstance(item.body, Fixture):
                    hands[item.id] = {**item.body.fixed, **item.body.hands}
                    hands |= {f"{item.id}/{cell}": values for cell, values in item.body.cells.items()}
            with self.session.lock:
                self.feed.gesture(self.show, who, hands)
            self.gestures.goes_on(who)
        return self._ghost(who, show, rev, edit)

    def preview_prepared(self, who: str, prepared: Prepared, rev: int) -> dict[str, Any]:
        """What an edit would come to of which a job has done what takes long, on the show of that revision."""
        return self._ghost(who, *self.session.see_prepared(prepared, rev))

    def _ghost(self, who: str, show: Show, rev: int, edit: Edit) -> dict[str, Any]:
        """An edit that is not done, as browsers draw it."""
        after = show.after(edit.changes)
        touched = {change.id for change in edit.changes}
        items = [change.after for change in edit.changes if change.after is not None]
        # A ghost is seen beside what is there now: where drivers have brought that.
        stand = posed(after, self.feed.poses_lately())
        meshes: views.Meshes = {}
        ghost = {
            "camera": views.camera(after.settings),
            "objects": [views.item_out(item) for item in items],
            "scene": views.scene(stand, [stand.items[item.id] for item in items], meshes),
            "mounts": views.mounts_of(stand, touched),
            "bodies": views.bodies_of(after, meshes, touched - show.items.keys()),
        }
        self.shelf.keep(f"preview of {who}", meshes)
        return {"rev": rev, "sentence": edit.sentence, "select": edit.select, "report": edit.report, "ghost": ghost}

    def _gesture_over(self, who: str) -> None:
        """Nothing has come after it: whoever dragged is gone, or has let go of it."""
        with self.session.lock:
            if who in self.feed.gestures:
                self.feed.gesture(self.show, who, None)

    def undo(self, who: str) -> dict[str, Any]:
        """Take back one's own last edit. Raises JobError when there is none, Conflict when a later edit hangs on it."""
        return _result(self.session.undo(who))

    def redo(self, who: str) -> dict[str, Any]:
        """Make again what was undone last. Raises JobError when there is nothing."""
        return _result(self.session.redo(who))

    def go_back(self, who: str, seq: int | None, point: int | None) -> dict[str, Any]:
        """Bring the show back to how it was, as one edit (Session.go_back)."""
        return _result(self.session.go_back(who, seq, point))

    def _applied(self, done: Applied) -> dict[str, Any]:
        """Bring the live process and the browsers up to date."""
        show, kinds = done.show, done.kinds
        # First: the picture is worked out there while the rest is put together here.
        self.feed.show_changed(show, kinds, done.touched, done.who)
        update = {
            "event": "update",
            "rev": done.rev,
            "who": done.who,
            "sentence": done.sentence,
            "changes": views.changes_out(done.changes),
            "camera": views.camera(show.settings),
            "scene": self._scene(show, done.items),
            "mounts": views.mounts_of(show, done.touched) if kinds - STAND_STILL else {},
            "types": views.types(show) if "type" in kinds else None,
            "bodies": self._bodies(show) if kinds & {"type", "fixture"} else None,
            "rails": views.rails(show) if kinds & {"truss", "layer"} else None,
            "looks": views.looks(show, done.touched) if "look" in kinds else {},
            **self._standing(show, done.who, self.feed.live is not None),
        }
        for gone in done.touched - show.items.keys():
            self.shelf.keep(gone, {})
        self.feed.tell(orjson.dumps(update).decode())
        return update

    # What browsers read

    def document(self, who: str) -> bytes:
        """The whole show as one JSON text."""
        with self.session.lock:
            show, rev, show_id = self.show, self.session.rev, self.session.show_id
            standing = self._standing(show, who)
        return orjson.dumps(
            {
                "id": show_id,
                "rev": rev,
                "objects": [views.item_out(item) for item in show.items.values()],
                "scene": self._scene(show, show.items.values()),
                "mounts": views.mounts_of(show),
                "camera": views.camera(show.settings),
                "types": views.types(show),
                "bodies": self._bodies(show),
                "rails": views.rails(show),
                "looks": views.looks(show),
                "pictures": self.session.pictures(),
                **standing,
            }
        )

    def _scene(self, show: Show, items: Iterable[Item]) -> list[dict[str, Any]]:
        """What the stage draws of items of the show, each the owner of its meshes."""
        rows = []
        for item in items:
            meshes: views.Meshes = {}
            rows += views.scene(show, [item], meshes)
            self.shelf.keep(item.id, meshes)
        return rows

    def _bodies(self, show: Show) -> list[dict[str, Any]]:
        meshes: views.Meshes = {}
        rows = views.bodies_of(show, meshes)
        self.shelf.keep(BODIES, meshes)
        return rows

    def _standing(self, show: Show, who: str, later: bool = False) -> dict[str, Any]:
        """What is counted, what is wrong (None where that is told later), and what can be undone."""
        undo, redo = self.session.undoable(who)
        found = self.finder.if_quick(show) if later else self.finder.all(show)
        return {"counts": counts(show), "findings": found, "undo": undo, "redo": redo, "stand": stand_of(show)}

    def close(self) -> None:
        """Close the file; every edit is in it already."""
        self.inbox.close()
        self.session.close()


def _result(done: Applied) -> dict[str, Any]:
    """What an edit, an undo or a redo is answered with."""
    said: dict[str, Any] = {"rev": done.rev, "sentence": done.sentence, "update": done.update}
    if done.edit is not None:
        said |= {"select": done.edit.select, "report": done.edit.report}
    return said
