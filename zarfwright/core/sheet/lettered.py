"""The labels of a view: those put by hand where they were put, the others where there is room."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from zarfwright.core.sheet.blocks import Block, block_marks, block_of, fields_of, structure_side, style_for
from zarfwright.core.sheet.labels import LEADER_FROM_MM, Found, Wanted, place_labels
from zarfwright.core.sheet.marks import Box, Line, Mark, Point, Words
from zarfwright.core.sheet.pens import width_of
from zarfwright.core.sheet.prepare import Prepared
from zarfwright.core.sheet.rigged import Symbol, groups_of
from zarfwright.core.sheet.sheet import View
from zarfwright.core.show import Show
from zarfwright.core.space import Floats


@dataclass(frozen=True)
class Labelled:
    marks: list[Mark]
    not_placed: tuple[str, ...]
    boxes: dict[str, Box]


def _by_hand(block: Block, symbol: Symbol, view: View) -> Box | None:
    """Where a label lies that somebody put there."""
    off = next((view.labels[key] for key in block.ids if key in view.labels), None)
    if off is None:
        return None
    x, y = symbol.middle[0] + off[0], symbol.middle[1] + off[1]
    return Box(x - block.width / 2, y - block.height / 2, x + block.width / 2, y + block.height / 2)


def labelled(
    show: Show, ready: Prepared, symbols: Sequence[Symbol], scale: int, room: Box, soft: Floats, taken: Sequence[Box]
) -> Labelled:
    style = style_for(show, ready.view)
    fields = fields_of(style, ready.frame, scale, len(symbols))
    blocks: dict[str, tuple[Block, Symbol]] = {}
    fixed: dict[str, Found | None] = {}
    wanted = []
    for group in groups_of(symbols):
        block = block_of(show, style, fields, [symbol.one for symbol in group])
        if block is None:
            continue
        symbol = group[0]
        key = block.ids[0]
        blocks[key] = (block, symbol)
        box = _by_hand(block, symbol, ready.view)
        if box is not None:
            fixed[key] = Found(box, _leader(symbol, box))
        else:
            liked = structure_side(show, symbol.one, ready.frame)
            wanted.append(Wanted(key, block.width, block.height, symbol.middle, symbol.reach, liked))
    boxes = [Box(*symbol.area.bounds) for symbol in symbols] + [found.box for found in fixed.values() if found]
    found = {**place_labels(wanted, [*boxes, *taken], soft, room), **fixed}
    return _label_marks(found, blocks, ready.view.key)


def _leader(symbol: Symbol, box: Box) -> tuple[Point, Point] | None:
    """From the edge of a symbol to a label put by hand."""
    x, y = symbol.middle
    near = (min(max(x, box.x0), box.x1), min(max(y, box.y0), box.y1))
    far = math.dist(near, symbol.middle)
    if far - symbol.reach < LEADER_FROM_MM:
        return None
    share = symbol.reach * 0.8 / far
    return ((x + (near[0] - x) * share, y + (near[1] - y) * share), near)


def _label_marks(found: dict[str, Found | None], blocks: dict[str, tuple[Block, Symbol]], view: str) -> Labelled:
    marks: list[Mark] = []
    lost: list[str] = []
    boxes = {}
    for key in sorted(found):
        place, (block, _) = found[key], blocks[key]
        part = f"label/{view}/{key}"
        if place is None:
            lost += block.ids
            continue
        if place.leader is not None:
            marks.append(Line("leader", place.leader, part=part))
        marks += block_marks(block, place.box, part)
        boxes.update(dict.fromkeys(block.ids, place.box))
    return Labelled(marks, tuple(lost), boxes)


def words_box(mark: Words) -> Box:
    """Where a line of words lies, turned by quarters at most."""
    wide = width_of(mark.text, mark.size_mm, mark.bold)
    back = {"start": 0.0, "middle": wide / 2, "end": wide}[mark.anchor]
    turn = math.radians(mark.turn_deg)
    ends = [(along * math.cos(turn) - up * math.sin(turn), along * math.sin(turn) + up * math.cos(turn))
            for along in (-back, wide - back) for up in (0.0, mark.size_mm)]  # fmt: skip
    x, y = [mark.at[0] + end[0] for end in ends], [mark.at[1] + end[1] for end in ends]
    return Box(min(x), min(y), max(x), max(y))
