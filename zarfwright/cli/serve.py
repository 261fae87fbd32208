"""Serving a show: what is started, in which order, and how it ends."""

from __future__ import annotations

import argparse
import signal
import socket
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from zarfwright.web.children.live import LiveLink
    from zarfwright.web.here import Services

PORT, SACN_PORT, ARTNET_PORT = 8043, 5568, 6454
HOST = "127.0.0.1"
THREADS, CONNECTIONS_MOST, IDLE_S = 8, 800, 30


def listening(port: int) -> socket.socket:
    """Bound first: with port 0 the system chooses, and the live process must know the pages' origin. Raises OSError."""
    made = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    made.bind((HOST, port))
    return made


def opened(path: Path, live: LiveLink, scheduler: str | None) -> Services:
    """The show and what works beside it. Raises ShowFileError or JobError, and then has started nothing."""
    from zarfwright.store.recent import Recent
    from zarfwright.web.children.capture import CaptureLink
    from zarfwright.web.children.doctor import DoctorLink
    from zarfwright.web.children.laser_feed import LaserFeedLink
    from zarfwright.web.children.simulated import SimulatedConsoles
    from zarfwright.web.desk import Desk
    from zarfwright.web.desk.checking import LineChecks
    from zarfwright.web.desk.consoles import ConsoleLinks
    from zarfwright.web.desk.settling import SettledLooks
    from zarfwright.web.guests.serving import GuestPort
    from zarfwright.web.here import Services
    from zarfwright.web.jobs import Cluster, Jobs
    from zarfwright.web.rays import Lights

    desk = Desk(path)
    jobs = Jobs(Cluster(scheduler) if scheduler else None, lambda report: desk.feed.event("jobs", jobs=report))
    desk.feed.live = live
    live.on_start = desk.show_live
    live.on_run = desk.hear_run
    recent = Recent()
    recent.note(path, desk.show.settings.name)
    simulated, consoles = SimulatedConsoles(desk, live), ConsoleLinks(desk)
    simulated.on_change = consoles.beside
    doctor = DoctorLink(desk, live, jobs)
    checks = LineChecks(desk, live, consoles.hands, doctor.find)
    children = simulated, LaserFeedLink(live), doctor, CaptureLink(desk, live)
    settled = SettledLooks(desk, live)
    lights, guests = Lights(desk), GuestPort(desk)
    return Services(desk, live, *children, lights, recent, jobs, consoles, checks, settled, guests)


def _share(serves: Services) -> None:
    """Let guests in, and print where. Raises nothing: without guests the program serves all the same."""
    import segno

    from zarfwright.core.errors import JobError

    try:
        links = serves.guests.begin("", notes=False)
    except JobError as wrong:
        print(f"zarfwright: {wrong}", file=sys.stderr)
        return
    print("Guests look on at:", *links, sep="\n  ", flush=True)
    try:
        segno.make(links[0]).terminal(compact=True)
    except UnicodeEncodeError:
        print("(This terminal cannot show the QR code: it is under Review, Guests.)", flush=True)


def serve(path: Path, args: argparse.Namespace) -> int:
    """Open a show and serve it until told to stop."""
    from waitress.server import create_server

    from zarfwright.core.errors import JobError
    from zarfwright.store.errors import ShowFileError
    from zarfwright.web.children.live import LiveLink

    try:
        bound = listening(args.port)
    except OSError as wrong:
        said = f"port {args.port} cannot be used ({wrong.strerror}): choose another, --port N."
        print(f"zarfwright: {said}", file=sys.stderr)
        return 2
    port = bound.getsockname()[1]
    # The live process starts while the rest is still being imported.
    ways = ["--sacn-port", str(args.sacn_port), "--artnet-port", str(args.artnet_port)]
    ways += ["--artnet-address", args.artnet] if args.artnet else []
    live = LiveLink(HOST, [f"http://{name}:{port}" for name in (HOST, "localhost")], args.sacn, ways)
    try:
        serves = opened(path, live, args.jobs)
    except (ShowFileError, JobError) as wrong:
        live.close()
        print(f"zarfwright: {wrong}", file=sys.stderr)
        return 2
    from zarfwright.web.app import create_app

    server = create_server(
        create_app(serves, {HOST, "localhost"}),
        sockets=[bound],
        threads=THREADS,
        # Connections that nothing comes over are closed; until then there may be very many, more than select() takes.
        connection_limit=CONNECTIONS_MOST,
        channel_timeout=IDLE_S,
        cleanup_interval=IDLE_S // 3,
        asyncore_use_poll=True,
    )
    live.wait_ready()
    serves.desk.show_live()

    def stop(*_: Any) -> None:
        raise SystemExit(0)

    signal.signal(signal.SIGTERM, stop)
    print(f"{serves.desk.show.settings.name}: open http://{HOST}:{port}/", flush=True)
    try:
        if args.share:
            _share(serves)
        server.run()
    except (KeyboardInterrupt, SystemExit):
        pass
    finally:
        serves.guests.end()
        serves.jobs.close()
        serves.checks.close()
        serves.consoles.close()
        serves.simulated.close()
        serves.laser_feed.close()
        serves.capture.close()
        serves.settled.close()
        live.close()
        serves.desk.close()
    return 0
