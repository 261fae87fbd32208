"""What of the line to consoles is still to be put right."""

from __future__ import annotations

from zarfwright.core.findings import Finding
from zarfwright.core.linking.checks import LineCheck
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show


def line_findings(show: Show) -> list[Finding]:
    """Who did not answer when the line was checked, until it does."""
    found = []
    for _, check in show.bodies(LineCheck):
        for key, why in check.failed.items():
            item = show.items.get(key)
            if item is not None and isinstance(item.body, Fixture):
                text = f"{item.name.capitalize()} did not answer the line check: {why} Check it again once it does."
                found.append(Finding("signal", (key,), text, wrong=True, code="line_check_failed"))
    return found
