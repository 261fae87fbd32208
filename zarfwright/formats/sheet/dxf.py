"""A sheet as DXF (R2018): millimetres of paper, a layer for each meaning with its line weight, words as true text."""

from __future__ import annotations

import io
from typing import Any

from zarfwright.core.sheet.marks import Circle, Drawing, Line, Mark, Words
from zarfwright.core.sheet.pens import CENTRE, DOTTED, LAYERS, OVERHEAD, PENS, Pen

LINETYPES = {OVERHEAD: "OVERHEAD", CENTRE: "CENTRE_LINE", DOTTED: "DOTTED_FINE"}
WEIGHTS = (0, 5, 9, 13, 15, 18, 20, 25, 30, 35, 40, 50, 53, 60, 70, 80, 90, 100)
"""Line weights that DXF knows, hundredths of a millimetre."""


def _weight(pen: Pen) -> int:
    return min(WEIGHTS, key=lambda one: abs(one - pen.width_mm * 100))


def _attributes(mark: Mark) -> dict[str, Any]:
    pen = PENS[mark.pen]
    level = round(255 * pen.grey)
    made: dict[str, Any] = {"layer": pen.layer, "lineweight": _weight(pen)}
    if level:
        made["true_color"] = level << 16 | level << 8 | level
    if pen.dash:
        made["linetype"] = LINETYPES[pen.dash]
    return made


def _add(space: Any, mark: Mark) -> None:
    if not mark.pen:
        # Paper under words: in a drawing that is worked on further there is nothing to hide.
        return
    if isinstance(mark, Line):
        space.add_lwpolyline(mark.points, close=mark.closed, dxfattribs=_attributes(mark))
        if mark.paint in ("black", "solid"):
            hatch = space.add_hatch(dxfattribs={"layer": PENS[mark.pen].layer})
            hatch.paths.add_polyline_path(mark.points, is_closed=True)
    elif isinstance(mark, Circle):
        space.add_circle(mark.at, mark.radius_mm, dxfattribs=_attributes(mark))
    else:
        _add_words(space, mark)


def _add_words(space: Any, mark: Words) -> None:
    from ezdxf.enums import TextEntityAlignment

    # No line ends in a TEXT, and ^ and % begin codes there.
    text = " ".join(mark.text.split()).replace("^", "^ ").replace("%%", "% %")
    made = space.add_text(text, height=mark.size_mm, rotation=mark.turn_deg,
                          dxfattribs={**_attributes(mark), "linetype": "CONTINUOUS",
                                      "style": "SHEET-BOLD" if mark.bold else "SHEET"})  # fmt: skip
    align = {"start": "LEFT", "middle": "CENTER", "end": "RIGHT"}[mark.anchor]
    made.set_placement(mark.at, align=TextEntityAlignment[align])


def sheet_dxf(drawing: Drawing) -> bytes:
    """The sheet as a DXF file; one unit is a millimetre of paper."""
    from ezdxf import document, units
    from ezdxf._options import options

    # What ezdxf writes of itself and of the hour would make every file another one.
    options.write_fixed_meta_data_for_testing = True
    doc = document.Drawing.new("R2018")
    doc.units = units.MM
    doc.header["$LIMMIN"], doc.header["$LIMMAX"] = (0.0, 0.0), (drawing.width_mm, drawing.height_mm)
    doc.header["$EXTMIN"], doc.header["$EXTMAX"] = (0.0, 0.0, 0.0), (drawing.width_mm, drawing.height_mm, 0.0)
    for dash, name in LINETYPES.items():
        lengths = [part * (1 if k % 2 == 0 else -1) for k, part in enumerate(dash)]
        doc.linetypes.add(name, [sum(dash), *lengths], description=name.lower().replace("_", " "))
    doc.styles.add("SHEET", font="DejaVuSansCondensed.ttf")
    doc.styles.add("SHEET-BOLD", font="DejaVuSansCondensed-Bold.ttf")
    for layer in LAYERS:
        pens = [pen for pen in PENS.values() if pen.layer == layer]
        doc.layers.add(layer, lineweight=max(_weight(pen) for pen in pens))
    space = doc.modelspace()
    for mark in drawing.marks:
        _add(space, mark)
    doc.classes.classes = dict(sorted(doc.classes.classes.items()))
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode("utf-8", "surrogateescape")
