"""Results kept for objects that never change: asked again for the very same ones, they are not worked out again."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar

Result = TypeVar("Result")
MOST = 20_000


class Memo(Generic[Result]):
    """A function of immutable objects that remembers by which objects they are, not by what they hold: looking up a
    body of twenty fields takes no hash of them. The objects are kept, so that no other comes to be at their address."""

    def __init__(self, work: Callable[..., Result], most: int = MOST) -> None:
        self._work, self._most = work, most
        self._kept: dict[tuple[int | str, ...], tuple[tuple[Any, ...], Result]] = {}

    def __call__(self, *args: Any) -> Result:
        # Words are what they say, wherever they are.
        key = tuple([one if type(one) is str else id(one) for one in args])
        found = self._kept.get(key)
        if found is not None:
            return found[1]
        result = self._work(*args)
        if len(self._kept) >= self._most:
            self._kept.clear()
        self._kept[key] = (args, result)
        return result
