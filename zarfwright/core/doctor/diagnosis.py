"""All causes of the doctor, over what was seen and the show."""

from __future__ import annotations

from zarfwright.core.doctor.arriving import (
    no_link,
    no_packets,
    off_by_one,
    other_interface,
    port_taken,
    preview_only,
    unwanted_universe,
)
from zarfwright.core.doctor.dark import all_zero, dark_colour, dark_iris, dark_shutter, decoded, scaled
from zarfwright.core.doctor.driven import drivers_at_odds
from zarfwright.core.doctor.facts import Cause, Facts
from zarfwright.core.doctor.patching import fine_swapped, shared_slots
from zarfwright.core.doctor.rig import patched
from zarfwright.core.doctor.senders import (
    kernel_drops,
    priority_fight,
    slow,
    source_ended,
    source_flapping,
    sources_at_odds,
)
from zarfwright.core.doctor.shift import mode_shift
from zarfwright.core.doctor.truss import dark_truss
from zarfwright.core.show import Show

HEARD = (
    no_packets, port_taken, no_link, other_interface, off_by_one, unwanted_universe, preview_only, priority_fight,
    sources_at_odds, source_ended, source_flapping, slow, all_zero, scaled, fine_swapped, kernel_drops,
)  # fmt: skip
"""What is told of the facts and of the patch."""
INSIDE = (dark_shutter, dark_iris, dark_colour)
"""What is told of how the patch reads the levels."""


def diagnose(facts: Facts, show: Show) -> list[Cause]:
    """What is wrong, the worst first: what keeps everything away, then what keeps some of it dark."""
    rig = patched(show)
    found = [cause for look in HEARD for cause in look(facts, rig)]
    seen = decoded(facts, show)
    if seen is not None:
        inside = [cause for look_in in INSIDE for cause in look_in(seen, rig)]
        # Where no light leaves the lens it does not matter where that looks.
        kept_in = {key for cause in inside for key in cause.fixtures}
        found += inside + dark_truss(seen, [one for one in rig if one.id not in kept_in], show)
    # Swapped bytes look like slots that lie one further.
    swapped = {key for cause in found if cause.cause == "fine_swapped" for key in cause.fixtures}
    shifted = [cause for cause in mode_shift(facts, show, rig) if not set(cause.fixtures) <= swapped]
    return found + shifted + shared_slots(show, rig) + drivers_at_odds(show)
