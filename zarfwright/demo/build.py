"""What builds a show edit by edit, as a user would; and a first, small part of the demo show."""

from __future__ import annotations

import itertools
from pathlib import Path
from typing import Any

from zarfwright.core.aiming.solve import aim
from zarfwright.core.dmx.features import FEATURES
from zarfwright.core.dmx.rows import beam_keys
from zarfwright.core.edits import Around, Edit, prepare
from zarfwright.core.patch import compiled_show
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.show import Show
from zarfwright.core.types.chain import chains_of
from zarfwright.core.types.model import FixtureType
from zarfwright.formats.gdtf import read_gdtf, write_gdtf
from zarfwright.library import bittern, dunlin, heron, plover, teal
from zarfwright.store.showfile import ShowFile

WHO = "demo"


class Builder:
    """Does edits on a show file as a user would, one after another."""

    def __init__(self, path: Path) -> None:
        self.file = ShowFile(path)
        self.show = Show(self.file.items(), {})
        self._ids = (f"demo-{n:05d}" for n in itertools.count(1))

    def do(self, kind: str, **args: Any) -> Edit:
        """One edit, stored."""
        return self.do_with(None, kind, args)

    def do_with(self, around: Around | None, kind: str, args: dict[str, Any]) -> Edit:
        """One edit, stored, with what it needs of what is around."""
        ready = prepare(self.show, kind, args, around)
        edit = ready.on(self.show, lambda: next(self._ids))
        self.file.store_edit(WHO, kind, edit.sentence, edit.changes)
        self.show = ready.files_into(self.show).after(edit.changes)
        return edit

    def add_type(self, fixture_type: FixtureType) -> str:
        """Write a type as GDTF, read it back, and add what was read."""
        name = f"{fixture_type.maker}@{fixture_type.name}.gdtf"
        data = write_gdtf(fixture_type)
        read, _ = read_gdtf(data, name)
        asset = self.file.keep_asset(name, data)
        entry = self.do("add type", name=read.name, maker=read.maker, asset=asset).select[0]
        self.show = Show(self.show.items, {**self.show.types, entry: read})
        return entry


Values = dict[str, float]
Place = tuple[float, float, float]


def _additive(red: float, green: float, blue: float, white: float = 0.0) -> Values:
    return {"red": red, "green": green, "blue": blue, "white": white}


def _subtractive(cyan: float, magenta: float, yellow: float) -> Values:
    return {"cyan": cyan, "magenta": magenta, "yellow": yellow}


def _slack_water(kind: str, i: int, cell: int) -> tuple[Values, Place]:
    """Before the lamps are lit: moonlight on moving water, the sail a deep blue."""
    if kind == "Heron Standard":
        return {"dimmer": 0.5, "zoom": 15.0, **_subtractive(0.85, 0.45, 0.0)}, (-4.0 + 1.6 * i, 3.6, 1.1)
    if kind == "Heron Extended":
        water = {"gobo 2 slot": 3.0, "gobo 2 spin": 0.18 * (-1) ** i, "focus": 0.8}
        return {"dimmer": 0.55, "zoom": 30.0, **water, **_subtractive(0.7, 0.2, 0.0)}, (-3.5 + 1.4 * i, 1.5, 1.1)
    if kind == "Dunlin":
        return {"dimmer": 0.3, **_additive(0.0, 0.3, 1.0)}, (1.5, 2.5, 1.1)
    if kind == "Teal":
        return {"dimmer": 0.5, **_additive(0.0, 0.1 + 0.02 * cell, 0.9)}, (0, 0, 0)
    return {"dimmer": 0.0}, (0.0, 3.0, 1.1)


def _flood(kind: str, i: int, cell: int) -> tuple[Values, Place]:
    """The whole deck, warm against green; rays over the house; the sail from ember to sea."""
    if kind == "Heron Standard":
        warm = i % 2 == 0
        colour = _subtractive(0.0, 0.25, 0.8) if warm else _subtractive(0.8, 0.0, 0.25)
        return {"dimmer": 1.0, "zoom": 12.0, **colour}, (3.0 - 1.2 * i, 2.0 + (i % 2) * 2.5, 1.1)
    if kind == "Heron Extended":
        rays = {"gobo 2 slot": 2.0, "gobo 2 spin": 0.25} if i % 2 else {"gobo slot": 2.0}
        colour = _subtractive(0.75, 0.0, 0.35) if i % 2 else _subtractive(0.0, 0.35, 0.75)
        return {"dimmer": 1.0, "zoom": 22.0, **rays, **colour}, (-6.0 + 2.4 * i, -4.5, 0.0)
    if kind == "Plover":
        return {"dimmer": 0.8, "colour slot": 8.0}, (-9.0 + 6.0 * i, -9.0, 5.5)
    if kind == "Dunlin":
        return {"dimmer": 1.0, **_additive(1.0, 0.25, 0.1, 0.1)}, (-2.0 + i * 0.4, 4.0, 1.1)
    if kind == "Teal":
        share = abs(cell - 5.5) / 5.5
        return {"dimmer": 0.9, **_additive(1.0 - 0.8 * share, 0.35 + 0.25 * share, 0.05 + 0.5 * share)}, (0, 0, 0)
    return {"dimmer": 0.35}, (0.0, 3.0, 1.1)


def _ebb(kind: str, i: int, cell: int) -> tuple[Values, Place]:
    """One place, and the shingle."""
    if kind == "Heron Standard":
        return {"dimmer": 0.4, "zoom": 10.0, "gobo slot": 4.0, **_subtractive(0.0, 0.45, 0.9)}, (0.0, 2.2, 2.7)
    if kind == "Heron Extended":
        cut = {f"blade {n}": 0.62 for n in (1, 2, 3, 4)} if i in (2, 3) else {}
        level = 0.5 if i in (2, 3) else 0.0
        return {"dimmer": level, "zoom": 16.0, **cut, **_subtractive(0.1, 0.2, 0.5)}, (-1.5 + (i - 2) * 3.0, 2.2, 1.1)
    if kind == "Dunlin":
        return {"dimmer": 0.4, **_additive(1.0, 0.42, 0.05)}, (0.0, 5.5, 1.1)
    if kind == "Teal":
        return {"dimmer": 0.25, **_additive(1.0, 0.2, 0.02)}, (0, 0, 0)
    return {"dimmer": 0.12 if kind == "Bittern" else 0.0}, (0.0, 3.0, 1.1)


SCENES = {"Slack Water": _slack_water, "Flood": _flood, "Ebb": _ebb}


def _look_values(show: Show, scene: str) -> dict[str, Values]:
    """The values of one of the three scenes, by fixture or cell: heads aimed at places, levels and colours by type."""
    rig = compiled_show(show).rig
    names = [feature.name for feature in FEATURES]
    home = [dict(zip(names, line.tolist(), strict=True)) for line in rig.home]
    values = dict(zip(rig.keys, home, strict=True))
    counted: dict[str, int] = {}
    for item, fixture in show.fixtures():
        fixture_type = show.types[fixture.type]
        kind = f"Heron {fixture.mode}" if fixture_type.name == "Heron" else fixture_type.name
        i = counted.get(kind, 0)
        counted[kind] = i + 1
        chains = chains_of(fixture_type, fixture.mode)
        for cell, key in enumerate(beam_keys(item.id, len(chains))):
            said, place = SCENES[scene](kind, i, cell)
            values[key] |= said
            if chains[cell].moves:
                aimed = aim([chains[cell]], [clamp_placement(show, fixture)], place, [[0.0, 0.0]])
                values[key] |= {"pan": round(float(aimed.pan[0]), 6), "tilt": round(float(aimed.tilt[0]), 6)}
    return values


def build_first_part(path: Path) -> None:
    """Make a small show of the same venue, quick to draw: what most tests and examples use. It holds three faults."""
    build = Builder(path)
    build.do(
        "set show",
        name="The Lamplighter's Tide",
        venue="Halyard Shed",
        system="metric",
        work_light_lx=6.0,
        exposure_ev=7.5,
        haze_per_m=0.004,
    )
    build.do("add venue", name="Halyard Shed", width="21m", upstage="14m", downstage="48m", eave="7.2m", ridge="11.5m")
    build.do("add deck", name="Main deck", width="11m", depth="7.5m", height="1.1m", x="0", y="US 3.75")
    across = build.do("add truss", name="Truss 1", length="16m", start_trim="7.4m", x="0", y="US 1.5").select[0]
    raked = build.do(
        "add truss",
        name="Raked truss SL",
        length="12m",
        start_trim="8.2m",
        end_trim="6.1m",
        x="SL 7",
        y="DS 1",
        turn="-90",
    ).select[0]
    for block, x in (("Stalls SR", "SR 3.4"), ("Stalls SL", "SL 3.4")):
        build.do(
            "add figures", name=block, pose="sitting", rows="4", columns="5", pitch="0.6m", depth="1m", x=x,
            y="DS 3.2", height_spread="7cm",
        )  # fmt: skip
    for block, x in (("Rear stalls SR", "SR 4.2"), ("Rear stalls SL", "SL 4.2")):
        build.do(
            "add figures", name=block, pose="sitting", rows="4", columns="7", pitch="0.6m", depth="1m", x=x,
            y="DS 8.4", height_spread="7cm",
        )  # fmt: skip
    build.do(
        "add deck",
        name="Sail cloth",
        width="9m",
        depth="6cm",
        height="4.6m",
        x="0",
        y="US 7.3",
        z="1.1m",
        finish="cloth",
    )
    build.do(
        "add deck", name="Riser", width="6m", depth="1.2m", height="0.4m", x="0", y="US 6.1", z="1.1m", finish="timber"
    )
    build.do(
        "add figures", name="Choir", rows="1", columns="8", pitch="0.7m", x="0", y="US 6.1", z="1.5m", turn="180",
        height_spread="8cm",
    )  # fmt: skip
    build.do("add figures", name="Storyteller", x="SL 0.6", y="US 2.2", z="1.1m", turn="170")
    behind = build.do("add truss", name="Truss 2", length="16m", start_trim="7.9m", x="0", y="US 5.6").select[0]
    profile, wash = build.add_type(heron()), build.add_type(dunlin())
    narrow, batten, fresnel = build.add_type(plover()), build.add_type(teal()), build.add_type(bittern())
    herons = build.do(
        "place along rail", structure=across, rail="lower right", type=profile, mode="Standard", count="6",
        ends="margin", margin="1.8m", first_number="61", purpose="Deck specials",
    ).select  # fmt: skip
    washes = build.do(
        "place along rail", structure=raked, rail="lower right", type=wash, mode="Standard", count="5",
        first_number="81", purpose="Deck wash",
    ).select  # fmt: skip
    build.do("address", ids=list(herons), start="1.001")
    build.do("address", ids=list(washes), start="1.201")
    specials = build.do(
        "place along rail", structure=behind, rail="lower right", type=profile, mode="Extended", count="6",
        ends="margin", margin="1.2m", first_number="71", purpose="Back light, patterns",
    ).select  # fmt: skip
    beams = build.do(
        "place along rail", structure=behind, rail="lower left", type=narrow, count="4", ends="margin", margin="2.5m",
        first_number="91", purpose="Over the house",
    ).select  # fmt: skip
    battens = build.do(
        "place along rail", structure=behind, rail="lower left", type=batten, count="3", ends="margin", margin="5m",
        about_rail_deg=27.0, first_number="31", purpose="Sail",
    ).select  # fmt: skip
    fronts = build.do(
        "place along rail", structure=across, rail="lower left", type=fresnel, count="4", ends="margin", margin="3m",
        about_rail_deg=38.0, first_number="21", purpose="Choir front",
    ).select  # fmt: skip
    build.do("address", ids=list(specials), start="2.001")
    build.do("address", ids=list(beams), start="2.301")
    build.do("address", ids=list(battens), start="3.001")
    build.do("add rack", name="Dimmers SR", count="12", start="3.401")
    build.do("plug", ids=list(fronts), dimmer="1", on_each="1", order="number")
    # The faults: one in mid-air, one number twice, one without an address.
    astray = build.do(
        "place free", type=wash, mode="Standard", position=(-6.5, 2.0, 5.2), number=86, purpose="Deck wash"
    ).select[0]
    build.do("address", ids=[astray], start="1.301")
    build.do("number", ids=[washes[3]], start="83")
    build.do("unpatch", ids=[washes[4]])
    build.do("add viewpoint", name="Operator's desk", eye=(0.0, -14.0, 1.6), target=(0.0, 3.0, 3.0))
    build.do("add viewpoint", name="House left, high", eye=(9.0, -11.0, 5.5), target=(-0.5, 2.5, 2.6))
    looks = [
        build.do("keep look", name=name, note=note, values=_look_values(build.show, name)).select[0]
        for name, note in (
            ("Slack Water", "Before the lamps are lit."),
            ("Flood", "The whole deck, warm against green."),
            ("Ebb", "One place, and the shingle."),
        )
    ]
    build.do("play look", id=looks[1])
    build.do("set show", look_first=False)
    build.file.forget_history()
    build.file.close()
