"""What the live process is told of the show, and what it tells of the picture. Nothing here waits for it but
`values`, which nobody may ask for with a lock in hand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict
from typing import Any, Protocol

import orjson
from pydantic import TypeAdapter

from zarfwright.core.dmx.rows import fixture_of, sent
from zarfwright.core.patch import fixed_of, patch_rows
from zarfwright.core.rig.held import rows_held
from zarfwright.core.settings import Look
from zarfwright.core.show import SHOW_ID, Show
from zarfwright.core.types.model import FixtureType

TYPE_JSON: TypeAdapter[FixtureType] = TypeAdapter(FixtureType)
Values = dict[str, dict[str, float]]


class LivePicture(Protocol):
    """What the feed needs of the live process. All but `values` come back at once."""

    def set_patch(self, number: int, types: dict[str, Any], rows: list[list[Any]]) -> None: ...
    def drive(
        self,
        look: dict[str, Any] | None,
        hands: dict[str, Any] | None,
        follow: bool,
        fixed: dict[str, Any] | None = None,
    ) -> None: ...
    def set_connections(self, connections: list[dict[str, Any]], only: str | None) -> None: ...
    def leave_room(self, spare: bool) -> None: ...
    def tell(self, text: str) -> None: ...
    def values(self) -> Values: ...


class Feed:
    """Keeps the live process at the show as it is. Used with the session's lock in hand, but for `values`."""

    def __init__(self) -> None:
        self.live: LivePicture | None = None
        self.rig_number = 0
        """Which rig the frames to come are of."""
        self.gestures: dict[str, Values] = {}
        """What people drag just now, by who they are: shown, not stored."""
        self._rows: list[list[Any]] | None = None
        self.on_hands: Callable[[Show, Values], None] = lambda show, hands: None
        """Called with what is held by hand whenever that changes."""

    def values(self) -> Values:
        """What every fixture shows now; none where nothing is live. Raises JobError when no answer comes."""
        return self.live.values() if self.live is not None else {}

    def tell(self, text: str) -> None:
        """Tell every browser."""
        if self.live is not None:
            self.live.tell(text)

    def event(self, event: str, **content: Any) -> None:
        """Tell every browser of an event."""
        self.tell(orjson.dumps({"event": event, **content}).decode())

    def show_whole(self, show: Show) -> None:
        """Tell the live process everything: it has just started, or another show is open."""
        if self.live is not None:
            self._rows = None
            self.gestures.clear()
            self._patch(show)
            self._connect(show)
            look = look_values(show, show.settings.playing)
            self.on_hands(show, hands_of(show))
            self.live.drive(look, hands_of(show), show.settings.follow_console, fixed_of(show))

    def show_changed(self, show: Show, kinds: set[str], touched: set[str], who: str) -> None:
        """Tell the live process what it needs to know of somebody's edit that touched these items, of these kinds. What
        they dragged before it is over."""
        if self.live is None:
            return
        over = self.gestures.pop(who, None) is not None
        if kinds & {"fixture", "type"}:
            self._patch(show, anew="type" in kinds)
        if "connection" in kinds or SHOW_ID in touched:
            self._connect(show)
        playing = show.settings.playing
        look = look_values(show, playing) if SHOW_ID in touched or playing in touched else None
        hands = self._hands(show) if over or "fixture" in kinds else None
        if hands is not None:
            self.on_hands(show, hands)
        fixed = fixed_of(show) if "fixture" in kinds else None
        if look is not None or hands is not None:
            self.live.drive(look, hands, show.settings.follow_console, fixed)

    def gesture(self, show: Show, who: str, hands: Values | None) -> None:
        """Show what somebody drags, over what is held by hand; None: no longer."""
        if hands is None:
            self.gestures.pop(who, None)
        else:
            self.gestures[who] = hands
        held = self._hands(show)
        self.on_hands(show, held)
        if self.live is not None:
            self.live.drive(None, held, show.settings.follow_console)

    def _hands(self, show: Show) -> Values:
        held = hands_of(show)
        for dragged in self.gestures.values():
            # What is dragged is all that its fixture is held at: a cell that goes along with the others is not held.
            whose = {fixture_of(key) for key in dragged}
            held = {key: values for key, values in held.items() if fixture_of(key) not in whose}
            held |= {key: values for key, values in dragged.items() if fixture_of(key) in show.items}
        return held

    def _connect(self, show: Show) -> None:
        assert self.live is not None
        told = [{"id": item.id, "connection": asdict(item.body)} for item in show.of_kind("connection")]
        self.live.set_connections(told, show.settings.only_connection)
        self.live.leave_room(show.settings.spare_console)

    def _patch(self, show: Show, anew: bool = False) -> None:
        rows = patched(show)
        if rows == self._rows and not anew:
            return
        assert self.live is not None
        self.rig_number += 1
        self._rows = rows
        used = {row[1] for row in rows}
        types = {
            key: TYPE_JSON.dump_python(value, mode="json", exclude={"images", "own_meshes", "ies"})
            for key, value in show.types.items()
            if key in used
        }
        self.live.set_patch(self.rig_number, types, rows)


def patched(show: Show) -> list[list[Any]]:
    """The fixtures as the live process takes them, in the order of the frame's rows."""
    kinds = [fixture.type for _, fixture in show.fixtures() if fixture.type in show.types]
    return [sent(row, kind) for row, kind in zip(patch_rows(show), kinds, strict=True)]


def hands_of(show: Show) -> Values:
    """What is held by hand, by fixture or cell."""
    rows: Values = {}
    for item, fixture in show.fixtures():
        if fixture.hands or fixture.cells:
            rows |= rows_held(item.id, fixture)
    return rows


def look_values(show: Show, look_id: str | None) -> Values:
    """The values of a look; none where it is gone."""
    item = show.items.get(look_id) if look_id else None
    return item.body.values if item is not None and isinstance(item.body, Look) else {}
