"""The small values of MVR's XML: matrices in millimetres, addresses, UUIDs, colours."""

from __future__ import annotations

import math
import re
import uuid

from zarfwright.core.dmx.rows import SLOTS
from zarfwright.core.exchange.rows import Rows
from zarfwright.core.exchange.scene import OURS
from zarfwright.core.patch import LAST_UNIVERSE
from zarfwright.core.space import Vec

FAR_M = 100_000.0
"""Nothing of a show is further away than this."""
_ROW = re.compile(r"\{([^{}]*)\}")


def read_number(text: str) -> float:
    """A finite number, with a comma or a point. Raises ValueError."""
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(f"“{text.strip()[:40]}” is not a finite number")
    return value


def read_matrix(text: str) -> Rows:
    """`{u}{v}{w}{o}`, rows of three, the last one millimetres; four rows of four are taken without their last column,
    nine numbers as a turn at the origin. Raises ValueError."""
    rows = [[read_number(part) for part in re.split(r"[,;\s]+", row.strip())] for row in _ROW.findall(text)]
    if len(rows) == 3:
        rows.append([0.0, 0.0, 0.0])
    if len(rows) != 4 or any(len(row) not in (3, 4) for row in rows):
        raise ValueError(f"“{text.strip()[:40]}” is no matrix of four rows of three")
    u, v, w, o = ((row[0], row[1], row[2]) for row in rows)
    made: Rows = (u, v, w, (o[0] / 1000.0, o[1] / 1000.0, o[2] / 1000.0))
    if max(abs(part) for part in made[3]) > FAR_M:
        raise ValueError("it lies further away than anything of a show")
    if max(abs(part) for row in made[:3] for part in row) > 1e6:
        raise ValueError("it is a million times as large as it is drawn")
    return made


def _written(value: float) -> str:
    made = f"{value:.12f}".rstrip("0").rstrip(".")
    return "0" if made in ("-0", "") else made


def write_matrix(rows: Rows) -> str:
    """Twelve decimals of the axes, a millionth of a millimetre of the place."""
    axes = "".join("{" + ",".join(_written(part) for part in row) + "}" for row in rows[:3])
    return axes + "{" + ",".join(_written(round(part * 1000.0, 6)) for part in rows[3]) + "}"


def read_address(text: str) -> tuple[int, int] | None:
    """Universe and slot of `513` (counted on from universe 1) or `2.1`; None of 0, which is no address. Raises
    ValueError."""
    plain = text.strip()
    if re.fullmatch(r"\d{1,7}\.\d{1,4}", plain):
        universe, slot = (int(part) for part in plain.split("."))
    elif re.fullmatch(r"-?\d{1,9}", plain):
        whole = int(plain)
        if whole == 0:
            return None
        universe, slot = (whole - 1) // SLOTS + 1, (whole - 1) % SLOTS + 1
    else:
        raise ValueError(f"“{plain[:40]}” is no address")
    if (universe, slot) == (0, 0):
        return None
    if not 1 <= universe <= LAST_UNIVERSE or not 1 <= slot <= SLOTS:
        raise ValueError(f"“{plain[:40]}” is an address that no universe has")
    return universe, slot


def write_address(universe: int, slot: int) -> str:
    """Counted on from the first slot of universe 1: the older form, which every reader knows."""
    return str((universe - 1) * SLOTS + slot)


def read_uuid(text: str) -> tuple[str, bool]:
    """32 hexadecimal digits, and whether the text was a UUID; of what is none, one is made."""
    try:
        return uuid.UUID(text.strip()).hex, True
    except ValueError:
        return uuid.uuid5(OURS, text.strip()).hex, False


def read_colour(text: str) -> Vec:
    """`x,y,Y`. Raises ValueError."""
    parts = [read_number(part) for part in re.split(r"[,;\s]+", text.strip()) if part]
    if len(parts) != 3:
        raise ValueError(f"“{text.strip()[:40]}” is no CIE xyY colour")
    x, y, luminance = parts
    if not (0 <= x <= 1 and 0 < y <= 1 and 0 <= luminance <= 100):
        raise ValueError(f"“{text.strip()[:40]}” is a colour that no light has")
    return x, y, luminance


def write_colour(colour: Vec) -> str:
    return ",".join(f"{part:.6f}" for part in colour)
