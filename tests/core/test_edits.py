"""Laws of edits: undone they leave no trace, bodies survive the file, fields obey their limits."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import Workbench
from tests.core.driven import do
from tests.core.lasered import give_stilt, laser, person
from zarfwright.core.edits import EDITS
from zarfwright.core.edits.fields import FIELDS
from zarfwright.core.errors import JobError
from zarfwright.core.exchange.received import Received
from zarfwright.core.kinds import KINDS
from zarfwright.core.mesh import MeshFile, MeshPart, box
from zarfwright.core.show import Change, Item, body_from_json, body_to_json
from zarfwright.core.space import Placement

lengths = st.floats(0.5, 20).map(lambda metres: f"{metres:.3f}m")
places = st.floats(-15, 15).map(lambda metres: f"{'SL' if metres > 0 else 'SR'} {abs(metres):.2f}")


def small_show() -> tuple[Workbench, dict[str, str]]:
    bench = Workbench()
    truss = bench.made("add truss", length="8m", start_trim="6m", end_trim="5m")
    fixtures = bench.do("place along rail", structure=truss, type="heron", count="3", first_number="1").select
    looks = small_looks(bench, fixtures)
    side = bench.do(
        "place along rail", structure=truss, type="heron", count="1", side="left", rail="upper left"
    ).select[0]
    deck = bench.made("add deck", width="4m")
    figure = bench.made("add figures", pose="sitting")
    venue = bench.made("add venue", width="20", upstage="10", downstage="30", eave="6", ridge="9")
    draft = bench.made("start draft", kind="moving head", name="Kittiwake")
    viewpoint = bench.made("add viewpoint", eye=[0, -10, 2], target=[0, 0, 1])
    ids = {
        "truss": truss,
        "fixture": fixtures[0],
        **looks,
        "deck": deck,
        "figure": figure,
        "venue": venue,
        "side hung": side,
    }
    # A draft with something to put right: a channel of which one range is missing.
    faulty = bench.made("start draft", kind="par")
    bench.do("paste ranges", id=faulty, mode=0, channel=0, text="0-99 intensity")
    wall = bench.made("add wall", corners=[[0, 0, 0], [6, 0, 0]])
    bench.do("cut opening", id=wall, along="1m")
    crowd = bench.made("add crowd", width="3m", depth="2m", y="DS 9")
    piece = bench.made("add piece", piece="steps", z="3")
    ids |= {"wall": wall, "crowd": crowd, "piece": piece}
    boom = bench.made("add truss", form="upright", lattice="pipe", length="4m", start_trim="0", x="SL 9")
    # What came to stand in the crowd later.
    bench.made("add piece", piece="column", y="DS 9")
    layer = bench.do("add layer", name="Set").changes[0].id
    bench.do("add layer", name="Props")
    bench.do("activate layer", id=None)
    drawing = bench.made("add drawing", name="Plan", asset="a", layers=["0"], metres=0.001)
    bench.give_mesh("crate", MeshFile((MeshPart("", None, box((1, 2, 3))),)))
    mesh = bench.made("add mesh", name="Crate", asset="crate")
    panel = bench.made("add panel", corners=[[0, 0, 0], [2, 0, 0], [2, 3, 0]], at="US 6")
    free = bench.made("place free", type="heron", position=[2, 2, 4.5])
    style = bench.do("add label style", name="Plan").changes[0].id
    carrier = bench.made("make carrier", ids=[piece], name="Stair")
    ids |= {"boom": boom, "mesh": mesh, "panel": panel, "free": free, "label style": style, "carrier": carrier}
    point = bench.made("add focus point", name="Lectern", point=[0, 2, 1.6])
    bench.do("set path", id=figure, path=[[0, 0, 0], [2, 0, 0]])
    # Two that hang in each other's mirror image, one of them aimed.
    pair = [bench.made("place free", type="heron", position=[x, -3, 5]) for x in (3, -3)]
    bench.do("aim at", ids=pair[:1], focus=point)
    bench.do("set colour", ids=[fixtures[1]], x=0.4, y=0.4)
    bench.do("address", ids=[side], start="7.001")
    desk = bench.made("add connection", name="Desk", universes="231-240", lands="1")
    console = bench.made("link console", name="Desk", port="42811", values_port="8000")
    rack = bench.made("add rack", start="8.001")
    palette = bench.do("keep palette", ids=[fixtures[1]], sort="colour", name="Dusk").changes[0].id
    cutter = bench.made("place free", type="heron", mode="Extended", position=[0, -6, 5])
    bench.do("aim at", ids=[cutter], point=[0.2, -0.4, 0.4])
    ids |= {
        "cutter": cutter,
        "palette": palette,
        "connection": desk,
        "console": console,
        "rack": rack,
        "second": fixtures[1],
        "focus point": point,
        "pair": pair[0],
        "partner": pair[1],
    }
    kept = Item("kept", "received", Received("tour.mvr", "a", {"b.glb": "b"}))
    bench.show = bench.show.after([Change(None, kept)])
    ids |= {"the layer": layer, "drawing": drawing}
    ids |= small_review(bench, looks["look"], deck) | small_papers(bench, truss, fixtures[0])
    ids |= (
        small_drivers(bench, panel, carrier)
        | small_lasers(bench)
        | {"draft": draft, "faulty": faulty, "heron": "heron"}
    )
    bench.do("keep check", checked=[fixtures[1]], failed={fixtures[1]: "intensity."})
    return bench, {**ids, "viewpoint": viewpoint}


def small_looks(bench: Workbench, fixtures: tuple[str, ...]) -> dict[str, str]:
    """Two looks and a running order of them, by name."""
    look = bench.made("keep look", name="Dawn", values={fixtures[0]: {"dimmer": 1.0}})
    dusk = bench.made("keep look", name="Dusk", values={fixtures[0]: {"dimmer": 0.2}, fixtures[1]: {"dimmer": 1.0}})
    order = bench.made("add order", looks=[look, dusk])
    first, second = (step.key for step in bench.body(order).steps)
    return {"look": look, "dusk": dusk, "order": order, "step one": first, "step two": second}


def small_review(bench: Workbench, look: str, deck: str) -> dict[str, str]:
    """A measured area, a note, and what somebody says of a look, by name."""
    area = bench.made("add area", deck=deck, wanted="500 lx", wanted_in=[look], points="4x3")
    note = bench.made("write note", text="Warmer here", by="Wren", about=look, at="2026-11-30T10:00:00Z")
    bench.do("write note", verdict="not yet", by="Wren", about=look)
    return {"area": area, "note": note}


def small_papers(bench: Workbench, truss: str, fixture: str) -> dict[str, str]:
    """A sheet with a view, a label put by hand, a dimension and words, issued once; a list and a supply; by name."""
    sheet = bench.made("add sheet", look="plan", number="L1")
    bench.do("put label", id=sheet, view="v1", fixture=fixture, at=[12, 9])
    bench.do("add dimension", id=sheet, view="v1", structures=[truss])
    bench.do("write on sheet", id=sheet, text="Hang from the rear rail", at=[40, 40])
    other = bench.made("add sheet", of=[truss])
    issue = bench.made("issue papers", date="2026-11-30", note="Load-in")
    bench.do("set list", name="hookup", order=["-Number"])
    supply = bench.made("add supply", x="SR 6", y="US 2")
    return {"sheet": sheet, "other sheet": other, "issue": issue, "supply": supply}


def small_drivers(bench: Workbench, thing: str, carrier: str) -> dict[str, str]:
    """Two lifts, by name: one moves a thing, the other a carrier."""
    one = do(bench, "add driver", thing=thing, usual="lift")
    do(bench, "add driver", thing=carrier, usual="lift")
    return {"driver": one}


def small_lasers(bench: Workbench) -> dict[str, str]:
    """A laser far off whose zone holds somebody's eyes, by name."""
    give_stilt(bench)
    head = laser(bench, (70.0, 0.0, 4.0), (70.0, -50.0, 4.0))
    bench.do("set field", ids=[head], field="feed", text="7")
    person(bench, 70.0, -20.0, 1.6)
    return {"laser": head}


def every_edit() -> list[tuple[str, dict[str, object]]]:
    """One call of each edit on the small show, by the names of its things."""
    return [
        ("add venue", {"width": "9", "upstage": "4", "downstage": "9", "eave": "5", "ridge": "6"}),
        ("add deck", {"width": "2"}),
        ("add truss", {"length": "6"}),
        ("add fixtures", {"rows": [{"type": "show:heron", "number": 61, "position": [1, 2, 3], "start": "9.001"}]}),
        ("add outline deck", {"corners": [[0, 0, 0], [3, 0, 0.5], [0, 3, 0]]}),
        ("add wall", {"closed": True}),
        ("add piece", {"piece": "drape"}),
        ("start site", {"kind": "shed"}),
        ("duplicate", {"ids": ["deck", "crowd"], "x": "5m"}),
        ("mirror", {"ids": ["deck", "wall", "truss"], "keep": True}),
        ("rotate", {"ids": ["deck", "crowd", "wall"], "degrees": "30"}),
        ("align", {"ids": ["deck", "truss"], "axis": "y", "edge": "high"}),
        ("spread", {"ids": ["deck", "truss", "crowd"], "axis": "y"}),
        ("drop", {"ids": ["piece"]}),
        ("cut opening", {"id": "wall", "along": "2m"}),
        ("set opening", {"id": "wall", "at": 0, "along": "3m"}),
        ("fill opening", {"id": "wall", "at": 0}),
        ("add crowd", {"seating": "rows", "centre_aisle": "1m"}),
        ("thin crowds", {}),
        ("set outline", {"id": "deck", "corners": [[0, 0, 0], [3, 0, 0], [0, 3, 0]]}),
        ("offset outline", {"id": "crowd", "by": "0.5m"}),
        ("add area", {"width": "3m", "faces": "towards", "towards": "viewpoint"}),
        ("set area", {"id": "area", "wanted": "50 fc", "tolerance": "15", "people": True}),
        ("measure light", {"ids": ["area"]}),
        ("write note", {"text": "Too bright", "about": "fixture", "place": [0, 0, 1], "tags": ["Focus"]}),
        ("set note", {"ids": ["note"], "done": True}),
        ("answer note", {"id": "note", "text": "Done so", "by": "Teal"}),
        ("take notes", {"notes": [{"verdict": "agreed", "by": "Wren", "about": "look"}]}),
        ("add sheet", {"look": "section", "paper": "A3"}),
        ("set sheet", {"ids": ["sheet"], "paper": "ARCH D", "upright": True, "note": "Not to be scaled"}),
        ("order sheets", {"ids": ["other sheet", "sheet"]}),
        ("add view", {"id": "sheet", "look": "front"}),
        ("set view", {"id": "sheet", "view": "v1", "scale": "1:50", "at": [300, 200]}),
        ("remove view", {"id": "sheet", "view": "v1"}),
        ("put label", {"id": "sheet", "view": "v1", "fixture": "fixture", "at": None}),
        ("add dimension", {"id": "sheet", "view": "v1", "sort": "trim", "structures": ["truss"]}),
        ("set dimension", {"id": "sheet", "view": "v1", "dimension": "d1", "off_mm": 4}),
        ("write on sheet", {"id": "sheet", "words": "w1", "text": ""}),
        ("issue papers", {"number": "B", "date": "2026-12-01"}),
        ("set list", {"name": "hookup"}),
        ("add supply", {"x": "SL 4"}),
        ("set supply", {"id": "supply", "z": "1m"}),
        ("add figures", {"rows": "2", "columns": "2"}),
        ("add viewpoint", {"eye": [1, 2, 3], "target": [0, 0, 0]}),
        ("move", {"ids": ["truss", "deck", "figure", "fixture"], "by": [1, 2, 0.5]}),
        ("remove", {"ids": ["truss", "look"]}),
        ("set field", {"ids": ["truss"], "field": "length", "text": "9m"}),
        ("place along rail", {"structure": "truss", "type": "dunlin", "count": "2"}),
        ("place free", {"type": "dunlin", "position": [0, 0, 0], "standing": True}),
        ("add connection", {"protocol": "Art-Net"}),
        ("set connection", {"id": "connection", "lands": "5"}),
        ("hear only", {"id": "connection"}),
        ("link console", {"name": "Other desk", "port": "4000"}),
        ("set console", {"id": "console", "host": "10.0.0.5", "hand_over": True}),
        ("look for consoles", {"address": "127.0.0.1"}),
        ("keep check", {"checked": ["fixture"], "failed": {"fixture": "colour."}}),
        (
            "take palettes",
            {
                "source": "Desk",
                "palettes": [
                    {"sort": "position", "name": "Choir", "values": {"fixture": {"pan": 0.1, "tilt": 0.2}}},
                ],
            },
        ),
        ("add rack", {"start": "8.101"}),
        ("set rack", {"id": "rack", "count": "24"}),
        ("rate dimmers", {"dimmers": "2-3", "carries": "5 kW", "switched": True}),
        ("plug", {"ids": ["fixture", "second"], "dimmer": "4", "on_each": "1"}),
        ("move universe", {"universe": "7", "to": "2"}),
        ("take patch", {"lines": [{"id": "fixture", "start": "9.001"}]}),
        ("set cells", {"cells": [{"id": "fixture", "field": "purpose", "text": "Deck"}]}),
        ("place one", {"type": "heron", "structure": "truss", "rail": "lower left", "along_m": 1.0}),
        ("put back", {"ids": ["free"]}),
        ("copy attitude", {"ids": ["fixture"], "like": "side hung"}),
        ("swap type", {"ids": ["fixture"], "type": "dunlin"}),
        ("arrange", {"ids": ["fixture", "deck", "free"], "guide": "ring", "facing": "out"}),
        ("make carrier", {"ids": ["deck", "truss"]}),
        ("put on", {"ids": ["deck"], "carrier": "carrier"}),
        ("set pivot", {"id": "carrier", "position": [1, 2, 3]}),
        ("add label style", {}),
        ("set label style", {"id": "label style", "parts": [["unit", "box"]], "views": ["plan", "front"]}),
        ("aim at", {"ids": ["fixture"], "point": [0, 0, 0]}),
        ("hold values", {"ids": ["fixture"], "values": {"dimmer": 1.0}}),
        ("turn heads", {"ids": ["fixture", "free"], "feature": "tilt", "text": "-20 to 20"}),
        ("flip", {"ids": ["pair"]}),
        ("mirror aims", {"ids": ["pair"]}),
        ("set colour", {"ids": ["fixture"], "x": 0.45, "y": 0.41}),
        ("cut to edge", {"ids": ["cutter"], "point": [0.2, -0.45, 0.4], "thing": "deck"}),
        ("sharp at", {"ids": ["cutter"], "distance": "8m"}),
        ("keep palette", {"ids": ["pair"], "sort": "position", "name": "Altar"}),
        ("apply palette", {"id": "palette", "ids": ["fixture"]}),
        ("update palette", {"id": "palette", "ids": ["second"], "values": {"x": {}}}),
        ("add focus point", {"name": "Altar", "point": [0, 1, 1]}),
        ("ride on", {"id": "focus point", "on": "figure"}),
        ("set path", {"id": "figure", "path": [[0, 0, 0], [1, 1, 0], [3, 1, 0.2]]}),
        ("walk", {"id": "figure", "share": 0.5}),
        ("number", {"ids": ["fixture"], "start": "50"}),
        ("address", {"ids": ["fixture"], "start": "3.1"}),
        ("add driver", {"thing": "deck", "usual": "lift", "start": "9.101"}),
        ("set driver", {"id": "driver", "turned": "30", "pivot": [1, 0, 0]}),
        ("keep aim", {"ids": ["pair"]}),
        ("number feeds", {"ids": ["laser"], "first": "3"}),
        ("cut zones", {"ids": ["laser"]}),
        ("draw file", {"ids": ["laser"], "asset": "a", "name": "Waves.ild"}),
        ("keep look", {"values": {"fixture": {"dimmer": 0.5}}}),
        ("update look", {"id": "look", "values": {"fixture": {"dimmer": 0.2}}}),
        ("play look", {"id": "look"}),
        ("set in look", {"id": "look", "values": {"fixture": {"pan": 0.3}}}),
        ("give in look", {"id": "look", "ids": ["fixture"], "link": "focus point"}),
        ("copy parts", {"id": "look", "to": ["dusk"], "sorts": ["intensity"]}),
        ("take out", {"ids": ["fixture"], "sorts": ["intensity"]}),
        ("set parts", {"id": "look", "parts": ["dusk"]}),
        ("make of parts", {"parts": ["look", "dusk"], "name": "Both", "number": "4.5"}),
        ("merge looks", {"looks": ["look", "dusk"]}),
        ("renumber looks", {"looks": ["dusk", "look"], "start": "10"}),
        ("take looks", {"looks": [{"number": 9, "name": "Listed", "values": {}}]}),
        ("see look from", {"ids": ["look"], "viewpoint": "viewpoint"}),
        ("add order", {"name": "Rehearsal", "looks": ["look"]}),
        ("add steps", {"id": "order", "looks": ["look"], "before": "step two"}),
        ("set step", {"id": "order", "steps": ["step one"], "fade_in": "4", "hold": "1:00", "follows": True}),
        ("stretch order", {"id": "order", "total": "1:00"}),
        ("move steps", {"id": "order", "steps": ["step two"], "before": "step one"}),
        ("remove steps", {"id": "order", "steps": ["step one"]}),
        ("go ahead", {"id": "order", "steps": ["step two"], "fixtures": ["fixture"]}),
        ("set sound", {"id": "order", "asset": "a", "name": "tide.wav", "starts": "-2"}),
        ("mark order", {"id": "order", "markers": [[3.2, "Drums"]]}),
        ("play order", {"id": "order"}),
        ("add layer", {"name": "Crowd"}),
        ("add mesh", {"name": "Crate", "asset": "crate", "scale": 0.5, "up": "y"}),
        ("add drawing", {"name": "Plan", "asset": "b", "layers": ["WALLS"], "metres": 1.0}),
        ("set drawing", {"id": "drawing", "at": [2.0, 1.0]}),
        ("add panel", {"corners": [[0, 0, 0], [3, 0, 0.5], [0, 3, 0]], "seen_from": "side"}),
        ("simplify mesh", {"id": "mesh", "triangles": ""}),
        ("set reflectance", {"id": "mesh", "material": "", "reflectance": "0.2"}),
        ("keep clear", {"ids": ["crowd"]}),
        ("face crowd", {"ids": ["crowd"], "at": [2.0, 1.0]}),
        ("move datums", {"x": "SL 1", "y": "US 2"}),
        ("join ends", {"ids": ["truss", "boom"]}),
        ("set above", {"ids": ["deck", "truss"], "height": "3m"}),
        ("repeat", {"ids": ["deck", "panel"], "how": "arc", "count": "4"}),
        ("set layer", {"id": "the layer", "shown": False}),
        ("isolate layer", {"id": "the layer"}),
        ("activate layer", {"id": "the layer"}),
        ("to layer", {"ids": ["deck", "truss"], "layer": "the layer"}),
        ("remove layer", {"id": "the layer"}),
        ("set show", {"haze_per_m": 0.02, "system": "imperial"}),
        ("add type", {"name": "Plover", "maker": "Quillback Lamp Co.", "asset": "new"}),
        ("replace type", {"id": "heron", "name": "Heron", "maker": "Quillback Lamp Co.", "asset": "newer"}),
        ("start draft", {"of_type": "heron", "change": True}),
        ("change draft", {"id": "draft", "draft": {"name": "Other", "maker": "Made up", "kind": "laser"}}),
        ("repair draft", {"id": "faulty"}),
        ("paste ranges", {"id": "draft", "mode": 0, "channel": 3, "text": "0-99 closed / 100-255 open"}),
        ("paste channels", {"id": "draft", "mode": 0, "text": "1 Pan\n2 Dimmer"}),
    ]


def with_ids(value: object, ids: dict[str, str]) -> object:
    if isinstance(value, str):
        return ids.get(value, value)
    if isinstance(value, list):
        return [with_ids(one, ids) for one in value]
    if isinstance(value, dict):
        return {ids.get(key, key): with_ids(one, ids) for key, one in value.items()}
    return value


@pytest.mark.parametrize(("kind", "args"), every_edit(), ids=[kind for kind, _ in every_edit()])
def test_an_edit_undone_leaves_no_trace_and_redone_comes_to_the_same(kind, args):
    bench, ids = small_show()
    before = dict(bench.show.items)
    named = {
        key: args[key]
        for key in (
            "ids",
            "id",
            "structure",
            "layer",
            "like",
            "carrier",
            "on",
            "thing",
            "checked",
            "failed",
            "palettes",
            "link",
            "viewpoint",
            "to",
            "parts",
            "looks",
            "steps",
            "before",
            "fixtures",
            "towards",
            "about",
            "notes",
            "fixture",
            "structures",
        )
        if key in args
    }
    args = {**args, **{key: with_ids(value, ids) for key, value in named.items()}}
    if kind == "set cells":
        args["cells"] = with_ids(args["cells"], ids)
    if kind == "take patch":
        args["lines"] = with_ids(args["lines"], ids)
    if kind in ("keep look", "update look", "set in look"):
        args["values"] = with_ids(args["values"], ids)
    edit = bench.do(kind, **args)
    assert edit.changes
    assert edit.sentence[0].isupper()
    after = dict(bench.show.items)
    back = bench.show.after([change.undone() for change in reversed(edit.changes)])
    assert dict(back.items) == before
    assert dict(back.after(edit.changes).items) == after


def test_release_and_unpatch_undo_like_the_others():
    bench, ids = small_show()
    bench.do("hold values", ids=[ids["fixture"]], values={"dimmer": 1.0})
    bench.do("address", ids=[ids["fixture"]], start="1.1")
    for kind in ("release", "unpatch"):
        before = dict(bench.show.items)
        edit = bench.do(kind, ids=[ids["fixture"]])
        assert dict(bench.show.after([change.undone() for change in edit.changes]).items) == before
        with pytest.raises(JobError):
            bench.do(kind, ids=[ids["fixture"]])


def test_every_edit_is_tried_by_this_file():
    # A scene needs its file: tests/formats/test_mvr.py takes one back.
    assert {kind for kind, _ in every_edit()} | {"release", "unpatch", "place break", "take scene"} == set(EDITS)


def test_every_body_survives_the_show_file():
    bench, _ = small_show()
    seen = set()
    for item in bench.show.items.values():
        assert body_from_json(item.kind, body_to_json(item.kind, item.body)) == item.body
        seen.add(item.kind)
    assert seen == set(KINDS)


def test_a_body_that_cannot_be_read_says_so():
    with pytest.raises(JobError, match="deck in this show file cannot be read"):
        body_from_json("deck", '{"name": "A", "width_m": "wide"}')
    with pytest.raises(JobError, match="does not know"):
        body_from_json("balloon", "{}")


@pytest.mark.parametrize(("kind", "field"), [(kind, field) for kind, fields in FIELDS.items() for field in fields])
def test_every_field_refuses_nonsense_and_changes_nothing(kind, field):
    bench, ids = small_show()
    before = bench.show
    text = "" if FIELDS[kind][field].quantity == "text" else "¿nonsense?"
    if FIELDS[kind][field].quantity == "text" and field != "name":
        return
    with pytest.raises(JobError) as wrong:
        bench.do("set field", ids=[ids[kind]], field=field, text=text)
    assert wrong.value.field == field
    assert bench.show is before


@settings(max_examples=60)
@given(lengths, places, st.floats(-180, 180))
def test_typed_values_are_what_the_thing_has_then(length, place, turn):
    bench, ids = small_show()
    bench.do("set field", ids=[ids["truss"]], field="length", text=length)
    bench.do("set field", ids=[ids["truss"]], field="x", text=place)
    bench.do("set field", ids=[ids["truss"]], field="turn", text=f"={turn:.3f}")
    truss = bench.body(ids["truss"])
    assert truss.length_m == pytest.approx(float(length[:-1]))
    assert truss.position[0] == pytest.approx(float(place.split()[1]) * (1 if place.startswith("SL") else -1))
    assert truss.turn_deg == pytest.approx(turn, abs=1e-3)


def test_fields_spread_over_a_selection_and_step_relative_to_each():
    bench, _ = small_show()
    ids = list(bench.do("add figures", rows="1", columns="3").select)
    bench.do("set field", ids=ids, field="x", text="SR 2 to SL 4")
    assert [bench.body(i).position[0] for i in ids] == pytest.approx([-2, 1, 4])
    bench.do("set field", ids=ids, field="x", text="-50cm")
    assert [bench.body(i).position[0] for i in ids] == pytest.approx([-2.5, 0.5, 3.5])
    with pytest.raises(JobError, match=r"at most 2\.6"):
        bench.do("set field", ids=ids, field="height", text="3m")
    with pytest.raises(JobError, match="have no wingspan"):
        bench.do("set field", ids=ids, field="wingspan", text="3m")


def test_things_of_two_kinds_share_no_field():
    bench, ids = small_show()
    with pytest.raises(JobError, match="have no x that could be typed"):
        bench.do("set field", ids=[ids["truss"], ids["deck"]], field="x", text="1")


def test_settings_stay_within_what_is_possible():
    bench, _ = small_show()
    for values in ({"haze_per_m": -1.0}, {"exposure_ev": 99.0}, {"name": "  "}, {"system": "furlongs"}):
        with pytest.raises(JobError):
            bench.do("set show", **values)
    bench.do("set show", system="imperial")
    deck = bench.made("add deck", width="10")
    assert bench.body(deck).width_m == pytest.approx(3.048)


def test_names_are_free_ones_when_none_is_typed():
    bench, _ = small_show()
    names = [bench.body(bench.made("add deck")).name for _ in range(2)]
    assert len(set(names)) == 2
    assert bench.body(bench.made("add deck", name="  Quay ")).name == "Quay"


def test_a_standing_fixture_shines_up_and_a_free_one_down():
    bench, _ = small_show()
    standing = bench.body(bench.made("place free", type="dunlin", position=[1, 2, 0], standing=True, turn_deg=30))
    assert isinstance(standing.placement, Placement)
    assert standing.placement.apply([0.0, 0.0, -1.0]) == pytest.approx([1, 2, 1])
    hanging = bench.body(bench.made("place free", type="dunlin", position=[1, 2, 5]))
    assert hanging.placement.apply([0.0, 0.0, -1.0]) == pytest.approx([1, 2, 4])


def test_a_mesh_is_named_by_its_bytes_and_unpacks_to_what_it_was():
    one, other = box((1, 2, 3)), box((1, 2, 3.0001))
    assert one.key == box((1, 2, 3)).key != other.key
    assert one.packed[:4] == b"ZMSH"
    assert len(one.packed) == 16 + 24 * (12 + 12 + 4) + 36 * 4


@pytest.mark.parametrize(
    ("field", "text", "wanted"),
    [
        ("x", "SL 2m", "Set SL / SR of Raft to SL 2m"), ("z", "+0.5m", "Change the height of Raft by +0.5m"),
        ("width", "-1m", "Change width of Raft by -1m"), ("width", "4m", "Set width of Raft to 4m"),
        ("turn", "-30", "Set turn of Raft to -30"), ("turn", "+=5", "Change turn of Raft by +5"),
    ],
)  # fmt: skip
def test_the_history_says_what_a_field_became_in_words(bench, field, text, wanted):
    raft = bench.made("add deck", name="Raft", width="3m")
    assert bench.do("set field", ids=[raft], field=field, text=text).sentence == wanted
