"""The show's patch beside a console's list: line by line, and by what explains several lines at once."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from zarfwright.core.doctor.facts import spans
from zarfwright.core.patch import Place, footprint_of
from zarfwright.core.patching.dimmers import Racks, place_of, racks_of
from zarfwright.core.patching.listed import Listed
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.types.model import FixtureType

Kind = Literal["missing", "extra", "type", "mode", "circuit", "dimmer", "address"]
KINDS: tuple[Kind, ...] = get_args(Kind)
"""In the order in which they are told, and taken: an address that is said is right, whatever else brought one along."""


@dataclass(frozen=True)
class Side:
    """What one side says of a fixture."""

    type: str
    mode: str
    place: Place | None
    footprint: int | None
    circuit: str = ""
    dimmer: int | None = None
    placed: bool = True
    """Whether it says where fixtures are."""


@dataclass(frozen=True)
class Line:
    """One difference. `missing`: the list has it not; `extra`: the show has it not."""

    number: int
    kind: Kind
    fixture: str | None
    """The id of the show's, None where it has none."""
    ours: Side | None
    theirs: Side | None


@dataclass(frozen=True)
class Why:
    """What explains lines: `from_` is where it begins in the show."""

    cause: str
    text: str
    numbers: tuple[int, ...]
    from_: Place | None = None


@dataclass(frozen=True)
class Compared:
    lines: tuple[Line, ...]
    causes: tuple[Why, ...]
    same: int
    """How many fixtures are the same on both sides."""


@dataclass(frozen=True)
class _Pair:
    number: int
    fixture: str
    ours: Side
    theirs: Side

    @property
    def shift(self) -> int | None:
        """By how many slots of the same universe theirs comes later; None where it is in another or nowhere."""
        a, b = self.ours.place, self.theirs.place
        return b.address - a.address if a is not None and b is not None and a.universe == b.universe else None


def _plain(text: str) -> str:
    return "".join(text.casefold().split())


def _ours(show: Show, fixture: Fixture) -> Side:
    kind = show.types.get(fixture.type)
    place = None
    if fixture.universe is not None and fixture.address is not None:
        place = Place(fixture.universe, fixture.address)
    size = footprint_of(show, fixture) or None
    return Side(kind.name if kind else "", fixture.mode, place, size, fixture.circuit, fixture.dimmer)


def mode_named(kind: FixtureType | None, name: str) -> str | None:
    """The mode of a type that a list means by a name; None where it has none such."""
    return next((mode.name for mode in kind.modes if _plain(mode.name) == _plain(name)), None) if kind else None


def _theirs(show: Show, fixture: Fixture | None, row: Listed) -> Side:
    kind = show.types.get(fixture.type) if fixture is not None else None
    named = mode_named(kind, row.mode) if row.mode else None
    size = row.footprint
    if size is None and kind is not None and named is not None:
        size = sum(kind.mode(named).footprints.values())
    return Side(row.type, named or row.mode, row.place, size, row.circuit, row.dimmer, row.placed)


def _paired(show: Show, rows: Sequence[Listed]) -> tuple[list[_Pair], list[Line]]:
    """Fixtures of one number belong together; where a number is there twice, those on one address first. A list that
    only says what is plugged where need not have what is plugged to nothing."""
    by_number: dict[int, list[tuple[str, Fixture]]] = {}
    for item, fixture in show.fixtures():
        if fixture.number is not None:
            by_number.setdefault(fixture.number, []).append((item.id, fixture))
    pairs, lines = [], []
    for row in sorted(rows, key=lambda one: one.row):
        here = by_number.get(row.number, [])
        if not here:
            lines.append(Line(row.number, "extra", None, None, _theirs(show, None, row)))
            continue
        best = next((one for one in here if _ours(show, one[1]).place == row.place), here[0])
        here.remove(best)
        pairs.append(_Pair(row.number, best[0], _ours(show, best[1]), _theirs(show, best[1], row)))
    placed = not rows or any(row.placed for row in rows)
    for number, left in by_number.items():
        lost = [one for one in left if placed or one[1].circuit or one[1].dimmer]
        lines += [Line(number, "missing", key, _ours(show, fixture), None) for key, fixture in lost]
    return pairs, lines


def _differences(pair: _Pair) -> Iterable[Kind]:
    if (
        pair.theirs.type
        and _plain(pair.theirs.type) not in _plain(pair.ours.type)
        and _plain(pair.ours.type) not in _plain(pair.theirs.type)
    ):
        yield "type"
    if pair.theirs.mode and _plain(pair.theirs.mode) != _plain(pair.ours.mode):
        yield "mode"
    if pair.theirs.circuit and _plain(pair.theirs.circuit) != _plain(pair.ours.circuit):
        yield "circuit"
    if pair.theirs.dimmer is not None and pair.theirs.dimmer != pair.ours.dimmer:
        yield "dimmer"
    if pair.theirs.placed and pair.theirs.place != pair.ours.place:
        yield "address"


def _at(pair: _Pair, theirs: bool = False) -> tuple[int, int]:
    place = pair.theirs.place if theirs else pair.ours.place
    return (place.universe, place.address) if place is not None else (10**6, 0)


def compare(show: Show, rows: Sequence[Listed]) -> Compared:
    """The show beside the list."""
    pairs, lines = _paired(show, rows)
    same = 0
    differing: dict[str, set[Kind]] = {}
    for pair in pairs:
        kinds = list(_differences(pair))
        same += not kinds
        differing[pair.fixture] = set(kinds)
        lines += [Line(pair.number, kind, pair.fixture, pair.ours, pair.theirs) for kind in kinds]
    ordered = sorted(pairs, key=_at)
    causes = _causes(ordered, differing, racks_of(show))
    causes += _alone(lines)
    lines.sort(key=lambda line: (line.number, KINDS.index(line.kind)))
    return Compared(tuple(lines), tuple(causes), same)


def _causes(ordered: list[_Pair], differing: dict[str, set[Kind]], racks: Racks) -> list[Why]:
    """What explains differences, in the order of addresses: other dimmers with the addresses that come with them, other
    modes with all they shift, whole universes that are elsewhere, runs that are shifted for no reason that is seen;
    then what is left by itself."""
    causes: list[Why] = []
    left = {pair.fixture for pair in ordered if "address" in differing[pair.fixture]}
    causes += _dimmers(ordered, differing, left, racks)
    causes += _modes(ordered, differing, left)
    causes += _universes(ordered, left)
    causes += _offsets(ordered, left)
    for pair in ordered:
        if pair.fixture in left:
            there = f"{pair.theirs.place} in the list" if pair.theirs.place else "not patched in the list"
            here = str(pair.ours.place) if pair.ours.place else "nowhere"
            text = f"Fixture {pair.number} is on {here} here, {there}."
            causes.append(Why("other_address", text, (pair.number,), pair.ours.place))
    types: dict[tuple[str, str], list[_Pair]] = {}
    for pair in ordered:
        if "type" in differing[pair.fixture]:
            types.setdefault((pair.ours.type, pair.theirs.type), []).append(pair)
    for (ours, theirs), several in types.items():
        numbers = tuple(pair.number for pair in several)
        text = f"{_called(numbers)}: {ours or 'no type'} here, {theirs} in the list."
        causes.append(Why("other_type", text, numbers, several[0].ours.place))
    return causes


def _dimmers(ordered: list[_Pair], differing: dict[str, set[Kind]], left: set[str], racks: Racks) -> list[Why]:
    """Other dimmers: those that are as many further together; and other circuits."""
    groups: dict[int | None, list[_Pair]] = {}
    circuits = [pair for pair in ordered if "circuit" in differing[pair.fixture]]
    for pair in ordered:
        if "dimmer" in differing[pair.fixture]:
            ours, theirs = pair.ours.dimmer, pair.theirs.dimmer or 0
            groups.setdefault(theirs - ours if ours is not None else None, []).append(pair)
            if place_of(racks, theirs) == _at(pair, theirs=True):
                left.discard(pair.fixture)
    causes = []
    for by, several in groups.items():
        numbers, first = tuple(pair.number for pair in several), several[0]
        if len(several) == 1 or by is None:
            there = spans([pair.theirs.dimmer or 0 for pair in several])
            here = f"dimmer {first.ours.dimmer}" if by is not None else "no dimmer"
            be = "is" if len(several) == 1 else "are"
            text = f"{_called(numbers)} {be} on {here} here, on {there} in the list."
        else:
            text = f"{_called(numbers)} are {abs(by)} dimmers {'further' if by > 0 else 'lower'} in the list."
        causes.append(Why("other_dimmer", text, numbers, first.ours.place))
    if circuits:
        numbers, first = tuple(pair.number for pair in circuits), circuits[0]
        text = f"{_called(numbers)}: circuit {first.ours.circuit or 'none'} here, {first.theirs.circuit} in the list"
        more = ", and so on." if len(circuits) > 1 else "."
        causes.append(Why("other_circuit", text + more, numbers, first.ours.place))
    return causes


def _called(numbers: Sequence[int]) -> str:
    return f"Fixture{'s' if len(numbers) > 1 else ''} {spans(list(numbers))}"


Group = tuple[str, str, str]
"""A type with the show's mode and the list's."""


def _modes(ordered: list[_Pair], differing: dict[str, set[Kind]], left: set[str]) -> list[Why]:
    """Fixtures in another mode, all of one type and pair of modes together, with the later ones that they shift."""
    groups: dict[Group, list[_Pair]] = {}
    for pair in ordered:
        if "mode" in differing[pair.fixture]:
            groups.setdefault(_group(pair), []).append(pair)
    shifted = _shifted(ordered, differing, left)
    left.difference_update(shifted)
    return [
        _other_mode(several, [pair for pair in ordered if shifted.get(pair.fixture) == group])
        for group, several in groups.items()
    ]


def _group(pair: _Pair) -> Group:
    return pair.ours.type, pair.ours.mode, pair.theirs.mode


def _shifted(ordered: list[_Pair], differing: dict[str, set[Kind]], left: set[str]) -> dict[str, Group]:
    """Which fixtures are shifted by just what other modes before them, in their universe, take more or less."""
    shifted: dict[str, Group] = {}
    universe, expected, last = 0, 0, ("", "", "")
    for pair in ordered:
        place = pair.ours.place
        if place is None:
            continue
        if place.universe != universe:
            universe, expected = place.universe, 0
        if pair.fixture in left and expected and pair.shift == expected:
            shifted[pair.fixture] = last
        elif pair.shift == 0:
            # There was room: the shift ends here.
            expected = 0
        if "mode" in differing[pair.fixture]:
            last = _group(pair)
            known = pair.theirs.footprint is not None
            expected += (pair.theirs.footprint or 0) - (pair.ours.footprint or 0) if known else _follows(ordered, pair)
    return shifted


def _other_mode(several: list[_Pair], moved: list[_Pair]) -> Why:
    numbers = tuple(pair.number for pair in several)
    ours, theirs = several[0].ours, several[0].theirs
    sizes = f"{theirs.mode} ({theirs.footprint or '?'} slots) in the list, {ours.mode} ({ours.footprint or '?'}) here"
    text = f"{_called(numbers)}: {sizes}."
    if moved:
        by = moved[0].shift or 0
        more = " and more" if len(several) > 1 else ""
        amount = f"by {abs(by)} slot{'s' if abs(by) > 1 else ''}{more}, {'later' if by > 0 else 'earlier'}"
        text = f"From {ours.place} on all is shifted {amount}: {text[0].lower()}{text[1:]}"
    explained = {*numbers, *(pair.number for pair in moved)}
    return Why("other_mode", text, tuple(sorted(explained)), ours.place)


def _follows(ordered: list[_Pair], pair: _Pair) -> int:
    """By how much the next one of its universe is shifted against this one: what a mode that nobody knows takes."""
    place, shift = pair.ours.place, pair.shift
    if place is None or shift is None:
        return 0
    after = [one for one in ordered if one.ours.place and one.ours.place.universe == place.universe
             and one.ours.place.address > place.address and one.shift is not None]  # fmt: skip
    return (after[0].shift or 0) - shift if after else 0


def _universes(ordered: list[_Pair], left: set[str]) -> list[Why]:
    """All that is on a universe here is on one other in the list, slot by slot."""
    groups: dict[tuple[int, int], list[_Pair]] = {}
    for pair in ordered:
        a, b = pair.ours.place, pair.theirs.place
        if pair.fixture in left and a and b and a.universe != b.universe and a.address == b.address:
            groups.setdefault((a.universe, b.universe), []).append(pair)
    causes = []
    for (ours, theirs), several in groups.items():
        if len(several) < 2:
            continue
        left -= {pair.fixture for pair in several}
        numbers = tuple(pair.number for pair in several)
        text = f"Universe {ours} here is {theirs} in the list: {_called(numbers).lower()}."
        causes.append(Why("other_universe", text, numbers, several[0].ours.place))
    return causes


def _offsets(ordered: list[_Pair], left: set[str]) -> list[Why]:
    """Runs that are shifted by one number of slots."""
    causes: list[Why] = []
    run: list[_Pair] = []

    def close() -> None:
        if len(run) > 1:
            left.difference_update(pair.fixture for pair in run)
            by = run[0].shift or 0
            numbers = tuple(pair.number for pair in run)
            way = f"{abs(by)} slots {'later' if by > 0 else 'earlier'}"
            text = f"From {run[0].ours.place} on {_called(numbers).lower()} are {way} in the list."
            causes.append(Why("offset", text, numbers, run[0].ours.place))
        run.clear()

    for pair in ordered:
        wanted = pair.fixture in left and pair.shift
        if run and not (wanted and pair.shift == run[0].shift):
            close()
        if wanted:
            run.append(pair)
    close()
    return causes


def _alone(lines: list[Line]) -> list[Why]:
    """What is on one side only."""
    causes = []
    for kind, text in (("missing", "not in the list"), ("extra", "in the list and not in the show")):
        numbers = tuple(sorted(line.number for line in lines if line.kind == kind))
        if numbers:
            verb = "is" if len(numbers) == 1 else "are"
            causes.append(Why(kind, f"{_called(numbers)} {verb} {text}.", numbers))
    return causes
