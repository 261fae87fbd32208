"""Lengths and angles as people type them.

A length takes `6`, `6m`, `450mm`, `45cm`, `20ft`, `20'6"`, `18in` and simple arithmetic: `2*1.2m + 30cm`. A bare number
is in the show's own unit: metres, or feet in an imperial show.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from zarfwright.core.errors import JobError

FOOT_M = 0.3048
INCH_M = 0.0254
UNITS_M = {
    "m": 1.0,
    "cm": 0.01,
    "mm": 0.001,
    "ft": FOOT_M,
    "'": FOOT_M,
    "′": FOOT_M,
    "in": INCH_M,
    '"': INCH_M,
    "″": INCH_M,
}
OWN_UNIT = {"metric": 1.0, "imperial": FOOT_M}
ANGLES_DEG = {"°": 1.0, "deg": 1.0, "rad": 180.0 / math.pi}
SECONDS = {"s": 1.0, "sec": 1.0, "ms": 0.001, "min": 60.0}
FURTHEST_M = 10_000.0
LONGEST = 200
"""Letters of a typed value: brackets in brackets are read one within the other."""

_TOKEN = re.compile(r"\s*(?:(?P<number>\d+(?:[.,]\d+)?|[.,]\d+)|(?P<word>[A-Za-zµ°]+)|(?P<sign>['\"′″+\-*/()×−–]))")
_SAME_SIGN = {"×": "*", "−": "-", "–": "-"}


@dataclass(frozen=True)
class _Term:
    """A value with the power of its unit: 0 a plain number, 1 a length (or angle)."""

    value: float
    power: int


class _Reader:
    """Recursive descent over sums, products and bracketed terms."""

    def __init__(self, text: str, units: dict[str, float], kind: str, examples: str) -> None:
        self.text, self.units, self.kind, self.examples = text, units, kind, examples
        self.tokens = self._tokens()
        self.at = 0

    def wrong(self, why: str) -> JobError:
        return JobError(f"“{self.text.strip()}” is not {self.kind}: {why} Type for instance {self.examples}.")

    def _tokens(self) -> list[tuple[str, str]]:
        if len(self.text) > LONGEST:
            raise JobError(f"What was typed is too long for {self.kind}. Type for instance {self.examples}.")
        tokens, place, text = [], 0, self.text.rstrip()
        while place < len(text):
            match = _TOKEN.match(text, place)
            if match is None:
                raise self.wrong(f"“{text[place:].strip()[:12]}” does not belong there.")
            kind = str(match.lastgroup)
            tokens.append((kind, _SAME_SIGN.get(match[kind], match[kind])))
            place = match.end()
        if not tokens:
            raise JobError(f"Nothing was typed where {self.kind} belongs. Type for instance {self.examples}.")
        return tokens

    def peek(self) -> tuple[str, str]:
        return self.tokens[self.at] if self.at < len(self.tokens) else ("end", "")

    def sum(self) -> _Term:
        total = self.product()
        while self.peek()[1] in ("+", "-"):
            sign = 1.0 if self.tokens[self.at][1] == "+" else -1.0
            self.at += 1
            part = self.product()
            if part.power != total.power:
                raise self.wrong("one part has a unit and the other has none.")
            total = _Term(total.value + sign * part.value, total.power)
        return total

    def product(self) -> _Term:
        result = self.factor()
        while self.peek()[1] in ("*", "/"):
            divide = self.tokens[self.at][1] == "/"
            self.at += 1
            part = self.factor()
            if divide and part.value == 0.0:
                raise self.wrong("it divides by nothing.")
            value = result.value / part.value if divide else result.value * part.value
            result = _Term(value, result.power - part.power if divide else result.power + part.power)
        return result

    def factor(self) -> _Term:
        kind, word = self.peek()
        self.at += 1
        if word in ("+", "-"):
            inner = self.factor()
            return _Term(inner.value if word == "+" else -inner.value, inner.power)
        if word == "(":
            inner = self.sum()
            if self.peek()[1] != ")":
                raise self.wrong("a bracket is not closed.")
            self.at += 1
            return self.with_unit(inner)
        if kind != "number":
            raise self.wrong("a number is missing." if kind == "end" else f"“{word}” stands where a number belongs.")
        value = float(word.replace(",", "."))
        # 3 3/8: a whole number and a fraction, as inches are written.
        shape = [token[0] if token[0] == "number" else token[1] for token in self.tokens[self.at : self.at + 3]]
        if shape == ["number", "/", "number"] and float(self.tokens[self.at + 2][1]) > 0:
            value += float(self.tokens[self.at][1]) / float(self.tokens[self.at + 2][1])
            self.at += 3
        term = self.with_unit(_Term(value, 0))
        # 20'6" and 20ft 6in: feet followed by inches add up.
        if term.power == 1 and self.peek()[0] == "number":
            following = self.factor()
            if following.power != 1:
                raise self.wrong("the last part has no unit.")
            term = _Term(term.value + following.value, 1)
        return term

    def with_unit(self, term: _Term) -> _Term:
        kind, word = self.peek()
        if kind != "word" and word not in self.units:
            return term
        if word.lower() not in self.units:
            known = ", ".join(unit for unit in self.units if unit.isascii())
            raise self.wrong(f"the unit “{word}” is not known. Known are {known}.")
        self.at += 1
        return _Term(term.value * self.units[word.lower()], term.power + 1)

    def whole(self) -> _Term:
        result = self.sum()
        if self.at < len(self.tokens):
            raise self.wrong(f"“{self.peek()[1]}” does not belong there.")
        return result


def parse_length(text: str, system: str = "metric") -> float:
    """Read a typed length; return metres. `system` is the show's: metric or imperial. Raises JobError."""
    reader = _Reader(text, UNITS_M, "a length", "6, 450mm or 20'6\"")
    term = reader.whole()
    if term.power not in (0, 1):
        raise reader.wrong("it multiplies or divides one length by another.")
    metres = term.value * (OWN_UNIT[system] if term.power == 0 else 1.0)
    if not math.isfinite(metres) or abs(metres) > FURTHEST_M:
        raise reader.wrong("it is longer than 10 km.")
    return metres


def parse_angle_deg(text: str) -> float:
    """Read a typed angle; return degrees. Raises JobError."""
    reader = _Reader(text, ANGLES_DEG, "an angle", "45 or 22.5°")
    value = reader.whole().value
    if not math.isfinite(value) or abs(value) > 36_000:
        raise reader.wrong("it is more than a hundred turns.")
    return value


def parse_seconds(text: str) -> float:
    """Read a typed time; return seconds. `1:30` is a minute and a half. Raises JobError."""
    clock = re.fullmatch(r"\s*(\d{1,4}):(\d{1,2}(?:[.,]\d+)?)\s*", text)
    if clock:
        return 60.0 * int(clock[1]) + float(clock[2].replace(",", "."))
    reader = _Reader(text, SECONDS, "a time", "4, 2.5s or 1:30")
    value = reader.whole().value
    if not math.isfinite(value) or abs(value) > 86_400:
        raise reader.wrong("it is longer than a day.")
    return value


def parse_count(text: str, least: int = 1, most: int = 10_000) -> int:
    """Read a typed whole number within limits. Raises JobError."""
    if not re.fullmatch(r"\s*\d{1,9}\s*", text) or not least <= int(text) <= most:
        raise JobError(f"“{text.strip()}” is not a count: type a whole number from {least} to {most}.")
    return int(text)


@dataclass(frozen=True)
class Typed:
    """What was typed into a field of one or more things: absolute, relative, or spread over them."""

    first: float
    last: float
    relative: bool = False

    def values(self, present: list[float]) -> list[float]:
        """The new value for each thing, in order, from its present one."""
        count = len(present)
        if self.relative:
            return [value + self.first for value in present]
        if count == 1 and self.first != self.last:
            return [(self.first + self.last) / 2]
        return [self.first + (self.last - self.first) * (i / (count - 1) if count > 1 else 0.0) for i in range(count)]


SIDES = {
    "sl": ("x", 1.0),
    "sr": ("x", -1.0),
    "us": ("y", 1.0),
    "ds": ("y", -1.0),
    "up": ("z", 1.0),
    "down": ("z", -1.0),
}


def _one(text: str, quantity: str, system: str, axis: str | None) -> float:
    body, sign = text.strip(), 1.0
    words = re.match(r"^(?:(sl|sr|us|ds|up|down)\b\s*(.*)|(.*?)\s*\b(sl|sr|us|ds|up|down))$", body, re.IGNORECASE)
    if words and axis:
        side = (words[1] or words[4]).lower()
        if SIDES[side][0] != axis:
            names = " or ".join(name.upper() for name, (its, _) in SIDES.items() if its == axis)
            raise JobError(f"“{body}” names a side of another axis: this field takes {names}.")
        sign, body = SIDES[side][1], (words[2] if words[1] else words[3])
    return sign * (parse_length(body, system) if quantity == "length" else parse_angle_deg(body))


def parse_typed(text: str, quantity: str = "length", system: str = "metric", axis: str | None = None) -> Typed:
    """Read a field that may be relative, spread (`-4.2 to 7`) or absolute (`4`, `=-4`, `SR 4`).

    `quantity` is length or angle; `axis` (x, y, z) lets the sides of the stage be named. A length is relative with `+`
    or `-` before it; an angle is what it says, for many are negative, and relative with `+=` or `-=`. Metres or
    degrees. Raises JobError.
    """
    body = text.strip()
    change = re.match(r"^([-+−])=\s*(.+)$", body)
    if change is not None:
        step = _one(f"{change[1]}({change[2]})", quantity, system, None)
        return Typed(step, step, relative=True)
    ends = re.split(r"\s+to\s+", body)
    if len(ends) == 2:
        return Typed(_one(ends[0].lstrip("="), quantity, system, axis), _one(ends[1], quantity, system, axis))
    if body[:1] in ("+", "-", "−") and len(body) > 1 and quantity == "length":
        step = _one(body, quantity, system, None)
        return Typed(step, step, relative=True)
    value = _one(body[1:] if body[:1] == "=" else body, quantity, system, axis)
    return Typed(value, value)


def format_length(metres: float, system: str = "metric") -> str:
    """Write a length in the show's unit: `7.40 m`, or feet and inches to a sixteenth: `24' 3 3/8"`."""
    if system == "metric":
        return f"{metres:.2f} m"
    sixteenths = round(abs(metres) / INCH_M * 16)
    feet, rest = divmod(sixteenths, 12 * 16)
    inches, part = divmod(rest, 16)
    fraction = ""
    if part:
        common = math.gcd(part, 16)
        fraction = f" {part // common}/{16 // common}"
    return f"{'-' if metres < 0 and sixteenths else ''}{feet}' {inches}{fraction}\""
