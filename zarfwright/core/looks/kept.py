"""What of a picture a look keeps: of whom, which sorts of it, and which palettes and points it came of."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from zarfwright.core.aiming.coloured import driven
from zarfwright.core.dmx.features import COUNT, INDEX
from zarfwright.core.dmx.rows import fixture_of
from zarfwright.core.looks.linked import sort_of_link
from zarfwright.core.looks.look import Look
from zarfwright.core.looks.said import NOTHING, Said, Table, Values, packed, said_of, table_of
from zarfwright.core.looks.sorts import SORT_OF, SORT_OF_COLUMN, SORTS, Sort, among
from zarfwright.core.patch import compiled_show
from zarfwright.core.rig.held import rows_held
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.space import ORIGIN, Vec

SAME = 2e-6
"""What differs by no more is the same: looks are kept to a millionth."""


@dataclass(frozen=True)
class Links:
    """What fixtures have of palettes and focus points, by the id of those, and how far beside a point they look."""

    fixtures: dict[str, tuple[str, ...]]
    offsets: dict[str, Vec]


def of_some(said: Said, ids: Collection[str], sorts: Sequence[Sort]) -> Said:
    """What is said of some fixtures, and of some sorts; none named: of all."""
    if not ids and not sorts:
        return said
    table = said.table
    rows = _of_fixtures(table, ids)
    some = table.of_rows(rows)
    columns = among([*sorts])[some.features]
    kept = Table(some.keys, some.features[columns], some.values[:, columns])
    return packed(_without_empty(kept)) if sorts else packed(kept)


def sorts_said(said: Said) -> list[Sort]:
    """The sorts of which anything is said."""
    return [SORTS[i] for i in np.unique(SORT_OF_COLUMN[said.table.features]).tolist()]


def without(said: Said, ids: Collection[str], sorts: Sequence[Sort]) -> Said:
    """What is left when what is said of some fixtures, and of some sorts, is taken out; none named: of all."""
    table = said.table
    rows = _of_fixtures(table, ids)
    columns = among([*sorts])[table.features]
    if not rows.any() or not columns.any() or np.isnan(table.values[np.ix_(rows, columns)]).all():
        return said
    values = table.values.copy()
    values[np.ix_(rows, columns)] = np.nan
    return packed(_without_empty(Table(table.keys, table.features, values)))


def _of_fixtures(table: Table, ids: Collection[str]) -> NDArray[np.bool_]:
    """(n,) which rows are of some fixtures; none named: all."""
    rows: NDArray[np.bool_] = np.array([not ids or fixture_of(key) in ids for key in table.keys], dtype=bool)
    return rows


def _without_empty(table: Table) -> Table:
    """Without rows and features of which nothing is said."""
    said = ~np.isnan(table.values)
    rows: NDArray[np.bool_] = np.asarray(said.any(axis=1))
    columns = said.any(axis=0)
    some = table.of_rows(rows)
    return Table(some.keys, some.features[columns], some.values[:, columns])


def seen(show: Show, shown: Values) -> Said:
    """What a picture says of each fixture: all that its mode's channels do, and what is unlike home besides. Later
    changes of home do not move it."""
    table = said_of(shown).table
    rig = compiled_show(show).rig
    home = dict(zip(rig.keys, rig.home, strict=True))
    known: NDArray[np.bool_] = np.array([key in home for key in table.keys], dtype=bool)
    table = table.of_rows(known)
    if not table.keys:
        return NOTHING
    whole = table.whole()
    at_home = np.array([home[key] for key in table.keys], dtype=np.float32)
    with np.errstate(invalid="ignore"):
        unlike = np.abs(whole - at_home) > SAME
    whole[~(unlike | _driven(show, table.keys))] = np.nan
    return packed(table_of(table.keys, whole))


def _driven(show: Show, keys: Sequence[str]) -> NDArray[np.bool_]:
    """(n, COUNT) which features are driven by the channels of each row's fixture."""
    masks: dict[tuple[str, str], NDArray[np.bool_]] = {}
    rows = np.zeros((len(keys), COUNT), dtype=bool)
    for row, key in enumerate(keys):
        fixture = show.items[fixture_of(key)].body
        assert isinstance(fixture, Fixture)
        kind = (fixture.type, fixture.mode)
        if kind not in masks:
            mask = np.zeros(COUNT, dtype=bool)
            mask[[INDEX[name] for name in driven(show.types[fixture.type], fixture.mode)]] = True
            masks[kind] = mask
        rows[row] = masks[kind]
    return rows


def held(show: Show) -> Said:
    """What is held by hand of all fixtures."""
    rows: dict[str, Mapping[str, float]] = {}
    for item, fixture in show.fixtures():
        rows |= rows_held(item.id, fixture)
    return said_of(rows)


def links_of_hands(show: Show, ids: Collection[str], sorts: Sequence[Sort]) -> Links:
    """The palettes and focus points that what is held by hand comes of; of some fixtures and sorts, or of all."""
    found: dict[str, list[str]] = {}
    offsets: dict[str, Vec] = {}
    for item, fixture in show.fixtures():
        if ids and item.id not in ids:
            continue
        holds = {SORT_OF[name] for name in fixture.hands}
        for sort in (one for one in SORTS if one in holds and (not sorts or one in sorts)):
            link = fixture.palettes.get(sort)
            if link is None and sort == "position" and fixture.aim is not None and fixture.aim.point is not None:
                link = fixture.aim.point
                if fixture.aim.offset != ORIGIN:
                    offsets[item.id] = fixture.aim.offset
            if link is not None and link in show.items:
                found.setdefault(link, []).append(item.id)
    return Links({link: tuple(fixtures) for link, fixtures in found.items()}, offsets)


def with_links(show: Show, look: Look, ids: Collection[str], sorts: Sequence[Sort], more: Links) -> Look:
    """A look whose links of some fixtures and sorts are these from now on; none named: of all."""
    kept: dict[str, tuple[str, ...]] = {}
    for link, fixtures in look.links.items():
        sort = sort_of_link(show, link)
        stays = tuple(one for one in fixtures if (ids and one not in ids) or (sorts and sort not in sorts))
        if stays and sort is not None:
            kept[link] = stays
    for link, fixtures in more.fixtures.items():
        kept[link] = tuple(dict.fromkeys((*kept.get(link, ()), *fixtures)))
    linked = {one for fixtures in kept.values() for one in fixtures}
    offsets = {one: by for one, by in {**look.offsets, **more.offsets}.items() if one in linked}
    return replace(look, links=kept, offsets=offsets)


def changed_rows(now: Said, shown: Said, by_hand: Said) -> Said:
    """What of a picture is unlike what a look says; of what it says nothing of, only what is held by hand."""
    table, ours, hands = shown.table, now.table, by_hand.table
    whole = table.whole()
    says, holds = _aligned(ours, table.keys), _aligned(hands, table.keys)
    with np.errstate(invalid="ignore"):
        other = ~np.isnan(says) & (np.abs(whole - says) > SAME)
    new = np.isnan(says) & ~np.isnan(holds)
    whole[~(other | new)] = np.nan
    return packed(_without_empty(table_of(table.keys, whole)))


def _aligned(table: Table, keys: Sequence[str]) -> NDArray[np.float32]:
    """A table's rows under these keys, (n, COUNT); what it says of a fixture goes for its cells as well."""
    at = {key: row for row, key in enumerate(table.keys)}
    whole = np.vstack([table.whole(), np.full((1, COUNT), np.nan, dtype=np.float32)])
    of_cell = whole[[at.get(key, -1) for key in keys]]
    of_fixture = whole[[at.get(fixture_of(key), -1) for key in keys]]
    return np.where(np.isnan(of_cell), of_fixture, of_cell)
