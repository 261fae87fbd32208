"""Plans from DXF files, as lines by layer in metres; by ezdxf, which is imported when first needed."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass
from typing import Any

from zarfwright.formats.findings import FormatError, Oddity

BYTES_MAX = 100_000_000
POINTS_MAX = 400_000
BLOCKS_DEEP = 8
CHORD_SHARE = 2e-4
"""How far a chord may lie off its curve, as a share of the whole drawing's size."""
# $INSUNITS of the header (DXF reference): metres in a unit.
UNITS: dict[int, tuple[str, float]] = {
    1: ("in", 0.0254), 2: ("ft", 0.3048), 4: ("mm", 0.001), 5: ("cm", 0.01), 6: ("m", 1.0), 10: ("yd", 0.9144),
    14: ("dm", 0.1),
}  # fmt: skip
DRAWN = {"LINE", "LWPOLYLINE", "POLYLINE", "CIRCLE", "ARC", "ELLIPSE", "SPLINE", "SOLID", "TRACE"}


@dataclass(frozen=True)
class DxfPlan:
    """A drawing: its lines (each a list of x, y in its own units) by layer, and what a unit is said to be in metres."""

    lines: dict[str, list[list[tuple[float, float]]]]
    unit: str | None
    metres: float | None
    """None where the file does not say."""
    low: tuple[float, float]
    high: tuple[float, float]

    @property
    def points(self) -> int:
        return sum(len(line) for lines in self.lines.values() for line in lines)


def _document(data: bytes, file_name: str) -> Any:
    from ezdxf import recover
    from ezdxf.lldxf.const import DXFError

    if len(data) > BYTES_MAX:
        raise FormatError(f"{file_name} is larger than {BYTES_MAX // 1_000_000} MB: export only what is needed of it.")
    if b"\0" in data[:2000] and not data.startswith(b"AutoCAD Binary DXF"):
        raise FormatError(f"{file_name} is no DXF file: export the plan as DXF.")
    try:
        document, _ = recover.read(io.BytesIO(data))
    except (DXFError, OSError, ValueError, IndexError, KeyError, TypeError, AttributeError) as wrong:
        raise FormatError(f"{file_name} is no DXF file that can be read ({wrong}): export the plan as DXF.") from wrong
    return document


def _flat(entity: Any, chord: float) -> list[tuple[float, float]]:
    from ezdxf.path import make_path

    return [(float(v.x), float(v.y)) for v in make_path(entity).flattening(chord)]


def _entities(space: Any, deep: int, counts: dict[str, int], inserted: str = "0") -> Any:
    """All that is drawn with its layer, blocks opened; what is left out is counted. What stands on layer 0 in a block
    is on the layer that the block is inserted on (DXF reference, INSERT)."""
    for entity in space:
        kind = entity.dxftype()
        own = str(entity.dxf.get("layer", "0"))[:80]
        layer = inserted if own == "0" else own
        if kind == "INSERT" and deep < BLOCKS_DEEP:
            try:
                yield from _entities(entity.virtual_entities(), deep + 1, counts, layer)
            except Exception:  # a block that cannot be opened is left out like any other
                counts[kind] = counts.get(kind, 0) + 1
        elif kind in DRAWN:
            yield entity, layer
        else:
            counts[kind] = counts.get(kind, 0) + 1


def read_dxf(data: bytes, file_name: str) -> tuple[DxfPlan, list[Oddity]]:
    """Read a plan. Raises FormatError when it is no DXF or holds nothing that is drawn."""
    document = _document(data, file_name)
    left: dict[str, int] = {}
    lines: dict[str, list[list[tuple[float, float]]]] = {}
    findings: list[Oddity] = []
    size = _size(document)
    count = odd = 0
    for entity, layer in _entities(document.modelspace(), 0, left):
        try:
            points = _flat(entity, max(size * CHORD_SHARE, 1e-9))
        except Exception:  # ezdxf raises whatever its geometry raises
            odd += 1
            continue
        if len(points) < 2 or not all(math.isfinite(v) and abs(v) < 1e9 for point in points for v in point):
            odd += 1
            continue
        count += len(points)
        if count > POINTS_MAX:
            findings.append(Oddity(file_name, f"it has more than {POINTS_MAX} points", "the rest was left out"))
            break
        lines.setdefault(layer, []).append(points)
    if not lines:
        raise FormatError(f"{file_name} holds nothing that is drawn in plan: export lines, outlines or blocks of them.")
    findings += [Oddity(file_name, f"{n} of {kind}", "left out") for kind, n in sorted(left.items())]
    if odd:
        findings.append(Oddity(file_name, f"{odd} things that are no lines with a size", "left out"))
    unit = UNITS.get(int(document.header.get("$INSUNITS", 0) or 0))
    every = [point for some in lines.values() for line in some for point in line]
    xs, ys = [p[0] for p in every], [p[1] for p in every]
    plan = DxfPlan(lines, unit[0] if unit else None, unit[1] if unit else None, (min(xs), min(ys)), (max(xs), max(ys)))
    return plan, findings


def _size(document: Any) -> float:
    """The size of the drawing by its header, 100 where that says nothing of use."""
    low, high = document.header.get("$EXTMIN", (0, 0, 0)), document.header.get("$EXTMAX", (100, 100, 0))
    try:
        size = max(float(high[0]) - float(low[0]), float(high[1]) - float(low[1]))
    except (TypeError, ValueError, IndexError):
        return 100.0
    return size if math.isfinite(size) and 0 < size < 1e9 else 100.0
