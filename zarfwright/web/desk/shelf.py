"""Meshes that browsers may ask for, each with an owner, and let go when none is left."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Mapping

from zarfwright.core.mesh import Mesh

LATE_BYTES, LATE_COUNT = 8 * 2**20, 64
"""What is kept after the last owner let go: a browser may be about to ask for it."""


class Shelf:
    """Meshes by key. An owner is an item of the show, the bodies, somebody's preview, a draft that is tried out."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._owned: dict[str, frozenset[str]] = {}
        self._owners: dict[str, int] = {}
        self._meshes: dict[str, Mesh] = {}
        self._late: OrderedDict[str, int] = OrderedDict()

    def keep(self, owner: str, meshes: Mapping[str, Mesh]) -> None:
        """Let an owner have these meshes by key, in place of those that it had."""
        with self._lock:
            had = self._owned.get(owner, frozenset())
            has = frozenset(meshes)
            if has == had:
                return
            for key in has - had:
                self._meshes.setdefault(key, meshes[key])
                self._owners[key] = self._owners.get(key, 0) + 1
                self._late.pop(key, None)
            for key in had - has:
                self._let_go(key)
            if has:
                self._owned[owner] = has
            else:
                self._owned.pop(owner, None)

    def _let_go(self, key: str) -> None:
        self._owners[key] -= 1
        if self._owners[key]:
            return
        del self._owners[key]
        self._late[key] = len(self._meshes[key].packed)
        while len(self._late) > LATE_COUNT or (len(self._late) > 1 and sum(self._late.values()) > LATE_BYTES):
            oldest, _ = self._late.popitem(last=False)
            del self._meshes[oldest]

    def clear(self) -> None:
        """Let go of everything: another show is open."""
        with self._lock:
            for kept in (self._owned, self._owners, self._meshes, self._late):
                kept.clear()

    def get(self, key: str) -> Mesh | None:
        """A mesh by its key; None where nobody has it."""
        return self._meshes.get(key)

    def __len__(self) -> int:
        return len(self._meshes)
