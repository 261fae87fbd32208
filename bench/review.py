"""How fast light is measured and sight lines are found: `python -m bench.review` prints medians (docs/benchmarks.md).

The demo show: 480 seats, its set and people as triangles; 100 x 100 points on the deck under 100 lit fixtures.
"""

from __future__ import annotations

import json
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from zarfwright.core.lighting import rig_of
from zarfwright.core.looks.said import said_of
from zarfwright.core.optics.photometry import illuminance
from zarfwright.core.raycast import Caster
from zarfwright.core.review.area import Area
from zarfwright.core.review.grid import grid_of
from zarfwright.core.review.maps import in_the_way, piece, pieces
from zarfwright.core.review.sight import SAMPLES, hiding_solids, sight
from zarfwright.core.seats import seats
from zarfwright.demo.tide import build_demo
from zarfwright.web.desk import Desk

TIMES = 7


def median_s(work: Callable[[], Any]) -> float:
    """The median of several runs, seconds; the first is not counted."""
    work()
    times = []
    for _ in range(TIMES):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return round(statistics.median(times), 3)


def main() -> None:
    """Print the figures as JSON."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "tide.zarf"
        build_demo(path)
        desk = Desk(path, look=True)
        show = desk.show
        rig = rig_of(show)
        fixtures = [item.id for item, _ in show.fixtures()]
        # All of the rig wide open over the whole deck, whatever it is: more beams reach a point than in any look.
        values = said_of({key: {"dimmer": 1.0, "zoom": 40.0} for key in fixtures[:100]})
        beams = rig.beams(values, *desk.optics.of(rig.table))
        grid = grid_of(Area("", (0.0, 3.75, 1.1), 11.0, 7.5, points=(100, 100)))
        caster = Caster(in_the_way(show, people=True))
        hiding = hiding_solids(show, "as they are")
        packed = caster.packed()
        first = pieces(grid.points, grid.normals)[0]
        found = {
            "fixtures": len(fixtures),
            "beams_lit": len(beams.lit()),
            "triangles": len(packed.met_owner) // 8,
            "map_100x100_s": median_s(lambda: illuminance(beams, grid.points, grid.normals, caster)),
            "map_100x100_no_shadows_s": median_s(lambda: illuminance(beams, grid.points, grid.normals, None)),
            "one_piece_elsewhere_s": median_s(lambda: piece(packed, beams, *first)),
            "caster_from_bytes_s": median_s(lambda: Caster.of(packed)),
            "seats": len(seats(show)),
            "rays_a_seat": SAMPLES,
            "sight_s": median_s(lambda: sight(show, (0.0, 2.0, 2.7), caster=hiding)),
            "sight_all_standing_s": median_s(lambda: sight(show, (0.0, 2.0, 2.7), people="standing")),
        }
        desk.close()
    print(json.dumps(found, indent=1))


if __name__ == "__main__":
    main()
