"""What a picture of a look is made of, as short words that change when it would look different.

Where carriers are belongs to the look, and what is held by hand is not in it: neither makes its picture old.
"""

from __future__ import annotations

import zlib
from dataclasses import fields

from zarfwright.core.kinds import KINDS, Body
from zarfwright.core.looks.shown import layers_of
from zarfwright.core.memo import Memo
from zarfwright.core.show import Item, Show

DRAWN = {"fixture", "type", "layer", *(name for name, kind in KINDS.items() if kind.solid)}
NOT_SEEN = {"name", "number", "unit", "purpose", "note", "circuit", "dimmer", "universe", "address", "breaks", "hands",
            "cells", "aim", "palettes", "colour", "locked"}  # fmt: skip
"""Fields that change nothing of a picture, of whatever they are."""
CARRIED = {"position", "turn_deg", "placement"}
"""Fields that change as a carrier moves."""


def _digest(body: Body, carried: str) -> int:
    left_out = NOT_SEEN | CARRIED if carried else NOT_SEEN
    seen = [getattr(body, field.name) for field in fields(body) if field.name not in left_out]
    return zlib.crc32(repr(seen).encode())


_digest_memo: Memo[int] = Memo(_digest)


def _stand(carriers: str, *drawn: Item) -> str:
    on = {*carriers.split()}
    words = (
        f"{item.id}{item.layer}{_digest_memo(item.body, 'carried' if item.parent in on else '')}" for item in drawn
    )
    return f"{zlib.crc32('/'.join(words).encode()):08x}"


_stand_memo: Memo[str] = Memo(_stand, 12)


def stand_of(show: Show) -> str:
    """All that is drawn, but for the looks themselves."""
    carriers = " ".join(sorted(item.id for item in show.of_kind("carrier")))
    # A file that is opened again may have its things in another order.
    drawn = sorted((item for item in show.items.values() if item.kind in DRAWN), key=lambda item: item.id)
    return _stand_memo(carriers, *drawn)


def prints_of(show: Show, look_id: str) -> str:
    """The look, all that it is made of and hangs on, and where it is seen from."""
    looks = layers_of(show, look_id)
    parts = [look_id, *(part for look in looks for part in look.parts)]
    hangs = [link for look in looks for link in look.links]
    views = [look.viewpoint for look in looks[-1:] if look.viewpoint]
    shown = [f"{key[:6]}{show.items[key].rev}" for key in (*parts, *hangs, *views) if key in show.items]
    return f"{zlib.crc32('/'.join(shown).encode()):08x}"
