"""The line check as it goes: levels are looked at, steps end by themselves, and what came of it is told."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal, Protocol

from zarfwright.core.aiming.coloured import driven
from zarfwright.core.doctor.facts import Cause
from zarfwright.core.errors import JobError
from zarfwright.core.linking.checking import (
    Check,
    Line,
    State,
    Step,
    Told,
    asked_values,
    cause_of,
    failures,
    line_of,
    steps_of,
    with_causes,
)
from zarfwright.core.linking.values import values_of
from zarfwright.core.rig.things import Fixture
from zarfwright.web.desk.handing import HandOver

if TYPE_CHECKING:
    from zarfwright.web.desk.desk import Desk

Way = Literal["hand", "identify", "send"]
TICK_S = 0.15
FIRST_S, SENT_S = 0.6, 2.5
"""So long what is sent from here may take to come back as levels."""
QUIET_S, ROUND = 12.0, 1.2
"""Nothing new for so long, or for so much of the time that it has taken so far, and a check of all at once is over: who
was missed in the first round is shown once more."""
PICTURE_S, PATIENT, DOCTOR_S = 1.0, 10, 3.0
log = logging.getLogger(__name__)


class Heard(Protocol):
    """What is heard on the line."""

    def heard(self) -> tuple[dict[int, bytes], list[int]]: ...
    def values(self) -> Mapping[str, Mapping[str, float]]: ...


@dataclass
class Going:
    """A check that is under way, or the last one."""

    check: Check
    way: Way
    console: str
    """The console that is sent to, by its key."""
    over: bool = False
    kept: bool = False
    said: str = ""
    picture: str = ""
    pictured: float = 0.0


class LineChecks:
    """One check at a time. Every browser is told how it goes."""

    def __init__(
        self, desk: Desk, live: Heard, hands: HandOver, doctor: Callable[[float], Sequence[Cause]] = lambda _: ()
    ) -> None:
        """`doctor` listens for so many seconds, and says what is wrong; it may raise JobError."""
        self.desk, self.live, self.hands, self.doctor = desk, live, hands, doctor
        self._lock = threading.RLock()
        self._going: Going | None = None
        self._ends = threading.Event()
        self._told: Any = None

    def start(self, ids: Sequence[str], way: Way, console: str = "", who: str = "") -> None:
        """Begin. Raises JobError where there is nothing to check, or a check is under way."""
        steps = steps_of(self.desk.show, ids)
        if way == "identify":
            steps = [step for step in steps if step.function == "intensity"]
        if not steps:
            raise JobError("There is nothing to check: give fixtures numbers and addresses in Patch first.")
        if way == "send" and not self.hands.send(console, ()):
            raise JobError("That console takes no values: choose another way, or set its port for values.")
        with self._lock:
            if self._going is not None and not self._going.over:
                raise JobError("The line is being checked already: end that check first.")
            self._ends = threading.Event()
            self._going = Going(Check(tuple(Told(step) for step in steps)), way, console)
            target = {"hand": self._by_hand, "identify": self._by_identify, "send": self._by_sending}[way]
        threading.Thread(target=self._run, args=(target, who), name="line-check", daemon=True).start()
        self._tell()

    def end_step(self, state: State) -> None:
        """A person says how the step ended. Raises JobError when none is under way."""
        with self._lock:
            going = self._going
            if going is None or going.over or going.check.step is None:
                raise JobError("No step of a line check is under way.")
            cause = "A person saw that nothing came." if state == "silent" else ""
            if state == "silent":
                cause = self._cause(going, {}) or cause
            going.check = going.check.ended(state, cause)
        self._tell()

    def end(self) -> None:
        """End the check where it is; what was not tried stays so."""
        self._ends.set()

    # Ways

    def _run(self, way: Any, who: str) -> None:
        going = self._going
        assert going is not None
        try:
            way(going, line_of(self.desk.show))
        except JobError as wrong:
            going.said = str(wrong)
        except Exception as wrong:  # whatever it is: it is told, and the line can be checked again
            log.exception("the line check could not finish")
            going.said = f"The check could not go on ({type(wrong).__name__}: {wrong}). Begin it again."
        if going.check.count("silent") and not self._ends.is_set():
            with suppress(JobError):
                causes = self.doctor(DOCTOR_S)
                with self._lock:
                    going.check = with_causes(self.desk.show, going.check, causes)
        with self._lock:
            going.over = True
        self._keep(going, who)
        self._tell()

    def _look(self, going: Going, line: Line) -> dict[int, bytes]:
        """Look at the line once; gives the levels. Raises JobError where nothing can be seen for long."""
        levels, _ = self._heard()
        seen = line.look(levels)
        with self._lock:
            going.check = going.check.seeing(seen)
            step = going.check.step
        if time.monotonic() - going.pictured > PICTURE_S:
            going.pictured = time.monotonic()
            going.picture = self._picture(step) if going.way != "identify" else ""
        self._tell()
        return levels

    def _heard(self) -> tuple[dict[int, bytes], list[int]]:
        """What is heard; a picture that is just being restarted is waited for."""
        for _ in range(PATIENT):
            with suppress(JobError):
                return self.live.heard()
            if self._ends.is_set():
                break
        return self.live.heard()

    def _picture(self, step: Step | None) -> str:
        """What the picture shows of the step's fixture."""
        if step is None:
            return ""
        with suppress(JobError):
            values = self.live.values()
            shown = values.get(step.fixture, values.get(f"{step.fixture}/1", {}))
            level = 1.0
            for name in ("dimmer", "master dimmer", "shutter"):
                level *= shown.get(name, 1.0)
            return f"the picture has it at {level * 100:.0f} %" if shown else ""
        return ""

    def _by_hand(self, going: Going, line: Line) -> None:
        """Step by step; each ends when it has come, or when a person says so."""
        while going.check.step is not None and not self._ends.wait(TICK_S):
            self._look(going, line)
            with self._lock:
                if going.check.answered():
                    going.check = going.check.ended("answered")

    def _by_identify(self, going: Going, line: Line) -> None:
        """All at once, until everybody has answered, or nobody new does for long."""
        left, began = len(going.check.told), time.monotonic()
        since = began
        while left and not self._ends.wait(TICK_S):
            self._look(going, line)
            with self._lock:
                going.check = going.check.all_that_came()
            now_left = going.check.count("waits")
            if now_left < left:
                left, since = now_left, time.monotonic()
            if time.monotonic() - since > max(QUIET_S, ROUND * (since - began)):
                break
        if not self._ends.is_set():
            self._silence_rest(going)

    def _silence_rest(self, going: Going) -> None:
        """Who has not answered by now does not."""
        _, live = self._heard()
        show = self.desk.show
        with self._lock:
            going.check = going.check.rest_silent(lambda at: cause_of(show, at, live, moved=False, together=True))

    def _by_sending(self, going: Going, line: Line) -> None:
        """Each step is sent to the console, which sends levels in turn."""
        while (step := going.check.step) is not None and not self._ends.is_set():
            before, _ = self._heard()
            self._try(going, line, step, before)
            with self._lock:
                if going.check.step is not step:
                    # A person has ended it meanwhile.
                    continue
                if going.check.answered():
                    going.check = going.check.ended("answered")
                elif self._ends.is_set():
                    # Broken off: it may have been about to answer.
                    return
                else:
                    going.check = going.check.ended("silent", self._cause(going, before))

    def _try(self, going: Going, line: Line, step: Step, before: Mapping[int, bytes]) -> None:
        """Send what a step asks for, the one thing and then the other, and look what comes of each."""
        first, then = asked_values(self._can(step), step.function)

        def begun(now: Mapping[int, bytes]) -> bool:
            watch = going.check.watches.get(step.fixture)
            return now != before or (watch is not None and watch.dark)

        self._send(going, step, first)
        self._until(going, line, FIRST_S, begun)
        self._send(going, step, then)
        self._until(going, line, SENT_S, lambda _: going.check.answered())
        self._send(going, step, first)

    def _until(self, going: Going, line: Line, most_s: float, come: Callable[[dict[int, bytes]], bool]) -> None:
        """Look until that has come, or for so long."""
        began = time.monotonic()
        while time.monotonic() - began < most_s and not self._ends.wait(TICK_S):
            if come(self._look(going, line)):
                return

    def _can(self, step: Step) -> frozenset[str] | set[str]:
        show = self.desk.show
        fixture = show.body(step.fixture, Fixture)
        return driven(show.type_of(fixture), fixture.mode)

    def _send(self, going: Going, step: Step, values: Mapping[str, float]) -> None:
        show = self.desk.show
        fixture = show.body(step.fixture, Fixture)
        made = values_of(show.type_of(fixture), fixture.mode, step.number, values, {})
        if not self.hands.send(going.console, made):
            raise JobError("The console is not there any more: link it, and begin the check again.")

    def _cause(self, going: Going, before: Mapping[int, bytes]) -> str:
        """Why the step has not come, by the levels."""
        show, step = self.desk.show, going.check.step
        if step is None or step.fixture not in show.items:
            return ""
        levels, live = self._heard()
        fixture = show.body(step.fixture, Fixture)
        universe, start = fixture.universe or 0, (fixture.address or 1) - 1
        size = show.type_of(fixture).mode(fixture.mode).footprint
        own = slice(start, start + size)
        moved = bool(before) and before.get(universe, b"")[own] != levels.get(universe, b"")[own]
        return cause_of(show, going.check, live, moved)

    def _keep(self, going: Going, who: str) -> None:
        """What came of it goes into the show: those who failed stand in Readiness until they are checked again."""
        done = {one.step.fixture for one in going.check.told if one.state in ("answered", "silent")}
        done -= {one.step.fixture for one in going.check.told if one.state == "waits"}
        if not done:
            return
        failed = {key: why for key, why in failures(going.check).items() if key in done}
        try:
            self.desk.edit(who or "the line check", "keep check", {"checked": sorted(done), "failed": failed})
            going.kept = True
        except JobError as wrong:
            going.said = going.said or str(wrong)

    # What browsers see

    def report(self) -> dict[str, Any]:
        """How it goes, or how the last one went."""
        with self._lock:
            going = self._going
            if going is None:
                return {"going": False, "way": "hand", "steps": [], "at": 0, "expects": "", "came": "", "picture": "",
                        "said": "", "answered": 0, "silent": 0, "left": 0}  # fmt: skip
            check = going.check
            step = check.step if going.way != "identify" else None
            watch = check.watches.get(step.fixture) if step is not None else None
            return {
                "going": not going.over,
                "way": going.way,
                "steps": [
                    {
                        "id": one.step.fixture, "number": one.step.number, "function": one.step.function,
                        "state": one.state, "came": one.came, "cause": one.cause,
                    }
                    for one in check.told
                ],
                "at": check.at,
                "expects": step.expects if step is not None and not going.over else "",
                "came": watch.came(step.function) if step is not None and watch is not None else "",
                "picture": going.picture,
                "said": going.said,
                "answered": check.count("answered"),
                "silent": check.count("silent"),
                "left": check.count("waits"),
            }  # fmt: skip

    def _tell(self) -> None:
        report = self.report()
        if report != self._told:
            self._told = report
            self.desk.feed.event("check", **report)

    def close(self) -> None:
        """End it."""
        self._ends.set()
