"""Halyard Shed, the set of "The Lamplighter's Tide" and its people, edit by edit."""

from __future__ import annotations

from zarfwright.demo.build import Builder

# The outline of a wave across the stage, across and up (m), and how each edge bulges.
WAVE = [
    [-4.7, 1.1, 0],
    [4.7, 1.1, 0],
    [4.7, 2.5, 0.25],
    [2.3, 3.7, -0.3],
    [0.1, 3.0, 0.3],
    [-2.2, 4.1, -0.3],
    [-4.7, 2.6, 0],
]


def build_venue(build: Builder) -> None:
    """The shed, 62 m by 21 m, its galleries and the columns that carry them."""
    build.do("add layer", name="Venue")
    build.do("add venue", name="Halyard Shed", width="21m", upstage="14m", downstage="48m", eave="7.2m", ridge="11.5m")
    for side in ("SR", "SL"):
        at = f"{side} 9.45"
        build.do(
            "add deck",
            name=f"Gallery {side}",
            width="2.1m",
            depth="46m",
            height="0.25m",
            x=at,
            y="DS 12",
            z="3.95m",
            finish="timber",
        )
        sign = "-" if side == "SR" else ""
        rail = [[float(f"{sign}8.45"), -35.0, 0.0], [float(f"{sign}8.45"), 11.0, 0.0]]
        build.do("add wall", name=f"Gallery rail {side}", corners=rail, height="1m", thickness="5cm", z="4.2m")
        first = build.do(
            "add piece",
            piece="column",
            name=f"Column {side}",
            width="22cm",
            height="3.95m",
            x=f"{side} 8.55",
            y="DS 34",
            finish="timber",
        )
        build.do("repeat", ids=list(first.select), columns="1", rows="8", back="6m")

    # What the points go up to: collar beams of the roof, where its slopes are that far apart.
    for y, z, width in (
        ("US 1.5", "8.9m", "12.6m"),
        ("US 5.6", "8.9m", "12.6m"),
        ("DS 1", "9.8m", "8.2m"),
        ("DS 4.75", "9.8m", "8.2m"),
    ):
        build.do("add deck", name="Collar beam", width=width, depth="0.25m", height="0.3m", y=y, z=z, finish="timber")


def build_set(build: Builder) -> dict[str, str]:
    """The deck and its tongue, the choir's risers, the bridge and the sail. Returns the carriers' ids by name."""
    build.do("add layer", name="Set")
    build.do("add deck", name="Main deck", width="11m", depth="7.5m", height="1.1m", y="US 3.75", finish="black")
    build.do("add deck", name="Tongue", width="3m", depth="7m", height="1.1m", y="DS 3.5")
    for k in range(3):
        build.do(
            "add outline deck",
            name=f"Choir riser {k + 1}",
            made="riser",
            width="6.6m",
            depth="0.9m",
            height=f"{0.2 * (k + 1):.1f}m",
            y=f"US {4.6 + 0.9 * k:.2f}",
            z="1.1m",
            finish="timber",
        )
    build.do(
        "add outline deck",
        name="Steps to the tongue",
        made="steps",
        width="1.6m",
        # A hair over the end of the tongue, so that nothing of its edge shows between the two from the house.
        depth="1.22m",
        height="1.101m",
        count="6",
        y="DS 7.59",
    )
    bridge = build.do(
        "add deck", name="Bridge deck", width="6m", depth="1.2m", height="0.2m", y="US 8.6", z="1m", finish="timber"
    ).select[0]
    rails = [
        build.do(
            "add piece",
            piece="balustrade",
            name=f"Bridge rail {side}",
            width="5.8m",
            height="0.9m",
            y=f"US {y}",
            z="1.2m",
            finish="timber",
        ).select[0]
        for side, y in (("DS", 8.1), ("US", 9.1))
    ]
    sail = build.do(
        "add panel",
        name="Sail",
        corners=[[-4.6, 1.6, 0], [4.6, 1.6, 0], [3.2, 7.1, -0.12], [-3.2, 7.1, 0]],
        at="US 10.6",
        thickness="2cm",
        finish="cloth",
    ).select[0]
    # Hidden while it is lit from the front with the choir, gone when what is behind it is.
    build.do(
        "add panel",
        name="Wave",
        corners=WAVE,
        at="US 7.5",
        thickness="1cm",
        finish="gauze",
    )
    carriers = {
        "bridge": build.do(
            "make carrier", ids=[bridge, *rails], name="Bridge", number="302", pivot=[0, 8.6, 1.2]
        ).select[0],
        "sail": build.do("make carrier", ids=[sail], name="Sail", number="303", pivot=[0, 10.6, 7.1]).select[0],
    }
    build.do(
        "add piece",
        piece="piano",
        name="Harmonium",
        width="1.3m",
        depth="0.7m",
        height="0.95m",
        x="SR 4.3",
        y="US 5",
        z="1.1m",
        finish="timber",
        turn="25",
    )
    return carriers


def build_people(build: Builder) -> dict[str, str]:
    """Who plays, and an audience of 240 in rows, 180 standing and 60 on the galleries. Returns who walks, by name."""
    build.do("add layer", name="Audience")
    for k in range(3):
        build.do(
            "add figures",
            name=f"Choir {k + 1}",
            rows="1",
            columns="8",
            pitch="0.75m",
            y=f"US {4.6 + 0.9 * k:.2f}",
            z=f"{1.1 + 0.2 * (k + 1):.1f}m",
            turn="180",
            height_spread="8cm",
        )
    build.do(
        "add figures",
        name="Brass",
        pose="playing",
        rows="2",
        columns="3",
        pitch="0.9m",
        depth="1.1m",
        x="SL 4.2",
        y="US 3",
        z="1.1m",
        turn="160",
        height_spread="6cm",
    )
    teller = build.do("add figures", name="Storyteller", x="SR 0.4", y="DS 3.2", z="1.1m", turn="170").select[0]
    for side, sign in (("SR", -1), ("SL", 1)):
        # Three sides of the tongue, aisles along the deck, the tongue and through the middle.
        block = [[sign * x, y, 0.0] for x, y in ((2.3, -0.7), (8.2, -0.7), (8.2, -8.3), (2.3, -8.3))]
        build.do(
            "add crowd",
            name=f"House {side}",
            corners=block,
            seating="rows",
            count="64",
            row="0.82m",
            pitch="0.52m",
            seed=str(11 + sign),
            target=(0.0, -3.5),
            aisles=[(sign * 1.0, -4.4, sign * 9.0, -4.4, 0.9)],
        )
    front = [[-7.6, -9.0, 0.0], [7.6, -9.0, 0.0], [7.6, -16.6, 0.0], [-7.6, -16.6, 0.0]]
    build.do(
        "add crowd",
        name="House front",
        corners=front,
        seating="rows",
        count="112",
        row="0.95m",
        stagger=True,
        centre_aisle="1.4m",
        target=(0.0, -2.0),
        seed="7",
    )
    back = [[-7.8, -18.4, 0.0], [7.8, -18.4, 0.0], [7.8, -30.5, 0.0], [-7.8, -30.5, 0.0]]
    build.do(
        "add crowd",
        name="Standing at the back",
        corners=back,
        seating="standing",
        count="180",
        raised_share="6",
        target=(0.0, 0.0),
        seed="3",
    )
    for side, sign in (("SR", -1), ("SL", 1)):
        strip = [[sign * x, y, 0.0] for x, y in ((8.6, -3.0), (9.7, -3.0), (9.7, -24.0), (8.6, -24.0))]
        build.do(
            "add crowd",
            name=f"Gallery people {side}",
            corners=strip,
            seating="standing",
            count="30",
            z="4.2m",
            target=(0.0, 0.0),
            seed=str(20 + sign),
        )
    return {"Storyteller": teller}
