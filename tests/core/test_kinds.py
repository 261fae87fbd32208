"""The table of kinds: what it says of each is so."""

from dataclasses import fields as fields_of
from typing import get_args

import pytest

from tests.core.test_edits import small_show
from zarfwright.core.edits.arranging import moved_body
from zarfwright.core.edits.fields import FIELDS
from zarfwright.core.kinds import KINDS, OF_BODY, Placed, is_placed
from zarfwright.core.scene import solids_of


def test_what_is_placed_is_what_the_types_say():
    assert {kind.body for kind in KINDS.values() if kind.placed} == set(get_args(Placed))
    assert {kind.body: name for name, kind in KINDS.items()} == OF_BODY


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_is_what_its_line_says(kind):
    bench, _ = small_show()
    items = bench.show.of_kind(kind)
    assert items, f"the show of every edit has no {kind}"
    told = KINDS[kind]
    for item in items:
        drawn = solids_of(bench.show, item)
        assert bool(drawn) == told.solid
        if told.parts:
            # A structure is one solid, and what lifts it is another.
            assert all(solid.id == item.id or solid.id.startswith(f"{item.id}/") for solid in drawn)
        elif told.solid:
            assert [solid.id for solid in drawn] == [item.id]
        if told.placed:
            assert is_placed(item.body)
            assert moved_body(item.body, (1.0, 0.0, 0.0)) != item.body
        if told.tall:
            assert "height_m" in {field.name for field in fields_of(item.body)}
    if told.placed or told.tall:
        assert {"name", "z"} <= FIELDS[kind].keys()
