"""When a picture has settled, and which looks are as good as the same. Time is turned by hand."""

import pytest

from zarfwright.core.looks.said import said_of
from zarfwright.core.looks.settling import SETTLED_S, Settling, near_doubles


def levels(*slots, universe=1):
    return {universe: bytes(slots) + bytes(512 - len(slots))}


def watch(settling, states, step=0.2):
    """The times at which a new state stands; states by the time from which on they are sent."""
    told, t = [], 0.0
    end = max(states) + 4.0
    while t < end:
        now = states[max(at for at in states if at <= t)]
        if settling.take(now(t) if callable(now) else now, t):
            told.append(round(t, 1))
        t = round(t + step, 3)
    return told


def test_each_state_that_stands_is_told_once_after_it_has_stood():
    told = watch(Settling(), {0.0: levels(10), 3.0: levels(200), 6.0: levels(90)})
    assert told == [pytest.approx(at + SETTLED_S, abs=0.21) for at in (0.0, 3.0, 6.0)]


def test_while_it_fades_nothing_stands():
    fade = lambda t: levels(min(int((t - 2.0) * 50), 250))  # noqa: E731
    told = watch(Settling(), {0.0: levels(0), 2.0: fade})
    # Five seconds of fade: it stands when that is over.
    assert told == [pytest.approx(SETTLED_S, abs=0.21)]
    told = watch(Settling(), {0.0: levels(0), 2.0: fade, 8.0: fade})
    assert told[-1] == pytest.approx(7.0 + SETTLED_S, abs=0.41)


def test_a_state_that_comes_back_to_what_was_told_is_not_told_again():
    flash = {0.0: levels(50), 3.0: levels(255), 3.4: levels(50)}
    assert len(watch(Settling(), flash)) == 1


def test_an_effect_that_runs_on_is_not_waited_for_and_is_no_new_state():
    wave = lambda value: lambda t: levels(value, int(t * 37) % 200)  # noqa: E731
    told = watch(Settling(), {0.0: wave(10), 12.0: wave(200)})
    assert len(told) == 2
    assert told[1] == pytest.approx(12.0 + SETTLED_S, abs=0.41)


def test_dither_by_one_is_no_move():
    told = watch(Settling(), {0.0: lambda t: levels(100 + int(t * 5) % 2)})
    assert len(told) == 1


def look(**rows):
    return said_of(rows)


def test_near_doubles_are_told_apart_by_what_can_be_seen():
    base = look(a={"dimmer": 0.5, "pan": 1.0, "cyan": 0.2}, b={"dimmer": 0.0, "pan": 0.0, "cyan": 0.0})
    looks = [
        ("first", base),
        ("level", look(a={"dimmer": 0.6, "pan": 1.0, "cyan": 0.2}, b={"dimmer": 0.0, "pan": 0.0, "cyan": 0.0})),
        # A hair's breadth, and what is dark stands elsewhere.
        ("same", look(a={"dimmer": 0.51, "pan": 1.01, "cyan": 0.2}, b={"dimmer": 0.0, "pan": 2.0, "cyan": 1.0})),
        ("turned", look(a={"dimmer": 0.5, "pan": 1.2, "cyan": 0.2}, b={"dimmer": 0.0, "pan": 0.0, "cyan": 0.0})),
        ("again", base),
        ("other", look(a={"dimmer": 0.5, "pan": 1.0, "cyan": 0.2})),
    ]
    assert near_doubles(looks) == [["first", "same", "again"]]
