"""The focus of "The Lamplighter's Tide": twelve focus points, lamps focused by hand, two heads that follow."""

from __future__ import annotations

from collections.abc import Mapping

from zarfwright.demo.build import Builder

POINTS: dict[str, tuple[float, float, float]] = {
    "Choir SR": (-2.3, 5.5, 2.8),
    "Choir centre": (0.0, 5.5, 2.8),
    "Choir SL": (2.3, 5.5, 2.8),
    "Brass": (4.2, 3.5, 2.6),
    "Harmonium": (-4.0, 4.4, 2.5),
    "Deck SR": (-3.0, 2.0, 2.7),
    "Deck centre": (0.0, 2.2, 2.7),
    "Deck SL": (2.8, 1.6, 2.7),
    "Tongue": (0.0, -2.0, 2.7),
    "End of the tongue": (0.0, -6.2, 2.7),
    "Storyteller": (-0.4, -3.2, 2.65),
    "Bridge": (0.0, 8.6, 2.85),
}
WALK = [(-0.4, -6.2, 1.1), (-0.5, -3.2, 1.1), (0.3, -0.6, 1.1), (1.6, 1.4, 1.1)]
"""The storyteller comes up the tongue and on to the deck."""
AIMED = (
    ("choir", ("Choir SR", "Choir SR", "Choir centre", "Choir centre", "Choir SL", "Choir SL")),
    ("fronts", ("Deck SL", "Deck centre", "Deck SR", "Deck SL", "Deck centre", "Deck SL",
                "Deck SL", "Deck centre", "Deck SR", "Deck SL", "Deck centre", "Deck SR")),
    ("cross", ("Deck SR", "Deck centre", "Bridge", "Choir centre", "Deck SL", "Deck centre", "Choir centre", "Bridge")),
)  # fmt: skip
"""Which point each lamp of a group is focused on, in the order in which they hang."""


COLOURS = {"Sea": (0.18, 0.14), "Moon": (0.25, 0.26), "Ember": (0.56, 0.39), "Lamp": (0.46, 0.41), "Rose": (0.42, 0.22)}
BEAMS = {"Tight": {"zoom": 9.0, "iris": 0.8}, "Open and soft": {"zoom": 36.0, "frost": 0.6}}


def _palettes(build: Builder, rig: Mapping[str, tuple[str, ...]], points: Mapping[str, str]) -> None:
    """A few palettes, each kept from a lamp that shows it and let go again."""
    wash, head = rig["wash"][0], rig["patterns"][0]
    for name in ("Deck centre", "End of the tongue", "Choir centre"):
        build.do("aim at", ids=[head], focus=points[name])
        build.do("keep palette", ids=[head], sort="position", name=name)
    for name, (x, y) in COLOURS.items():
        build.do("set colour", ids=[wash], x=x, y=y)
        build.do("keep palette", ids=[wash], sort="colour", name=name)
    for name, values in BEAMS.items():
        build.do("release", ids=[head])
        build.do("hold values", ids=[head], values=values)
        build.do("keep palette", ids=[head], sort="beam", name=name)
    build.do("release", ids=[wash])
    build.do("release", ids=[head])


def build_focus(build: Builder, rig: Mapping[str, tuple[str, ...]], people: Mapping[str, str]) -> dict[str, str]:
    """Name the points, focus what is turned by hand, and let two heads follow the storyteller. Returns the points' ids
    by name."""
    points = {}
    for number, (name, place) in enumerate(POINTS.items(), start=1):
        rides = people.get(name)
        made = build.do("add focus point", name=name, number=str(number), point=place, rides=rides)
        points[name] = made.select[0]
    for group, names in AIMED:
        for lamp, name in zip(rig[group], names, strict=True):
            build.do("aim at", ids=[lamp], focus=points[name])
    # From so far away a narrow tube does, and leaves the side seats in the dark.
    build.do("set field", ids=list(rig["fronts"]), field="lens", text="14")
    # Hard edges on the deck; doors that keep the choir's light off the roof and the first rows; smaller lamps across.
    build.do("sharp at", ids=list(rig["fronts"]), point=POINTS["Deck centre"])
    build.do("hold values", ids=list(rig["choir"]), values={"blade 1": 0.55, "blade 3": 0.35})
    build.do("set field", ids=list(rig["cross"]), field="lamp", text="650 W 3200 K")
    build.do("set path", id=people["Storyteller"], path=WALK)
    build.do("walk", id=people["Storyteller"], share=0.46)
    _palettes(build, rig, points)
    build.do("aim at", ids=[rig["specials"][3], rig["specials"][4]], focus=points["Storyteller"])
    return points
