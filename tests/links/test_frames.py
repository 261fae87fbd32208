"""The wire format keeps angles and colours to its step, and zero exactly."""

import numpy as np

from zarfwright.core.compiled import compiled
from zarfwright.core.dmx.rows import PatchRow
from zarfwright.core.motion import SPIN_STEP
from zarfwright.core.picture import FIELDS
from zarfwright.library import shipped
from zarfwright.links.frames import DELTA, FULL, HEADER, LEVELS, delta_frame, full_frame, levels_message, scaling


def some_beams(n=5):
    rng = np.random.default_rng(3)
    values = np.zeros((n, len(FIELDS)), dtype=np.float32)
    values[:, 0:2] = rng.uniform(-4, 4, (n, 2))
    values[:, 2:4] = rng.uniform(0.1, 1.0, (n, 2))
    values[:, 4:7] = rng.uniform(-0.3, 1.2, (n, 3))
    values[:, 7:9] = rng.uniform(0, 1, (n, 2))
    values[:, FIELDS.index("gobo")] = rng.integers(0, 9, n)
    values[:, FIELDS.index("gobo_spin")] = SPIN_STEP * rng.integers(-2000, 2000, n)
    values[:, FIELDS.index("blade2_angle")] = rng.uniform(-0.5, 0.5, n)
    return values


def test_values_come_back_to_half_a_step_of_their_scale():
    scale = scaling(4.72, 2.4)
    values = some_beams()
    values[:, 1] = np.clip(values[:, 1], -2.4, 2.4)
    back = scale.unpack(scale.pack(values))
    assert np.all(np.abs(back - values) <= np.array(scale.scale) / 2 + 1e-6)


def test_what_any_shipped_type_shows_has_room_in_the_scale():
    rows = [PatchRow(kind, made, mode.name, 1, 1) for kind, made in shipped().items() for mode in made.modes]
    one, scale = compiled(rows), scaling()
    values = one.beams.frame(one.rig.home)
    off = np.abs(scale.unpack(scale.pack(values)) - values).max(axis=0)
    beyond = [name for name, by, step in zip(FIELDS, off, scale.scale, strict=True) if by > step / 2 + 1e-6]
    # A frosted web may be brighter along its axis than a clear one.
    assert values[:, FIELDS.index("frost_gain")].max() > 1
    assert beyond == []


def test_a_dark_beam_at_home_is_exactly_that():
    scale = scaling()
    back = scale.unpack(scale.pack(np.zeros((1, len(FIELDS)), dtype=np.float32)))
    assert np.all(back == 0)


def test_frames_say_what_they_are():
    raw = scaling().pack(some_beams(4))
    full = full_frame(raw, 7, 3, 10.0, 11.0)
    assert HEADER.unpack_from(full) == (7, FULL, len(FIELDS), 3, 10.0, 11.0, 4, 0)
    assert len(full) == 32 + raw.nbytes
    delta = delta_frame(raw, np.array([2]), 8, 3, 10.0, 11.0)
    assert HEADER.unpack_from(delta)[1] == DELTA
    assert len(delta) == 32 + 4 + raw.shape[1] * 2
    assert np.frombuffer(delta, "<u2", offset=36).tolist() == raw[2].tolist()
    levels = levels_message(9, np.arange(512).astype(np.uint8).tobytes(), 1, 0.0)
    assert HEADER.unpack_from(levels)[1] == LEVELS
    assert HEADER.unpack_from(levels)[6] == 9
    assert len(levels) == 32 + 512
