"""What the live process is told of the show, and what it tells of the picture. Nothing here waits for it but
`values`, which nobody may ask for with a lock in hand."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import asdict
from functools import lru_cache
from typing import Any, Protocol

import numpy as np
import orjson
from pydantic import TypeAdapter

from zarfwright.core.carriers.plan import NOTHING as NOTHING_MOVES
from zarfwright.core.carriers.plan import Plan
from zarfwright.core.carriers.plan import sent as told_plan
from zarfwright.core.carriers.planned import plan_of
from zarfwright.core.carriers.poses import pose_of
from zarfwright.core.dmx.rows import fixture_of, sent
from zarfwright.core.looks.said import NOTHING, Said
from zarfwright.core.looks.shown import resolved
from zarfwright.core.patch import fixed_of, patch_rows
from zarfwright.core.playback.moves import PLAYED_BY
from zarfwright.core.playback.of_show import air_of
from zarfwright.core.playback.order import Order
from zarfwright.core.rig.held import rows_held
from zarfwright.core.show import SHOW_ID, Show
from zarfwright.core.space import Pose
from zarfwright.core.types.model import FixtureType
from zarfwright.web.desk.lasing import Lasing

TYPE_JSON: TypeAdapter[FixtureType] = TypeAdapter(FixtureType)
Values = dict[str, dict[str, float]]


class LivePicture(Protocol):
    """What the feed needs of the live process. All but `values` come back at once."""

    def set_patch(self, number: int, types: dict[str, Any], rows: list[list[Any]]) -> None: ...
    def drive(
        self,
        look: str | None,
        hands: dict[str, Any] | None,
        follow: bool,
        fixed: dict[str, Any] | None = None,
        first: bool = False,
    ) -> None: ...
    def carry(self, plan: dict[str, Any], number: int) -> None: ...
    def set_lasers(self, heads: list[dict[str, Any]], number: int) -> None: ...
    def set_laser_files(self, files: dict[str, list[str]], wanted: list[str]) -> None: ...
    def test_lasers(self, heads: list[str], alone: str | None) -> None: ...
    def poses(self) -> dict[str, list[float]]: ...
    @property
    def poses_lately(self) -> dict[str, list[float]]: ...
    def say_look(self, key: str, text: str) -> None: ...
    def set_run(self, run: dict[str, Any]) -> None: ...
    def command_run(self, command: str, value: float | None) -> None: ...
    def set_connections(self, connections: list[dict[str, Any]], only: str | None) -> None: ...
    def leave_room(self, spare: bool) -> None: ...
    def tell(self, text: str) -> None: ...
    def values(self) -> Said: ...


class Feed:
    """Keeps the live process at the show as it is. Used with the session's lock in hand, but for `values`."""

    def __init__(self) -> None:
        self.live: LivePicture | None = None
        self.rig_number = 0
        """Which rig the frames to come are of."""
        self.gestures: dict[str, Values] = {}
        """What people drag just now, by who they are: shown, not stored."""
        self._rows: list[list[Any]] | None = None
        self._plan: Plan | None = None
        self._plans = 0
        self.lasing = Lasing()
        self._look = ""
        """What the live process was told last that a look says, packed."""
        self._run: dict[str, Any] = {}
        self._said: set[str] = set()
        """The keys of the looks that it knows."""
        self.run_told: dict[str, Any] = {"order": None}
        """Where the running order stands, as the live process told it last."""
        self.on_hands: Callable[[Show, Values], None] = lambda show, hands: None
        """Called with what is held by hand whenever that changes."""

    def values(self) -> Said:
        """What every fixture shows now; none where nothing is live. Raises JobError when no answer comes."""
        return self.live.values() if self.live is not None else NOTHING

    def poses(self) -> dict[str, Pose]:
        """Where drivers have brought what they move. Raises JobError when no answer comes."""
        if self.live is None or self._plan is None or not self._plan.groups:
            return {}
        return _posed(self.live.poses())

    def poses_lately(self) -> dict[str, Pose]:
        """The same as it was told last: nobody waits for it."""
        moves = self.live is not None and self._plan is not None and self._plan.groups
        return _posed(self.live.poses_lately) if moves and self.live is not None else {}

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
            self._rows = self._plan = None
            self.gestures.clear()
            self._patch(show)
            self._carry(show)
            self.lasing.tell(self.live, show, anew=True)
            self._connect(show)
            self.on_hands(show, hands_of(show))
            self._look = resolved(show, show.settings.playing).text
            self._said.clear()
            settings = show.settings
            self.live.drive(
                self._look, hands_of(show), settings.follow_console, fixed_of(show), settings.look_first
            )  # fmt: skip
            self._tell_run(show, anew=True)

    def show_changed(self, show: Show, kinds: set[str], touched: set[str], who: str) -> None:
        """Tell the live process what it needs to know of somebody's edit that touched these items, of these kinds. What
        they dragged before it is over."""
        if self.live is None:
            return
        over = self.gestures.pop(who, None) is not None
        if kinds & {"fixture", "type"}:
            self._patch(show, anew="type" in kinds)
            self.lasing.tell(self.live, show)
        self._carry(show)
        if "connection" in kinds or SHOW_ID in touched:
            self._connect(show)
        look = self._look_if_other(show) if kinds & {"show", *PLAYED_BY} else None
        hands = self._hands(show) if over or "fixture" in kinds else None
        if hands is not None:
            self.on_hands(show, hands)
        fixed = fixed_of(show) if "fixture" in kinds else None
        if look is not None or hands is not None or SHOW_ID in touched:
            self.live.drive(look, hands, show.settings.follow_console, fixed, show.settings.look_first)
        if kinds & {"show", *PLAYED_BY}:
            self._tell_run(show)

    def _look_if_other(self, show: Show) -> str | None:
        """What the look that is played says, packed; None where that is known already."""
        text = resolved(show, show.settings.playing).text
        if text == self._look:
            return None
        self._look = text
        return text

    def _tell_run(self, show: Show, anew: bool = False) -> None:
        """Tell the live process of the running order that is played, where that is another than it knows; of looks only
        what it has not been told."""
        assert self.live is not None
        run, texts = run_of(show)
        if run == self._run and not anew:
            return
        for key in texts.keys() - self._said:
            self.live.say_look(key, texts[key])
        self._run, self._said = run, set(texts)
        # One that was started again goes on where the last one stood.
        same = bool(run) and self.run_told.get("order") == run["order"]
        self.live.set_run({**run, "at_s": self.run_told["at_s"] if same else 0.0} if run else {})

    def command_run(self, command: str, value: float | None) -> None:
        """Play, pause, step or scrub the running order."""
        if self.live is not None:
            self.live.command_run(command, value)

    def test_lasers(self, heads: list[str], alone: str | None) -> None:
        """Let lasers draw their test pattern, or one alone."""
        if self.live is not None:
            self.live.test_lasers(heads, alone)

    def gesture(self, show: Show, who: str, hands: Values | None) -> None:
        """Show what somebody drags, over what is held by hand; None: no longer."""
        if hands is None:
            self.gestures.pop(who, None)
        else:
            self.gestures[who] = hands
        held = self._hands(show)
        self.on_hands(show, held)
        if self.live is not None:
            self.live.drive(None, held, show.settings.follow_console, None, show.settings.look_first)

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

    def _carry(self, show: Show) -> None:
        assert self.live is not None
        plan = plan_of(show)
        # One that has just started moves nothing yet.
        if plan != (self._plan or NOTHING_MOVES):
            self._plan = plan
            self._plans += 1
            self.live.carry(told_plan(plan), self._plans)

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


def _posed(rows: dict[str, list[float]]) -> dict[str, Pose]:
    return {key: pose_of(np.array(row)) for key, row in rows.items()}


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


def run_of(show: Show) -> tuple[dict[str, Any], dict[str, str]]:
    """The running order that is played, as the live process is told it: its steps name looks by keys of what these
    say. And what those say, packed, by the same keys. Nothing where none is played."""
    item = show.items.get(show.settings.running or "")
    if item is None or not isinstance(item.body, Order):
        return {}, {}
    steps, texts, air = [], dict[str, str](), []
    for step in item.body.steps:
        if step.look not in show.items:
            continue
        text = resolved(show, step.look).text
        key = _key_of(text)
        texts[key] = text
        steps.append({**asdict(step), "look": key})
        air.append(air_of(show, step.look))
    return {"order": item.id, "steps": steps, "air": air}, texts


@lru_cache(2000)
def _key_of(text: str) -> str:
    return hashlib.blake2b(text.encode(), digest_size=12).hexdigest()
