"""What fits between this program and a station, and what does not: said before anything is sent."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

VERSION = (1, 6)
"""Of MVR, as this program writes it."""
FEATURES: Mapping[str, int] = {"answers": 1, "values": 1, "selection": 1, "palettes": 1}
"""What this program can do beyond the standard, and the version of each (docs/xchange.md)."""
Action = Literal["offer", "compare", "answers", "values", "selection", "palettes"]


@dataclass(frozen=True)
class Met:
    """A station as it introduced itself."""

    name: str
    key: str
    """Its UUID."""
    provider: str = ""
    version: tuple[int, int] = VERSION
    features: Mapping[str, int] = field(default_factory=dict)


@dataclass(frozen=True)
class Misfit:
    """Something that does not fit, what still works, and what is stopped by it."""

    what: str
    still: str
    stops: tuple[Action, ...] = ()


WITHOUT: tuple[tuple[Action, str, str], ...] = (
    ("answers", "does not answer line by line", "Offer it the rig, then Compare rig shows what has arrived."),
    ("values", "takes no values", "What is aimed here is set on the console by hand."),
    ("selection", "does not say what is selected on it", "The link is one way there: nothing is outlined."),
    ("palettes", "does not tell its palettes", "Palettes are made here by hand."),
)


def misfits(met: Met) -> tuple[Misfit, ...]:
    """What does not fit with a station, the worst first."""
    ours, theirs = ("{}.{}".format(*version) for version in (VERSION, met.version))
    found = []
    if met.version[0] != VERSION[0]:
        what = f"{met.name} speaks MVR {theirs}, this program {ours}: no rig can be given or fetched."
        still = "Levels by sACN and Art-Net still come, and a patch list as CSV can be compared in Patch."
        found.append(Misfit(what, still, ("offer", "compare", "answers")))
    elif met.version[1] > VERSION[1]:
        what = f"{met.name} speaks MVR {theirs}, newer than {ours} here."
        found.append(Misfit(what, "Rigs go both ways; what is new in its files is left out, and said."))
    elif met.version[1] < VERSION[1]:
        what = f"{met.name} speaks MVR {theirs}, older than {ours} here."
        found.append(Misfit(what, "Rigs go both ways; what came later may be left out there: Compare rig shows it."))
    for feature, lacks, still in WITHOUT:
        theirs_is = met.features.get(feature, 0)
        if met.version[0] != VERSION[0] and feature == "answers":
            continue
        if theirs_is == 0:
            found.append(Misfit(f"{met.name} {lacks}.", still, (feature,)))
        elif theirs_is != FEATURES[feature]:
            what = f"{met.name} has “{feature}” in version {theirs_is}, this program in {FEATURES[feature]}."
            found.append(Misfit(what, still, (feature,)))
    return tuple(found)


def stopped(met: Met, action: Action) -> Misfit | None:
    """What stops an action with a station; None: nothing does."""
    return next((one for one in misfits(met) if action in one.stops), None)
