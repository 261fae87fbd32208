"""The plan of a show's lasers (plan.py), for the live process."""

from __future__ import annotations

from zarfwright.core.lasers.heads import laser_beams, lasers_of
from zarfwright.core.lasers.light import LaserBeam
from zarfwright.core.lasers.path import Scanning
from zarfwright.core.lasers.plan import Planned
from zarfwright.core.lasers.zone import LaserHead
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.types.model import LaserSource


def plan_of(show: Show) -> tuple[Planned, ...]:
    """The lasers of a show in the order of the frame's rows."""
    found = []
    for item in lasers_of(show):
        fixture = show.body(item.id, Fixture)
        said = fixture.laser or LaserHead()
        for key, source, beam in laser_beams(show, item, fixture):
            found.append(_planned(key, fixture, said, source, beam))
    return tuple(found)


def _planned(key: str, fixture: Fixture, said: LaserHead, source: LaserSource, beam: LaserBeam) -> Planned:
    how = Scanning(said.zone, said.rate_kpps * 1000, source.scan_kpps * 1000, source.scan_across_deg,
                   source.scan_up_deg)  # fmt: skip
    return Planned(key, fixture.number, said.feed, said.file, how, beam)


def files_of(show: Show) -> set[str]:
    """The assets of the ILDA files that heads draw by themselves."""
    return {fixture.laser.file for _, fixture in show.fixtures() if fixture.laser and fixture.laser.file}
