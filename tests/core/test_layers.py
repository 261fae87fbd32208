"""Layers: where new things land, what is hidden and locked, what stays when one goes."""

import pytest

from zarfwright.core.errors import JobError
from zarfwright.core.readiness import findings


def layer_of(bench, thing):
    return bench.show.items[thing].layer


def new_layer(bench, name):
    return bench.do("add layer", name=name).changes[0].id


def test_new_things_land_on_the_active_layer(bench):
    loose = bench.made("add deck", width="2m")
    scenery = new_layer(bench, "Set")
    deck = bench.made("add deck", width="3m")
    crowd = bench.made("add crowd", width="3m", depth="2m", y="DS 8")
    viewpoint = bench.made("add viewpoint", eye=[0, -9, 2], target=[0, 0, 1])
    assert [layer_of(bench, one) for one in (loose, deck, crowd, viewpoint)] == [None, scenery, scenery, None]
    bench.do("activate layer", id=None)
    assert layer_of(bench, bench.made("add deck", width="4m")) is None


def test_things_are_put_on_layers_and_stay_when_one_goes(bench):
    decks = [bench.made("add deck", width=f"{w}m") for w in (1, 2, 3)]
    scenery = new_layer(bench, "Set")
    bench.do("to layer", ids=decks[:2], layer=scenery)
    bench.do("set layer", id=scenery, shown=False)
    assert [bench.show.hidden(bench.show.items[one]) for one in decks] == [True, True, False]
    edit = bench.do("remove layer", id=scenery)
    assert edit.report == ("3 things that were on it stay, on no layer.",)
    assert [layer_of(bench, one) for one in decks] == [None] * 3
    assert bench.show.settings.active_layer is None


def test_one_layer_is_shown_alone_and_all_again(bench):
    a, b, c = (new_layer(bench, name) for name in ("A", "B", "C"))
    assert bench.do("isolate layer", id=b).sentence == "Show B alone"
    assert [bench.body(one).shown for one in (a, b, c)] == [False, True, False]
    bench.do("isolate layer")
    assert all(bench.body(one).shown for one in (a, b, c))


def test_layers_that_cannot_be_are_refused_and_empty_ones_are_told(bench):
    scenery = new_layer(bench, "Set")
    assert bench.body(scenery).colour != bench.body(new_layer(bench, "People")).colour
    for kind, args in (
        ("add layer", {"name": "set"}), ("set layer", {"id": scenery, "name": " "}),
        ("set layer", {"id": scenery, "colour": "blue"}), ("to layer", {"ids": [], "layer": scenery}),
    ):  # fmt: skip
        with pytest.raises(JobError):
            bench.do(kind, **args)
    assert bench.do("set layer", id=scenery, locked=True).sentence == "Lock the layer Set"
    said = [finding.text for finding in findings(bench.show) if finding.step == "site"]
    assert "The layer Set is empty: put something on it, or remove it." in said
