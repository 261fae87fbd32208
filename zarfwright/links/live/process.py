"""The live process's main function, and its pipe to the desk: JSON lines, commands in, statistics out."""

from __future__ import annotations

import argparse
import asyncio
import base64
import itertools
import logging
import os
import signal
import sys
import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
import orjson
import psutil

from zarfwright.core.carriers.plan import Plan, received
from zarfwright.core.lasers.plan import received as received_lasers
from zarfwright.core.looks.said import Said
from zarfwright.core.pacing import Gap, Pace, next_pace
from zarfwright.core.picture import FIELDS
from zarfwright.links.capture import Datagram, Tap
from zarfwright.links.lasers import PORT as LASER_PORT
from zarfwright.links.live.clock import now
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.hearing import PORTS, Hearing, connections_of
from zarfwright.links.live.lasers import LaserReceiver, Lasers, Trial, lasers_event
from zarfwright.links.live.monitor import Monitor
from zarfwright.links.live.playing import received_rig
from zarfwright.links.live.record import Recorder, facts_told
from zarfwright.links.live.run import run_of
from zarfwright.links.live.serve import Outlet
from zarfwright.parent import end_with_parent

GATHER_S = 0.012
CLOCK_S = 1 / 44
TALKS_S, WAITING_S = 0.1, 1 / 30
"""A console that was heard so long ago still talks; so long it is waited for while heads travel."""
LOOK_S = 0.05
"""So soon is seen that a source fell silent."""
LOOKS_A_RUN, LOOKS_A_MONITOR, LOOKS_A_BEAT, LOOKS_A_STATUS, LOOKS_AN_INTERFACE = 4, 3, 5, 10, 40
TROUBLE_S = 1.0
PROGRESS_S = 0.5
log = logging.getLogger(__name__)


def patch_event(engine: Engine) -> str:
    """What a viewer must know to read frames: the rows, and how fields are scaled."""
    return orjson.dumps({"event": "patch", "fields": FIELDS, **engine.playing.told()}).decode()


def carried_event(plan: Plan, number: int) -> str:
    """What moves together, in the order of the poses that are sent."""
    return orjson.dumps({"event": "carried", "plan": number, "groups": [group.id for group in plan.groups]}).decode()


def _gently(datagrams: Sequence[Datagram]) -> Iterator[Datagram]:
    """One by one, with room for the picture between them."""
    for i, one in enumerate(datagrams):
        if i % 50 == 49:
            time.sleep(0.001)
        yield one


class Live:
    """Ties engine, receiver, outlet and the desk's pipe together."""

    def __init__(self, args: argparse.Namespace, secret: str) -> None:
        self.engine = Engine()
        self.lasers = Lasers(self.engine)
        self.feeds = LaserReceiver(self.lasers, args.laser_address or args.sacn_address, args.laser_port)
        self.outlet = Outlet(self.engine, secret)
        self.outlet.greetings = lambda: [
            patch_event(self.engine), carried_event(self.engine.carried.asked, self.engine.carried.number),
            lasers_event(self.lasers),
        ]  # fmt: skip
        own = {"sACN": args.sacn_address, "Art-Net": args.artnet_address or args.sacn_address}
        self.hearing = Hearing(self.engine, own, {"sACN": args.sacn_port, "Art-Net": args.artnet_port})
        self.monitor = Monitor(self.engine)
        self.outlet.begin_anew = self.monitor.begin_anew
        self.args = args
        self.loop = asyncio.new_event_loop()
        self.stopping = asyncio.Event()
        self.told_levels: dict[int, bytes] = {}
        self.looped = threading.Event()
        """Set by the loop: it goes on."""
        self._out = threading.Lock()
        self.pace = Pace()
        self._kernel_drops = 0
        self._commands: dict[str, Callable[[Mapping[str, Any]], None]] = {
            "patch": self._patch,
            "connections": self._connect,
            "carry": self._carry,
            "lasers": self._lasers,
            "laser files": self._laser_files,
            "test lasers": self._test_lasers,
            "drive": self._drive,
            "say look": self._say_look,
            "run": self._run,
            "transport": self._transport,
            "leave room": self._leave_room,
            "event": self._pass_on,
            "values": self._values,
            "poses": self._poses,
            "levels": self._levels,
            "restore": self._restore,
            "record": partial(self._beside, self.record),
            "capture": self._capture,
            "end capture": self._end_capture,
        }

    def to_desk(self, message: dict[str, Any]) -> None:
        """One line to the desk."""
        with self._out:
            sys.stdout.buffer.write(orjson.dumps(message, option=orjson.OPT_SERIALIZE_NUMPY) + b"\n")
            sys.stdout.buffer.flush()

    def in_loop(self, function: Any, *args: Any) -> None:
        """Run something in the event loop's thread; once it has closed, nothing is left to be told."""
        try:
            self.loop.call_soon_threadsafe(function, *args)
        except RuntimeError:
            log.debug("the loop has closed")

    def obey(self, command: Mapping[str, Any]) -> None:
        """Do one command of the desk."""
        do = self._commands.get(command.get("do", ""))
        if do is not None:
            do(command)

    def _patch(self, command: Mapping[str, Any]) -> None:
        # Compiled here, in the pipe's thread, and swapped whole.
        self.engine.set_rig(received_rig(command["rig"], command["types"], command["rows"]))
        self.in_loop(self.outlet.tell, patch_event(self.engine))
        self.hearing.look()

    def _connect(self, command: Mapping[str, Any]) -> None:
        self.hearing.set(connections_of(command["list"]), command["only"])

    def _carry(self, command: Mapping[str, Any]) -> None:
        plan, number = received(command["plan"]), int(command["number"])
        # Told before the first poses that are by it.
        self.in_loop(self.outlet.tell, carried_event(plan, number))
        self.engine.set_plan(plan, number)

    def _lasers(self, command: Mapping[str, Any]) -> None:
        self.lasers.set(received_lasers(command["heads"]), int(command["number"]))
        self._tell_lasers()

    def _laser_files(self, command: Mapping[str, Any]) -> None:
        self.lasers.set_files(command["files"], command["wanted"])

    def _test_lasers(self, command: Mapping[str, Any]) -> None:
        self.lasers.test(Trial(frozenset(command["heads"]), command["alone"]))
        self._tell_lasers()

    def _tell_lasers(self) -> None:
        self.in_loop(self.outlet.tell, lasers_event(self.lasers))

    def _draw_lasers(self) -> None:
        """The lasers' thread."""
        self.lasers.publish_forever(lambda message: self.in_loop(self.outlet.draw, message), self._try)

    def _drive(self, command: Mapping[str, Any]) -> None:
        look = command.get("look")
        self.engine.set_drive(
            None if look is None else Said(look), command.get("hands"), bool(command["follow"]), command.get("fixed"),
            bool(command.get("first")),
        )  # fmt: skip

    def _say_look(self, command: Mapping[str, Any]) -> None:
        self.engine.looks[command["key"]] = Said(command["text"])

    def _run(self, command: Mapping[str, Any]) -> None:
        engine = self.engine
        wanted = command.get("order")
        engine.set_run(run_of(command, engine.looks, engine.playing, engine.run) if wanted else None)
        kept = {step["look"] for step in command.get("steps", ())}
        for key in [one for one in engine.looks if one not in kept]:
            del engine.looks[key]
        self._tell_run()

    def _transport(self, command: Mapping[str, Any]) -> None:
        self.engine.command_run(command["command"], command.get("value"))
        self._tell_run()

    def _tell_run(self) -> None:
        """Where the running order stands, to viewers and desk."""
        told = self.engine.run_told() or {"order": None}
        self.in_loop(self.outlet.stands, orjson.dumps({"event": "run", **told}).decode(), "run")
        self.to_desk({"is": "run", "run": told})

    def _leave_room(self, command: Mapping[str, Any]) -> None:
        self.pace = replace(self.pace, spare=bool(command["spare"]))

    def _pass_on(self, command: Mapping[str, Any]) -> None:
        self.in_loop(self.outlet.tell, command["text"])

    def _values(self, command: Mapping[str, Any]) -> None:
        # Whatever was commanded before is in the picture that is kept: values() makes it anew.
        self.to_desk({"is": "answer", "ask": command["ask"], "values": self.engine.values().text})

    def _poses(self, command: Mapping[str, Any]) -> None:
        self.to_desk({"is": "answer", "ask": command["ask"], "poses": self.engine.poses()})

    def _levels(self, command: Mapping[str, Any]) -> None:
        levels, live = self.engine.heard_levels()
        told = {str(u): base64.b64encode(held).decode() for u, held in levels.items()}
        self.to_desk({"is": "answer", "ask": command["ask"], "levels": told, "live": live})

    def _restore(self, command: Mapping[str, Any]) -> None:
        self.engine.restore({int(u): base64.b64decode(held) for u, held in command["levels"].items()})

    def _capture(self, command: Mapping[str, Any]) -> None:
        # Before the thread begins: it may be told to end at once.
        tap = self.hearing.receiver.tap = Tap()
        self._beside(partial(self.capture, tap), command)

    def _end_capture(self, command: Mapping[str, Any]) -> None:
        if self.hearing.receiver.tap is not None:
            self.hearing.receiver.tap.over.set()

    @staticmethod
    def _beside(do: Callable[[Mapping[str, Any]], None], command: Mapping[str, Any]) -> None:
        """In a thread of its own: commands are obeyed meanwhile."""
        threading.Thread(target=do, args=(command,), name=command["do"], daemon=True).start()

    def record(self, command: Mapping[str, Any]) -> None:
        """Listen for so long, also to what comes to other addresses, and tell the desk what was seen."""
        self.hearing.listen_around(True)
        try:
            facts = Recorder(self.engine, self.hearing).record(float(command["seconds"]))
        finally:
            self.hearing.listen_around(False)
        self.to_desk({"is": "answer", "ask": command["ask"], "facts": facts_told(facts)})

    def capture(self, tap: Tap, command: Mapping[str, Any]) -> None:
        """Keep all that comes in for so long, also what comes to other addresses, and write it to a file."""
        from zarfwright.links.pcap import write_capture  # a tenth of a second of the start, and seldom needed

        began, answer = now(), {"is": "answer", "ask": command["ask"]}
        self.hearing.listen_around(True)
        try:
            while (left := began + float(command["seconds"]) - now()) > 0 and not tap.over.wait(min(left, PROGRESS_S)):
                self.to_desk({"is": "capturing", "packets": len(tap.kept)})
            tap.over.set()
            self.hearing.receiver.tap = None
            with open(command["path"], "wb") as file:
                answer["packets"] = write_capture(_gently(tap.kept), file)
        except OSError as wrong:
            answer["problem"] = f"The recording could not be written ({wrong.strerror}): make room on the disk."
        finally:
            self.hearing.listen_around(False)
        self.to_desk({**answer, "seconds": now() - began, "full": tap.full})

    def read_desk(self) -> None:
        """The pipe's thread: obeys until the desk is gone; however it ends, the process ends with it."""
        try:
            for line in sys.stdin.buffer:
                self._try("The picture could not take in the last change", partial(self._obey_line, line))
        except OSError:
            log.debug("the desk is gone")
        finally:
            self.in_loop(self.stopping.set)

    def _obey_line(self, line: bytes) -> None:
        self.obey(orjson.loads(line))

    def _try(self, what: str, do: Callable[[], None]) -> bool:
        """Do something that must not end the picture where it fails. Raises BrokenPipeError when nobody can be told."""
        try:
            do()
        except Exception as wrong:  # whatever it is: the desk is told
            log.exception("%s", what)
            said = f"{what} ({type(wrong).__name__}: {wrong}). Undo it, or open the show again."
            self.to_desk({"is": "problem", "text": said})
            return False
        return True

    def publish_forever(self) -> None:
        """The publish thread: when all live universes were seen or 12 ms went by, at least 18 ms apart; while heads
        travel, on a 44 Hz clock as well."""
        last = 0.0
        while True:
            self._wait_until_due(last)
            last = now()
            if not self._try("The picture could not be worked out", self._publish):
                time.sleep(TROUBLE_S)

    def _wait_until_due(self, last: float) -> None:
        """Wait for something to publish, after what was published at `last`."""
        engine = self.engine
        with engine.lock:
            while not engine.waiting:
                engine.lock.wait(1.0)
            due = last + self.pace.apart_s
            if engine.moving and not engine.dirty:
                # A console that goes on talking sets the pace: a frame just before it speaks would hold up the next.
                talks = last - engine.first_dirty_at < TALKS_S
                due = last + (WAITING_S if talks else CLOCK_S)
            elif not engine.changed:
                due = max(due, engine.first_dirty_at + GATHER_S)
            while (left := due - now()) > 0:
                if engine.all_seen():
                    left = min(left, last + self.pace.apart_s - now())
                    if left <= 0:
                        break
                engine.lock.wait(left)

    def _publish(self) -> None:
        made = self.engine.publish()
        # The loop that all viewers hang on has nothing to compute; what none of them asks for is not made.
        if made.changed is None or len(made.changed) or made.poses is not None:
            self.in_loop(self.outlet.publish, made)

    def watch_forever(self) -> None:
        """The watch thread: lost sources, statistics to desk and viewers, and whether the loop goes on. Told from here,
        for the loop may never wait for a desk that does not read."""
        with suppress(BrokenPipeError, ValueError):
            for tick in itertools.count():
                time.sleep(LOOK_S)
                self.engine.check_lost(now())
                if tick % LOOKS_A_BEAT == 0:
                    if self.looped.is_set():
                        self.looped.clear()
                        self.to_desk({"is": "beat"})
                    self.in_loop(self.looped.set)
                if tick % LOOKS_A_RUN == 0 and (run := self.engine.run) is not None and run.goes:
                    self._try("Where the running order stands could not be told", self._tell_run)
                if tick % LOOKS_A_STATUS == 0:
                    self._tell_status(now())
                if tick % LOOKS_A_MONITOR == 0:
                    self._try("What moves could not be told", self._tell_monitors)
                if tick % LOOKS_AN_INTERFACE == 0:
                    self._try("The network could not be looked at", self.hearing.look)

    def _tell_monitors(self) -> None:
        watched = self.outlet.monitored()
        if watched:
            self.in_loop(self.outlet.tell_monitors, self.monitor.look(watched, now()))
        else:
            # Whoever comes next looks from then on.
            self.monitor.begin_anew()

    def _tell_status(self, at: float) -> None:
        status = {
            **self.engine.status(at),
            **self.hearing.report(),
            "lasers": self.feeds.report(),
            "viewers": len(self.outlet.viewers),
            "follow": self.engine.follow,
            "first": self.engine.first,
        }
        status["pace"] = self._paced(status)
        text = orjson.dumps({"event": "signal", **status}).decode()
        self.in_loop(self.outlet.stands, text)
        with self.engine.lock:
            levels = dict(self.engine.levels)
        news = {u: base64.b64encode(held) for u, held in levels.items() if self.told_levels.get(u) != held}
        self.told_levels = levels
        told = {str(u): v.decode() for u, v in news.items()}
        self.to_desk({"is": "status", "status": status, "levels": told, "poses": self.engine.poses()})

    def _paced(self, status: Mapping[str, Any]) -> dict[str, Any]:
        """Go slower where that is called for, and say how fast it goes."""
        sources = {(one["protocol"], one["name"]): one for u in status["universes"] for one in u["sources"]}
        gaps = [Gap(one["name"], one["longest_ms"], one["rate_hz"]) for one in sources.values()]
        drops = status["kernel_drops"] - self._kernel_drops
        self._kernel_drops = status["kernel_drops"]
        pace = next_pace(self.pace, gaps, drops, psutil.cpu_percent(None) / 100.0)
        # Whether room is to be left may have been told meanwhile.
        self.pace = replace(pace, spare=self.pace.spare)
        return {"apart_ms": round(self.pace.apart_s * 1000), "share": self.pace.share, "spare": self.pace.spare,
                "said": self.pace.said}  # fmt: skip

    async def main(self) -> None:
        """Serve until told to stop."""
        for name in (signal.SIGTERM, signal.SIGINT):
            self.loop.add_signal_handler(name, self.stopping.set)
        server = await self.outlet.open(self.args.host, self.args.port, self.args.origin)
        port = next(iter(server.sockets)).getsockname()[1]
        self.to_desk({"is": "ready", "port": port, "pid": os.getpid()})
        self.hearing.start()
        self.feeds.start()
        for target in (self.read_desk, self.publish_forever, self.watch_forever, self._draw_lasers):
            threading.Thread(target=target, name=target.__name__, daemon=True).start()
        await self.stopping.wait()
        server.close(close_connections=True)
        await asyncio.wait_for(server.wait_closed(), 1.0)


def main() -> int:
    """Run the live process. The first line on stdin is the secret that tickets are signed with."""
    parser = argparse.ArgumentParser(prog="zarfwright-live")
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=int, default=0)
    parser.add_argument("--origin", action="append", default=[])
    parser.add_argument("--sacn-address", default="127.0.0.1")
    parser.add_argument("--sacn-port", type=int, default=PORTS["sACN"])
    parser.add_argument("--artnet-address", default="", help="else the one of sACN")
    parser.add_argument("--artnet-port", type=int, default=PORTS["Art-Net"])
    parser.add_argument("--laser-address", default="", help="else the one of sACN")
    parser.add_argument("--laser-port", type=int, default=LASER_PORT)
    parser.add_argument("--desk", type=int, help="the process that this one ends with; else the one that started it")
    args = parser.parse_args()
    end_with_parent(args.desk, at_once=True)
    logging.basicConfig(level=logging.INFO, format="live: %(message)s")
    logging.getLogger("websockets").setLevel(logging.CRITICAL)
    np.seterr(all="ignore")
    sys.setswitchinterval(0.002)

    secret = sys.stdin.buffer.readline().strip().decode()
    live = Live(args, secret)
    with suppress(TimeoutError, KeyboardInterrupt):
        live.loop.run_until_complete(live.main())
    # The pipe's thread may be blocked in a read, which would hold up the interpreter's own exit.
    os._exit(0)


if __name__ == "__main__":
    main()
