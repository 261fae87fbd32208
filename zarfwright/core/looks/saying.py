"""What a look says and what it leaves alone, group by group in words; and which palettes and points it hangs on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zarfwright.core.aiming.colour import xy_of_rgb
from zarfwright.core.carriers.words import moved
from zarfwright.core.dmx.features import INDEX
from zarfwright.core.drive import value_rows
from zarfwright.core.looks.differences import colour_word, spanned
from zarfwright.core.looks.groups import groups_of
from zarfwright.core.looks.linked import sort_of_link
from zarfwright.core.looks.look import Look
from zarfwright.core.looks.said import Said
from zarfwright.core.looks.shown import layers_of
from zarfwright.core.looks.sorts import LIT, SORT_OF_COLUMN, SORTS, Sort
from zarfwright.core.patch import compiled_show
from zarfwright.core.playback.score import brightness_of
from zarfwright.core.show import Show
from zarfwright.core.space import Floats


@dataclass(frozen=True)
class GroupSaid:
    """What is said of a group of fixtures, and which sorts of what they do are left alone."""

    name: str
    fixtures: tuple[str, ...]
    lit: int
    text: str
    leaves: tuple[Sort, ...]


@dataclass(frozen=True)
class LinkSaid:
    """A palette or a focus point that fixtures of a look hang on."""

    id: str
    name: str
    sort: Sort
    fixtures: int


def saying(show: Show, said: Said) -> list[GroupSaid]:
    """Group by group; groups of which nothing is said come last, with all sorts left alone."""
    made = compiled_show(show)
    rows = value_rows(made.rig, said)
    whole = np.where(np.isnan(rows), made.rig.home, rows)
    level, light = brightness_of(whole), np.asarray(made.beams.colour(whole), dtype=float)
    of: dict[str, list[int]] = {}
    for row, fixture in enumerate(made.rig.fixtures):
        of.setdefault(fixture, []).append(row)
    says = ~np.isnan(rows)
    sorts = np.stack([says[:, i == SORT_OF_COLUMN].any(axis=1) for i in range(len(SORTS))], axis=1)
    found = []
    for group in groups_of(show):
        own = [row for key in group.ids for row in of.get(key, ())]
        told: list[bool] = np.asarray(sorts[own].any(axis=0)).tolist()
        leaves = tuple(sort for sort, is_told in zip(SORTS, told, strict=True) if not is_told)
        lit = [key for key in group.ids if any(level[row] > LIT and told[0] for row in of.get(key, ()))]
        bright = [row for row in own if level[row] > LIT]
        text = "dark" if told[0] else ""
        if group.what == "drivers":
            text = "; ".join(moved(whole[row]) for row in own if told[SORTS.index("position")])
        elif lit:
            of_all = "all" if len(lit) == len(group.ids) else f"{len(lit)} of {len(group.ids)}"
            text = f"{of_all} at {spanned(level[bright] * 100)} %, {_colours(light[bright])}"
        if group.what == "lasers":
            text = ", ".join(part for part in (text, zones_said(whole[own])) if part)
        found.append(GroupSaid(group.called(show, group.ids), group.ids, len(lit), text, leaves))
    return sorted(found, key=lambda one: len(one.leaves) == len(SORTS))


def zones_said(rows: Floats) -> str:
    """What the zones of lasers are told (n, COUNT), where that is anything: how many are off, how many turned over."""
    off = int(np.count_nonzero(rows[:, INDEX["zone"]] < 0.5))
    over = int(np.count_nonzero(np.rint(rows[:, INDEX["zone mirror"]]) % 4 > 0))
    said = [(off, "off"), (over, "turned over")]
    return ", ".join(f"{'1 zone' if n == 1 else f'{n} zones'} {how}" for n, how in said if n)


def _colours(light: np.ndarray[tuple[int, ...], np.dtype[np.float64]]) -> str:
    words = dict.fromkeys(colour_word(xy_of_rgb(one)) for one in light if float(np.abs(one).sum()) > 1e-9)
    named = [*words]
    return named[0] if len(named) == 1 else f"{named[0]} and {named[1]}" if len(named) == 2 else "of several colours"


def links_said(show: Show, look_id: str) -> list[LinkSaid]:
    """The palettes and focus points that a look, or what it is made of, hangs on."""
    users: dict[str, set[str]] = {}
    for look in layers_of(show, look_id):
        for link, fixtures in look.links.items():
            users.setdefault(link, set()).update(fixtures)
    return [
        LinkSaid(link, show.items[link].name, sort, len(fixtures))
        for link, fixtures in users.items()
        if (sort := sort_of_link(show, link)) is not None
    ]


def looks_with(show: Show, link: str) -> list[tuple[str, Look]]:
    """The looks that hang on a palette or a focus point, by their numbers."""
    found = [(item.id, look) for item, look in show.bodies(Look) if link in look.links]
    return sorted(found, key=lambda one: one[1].number)
