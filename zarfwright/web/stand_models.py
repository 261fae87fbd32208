"""Where things stand in a look, as it goes out."""

from __future__ import annotations

from pydantic import BaseModel

from zarfwright.web.show_models import MountOut, SolidOut


class StandQuery(BaseModel):
    driven: bool = True
    """With what drivers move; without it carriers alone are where the look has them."""


class LookStand(BaseModel):
    """What stands elsewhere in a look than it may just now."""

    solids: list[SolidOut]
    mounts: dict[str, MountOut]
