"""The doctor, asked from the screen: the live process listens for a while, then causes are found in what it saw."""

from __future__ import annotations

import logging
import threading
from dataclasses import asdict
from typing import Any

from zarfwright.core.doctor.facts import Cause
from zarfwright.core.edits import Call
from zarfwright.core.errors import JobError
from zarfwright.links.live.record import facts_read
from zarfwright.web.children.live import LiveLink
from zarfwright.web.desk import Desk
from zarfwright.web.jobs import Jobs

log = logging.getLogger(__name__)


class DoctorLink:
    """One stretch of listening at a time. Every browser is told how it goes."""

    def __init__(self, desk: Desk, live: LiveLink, jobs: Jobs) -> None:
        self.desk, self.live, self.jobs = desk, live, jobs
        self._lock = threading.Lock()
        self._report: dict[str, Any] = {"listening": False, "seconds": 0.0, "causes": None, "problem": ""}

    def ask(self, seconds: float) -> None:
        """Begin to listen. Raises JobError where it is listening already."""
        with self._lock:
            if self._report["listening"]:
                raise JobError("The doctor is listening already: wait for what is found.")
            self._report = {**self._report, "listening": True, "seconds": seconds, "problem": ""}
        self._tell()
        threading.Thread(target=self._listen, args=(seconds,), name="doctor", daemon=True).start()

    def _listen(self, seconds: float) -> None:
        found: dict[str, Any] = {"problem": ""}
        try:
            found["causes"] = [asdict(cause) for cause in self.find(seconds)]
        except JobError as wrong:
            found["problem"] = str(wrong)
        except Exception as wrong:  # whatever it is: it is told, and the doctor can be asked again
            log.exception("the doctor could not finish")
            found["problem"] = f"The doctor could not finish ({type(wrong).__name__}: {wrong}). Ask it again."
        with self._lock:
            self._report = {**self._report, **found, "listening": False}
        self._tell()

    def find(self, seconds: float) -> list[Cause]:
        """Listen for so long, and say what is wrong. Raises JobError."""
        from zarfwright.core.doctor.diagnosis import diagnose

        facts = facts_read(self.live.record(seconds))
        # Seconds of computing for a hundred fixtures: who works at the desk meanwhile is not to feel it.
        causes: list[Cause] = self.jobs.elsewhere(Call(diagnose, (facts, self.desk.show)))
        return causes

    def report(self) -> dict[str, Any]:
        """Whether it listens, for how long, and what it found last; none: it was not asked yet."""
        return self._report

    def _tell(self) -> None:
        self.live.tell_event("doctor", **self._report)
