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


def test_locked_holds_by_every_way_and_the_refusal_says_where_to_let_go(bench):
    truss = bench.made("add truss", length="8m")
    rig = new_layer(bench, "Rig")
    lamps = list(bench.do("place along rail", structure=truss, type="dunlin", count="3", first_number="1").select)
    own = bench.made("add deck", x="SL 5")
    bench.do("activate layer", id=None)
    free = bench.made("add deck")
    other = new_layer(bench, "Other")
    bench.do("activate layer", id=None)
    bench.do("to layer", ids=[truss], layer=other)
    bench.do("set layer", id=rig, locked=True)
    before = bench.show
    for kind, args in (
        ("set field", {"ids": [lamps[0]], "field": "purpose", "text": "Back"}),
        ("set cells", {"cells": [{"id": lamps[1], "field": "number", "text": "9"}]}),
        ("remove", {"ids": lamps[:1]}),
        # Its lamps would be in mid-air.
        ("remove", {"ids": [truss]}),
        ("move", {"ids": [free, own], "by": [1, 0, 0]}),
        ("arrange", {"ids": lamps, "guide": "line", "reverse": True}),
        ("number", {"ids": lamps, "start": "20"}),
        ("address", {"ids": lamps, "start": "1.1"}),
        ("swap type", {"ids": lamps, "type": "heron"}),
        ("to layer", {"ids": lamps, "layer": other}),
        ("to layer", {"ids": [free], "layer": rig}),
        ("remove layer", {"id": rig}),
        ("move datums", {"x": "1m", "y": "0"}),
    ):
        with pytest.raises(JobError, match=r"on the layer Rig, which is locked: unlock it in Site, Layers, first"):
            bench.do(kind, **args)
    assert bench.show is before
    # What they show is not what is built.
    bench.do("aim at", ids=lamps, point=[0, 3, 1])
    bench.do("hold values", ids=lamps, values={"dimmer": 1.0})
    bench.do("release", ids=lamps)
    # The truss is not locked: it goes, and what hangs on it goes along.
    bench.do("move", ids=[truss], by=[1, 0, 0])
    bench.do("set layer", id=rig, locked=False)
    bench.do("set field", ids=[lamps[0]], field="purpose", text="Back")


def test_nothing_lands_on_a_locked_layer(bench):
    rig = new_layer(bench, "Rig")
    bench.do("set layer", id=rig, locked=True)
    with pytest.raises(JobError, match="Deck 1 is on the layer Rig, which is locked"):
        bench.do("add deck")
