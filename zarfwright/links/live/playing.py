"""A rig as it is played, and the picture worked out of it: whole, or only in the parts where something is new."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray
from pydantic import TypeAdapter

from zarfwright.core.compiled import compiled
from zarfwright.core.dmx.compile import CompiledRig
from zarfwright.core.dmx.decode import Decoder
from zarfwright.core.dmx.part import part_of, universes_read
from zarfwright.core.dmx.rows import PatchRow, received
from zarfwright.core.drive import LOOK, settle
from zarfwright.core.motion import COLUMNS as TRAVELLING
from zarfwright.core.motion import Spinning, Travel
from zarfwright.core.picture import FIELDS, BeamTable
from zarfwright.core.playback.score import Limits, limits_of
from zarfwright.core.programs import BUSY_COLUMNS, Programs
from zarfwright.core.space import Floats, single
from zarfwright.core.types.chain import chain_of, chains_of
from zarfwright.core.types.model import FixtureType
from zarfwright.links.frames import Scaling, scaling

PART_LEAST, PARTS_MOST = 256, 16
"""Beams to a part, and parts to a rig: each costs about as much as 150 beams before it has worked out any."""
TYPE_ADAPTER: TypeAdapter[FixtureType] = TypeAdapter(FixtureType)


@dataclass(frozen=True, eq=False)
class Drive:
    """What drives a rig but for its levels: values (n, COUNT), NaN where nothing is said; None: nothing at all."""

    look: Floats
    hands: Floats | None = None
    fixed: Floats | None = None
    follow: bool = True
    first: bool = False
    """Whether the look has the say over the console."""
    travelled: bool = False
    """Whether heads are where the look says at once: it takes their time for them."""

    @cached_property
    def single(self) -> Drive:
        """The same in single precision."""
        hands, fixed = (None if one is None else single(one) for one in (self.hands, self.fixed))
        return replace(self, look=single(self.look), hands=hands, fixed=fixed)

    def of(self, rows: slice) -> Drive:
        """For some of the beams."""
        hands = None if self.hands is None else self.hands[rows]
        fixed = None if self.fixed is None else self.fixed[rows]
        return replace(self, look=self.look[rows], hands=hands, fixed=fixed)


@dataclass(frozen=True, eq=False)
class Moment:
    """When it is: the time, how long since the frame before, and the steps that travel has to make."""

    now: float
    elapsed_s: float
    steps: int


@dataclass(frozen=True, eq=False)
class Part:
    """Some of a rig's beams, or all of them. What they remember is one and the same, whichever part works them out.
    They are worked out in single precision."""

    rows: slice
    rig: CompiledRig
    home: Floats
    """(m, COUNT)"""
    decoder: Decoder
    beams: BeamTable
    travel: Travel
    spinning: Spinning
    programs: Programs

    def work(
        self, levels: NDArray[np.uint8], known: NDArray[np.bool_], drive: Drive, at: Moment
    ) -> tuple[Floats, NDArray[np.int64], Floats, NDArray[np.float32]]:
        """What its beams are told to show (m, COUNT), who drives each (m,), where they have got to (m, COUNT), and the
        frame (m, fields). `known` says of which universes there are levels, with one more for beams that have none."""
        decoded = self.decoder.decode(levels)
        console = known[self.rig.universe_of_row] & drive.follow
        told, driver = settle(self.home, drive.look, decoded, console, drive.hands, drive.fixed, drive.first)
        if drive.travelled:
            self.travel.put(told, driver == LOOK)
        shown, _ = self.travel.make(told, at.steps)
        shown, _ = self.programs.step(told, shown, at.now, at.elapsed_s)
        frame = self.beams.frame(shown)
        self.spinning.apply(frame, at.now)
        return told, driver, shown, frame


def _moves(told: Floats, shown: Floats) -> bool:
    """Whether any of some beams will look different in a moment, though nothing new is heard."""
    travels = not np.array_equal(told.T[TRAVELLING], shown.T[TRAVELLING])
    return travels or bool(told.T[BUSY_COLUMNS].any())


@dataclass(frozen=True, eq=False)
class LiveRig:
    """A rig as it is played: compiled whole, swapped whole. Its beams are worked out in the order of their universes,
    so that few parts look at each of them; outside they are in the order in which the rig was given."""

    number: int
    scaling: Scaling
    place: NDArray[np.int64]
    """(n,) where each beam is outside."""
    whole: Part
    parts: tuple[Part, ...]
    parts_of_universe: Mapping[int, tuple[int, ...]]
    """The parts that look at each universe."""
    rows: tuple[PatchRow, ...] = ()
    """The fixtures in the order in which they are worked out."""

    @cached_property
    def limits(self) -> Limits:
        """How fast its heads and drivers are."""
        return limits_of(self.rows)

    @property
    def rig(self) -> CompiledRig:
        return self.whole.rig

    @cached_property
    def exact(self) -> Decoder:
        """Decodes the whole rig in double precision, for what is kept."""
        return Decoder(self.rig)

    def outside(self, values: NDArray[Any]) -> NDArray[Any]:
        """Values of all beams (n, ...) as they are outside."""
        made = np.empty(values.shape, dtype=values.dtype)
        made[self.place] = values
        return made

    def told(self) -> dict[str, Any]:
        """What a viewer must know of its beams to read frames."""
        beams, fixtures = self.whole.beams, [""] * len(self.place)
        for place, fixture in zip(self.place.tolist(), self.rig.fixtures, strict=True):
            fixtures[place] = fixture
        return {
            "rig": self.number,
            "fixtures": fixtures,
            "scale": self.scaling.scale,
            "offset": self.scaling.offset,
            "peak_cd": self.outside(beams.peak_cd).tolist(),
            "gobos": beams.gobos,
            "webs": beams.webs,
            "prisms": [[[facet.x, facet.y, facet.turn_deg] for facet in facets] for facets in beams.prisms],
        }


def received_rig(number: int, types: Mapping[str, Any], rows: list[list[Any]]) -> LiveRig:
    """Compile what the desk sends: types as JSON by id, and rows (core/dmx/rows.py)."""
    known = {key: _type_of(orjson.dumps(value)) for key, value in types.items()}
    return live_rig(number, [received(row, known) for row in rows])


@lru_cache(maxsize=200)
def _type_of(text: bytes) -> FixtureType:
    """A type from its JSON; the very same one where nothing of it has changed, so that it is not compiled anew."""
    return TYPE_ADAPTER.validate_json(text)


def scaling_of(rows: Sequence[PatchRow]) -> Scaling:
    """How the frames of a rig are scaled: by how far its heads turn."""
    turns = max((abs(end) for row in rows for end in chain_of(row.type, row.mode).pan_range), default=2 * np.pi)
    return scaling(max(turns, 1.0))


def live_rig(number: int, rows: Sequence[PatchRow]) -> LiveRig:
    """Compile rows."""
    counts = [len(chains_of(row.type, row.mode)) for row in rows]
    firsts = np.concatenate(([0], np.cumsum(counts))).astype(np.int64)
    order = sorted(range(len(rows)), key=lambda i: rows[i].universe or 2**32)
    ordered = [rows[i] for i in order]
    places = [np.arange(firsts[i], firsts[i + 1]) for i in order]
    made = compiled(ordered)
    travel, spinning = Travel(ordered), Spinning(len(made.rig.keys))
    n = len(made.rig.keys)
    beams, home = made.beams.single(), single(made.rig.home)
    whole = Part(slice(0, n), made.rig, home, Decoder(made.rig, np.float32), beams, travel, spinning, Programs(beams))
    size = max(PART_LEAST, -(-n // PARTS_MOST))
    slices = [slice(first, min(first + size, n)) for first in range(0, n, size)]
    parts = tuple(_part(whole, rows) for rows in slices) if len(slices) > 1 else (whole,)
    looked_at = [universes_read(part.rig) for part in parts]
    return LiveRig(
        number,
        scaling_of(ordered),
        np.concatenate(places) if places else np.zeros(0, dtype=np.int64),
        whole,
        parts,
        {
            universe: tuple(i for i, read in enumerate(looked_at) if place in read)
            for place, universe in enumerate(made.rig.universes)
        },
        tuple(ordered),
    )


def _part(whole: Part, rows: slice) -> Part:
    rig = part_of(whole.rig, rows)
    return Part(
        rows, rig, whole.home[rows], Decoder(rig, np.float32), whole.beams.part(rows), whole.travel.part(rows),
        whole.spinning.part(rows), whole.programs.part(rows),
    )  # fmt: skip


@dataclass(eq=False)
class Picture:
    """The last picture of a rig, kept up to date part by part. One thread at a time."""

    playing: LiveRig
    levels: NDArray[np.uint8] = field(init=False)
    known: NDArray[np.bool_] = field(init=False)
    frame: NDArray[np.float32] = field(init=False)
    moving: set[int] = field(default_factory=set)
    """The parts in which something moves by itself."""

    def __post_init__(self) -> None:
        rig = self.playing.rig
        self.levels = np.zeros((len(rig.universes), 512), dtype=np.uint8)
        # The last one stands for rows that are not patched (-1).
        self.known = np.zeros(len(rig.universes) + 1, dtype=bool)
        self.place = {universe: i for i, universe in enumerate(rig.universes)}
        self.told: Floats = self.playing.whole.home
        self.driver: NDArray[np.int64] = np.zeros(len(rig.keys), dtype=np.int64)
        self.frame = np.zeros((len(FIELDS), len(rig.keys)), dtype=np.float32).T

    def take(self, universes: Iterable[int], levels: Mapping[int, bytes]) -> None:
        """Levels (512,) of some universes of the show; of no interest where nothing is patched to one."""
        place = self.place
        at = {place[universe]: levels[universe] for universe in universes if universe in place and universe in levels}
        if at:
            places = [*at]
            self.levels[places] = np.frombuffer(b"".join(at.values()), dtype=np.uint8).reshape(-1, 512)
            self.known[places] = True

    def exactly(self, drive: Drive) -> Floats:
        """What the beams are told to show (n, COUNT), in double precision."""
        rig, exact = self.playing.rig, self.playing.exact
        console = self.known[rig.universe_of_row] & drive.follow
        return settle(rig.home, drive.look, exact.decode(self.levels), console, drive.hands, drive.fixed, drive.first)[
            0
        ]

    def work(self, news: set[int] | None, drive: Drive, at: Moment) -> list[slice]:
        """Work out what is new: `news` are the universes with other levels, None: everything may be. Returns the rows
        that were worked out."""
        parts, drive = self.playing.parts, drive.single
        touched = set(self.moving)
        for universe in news or ():
            touched.update(self.playing.parts_of_universe.get(universe, ()))
        if news is None or 2 * len(touched) > len(parts):
            self._work_whole(drive, at)
            return [self.playing.whole.rows]
        for one in touched:
            self._work_part(one, drive, at)
        return [parts[one].rows for one in sorted(touched)]

    def _work_whole(self, drive: Drive, at: Moment) -> None:
        whole = self.playing.whole
        self.told, self.driver, shown, self.frame = whole.work(self.levels, self.known, drive, at)
        self.moving = set()
        if _moves(self.told, shown):
            rows = [(i, part.rows) for i, part in enumerate(self.playing.parts)]
            self.moving = {i for i, one in rows if _moves(self.told[one], shown[one])}

    def _work_part(self, number: int, drive: Drive, at: Moment) -> None:
        part = self.playing.parts[number]
        rows = part.rows
        told, driver, shown, frame = part.work(self.levels, self.known, drive.of(rows), at)
        self.told[rows], self.driver[rows], self.frame[rows] = told, driver, frame
        (self.moving.add if _moves(told, shown) else self.moving.discard)(number)
