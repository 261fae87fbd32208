"""The live process by itself: how it ends, when the time of day jumps, and with viewers that do not listen."""

from __future__ import annotations

import asyncio
import json
import os
import signal
import subprocess
import sys
import threading
import time
from argparse import Namespace
from pathlib import Path

import pytest
from itsdangerous import URLSafeTimedSerializer
from websockets.asyncio.client import connect

from tests.links.test_sacn import packet
from tests.processes import PATIENCE_S, own_address, wait_for
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.library import dunlin
from zarfwright.links.live import clock, process
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.playing import live_rig
from zarfwright.links.live.serve import TICKET_SALT, WAITING_MOST, Outlet, Viewer

LIVE = [sys.executable, "-m", "zarfwright.links.live.process", "--sacn-address"]


def test_it_ends_when_the_desk_is_killed_in_the_middle_of_a_line():
    live = subprocess.Popen([*LIVE, own_address()], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    live.stdin.write(b"secret\n")
    live.stdin.flush()
    assert json.loads(live.stdout.readline())["is"] == "ready"
    # As the kernel leaves the pipes of a process that is killed: nobody reads, and a line breaks off.
    live.stdout.close()
    live.stdin.write(b'{"do": "event", "te')
    live.stdin.close()
    try:
        assert live.wait(PATIENCE_S) == 0
    finally:
        live.kill()


@pytest.mark.parametrize("stopped", [False, True])
def test_it_ends_with_its_desk_also_where_the_pipe_stays_open(stopped):
    """Somebody else may hold the pipe, and it may be doing anything or nothing."""
    starts = (
        "import subprocess, sys, time\n"
        f"live = subprocess.Popen({[*LIVE, own_address()]!r}, stdin=sys.stdin, stdout=subprocess.PIPE)\n"
        "live.stdout.readline()\nprint(live.pid, flush=True)\ntime.sleep(60)"
    )
    desk = subprocess.Popen([sys.executable, "-c", starts], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    desk.stdin.write(b"secret\n")
    desk.stdin.flush()
    live = int(desk.stdout.readline())
    if stopped:
        os.kill(live, signal.SIGSTOP)
    desk.kill()
    desk.wait(PATIENCE_S)
    wait_for(lambda: not runs(live), "the live process to end with its desk")


def runs(pid: int) -> bool:
    """Whether a process is there and is more than an entry in a table."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


@pytest.fixture
def live():
    """The live process's inside, publishing into a list."""
    address = own_address()
    made = process.Live(Namespace(sacn_address=address, sacn_port=5568, artnet_address="", artnet_port=6454,
                                  laser_address="", laser_port=7254), "secret")  # fmt: skip
    made.key = ("sACN", address)
    made.hearing.look()
    made.said, made.published = [], []
    made.to_desk = made.said.append
    made.in_loop = lambda function, *args: made.published.append(args)
    return made


def test_the_picture_goes_on_when_the_time_of_day_is_set_back(live, monkeypatch):
    live.engine.set_rig(live_rig(1, [PatchRow("a", dunlin(), "Standard", 1, 1)]))
    threading.Thread(target=live.publish_forever, daemon=True).start()
    wait_for(lambda: live.published, "the first picture")
    before, real = clock.now(), time.time  # noqa: TID251
    monkeypatch.setattr(time, "time", lambda: real() - 3600)
    live.engine.packet(live.key, bytes(packet(universe=1, levels=[255] * 10)), "127.0.0.1", live.engine.clock())
    wait_for(lambda: len(live.published) > 1, "the next picture")
    assert 0 <= clock.now() - before < 3000


def test_a_picture_that_cannot_be_worked_out_is_told_and_the_next_one_is_shown(live, monkeypatch):
    publish, tries = live.engine.publish, []

    def once_wrong():
        tries.append(1)
        if len(tries) == 1:
            raise ZeroDivisionError("of nothing")
        return publish()

    monkeypatch.setattr(live.engine, "publish", once_wrong)
    monkeypatch.setattr(process, "TROUBLE_S", 0.01)
    threading.Thread(target=live.publish_forever, daemon=True).start()
    wait_for(lambda: live.said, "the trouble")
    assert "of nothing" in live.said[0]["text"]
    live.engine.set_drive({}, None, True)
    wait_for(lambda: live.published, "a picture")


def test_a_viewer_that_does_not_listen_is_closed_and_the_others_hear_all():
    asyncio.run(asyncio.wait_for(_deaf_viewer(), PATIENCE_S))


async def _deaf_viewer():
    outlet = Outlet(Engine(), "secret")
    server = await outlet.open("127.0.0.1", 0, [])
    port = next(iter(server.sockets)).getsockname()[1]
    ticket = URLSafeTimedSerializer("secret", salt=TICKET_SALT).dumps("x")
    # A viewer that has stopped: what it was sent stays in the buffers between.
    reader, writer = await asyncio.open_connection("127.0.0.1", port, limit=1024)
    upgrade = "Upgrade: websocket\r\nConnection: Upgrade"
    key = "Sec-WebSocket-Version: 13\r\nSec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ=="
    writer.write(f"GET /?ticket={ticket} HTTP/1.1\r\nHost: a\r\n{upgrade}\r\n{key}\r\n\r\n".encode())
    await reader.readuntil(b"\r\n\r\n")
    reader._transport.pause_reading()
    heard = []
    async with connect(f"ws://127.0.0.1:{port}/?ticket={ticket}", max_size=None, compression=None) as good:
        await good.recv()
        while len(outlet.viewers) < 2:
            await asyncio.sleep(0.01)
        deaf = next(
            viewer
            for viewer in outlet.viewers
            if viewer._socket.remote_address[1] == writer.get_extra_info("sockname")[1]
        )
        text, sent = "x" * 100_000, 0
        while deaf in outlet.viewers:
            outlet.stands(f"standing {sent}")
            outlet.tell(f"{sent} {text}")
            sent += 1
            # How things stand never piles up, and events not without end.
            assert deaf.waiting <= WAITING_MOST + 2 * len(text)
            heard.append(await good.recv())
        while sum(len(one) > 1000 for one in heard) < sent:
            heard.append(await good.recv())
    assert [int(one.split()[0]) for one in heard if len(one) > 1000] == list(range(sent))
    assert len(outlet.viewers) <= 1
    server.close(close_connections=True)


def test_a_viewer_that_leaves_one_message_untaken_is_closed(monkeypatch):
    class Never:
        cut = False

        async def send(self, _):
            await asyncio.sleep(60)

        @property
        def transport(self):
            return self

        def abort(self):
            self.cut = True

    async def stalls():
        outlet, socket = Outlet(Engine(), "secret"), Never()
        viewer = Viewer(socket)
        outlet.viewers.add(viewer)
        sending = asyncio.create_task(outlet._send(viewer))
        viewer.add("event")
        await asyncio.sleep(0.05)
        outlet.stands("a")
        assert viewer in outlet.viewers
        monkeypatch.setattr("zarfwright.links.live.serve.STALLED_S", 0.01)
        outlet.stands("b")
        sending.cancel()
        return socket.cut, outlet.viewers, viewer.standing

    assert asyncio.run(stalls()) == (True, set(), {"signal": "b"})


def test_it_is_back_in_two_seconds_because_it_loads_only_what_plays():
    code = "import sys, zarfwright.links.live.process; print(' '.join(sys.modules))"
    loaded = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.split()
    only_for_shows = {"embreex", "scipy", "trimesh", "shapely", "zarfwright.core.show"}
    assert not (only_for_shows | {"dpkt", "flask", "sqlite3", "PIL"}) & set(loaded)
