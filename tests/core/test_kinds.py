"""The table of kinds: what it says of each is so."""

from dataclasses import asdict
from dataclasses import fields as fields_of
from typing import get_args

import numpy as np
import pytest

from tests.core.test_edits import small_show
from zarfwright.core.edits.fields import FIELDS
from zarfwright.core.kinds import KINDS, OF_BODY, is_placed
from zarfwright.core.scene import solids_of
from zarfwright.core.site import placed


def test_what_is_placed_is_what_the_types_say():
    assert {kind.body for kind in KINDS.values() if kind.placed} == set(get_args(placed.Placed))
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
            assert placed.moved(item.body, np.array([1.0, 0.0, 0.0])) != item.body
        if told.tall:
            assert "height_m" in {field.name for field in fields_of(item.body)}
    if told.placed or told.tall:
        assert {"name", "z"} <= FIELDS[kind].keys()


def alike(one, other):
    """Whether two bodies are the same, but for what is lost in the last digits."""
    if isinstance(one, dict):
        return one.keys() == other.keys() and all(alike(value, other[key]) for key, value in one.items())
    if isinstance(one, list | tuple):
        return len(one) == len(other) and all(map(alike, one, other))
    return one == pytest.approx(other, abs=1e-6) if isinstance(one, float) else one == other


@pytest.mark.parametrize("kind", [name for name, kind in KINDS.items() if kind.placed])
def test_what_is_placed_comes_back_from_where_it_was_brought(kind):
    bench, _ = small_show()
    by, pivot = np.array([1.5, -2.0, 0.7]), np.array([3.0, 1.0])
    for item in bench.show.of_kind(kind):
        body = item.body
        mirrored_twice = placed.mirrored(placed.mirrored(body))
        # A structure that lies the other way round twice has gone round once.
        whole = (getattr(mirrored_twice, "turn_deg", 0.0) - getattr(body, "turn_deg", 0.0)) % 360.0
        assert min(whole, 360.0 - whole) == pytest.approx(0.0, abs=1e-6)
        assert alike(asdict(placed.facing_as(mirrored_twice, body)), asdict(body))
        moved, turned = placed.moved(body, by), placed.turned(body, 30.0, pivot)
        assert alike(asdict(placed.moved(moved, -by)), asdict(body))
        assert alike(asdict(placed.turned(turned, -30.0, pivot)), asdict(body))
        # What is brought onto a guide goes along with it, by as much.
        assert placed.anchor(moved) - placed.anchor(body) == pytest.approx(by, abs=1e-5)
        c, s = np.cos(np.pi / 6), np.sin(np.pi / 6)
        way = np.array([[c, -s], [s, c]]) @ (placed.anchor(body)[:2] - pivot)
        assert placed.anchor(turned)[:2] - pivot == pytest.approx(way, abs=1e-5)
        # What can be drawn anew by its corners, drawn by those it has, stays as it is.
        corners, closed = placed.outline_of(turned)
        if corners and not hasattr(turned, "turn_deg"):
            x, y, _ = getattr(turned, "position", (0.0, 0.0, 0.0))
            own = [(cx + x, cy + y, b) for cx, cy, b in corners]
            assert alike(asdict(placed.redrawn(turned, own, closed)), asdict(turned))
