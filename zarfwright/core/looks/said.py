"""What a look says, packed: values of features by fixture or cell, and nothing where it leaves a feature alone.

A rig of 3,000 fixtures has 70 features a beam, of which a look says some thirty, most of them alike in all fixtures of
a type. Kept as a table of single precision, feature by feature, with the bytes of equal weight side by side, all that
is alike packs to nothing (docs/decisions.md). It is unpacked when it is asked for.
"""

from __future__ import annotations

import base64
import binascii
import math
import zlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray
from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import core_schema

from zarfwright.core.dmx.features import COUNT, FEATURES, INDEX

Values = Mapping[str, Mapping[str, float]]
DIGITS = 6
"""Values are rounded to a millionth: what is compared is compared so."""
UNPACKED_MOST = 256 * 2**20
"""Bytes that a look may unpack to: more is no look, but something that was made to fill the memory."""
UNPACKED_KEPT, RIGS_KEPT = 64, 16
LEVEL = 1


@dataclass(frozen=True, eq=False)
class Table:
    """Values (n, k) by row key and feature (its column in core/dmx/features.py); NaN: nothing is said."""

    keys: tuple[str, ...]
    features: NDArray[np.int64]
    values: NDArray[np.float32]

    @property
    def fixtures(self) -> tuple[str, ...]:
        """Of whom anything is said."""
        return fixtures_of(self.keys)[0]

    def whose(self, rows: NDArray[np.bool_]) -> list[str]:
        """The fixtures that have any of these rows (n,)."""
        names, places = fixtures_of(self.keys)
        among = np.zeros(len(names), dtype=bool)
        among[places[rows]] = True
        return [names[place] for place in np.flatnonzero(among).tolist()]

    def column(self, feature: str) -> NDArray[np.float32]:
        """One feature of all rows, (n,); NaN where it is not said."""
        (found,) = np.nonzero(self.features == INDEX[feature])
        return self.values[:, found[0]] if len(found) else np.full(len(self.keys), np.nan, dtype=np.float32)

    def whole(self) -> NDArray[np.float32]:
        """All features, (n, COUNT)."""
        made = np.full((len(self.keys), COUNT), np.nan, dtype=np.float32)
        made[:, self.features] = self.values
        return made

    def of_rows(self, rows: NDArray[np.bool_]) -> Table:
        """Some of the rows."""
        return Table(tuple(key for key, kept in zip(self.keys, rows, strict=True) if kept), self.features,
                     self.values[rows])  # fmt: skip


def table_of(keys: Sequence[str], whole: NDArray[Any]) -> Table:
    """A table of rows (n, COUNT); NaN where nothing is said. Features that no row says are left out."""
    said = np.flatnonzero(~np.isnan(whole).all(axis=0)) if len(keys) else np.zeros(0, dtype=np.int64)
    return Table(tuple(keys), said, np.round(whole[:, said], DIGITS).astype(np.float32))


def _planes(values: NDArray[np.float32]) -> bytes:
    """Column by column, of each the bytes of equal weight side by side: what is alike lies together."""
    count, columns = values.shape
    turned = np.ascontiguousarray(np.where(np.isnan(values), np.float32(np.nan), values).T.astype("<f4"))
    return turned.view(np.uint8).reshape(columns, count, 4).transpose(0, 2, 1).tobytes()


def _from_planes(data: bytes, count: int, columns: int) -> NDArray[np.float32]:
    planes = np.frombuffer(data, dtype=np.uint8).reshape(columns, 4, count).transpose(0, 2, 1)
    return np.ascontiguousarray(planes).view("<f4").reshape(columns, count).T.astype(np.float32)


def _packed(table: Table) -> str:
    names = [FEATURES[i].name for i in table.features.tolist()]
    head = orjson.dumps({"keys": "\n".join(table.keys), "features": names})
    return base64.b64encode(zlib.compress(head + b"\n" + _planes(table.values), LEVEL)).decode()


@lru_cache(RIGS_KEPT)
def _keys_of(joined: str) -> tuple[str, ...]:
    """Row keys, the very same ones for all looks of a rig. Raises ValueError where one is there twice."""
    keys = tuple(joined.split("\n")) if joined else ()
    if len(set(keys)) != len(keys):
        raise ValueError("it says something of the same row twice")
    return keys


@lru_cache(RIGS_KEPT)
def fixtures_of(keys: tuple[str, ...]) -> tuple[tuple[str, ...], NDArray[np.int64]]:
    """Whose rows these are: the fixtures in their order, and of each row (n,) its place among them."""
    names = [key.split("/", 1)[0] for key in keys]
    places = {name: place for place, name in enumerate(dict.fromkeys(names))}
    return tuple(places), np.array([places[name] for name in names], dtype=np.int64)


def _unpacked(text: str) -> Table:
    """Raises ValueError where the text is no packed table."""
    try:
        inflating = zlib.decompressobj()
        data = inflating.decompress(base64.b64decode(text, validate=True), UNPACKED_MOST)
        if not inflating.eof:
            raise ValueError("it is cut short, or too long to be a look")
        first, _, planes = data.partition(b"\n")
        head = orjson.loads(first)
        keys = _keys_of(head["keys"])
        known = [(place, INDEX[name]) for place, name in enumerate(head["features"]) if name in INDEX]
        values = _from_planes(planes, len(keys), len(head["features"]))
    except (binascii.Error, zlib.error, orjson.JSONDecodeError, KeyError, TypeError, AttributeError) as wrong:
        raise ValueError("it is no packed look") from wrong
    if np.isinf(values).any():
        raise ValueError("it holds what no look can say")
    # A feature that this version does not know is not shown by it either.
    columns = np.array([place for place, _ in known], dtype=np.int64)
    return Table(keys, np.array([feature for _, feature in known], dtype=np.int64), values[:, columns])


_table = lru_cache(UNPACKED_KEPT)(_unpacked)


@lru_cache(UNPACKED_KEPT)
def _mapping(text: str) -> dict[str, dict[str, float]]:
    table = _table(text)
    names = [FEATURES[i].name for i in table.features.tolist()]
    rows = np.round(table.values.astype(float), DIGITS).tolist()
    return {
        key: {name: value for name, value in zip(names, row, strict=True) if not math.isnan(value)}
        for key, row in zip(table.keys, rows, strict=True)
    }


class Said(Mapping[str, Mapping[str, float]]):
    """Values by fixture or cell (`id/3`) and feature, packed; read as a mapping, or all at once as a table."""

    __slots__ = ("text",)

    def __init__(self, text: str) -> None:
        self.text = text

    @property
    def table(self) -> Table:
        """All of it at once; kept for a while."""
        return _table(self.text)

    def __getitem__(self, key: str) -> Mapping[str, float]:
        return _mapping(self.text)[key]

    def __iter__(self) -> Iterator[str]:
        return iter(self.table.keys)

    def __len__(self) -> int:
        return len(self.table.keys)

    def __eq__(self, other: object) -> bool:
        if isinstance(other, Said):
            return self.text == other.text or _mapping(self.text) == _mapping(other.text)
        return _mapping(self.text) == other if isinstance(other, Mapping) else NotImplemented

    def __hash__(self) -> int:
        return hash(self.table.keys)

    def __repr__(self) -> str:
        return f"Said({_mapping(self.text)!r})"

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> core_schema.CoreSchema:
        # Plain JSON is read as well: what others write, and shows of the first version.
        plain = core_schema.dict_schema(
            core_schema.str_schema(),
            core_schema.dict_schema(core_schema.str_schema(), core_schema.float_schema(allow_inf_nan=False)),
        )
        return core_schema.no_info_wrap_validator_function(
            _read, plain, serialization=core_schema.plain_serializer_function_ser_schema(lambda said: said.text)
        )

    @classmethod
    def __get_pydantic_json_schema__(
        cls, schema: core_schema.CoreSchema, handler: GetJsonSchemaHandler
    ) -> JsonSchemaValue:
        return {"type": "string", "title": "Said"}


def _read(value: Any, handler: Any) -> Said:
    if isinstance(value, Said):
        return value
    if isinstance(value, str):
        # Unpacked once, so that what is damaged is found when the file is opened.
        _unpacked(value)
        return Said(value)
    return said_of(handler(value))


def said_of(values: Values) -> Said:
    """Values as they are said by a look; those that are none of ours (NaN, no feature) are not said."""
    if isinstance(values, Said):
        return values
    whole = np.full((len(values), COUNT), np.nan)
    for row, said in enumerate(values.values()):
        for name, value in said.items():
            if name in INDEX:
                whole[row, INDEX[name]] = value
    return packed(table_of([*values], whole))


def packed(table: Table) -> Said:
    """A table as it is kept."""
    return Said(_packed(table))


NOTHING = packed(Table((), np.zeros(0, dtype=np.int64), np.zeros((0, 0), dtype=np.float32)))


def overlaid(layers: Iterable[Said]) -> Said:
    """Layers over each other: where a later one says something, that holds; what it says of a fixture as a whole, it
    says of each of its cells. However the layers are grouped, the same comes of it."""
    given = [layer for layer in layers if len(layer)]
    if len(given) < 2:
        return given[0] if given else NOTHING
    tables = [layer.table for layer in given]
    rows = {key: row for row, key in enumerate(dict.fromkeys(key for table in tables for key in table.keys))}
    cells: dict[str, list[int]] = {}
    for key, row in rows.items():
        if "/" in key:
            cells.setdefault(key.split("/", 1)[0], []).append(row)
    whole = np.full((len(rows), COUNT), np.nan, dtype=np.float32)
    for table in tables:
        own = table.whole()
        said = ~np.isnan(own)
        for place, key in enumerate(table.keys):
            # What was said of single cells gives way to what is said now of all of them.
            for row in cells.get(key, ()) if cells else ():
                whole[row, said[place]] = np.nan
        at = np.array([rows[key] for key in table.keys])
        whole[at] = np.where(said, own, whole[at])
    return packed(table_of([*rows], whole))
