"""IES LM-63 photometry (1986 to 2002): read into a web, and written back as LM-63-2002.

Type C is read whole: round, quarter, half and full symmetry. Types A and B (floods, car lamps) are brought to the
angles of type C. Words behind the last number are passed over, and said.
"""

from __future__ import annotations

import re

import numpy as np

from zarfwright.core.optics.web import Web
from zarfwright.core.space import Floats
from zarfwright.formats.findings import FormatError, Oddity

BYTES_MAX = 4_000_000
VALUES_MAX = 400_000
CANDELA_MOST = 1e10


def _decoded(data: bytes) -> str:
    """The text of a file, in whatever it was written: UTF-16 with a mark or without, else UTF-8."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        text = data.decode("utf-16", errors="replace")
    elif data[:200].count(b"\0") > len(data[:200]) // 4:
        text = data.decode("utf-16-be" if data[:1] == b"\0" else "utf-16-le", errors="replace")
    else:
        text = data.decode("utf-8-sig", errors="replace")
    return text.replace("\r\n", "\n").replace("\r", "\n")


def _numbers(text: str, file_name: str) -> tuple[Floats, str]:
    """The numbers at the beginning of a text, and the first words behind them."""
    parts = re.split(r"[\s,]+", text.strip(), maxsplit=VALUES_MAX + 1)
    if len(parts) > VALUES_MAX:
        raise FormatError(f"{file_name} holds more than {VALUES_MAX} numbers: it is refused.")
    values: list[float] = []
    rest = ""
    for n, part in enumerate(parts):
        try:
            values.append(float(part))
        except ValueError:
            rest = " ".join(parts[n : n + 5])
            break
    numbers = np.array(values)
    if not np.all(np.isfinite(numbers)):
        raise FormatError(f"{file_name} holds numbers that are not finite.")
    return numbers, rest


def _whole_turn(phi: Floats, candela: Floats, file_name: str) -> tuple[Floats, Floats]:
    """Horizontal angles in degrees over the whole turn, by the symmetry that the last angle tells."""
    last = phi[-1]
    if len(phi) == 1 or last == 0:
        return np.array([0.0, 360.0]), np.stack([candela[0], candela[0]])
    if phi[0] == 0 and last == 90:
        phi, candela = np.concatenate([phi, 180 - phi[-2::-1]]), np.concatenate([candela, candela[-2::-1]])
        last = 180.0
    if phi[0] == 90 and last == 270:
        # Symmetric about the plane 90-270: what is given lies to one side of it.
        full = np.concatenate([phi, 540 - phi[-2::-1]]) % 360
        both = np.concatenate([candela, candela[-2::-1]])
        full, first = np.unique(full, return_index=True)
        both = both[first]
        return np.concatenate([full, [full[0] + 360]]), np.concatenate([both, both[:1]])
    if phi[0] == 0 and last == 180:
        return np.concatenate([phi, 360 - phi[-2::-1]]), np.concatenate([candela, candela[-2::-1]])
    if phi[0] == 0 and 180 < last < 360:
        return np.concatenate([phi, [360.0]]), np.concatenate([candela, candela[:1]])
    if phi[0] == 0 and last == 360:
        return phi, candela
    raise FormatError(f"{file_name}: its horizontal angles run from {phi[0]:g} to {last:g}, which says no symmetry.")


def _as_type_c(vertical: Floats, horizontal: Floats, candela: Floats, kind: int) -> tuple[Floats, Floats, Floats]:
    """Angles off the axis and about it (degrees, the whole turn), and candela, of photometry of type B (2) or A (3).

    LM-63-2002, 5.4: both look along the axis at 0, 0. Type B turns by V about the horizontal axis, H leads towards
    it; type A turns by H about the vertical axis, V leads towards it. Half a table is the mirror image of the other.
    """
    from scipy.interpolate import RegularGridInterpolator

    mirror_h, mirror_v = horizontal[0] >= 0 and len(horizontal) > 1, vertical[0] >= 0
    if len(horizontal) == 1:
        horizontal, candela = np.array([-180.0, 180.0]), np.repeat(candela, 2, axis=0)
    table = RegularGridInterpolator((horizontal, vertical), candela, bounds_error=False, fill_value=0.0)
    step = max(min(float(np.diff(vertical).min()), float(np.diff(horizontal).min()), 5.0), 0.5)
    gamma, phi = np.linspace(0, 180, round(180 / step) + 1), np.linspace(0, 360, 145)
    off, about = np.meshgrid(np.radians(gamma), np.radians(phi))
    x, y, along = np.sin(off) * np.cos(about), np.sin(off) * np.sin(about), np.cos(off)
    if kind == 2:
        h, v = np.arcsin(np.clip(x, -1, 1)), np.arctan2(y, along)
    else:
        h, v = np.arctan2(x, along), np.arcsin(np.clip(y, -1, 1))
    h, v = np.abs(h) if mirror_h else h, np.abs(v) if mirror_v else v
    found = table(np.stack([np.degrees(h), np.degrees(v)], axis=-1))
    return gamma, phi, np.asarray(found, dtype=float)


def _count(value: float, of: str, file_name: str) -> int:
    """A count as the file says it. Raises FormatError where it is none."""
    if not 1 <= value <= VALUES_MAX or value != int(value):
        raise FormatError(f"{file_name} says that it has {value:g} {of}: it is damaged. Ask its maker for another.")
    return int(value)


def _tilt(said: str, values: Floats, file_name: str) -> tuple[int, list[Oddity]]:
    """Where the numbers after the tilt's begin, and what to say of it."""
    if said.upper() == "INCLUDE":
        count = _count(values[1], "angles of tilt", file_name) if len(values) > 1 else 0
        return 2 + 2 * count, [Oddity("TILT", "it tells how output changes as the lamp is tilted", "not used")]
    if said.upper() != "NONE":
        return 0, [Oddity("TILT", f"it names another file, {said[:60]}", "taken as none")]
    return 0, []


def _require_light(candela: Floats, file_name: str) -> None:
    """Raises FormatError where these are the candela of no lamp."""
    if candela.max() > CANDELA_MOST:
        raise FormatError(f"{file_name} gives {candela.max():.3g} candela, more than any lamp: it is damaged.")
    if candela.max() <= 0:
        raise FormatError(f"{file_name} gives no light in any direction.")


def _table(values: Floats, at: int, file_name: str, behind: str) -> tuple[Floats, Floats, Floats, Floats, int]:
    """Ten numbers and three of a head, vertical and horizontal angles in degrees, candela (horizontal, vertical) with
    their multipliers, and the type (1 is C, 2 B, 3 A). Raises FormatError."""
    if len(values) < at + 13:
        raise FormatError(f"{file_name} ends before its angles: it was cut short{behind}.")
    head = values[at : at + 13]
    vertical = _count(head[3], "vertical angles", file_name)
    horizontal = _count(head[4], "horizontal angles", file_name)
    kind = int(head[5]) if abs(head[5]) < 100 else 0
    at += 13
    if kind not in (1, 2, 3):
        raise FormatError(f"{file_name} is photometry of type {kind}: there are 1 to 3. It is damaged.")
    if vertical < 2 or len(values) < at + vertical + horizontal + vertical * horizontal:
        raise FormatError(
            f"{file_name} promises {vertical} x {horizontal} candela and holds fewer: it was cut short{behind}."
        )
    gamma, phi = values[at : at + vertical], values[at + vertical : at + vertical + horizontal]
    at += vertical + horizontal
    candela = values[at : at + vertical * horizontal].reshape(horizontal, vertical) * head[2] * head[10] * head[11]
    if np.any(np.diff(gamma) <= 0) or np.any(np.diff(phi) <= 0) or np.any(candela < 0):
        raise FormatError(f"{file_name}: its angles do not rise, or its candela are below zero.")
    _require_light(candela, file_name)
    return head, gamma, phi, candela, kind


def read_ies(data: bytes, file_name: str) -> tuple[Web, list[Oddity]]:
    """Read an IES file: candela with all its multipliers in them. Raises FormatError when it cannot be used."""
    if len(data) > BYTES_MAX:
        raise FormatError(f"{file_name} is larger than {BYTES_MAX // 1_000_000} MB: it is no IES file.")
    text = _decoded(data)
    found = re.search(r"^\s*TILT\s*=\s*(\S+)\s*$", text, re.MULTILINE | re.IGNORECASE)
    if found is None:
        raise FormatError(f"{file_name} has no line TILT=: it is no IES photometry file. Choose another.")
    values, rest = _numbers(text[found.end() :], file_name)
    behind = f" (“{rest[:40]}” stands where a number should)" if rest else ""
    at, findings = _tilt(found[1], values, file_name)
    if rest and len(values) < 10:
        raise FormatError(f"{file_name} is no IES file that can be read{behind}.")
    head, gamma, phi, candela, kind = _table(values, at, file_name, behind)
    if rest:
        findings.append(Oddity("Candela", f"behind the last number stands “{rest[:60]}”", "passed over"))
    if kind == 1:
        whole, around = _whole_turn(phi, candela, file_name)
    else:
        gamma, whole, around = _as_type_c(gamma, phi, candela, kind)
        findings.append(Oddity("Photometry", f"it is of type {'CBA'[kind - 1]}", "brought to the angles of type C"))
    web = Web(np.radians(gamma), np.radians(whole), around)
    if head[0] > 0 and head[1] > 0:
        said, real = float(head[0] * head[1] * head[10] * head[11]), web.flux_lm
        if real > 1.02 * said:
            findings.append(
                Oddity("Lumens", f"its lamp gives {said:.0f} lm, its candela {real:.0f}", "candela are used")
            )
    return web, findings


def write_ies(web: Web, name: str) -> bytes:
    """A web as LM-63-2002."""
    gamma, phi = np.degrees(web.gamma), np.degrees(web.phi)
    lines = ["IESNA:LM-63-2002", f"[TEST] {name}", f"[LUMINAIRE] {name}", "TILT=NONE"]
    lines.append(f"1 -1 1 {len(gamma)} {len(phi)} 1 2 0 0 0")
    lines.append("1 1 0")
    lines.append(" ".join(f"{angle:.4f}" for angle in gamma))
    lines.append(" ".join(f"{angle:.4f}" for angle in phi))
    lines += [" ".join(f"{value:.2f}" for value in row) for row in web.candela]
    return ("\r\n".join(lines) + "\r\n").encode()
