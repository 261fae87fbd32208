"""The faces that sheets are lettered in: their files, and what of them a page needs."""

from __future__ import annotations

import io
import unicodedata
from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import Any

FOLDER = Path(__file__).parent / "faces"
REGULAR, BOLD = "DejaVuSansCondensed", "DejaVuSansCondensed-Bold"


def file_of(face: str) -> Path:
    """The file of a face."""
    return FOLDER / f"{face}.ttf"


def register() -> None:
    """Make the faces known to reportlab."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    for face in (REGULAR, BOLD):
        if face not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(face, str(file_of(face))))


@cache
def _known(face: str) -> frozenset[int]:
    from fontTools.ttLib import TTFont

    return frozenset(TTFont(file_of(face)).getBestCmap())


def shown(words: str) -> str:
    """Words with what the faces have no letters for taken apart (a letter without its accent), else as a question mark;
    where lines end stays."""
    known = _known(REGULAR)

    def sign_of(sign: str) -> str:
        if sign == "\n" or ord(sign) in known:
            return sign
        bare = unicodedata.normalize("NFKD", sign)[0]
        return bare if ord(bare) in known else "?"

    return "".join(map(sign_of, words))


def part_of(face: str, signs: Iterable[str]) -> bytes:
    """A face with the letters that are needed and no others, as TrueType; the same letters give the same bytes."""
    from fontTools import subset
    from fontTools.ttLib import TTFont

    font: Any = TTFont(file_of(face), recalcTimestamp=False)
    options = subset.Options()
    options.hinting, options.layout_features, options.recalc_timestamp = False, [], False
    options.notdef_outline = True
    cutter = subset.Subsetter(options)
    cutter.populate(unicodes=sorted({ord(sign) for word in signs for sign in word} | {0x20, 0x3F}))
    cutter.subset(font)
    out = io.BytesIO()
    font.save(out)
    return out.getvalue()
