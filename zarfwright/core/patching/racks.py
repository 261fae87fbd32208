"""Dimmer racks: which dimmers there are, where each is driven, and what it carries."""

from __future__ import annotations

from dataclasses import dataclass

RACK_MOST = 512
"""Dimmers of one rack: it lies on one universe."""
DIMMER_MOST = 99_999


@dataclass(frozen=True)
class Rack:
    """Dimmers `first` to `first + count - 1`, each of one slot, one after another from an address on."""

    name: str
    first: int = 1
    count: int = 12
    carries_w: float = 2300.0
    """What each dimmer carries, in watts."""
    universe: int | None = None
    address: int | None = None
    """The slot of its first dimmer; none: it is not addressed yet."""
    others: tuple[tuple[int, float], ...] = ()
    """Dimmers that carry something else, with what they carry."""
    switched: tuple[int, ...] = ()
    """Dimmers that give steady power, on or off: for what dims itself."""

    @property
    def numbers(self) -> range:
        """The numbers of its dimmers."""
        return range(self.first, self.first + min(max(self.count, 0), RACK_MOST))

    @property
    def last(self) -> int:
        """The number of its last dimmer."""
        return self.first + len(self.numbers) - 1

    def place_of(self, dimmer: int) -> tuple[int, int] | None:
        """Universe and slot that drive a dimmer of its; None where it is not addressed."""
        if self.universe is None or self.address is None:
            return None
        return self.universe, self.address + dimmer - self.first

    def carried_by(self, dimmer: int) -> float:
        """What a dimmer of its carries, in watts."""
        return next((carries for number, carries in self.others if number == dimmer), self.carries_w)
