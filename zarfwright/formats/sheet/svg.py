"""A sheet as SVG in millimetres, by a writer of our own: a group for each layer's run, each part with its name."""

from __future__ import annotations

import base64
from itertools import groupby
from xml.sax.saxutils import escape, quoteattr

from zarfwright.core.sheet.marks import Circle, Drawing, Line, Mark, Words
from zarfwright.core.sheet.pens import FACE, PAINTS, PENS
from zarfwright.formats.sheet.faces import BOLD, REGULAR, part_of, shown

ANCHORS = {"start": "", "middle": ' text-anchor="middle"', "end": ' text-anchor="end"'}


def _n(value: float) -> str:
    """A number to a thousandth of a millimetre, as short as it can be."""
    text = f"{value:.3f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def _grey(share: float) -> str:
    level = round(255 * share)
    return f"#{level:02x}{level:02x}{level:02x}"


def _stroke(pen: str, paint: str) -> str:
    fill = _grey(PAINTS[paint]) if paint else "none"
    if not pen:
        return f'fill="{fill}" stroke="none"'
    one = PENS[pen]
    dash = f' stroke-dasharray="{" ".join(_n(part) for part in one.dash)}"' if one.dash else ""
    return f'fill="{fill}" stroke="{_grey(one.grey)}" stroke-width="{_n(one.width_mm)}"{dash}'


def _mark(mark: Mark, high: float) -> str:
    if isinstance(mark, Line):
        first, *others = [f"{_n(x)} {_n(high - y)}" for x, y in mark.points]
        end = "Z" if mark.closed else ""
        return f'<path d="M{first}L{" ".join(others)}{end}" {_stroke(mark.pen, mark.paint)}/>'
    x, y = mark.at[0], high - mark.at[1]
    if isinstance(mark, Circle):
        return f'<circle cx="{_n(x)}" cy="{_n(y)}" r="{_n(mark.radius_mm)}" {_stroke(mark.pen, mark.paint)}/>'
    return _words(mark, x, y)


def _words(mark: Words, x: float, y: float) -> str:
    turn = f' transform="rotate({_n(-mark.turn_deg)} {_n(x)} {_n(y)})"' if mark.turn_deg else ""
    of = f" data-of={quoteattr(mark.of)}" if mark.of else ""
    size = _n(mark.size_mm / FACE)
    # As a style: a page that it stands in has rules of its own for letters.
    style = f"font:{700 if mark.bold else 400} {size}px Sheet,sans-serif"
    return (f'<text x="{_n(x)}" y="{_n(y)}" style="{style}" fill="{_grey(PENS[mark.pen].grey)}"'
            f"{ANCHORS[mark.anchor]}{turn}{of}>{escape(shown(mark.text))}</text>")  # fmt: skip


def _letters(drawing: Drawing) -> str:
    """The faces themselves, cut down to what is said."""
    rules = []
    for face, weight, bold in ((REGULAR, 400, False), (BOLD, 700, True)):
        signs = [shown(mark.text) for mark in drawing.marks if isinstance(mark, Words) and mark.bold is bold]
        if signs:
            data = base64.b64encode(part_of(face, signs)).decode()
            rules.append(f'@font-face{{font-family:"Sheet";font-weight:{weight};'
                         f'src:url(data:font/ttf;base64,{data}) format("truetype")}}')  # fmt: skip
    return f"<style>{''.join(rules)}</style>"


def sheet_svg(drawing: Drawing, letters: bool = True) -> bytes:
    """The sheet at its true size. `letters`: with the faces inside; else who shows it has them as “Sheet”."""
    wide, high = drawing.width_mm, drawing.height_mm
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_n(wide)}mm" height="{_n(high)}mm" '
        f'viewBox="0 0 {_n(wide)} {_n(high)}" stroke-linecap="round" '
        f'stroke-linejoin="round"><title>{escape(shown(drawing.title))}</title>'
    ]
    if letters:
        out.append(_letters(drawing))
    out.append(f'<rect width="{_n(wide)}" height="{_n(high)}" fill="#ffffff"/>')
    for part, marks in groupby(drawing.marks, key=lambda mark: mark.part):
        out.append(f"<g data-part={quoteattr(part)}>")
        for layer, same in groupby(marks, key=lambda mark: PENS[mark.pen].layer if mark.pen else "Labels"):
            out.append(f"<g data-layer={quoteattr(layer)}>")
            out += [_mark(mark, high) for mark in same]
            out.append("</g>")
        out.append("</g>")
    out.append("</svg>\n")
    return "\n".join(out).encode()
