"""A picture worked out part by part is the one that is worked out whole, and what is sent of it is all of it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.links.test_engine import connect, hear
from zarfwright.core.compiled import compiled
from zarfwright.core.connections import Connection
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.part import part_of, universes_read
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.picture import FIELDS
from zarfwright.core.types.chain import chains_of
from zarfwright.library import dunlin, heron, plover, teal
from zarfwright.links.live import playing
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.inputs import merged, merged_levels
from zarfwright.links.live.playing import live_rig
from zarfwright.links.sources import Source

KINDS = ((heron, "Extended"), (dunlin, "Standard"), (teal, "Cells"), (heron, "Standard"), (plover, None))


def mixed_rows(universes):
    """Fixtures of several types by turns, those of the last universe first; one is not patched."""
    rows = []
    for universe in reversed(range(1, universes + 1)):
        kind, mode = KINDS[universe % len(KINDS)]
        made = kind()
        name = mode or made.modes[0].name
        size = max(slot for channel in made.mode(name).channels for slot in channel.slots)
        rows += [PatchRow(f"{universe}-{i}", made, name, universe, 1 + i * size) for i in range(min(512 // size, 9))]
    return [*rows, PatchRow("loose", dunlin(), "Standard", None, None)]


def beams_of(row):
    return len(chains_of(row.type, row.mode))


def engine_of(rows, now):
    made = Engine(clock=lambda: now[0])
    connect(made, Connection("desk", "sACN"))
    made.set_rig(live_rig(1, rows))
    return made


@pytest.mark.parametrize("seed", range(6))
def test_part_by_part_is_as_good_as_whole(monkeypatch, seed):
    dice, now, rows = np.random.default_rng(seed), [100.0], mixed_rows(12)
    monkeypatch.setattr(playing, "PART_LEAST", 10**6)
    whole = engine_of(rows, now)
    assert whole.playing.told()["fixtures"] == [fixture for row in rows for fixture in [row.fixture] * beams_of(row)]
    monkeypatch.setattr(playing, "PART_LEAST", 17)
    parts = engine_of(rows, now)
    assert len(whole.playing.parts) == 1
    assert len(parts.playing.parts) > 8
    got = parts.publish().raw.copy()
    whole.publish()
    for tick in range(60):
        now[0] += float(dice.choice([0.018, 0.0227, 0.07]))
        if tick % 20 == 7:
            hands = {"3-1": {"pan": float(dice.uniform(-1, 1)), "dimmer": 1.0}} if tick < 40 else {}
            for one in (whole, parts):
                one.set_drive({"loose": {"dimmer": 0.5}}, hands, tick % 40 == 7)
        for universe in dice.choice(12, int(dice.integers(0, 3)), replace=False) + 1:
            levels = dice.integers(0, 256, 512).tolist() if dice.random() < 0.5 else [int(dice.integers(0, 256))] * 512
            for one in (whole, parts):
                hear(one, int(universe), levels, now[0], sequence=tick & 0xFF)
        if tick % 13 == 5:
            parts.values()
        made = parts.publish()
        expected = whole.publish().raw
        got = made.raw if made.changed is None else got.copy()
        if made.changed is not None:
            got[made.changed] = made.raw[made.changed]
        assert np.array_equal(got, made.raw), tick
        # A step of travel that falls together with a frame may be made a frame earlier or later.
        assert np.abs(made.raw.astype(int) - expected.astype(int)).max() <= 1, tick
    assert parts.drivers() == whole.drivers()


def test_only_the_parts_that_hear_something_new_are_worked_out(monkeypatch):
    monkeypatch.setattr(playing, "PART_LEAST", 17)
    engine = engine_of(mixed_rows(12), [100.0])
    engine.publish()
    worked = []
    for i, part in enumerate(engine.playing.parts):
        plain = part.decoder.decode
        monkeypatch.setattr(part.decoder, "decode", lambda levels, i=i, plain=plain: worked.append(i) or plain(levels))
    hear(engine, 7, [200] * 512)
    assert len(engine.publish().changed) > 0
    assert sorted(worked) == sorted(engine.playing.parts_of_universe[7])
    assert 2 * len(worked) < len(engine.playing.parts)
    worked.clear()
    hear(engine, 7, [200] * 512, sequence=2)
    assert len(engine.publish().changed) == 0
    hear(engine, 77, [1] * 512)
    assert len(engine.publish().changed) == 0
    assert worked == []


def test_a_picture_nobody_published_is_not_missing_from_the_next(monkeypatch):
    monkeypatch.setattr(playing, "PART_LEAST", 17)
    engine = engine_of(mixed_rows(12), [100.0])
    before = engine.publish()
    hear(engine, 2, [255] * 512)
    engine.beams()
    after = engine.publish()
    assert set(after.changed) == set(np.flatnonzero((after.raw != before.raw).any(axis=1)))
    assert len(after.changed) > 0


def test_parts_of_a_rig_decode_as_the_whole_does():
    rig = compiled(mixed_rows(10)).rig
    levels = np.random.default_rng(4).integers(0, 256, (len(rig.universes), 512), dtype=np.uint8)
    whole = Decoder(rig).decode(levels)
    for rows in (slice(0, 1), slice(5, 30), slice(30, len(rig.keys)), slice(0, len(rig.keys))):
        part = part_of(rig, rows)
        assert np.array_equal(Decoder(part).decode(levels), whole[rows])
        assert part.keys == rig.keys[rows]
    assert universes_read(rig) == frozenset(range(10))


@given(st.data())
def test_levels_merged_the_quick_way_are_the_same(data):
    def bytes_of(least, most):
        return (
            data.draw(st.binary(min_size=8, max_size=8)).translate(
                bytes(least + i % (most - least) for i in range(256))
            )
            * 64
        )

    sources = [
        Source(
            key=bytes([i]), name="", protocol="sACN", universe=1, address="", sequence=0, heard_at=0.0,
            priority=data.draw(st.integers(98, 100)), held=bytes_of(0, 4),
            priorities=bytes_of(98, 101) if data.draw(st.integers(0, 4)) == 0 else b"",
        )
        for i in range(data.draw(st.integers(1, 4)))
    ]  # fmt: skip
    held = bytes(range(256)) * 2
    assert merged_levels(sources, held) == merged(sources, held)[0].tobytes()
    assert merged_levels([], held) == b""


def test_beams_are_told_in_the_order_of_the_rig_whatever_order_they_are_worked_out_in():
    rows = [PatchRow("late", dunlin(), "Standard", 2, 1), PatchRow("early", dunlin(), "Standard", 1, 1)]
    engine = engine_of(rows, [100.0])
    hear(engine, 1, [128, 0, 128, 0, 255, 32, 255, 0, 0, 0, 128])
    _, frame, _ = engine.beams()
    red = FIELDS.index("red")
    assert engine.playing.told()["fixtures"] == ["late", "early"]
    assert frame[0, red] == 0 < frame[1, red]
    assert engine.drivers() == {"early": "console", "late": "home"}
