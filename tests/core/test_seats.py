"""Where people look from, and at what."""

from zarfwright.core.seats import seats


def targets(bench, group):
    return {seat.target for seat in seats(bench.show) if seat.group == group}


def test_seats_look_at_who_performs_wherever_that_is_and_never_at_a_gallery(bench):
    bench.do("add crowd", name="Stalls", width="3m", depth="2m", x="SL 20", y="DS 8")
    assert targets(bench, "Stalls") == {(0.0, 0.0, 1.5)}
    bench.do("add deck", name="Gallery", width="46m", depth="2m", height="0.25m", z="UP 4")
    bench.do("add deck", width="2m", depth="1m", x="SR 9")
    stage = bench.made("add deck", width="6m", depth="4m", height="1m", x="SL 20", y="US 12", z="UP 1")
    assert targets(bench, "Stalls") == {(20.0, 12.0, 3.5)}
    # Whoever was told what to look at looks there, as high as the others.
    bench.do("add crowd", name="Side", width="3m", depth="2m", x="SR 10", y="DS 8", target=[1, 2])
    assert targets(bench, "Side") == {(1.0, 2.0, 3.5)}
    # A stage on a layer that is not shown is none.
    layer = bench.do("add layer", name="Set").changes[0].id
    bench.do("to layer", ids=[stage], layer=layer)
    bench.do("set layer", id=layer, shown=False)
    assert targets(bench, "Stalls") == {(-9.0, 0.0, 1.9)}
    bench.do("activate layer", id=None)
    # Those who sit look on; those who stand are looked at.
    bench.do("add figures", pose="sitting", x="SL 30", y="DS 9")
    bench.do("add figures", pose="standing", x="SL 3", y="US 5", z="UP 1")
    assert targets(bench, "Stalls") == {(3.0, 5.0, 2.5)}


def test_without_a_stage_they_look_at_what_hangs(bench):
    bench.do("add crowd", name="Stalls", width="3m", depth="2m", y="DS 8")
    for x in (2.0, 4.0):
        bench.do("place free", type="heron", position=[x, 5, 6])
    assert targets(bench, "Stalls") == {(3.0, 5.0, 1.5)}
