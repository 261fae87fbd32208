"""Recordings of what comes in, made and sent again from the screen."""

from __future__ import annotations

import logging
import tempfile
import threading
from dataclasses import asdict
from pathlib import Path
from typing import Any

from zarfwright.core.connections import Connection, audible, resolve
from zarfwright.core.errors import JobError
from zarfwright.links.interfaces import interfaces
from zarfwright.links.pcap import read_capture, sources_of
from zarfwright.web.children.child import Child
from zarfwright.web.children.live import LiveLink
from zarfwright.web.desk import Desk

log = logging.getLogger(__name__)


class CaptureLink:
    """One recording at a time, made here or brought along: it can be fetched, and it can be sent again."""

    def __init__(self, desk: Desk, live: LiveLink) -> None:
        self.desk, self.live = desk, live
        self._lock = threading.Lock()
        self._folder = tempfile.TemporaryDirectory(prefix="zarfwright-")
        self._child: Child | None = None
        self._state: dict[str, Any] = {
            "state": "idle", "seconds": 0.0, "at_s": 0.0, "packets": 0, "recording": None, "problem": "",
        }  # fmt: skip

        live.on_capturing = self._grows

    def _grows(self, packets: int) -> None:
        if self._state["state"] == "recording":
            self._change(packets=packets)

    @property
    def path(self) -> Path:
        return Path(self._folder.name) / "recording.pcap"

    @property
    def _coming(self) -> Path:
        """Where a new one is written: the one there is stays until that is whole."""
        return self.path.with_suffix(".coming")

    def report(self) -> dict[str, Any]:
        """What is going on, and what the recording holds, if there is one."""
        return dict(self._state)

    def record(self, seconds: float) -> None:
        """Begin to record. Raises JobError while something else goes on."""
        self._begin("recording", seconds)
        # Asked for before anybody can ask it to end.
        ask = self.live.begin_capture(seconds, self._coming)
        threading.Thread(target=self._record, args=(ask, seconds), name="capture", daemon=True).start()

    def _record(self, ask: int, seconds: float) -> None:
        found: dict[str, Any] = {}
        try:
            made = self.live.captured(ask, seconds)
            if made.get("problem"):
                raise JobError(made["problem"])
            if not made["packets"]:
                raise JobError(f"Nothing came in {made['seconds']:.0f} s: there is nothing to keep.")
            found = {"recording": self._taken("recording.pcap", full=bool(made["full"]))}
        except JobError as wrong:
            found = {"problem": str(wrong)}
        except Exception as wrong:  # whatever it is: it is told, and one can record again
            log.exception("the recording failed")
            found = {"problem": f"The recording failed ({type(wrong).__name__}: {wrong}). Record again."}
        self._change(state="idle", **found)

    def end_recording(self) -> None:
        """Keep what has come so far."""
        self.live.end_capture()

    def bring(self, data: bytes, name: str) -> None:
        """Take a file to be sent again: what it holds is told. Raises JobError where it is none, or something goes on;
        then the recording that there was stays."""
        if self._state["state"] != "idle":
            raise JobError("Stop what is going on first.")
        self._coming.write_bytes(data)
        self._change(recording=self._taken(name), problem="")

    def _taken(self, name: str, full: bool = False) -> dict[str, Any]:
        """What came takes the place of the recording that there was, once it has been read: what it holds."""
        captured = read_capture(self._coming.read_bytes(), name)
        self._coming.replace(self.path)
        return {
            "name": name,
            "seconds": captured.seconds,
            "packets": len(captured.datagrams),
            "sources": [asdict(one) for one in sources_of(captured)],
            "left_out": captured.left_out,
            "full": full,
        }

    def replay(self) -> None:
        """Send the recording to where this show listens. Raises JobError where there is none, or something goes on."""
        if self._state["recording"] is None:
            raise JobError("There is no recording to send: record one, or bring a file.")
        self._begin("replaying", self._state["recording"]["seconds"])
        args = [str(self.path)]
        for option, protocol in (("--sacn", "sACN"), ("--artnet", "Art-Net")):
            args += [option, self._heard_on(protocol)]
        self._child = Child("zarfwright.links.replay", args, self._hear, self._gone)

    def _heard_on(self, protocol: str) -> str:
        """The address on which the show hears a protocol."""
        show = self.desk.show
        named = [(one.id, one.body) for one in show.of_kind("connection") if isinstance(one.body, Connection)]
        heard = audible(named, show.settings.only_connection)
        for key, one in named:
            at = resolve(one, interfaces()).interface if one.protocol == protocol and key in heard else None
            if at is not None:
                return at.address
        return self.live.sacn_address

    def end_replay(self) -> None:
        """Stop sending."""
        child = self._child
        if child is not None:
            child.end(2.0)

    def _hear(self, message: dict[str, Any]) -> None:
        if message.get("is") == "at":
            self._change(at_s=message["seconds"], packets=message["packets"])
        elif message.get("is") == "problem":
            self._change(problem=str(message["text"]))

    def _gone(self) -> None:
        self._change(state="idle")

    def close(self) -> None:
        """End what goes on and forget the recording."""
        self.end_replay()
        self._folder.cleanup()

    def _begin(self, state: str, seconds: float) -> None:
        with self._lock:
            if self._state["state"] != "idle":
                raise JobError("Stop what is going on first.")
            self._state = {**self._state, "state": state, "seconds": seconds, "at_s": 0.0, "packets": 0, "problem": ""}
        self._tell()

    def _change(self, **changes: Any) -> None:
        with self._lock:
            self._state = {**self._state, **changes}
        self._tell()

    def _tell(self) -> None:
        self.live.tell_event("capture", **self.report())
