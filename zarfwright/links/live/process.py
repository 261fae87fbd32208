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
from collections.abc import Callable, Mapping
from contextlib import suppress
from functools import partial
from typing import Any

import numpy as np
import orjson

from zarfwright.core.picture import FIELDS
from zarfwright.links.live.clock import now
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.hearing import PORTS, Hearing, connections_of
from zarfwright.links.live.playing import received_rig
from zarfwright.links.live.record import Recorder, facts_told
from zarfwright.links.live.serve import Outlet
from zarfwright.parent import end_with_parent

GATHER_S = 0.012
APART_S = 0.018
CLOCK_S = 1 / 44
TALKS_S, WAITING_S = 0.1, 1 / 30
"""A console that was heard so long ago still talks; so long it is waited for while heads travel."""
LOOK_S = 0.05
"""So soon is seen that a source fell silent."""
LOOKS_A_BEAT, LOOKS_A_STATUS, LOOKS_AN_INTERFACE = 5, 10, 40
TROUBLE_S = 1.0
log = logging.getLogger(__name__)


def patch_event(engine: Engine) -> str:
    """What a viewer must know to read frames: the rows, and how fields are scaled."""
    return orjson.dumps({"event": "patch", "fields": FIELDS, **engine.playing.told()}).decode()


class Live:
    """Ties engine, receiver, outlet and the desk's pipe together."""

    def __init__(self, args: argparse.Namespace, secret: str) -> None:
        self.engine = Engine()
        self.outlet = Outlet(self.engine, secret)
        self.outlet.greeting = lambda: patch_event(self.engine)
        own = {"sACN": args.sacn_address, "Art-Net": args.artnet_address or args.sacn_address}
        self.hearing = Hearing(self.engine, own, {"sACN": args.sacn_port, "Art-Net": args.artnet_port})
        self.args = args
        self.loop = asyncio.new_event_loop()
        self.stopping = asyncio.Event()
        self.told_levels: dict[int, bytes] = {}
        self.looped = threading.Event()
        """Set by the loop: it goes on."""
        self._out = threading.Lock()

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
        do = command.get("do")
        if do == "patch":
            # Compiled here, in the pipe's thread, and swapped whole.
            self.engine.set_rig(received_rig(command["rig"], command["types"], command["rows"]))
            self.in_loop(self.outlet.tell, patch_event(self.engine))
            self.hearing.look()
        elif do == "connections":
            self.hearing.set(connections_of(command["list"]), command["only"])
        elif do == "drive":
            self.engine.set_drive(
                command.get("look"), command.get("hands"), bool(command["follow"]), command.get("fixed")
            )
        elif do == "event":
            self.in_loop(self.outlet.tell, command["text"])
        elif do == "values":
            # Whatever was commanded before is in the picture that is kept: values() makes it anew.
            self.to_desk({"is": "answer", "ask": command["ask"], "values": self.engine.values()})
        elif do == "record":
            # In a thread of its own: commands are obeyed meanwhile.
            args = (command["ask"], float(command["seconds"]))
            threading.Thread(target=self.record, args=args, name="record", daemon=True).start()
        elif do == "restore":
            self.engine.restore({int(u): base64.b64decode(held) for u, held in command["levels"].items()})

    def record(self, ask: int, seconds: float) -> None:
        """Listen for so long, also to what comes to other addresses, and tell the desk what was seen."""
        self.hearing.listen_around(True)
        try:
            facts = Recorder(self.engine, self.hearing).record(seconds)
        finally:
            self.hearing.listen_around(False)
        self.to_desk({"is": "answer", "ask": ask, "facts": facts_told(facts)})

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
            due = last + APART_S
            if engine.moving and not engine.dirty:
                # A console that goes on talking sets the pace: a frame just before it speaks would hold up the next.
                talks = last - engine.first_dirty_at < TALKS_S
                due = last + (WAITING_S if talks else CLOCK_S)
            elif not engine.changed:
                due = max(due, engine.first_dirty_at + GATHER_S)
            while (left := due - now()) > 0:
                if engine.all_seen():
                    left = min(left, last + APART_S - now())
                    if left <= 0:
                        break
                engine.lock.wait(left)

    def _publish(self) -> None:
        made = self.engine.publish()
        # The loop that all viewers hang on has nothing to compute; what none of them asks for is not made.
        if made.changed is None or len(made.changed):
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
                if tick % LOOKS_A_STATUS == 0:
                    self._tell_status(now())
                if tick % LOOKS_AN_INTERFACE == 0:
                    self._try("The network could not be looked at", self.hearing.look)

    def _tell_status(self, at: float) -> None:
        status = {
            **self.engine.status(at),
            **self.hearing.report(),
            "viewers": len(self.outlet.viewers),
            "follow": self.engine.follow,
        }
        text = orjson.dumps({"event": "signal", **status}).decode()
        self.in_loop(self.outlet.stands, text)
        with self.engine.lock:
            levels = {universe: held.tobytes() for universe, held in self.engine.levels.items()}
        news = {u: base64.b64encode(held) for u, held in levels.items() if self.told_levels.get(u) != held}
        self.told_levels = levels
        self.to_desk({"is": "status", "status": status, "levels": {str(u): v.decode() for u, v in news.items()}})

    async def main(self) -> None:
        """Serve until told to stop."""
        for name in (signal.SIGTERM, signal.SIGINT):
            self.loop.add_signal_handler(name, self.stopping.set)
        server = await self.outlet.open(self.args.host, self.args.port, self.args.origin)
        port = next(iter(server.sockets)).getsockname()[1]
        self.to_desk({"is": "ready", "port": port, "pid": os.getpid()})
        self.hearing.start()
        for target in (self.read_desk, self.publish_forever, self.watch_forever):
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
    parser.add_argument("--desk", type=int, help="the process that this one ends with; else the one that started it")
    args = parser.parse_args()
    end_with_parent(args.desk, at_once=True)
    logging.basicConfig(level=logging.INFO, format="live: %(message)s")
    logging.getLogger("websockets").setLevel(logging.CRITICAL)
    np.seterr(all="ignore")
    secret = sys.stdin.buffer.readline().strip().decode()
    live = Live(args, secret)
    with suppress(TimeoutError, KeyboardInterrupt):
        live.loop.run_until_complete(live.main())
    # The pipe's thread may be blocked in a read, which would hold up the interpreter's own exit.
    os._exit(0)


if __name__ == "__main__":
    main()
