"""IES LM-63 photometry (1986 to 2002): read into a web, and written back as LM-63-2002.

Type C is read whole: round, quarter, half and full symmetry. Types A and B are refused with a reason.
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


def _numbers(text: str, file_name: str) -> Floats:
    parts = re.split(r"[\s,]+", text.strip())
    if len(parts) > VALUES_MAX:
        raise FormatError(f"{file_name} holds more than {VALUES_MAX} numbers: it is refused.")
    try:
        values = np.array([float(part) for part in parts])
    except ValueError as wrong:
        raise FormatError(f"{file_name} is no IES file that can be read: {wrong}.") from wrong
    if not np.all(np.isfinite(values)):
        raise FormatError(f"{file_name} holds numbers that are not finite.")
    return values


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


def read_ies(data: bytes, file_name: str) -> tuple[Web, list[Oddity]]:
    """Read an IES file: candela with all its multipliers in them. Raises FormatError when it cannot be used."""
    if len(data) > BYTES_MAX:
        raise FormatError(f"{file_name} is larger than {BYTES_MAX // 1_000_000} MB: it is no IES file.")
    text = data.decode("utf-8", errors="replace").replace("\r\n", "\n").replace("\r", "\n")
    found = re.search(r"^\s*TILT\s*=\s*(\S+)\s*$", text, re.MULTILINE | re.IGNORECASE)
    if found is None:
        raise FormatError(f"{file_name} has no line TILT=: it is no IES photometry file. Choose another.")
    values = _numbers(text[found.end() :], file_name)
    at, findings = _tilt(found[1], values, file_name)
    if len(values) < at + 13:
        raise FormatError(f"{file_name} ends before its angles: it was cut short.")
    head = values[at : at + 13]
    vertical = _count(head[3], "vertical angles", file_name)
    horizontal = _count(head[4], "horizontal angles", file_name)
    kind = int(head[5]) if abs(head[5]) < 100 else 0
    at += 13
    if kind != 1:
        raise FormatError(
            f"{file_name} is photometry of type {'CBA'[kind - 1] if 1 <= kind <= 3 else kind}: only type C is read."
        )
    if vertical < 2 or horizontal < 1 or len(values) < at + vertical + horizontal + vertical * horizontal:
        raise FormatError(f"{file_name} promises {vertical} x {horizontal} candela and holds fewer: it was cut short.")
    gamma, phi = values[at : at + vertical], values[at + vertical : at + vertical + horizontal]
    at += vertical + horizontal
    candela = values[at : at + vertical * horizontal].reshape(horizontal, vertical) * head[2] * head[10] * head[11]
    if np.any(np.diff(gamma) <= 0) or np.any(np.diff(phi) <= 0) or np.any(candela < 0):
        raise FormatError(f"{file_name}: its angles do not rise, or its candela are below zero.")
    _require_light(candela, file_name)
    whole, mirrored = _whole_turn(phi, candela, file_name)
    if head[0] > 0 and head[1] > 0:
        web = Web(np.radians(gamma), np.radians(whole), mirrored)
        said, real = float(head[0] * head[1] * head[10] * head[11]), web.flux_lm
        if real > 1.02 * said:
            findings.append(
                Oddity("Lumens", f"its lamp gives {said:.0f} lm, its candela {real:.0f}", "candela are used")
            )
    return Web(np.radians(gamma), np.radians(whole), mirrored), findings


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
