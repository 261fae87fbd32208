"""The trusses, booms and lamps of "The Lamplighter's Tide", edit by edit."""

from __future__ import annotations

from zarfwright.demo.build import Builder
from zarfwright.library import bittern, curlew, dunlin, grebe, heron, plover, stilt, teal, wader

Ids = tuple[str, ...]


def build_structures(build: Builder) -> dict[str, str]:
    """What the lamps hang on. Returns ids by name."""
    build.do("add layer", name="Rig")
    made = {
        "front": build.do(
            "add truss",
            name="Truss 1",
            length="16m",
            start_trim="7.4m",
            y="US 1.5",
            hoists="4",
            steel="8.9m",
            bridle="1m",
        ).select[0],
        "back": build.do(
            "add truss",
            name="Truss 2",
            length="16m",
            start_trim="7.9m",
            y="US 5.6",
            hoists="4",
            steel="8.9m",
            bridle="0.8m",
        ).select[0],
    }
    for side in ("SL", "SR"):
        made[f"raked {side}"] = build.do(
            "add truss",
            name=f"Raked truss {side}",
            length="12m",
            start_trim="8.2m",
            end_trim="6.1m",
            x=f"{side} 7",
            y="DS 6.5",
            turn="-90",
            hoists="3",
            steel="8.6m",
        ).select[0]
        made[f"gallery {side}"] = build.do(
            "add truss",
            name=f"Gallery pipe {side}",
            lattice="pipe",
            length="20m",
            start_trim="6.2m",
            x=f"{side} 8.2",
            y="DS 14",
            turn="-90",
        ).select[0]
        for depth, y in (("DS", "US 0.4"), ("US", "US 6.8")):
            made[f"boom {side} {depth}"] = build.do(
                "add truss",
                name=f"Boom {side} {depth}",
                form="upright",
                lattice="pipe",
                length="4.2m",
                start_trim="0",
                x=f"{side} 6.6",
                y=y,
                arms="3",
                arm="1.2m",
                arm_pitch="1m",
            ).select[0]
    made["lantern"] = build.do(
        "add truss",
        name="Lantern",
        form="arc",
        diameter="5m",
        section="0.3m",
        start_trim="6.2m",
        y="DS 3.5",
        hoists="3",
        steel="9.8m",
    ).select[0]
    return made


def build_types(build: Builder) -> dict[str, str]:
    """The nine types, read from the GDTF files that they are written to. Returns ids by name."""
    makers = (heron, dunlin, plover, teal, wader, bittern, curlew, stilt, grebe)
    return {make.__name__: build.add_type(make()) for make in makers}


def _rail(build: Builder, structure: str, rail: str, type_id: str, count: int, number: int, **more: str | float) -> Ids:
    return build.do(
        "place along rail",
        structure=structure,
        rail=rail,
        type=type_id,
        count=str(count),
        first_number=str(number),
        **more,
    ).select


def build_rig(build: Builder, on: dict[str, str], types: dict[str, str]) -> dict[str, Ids]:
    """96 fixtures, hung as a user hangs them. Returns ids by group."""
    rig: dict[str, Ids] = {}
    rig["specials"] = _rail(
        build,
        on["front"],
        "lower right",
        types["heron"],
        8,
        61,
        mode="Standard",
        ends="margin",
        margin="1m",
        purpose="Deck specials",
    )
    rig["choir"] = _rail(
        build,
        on["front"],
        "lower left",
        types["bittern"],
        6,
        21,
        ends="margin",
        margin="2.6m",
        purpose="Choir front",
    )
    rig["patterns"] = _rail(
        build,
        on["back"],
        "lower right",
        types["heron"],
        8,
        71,
        mode="Extended",
        ends="margin",
        margin="1m",
        purpose="Back light, patterns",
    )
    rig["rays"] = _rail(
        build, on["back"], "lower left", types["plover"], 7, 91, ends="margin", margin="2m", purpose="Over the house"
    )
    rig["sail"] = _rail(
        build,
        on["back"],
        "upper left",
        types["teal"],
        7,
        31,
        ends="margin",
        margin="2m",
        side="left",
        about_rail_deg=-52.0,
        purpose="Sail",
    )
    wash = [
        _rail(
            build,
            on[f"raked {side}"],
            "lower right" if side == "SL" else "lower left",
            types["dunlin"],
            count,
            number,
            ends="margin",
            margin="1.2m",
            purpose="Tongue and deck wash",
        )
        for side, count, number in (("SL", 5, 81), ("SR", 4, 86))
    ]
    rig["wash"] = wash[0] + wash[1]
    rig["lantern wash"] = _rail(
        build, on["lantern"], "lower inner", types["dunlin"], 6, 101, ends="on", purpose="Lantern"
    )
    rig["lantern rays"] = _rail(
        build, on["lantern"], "lower outer", types["plover"], 6, 111, ends="half a step in", purpose="Lantern rays"
    )
    cross: Ids = ()
    mirrors: Ids = ()
    booms = [f"boom {side} {depth}" for side in ("SR", "SL") for depth in ("DS", "US")]
    for k, boom in enumerate(booms):
        cross += _rail(
            build,
            on[boom],
            "arm 1",
            types["curlew"],
            2,
            41 + 2 * k,
            ends="on",
            purpose="Cross light",
        )
        mirrors += build.do(
            "place one",
            type=types["wader"],
            structure=on[boom],
            rail="arm 3",
            along_m=0.1,
            number=str(51 + k),
            purpose="Mirrors on the water",
        ).select
    rig["cross"], rig["mirrors"] = cross, mirrors
    # They lie with their light towards the deck: there their mirrors reach all of it.
    for side, turn in (("SR", "=90"), ("SL", "=-90")):
        ids = [key for key, boom in zip(mirrors, booms, strict=True) if side in boom]
        build.do("set field", ids=ids, field="spin", text=turn)
    # Gels as for dusk by the water: cold from one side, warm from the other, of each two booms.
    build.do("set field", ids=list(cross[:4]), field="gel", text="pale steel")
    build.do("set field", ids=list(cross[4:]), field="gel", text="Lantern glass 0.430 0.400 66")
    fronts = [
        _rail(
            build,
            on[f"gallery {side}"],
            "pipe",
            types["curlew"],
            6,
            number,
            ends="margin",
            margin="1m",
            purpose="Front light",
        )
        for side, number in (("SL", 141), ("SR", 147))
    ]
    rig["fronts"] = fronts[0] + fronts[1]
    build.do("set field", ids=list(fronts[0]), field="gel", text="pale straw")
    build.do("set field", ids=list(fronts[1]), field="gel", text="pale rose")
    rig["footlights"] = tuple(
        build.do(
            "place one",
            type=types["plover"],
            position=(-4.8 + 1.6 * i, 7.2, 1.1),
            number=str(121 + i),
            purpose="From the back edge",
        ).select[0]
        for i in range(7)
        if i != 3
    )
    # Between the lamps below them, so that the plan shows both.
    rig["lasers"] = tuple(
        build.do(
            "place one",
            type=types["stilt"],
            structure=on["back"],
            rail="upper right",
            along_m=along,
            side="upper",
            number=str(211 + i),
            purpose="Over the house",
        ).select[0]
        for i, along in enumerate((2.0, 4.0, 6.0, 10.0, 12.0, 14.0))
    )
    rig["haze"] = tuple(
        build.do("place one", type=types["grebe"], position=(x, 9.8, 0.0), number=str(201 + i), purpose="Haze").select[
            0
        ]
        for i, x in enumerate((-8.0, 8.0))
    )
    return rig


def build_patch(build: Builder, rig: dict[str, Ids]) -> None:
    """Addresses on six universes; circuits and dimmers for what has no electronics of its own, the small lamps across
    in pairs."""
    starts = {
        "specials": "1.001",
        "mirrors": "1.201",
        "haze": "6.401",
        "patterns": "2.001",
        "lasers": "6.001",
        "rays": "3.001",
        "lantern rays": "3.101",
        "footlights": "3.201",
        "wash": "4.001",
        "lantern wash": "4.121",
        "sail": "5.001",
    }
    for group, start in starts.items():
        build.do("address", ids=list(rig[group]), start=start)
    build.do("add rack", name="Dimmers SR", first="1", count="24", carries="2.3 kW", start="1.301")
    build.do("add rack", name="Dimmers SL", first="25", count="24", carries="2.3 kW", start="1.325")
    build.do("rate dimmers", dimmers="21-24", carries="5 kW")
    build.do("rate dimmers", dimmers="48", switched=True)
    for group, start, on_each in (("choir", "1", "1"), ("cross", "11", "2"), ("fronts", "25", "1")):
        ids = list(rig[group])
        build.do("number", ids=ids, start=f"D{start}", what="circuit", order="number", share=on_each)
        build.do("plug", ids=ids, dimmer=start, on_each=on_each, order="number")
