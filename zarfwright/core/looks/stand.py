"""What a picture of a look is made of, as short words that change when it would look different."""

from __future__ import annotations

import zlib

from zarfwright.core.kinds import KINDS
from zarfwright.core.looks.shown import layers_of
from zarfwright.core.memo import Memo
from zarfwright.core.show import Item, Show

DRAWN = {"fixture", "type", "carrier", "layer", *(name for name, kind in KINDS.items() if kind.solid)}


def _stand(*drawn: Item) -> str:
    return f"{zlib.crc32('/'.join(f'{item.id}{item.rev}{item.layer}' for item in drawn).encode()):08x}"


_stand_memo = Memo(_stand, 12)


def stand_of(show: Show) -> str:
    """All that is drawn, but for the looks themselves."""
    return _stand_memo(*(item for item in show.items.values() if item.kind in DRAWN))


def prints_of(show: Show, look_id: str) -> str:
    """The look, all that it is made of and hangs on, and where it is seen from."""
    parts = [look_id, *(part for look in layers_of(show, look_id) for part in look.parts)]
    hangs = [link for look in layers_of(show, look_id) for link in look.links]
    views = [look.viewpoint for look in layers_of(show, look_id)[-1:] if look.viewpoint]
    shown = [f"{key[:6]}{show.items[key].rev}" for key in (*parts, *hangs, *views) if key in show.items]
    return f"{zlib.crc32('/'.join(shown).encode()):08x}"
