"""Where people look from, and at what."""

from zarfwright.core.seats import seats


def test_seats_look_at_what_the_stage_is_wherever_that_stands(bench):
    bench.do("add crowd", name="Stalls", width="3m", depth="2m", x="SL 20", y="DS 8")
    (first, *_) = seats(bench.show)
    assert first.target == (0.0, 0.0, 1.5)
    bench.do("add deck", width="2m", depth="1m", x="SR 9")
    stage = bench.made("add deck", width="6m", depth="4m", height="1m", x="SL 20", y="US 12", z="UP 2")
    assert {seat.target for seat in seats(bench.show)} == {(20.0, 12.0, 4.5)}
    bench.do("add crowd", name="Side", width="3m", depth="2m", x="SR 10", y="DS 8", target=[1, 2])
    side = [seat for seat in seats(bench.show) if seat.group == "Side"]
    assert {seat.target for seat in side} == {(1.0, 2.0, 4.5)}
    # A stage on a layer that is not shown is none.
    layer = bench.do("add layer", name="Set").changes[0].id
    bench.do("to layer", ids=[stage], layer=layer)
    bench.do("set layer", id=layer, shown=False)
    assert {seat.target[0] for seat in seats(bench.show) if seat.group == "Stalls"} == {-9.0}


def test_without_a_deck_they_look_at_what_hangs(bench):
    bench.do("add figures", rows="1", columns="1", y="DS 8")
    bench.do("add crowd", name="Stalls", width="3m", depth="2m", y="DS 8")
    for x in (2.0, 4.0):
        bench.do("place free", type="heron", position=[x, 5, 6])
    assert seats(bench.show)[0].target == (3.0, 5.0, 1.5)
